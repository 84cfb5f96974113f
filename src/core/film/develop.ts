/**
 * From linear light to display: exposure (EV at ISO 100), white balance, finish (see finish.ts), dither.
 */
import type { Lut } from "../data/lut";
import type { Balance } from "../document/balance";
import type { Finish, Glare } from "../document/finish";
import { type Matrix3 } from "../math/matrix";
import { whiteAt } from "../optics/exposure";
import { unreachable } from "../layout/codes";
import { F_COUNT, F_HITS, F_POSITION } from "../layout/layout";
import { whiteBalanceMatrix } from "../optics/colour";
import { encode, finisherOf } from "./finish";
import { frameOfFilm, scalarAt, type Film } from "./film";
import { addGlare, glares } from "./glare";
import { lightOf, LightRows } from "./light";
import { isScalar, PASSES, type PassDisplay, type PassName, type ScalarPass } from "./passes";

export interface Development {
  /** EV at ISO 100: a luminance of 1.2 · 2^EV cd/m² becomes 1. */
  exposure: number;
  /** kelvin */
  whiteBalance: number;
  /** Distance of the light that looks neutral from white light's line, Duv; none where it is not said. */
  tint?: number;
  /** As by default where it is not said. */
  finish?: Finish;
  /** The look-up table that the finish names; that step is left out where it is not said. */
  lut?: Lut | null;
  /** Of the film's light groups; as they were rendered where it is not said. */
  balance?: Balance;
}

/** Ordered pattern of even spread (R2 sequence of Roberts 2018 on the pixel grid) within ±0.5: keeps fog gradients from banding. */
function dither(x: number, y: number): number {
  const v = 0.7548776662466927 * x + 0.5698402909980532 * y;
  const f = v - Math.floor(v);
  return (f < 0.5 ? 2 * f : 2 - 2 * f) - 0.5;
}

/**
 * Develops a pass into RGBA of 8 or 16 bits (width × height × 4). Pixels not sampled yet show the nearest coarser
 * sample; outside the crop the picture is left as it is. What the film has cleaned is shown so. How each pass is shown stands in the table
 * of passes.
 * @param stride spacing of the coarsest sampled grid (1 when every pixel has samples)
 */
export function develop(film: Film, pass: PassName, development: Development, out: Uint8ClampedArray | Uint16Array, stride = 8): void {
  const [x0, y0, x1, y1] = film.crop;
  const d = film.data;
  const { display: shownAs } = PASSES[pass];
  // of the beauty, air and surfaces are summed
  const source = PASSES[pass].source ?? PASSES.air.source;
  // values over samples that hit are shown black where none did, but the pixel counts as sampled
  const counter = source.count === F_HITS ? F_COUNT : source.count;
  const first = source.sum;
  if (isLight(pass)) return developLight(film, pass, development, exposedMatrix(development), out, stride);
  const usual = (shownAs === "place" ? medianOf(film, (p) => placeSize(d, p)) : usualOf(film, pass)) ?? 0;
  const wide = out instanceof Uint16Array;
  /** Writes a display value (0 … 255) as the picture's numbers, its last digit dithered. */
  const put = wide
    ? (at: number, value: number, wobble: number): void => void (out[at] = Math.max(0, Math.min(65535, Math.round(257 * value + wobble))))
    : (at: number, value: number, wobble: number): void => void (out[at] = value + wobble);
  for (let y = y0; y < y1; y++) {
    for (let x = x0; x < x1; x++) {
      let p = (y * film.width + x) * film.stride;
      let n = d[p + counter]!;
      for (let s = 2; n === 0 && s <= stride; s *= 2) {
        p = ((y - ((y - y0) % s)) * film.width + (x - ((x - x0) % s))) * film.stride;
        n = d[p + counter]!;
      }
      const o = 4 * (y * film.width + x);
      out[o + 3] = wide ? 65535 : 255;
      if (n === 0) {
        out[o] = out[o + 1] = out[o + 2] = 0;
        continue;
      }
      const wobble = dither(x, y);
      if (isScalar(pass)) {
        const value = shownScalar(PASSES[pass].display, scalarAt(d, p, pass), usual);
        for (let k = 0; k < 3; k++) put(o + k, value, wobble);
        continue;
      }
      if (isColours(shownAs)) {
        const count = Math.max(1, d[p + source.count]!);
        for (let k = 0; k < 3; k++) {
          const v = d[p + first + k]! / count;
          put(o + k, shownColour(shownAs, v, usual), wobble);
        }
        continue;
      }
    }
  }
}

/** Whether a pass is light, which is exposed and finished. */
export const isLight = (pass: PassName): boolean => !isScalar(pass) && !isColours(PASSES[pass].display);

/** How three numbers that are no light are shown. */
type ColourDisplay = "share" | "vector" | "place";
const isColours = (as: PassDisplay): as is ColourDisplay => as === "share" || as === "vector" || as === "place";

/** Display value (0 … 255) of one of them. @param usual size that places are told against */
function shownColour(as: ColourDisplay, v: number, usual: number): number {
  switch (as) {
    case "share":
      return 255 * encode(Math.min(1, v));
    case "vector":
      return 127.5 * (1 + v);
    case "place":
      return shownScalar("signed", v, usual);
    default:
      return unreachable(as, "display of a pass");
  }
}

