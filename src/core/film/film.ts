/** Accumulated samples of a frame, and the passes read from them. */
import {
  F_CLEAR_COUNT,
  F_COUNT,
  F_HITS,
  F_LUMINANCE2,
  F_SURFACES,
  F_TRANSMITTANCE,
  GROUP_FLOATS,
  G_AIR,
  G_SURFACES,
  MATTE_FLOATS,
  MATTE_SLOTS,
  PIXEL_FLOATS,
  R_GROUPS,
  SAMPLED_GROUP_FLOATS,
} from "../layout/layout";
import { unreachable } from "../layout/codes";
import { luminance } from "../optics/colour";
import { cleanedNoise, type Cleaned } from "./cleaned";
import { isScalar, PASSES, type MadePass, type Pass, type PassName, type ScalarPass } from "./passes";

/** What mattes are of, in the order in which a pixel keeps them. */
export const MATTE_KINDS = ["object", "material", "medium"] as const;
export type MatteKind = (typeof MATTE_KINDS)[number];

/** What a film keeps beyond the usual passes. */
export interface FilmExtras {
  /** Names of the light groups kept apart; none where they are not. */
  lights: readonly string[];
  /** Names of each kind by number, where mattes are kept. */
  mattes: Readonly<Record<MatteKind, readonly string[]>> | null;
  /** Every how many pixels each way the air is sampled, where it is joined to the surfaces: then it lies there once more as it is sampled. */
  airEvery?: number;
  /** Whether surfaces are a picture made elsewhere: all noise in their light is that of what the air leaves of it. */
  plate?: boolean;
}
export const NO_EXTRAS: FilmExtras = { lights: [], mattes: null };

/** Floats of a pixel: the usual sums, mattes, light groups, the air as it is sampled, to a multiple of four. */
export function pixelFloats(extras: FilmExtras): number {
  const groups = extras.lights.length;
  const n = PIXEL_FLOATS + (extras.mattes ? MATTE_FLOATS : 0) + GROUP_FLOATS * groups;
  return Math.ceil((n + (extras.airEvery ? R_GROUPS + SAMPLED_GROUP_FLOATS * groups : 0)) / 4) * 4;
}

/** Place of a light group's first sum in a pixel. */
export const groupFloat = (extras: Pick<FilmExtras, "mattes">, index: number): number =>
  PIXEL_FLOATS + (extras.mattes ? MATTE_FLOATS : 0) + GROUP_FLOATS * index;

