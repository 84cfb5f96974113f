/** Under the drawings: how far the live picture is, and what it took. */
import { useStore } from "zustand";
import { durationText, formatNumber } from "#core/document/quantities";
import type { Autosave } from "./model/autosave";
import { useBench, useSession, useView } from "./model/context";
import { percent } from "./ProofStrip";

export function StatusLine({ autosave }: { autosave: Autosave }) {
  const { session, view } = useBench();
  const s = useSession((x) => x);
  const clear = useView((v) => v.clear);
  const pointer = useStore(view.pointer, (p) => p.distance);
  const doc = useBench().store((x) => x.document);
  const saved = useStore(autosave.state);
  const share = s.progress?.share ?? 0;
  return (
    <footer className="border-t hair bg-base-100">
      <div className="h-0.5" role="progressbar" aria-label="Render progress" aria-valuenow={Math.round(share * 100)}>
        <div className="h-full bg-primary/70" style={{ width: `${share * 100}%` }} />
      </div>
      <div className="flex min-h-9 flex-wrap items-center gap-x-5 gap-y-1 px-3 py-1 text-sm">
        <span data-testid="phase" data-phase={s.phase} data-first-picture={s.firstPicture ?? ""} className="w-20">
          {
            { starting: "Starting", building: "Building", rendering: "Rendering", paused: "Paused", done: "Done", failed: "Failed" }[
              s.phase
            ]
          }
        </span>
        <span className="figures quiet" title="Samples per pixel so far, and how many the picture will get.">
          {Math.floor(s.statistics?.samples ?? 0)} of {doc.render.samples} samples
        </span>
        <span className="figures quiet" title="Standard error of a pixel as a share of its brightness.">
          noise {percent(s.statistics?.noise ?? null)}
        </span>
        <span className="figures quiet">
          {s.progress ? durationText(s.progress.seconds) : ""}
          {s.phase === "rendering" && s.progress?.secondsLeft != null ? `, ${durationText(s.progress.secondsLeft)} left` : ""}
        </span>
        <span className="figures w-24 quiet" title="Distance from the lens to what is under the pointer.">
          {pointer === null ? "" : pointer === Infinity ? "background" : `${formatNumber(pointer, 3)} m away`}
        </span>
        <button
          className={`btn btn-xs ${clear ? "btn-primary" : "btn-outline hair"}`}
          aria-pressed={clear}
          title="The same frame without any medium. C"
          onClick={() => view.setState({ clear: !clear })}
        >
          Clear air
        </button>
        <button
          className="btn btn-xs btn-outline hair"
          disabled={s.phase !== "rendering" && s.phase !== "paused"}
          title="Pauses or resumes rendering. P"
          onClick={() => (s.phase === "paused" ? session.resume() : session.pause())}
        >
          {s.phase === "paused" ? "Resume" : "Pause"}
        </button>
        <span className="ml-auto flex items-center gap-4 text-xs quiet">
          {s.workers > 0 && !s.shared && (
            <span
              role="status"
              title="This page is not cross-origin isolated, so that the render workers cannot share memory: each keeps its own copy of the scene, and pictures take longer."
            >
              without shared memory: slower
            </span>
          )}
          <span
            role="status"
            data-testid="saved"
            data-state={saved.state}
            className={saved.state === "saved" ? "" : saved.state === "waiting" || saved.state === "saving" ? "" : "text-warning"}
          >
            {saved.message}
            {saved.state === "conflict" && (
              <>
                {" "}
                <button className="link" onClick={() => void autosave.takeOver()}>
                  Overwrite
                </button>{" "}
                <button className="link" onClick={() => autosave.discard()}>
                  Load the other version
                </button>
              </>
            )}
          </span>
          <button className="link link-hover" onClick={() => view.setState({ keys: true })}>
            Keys
          </button>
        </span>
      </div>
    </footer>
  );
}
