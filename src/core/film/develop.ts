/**
 * From linear light to display: exposure (EV at ISO 100), white balance, a soft shoulder, sRGB, dither.
 */
import { whiteAt } from "../optics/exposure";
import {
  F_AIR,
  F_ALBEDO,
  F_CLEAR,
  F_CLEAR_COUNT,
  F_COUNT,
  F_EMISSION,
  F_HITS,
  F_NORMAL,
  F_SURFACES,
  F_TRANSMITTANCE,
} from "../layout/layout";
import { whiteBalanceMatrix } from "../optics/colour";
import { isScalar, scalarAt, type Film, type PassName, type ScalarPass } from "./film";

export interface Development {
  /** EV at ISO 100: a luminance of 1.2 · 2^EV cd/m² becomes 1. */
  exposure: number;
  /** kelvin */
  whiteBalance: number;
}

export const SHOULDER = 0.6;
const TABLE = 8192;
/** Display value (0 … 255, fractional) against x / (1 + x) of exposed light x. */
const table = new Float32Array(TABLE + 1);
for (let i = 0; i <= TABLE; i++) {
  const s = i / TABLE;
  const x = s < 1 ? s / (1 - s) : 1e9;
  table[i] = 255 * encode(shoulder(x));
}

/** Straight below 0.6, then an exponential approach to 1 with a continuous slope. */
export function shoulder(x: number): number {
  return x <= SHOULDER ? x : 1 - (1 - SHOULDER) * Math.exp(-(x - SHOULDER) / (1 - SHOULDER));
}

/** sRGB transfer function (IEC 61966-2-1). */
export function encode(x: number): number {
  return x <= 0.0031308 ? 12.92 * x : 1.055 * Math.pow(x, 1 / 2.4) - 0.055;
}

/** Ordered pattern of even spread (R2 sequence of Roberts 2018 on the pixel grid) within ±0.5: keeps fog gradients from banding. */
function dither(x: number, y: number): number {
  const v = 0.7548776662466927 * x + 0.5698402909980532 * y;
  const f = v - Math.floor(v);
  return (f < 0.5 ? 2 * f : 2 - 2 * f) - 0.5;
}

function display(x: number): number {
  return x > 0 ? table[(TABLE * (x / (1 + x)) + 0.5) | 0]! : 0;
}

/**
 * Develops a pass into RGBA bytes (width × height × 4). Pixels not sampled yet show the nearest coarser
 * sample; outside the crop the picture is left as it is. Transmittance, albedo and mist are shown as they are,
 * normals around mid grey, depth and distance from near (bright) to far, height, noise and cost against their median.
 * @param stride spacing of the coarsest sampled grid (1 when every pixel has samples)
 */
export function develop(film: Film, pass: PassName, development: Development, out: Uint8ClampedArray, stride = 8): void {
  const [x0, y0, x1, y1] = film.crop;
  const d = film.data;
  const counter = pass === "clear" ? F_CLEAR_COUNT : F_COUNT;
  const scale = 1 / whiteAt(development.exposure);
  const m = whiteBalanceMatrix(development.whiteBalance).map((v) => v * scale);
  const first = pass === "clear" ? F_CLEAR : pass === "surfaces" ? F_SURFACES : pass === "glow" ? F_EMISSION : F_AIR;
  const usual = isScalar(pass) ? median(film, pass) : 0;
  for (let y = y0; y < y1; y++) {
    for (let x = x0; x < x1; x++) {
      let p = (y * film.width + x) * film.stride;
      let n = d[p + counter]!;
      for (let s = 2; n === 0 && s <= stride; s *= 2) {
        p = ((y - ((y - y0) % s)) * film.width + (x - ((x - x0) % s))) * film.stride;
        n = d[p + counter]!;
      }
      const o = 4 * (y * film.width + x);
      out[o + 3] = 255;
      if (n === 0) {
        out[o] = out[o + 1] = out[o + 2] = 0;
        continue;
      }
      const wobble = dither(x, y);
      if (pass === "transmittance") {
        for (let k = 0; k < 3; k++) out[o + k] = 255 * encode(Math.min(1, d[p + F_TRANSMITTANCE + k]! / n)) + wobble;
        continue;
      }
      if (isScalar(pass)) {
        out[o] = out[o + 1] = out[o + 2] = shownScalar(pass, scalarAt(d, p, pass), usual) + wobble;
        continue;
      }
      if (pass === "albedo" || pass === "normal") {
        const hits = Math.max(1, d[p + F_HITS]!);
        for (let k = 0; k < 3; k++)
          out[o + k] =
            pass === "normal"
              ? 127.5 * (1 + d[p + F_NORMAL + k]! / hits) + wobble
              : 255 * encode(Math.min(1, d[p + F_ALBEDO + k]! / hits)) + wobble;
        continue;
      }
      let r = d[p + first]!,
        g = d[p + first + 1]!,
        b = d[p + first + 2]!;
      if (pass === "beauty") {
        r += d[p + F_SURFACES]!;
        g += d[p + F_SURFACES + 1]!;
        b += d[p + F_SURFACES + 2]!;
      }
      const k = 1 / n;
      out[o] = display(k * (m[0]! * r + m[1]! * g + m[2]! * b)) + wobble;
      out[o + 1] = display(k * (m[3]! * r + m[4]! * g + m[5]! * b)) + wobble;
      out[o + 2] = display(k * (m[6]! * r + m[7]! * g + m[8]! * b)) + wobble;
    }
  }
}

/** Develops linear colours (three numbers a pixel) into RGBA bytes. */
export function developColours(colours: Float32Array, development: Development, out: Uint8ClampedArray): void {
  const scale = 1 / whiteAt(development.exposure);
  const m = whiteBalanceMatrix(development.whiteBalance).map((v) => v * scale);
  for (let i = 0; i < colours.length / 3; i++) {
    const [r, g, b] = [colours[3 * i]!, colours[3 * i + 1]!, colours[3 * i + 2]!];
    for (let k = 0; k < 3; k++) out[4 * i + k] = display(m[3 * k]! * r + m[3 * k + 1]! * g + m[3 * k + 2]! * b);
    out[4 * i + 3] = 255;
  }
}

/** Display value (0 … 255) of a number whose median over the frame is `usual`. */
function shownScalar(pass: ScalarPass, v: number, usual: number): number {
  if (pass === "mist") return 255 * Math.max(0, Math.min(1, v));
  if (pass === "depth" || pass === "distance") return v < Infinity ? 255 / (1 + v / usual) : 0;
  if (pass === "height") return 255 * (0.5 + Math.atan(v / usual) / Math.PI);
  return (255 * Math.max(0, v)) / (Math.max(0, v) + usual);
}

/** Median size of a pass over the frame, above 0. */
function median(film: Film, pass: ScalarPass): number {
  const found: number[] = [];
  const step = Math.max(1, Math.floor((film.width * film.height) / 2000));
  for (let i = 0; i < film.width * film.height; i += step) {
    const v = Math.abs(scalarAt(film.data, i * film.stride, pass));
    if (v > 0 && v < Infinity) found.push(v);
  }
  found.sort((a, b) => a - b);
  return found[found.length >> 1] ?? 1;
}
