/** Takes files that are dropped anywhere on the bench; says so while they hover. */
import { useEffect, useState } from "react";
import { useBench } from "../model/context";
import { droppedFiles } from "../model/incoming";

export function DropZone() {
  const { incoming, view } = useBench();
  const [over, setOver] = useState(false);
  useEffect(() => {
    // enter and leave come for every element in between: counted, they tell when the window is left
    let depth = 0;
    const holds = (e: DragEvent): boolean => e.dataTransfer?.types.includes("Files") ?? false;
    const enter = (e: DragEvent): void => {
      if (!holds(e)) return;
      depth++;
      setOver(true);
    };
    const leave = (e: DragEvent): void => {
      if (!holds(e)) return;
      depth = Math.max(0, depth - 1);
      if (depth === 0) setOver(false);
    };
    const hover = (e: DragEvent): void => {
      if (holds(e)) e.preventDefault();
    };
    const drop = (e: DragEvent): void => {
      if (!holds(e) || !e.dataTransfer) return;
      e.preventDefault();
      depth = 0;
      setOver(false);
      view.setState({ open: "set" });
      droppedFiles(e.dataTransfer)
        .then((files) => incoming.read(files))
        .catch((error: unknown) => incoming.setState({ phase: "failed", message: (error as Error).message }, true));
    };
    const on = [
      ["dragenter", enter],
      ["dragleave", leave],
      ["dragover", hover],
      ["drop", drop],
    ] as const;
    for (const [name, f] of on) window.addEventListener(name, f);
    return () => {
      for (const [name, f] of on) window.removeEventListener(name, f);
    };
  }, [incoming, view]);
  if (!over) return null;
  return (
    <div
      className="pointer-events-none fixed inset-3 z-50 flex items-center justify-center border-2 border-dashed border-primary bg-base-200/80"
      role="status"
    >
      <p className="text-center">
        <span className="text-lg font-semibold">Drop to import the set</span>
        <br />
        <span className="text-sm quiet">glTF, OBJ or OpenUSD with its files, a folder of them, or a zip archive</span>
      </p>
    </div>
  );
}
