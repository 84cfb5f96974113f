/** Time of the picture: what drifts, changes or runs does so by it. */
import { useBench, useDocument } from "../model/context";
import { Num } from "../../shared/Num";

export function TimeField() {
  const { store } = useBench();
  const doc = useDocument();
  return (
    <Num
      label="Time"
      unit="s"
      value={doc.time}
      min={-1e6}
      max={1e6}
      useful={[0, 10]}
      step={0.1}
      reset={0}
      tooltip="Moment of the picture: air drifts by it, sequences of images run by it, and lenses and lights of animated files move by it."
      onChange={(time) => store.getState().set((d) => ({ ...d, time }))}
    />
  );
}
