/** What two pictures differ in, pixel by pixel, and where that is no more than their noise. */
import { F_COUNT } from "../layout/layout";
import { deltaE, labOf, type Lab } from "../optics/delta-e";
import { whiteAt } from "../optics/exposure";
import { decodeSrgb, luminance } from "../optics/colour";
import { CLEANED_FLOATS, cleanedSides } from "./cleaned";
import { develop, type Development } from "./develop";
import { frameOfFilm, scalarAt, type Film } from "./film";
import { lightOf } from "./light";

/** How a difference is counted: exposed light in stops or as a share of the brighter, or what is seen, in ΔE₀₀. */
export const DIFFERENCE_KINDS = ["stops", "relative", "deltaE"] as const;
export type DifferenceKind = (typeof DIFFERENCE_KINDS)[number];

/** A film with how it is looked at. */
export interface Picture {
  film: Film;
  development: Development;
}

export interface Difference {
  /** RGBA bytes of the first picture's frame. */
  pixels: Uint8ClampedArray<ArrayBuffer>;
  width: number;
  height: number;
  /** Share of the compared pixels that differ by more than their noise. */
  told: number;
  /** Root mean square of the difference, in its own unit. */
  rms: number;
  /** Whether the second picture has another size or shape and was fitted to the frame of the first. */
  fitted: boolean;
}

/** Standard errors below which a difference says nothing. */
const ERRORS = 2;
/** Colours of what is brighter in the second, of what is darker, of what noise hides, of what is the same. */
export const BRIGHTER = [242, 178, 92] as const;
export const DARKER = [96, 156, 236] as const;
export const HIDDEN = 62;
/** Light below which ratios are not told: a share of white. */
const BLACK = 2e-5;

/** Luminance of exposed light of each pixel of the crop, and its standard error. */
function measured({ film, development }: Picture): { light: Float32Array; error: Float32Array } {
  const [x0, y0, x1, y1] = film.crop;
  const scale = 1 / whiteAt(development.exposure);
  const rgb = lightOf(film, "beauty", development.balance);
  const n = (x1 - x0) * (y1 - y0);
  const light = new Float32Array(n),
    error = new Float32Array(n);
  const sides = cleanedSides(film, "beauty");
  for (let y = y0, i = 0; y < y1; y++)
    for (let x = x0; x < x1; x++, i++) {
      light[i] = scale * luminance(rgb[3 * i]!, rgb[3 * i + 1]!, rgb[3 * i + 2]!);
      const p = (y * film.width + x) * film.stride;
      const rendered = film.data[p + F_COUNT]! >= 2 ? scalarAt(film.data, p, "noise") : NaN;
      // what is cleaned knows its own error, or not: then that of what was rendered counts
      const cleaned = sides ? Math.sqrt(sides.reduce((a, s) => a + s[CLEANED_FLOATS * i + 3]!, 0)) : NaN;
      error[i] = scale * (cleaned > 0 ? cleaned : rendered);
    }
  return { light, error };
}

/** Colours as they are seen, L*a*b* of each pixel of the crop. */
function seen({ film, development }: Picture): Float32Array {
  const [x0, y0, x1, y1] = film.crop;
  const pixels = new Uint8ClampedArray(4 * film.width * film.height);
  develop(film, "beauty", development, pixels);
  const out = new Float32Array(3 * (x1 - x0) * (y1 - y0));
  const linear = Float64Array.from({ length: 256 }, (_, v) => decodeSrgb(v / 255));
  for (let y = y0, i = 0; y < y1; y++)
    for (let x = x0; x < x1; x++, i += 3) {
      const o = 4 * (y * film.width + x);
      out.set(labOf(linear[pixels[o]!]!, linear[pixels[o + 1]!]!, linear[pixels[o + 2]!]!), i);
    }
  return out;
}

const labAt = (labs: Float32Array, i: number): Lab => [labs[3 * i]!, labs[3 * i + 1]!, labs[3 * i + 2]!];

/** ΔE that the last digit of a display value, which is dithered, makes at most. */
const DITHERED = 1;

/**
 * What the second picture has otherwise than the first. Equal pixels are black; what noise may be is grey; brighter and darker have a
 * colour each, as strong as the difference is of the scale. Of pictures of unequal frames the second is fitted to the first by shares of the frame.
 * @param scale difference that is painted full: stops, share of 1, ΔE
 */
export function difference(first: Picture, second: Picture, kind: DifferenceKind, scale: number): Difference {
  const { width, height } = first.film;
  const [x0, y0, x1, y1] = first.film.crop;
  const other = second.film;
  const [u0, v0, u1, v1] = other.crop;
  const [frame, otherFrame] = [frameOfFilm(first.film), frameOfFilm(other)];
  const fitted = frame.width !== otherFrame.width || frame.height !== otherFrame.height;
  const [a, b] = [measured(first), measured(second)];
  const colours = kind === "deltaE" ? ([seen(first), seen(second)] as const) : null;
  const pixels = new Uint8ClampedArray(4 * width * height);
  let compared = 0,
    told = 0,
    squares = 0;
  for (let y = y0, i = 0; y < y1; y++)
    for (let x = x0; x < x1; x++, i++) {
      const o = 4 * (y * width + x);
      pixels[o + 3] = 255;
      const [u, v] = [
        Math.floor(((frame.x + x + 0.5) / frame.width) * otherFrame.width) - otherFrame.x,
        Math.floor(((frame.y + y + 0.5) / frame.height) * otherFrame.height) - otherFrame.y,
      ];
      // outside a region that was rendered alone there is nothing to compare with
      if (u < u0 || v < v0 || u >= u1 || v >= v1) continue;
      const j = (v - v0) * (u1 - u0) + (u - u0);
      const [one, two] = [a.light[i]!, b.light[j]!];
      if (!(one === one && two === two)) continue;
      compared++;
      const error = ERRORS * Math.hypot(a.error[i]! || 0, b.error[j]! || 0);
      const pair = colours && ([labAt(colours[0], i), labAt(colours[1], j)] as const);
      const by = pair ? deltaE(...pair) : one === two ? 0 : counted(one, two, kind as "stops" | "relative");
      squares += Math.min(Math.abs(by), 1e3) ** 2;
      if (by === 0) continue;
      const noise = Math.abs(two - one) <= error;
      if (pair ? by <= DITHERED || (noise && sameHue(...pair)) : noise) {
        pixels[o] = pixels[o + 1] = pixels[o + 2] = HIDDEN;
        continue;
      }
      told++;
      const strength = Math.abs(by) / scale;
      // a root lets small differences be seen
      const k = 0.25 + 0.75 * Math.sqrt(Math.min(1, strength));
      const colour = two >= one ? BRIGHTER : DARKER;
      for (let c = 0; c < 3; c++) pixels[o + c] = k * colour[c]!;
    }
  const of = Math.max(1, compared);
  return { pixels, width, height, told: told / of, rms: Math.sqrt(squares / of), fitted };
}

function counted(one: number, two: number, kind: "stops" | "relative"): number {
  const [p, q] = [Math.max(BLACK, one), Math.max(BLACK, two)];
  return kind === "stops" ? Math.log2(q / p) : (q - p) / Math.max(p, q);
}

/** Whether two colours differ in little but their lightness, which noise moves first. */
const sameHue = (a: Lab, b: Lab): boolean => Math.hypot(a[1] - b[1], a[2] - b[2]) < Math.max(2, 0.1 * Math.hypot(a[1], a[2]));
