/**
 * Planes of the tile that is cleaned: numbers of one kind, row by row, four pixels to a vector. A margin all round holds what
 * lies beyond the tile, so that no loop asks whether a neighbour is there.
 */

/** Halves of the light: A of the even samples, then B of the odd, linear bands divided by what modulates them. */
export const HALF_A: i32 = 0;
export const HALF_B: i32 = HALF_A + 3;
/** What the light was divided by. */
export const MODULATION: i32 = HALF_B + 3;
/** Light that is seen directly: it is left as it is, and added at the end. */
export const SEEN: i32 = MODULATION + 3;
/** Share of the samples that lies in B. */
export const SHARE_B: i32 = SEEN + 3;
/** What neighbours are compared by, scaled so that a difference of 1 counts. */
export const FEATURES: i32 = SHARE_B + 1;
const MAX_FEATURES: i32 = 8;
/** Luminance of the halves, of both together, and the variance of that. */
export const LUMINANCE_A: i32 = FEATURES + MAX_FEATURES;
export const LUMINANCE_B: i32 = LUMINANCE_A + 1;
export const GUIDE: i32 = LUMINANCE_B + 1;
export const VARIANCE: i32 = GUIDE + 1;
/** Weighted sums over neighbours: both halves together by band, luminance of either, and the weights. */
export const SUM: i32 = VARIANCE + 1;
export const SUM_A: i32 = SUM + 3;
export const SUM_B: i32 = SUM_A + 1;
export const WEIGHT: i32 = SUM_B + 1;
/** Room for steps between. */
export const WORK: i32 = WEIGHT + 1;
const WORK_PLANES: i32 = 5;
const PLANES: i32 = WORK + WORK_PLANES;

/** Width and height of the tile, its margin, and numbers in a row of a plane. */
export let width: i32 = 0;
export let height: i32 = 0;
export let margin: i32 = 0;
export let stride: i32 = 0;
let planeBytes: usize = 0;
let base: usize = 0;

/** Address from which planes may lie. */
export function first(): usize {
  return (__heap_base + 15) & ~15;
}

/** Lays out planes for a tile from an address on. @returns the address behind them */
export function layOut(w: i32, h: i32, m: i32, from: usize): usize {
  width = w;
  height = h;
  margin = m;
  // a vector at the end of a row may reach past it
  stride = (w + 2 * m + 8 + 3) & ~3;
  base = from;
  planeBytes = ((<usize>stride * <usize>(h + 2 * m)) << 2) + 64;
  return base + <usize>PLANES * planeBytes;
}

/** Address of a pixel of a plane; (0, 0) is the tile's first, the margin has negative places. */
// @ts-ignore: decorator
@inline
export function at(plane: i32, x: i32, y: i32): usize {
  return base + <usize>plane * planeBytes + ((<usize>((y + margin) * stride + x + margin)) << 2);
}

/** Bytes from a place of one plane to the same of the next. */
// @ts-ignore: decorator
@inline
export function step(): usize {
  return planeBytes;
}

/** Sets a plane to 0. */
export function clear(plane: i32): void {
  memory.fill(base + <usize>plane * planeBytes, 0, planeBytes);
}
