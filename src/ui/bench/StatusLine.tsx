/** Under the drawings: how far the live picture is, and what it took. */
import { useStore } from "zustand";
import { durationText } from "#core/document/quantities";
import { useBench, useDocument, useSession, useView } from "./model/context";
import { percent } from "./percent";
import { useLengths } from "../shared/units";

export function StatusLine() {
  const { session, view } = useBench();
  const lengths = useLengths();
  const s = useSession((x) => x);
  const clear = useView((v) => v.clear);
  const clean = useView((v) => v.clean);
  const pointer = useStore(view.pointer, (p) => p.distance);
  const doc = useDocument();
  const share = s.progress?.share ?? 0;
  return (
    <footer className="border-t hair bg-base-100">
      <div className="h-0.5" role="progressbar" aria-label="Render progress" aria-valuenow={Math.round(share * 100)}>
        <div className="h-full bg-primary/70" style={{ width: `${share * 100}%` }} />
      </div>
      {/* of one height whatever it says: another would give the picture another size, and begin it anew */}
      <div className="flex h-9 items-center gap-x-4 overflow-hidden px-3 text-sm whitespace-nowrap">
        <span data-testid="phase" data-phase={s.phase} data-cleaning={s.cleaning ? "yes" : "no"} data-first-picture={s.firstPicture ?? ""}>
          {
            { starting: "Starting", building: "Building", rendering: "Rendering", paused: s.message, done: "Done", failed: "Failed" }[
              s.phase
            ]
          }
        </span>
        <span className="figures quiet" title="Samples per pixel so far, and how many the picture will get.">
          {Math.floor(s.statistics?.samples ?? 0)} of {doc.render.samples} samples
        </span>
        <span
          className="figures quiet"
          data-testid="noise"
          title="Standard error of a pixel as a share of its brightness: as rendered, and of the cleaned picture as its two halves let it be estimated."
        >
          noise {percent(s.statistics?.noise ?? null)}
          {clean && s.statistics?.cleanedNoise != null && `, cleaned ${percent(s.statistics.cleanedNoise)}`}
        </span>
        <TimeToThreshold />
        <span className="figures quiet">
          {s.progress ? durationText(s.progress.seconds) : ""}
          {s.phase === "rendering" && s.progress?.secondsLeft != null ? `, ${durationText(s.progress.secondsLeft)} left` : ""}
        </span>
        <span className="figures quiet" title="Distance from the lens to what is under the pointer.">
          {pointer === null ? "" : pointer === Infinity ? "background" : `${lengths.exact(pointer, 3)} away`}
        </span>
        <span className="ml-auto" />
        <button
          className={`btn btn-xs ${clean ? "btn-primary" : "btn-outline hair"}`}
          aria-pressed={clean}
          title="Takes noise out of the picture as it is shown; the rendered light is kept beside it. At few samples fine texture of shafts, distant bars and glints can go with it. N; hold Q to see it as rendered"
          onClick={() => view.setState({ clean: !clean })}
        >
          Clean
        </button>
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
      </div>
    </footer>
  );
}

/** Seconds until the noise of what is shown comes to the document's threshold: the error falls with the root of the samples. */
function TimeToThreshold() {
  const threshold = useDocument((d) => d.render.noiseThreshold);
  const statistics = useSession((x) => x.statistics);
  const seconds = useSession((x) => x.progress?.seconds ?? null);
  const rendering = useSession((x) => x.phase === "rendering");
  const clean = useView((v) => v.clean);
  const of = useDocument((d) => d.render.thresholdOf);
  const noise = (clean || of === "cleaned" ? statistics?.cleanedNoise : null) ?? statistics?.noise ?? null;
  if (threshold === null || noise === null || seconds === null || !rendering) return null;
  const left = seconds * Math.max(0, (noise / threshold) ** 2 - 1);
  return (
    <span className="figures quiet" title="Estimated from the noise now, which falls with the root of the time.">
      {left > 0 ? `${percent(threshold)} in about ${durationText(left)}` : `below ${percent(threshold)}`}
    </span>
  );
}
