/** How far apart two small renders of a frame are to the eye, where what noise does is taken out by their halves. */
import { develop, type Development } from "../film/develop";
import type { Film } from "../film/film";
import { smallFilm } from "../film/small";
import { F_AIR, F_AIR_ODD, F_COUNT, F_LUMINANCE2, F_SEEN, F_SURFACES, F_SURFACES_ODD } from "../layout/layout";
import { decodeSrgb } from "../optics/colour";
import { deltaE, labOf, type Lab } from "../optics/delta-e";

/** Blocks across a frame. */
const ACROSS = 16;
/** By how many of its noise's squares the largest product of two halves lies above nothing by chance, among the blocks of a frame. */
const CHANCE = 5.5;

export interface SeenChange {
  /** ΔE₀₀ between the two pictures: root of its mean square over blocks of the frame, its standard error, and that of the worst block. */
  mean: number;
  error: number;
  worst: number;
}

/** Half of a film's samples as a film: every second one, or the others. */
function half(film: Film, odd: boolean): Film {
  const data = film.data.slice();
  for (let p = 0; p < data.length; p += film.stride) {
    const n = data[p + F_COUNT]!;
    const own = odd ? Math.floor(n / 2) : Math.ceil(n / 2);
    for (let k = 0; k < 3; k++) {
      const [air, surfaces, seen] = [data[p + F_AIR_ODD + k]!, data[p + F_SURFACES_ODD + k]!, data[p + F_SEEN + k]!];
      data[p + F_AIR + k] = odd ? air : data[p + F_AIR + k]! - air;
      // what is seen directly is in no half: each has its share of it
      const rest = data[p + F_SURFACES + k]! - seen - surfaces;
      data[p + F_SURFACES + k] = (odd ? surfaces : rest) + (n > 0 ? (seen * own) / n : 0);
    }
    data[p + F_COUNT] = own;
    data[p + F_LUMINANCE2] = 0;
  }
  return { ...film, data, cleaned: null };
}

/** Display colours of a film's pixels in L*a*b*. */
function colours(film: Film, development: Development): Lab[] {
  const wide = new Uint16Array(4 * film.width * film.height);
  develop(film, "beauty", development, wide);
  return Array.from({ length: film.width * film.height }, (_, i) => {
    const at = (k: number): number => decodeSrgb(wide[4 * i + k]! / 65535);
    return labOf(at(0), at(1), at(2));
  });
}

/** What the eye sees of a picture: blocks of its frame, by each half of its samples. @param development as both pictures are looked at */
export function seenBlocks(film: Film, development: Development): readonly [Lab[], Lab[]] {
  const small = smallFilm({ ...film, cleaned: null }, ACROSS);
  return [colours(half(small, false), development), colours(half(small, true), development)];
}

/**
 * How far apart two pictures of a frame are. Of a difference by chance the halves say opposite things as often as the same, so that the
 * mean of their products is that of the truth alone. The two films must be of one size.
 */
export function seenChange(first: readonly [Lab[], Lab[]], second: readonly [Lab[], Lab[]]): SeenChange {
  const n = first[0].length;
  let apart = 0;
  const products = Array.from({ length: n }, (_, i) => {
    const [a, b] = [0, 1].map((h) => difference(first[h as 0 | 1][i]!, second[h as 0 | 1][i]!)) as [Change, Change];
    apart += (a.by[0] - b.by[0]) ** 2 + (a.by[1] - b.by[1]) ** 2 + (a.by[2] - b.by[2]) ** 2;
    const along = a.by[0] * b.by[0] + a.by[1] * b.by[1] + a.by[2] * b.by[2];
    const size = Math.hypot(...a.by) * Math.hypot(...b.by);
    // as far as the eye sees it: ΔE₀₀ of each half, by how far the halves agree
    return size > 0 ? (along / size) * a.seen * b.seen : 0;
  });
  const mean = products.reduce((s, v) => s + v, 0) / n;
  const spread = Math.sqrt(products.reduce((s, v) => s + (v - mean) ** 2, 0) / Math.max(1, n - 1) / n);
  const root = Math.sqrt(Math.max(0, mean));
  return {
    mean: root,
    // of a root; where it is none, what chance makes of nothing
    error: root > Math.sqrt(spread) ? spread / (2 * root) : Math.sqrt(spread),
    // of so many blocks one stands out by chance: halves that differ by so much have such products
    worst: Math.sqrt(Math.max(0, Math.max(...products) - CHANCE * (apart / n / 2))),
  };
}
interface Change {
  by: readonly [number, number, number];
  seen: number;
}
const difference = (a: Lab, b: Lab): Change => ({ by: [b[0] - a[0], b[1] - a[1], b[2] - a[2]], seen: deltaE(a, b) });
