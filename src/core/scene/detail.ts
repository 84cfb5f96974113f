/** Where a set has its detail: what maps of it are laid over, so that a ground of a kilometre does not make them coarse. */
import { transformPoint, type Affine } from "../math/affine";
import type { Box } from "../math/box";
import { AXES, cross, MOST, sub, vector, type V3 } from "../math/vectors";

/** Triangles looked at, at most. */
const LOOKED_AT = 40_000;
/** Length (m) above which a triangle counts for no more. */
const LONG = 4;
/** Share of all extent that may lie beyond each side, and what the box is widened by: share of its size and m. */
const BEYOND = 0.04;
const MARGIN = 0.05;
const LEAST_MARGIN = 0.1;

/**
 * Box about most of a set, by the extent of what lies where: the same whether triangles in several places are written out or kept once.
 * @param positions 9 numbers a triangle: those of the set itself, `own` of them, then those of `shared` @param bounds of all of it
 */
export function detailBounds(
  positions: Float32Array,
  own: number,
  shared: readonly { first: number; count: number; places: readonly { matrix: Affine }[] }[],
  bounds: Box,
): Box {
  const shown = own + shared.reduce((n, s) => n + s.count * s.places.length, 0);
  const step = Math.max(1, Math.ceil(shown / LOOKED_AT));
  const middles: [number[], number[], number[]] = [[], [], []];
  const extents: number[] = [];
  const corner = (i: number, c: number): V3 => vector((k) => positions[9 * i + 3 * c + k]!);
  const put = (a: V3, b: V3, c: V3): void => {
    for (const k of AXES) middles[k].push((a[k] + b[k] + c[k]) / 3);
    extents.push(Math.min(LONG, Math.sqrt(Math.hypot(...cross(sub(b, a), sub(c, a))) / 2)));
  };
  for (let i = 0; i < own; i += step) put(corner(i, 0), corner(i, 1), corner(i, 2));
  for (const { first, count, places } of shared)
    for (const { matrix } of places)
      for (let i = first; i < first + count; i += step) {
        const [a, b, c] = [0, 1, 2].map((k) => transformPoint(matrix, corner(i, k)));
        put(a!, b!, c!);
      }
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
