/** Where a set has its detail: what maps of it are laid over, so that a ground of a kilometre does not make them coarse. */
import type { Box } from "../math/box";
import { AXES, MOST } from "../math/vectors";

/** Triangles looked at, at most. */
const LOOKED_AT = 40_000;
/** Length (m) above which a triangle counts for no more. */
const LONG = 8;
/** Share of all extent that may lie beyond each side, and what the box is widened by: share of its size and m. */
const BEYOND = 0.04;
const MARGIN = 0.05;
const LEAST_MARGIN = 0.1;

/**
 * Box about most of a set, by the extent of what lies where.
 * @param positions 9 numbers a triangle, of the first `count` @param boxes of what stands in several places @param bounds of all of it
 */
export function detailBounds(positions: Float32Array, count: number, boxes: readonly Box[], bounds: Box): Box {
  const step = Math.max(1, Math.ceil(count / LOOKED_AT));
  const middles: [number[], number[], number[]] = [[], [], []];
  const extents: number[] = [];
  const put = (at: (k: 0 | 1 | 2) => number, extent: number): void => {
    for (const k of AXES) middles[k].push(at(k));
    extents.push(Math.min(LONG, extent));
  };
  for (let i = 0; i < count; i += step) {
    const p = positions.subarray(9 * i, 9 * i + 9);
    const [a, b] = [AXES.map((k) => p[3 + k]! - p[k]!), AXES.map((k) => p[6 + k]! - p[k]!)];
    const cross = Math.hypot(a[1]! * b[2]! - a[2]! * b[1]!, a[2]! * b[0]! - a[0]! * b[2]!, a[0]! * b[1]! - a[1]! * b[0]!);
    put((k) => (p[k]! + p[3 + k]! + p[6 + k]!) / 3, Math.sqrt(cross / 2));
  }
  for (const box of boxes) put((k) => (box[k] + box[MOST[k]]) / 2, Math.hypot(...AXES.map((k) => box[MOST[k]] - box[k])));
  const all = extents.reduce((sum, x) => sum + x, 0);
  const out: Box = [...bounds];
  if (!(all > 0)) return out;
  for (const k of AXES) {
    const order = extents.map((_, i) => i).sort((i, j) => middles[k][i]! - middles[k][j]!);
    const end = (from: readonly number[]): number => {
      let sum = 0;
      for (const i of from) if ((sum += extents[i]!) >= BEYOND * all) return middles[k][i]!;
      return middles[k][from.at(-1)!]!;
    };
    const [low, high] = [end(order), end(order.reverse())];
    const margin = Math.max(LEAST_MARGIN, MARGIN * (high - low));
    out[k] = Math.max(bounds[k], low - margin);
    out[MOST[k]] = Math.min(bounds[MOST[k]], high + margin);
  }
  return out;
}
