/** A film at a fraction of its size, for small pictures of many passes: every sum over blocks of pixels. */
import { CLEANED_FLOATS, SIDES, type Cleaned, type Grouped } from "./cleaned";
import { MATTE_FLOATS, PIXEL_FLOATS } from "../layout/layout";
import type { Film } from "./film";

/**
 * The crop of a film, at most so many pixels wide. Sums and counts add up, so that passes read from it are means over blocks; mattes,
 * which name what they are of, do not, and are left empty.
 */
export function smallFilm(film: Film, most: number): Film {
  const [x0, y0, x1, y1] = film.crop;
  const block = Math.max(1, Math.ceil((x1 - x0) / most));
  const [width, height] = [Math.ceil((x1 - x0) / block), Math.ceil((y1 - y0) / block)];
  const { stride } = film;
  const data = new Float32Array(width * height * stride);
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const to = stride * (width * Math.floor((y - y0) / block) + Math.floor((x - x0) / block));
      const from = stride * (y * film.width + x);
      for (let i = 0; i < stride; i++) data[to + i]! += film.data[from + i]!;
    }
  if (film.mattes) for (let p = 0; p < data.length; p += stride) data.fill(0, p + PIXEL_FLOATS, p + PIXEL_FLOATS + MATTE_FLOATS);
  const small = (values: Float32Array): Float32Array => means(values, x1 - x0, y1 - y0, block);
  return {
    data,
    stride,
    width,
    height,
    crop: [0, 0, width, height],
    lights: film.lights,
    mattes: film.mattes,
    ...(film.plate ? { plate: true } : {}),
    cleaned: smallCleaned(film, small),
  };
}

function smallCleaned({ cleaned }: Film, small: (values: Float32Array) => Float32Array): Cleaned | null {
  if (!cleaned) return null;
  const of = (side: Grouped): Float32Array[] => cleaned.lights![side].map(small);
  const sides = Object.fromEntries(SIDES.map((side) => [side, cleaned[side] && small(cleaned[side])])) as Omit<
    Cleaned,
    "lights" | "balance"
  >;
  return {
    ...sides,
    ...(cleaned.lights ? { lights: { air: of("air"), surfaces: of("surfaces") } } : {}),
    ...(cleaned.balance ? { balance: cleaned.balance } : {}),
  };
}

/** Means over blocks of what is cleaned. */
function means(values: Float32Array, across: number, down: number, block: number): Float32Array {
  const [width, height] = [Math.ceil(across / block), Math.ceil(down / block)];
  const out = new Float32Array(CLEANED_FLOATS * width * height);
  for (let y = 0, from = 0; y < down; y++) {
    const rows = Math.min(block, down - block * Math.floor(y / block));
    for (let x = 0; x < across; x++, from += CLEANED_FLOATS) {
      const column = Math.floor(x / block);
      const share = 1 / (rows * Math.min(block, across - block * column));
      const to = CLEANED_FLOATS * (width * Math.floor(y / block) + column);
      for (let i = 0; i < CLEANED_FLOATS; i++) out[to + i]! += share * values[from + i]!;
    }
  }
  return out;
}
