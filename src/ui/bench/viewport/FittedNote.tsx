/** Says that pictures which are compared show another frame or are seen by another lens: they are fitted to the frame that is looked at. */
import { useStore } from "zustand";
import type { SceneDocument } from "#core/document/schema";
import { useBench, useDocument } from "../model/context";
import type { Shown } from "../model/view";

/** What two documents' frames have otherwise, in words; null where a point of the one is the same point of the other. */
export function otherFrame(a: SceneDocument, b: SceneDocument): string | null {
  const shape = ({ film: { size } }: SceneDocument): number => size[0] / size[1];
  const { focus: _, aperture: __, ...one } = a.camera;
  const { focus: ___, aperture: ____, ...other } = b.camera;
  const said = [
    Math.abs(shape(a) / shape(b) - 1) > 0.005 ? "a frame of another shape" : null,
    JSON.stringify(one) !== JSON.stringify(other) ? "another lens" : null,
  ].filter((v) => v !== null);
  return said.length > 0 ? said.join(", ") : null;
}

export function FittedNote({ front, others }: { front: Shown; others: readonly Shown[] }) {
  const { proofs } = useBench();
  const documents = useStore(proofs.state, (s) => s.documents);
  const live = useDocument();
  const of = (what: Shown): SceneDocument | undefined => (what === "live" ? live : documents[what]);
  const base = of(front);
  const said = new Set(others.flatMap((what) => (base && of(what) ? (otherFrame(base, of(what)!) ?? []) : [])));
  if (said.size === 0) return null;
  return (
    <p role="status" className="absolute right-2 bottom-2 max-w-[60%] bg-base-200/85 px-2 text-xs">
      {[...said].join("; ")}: fitted to this frame
    </p>
  );
}
