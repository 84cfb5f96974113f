/** The line above the bench: name of the project, the way back to the shelf, drawings, undo and redo. */
import { Redo2, Undo2 } from "lucide-react";
import { useEffect } from "react";
import { useStore } from "zustand";
import { RendersLink } from "../shared/RendersLink";
import { SaveStanding } from "../shared/SaveStanding";
import { TitleField } from "../shared/TitleField";
import type { Autosave } from "./model/autosave";
import { useBench, useDocument, useSession, useView } from "./model/context";

/** Name of the project, the way back to the shelf, undo and redo. */
export function Header({ autosave }: { autosave: Autosave }) {
  const { store, view } = useBench();
  const below = useView((s) => s.below);
  const title = useDocument((d) => d.title);
  const past = useStore(store.temporal, (t) => t.pastStates.length);
  const future = useStore(store.temporal, (t) => t.futureStates.length);
  useEffect(() => {
    document.title = `${title} · Fumarium`;
  }, [title]);
  return (
    <header className="flex min-h-9 flex-wrap items-center gap-3 border-b hair bg-base-100 px-3">
      <a href="/" className="text-sm text-primary" title="Back to the shelf">
        Fumarium
      </a>
      <h1 className="sr-only">{title}</h1>
      <TitleField label="Title of the project" title={title} onTitle={(next) => store.getState().set((d) => ({ ...d, title: next }))} />
      <Standing autosave={autosave} />
      <span className="flex gap-1">
        <button
          className="btn btn-xs btn-ghost"
          title="Find a control, a command, a light, a medium or an object by its name. /"
          onClick={() => view.setState({ finding: true })}
        >
          Find
        </button>
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
        <button
          className={`btn btn-xs ${below === "final" ? "btn-primary" : "btn-ghost"}`}
          aria-pressed={below === "final"}
          title="Orders a final, which is rendered in the background. Shift R"
          onClick={() => view.toggleBelow("final")}
        >
          Render
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

/** Whether all is saved, and what does not work as it should. */
function Standing({ autosave }: { autosave: Autosave }) {
  const { view } = useBench();
  const { cleaningProblem, workers, shared } = useSession((s) => s);
  return (
    <span className="ml-auto flex items-center gap-4 text-xs quiet">
      {cleaningProblem && (
        <span role="status" className="text-warning" title={cleaningProblem}>
          shown as rendered: the clean-up failed
        </span>
      )}
      {workers > 0 && !shared && (
        <span
          role="status"
          title="This page is not cross-origin isolated, so that the render workers cannot share memory: each keeps its own copy of the scene, and pictures take longer."
        >
          without shared memory: slower
        </span>
      )}
      <SaveStanding saver={autosave} />
      <RendersLink bench />
      <button className="link link-hover" onClick={() => view.setState({ keys: true })}>
        Keys
      </button>
    </span>
  );
}
