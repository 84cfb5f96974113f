/**
 * What a final will cost, from a look at its frame: how noisy the blocks of the frame are and how long their samples take, carried to the
 * final's size and to the samples that its noise threshold asks for. What is assumed: docs/budget.md.
 */
import { cleanedSides } from "../film/cleaned";
import { luminanceAt, varianceAt, type Film } from "../film/film";
import { F_COUNT, F_RAYS, SETTLED_SHIFT } from "../layout/layout";
import { luminance } from "../optics/colour";

/** Blocks of a frame that was looked at; each number by block. */
export interface LookedBlocks {
  /** Pixels of the look that lie in it. */
  pixels: Float64Array;
  /** Mean luminance, cd/m². */
  light: Float64Array;
  /** Squared error of a pixel's luminance that is left after `samples`, mean over its pixels, and the standard error of that number. */
  error: Float64Array;
  doubt: Float64Array;
  /** Rays of one sample of a pixel. */
  rays: Float64Array;
  /** Samples a pixel that the errors are of. */
  samples: number;
  /** Rays of one sample, mean over the frame, and the share of its pixels that have a sample, and two, without which an error is not known. */
  meanRays: number;
  sampled: number;
  known: number;
}

/** Pixels of a side of the blocks that a render of the final's size leaves or samples together. */
const BLOCK = 1 << SETTLED_SHIFT;

/**
 * Blocks of a look, as large in the frame as those that the final judges.
 * @param film of two samples a pixel or more; cleaned where the errors of the cleaned picture are meant @param enlarged pixels of the final for one of the look, each way
 */
export function lookedBlocks(film: Film, enlarged: number, of: "rendered" | "cleaned"): LookedBlocks {
  // of fewer pixels an error is not known
  const side = Math.max(2, Math.round(BLOCK / Math.max(enlarged, 1e-6)));
  const [x0, y0, x1, y1] = film.crop;
  const across = Math.ceil((x1 - x0) / side),
    count = across * Math.ceil((y1 - y0) / side);
  const numbers = (): Float64Array => new Float64Array(count);
  const [pixels, light, error, doubt, rays] = [numbers(), numbers(), numbers(), numbers(), numbers()];
  const sides = of === "cleaned" ? cleanedSides(film, "beauty") : null;
  if (of === "cleaned" && !sides) throw new RangeError("the look is not cleaned");
  const d = film.data;
  let samples = 0,
    sampled = 0,
    traced = 0;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const p = (y * film.width + x) * film.stride;
      const n = d[p + F_COUNT]!;
      if (n === 0) continue;
      sampled++;
      traced += d[p + F_RAYS]! / n;
      if (n < 2) continue;
      const b = across * Math.floor((y - y0) / side) + Math.floor((x - x0) / side);
      let e: number;
      if (sides) {
        const at = 4 * ((y - y0) * (x1 - x0) + x - x0);
        const [air, surfaces] = sides as [Float32Array, Float32Array];
        e = air[at + 3]! + surfaces[at + 3]!;
        light[b]! += luminance(air[at]! + surfaces[at]!, air[at + 1]! + surfaces[at + 1]!, air[at + 2]! + surfaces[at + 2]!);
      } else {
        e = varianceAt(d, p);
        light[b]! += luminanceAt(d, p);
      }
      pixels[b]!++;
      error[b]! += e;
      doubt[b]! += e * e;
      rays[b]! += d[p + F_RAYS]! / n;
      samples += n;
    }
  let all = 0;
  for (let b = 0; b < count; b++) {
    const n = pixels[b]!;
    all += n;
    if (n === 0) continue;
    light[b]! /= n;
    error[b]! /= n;
    rays[b]! /= n;
    // errors of pixels are as many guesses of the block's
    doubt[b] = Math.sqrt(Math.max(0, doubt[b]! / n - error[b]! ** 2) / n);
  }
  const crop = Math.max(1, (x1 - x0) * (y1 - y0));
  return {
    ...{ pixels, light, error, doubt, rays, samples: all > 0 ? samples / all : 0 },
    ...{ meanRays: sampled > 0 ? traced / sampled : 0, sampled: sampled / crop, known: all / crop },
  };
}

