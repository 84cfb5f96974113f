/** fumarium forecast: what a frame will cost before it is rendered. */
import { availableParallelism, loadavg } from "node:os";
import { fallOf, forecastOf, type Forecast } from "#core/budget/forecast";
import { machinesFor, onFleet } from "#core/budget/fleet";
import { kept, onMachine } from "#core/budget/live";
import { judgesCleaned, targetOf } from "#core/budget/target";
import { secondsAllowed } from "#core/document/budget";
import { durationText, formatNumber } from "#core/document/quantities";
import { pixelBytes } from "#core/film/film-bytes";
import type { Strengths } from "#core/clean/cleaner";
import { InputError } from "#core/errors";
import { compileScene } from "#core/scene/compile";
import { CleanPool } from "#engine/clean-pool";
import { RenderEngine } from "#engine/engine";
import { lookAtFrame } from "#engine/frame-look";
import { nodeCleanHost } from "#engine/node-clean";
import { nodeHost } from "#engine/node-host";
import { judgements } from "#engine/settled";
import { processorSeconds } from "#finals/frame";
import { frameCount, frameTime, type FrameRange } from "#finals/numbers";
import { loadDocument, loadResources } from "./load";
import { overridden, type Overrides, type RenderOptions } from "./render";

export interface ForecastOptions extends Overrides, Pick<RenderOptions, "document" | "buildDirectory"> {
  frames?: { range: FrameRange; fps: number };
  /** Strengths of the clean-up at the end, or those of the document; without them there is none. */
  clean?: Strengths | "document";
  /** Seconds that a frame may take; those of the document's budget where it is not said. */
  budget?: number;
  /** Seconds of looking. */
  look: number;
  /** Threads of the machine that renders, and how many times as fast one of them is as one here. */
  threads: number;
  speed: number;
  /** Workers, each with such a machine; without them that one machine renders. */
  workers?: number;
  /** Seconds in which all frames are to be done. */
  deadline?: number;
  progress?: (line: string) => void;
}

/** Seconds with the bounds between which they lie in eight cases of ten. */
export interface Span {
  seconds: number;
  low: number;
  high: number;
}
export interface ForecastReport {
  document: string;
  width: number;
  height: number;
  /** Samples a pixel, mean, and the share of pixels that will not come below the threshold. */
  samples: number;
  unreached: number;
  /** Processor seconds of a frame here: its samples; reading and building the scene; its clean-up. */
  work: Span & { scene: number; clean: number };
  /** Seconds of a frame on the machine that renders, and of all frames. */
  frame: Span;
  frames: number;
  all: Span;
  threads: number;
  speed: number;
  /** With so many workers: all frames. */
  fleet: { workers: number; all: Span } | null;
  /** Workers that all frames need to be done in so many seconds; null where no number of them is enough. */
  deadline: { seconds: number; workers: number | null } | null;
  /** Seconds that a frame may take, and whether it will: `maybe` where they lie between its bounds. */
  budget: { seconds: number; kept: "yes" | "maybe" | "no" } | null;
  look: { width: number; height: number; frames: number };
  /** Threads of other work that wanted this machine's cores as it began, mean of a minute. */
  load: number;
}

/** Share of the cores from which on other work is said to disturb. */
const BUSY = 0.6;

/** What there is to say of other work on this machine; none where it is quiet. */
export function loadText(load: number): string[] {
  return load > BUSY * availableParallelism()
    ? [`this machine is busy with other work (load ${formatNumber(load, 2)} of ${availableParallelism()} cores): times may read high`]
    : [];
}

/** Frames that are looked at where there are several: the first, the middle and the last. */
const LOOKED = [0, 0.5, 1];

const map = (of: Span, f: (seconds: number) => number): Span => ({ seconds: f(of.seconds), low: f(of.low), high: f(of.high) });

