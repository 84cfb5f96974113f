/** Where the time of a frame goes and where its noise is, pixel by pixel, as pictures. */
import { F_COUNT, F_RAYS } from "../layout/layout";
import { luminanceAt, varianceAt, type Film } from "./film";
import { smallFilm } from "./small";

/** What a heat picture is of: rays of a sample, squared relative error of one sample, and both multiplied: where more samples do most. */
export const HEATS = ["time", "noise", "worth"] as const;
export type HeatKind = (typeof HEATS)[number];

export interface Heat {
  width: number;
  height: number;
  /** RGBA bytes by kind. */
  pixels: Record<HeatKind, Uint8ClampedArray<ArrayBuffer>>;
  /** The numbers behind them, as a share of the frame's mean. */
  values: Record<HeatKind, Float32Array>;
  /** What is painted full, as a multiple of the mean. */
  full: Record<HeatKind, number>;
}

/** Share of pixels below which the scale's end is taken: single ones would darken all others. */
const FULL = 0.98;
/** Colours from nothing to the end of the scale. */
const RAMP = [
  [14, 16, 22],
  [44, 58, 92],
  [96, 92, 124],
  [176, 122, 96],
  [240, 196, 122],
] as const;

/** @param across most pixels across @param dark luminance that no pixel's is taken to be below, cd/m² */
export function heatOf(film: Film, across: number, dark: number): Heat {
  const { width, height, stride, data } = smallFilm({ ...film, cleaned: null }, across);
  const n = width * height;
  const values: Heat["values"] = { time: new Float32Array(n), noise: new Float32Array(n), worth: new Float32Array(n) };
  for (let i = 0; i < n; i++) {
    const p = i * stride;
    const count = data[p + F_COUNT]!;
    if (count < 2) continue;
    const rays = data[p + F_RAYS]! / count;
    const error = (count * varianceAt(data, p)) / Math.max(dark, luminanceAt(data, p)) ** 2;
    values.time[i] = rays;
    values.noise[i] = Math.sqrt(error);
    values.worth[i] = rays * error;
  }
  const pixels = {} as Heat["pixels"],
    full = {} as Heat["full"];
  for (const kind of HEATS) {
    const v = values[kind];
    const mean = v.reduce((a, b) => a + b, 0) / n;
    if (mean > 0) for (let i = 0; i < n; i++) v[i]! /= mean;
    full[kind] = Float32Array.from(v).sort()[Math.min(n - 1, Math.floor(FULL * n))] ?? 0;
    pixels[kind] = painted(v, full[kind]);
  }
  return { width, height, pixels, values, full };
}

function painted(values: Float32Array, full: number): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(4 * values.length);
  for (let i = 0; i < values.length; i++) {
    const at = full > 0 ? Math.min(1, values[i]! / full) * (RAMP.length - 1) : 0;
    const [low, share] = [Math.min(RAMP.length - 2, Math.floor(at)), at - Math.min(RAMP.length - 2, Math.floor(at))];
    for (let k = 0; k < 3; k++) out[4 * i + k] = RAMP[low]![k]! + share * (RAMP[low + 1]![k]! - RAMP[low]![k]!);
    out[4 * i + 3] = 255;
  }
  return out;
}