/** What a final is to be. */
export interface ForecastTarget {
  /** Pixels that are rendered. */
  pixels: number;
  /** Samples a pixel, at most where there is a threshold, and at least. */
  samples: number;
  minSamples: number;
  /** Share of a pixel's luminance that may be left as its error; null: all pixels get all samples. */
  threshold: number | null;
  /** Luminance that no pixel's is taken to be below, cd/m². */
  dark: number;
  /** By which power of the samples squared errors fall: 1 of a picture as it is rendered. */
  falls: number;
}

/** What samples cost. */
export interface Rate {
  /** Processor seconds of one sample of a pixel, mean over the look, and their relative standard error. */
  seconds: number;
  doubt: number;
}

export interface Forecast {
  /** Samples a pixel, mean. */
  samples: number;
  /** Processor seconds of the samples, and the bounds between which they lie in eight cases of ten. */
  seconds: number;
  low: number;
  high: number;
  /** Share of the pixels that end at the most samples without having come below the threshold. */
  unreached: number;
}

/** Samples after which stages of a final end, which is where blocks are judged (engine/schedule.ts): doubling up to 16 at a time. */
export function stageEnd(needed: number, least: number, most: number): number {
  const wanted = Math.max(needed, least);
  if (!(wanted < most)) return most;
  let end = 1;
  while (end < wanted && end < 16) end *= 2;
  if (end < wanted) end = 16 * Math.ceil(wanted / 16);
  return Math.min(most, end);
}

/** Standard deviations of a normal distribution between its middle and its ninetieth part of a hundred. */
export const NINETIETH = 1.2816;

/** What a final costs. Of blocks that were not looked at, as much as of the others. */
export function forecastOf(looked: LookedBlocks, rate: Rate, target: ForecastTarget): Forecast {
  const { pixels, light, error, doubt, rays } = looked;
  let all = 0,
    work = 0;
  for (let b = 0; b < pixels.length; b++) {
    all += pixels[b]!;
    work += pixels[b]! * rays[b]!;
  }
  const meanRays = all > 0 ? work / all : 0;
  let samples = 0,
    cost = 0,
    variance = 0,
    unreached = 0;
  for (let b = 0; b < pixels.length; b++) {
    const n = pixels[b]!;
    if (n === 0) continue;
    // rays are the measure of what a sample of one block costs against one of another
    const each = meanRays > 0 ? rays[b]! / meanRays : 1;
    let taken = target.samples;
    if (target.threshold !== null) {
      const allowed = (target.threshold * Math.max(light[b]!, target.dark)) ** 2;
      const needed = (e: number): number => (e > 0 ? looked.samples * (e / allowed) ** (1 / target.falls) : 0);
      const middle = needed(error[b]!);
      taken = stageEnd(middle, target.minSamples, target.samples);
      if (middle > target.samples) unreached += n;
      // what the block would take if it were noisier or calmer by the doubt about its error
      const spread = 0.5 * (within(needed(error[b]! + doubt[b]!), target) - within(needed(error[b]! - doubt[b]!), target));
      variance += (n * each * spread) ** 2;
    }
    samples += n * taken;
    cost += n * each * taken;
  }
  const scale = all > 0 ? target.pixels / all : 0;
  const seconds = scale * rate.seconds * cost;
  const doubtOfSamples = cost > 0 ? Math.sqrt(variance) / cost : 0;
  const spread = Math.exp(NINETIETH * Math.hypot(rate.doubt, doubtOfSamples));
  return {
    samples: all > 0 ? samples / all : 0,
    seconds,
    low: seconds / spread,
    high: seconds * spread,
    unreached: all > 0 ? unreached / all : 0,
  };
}

const within = (samples: number, { minSamples, samples: most }: ForecastTarget): number => Math.max(minSamples, Math.min(most, samples));

/**
 * By which power of the samples the squared errors of a frame fall, from two looks at it of different samples: what a clean-up leaves falls
 * slower than noise does.
 */
export function fallOf(few: LookedBlocks, more: LookedBlocks): number {
  const sum = ({ pixels, error, light }: LookedBlocks): number =>
    error.reduce((a, e, b) => a + (light[b]! > 0 ? (pixels[b]! * e) / light[b]! ** 2 : 0), 0);
  const [a, b] = [sum(few), sum(more)];
  if (!(a > 0) || !(b > 0) || !(more.samples > few.samples)) return 1;
  return Math.max(LEAST_FALL, Math.min(1, Math.log(a / b) / Math.log(more.samples / few.samples)));
}
/** Slower than this no clean-up gets better with samples; a look that says so is noise. */
const LEAST_FALL = 0.3;