/** Where a film lies in its frame, in pixels: its first one, and the size of the whole frame. */
export interface FrameWindow {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** A film: `stride` sums a pixel (see layout), rows from the top. `crop` is [x0, y0, x1, y1). */
export interface Film extends FilmExtras {
  data: Float32Array;
  stride: number;
  width: number;
  height: number;
  crop: readonly [number, number, number, number];
  /** The frame that it is a window of; absent or null: it is the whole frame. */
  frame?: FrameWindow | null;
  /** The same light as a clean-up leaves it, where there is one. */
  cleaned?: Cleaned | null;
}

export function emptyFilm(width: number, height: number): Film {
  return {
    data: new Float32Array(width * height * PIXEL_FLOATS),
    stride: PIXEL_FLOATS,
    width,
    height,
    crop: [0, 0, width, height],
    ...NO_EXTRAS,
  };
}

/** A copy that later rendering does not change. */
export function copyFilm(film: Film): Film {
  return { ...film, data: film.data.slice() };
}

/** The frame that a film shows, or shows a window of. */
export const frameOfFilm = ({ frame, width, height }: Pick<Film, "frame" | "width" | "height">): FrameWindow =>
  frame ?? { x: 0, y: 0, width, height };

/** Where a place of the frame (shares) lies on the film, in its pixels; outside them where the film is a window elsewhere. */
export function placeOnFilm(film: Pick<Film, "frame" | "width" | "height">, x: number, y: number): [number, number] {
  const frame = frameOfFilm(film);
  return [x * frame.width - frame.x, y * frame.height - frame.y];
}

/** Which part of its frame a film shows (shares); null: all of it. */
export function partShown(film: Film): { x: number; y: number; width: number; height: number } | null {
  const frame = frameOfFilm(film);
  const [x0, y0, x1, y1] = film.crop;
  if (x1 - x0 === frame.width && y1 - y0 === frame.height) return null;
  return {
    x: (frame.x + x0) / frame.width,
    y: (frame.y + y0) / frame.height,
    width: (x1 - x0) / frame.width,
    height: (y1 - y0) / frame.height,
  };
}

/** Pixels around one that has no sample yet in which another's is taken: early stages leave that many out. */
const NEARBY = 8;

/** Where the numbers of the sampled pixel nearest to a place of the frame (shares) begin; null where there is none about it. */
export function sampledNear(film: Film, x: number, y: number): number | null {
  const frame = frameOfFilm(film);
  const px = Math.max(0, Math.min(frame.width - 1, Math.floor(x * frame.width))) - frame.x;
  const py = Math.max(0, Math.min(frame.height - 1, Math.floor(y * frame.height))) - frame.y;
  let best: number | null = null,
    nearest = Infinity;
  for (let j = Math.max(0, py - NEARBY); j <= Math.min(film.height - 1, py + NEARBY); j++)
    for (let i = Math.max(0, px - NEARBY); i <= Math.min(film.width - 1, px + NEARBY); i++) {
      const d = (i - px) ** 2 + (j - py) ** 2;
      const at = (j * film.width + i) * film.stride;
      if (d < nearest && film.data[at + F_COUNT]! > 0) {
        nearest = d;
        best = at;
      }
    }
  return best;
}

/** Samples a pixel, about: the mean over a few hundred pixels spread over the crop. @param clear of the clear frame */
export function samplesSoFar(film: Film, clear = false): number {
  const [x0, y0, x1, y1] = film.crop;
  const [dx, dy] = [Math.max(1, (x1 - x0) >> 4), Math.max(1, (y1 - y0) >> 4)];
  let sum = 0,
    n = 0;
  for (let y = y0; y < y1; y += dy)
    for (let x = x0; x < x1; x += dx, n++) sum += film.data[(y * film.width + x) * film.stride + (clear ? F_CLEAR_COUNT : F_COUNT)]!;
  return n > 0 ? sum / n : 0;
}

/** Share of pixel i that geometry covers; null where it has no sample yet. */
export function coverage(film: Film, i: number): number | null {
  const p = i * film.stride;
  const n = film.data[p + F_COUNT]!;
  return n > 0 ? film.data[p + F_HITS]! / n : null;
}

/**
 * One number of a pixel: depth (m along the lens axis) and distance (m along the ray), means over the samples that
 * hit, Infinity where none did; height (m, 0 where none did); opacity (share of light the air keeps from the lens);
 * noise (standard error of luminance, cd/m²); rays (traced per sample).
 */
export function scalarAt(d: Float32Array, p: number, pass: ScalarPass): number {
  const { source, display }: Pass = PASSES[pass];
  if (source) {
    const n = d[p + source.count]!;
    return n > 0 ? d[p + source.sum]! / n : display === "distance" ? Infinity : 0;
  }
  const made = pass as MadePass;
  switch (made) {
    case "opacity": {
      const n = d[p + F_COUNT]!;
      return n > 0 ? 1 - luminance(d[p + F_TRANSMITTANCE]!, d[p + F_TRANSMITTANCE + 1]!, d[p + F_TRANSMITTANCE + 2]!) / n : 0;
    }
    case "samples":
      return d[p + F_COUNT]!;
    case "noise":
      return Math.sqrt(varianceAt(d, p));
    default:
      return unreachable(made, "pass");
  }
}

/** Sums of squares that are full, as the kernel keeps them. */
const FULL = 3e38;

/** Variance of the mean luminance of a pixel's beauty; 0 below two samples. */
export function varianceAt(d: Float32Array, p: number): number {
  const n = d[p + F_COUNT]!;
  if (n < 2) return 0;
  const m = luminance(d[p]! + d[p + F_SURFACES]!, d[p + 1]! + d[p + F_SURFACES + 1]!, d[p + 2]! + d[p + F_SURFACES + 2]!) / n;
  const squares = d[p + F_LUMINANCE2]!;
  // past what the sum can hold nothing is known: as much as the value itself
  if (squares >= 0.999 * FULL) return m * m;
  return Math.max(0, squares / n - m * m) / (n - 1);
}

/**
 * One pass as linear values: 3 a pixel, or 1 for those of SCALAR_PASSES. Normals are those of the shaded
 * surface in the scene's axes, on the lens's side. Pixels without samples are 0 (depth and distance Infinity).
 */
export function passValues(film: Film, pass: PassName): Float32Array {
  const n = film.width * film.height;
  const d = film.data;
  if (isScalar(pass)) {
    const out = new Float32Array(n);
    for (let i = 0; i < n; i++) out[i] = scalarAt(d, i * film.stride, pass);
    return out;
  }
  const out = new Float32Array(3 * n);
  const { sum: from, count: counter } = PASSES[pass].source ?? PASSES.air.source;
  for (let i = 0; i < n; i++) {
    const p = i * film.stride;
    const count = d[p + counter]!;
    if (count === 0) continue;
    for (let k = 0; k < 3; k++) {
      const v = d[p + from + k]! / count;
      // the beauty is the sum of the two rounded passes, so that files add up to the last bit
      out[3 * i + k] = pass === "beauty" ? Math.fround(v) + Math.fround(d[p + F_SURFACES + k]! / count) : v;
    }
  }
  return out;
}

/**
 * What one light group gives to the air or to surfaces, linear, 3 a pixel; all groups of a side add up to that pass.
 * @throws RangeError for a group the film does not keep
 */
export function lightValues(film: Film, group: string, side: "air" | "surfaces"): Float32Array {
  const index = film.lights.indexOf(group);
  if (index < 0) throw new RangeError(`the film keeps no light group "${group}"`);
  const n = film.width * film.height;
  const out = new Float32Array(3 * n);
  const from = groupFloat(film, index) + (side === "air" ? G_AIR : G_SURFACES);
  for (let i = 0; i < n; i++) {
    const p = i * film.stride;
    const count = film.data[p + F_COUNT]!;
    if (count > 0) for (let k = 0; k < 3; k++) out[3 * i + k] = film.data[p + from + k]! / count;
  }
  return out;
}

/**
 * Share of each pixel, 0 to 1, that objects or materials cover as the lens sees them (through panes, out of focus), or share of the
 * light of surfaces that a medium keeps from the lens, by name and for those in sight alone. A pixel keeps the first MATTE_SLOTS that
 * it meets of each kind. What media keep is an estimate as the picture is, which may err past 1; they add up to the opacity of the air.
 * @throws RangeError where the film keeps no mattes
 */
export function matteValues(film: Film, kind: MatteKind): Map<string, Float32Array> {
  if (!film.mattes) throw new RangeError("the film keeps no mattes");
  const names = film.mattes[kind];
  const n = film.width * film.height;
  const out = new Map<string, Float32Array>();
  const from = PIXEL_FLOATS + 2 * MATTE_SLOTS * MATTE_KINDS.indexOf(kind);
  for (let i = 0; i < n; i++) {
    const p = i * film.stride;
    const count = film.data[p + F_COUNT]!;
    for (let k = 0; k < MATTE_SLOTS && count > 0; k++) {
      const slot = film.data[p + from + 2 * k]!;
      if (slot < 1) continue;
      const name = names[slot - 1]!;
      let values = out.get(name);
      if (!values) out.set(name, (values = new Float32Array(n)));
      values[i]! += film.data[p + from + 2 * k + 1]! / count;
    }
  }
  return out;
}

export interface FilmStatistics {
  /** Samples a pixel, mean over the crop. */
  samples: number;
  clearSamples: number;
  /** Mean luminance of the beauty, cd/m². */
  mean: number;
  /**
   * Root mean square over pixels of the standard error of luminance as a share of the pixel's own (of a twentieth of the mean where it is darker);
   * null below 2 samples.
   */
  noise: number | null;
  /** The same of the cleaned beauty, as its halves let it be estimated; null where it is not cleaned, or has no halves. */
  cleanedNoise: number | null;
}

/** What a film's crop comes to, a pixel at a time. */
function sumFilm(film: Film): FilmSums {
  const [x0, y0, x1, y1] = film.crop;
  const d = film.data;
  const sums = { pixels: Math.max(1, (x1 - x0) * (y1 - y0)), measured: 0, samples: 0, clear: 0, mean: 0, variance: 0 };
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const p = (y * film.width + x) * film.stride;
      const n = d[p + F_COUNT]!;
      sums.samples += n;
      sums.clear += d[p + F_CLEAR_COUNT]!;
      if (n === 0) continue;
      sums.mean += luminanceAt(d, p);
      if (n < 2) continue;
      sums.variance += varianceAt(d, p);
      sums.measured++;
    }
  return sums;
}
interface FilmSums {
  pixels: number;
  /** Pixels of two samples or more. */
  measured: number;
  samples: number;
  clear: number;
  /** Luminance, and variance of its mean. */
  mean: number;
  variance: number;
}

