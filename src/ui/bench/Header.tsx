/** The line above the bench: name of the project, the way back to the shelf, drawings, undo and redo. */
import { Redo2, Undo2 } from "lucide-react";
import { useEffect, useState } from "react";
import { useStore } from "zustand";
import { useBench, useView } from "./model/context";

/** Name of the project, the way back to the shelf, undo and redo. */
export function Header() {
  const { store, view } = useBench();
  const below = useView((s) => s.below);
  const title = store((s) => s.document.title);
  const past = useStore(store.temporal, (t) => t.pastStates.length);
  const future = useStore(store.temporal, (t) => t.futureStates.length);
  const [text, setText] = useState<string | null>(null);
  useEffect(() => {
    document.title = `${title} · Fumarium`;
  }, [title]);
  return (
    <header className="flex h-9 items-center gap-3 border-b hair bg-base-100 px-3">
      <a href="/" className="text-sm text-primary" title="Back to the shelf">
        Fumarium
      </a>
      <input
        aria-label="Title of the project"
        className="w-80 bg-transparent px-1 text-sm font-semibold outline-none focus:bg-base-200"
        maxLength={200}
        value={text ?? title}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") setText(null);
        }}
        onBlur={() => {
          const next = text?.trim();
          setText(null);
          if (next && next !== title) store.getState().set((d) => ({ ...d, title: next }));
        }}
      />
      <span className="ml-auto flex gap-1">
        <button
          className={`btn btn-xs ${below === "section" ? "btn-primary" : "btn-ghost"}`}
          aria-pressed={below === "section"}
          title="A vertical cut through the air along the line of sight. A"
          onClick={() => view.toggleBelow("section")}
        >
          Section
        </button>
        <button
          className={`btn btn-xs ${below === "space" ? "btn-primary" : "btn-ghost"}`}
          aria-pressed={below === "space"}
          title="The set in 3D, with handles on objects, lights and media. X"
          onClick={() => view.toggleBelow("space")}
        >
          Space
        </button>
        <button className="btn btn-xs btn-ghost" disabled={past === 0} aria-label="Undo" title="Undo. Ctrl Z" onClick={() => store.undo()}>
          <Undo2 aria-hidden className="size-3.5" />
        </button>
        <button
          className="btn btn-xs btn-ghost"
          disabled={future === 0}
          aria-label="Redo"
          title="Redo. Ctrl Shift Z"
          onClick={() => store.redo()}
        >
          <Redo2 aria-hidden className="size-3.5" />
        </button>
      </span>
    </header>
  );
}
