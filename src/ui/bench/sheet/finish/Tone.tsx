/** What is done to the picture after exposure and white balance: contrast, levels, highlights, saturation, curves. */
import { ToneFields } from "../../../shared/finish/ToneFields";
import { DocumentGroup } from "../Group";
import { useFinish } from "./use-finish";

export function Tone() {
  return (
    <DocumentGroup id="tone">
      <ToneFields {...useFinish()} />
    </DocumentGroup>
  );
}
