/** What the levels of truth and the bounces cost and give on this very frame, by trial renders. */
import { useRef, useState } from "react";
import { durationText, formatNumber } from "#core/document/quantities";
import type { SceneDocument } from "#core/document/schema";
import { atBounces, atLevel, atStep, BOUNCES, LEVELS, missing, stepsAbout, trial, type Trial } from "#engine/trial";
import { useBench, useDocument } from "../../model/context";
import { TrialPicture } from "../../drawings/budget/TrialPicture";
import { BounceChart } from "./BounceChart";
import { useLengths } from "../../../shared/units";
import type { LengthWords } from "#core/document/units";

/** Samples a pixel of a trial; more where a small difference is the question. */
const SAMPLES = { levels: 16, bounces: 16, steps: 48 } as const;
/** Pixels along the longer side of a trial whose picture is not shown. */
const SMALL = 48;
const WORDS = {
  levels: { all: "Levels on this frame", one: "level" },
  bounces: { all: "Bounces on this frame", one: "bounces" },
  steps: { all: "Steps on this frame", one: "step" },
} as const;

type Kind = keyof typeof SAMPLES;
/** One setting to be tried. */
interface Case {
  name: string;
  apply(doc: SceneDocument): SceneDocument;
}

/** Settings of a kind to try, the truest last. @param step usual step size, m */
function casesOf(kind: Kind, step: number, lengths: LengthWords): Case[] {
  if (kind === "levels") return LEVELS.map((level) => ({ name: level, apply: (d) => atLevel(d, level) }));
  if (kind === "bounces") return BOUNCES.map((n) => ({ name: String(n), apply: (d) => atBounces(d, n) }));
  const steps = stepsAbout(step).map((s): Case => ({ name: lengths.rough(s), apply: (d) => atStep(d, s) }));
  return [...steps, { name: "tracking", apply: (d) => atStep(d, null) }];
}

interface Found {
  kind: Kind;
  cases: Case[];
  names: string[];
  trials: Trial[];
  doc: SceneDocument;
}

/** @param step usual step size where something is stepped through, m; null where nothing is */
export function LevelComparison({ step }: { step: number | null }) {
  const { session, store } = useBench();
  const lengths = useLengths();
  const doc = useDocument();
  const [busy, setBusy] = useState<{ kind: Kind; done: number; all: number } | null>(null);
  const [found, setFound] = useState<Found | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const stopped = useRef(false);
  const run = async (kind: Kind): Promise<void> => {
    const cases = casesOf(kind, step ?? 1, lengths);
    setProblem(null);
    setFound(null);
    stopped.current = false;
    setBusy({ kind, done: 0, all: cases.length });
    try {
      const trials: Trial[] = [];
      const of = await session.withExclusiveEngine(async (engine, d) => {
        for (const [i, { apply }] of cases.entries()) {
          if (stopped.current) break;
          trials.push(await trial(engine, apply(d), SAMPLES[kind], ...(kind === "steps" ? [SMALL] : [])));
          setBusy({ kind, done: i + 1, all: cases.length });
        }
        return d;
      });
      const tried = cases.slice(0, trials.length);
      if (trials.length > 1) setFound({ kind, cases: tried, names: tried.map((c) => c.name), trials, doc: of });
    } catch (error) {
      setProblem(`Not measured: ${(error as Error).message}.`);
    } finally {
      setBusy(null);
    }
  };
  const truth = found?.trials.at(-1);
  return (
    <div className="space-y-1 pt-1">
      <div className="flex items-center gap-2">
        <span className="text-sm quiet">Compare</span>
        <button
          className="btn btn-xs btn-outline hair flex-1"
          aria-label="Compare levels"
          disabled={busy !== null}
          title="Small renders of this frame at each level."
          onClick={() => void run("levels")}
        >
          levels
        </button>
        <button
          className="btn btn-xs btn-outline hair flex-1"
          aria-label="Compare bounces"
          disabled={busy !== null}
          title="Small renders of this frame with 1 to 32 bounces in the air."
          onClick={() => void run("bounces")}
        >
          bounces
        </button>
        {step !== null && (
          <button
            className="btn btn-xs btn-outline hair flex-1"
            aria-label="Compare steps"
            disabled={busy !== null}
            title="Small renders of this frame at several step sizes, against tracking, which has no bias."
            onClick={() => void run("steps")}
          >
            steps
          </button>
        )}
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
        <table aria-label={WORDS[found.kind].all} className="figures w-full text-xs">
          <thead>
            <tr className="text-left quiet [&>th]:pr-1.5">
              <th className="font-normal">{WORDS[found.kind].one}</th>
              <th className="font-normal" title="For this frame at its size and samples, on this machine.">
                time
              </th>
              <th className="font-normal" title={`Of a pixel, at ${SAMPLES[found.kind]} samples.`}>
                noise
              </th>
              <th className="font-normal" title="Mean luminance that the last line has and this one lacks, and its standard error.">
                energy difference
              </th>
              <th />
            </tr>
          </thead>
          <tbody>
            {found.trials.map((t, i) => {
              const m = missing(t, truth);
              const { name, apply } = found.cases[i]!;
              const now = Object.entries(apply(doc).render).every(([k, v]) => doc.render[k as keyof typeof doc.render] === v);
              return (
                <tr key={name} className={now ? "text-primary" : ""}>
                  <td>
                    <button className="link link-hover" title="Takes this one." onClick={() => store.getState().set(apply)}>
                      {name}
                    </button>
                  </td>
                  <td>{durationText(t.seconds)}</td>
                  <td>{formatNumber(100 * t.noise, 2)} %</td>
                  <td>{t === truth ? "" : `${formatNumber(100 * m.share, 2)} ± ${formatNumber(100 * m.error, 1)} %`}</td>
                  <td className="w-16 py-0.5">
                    {found.kind === "levels" && (
                      <TrialPicture
                        picture={t}
                        doc={found.doc}
                        against={t === truth ? null : truth}
                        from="the last line"
                        label="Trial picture"
                      />
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      {found?.kind === "bounces" && <BounceChart names={found.names} trials={found.trials} />}
    </div>
  );
}
