/** The light of a film as the clean-up leaves it, beside the raw sums. */
import type { Balance } from "../document/balance";
import { luminance } from "../optics/colour";
import type { PassName } from "./passes";

/** Numbers of a cleaned pixel: three bands (cd/m²), then the square of the error of its luminance as it is estimated; NaN where it is not. */
export const CLEANED_FLOATS = 4;

/** Sides of the light that are cleaned: what the air sends, surfaces as the air attenuates them, the frame without any medium. */
export const SIDES = ["air", "surfaces", "clear"] as const;
export type Side = (typeof SIDES)[number];

/** Sides whose light groups are cleaned with them. */
export const GROUPED = ["air", "surfaces"] as const satisfies readonly Side[];
export type Grouped = (typeof GROUPED)[number];

/**
 * Cleaned sides of a film, CLEANED_FLOATS for each pixel of its crop, row by row; null for a side that is not cleaned. Of `lights` each is one of
 * the film's light groups, in its order; those of a side add up to it.
 */
export interface Cleaned extends Record<Side, Float32Array | null> {
  lights?: Record<Grouped, Float32Array[]>;
  /** Balance of the light groups that it was cleaned with, where there was one. */
  balance?: Balance;
}

/** A frame with what of it is cleaned; `crop` is [x0, y0, x1, y1). */
interface CleanedFrame {
  width: number;
  height: number;
  crop: readonly [number, number, number, number];
  cleaned?: Cleaned | null;
}

export const NOT_CLEANED: Cleaned = { air: null, surfaces: null, clear: null };

/** Sides that a pass is the sum of; none for passes that have no noise to speak of. */
const SIDES_OF: Partial<Record<PassName, readonly Side[]>> = {
  beauty: ["air", "surfaces"],
  air: ["air"],
  surfaces: ["surfaces"],
  clear: ["clear"],
};

/** Passes that a clean-up changes. */
export const CLEANED_PASSES = Object.keys(SIDES_OF) as PassName[];

/** Cleaned sides whose sum a pass is; null where the film has none of them, or the pass is no such sum. */
export function cleanedSides(film: CleanedFrame, pass: PassName): Float32Array[] | null {
  const sides = SIDES_OF[pass]?.map((side) => film.cleaned?.[side] ?? null);
  return sides?.every((side) => side !== null) ? sides : null;
}

/** A pass as it was cleaned, three numbers a pixel of the frame; null where it is not. */
export function cleanedValues(film: CleanedFrame, pass: PassName): Float32Array | null {
  const sides = cleanedSides(film, pass);
  if (!sides) return null;
  return sumOf(film, sides);
}

/** The same of what a light group, by its number, gives a side. */
export function cleanedLight(film: CleanedFrame, side: Grouped, group: number): Float32Array | null {
  const light = film.cleaned?.lights?.[side][group];
  return light ? sumOf(film, [light]) : null;
}

/** Sum of cleaned lights over the frame, three numbers a pixel. */
function sumOf(film: CleanedFrame, lights: readonly Float32Array[]): Float32Array {
  const [x0, y0, x1, y1] = film.crop;
  const out = new Float32Array(3 * film.width * film.height);
  let from = 0;
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++, from += CLEANED_FLOATS) {
      const to = 3 * (y * film.width + x);
      // rounded lights are added, so that files add up to the last bit
      for (const light of lights) for (let k = 0; k < 3; k++) out[to + k]! += light[from + k]!;
    }
  return out;
}

/**
 * Root mean square over pixels of the error that the cleaned beauty is thought to have, as a share of its luminance (of `dark` where it is
 * darker); null where it is not cleaned, or that error is not known.
 */
export function cleanedNoise(film: CleanedFrame, dark: number): number | null {
  const [air, surfaces] = cleanedSides(film, "beauty") ?? [];
  if (!air || !surfaces) return null;
  let squares = 0;
  for (let p = 0; p < air.length; p += CLEANED_FLOATS) {
    const light = luminance(air[p]! + surfaces[p]!, air[p + 1]! + surfaces[p + 1]!, air[p + 2]! + surfaces[p + 2]!);
    squares += (air[p + 3]! + surfaces[p + 3]!) / Math.max(dark, light) ** 2;
  }
  const mean = squares / (air.length / CLEANED_FLOATS);
  return mean >= 0 && mean < Infinity ? Math.sqrt(mean) : null;
}
