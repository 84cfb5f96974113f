/** Accumulated samples of a frame, and the passes read from them. */
import {
  F_AIR,
  F_CLEAR,
  F_CLEAR_COUNT,
  F_COUNT,
  F_DEPTH,
  F_HITS,
  F_LUMINANCE2,
  F_SURFACES,
  F_TRANSMITTANCE,
  PIXEL_FLOATS,
} from "../scene/layout";
import { luminance } from "../optics/colour";

/** A film: PIXEL_FLOATS sums a pixel (see layout), rows from the top. `crop` is [x0, y0, x1, y1). */
export interface Film {
  data: Float32Array;
  width: number;
  height: number;
  crop: readonly [number, number, number, number];
}

/** Colour passes, then those of one value. */
export const PASS_NAMES = ["beauty", "clear", "air", "surfaces", "transmittance", "depth"] as const;
export type PassName = (typeof PASS_NAMES)[number];

export function emptyFilm(width: number, height: number): Film {
  return { data: new Float32Array(width * height * PIXEL_FLOATS), width, height, crop: [0, 0, width, height] };
}

/** A copy that later rendering does not change. */
export function copyFilm(film: Film): Film {
  return { ...film, data: film.data.slice() };
}

/**
 * One pass as linear values: 3 a pixel, or 1 for depth (metres along the lens axis, the mean of the
 * samples that hit; Infinity where none did). Pixels without samples are 0 (depth Infinity).
 */
export function passValues(film: Film, pass: PassName): Float32Array {
  const n = film.width * film.height;
  const d = film.data;
  if (pass === "depth") {
    const out = new Float32Array(n);
    for (let i = 0; i < n; i++) {
      const hits = d[i * PIXEL_FLOATS + F_HITS]!;
      out[i] = hits > 0 ? d[i * PIXEL_FLOATS + F_DEPTH]! / hits : Infinity;
    }
    return out;
  }
  const out = new Float32Array(3 * n);
  const from = pass === "clear" ? F_CLEAR : pass === "transmittance" ? F_TRANSMITTANCE : pass === "surfaces" ? F_SURFACES : F_AIR;
  const counter = pass === "clear" ? F_CLEAR_COUNT : F_COUNT;
  for (let i = 0; i < n; i++) {
    const p = i * PIXEL_FLOATS;
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

export interface FilmStatistics {
  /** Samples a pixel, mean over the crop. */
  samples: number;
  clearSamples: number;
  /** Mean luminance of the beauty, cd/m². */
  mean: number;
  /** Root mean square over pixels of the standard error of luminance, as a share of the mean luminance; null below 2 samples. */
  noise: number | null;
}

/** Measures a film over its crop. The standard error takes samples as independent; they are spread better than that, so it errs high. */
export function measureFilm(film: Film): FilmStatistics {
  const [x0, y0, x1, y1] = film.crop;
  let samples = 0,
    clear = 0,
    mean = 0,
    variance = 0,
    pixels = 0,
    measured = 0;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const p = (y * film.width + x) * PIXEL_FLOATS;
      const n = film.data[p + F_COUNT]!;
      pixels++;
      samples += n;
      clear += film.data[p + F_CLEAR_COUNT]!;
      if (n === 0) continue;
      const d = film.data;
      const m = luminance(d[p]! + d[p + F_SURFACES]!, d[p + 1]! + d[p + F_SURFACES + 1]!, d[p + 2]! + d[p + F_SURFACES + 2]!) / n;
      mean += m;
      if (n >= 2) {
        variance += Math.max(0, d[p + F_LUMINANCE2]! / n - m * m) / (n - 1);
        measured++;
      }
    }
  mean /= Math.max(1, pixels);
  return {
    samples: samples / Math.max(1, pixels),
    clearSamples: clear / Math.max(1, pixels),
    mean,
    noise: measured > pixels / 2 && mean > 0 ? Math.sqrt(variance / measured) / mean : null,
  };
}
