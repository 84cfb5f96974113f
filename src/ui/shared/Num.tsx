/** A number of the document: a drag is one step of undo. */
import { useContext } from "react";
import { GestureContext } from "./gesture";
import { NumberField, type NumberFieldProps } from "./NumberField";

export function Num(p: Omit<NumberFieldProps, "onGesture">) {
  return <NumberField {...p} onGesture={useContext(GestureContext)} />;
}
