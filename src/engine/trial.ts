/** Trials on a frame: the same picture, small, under several settings, for what each costs and gives. */
import { LEVEL_CODES } from "#core/layout/codes";
import type { SceneDocument } from "#core/document/schema";
import { beautyNoise, measureFilm, passValues } from "#core/film/film";
import type { RenderEngine } from "./engine";
import { finalSchedule, MEDIUM_PASSES } from "./schedule";

export interface Trial {
  width: number;
  height: number;
  /** Linear colour of the beauty, three numbers a pixel. */
  beauty: Float32Array;
  /** Mean luminance, cd/m², and its standard error. */
  mean: number;
  error: number;
  /** Standard error of a pixel as a share of the mean, at `samples`. */
  noise: number;
  samples: number;
  /** Seconds that the document's frame would take at its size and samples, by this trial. */
  seconds: number;
}

/** Pixels along the longer side of a trial that is looked at. */
const SIDE = 112;

/**
 * Renders a document small. The engine's present film is overwritten. @param side pixels along its longer side
 * @throws Error where another run took over
 */
export async function trial(engine: Pick<RenderEngine, "start">, doc: SceneDocument, samples: number, side = SIDE): Promise<Trial> {
  const [w, h] = doc.film.size;
  const scale = Math.min(1, side / Math.max(w, h));
  const [width, height] = [Math.max(1, Math.round(w * scale)), Math.max(1, Math.round(h * scale))];
  const document: SceneDocument = {
    ...doc,
    film: { ...doc.film, lightGroups: false, balance: {}, mattes: false, region: null },
    render: { ...doc.render, noiseThreshold: null },
  };
  const result = await engine.start({ document, width, height, stages: finalSchedule(0, samples, MEDIUM_PASSES) });
  if (result.outcome !== "done") throw new Error("the trial was cancelled");
  const { mean, error } = beautyNoise(result.film);
  return {
    width,
    height,
    beauty: passValues(result.film, "beauty"),
    mean,
    error,
    noise: measureFilm(result.film).noise ?? 0,
    samples,
    seconds: (result.seconds * (w * h * doc.render.samples)) / (width * height * samples),
  };
}

export const LEVELS = Object.keys(LEVEL_CODES) as (keyof typeof LEVEL_CODES)[];
/** Air bounces that are told apart. */
export const BOUNCES = [1, 2, 4, 8, 16, 32] as const;

/** The document at a level of truth. */
export const atLevel = (doc: SceneDocument, level: (typeof LEVELS)[number]): SceneDocument => ({
  ...doc,
  render: { ...doc.render, level },
});
/** The document at level full with so many air bounces. */
export const atBounces = (doc: SceneDocument, airBounces: number): SceneDocument => ({
  ...doc,
  render: { ...doc.render, level: "full", airBounces },
});

/** The document stepped through at a step size, m; null tracks. */
export const atStep = (doc: SceneDocument, stepSize: number | null): SceneDocument => ({
  ...doc,
  render: { ...doc.render, estimator: stepSize === null ? "tracking" : "stepping", ...(stepSize === null ? {} : { stepSize }) },
});

/** Step sizes worth a trial about a usual one, m, coarse to fine. */
export const stepsAbout = (usual: number): number[] => [8, 4, 2, 1, 0.5].map((k) => Number((k * usual).toPrecision(2)));

/** What a trial misses of another's light: share of the mean (negative where it is brighter), and its standard error. */
export function missing(t: Trial, truth: Trial): { share: number; error: number } {
  if (!(truth.mean > 0)) return { share: 0, error: 0 };
  return { share: 1 - t.mean / truth.mean, error: Math.hypot(t.error, (truth.error * t.mean) / truth.mean) / truth.mean };
}
