/** Triangles thinned for drawing: a part of them, each larger, so that what they cover stays. */

/** Triangles that stand in many places are drawn as they are up to so many, counted at each place; past that, a part of each. */
export const MAX_DRAWN = 2_000_000;
/** Triangles of a shape that are kept at least, as far as it has them. */
const MIN_KEPT = 24;
/** How far a triangle grows at most, in length. */
const MAX_GROWN = 3;

/** How many of `count` triangles in `places` places are drawn, where `all` such triangles are to share the budget. */
export function drawnOf(count: number, all: number, budget = MAX_DRAWN): number {
  if (all <= budget) return count;
  return Math.min(count, Math.max(MIN_KEPT, Math.round((count * budget) / all)));
}

/**
 * `keep` of the triangles, spread evenly over them, grown about their middles so that their areas sum to the same.
 * @param positions 9 floats a triangle
 * @param colours 9 bytes a triangle
 * @source after Cook et al. 2007, stochastic simplification of aggregate detail
 */
export function thinned(positions: Float32Array, colours: Uint8Array, keep: number): { positions: Float32Array; colours: Uint8Array } {
  const count = positions.length / 9;
  if (keep >= count) return { positions, colours };
  const grown = Math.min(MAX_GROWN, Math.sqrt(count / keep));
  const out = { positions: new Float32Array(9 * keep), colours: new Uint8Array(9 * keep) };
  for (let i = 0; i < keep; i++) {
    const from = Math.floor(((i + 0.5) * count) / keep);
    out.colours.set(colours.subarray(9 * from, 9 * (from + 1)), 9 * i);
    for (let k = 0; k < 3; k++) {
      const corners = [0, 3, 6].map((c) => positions[9 * from + c + k]!);
      const middle = (corners[0]! + corners[1]! + corners[2]!) / 3;
      corners.forEach((v, c) => (out.positions[9 * i + 3 * c + k] = middle + grown * (v - middle)));
    }
  }
  return out;
}
