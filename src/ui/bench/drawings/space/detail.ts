/** Which triangles a drawing shows where it has no time for all: the largest of the set, and a share of every shape. */

import { CLASSES } from "../../model/by-area";

/** A shape that is drawn: triangles in each class of area, and the places it stands in. */
export interface Shape {
  classes: readonly number[];
  places: number;
}

const sum = (of: readonly number[]): number => of.reduce((a, n) => a + n, 0);

/**
 * How many triangles of each shape are drawn, counted from its first, so that all places together show no more than the
 * budget: half of it for a like share of every shape, the rest for the largest triangles of the set.
 */
export function detail(shapes: readonly Shape[], budget: number): number[] {
  const counts = shapes.map((s) => sum(s.classes));
  const all = counts.reduce((a, n, i) => a + n * shapes[i]!.places, 0);
  if (all <= budget) return counts;
  const kept = counts.map((n) => Math.floor((n * budget) / (2 * all)));
  let left = budget - kept.reduce((a, n, i) => a + n * shapes[i]!.places, 0);
  const upTo = shapes.map(() => 0);
  for (let c = 0; c < CLASSES; c++) {
    const more = shapes.map((s, i) => Math.max(0, (upTo[i]! += s.classes[c]!) - kept[i]!));
    const needed = more.reduce((a, n, i) => a + n * shapes[i]!.places, 0);
    const share = needed > left ? left / needed : 1;
    more.forEach((n, i) => (kept[i]! += Math.floor(n * share)));
    if (share < 1) break;
    left -= needed;
  }
  return kept;
}
