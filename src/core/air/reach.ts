/** Lengths of a frame that its air is judged by. */
import { AXES } from "../math/vectors";
import type { SceneDocument } from "../document/schema";

type Bounds = readonly number[];

/** Where nothing stands yet, m. */
const EMPTY = 50;

/** Longest distance that matters in a set, m. @param bounds [least x, y, z, most x, y, z]; null before there is one */
export function reachOfSet(bounds: Bounds | null): number {
  const size = bounds ? Math.hypot(...AXES.map((k) => bounds[k + 3]! - bounds[k]!)) : 0;
  return size > 0 ? Math.max(0.1, Math.min(500, size)) : EMPTY;
}

/**
 * What a frame shows of it: longest distance that matters, and the height of the ground in view, m.
 * @param median distance that half of what is seen is nearer than, m; null where only background is
 */
export function frameReach(doc: SceneDocument, bounds: Bounds | null, median: number | null): { reach: number; ground: number } {
  const reach = Math.min(reachOfSet(bounds), median === null ? Infinity : 3 * median);
  return { reach, ground: Math.max(bounds?.[1] ?? 0, doc.camera.position[1] - reach / 4) };
}
