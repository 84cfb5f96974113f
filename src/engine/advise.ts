/** Trials of what might save time on a frame: each rendered small beside the frame as it is, with the same random numbers. */
import { candidatesOf, type Candidate, type FrameFacts } from "#core/budget/candidates";
import { seenBlocks, seenChange, type SeenChange } from "#core/budget/compare";
import { AIR_EVERY } from "#core/document/air-size";
import type { SceneDocument } from "#core/document/schema";
import { beautyNoise, luminanceAt, passValues, varianceAt, type Film } from "#core/film/film";
import { lightBalance } from "#core/film/light-balance";
import { F_COUNT, F_TRANSMITTANCE } from "#core/layout/layout";
import { luminance } from "#core/optics/colour";
import { whiteAt } from "#core/optics/exposure";
import type { CompiledGeometry } from "#core/scene/compiled";
import { geometryKey } from "#core/scene/keys";
import { DARK } from "#core/scene/parameters";
import type { RenderEngine } from "./engine";
import { finalSchedule, MEDIUM_PASSES } from "./schedule";

/** What a trial of a document found. */
interface Trial {
  /** Seconds of work for one sample of a pixel, and its relative standard error. */
  cost: number;
  costError: number;
  /** Squared relative error of a pixel of one sample, of two halves of the frame's blocks. */
  noise: readonly [number, number];
  seen: ReturnType<typeof seenBlocks>;
  mean: number;
  /** Mean optical depth of what the lens looks through. */
  depth: number;
  picture: TrialPicture;
}

/** A small picture: linear colour, three numbers a pixel. */
export interface TrialPicture {
  width: number;
  height: number;
  beauty: Float32Array;
}

/** What a change saves, and what it changes. */
export interface Advice {
  ids: readonly string[];
  words: string;
  tooltip: string;
  /** Time to the same noise, time of a sample, and squared noise of a sample, against the frame as it is (1: as now). */
  time: number;
  cost: number;
  noise: number;
  /** Relative standard error of `time`. */
  error: number;
  /** What the eye sees of it. */
  seen: SeenChange;
  /** Share of the frame's mean luminance that goes (below 0: comes), and its standard error. */
  energy: number;
  energyError: number;
  picture: TrialPicture;
  apply(doc: SceneDocument): SceneDocument;
}

export interface AdviseHost {
  engine: Pick<RenderEngine, "start" | "shared" | "workers" | "setGeometry">;
  geometryOf(doc: SceneDocument): Promise<CompiledGeometry>;
  facts: Omit<FrameFacts, "lights">;
  /** Told of each trial: how many are done, of how many; and what was found so far. */
  progress?: (done: number, all: number, words: string) => void;
  found?: (advice: Advice) => void;
  /** Given the frame as it is, small, once it is there. */
  base?: (picture: TrialPicture) => void;
  signal?: AbortSignal;
  /** Milliseconds by which the time for the trials is counted; those of the machine where it is not said. */
  now?: () => number;
}

/** Samples of a pixel in a trial. */
const SAMPLES = 8;
/** Stages whose time counts: those after so many samples, before which tables are filled. */
const SETTLED = 2;
/** Fewest pixels of a trial, and most. */
const LEAST_PIXELS = 1200,
  MOST_PIXELS = 60_000;
/** Every how many trials the frame as it is is timed again: machines change their speed. */
const AGAIN = 3;
/** Share of the time that the first trials may take; the rest is for those together that are worth it. */
const FIRST = 0.65;

/** Time to the same noise that is not worth a line, and standard errors that a saving must stand out by. */
const WORTH = 0.98,
  ERRORS = 1.5;
/** What changes more than this is no advice: it is another picture. */
export const MOST_SEEN = 12;

/** Share of the present price that a final would take: to a noise threshold as long as the same noise takes, of so many samples as they do. */
export const priceShare = ({ time, cost }: Pick<Advice, "time" | "cost">, doc: SceneDocument): number =>
  doc.render.noiseThreshold === null ? cost : time;

/** What together may be seen at most where nobody says otherwise: ΔE of the frame, and of its worst block. */
export const LIMITS_SEEN = { mean: 1, worst: 3 };
export type SeenLimits = typeof LIMITS_SEEN;

/** Whether a change saves enough to be told from chance. */
export const saves = ({ time, error }: Pick<Advice, "time" | "error">): boolean => time <= WORTH && 1 - time > ERRORS * error * time;

/** Whether the eye takes a picture for the one before. */
export const hardlySeen = ({ seen }: Pick<Advice, "seen">, limits: SeenLimits): boolean =>
  seen.mean <= limits.mean && seen.worst <= limits.worst;

