/** Exposure and white balance from what is in the picture. */
import { luminance, whiteOf, type Rgb } from "../optics/colour";
import { MIDDLE_GREY, whiteAt } from "../optics/exposure";
import type { Balance } from "../document/balance";
import { placeOnFilm, sampledNear, type Film } from "./film";
import { lightOf } from "./light";
import { F_COUNT, F_TRANSMITTANCE } from "../layout/layout";

/** Mean linear colour of the beauty, its light groups balanced, about a place of the frame (shares); null where there are no samples. */
export function colourAt(film: Film, x: number, y: number, balance?: Balance, radius = 2): Rgb | null {
  const [px, py] = placeOnFilm(film, x, y).map(Math.floor) as [number, number];
  const crop: [number, number, number, number] = [
    Math.max(0, px - radius),
    Math.max(0, py - radius),
    Math.min(film.width, px + radius + 1),
    Math.min(film.height, py + radius + 1),
  ];
  const sum: Rgb = [0, 0, 0];
  let n = 0;
  for (let j = crop[1]; j < crop[3]; j++)
    for (let i = crop[0]; i < crop[2]; i++) {
      const at = (j * film.width + i) * film.stride;
      if (!(film.data[at + F_COUNT]! > 0)) continue;
      const pixel: Film = {
        ...film,
        data: film.data.subarray(at, at + film.stride),
        width: 1,
        height: 1,
        crop: [0, 0, 1, 1],
        frame: null,
        cleaned: null,
      };
      lightOf(pixel, "beauty", balance).forEach((v, k) => (sum[k]! += v));
      n++;
    }
  return n > 0 ? (sum.map((v) => v / n) as Rgb) : null;
}

/** Transmittance (of luminance) of the air to what a place of the frame shows; null where there are no samples. */
export function survivingIn(film: Film, x: number, y: number): number | null {
  const at = sampledNear(film, x, y);
  if (at === null) return null;
  const n = film.data[at + F_COUNT]!;
  const t = (k: number): number => film.data[at + F_TRANSMITTANCE + k]! / n;
  return luminance(t(0), t(1), t(2));
}

/** Exposure (EV at ISO 100) that makes a luminance (cd/m²) middle grey; null for black. */
export function exposureFor(colour: Rgb): number | null {
  const l = luminance(...colour);
  if (!(l > 0)) return null;
  return Math.max(-20, Math.min(30, Math.log2(l / (whiteAt(0) * MIDDLE_GREY))));
}

/** White balance (K, and tint) that makes a colour neutral, as far as the range goes; null for black. */
export function neutralWhite(colour: Rgb): { kelvin: number; tint: number } | null {
  if (!(Math.min(...colour) > 0)) return null;
  const white = whiteOf(colour);
  return white && { kelvin: Math.round(white.kelvin), tint: Number(white.tint.toFixed(4)) };
}
