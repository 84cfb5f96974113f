/** Glare of bright places: light that lens and eye spread. */
import { GlareFields } from "../../../shared/finish/GlareFields";
import { DocumentGroup } from "../Group";
import { useFinish } from "./use-finish";

export function Glare() {
  return (
    <DocumentGroup id="glare">
      <GlareFields {...useFinish()} />
    </DocumentGroup>
  );
}