/** How far what is seen of a change goes beyond what is allowed: 1 is just that. */
const beyond = ({ seen }: Advice, limits: SeenLimits): number => Math.max(seen.mean / limits.mean, seen.worst / limits.worst);

/** Trials of changes together that the time that is left is for, and by how much the worst block of a short trial may miss what is wanted of it. */
const TOGETHER = 5,
  AGAIN_WORST = 2.5;

/** ΔE below which two changes are seen alike. */
const TOLD = 0.1;

class Cancelled extends Error {}

export class Trials {
  private built = "";
  private size: [number, number] = [1, 1];
  private base: Trial | null = null;
  /** What the frame as it is cost when it was timed last, against the first time. */
  private speed = 1;
  private since = AGAIN;

  constructor(
    private readonly host: AdviseHost,
    private readonly doc: SceneDocument,
  ) {}

  /** @param seconds for one trial, about @throws Error where it is cancelled */
  async begin(seconds: number): Promise<LightShares> {
    const { doc, host } = this;
    this.size = this.sized(LEAST_PIXELS);
    await this.render(doc);
    const { cost } = await this.render(doc);
    this.size = this.sized(pixelsFor(seconds, host.engine.workers, cost));
    const grouped = { ...doc, film: { ...doc.film, lightGroups: true } };
    const lights = await this.film(grouped);
    const shares = lightBalance(lights.film);
    this.base = await this.render(doc);
    host.base?.(this.base.picture);
    return shares;
  }

  /** Goes on with trials of another length: larger ones tell smaller changes. @throws Error where it is cancelled */
  async lengthen(seconds: number): Promise<void> {
    const next = this.sized(pixelsFor(seconds, this.host.engine.workers, this.base!.cost * this.speed));
    if (next[0] <= this.size[0]) return;
    this.size = next;
    this.base = await this.render(this.doc);
    this.speed = 1;
    this.since = 0;
  }

  private sized(pixels: number): [number, number] {
    const [w, h] = this.doc.film.size;
    const k = Math.min(1, Math.sqrt(pixels / (w * h)));
    return [Math.max(1, Math.round(k * w)), Math.max(1, Math.round(k * h))];
  }

  /** What some changes together save and change. */
  async of(candidates: readonly Candidate[], { afresh = false } = {}): Promise<Advice> {
    const base = this.base!;
    if (++this.since > AGAIN || afresh) {
      this.since = 1;
      const again = await this.render(this.doc);
      this.speed = again.cost / base.cost;
    }
    const together = (d: SceneDocument): SceneDocument => candidates.reduce((now, c) => c.apply(now), d);
    const trial = await this.render(together(this.doc));
    const cost = trial.cost / (base.cost * this.speed);
    const [a, b] = [trial.noise[0] / base.noise[0], trial.noise[1] / base.noise[1]].map((v) => (v > 0 && v < Infinity ? v : 1)) as [
      number,
      number,
    ];
    const noise = Math.sqrt(a * b);
    const noiseError = Math.abs(Math.log(a / b)) / 2;
    return {
      ids: candidates.map((c) => c.id),
      words: candidates.map((c) => c.words).join("; "),
      tooltip: candidates.map((c) => c.tooltip).join(" "),
      ...{ cost, noise, time: cost * noise, error: Math.hypot(trial.costError, base.costError, noiseError) },
      seen: seenChange(base.seen, trial.seen),
      energy: base.mean > 0 ? 1 - trial.mean / base.mean : 0,
      energyError: base.mean > 0 ? pairedError(base.picture.beauty, trial.picture.beauty) / base.mean : 0,
      picture: trial.picture,
      apply: together,
    };
  }

  /** A change whose density is found so that as much light passes as does now. */
  async tuned(candidate: Candidate): Promise<Candidate> {
    const { tuned } = candidate;
    if (!tuned) return candidate;
    const wanted = this.base!.depth;
    let factor = 0.5;
    for (let i = 0; i < 2; i++) {
      const { depth } = await this.render(tuned(this.doc, factor));
      if (!(depth > 0) || !(wanted > 0)) break;
      factor = Math.max(0.01, Math.min(1, factor * (wanted / depth)));
    }
    const found = factor;
    return { ...candidate, apply: (d) => tuned(d, found) };
  }

