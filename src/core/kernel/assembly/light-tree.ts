/** The tree over lights and emissive triangles: its nodes, and ways down it. */
import { MIN_SINE2 } from "./precision";
import { LIGHT_TREE_WORDS, LT_CENTRE, LT_FIRST, LT_POWER, LT_RADIUS, LT_SECOND, P_LIGHT_TREE } from "../../layout/layout";
import { paramAddress, word, wordInt } from "./state";

/** Address of its root; 0 where lights are few. */
export let tree: usize = 0;

/** Reads from the parameters where the tree lies. */
export function prepareLightTree(): void {
  tree = paramAddress(P_LIGHT_TREE);
}

/** Address of a node. */
// @ts-ignore: decorator
@inline
export function nodeAt(i: i32): usize {
  return tree + <usize>(i * LIGHT_TREE_WORDS * 8);
}

/** Irradiance (times a constant) that a node gives a point. */
// @ts-ignore: decorator
@inline
function given(i: i32, x: f64, y: f64, z: f64): f64 {
  const p = nodeAt(i);
  const a = word(p, LT_CENTRE) - x,
    b = word(p, LT_CENTRE + 1) - y,
    c = word(p, LT_CENTRE + 2) - z;
  const r = word(p, LT_RADIUS);
  return word(p, LT_POWER) / Math.max(a * a + b * b + c * c, r * r + MIN_SINE2);
}

/** One of the lights below a node, by what its halves give a point. @param u in [0, 1) */
export function lightBelow(node: i32, x: f64, y: f64, z: f64, u: f64): i32 {
  while (true) {
    const p = nodeAt(node);
    const first = wordInt(p, LT_FIRST),
      second = wordInt(p, LT_SECOND);
    if (first < 0) return second;
    const a = given(first, x, y, z),
      b = given(second, x, y, z);
    const c = a + b > 0.0 ? a / (a + b) : 0.5;
    node = u < c ? first : second;
    u = u < c ? u / c : (u - c) / (1.0 - c);
  }
}
