/** What the levels of truth and the bounces cost and give on this very frame, by trial renders. */
import { useEffect, useRef, useState } from "react";
import { developColours } from "#core/film/develop";
import { formatNumber } from "#core/document/quantities";
import type { SceneDocument } from "#core/document/schema";
import { atBounces, atLevel, BOUNCES, LEVELS, missing, trial, type Trial } from "#engine/trial";
import { useBench, useDocument } from "../context";

/** Samples a pixel of a trial. */
const SAMPLES = 16;

type Kind = "levels" | "bounces";
interface Found {
  kind: Kind;
  names: string[];
  trials: Trial[];
  doc: SceneDocument;
}

function time(seconds: number): string {
  return seconds < 90
    ? `${formatNumber(seconds, 2)} s`
    : seconds < 5400
      ? `${formatNumber(seconds / 60, 2)} min`
      : `${formatNumber(seconds / 3600, 2)} h`;
}

export function Comparison() {
  const { session, store } = useBench();
  const doc = useDocument();
  const [busy, setBusy] = useState<{ kind: Kind; done: number; all: number } | null>(null);
  const [found, setFound] = useState<Found | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const stopped = useRef(false);
  const run = async (kind: Kind): Promise<void> => {
    const names = kind === "levels" ? [...LEVELS] : BOUNCES.map(String);
    setProblem(null);
    setFound(null);
    stopped.current = false;
    setBusy({ kind, done: 0, all: names.length });
    try {
      const trials: Trial[] = [];
      const of = await session.lend(async (engine, d) => {
        for (const [i, name] of names.entries()) {
          if (stopped.current) break;
          const changed = kind === "levels" ? atLevel(d, LEVELS[i]!) : atBounces(d, Number(name));
          trials.push(await trial(engine, changed, SAMPLES));
          setBusy({ kind, done: i + 1, all: names.length });
        }
        return d;
      });
      if (trials.length > 1) setFound({ kind, names: names.slice(0, trials.length), trials, doc: of });
    } catch (error) {
      setProblem(`Not measured: ${(error as Error).message}.`);
    } finally {
      setBusy(null);
    }
  };
  const truth = found?.trials.at(-1);
  return (
    <div className="space-y-1 pt-1">
      <div className="flex gap-2">
        <button
          className="btn btn-xs btn-outline hair flex-1"
          disabled={busy !== null}
          title="Small renders of this frame at each level."
          onClick={() => void run("levels")}
        >
          Compare levels
        </button>
        <button
          className="btn btn-xs btn-outline hair flex-1"
          disabled={busy !== null}
          title="Small renders of this frame with 1 to 32 bounces in the air."
          onClick={() => void run("bounces")}
        >
          Compare bounces
        </button>
      </div>
      {busy && (
        <p role="status" className="flex items-center gap-2 text-xs quiet">
          <progress className="progress progress-primary h-1 flex-1" value={busy.done} max={busy.all} />
          {busy.done} of {busy.all}
          <button className="link" onClick={() => (stopped.current = true)}>
            Stop
          </button>
        </p>
      )}
      {problem && (
        <p role="alert" className="text-xs text-error">
          {problem}
        </p>
      )}
      {found && truth && (
        <table aria-label={found.kind === "levels" ? "Levels on this frame" : "Bounces on this frame"} className="figures w-full text-xs">
          <thead>
            <tr className="text-left quiet">
              <th className="font-normal">{found.kind === "levels" ? "level" : "bounces"}</th>
              <th className="font-normal" title="For this frame at its size and samples, on this machine.">
                time
              </th>
              <th className="font-normal" title={`Of a pixel, at ${SAMPLES} samples.`}>
                noise
              </th>
              <th className="font-normal" title="Light that the last line has and this has not, and its standard error.">
                misses
              </th>
              <th />
            </tr>
          </thead>
          <tbody>
            {found.trials.map((t, i) => {
              const m = missing(t, truth);
              const now =
                found.kind === "levels"
                  ? doc.render.level === found.names[i]
                  : doc.render.level === "full" && doc.render.airBounces === Number(found.names[i]);
              return (
                <tr key={found.names[i]} className={now ? "text-primary" : ""}>
                  <td>
                    <button
                      className="link link-hover"
                      title="Takes this one."
                      onClick={() =>
                        store
                          .getState()
                          .set((d) => (found.kind === "levels" ? atLevel(d, LEVELS[i]!) : atBounces(d, Number(found.names[i]))))
                      }
                    >
                      {found.names[i]}
                    </button>
                  </td>
                  <td>{time(t.seconds)}</td>
                  <td>{formatNumber(100 * t.noise, 2)} %</td>
                  <td>
                    {t === truth ? "" : `${formatNumber(100 * m.share, 2)} ± ${formatNumber(100 * m.error, 1)} %`}
                    {found.kind === "bounces" && <Bar share={truth.mean > 0 ? t.mean / truth.mean : 0} />}
                  </td>
                  <td className="w-16 py-0.5">
                    {found.kind === "levels" && <Thumb trial={t} doc={found.doc} against={t === truth ? null : truth} />}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </div>
  );
}

/** Brightness against that of the most bounces. */
function Bar({ share }: { share: number }) {
  return (
    <span className="block h-1 w-full bg-base-300">
      <span className="block h-full bg-primary" style={{ width: `${100 * Math.max(0, Math.min(1, share))}%` }} />
    </span>
  );
}

/** The trial's picture; resting on it shows how far it is from the truth. */
function Thumb({ trial: t, doc, against }: { trial: Trial; doc: SceneDocument; against: Trial | null }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [difference, setDifference] = useState(false);
  useEffect(() => {
    const c = canvas.current!;
    c.width = t.width;
    c.height = t.height;
    const image = new ImageData(t.width, t.height);
    const shown = difference && against ? t.beauty.map((v, i) => Math.abs(v - against.beauty[i]!)) : t.beauty;
    developColours(shown, doc.film, image.data);
    c.getContext("2d")!.putImageData(image, 0, 0);
  }, [t, doc, against, difference]);
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={difference ? "Difference from full" : "Trial picture"}
      title={against ? "Resting here shows the difference from the last line." : ""}
      className="w-16"
      onPointerEnter={() => setDifference(true)}
      onPointerLeave={() => setDifference(false)}
    />
  );
}