  private async film(doc: SceneDocument): Promise<{ film: Film; cost: number; costError: number }> {
    const { engine, signal, geometryOf } = this.host;
    const document: SceneDocument = {
      ...doc,
      film: { ...doc.film, balance: {}, mattes: false },
      render: { ...doc.render, noiseThreshold: null },
    };
    const key = geometryKey(document);
    if (key !== this.built) engine.setGeometry(await geometryOf(document));
    this.built = key;
    if (signal?.aborted) throw new Cancelled("the trials were cancelled");
    const [width, height] = this.size;
    const every = engine.shared ? AIR_EVERY[doc.render.airSize] : 1;
    const stages = finalSchedule(0, SAMPLES, MEDIUM_PASSES, every);
    const marks: { samples: number; seconds: number }[] = [];
    const result = await engine.start({
      ...{ document, width, height, stages },
      onStage: ({ work }) => void marks.push({ samples: stages[marks.length]!.end, seconds: work.seconds }),
    });
    if (result.outcome !== "done" || signal?.aborted) throw new Cancelled("the trials were cancelled");
    const at = (samples: number): number => marks.findLast((m) => m.samples === samples)?.seconds ?? 0;
    const [x0, y0, x1, y1] = result.film.crop;
    const pixels = (x1 - x0) * (y1 - y0);
    const rate = (from: number, to: number): number => (at(to) - at(from)) / (pixels * (to - from));
    const cost = rate(SETTLED, SAMPLES);
    const halves = [rate(SETTLED, SAMPLES / 2), rate(SAMPLES / 2, SAMPLES)] as const;
    return {
      film: result.film,
      cost,
      costError: Math.max(LEAST_COST_ERROR, Math.abs(halves[0] - halves[1]) / (2 * Math.max(cost, 1e-12)) / 2),
    };
  }

  private async render(doc: SceneDocument): Promise<Trial> {
    const { film, cost, costError } = await this.film({ ...doc, film: { ...doc.film, lightGroups: false } });
    const { mean } = beautyNoise(film);
    return {
      ...{ cost, costError, mean },
      noise: noiseOf(film, DARK * whiteAt(doc.film.exposure)),
      seen: seenBlocks(film, this.doc.film),
      depth: depthOf(film),
      picture: { width: film.width, height: film.height, beauty: passValues(film, "beauty") },
    };
  }
}
/** Standard error of the difference of two pictures' mean luminance: what the same random numbers do to both is in neither. */
function pairedError(a: Float32Array, b: Float32Array): number {
  const n = a.length / 3;
  if (b.length !== a.length || n < 2) return 0;
  let sum = 0,
    squares = 0;
  for (let i = 0; i < a.length; i += 3) {
    const d = luminance(b[i]!, b[i + 1]!, b[i + 2]!) - luminance(a[i]!, a[i + 1]!, a[i + 2]!);
    sum += d;
    squares += d * d;
  }
  return Math.sqrt(Math.max(0, squares / n - (sum / n) ** 2) / n);
}
/** Pixels of a trial that takes so long. */
const pixelsFor = (seconds: number, workers: number, cost: number): number =>
  Math.max(LEAST_PIXELS, Math.min(MOST_PIXELS, (seconds * workers) / (cost * SAMPLES)));

type LightShares = ReturnType<typeof lightBalance>;

/** Relative standard error of the time of the same work, at the least. */
const LEAST_COST_ERROR = 0.035;
/** Pixels of a side of the squares that the frame's halves are made of. */
const SQUARE = 8;

/** Squared relative errors of one sample, of the squares of a frame that are black and white on a chessboard. */
function noiseOf(film: Film, dark: number): readonly [number, number] {
  const [x0, y0, x1, y1] = film.crop;
  const sums = [0, 0],
    counts = [0, 0];
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const p = (y * film.width + x) * film.stride;
      const n = film.data[p + F_COUNT]!;
      if (n < 2) continue;
      const half = ((x / SQUARE) ^ (y / SQUARE)) & 1;
      sums[half]! += (n * varianceAt(film.data, p)) / Math.max(dark, luminanceAt(film.data, p)) ** 2;
      counts[half]!++;
    }
  return [sums[0]! / Math.max(1, counts[0]!), sums[1]! / Math.max(1, counts[1]!)];
}

/** Mean optical depth over a frame. */
function depthOf(film: Film): number {
  const [x0, y0, x1, y1] = film.crop;
  let sum = 0,
    n = 0;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const p = (y * film.width + x) * film.stride + F_TRANSMITTANCE;
      const count = film.data[p - F_TRANSMITTANCE + F_COUNT]!;
      if (count === 0) continue;
      sum += luminance(film.data[p]!, film.data[p + 1]!, film.data[p + 2]!) / count;
      n++;
    }
  return n > 0 && sum > 0 ? -Math.log(Math.min(1, sum / n)) : 0;
}

export interface Advised {
  /** Single changes that save time, the best first. */
  rows: Advice[];
  /** Those together that save most while they are hardly seen; null where none do. */
  together: Advice | null;
  /** Where none do: the one that is seen least beyond what is allowed, looked at longer. */
  nearest: Advice | null;
  /** How many were tried, and how many were not for want of time. */
  tried: number;
  untried: number;
}