/** @throws InputError */
export async function forecastCommand(o: ForecastOptions): Promise<ForecastReport> {
  const own = await loadDocument(o.document);
  const load = loadavg()[0] ?? 0;
  const count = o.frames ? frameCount(o.frames.range) : 1;
  const doc = overridden(own, o);
  const { frames } = o;
  const times = frames
    ? [...new Set(LOOKED.map((k) => Math.round(k * (count - 1))))].map((i) =>
        frameTime(doc.time, frames.range.from + i * frames.range.step, frames.fps),
      )
    : [doc.time];
  const engine = await RenderEngine.create(nodeHost(o.buildDirectory, availableParallelism()));
  const pool = new CleanPool(nodeCleanHost(o.buildDirectory, availableParallelism()));
  const [width, height] = doc.film.size;
  const cleans = o.clean !== undefined;
  const cleanUp = o.clean === undefined || o.clean === "document" ? doc.film.cleanUp : o.clean;
  const allowed = o.budget ?? secondsAllowed(doc.budget.limit, new Date());
  try {
    const looked: { forecast: Forecast; start: number; scene: number; clean: number; size: [number, number] }[] = [];
    for (const [i, time] of times.entries()) {
      o.progress?.(`looking at ${times.length > 1 ? `frame ${i + 1} of ${times.length}` : "the frame"}`);
      const before = processorSeconds();
      const asked = overridden(own, { ...o, at: time });
      const moment = { ...asked, film: { ...asked.film, cleanUp } };
      engine.setGeometry(compileScene(moment, await loadResources(moment, o.document)));
      const scene = processorSeconds() - before;
      const target = targetOf(moment);
      const cleaned = judgesCleaned(moment);
      const look = await lookAtFrame(
        engine,
        moment,
        o.look / times.length,
        processorSeconds,
        cleaned ? "cleaned" : "rendered",
        cleans || cleaned ? pool : null,
      );
      const forecast = forecastOf(look.blocks, look.rate, {
        ...target,
        falls: cleaned ? fallOf(look.few, look.blocks) : 1,
      });
      // a cleaned picture is judged again and again while it is rendered
      const cleanings = (cleans ? 1 : 0) + (cleaned ? judgements(target.minSamples, target.samples) : 0);
      looked.push({
        forecast,
        start: look.start,
        scene,
        clean: cleanings * look.cleaning * target.pixels,
        size: [look.width, look.height],
      });
    }
    const mean = (of: (l: (typeof looked)[number]) => number): number => looked.reduce((s, l) => s + of(l), 0) / looked.length;
    const fixed = mean((l) => l.scene + l.start + l.clean);
    const span = (of: "seconds" | "low" | "high"): number => mean((l) => l.forecast[of]) + fixed;
    const work: Span = { seconds: span("seconds"), low: span("low"), high: span("high") };
    const scene = mean((l) => l.scene);
    const lookedAt = looked[0]?.size ?? [0, 0];
    const clean = mean((l) => l.clean);
    const spread = {
      price: work,
      besides: { scene, clean },
      pixels: width * height,
      pixelBytes: pixelBytes(doc),
      frames: count,
      server: availableParallelism(),
    };
    const { workers, deadline } = o;
    const frame = onMachine(work, scene, o.threads, o.speed);
    return {
      document: o.document,
      ...{ width, height, samples: mean((l) => l.forecast.samples), unreached: mean((l) => l.forecast.unreached) },
      work: { ...work, scene, clean },
      fleet:
        workers === undefined ? null : { workers, all: onFleet(spread, { machines: workers, threads: workers * o.threads * o.speed }) },
      deadline: deadline === undefined ? null : { seconds: deadline, workers: machinesFor(deadline, spread, o.threads * o.speed) },
      ...{ frame, frames: count, all: map(frame, (s) => s * count), threads: o.threads, speed: o.speed },
      budget: allowed === null ? null : { seconds: allowed, kept: kept(allowed, frame) },
      ...{ look: { width: lookedAt[0], height: lookedAt[1], frames: looked.length }, load },
    };
  } finally {
    pool.dispose();
    engine.dispose();
  }
}

const workersText = (count: number): string => `${count} worker${count === 1 ? "" : "s"}`;
const spanText = ({ seconds, low, high }: Span): string => `${durationText(seconds)} (${durationText(low)} to ${durationText(high)})`;

/** A report in lines. */
export function forecastText(r: ForecastReport): string[] {
  const machine = `${r.threads} thread${r.threads === 1 ? "" : "s"}${r.speed === 1 ? "" : `, each ×${formatNumber(r.speed, 3)} as fast as here`}`;
  return [
    `${r.document}: ${r.width} × ${r.height}, about ${formatNumber(r.samples, 3)} samples a pixel`,
    `a frame takes ${spanText(r.frame)} on ${machine}; ${spanText(r.work)} of processor time, ${durationText(r.work.scene)} of it to build the scene${r.work.clean > 0 ? `, ${durationText(r.work.clean)} to clean it` : ""}`,
    ...(r.frames > 1 ? [`${r.frames} frames take ${spanText(r.all)}, by ${r.look.frames} of them`] : []),
    ...(r.fleet
      ? [
          `with ${workersText(r.fleet.workers)} of such machines: ${spanText(r.fleet.all)} for ${r.frames === 1 ? "it" : `all ${r.frames}`}, cleaned by this machine`,
        ]
      : []),
    ...(r.deadline
      ? [
          r.deadline.workers === null
            ? `no number of workers has ${r.frames === 1 ? "it" : `all ${r.frames}`} done in ${durationText(r.deadline.seconds)}: the scene is built and frames are cleaned one after the other`
            : `${workersText(r.deadline.workers)} of such machines ${r.deadline.workers === 1 ? "has" : "have"} ${r.frames === 1 ? "it" : `all ${r.frames}`} done in ${durationText(r.deadline.seconds)}`,
        ]
      : []),
    ...loadText(r.load),
    ...(r.unreached > 0.001
      ? [`${formatNumber(100 * r.unreached, 2)} % of the picture will not come below the threshold with so many samples`]
      : []),
    ...(r.budget
      ? [
          `budget ${durationText(r.budget.seconds)} a frame: ${{ yes: "is kept", maybe: "may not be kept", no: "is not kept" }[r.budget.kept]}`,
        ]
      : []),
  ];
}

/** Checks what only a forecast asks. @throws InputError */
export function budgetOf(text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  const minutes = Number(text);
  if (text.trim() === "" || !(minutes > 0 && minutes < 1e6)) throw new InputError(`--budget ${text}: must be minutes a frame, above 0`);
  return 60 * minutes;
}