/** Size of a pixel's mean place, m: its largest number. */
function placeSize(d: Float32Array, p: number): number {
  const n = d[p + F_HITS]!;
  return n > 0 ? Math.max(...[0, 1, 2].map((k) => Math.abs(d[p + F_POSITION + k]!))) / n : 0;
}

/** Exposure and white balance as one matrix. */
export const exposedMatrix = ({ exposure, whiteBalance, tint }: Development): Matrix3 =>
  whiteBalanceMatrix(whiteBalance, tint).map((v) => v / whiteAt(exposure)) as Matrix3;

/** Wobbles of a row's pixels. */
export function dithered(to: Float32Array, x0: number, y: number): void {
  for (let i = 0; i < to.length; i++) to[i] = dither(x0 + i, y);
}

/** Develops light: what is looked at as a whole picture has its glare. */
function developLight(
  film: Film,
  pass: PassName,
  development: Development,
  m: Matrix3,
  out: Uint8ClampedArray | Uint16Array,
  stride: number,
): void {
  const [x0, y0, x1, y1] = film.crop;
  const [width, height] = [x1 - x0, y1 - y0];
  const finisher = finisherOf(development.finish, development.lut);
  const wobbles = new Float32Array(width);
  const glare = glareIn(pass, development);
  const put = (y: number, light: Float32Array): void => {
    dithered(wobbles, x0, y);
    finisher.putRow(light, m, wobbles, out, 4 * (y * film.width + x0));
  };
  if (glare) {
    const light = lightOf(film, pass, development.balance, stride);
    addGlare(light, width, height, glare, frameOfFilm(film).height, development.exposure);
    for (let y = y0; y < y1; y++) put(y, light.subarray(3 * width * (y - y0), 3 * width * (y - y0 + 1)));
    return;
  }
  const rows = new LightRows(film, pass, development.balance, stride);
  const light = new Float32Array(3 * width);
  for (let y = y0; y < y1; y++) {
    rows.row(y, light);
    put(y, light);
  }
}

/** Passes that are whole pictures, as a lens throws them. */
const THROWN: readonly PassName[] = ["beauty", "clear"];

/** The glare that a pass is shown with; null for none. */
export function glareIn(pass: PassName, { finish }: Development): Glare | null {
  return finish?.on && THROWN.includes(pass) && glares(finish.glare) ? finish.glare : null;
}

/** Develops linear colours (three numbers a pixel) into RGBA bytes. */
export function developColours(colours: Float32Array, development: Development, out: Uint8ClampedArray): void {
  const scale = 1 / whiteAt(development.exposure);
  const m = whiteBalanceMatrix(development.whiteBalance, development.tint).map((v) => v * scale) as Matrix3;
  finisherOf(development.finish, development.lut).putRow(colours, m, new Float32Array(colours.length / 3), out, 0);
}

/** Display value (0 … 255) of a number whose median over the frame is `usual`. */
function shownScalar(as: (typeof PASSES)[ScalarPass]["display"], v: number, usual: number): number {
  switch (as) {
    case "even share":
      return 255 * Math.max(0, Math.min(1, v));
    case "distance":
      return v < Infinity ? 255 / (1 + v / usual) : 0;
    case "signed":
      return 255 * (0.5 + Math.atan(v / usual) / Math.PI);
    case "amount":
      return (255 * Math.max(0, v)) / (Math.max(0, v) + usual);
    default:
      return unreachable(as, "display of a pass");
  }
}

/** Number that shown grey levels of a pass are told against; null of passes that are colours. */
export const usualOf = (film: Film, pass: PassName): number | null => (isScalar(pass) ? median(film, pass) : null);

/** Numbers of a pass at places between black (0) and white (1), where grey levels stand for numbers; null where they do not. */
export function passTicks(pass: PassName, usual: number): { at: number; value: number }[] | null {
  if (!isScalar(pass)) return null;
  const as = PASSES[pass].display;
  switch (as) {
    case "even share":
      return [0, 0.5, 1].map((v) => ({ at: v, value: v }));
    case "distance":
    case "amount":
      return [4, 1, 0.25].map((k) => ({ at: shownScalar(as, k * usual, usual) / 255, value: k * usual })).sort((a, b) => a.at - b.at);
    case "signed":
      return [-1, 0, 1].map((k) => ({ at: shownScalar(as, k * usual, usual) / 255, value: k * usual }));
    default:
      return unreachable(as, "display of a pass");
  }
}

/** Median size of a pass over the frame, above 0. */
const median = (film: Film, pass: ScalarPass): number => medianOf(film, (p) => scalarAt(film.data, p, pass));

/** Median size of pixels' numbers, above 0. @param of the pixel at a place of the film's data */
function medianOf(film: Film, of: (p: number) => number): number {
  const found: number[] = [];
  const step = Math.max(1, Math.floor((film.width * film.height) / 2000));
  for (let i = 0; i < film.width * film.height; i += step) {
    const v = Math.abs(of(i * film.stride));
    if (v > 0 && v < Infinity) found.push(v);
  }
  found.sort((a, b) => a - b);
  return found[found.length >> 1] ?? 1;
}