/**
 * Tries all that might save time, then the best together. @param seconds that it may take, about
 * @param enough share of the present price at which no more is looked for @throws Error where it is cancelled
 */
export async function advise(
  host: AdviseHost,
  doc: SceneDocument,
  seconds: number,
  limits: SeenLimits = LIMITS_SEEN,
  enough = 0,
): Promise<Advised> {
  const now = host.now ?? (() => performance.now());
  const begun = now();
  const spent = (): number => (now() - begun) / 1000;
  const count = candidatesOf(doc, { ...host.facts, lights: [] }).length + 4;
  const each = (FIRST * seconds) / (count * (1 + 1 / AGAIN) + 4);
  const trials = new Trials(host, doc);
  host.progress?.(0, count, "the frame as it is");
  const candidates = candidatesOf(doc, { ...host.facts, lights: await trials.begin(each) });
  const singles: { candidate: Candidate; advice: Advice }[] = [];
  for (const [i, given] of candidates.entries()) {
    if (spent() > FIRST * seconds * 1.2) break;
    host.progress?.(i, candidates.length, given.words);
    const candidate = await trials.tuned(given);
    const first = await trials.of([candidate]);
    // it may be the machine's own unrest: it has to show twice, against the frame as it is timed by then
    const advice = saves(first) ? meanOf(first, await trials.of([candidate], { afresh: true })) : first;
    singles.push({ candidate, advice });
    if (saves(advice) && advice.seen.mean <= MOST_SEEN) host.found?.(advice);
  }
  const rows = singles.filter(({ advice }) => saves(advice) && advice.seen.mean <= MOST_SEEN).sort((a, b) => a.advice.time - b.advice.time);
  let best: { advice: Advice; set: Candidate[] } | null = null;
  let nearest: Advice | null = null;
  // to a budget what is seen least comes first, else what saves most for what is seen of it
  const unseen = ({ advice: { seen } }: (typeof rows)[number]): number => Math.max(0, seen.mean - seen.error);
  const worth = ({ advice }: (typeof rows)[number]): number => -Math.log(advice.time) / (advice.seen.mean + 0.2);
  const order = rows
    .filter(({ advice }) => hardlySeen(advice, { mean: 1.5 * limits.mean, worst: AGAIN_WORST * limits.worst }))
    .sort((a, b) => (enough > 0 && Math.abs(unseen(a) - unseen(b)) > TOLD ? unseen(a) - unseen(b) : worth(b) - worth(a)));
  // the worst block of a short trial is mostly noise: those that may do are looked at longer
  if (order.length > 0) await trials.lengthen(Math.max(each, (seconds - spent()) / (TOGETHER + 1)));
  for (const { candidate } of order) {
    if (spent() > seconds || (best && priceShare(best.advice, doc) <= enough)) break;
    const set: Candidate[] = best ? [...best.set.filter((c) => c.group !== candidate.group), candidate] : [candidate];
    host.progress?.(singles.length, candidates.length, `together: ${set.map((c) => c.words).join("; ")}`);
    const next = await trials.of(set);
    if (!nearest || beyond(next, limits) < beyond(nearest, limits)) nearest = next;
    if (hardlySeen(next, limits) && saves(next) && next.time < (best?.advice.time ?? 1) * WORTH) best = { advice: next, set };
  }
  // what is promised is what a second look finds too: the best of many tries is the luckiest as well
  const together = best ? meanOf(best.advice, await trials.of(best.set, { afresh: true })) : null;
  return {
    rows: rows.map(({ advice }) => advice),
    together,
    nearest: together ? null : nearest,
    tried: singles.length,
    untried: candidates.length - singles.length,
  };
}

/** Settings of one kind beside one another: all that are tried, as they are. @throws Error where it is cancelled */
export async function compared(host: AdviseHost, doc: SceneDocument, candidates: readonly Candidate[], seconds: number): Promise<Advice[]> {
  const trials = new Trials(host, doc);
  host.progress?.(0, candidates.length, "the frame as it is");
  await trials.begin(seconds / (candidates.length * (1 + 1 / AGAIN) + 3));
  const all: Advice[] = [];
  for (const [i, candidate] of candidates.entries()) {
    host.progress?.(i, candidates.length, candidate.words);
    const advice = await trials.of([candidate]);
    all.push(advice);
    host.found?.(advice);
  }
  return all;
}

/** Two trials of the same change, with the picture of the second. */
function meanOf(first: Advice, again: Advice): Advice {
  const time = Math.sqrt(first.time * again.time);
  return { ...again, time, cost: Math.sqrt(first.cost * again.cost), error: Math.hypot(first.error, again.error) / 2 };
}