/** Mean luminance of the beauty over the crop (cd/m²) and its standard error, samples taken as independent. */
export function beautyNoise(film: Film): { mean: number; error: number } {
  const { mean, variance, pixels } = sumFilm(film);
  return { mean: mean / pixels, error: Math.sqrt(variance) / pixels };
}

/** Share of the mean luminance below which a pixel's noise is not told from its own: the eye does not either. */
const DARK = 0.05;

/** Measures a film over its crop. The standard error takes samples as independent; they are spread better than that, so it errs high. */
export function measureFilm(film: Film): FilmStatistics {
  const { pixels, measured, samples, clear, mean } = sumFilm(film);
  const dark = (DARK * mean) / pixels;
  const known = measured > pixels / 2 && mean > 0;
  return {
    samples: samples / pixels,
    clearSamples: clear / pixels,
    mean: mean / pixels,
    noise: known ? relativeNoise(film, dark) : null,
    cleanedNoise: known ? cleanedNoise(film, dark) : null,
  };
}

/** @param dark luminance that no pixel's is taken to be below */
function relativeNoise(film: Film, dark: number): number {
  const [x0, y0, x1, y1] = film.crop;
  let squares = 0,
    measured = 0;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const p = (y * film.width + x) * film.stride;
      if (film.data[p + F_COUNT]! < 2) continue;
      squares += varianceAt(film.data, p) / Math.max(dark, luminanceAt(film.data, p)) ** 2;
      measured++;
    }
  return Math.sqrt(squares / measured);
}

/** Mean luminance of the beauty of the pixel at p. */
export function luminanceAt(d: Float32Array, p: number): number {
  return luminance(d[p]! + d[p + F_SURFACES]!, d[p + 1]! + d[p + F_SURFACES + 1]!, d[p + 2]! + d[p + F_SURFACES + 2]!) / d[p + F_COUNT]!;
}
