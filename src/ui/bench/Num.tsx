/** A number of the document: a drag is one step of undo. */
import { NumberField, type NumberFieldProps } from "../shared/NumberField";
import { useBench } from "./context";

export function Num(p: Omit<NumberFieldProps, "onGesture">) {
  const { store } = useBench();
  return <NumberField {...p} onGesture={(a) => store.gesture(a)} />;
}
