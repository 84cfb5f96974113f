/** Leaves of the scene's tree that hold places of shared triangles. */
import type { Box } from "../math/box";
import { AXES } from "../math/vectors";
import type { BinaryTree } from "./binary-tree";
import { unionOf } from "../data/geometry";

/**
 * The tree with each place in a leaf of its own: leaves that hold places besides others become small trees.
 * @param boxes 6 floats for each reference, in the order of the leaves
 * @param pairCount numbers from here on are places
 */
export function splitInstances(tree: BinaryTree, boxes: Float32Array, pairCount: number): BinaryTree {
  const { order } = tree;
  const isPlace = (i: number): boolean => order[i]! >= pairCount;
  let more = 0;
  for (let id = 0; id < tree.used; id++) {
    if (tree.left[id]! >= 0) continue;
    const groups = groupsOf(tree.start[id]!, tree.count[id]!, isPlace);
    more += 2 * (groups - 1);
  }
  const grown = (a: Int32Array): Int32Array => {
    const out = new Int32Array(tree.used + more);
    out.set(a.subarray(0, tree.used));
    return out;
  };
  const box = new Float32Array(6 * (tree.used + more));
  box.set(tree.box.subarray(0, 6 * tree.used));
  const out: BinaryTree = {
    box,
    left: grown(tree.left),
    right: grown(tree.right),
    start: grown(tree.start),
    count: grown(tree.count),
    used: tree.used,
    order,
  };
  for (let id = 0; id < tree.used; id++) {
    const [start, count] = [tree.start[id]!, tree.count[id]!];
    if (tree.left[id]! >= 0 || groupsOf(start, count, isPlace) < 2) continue;
    pairsFirst(start, count, order, boxes, isPlace);
    let pairs = 0;
    while (pairs < count && !isPlace(start + pairs)) pairs++;
    // parted in the middle again and again: leaves hold a handful
    const part = (at: number, first: number, size: number): void => {
      const held = Math.max(0, Math.min(size, start + pairs - first));
      if (size === 1 || size === held) {
        out.left[at] = -1;
        out.start[at] = first;
        out.count[at] = size;
        return;
      }
      const low = Math.max(held, size >> 1);
      const [l, r] = [out.used, out.used + 1];
      out.used += 2;
      out.left[at] = l;
      out.right[at] = r;
      for (const [node, f, n] of [
        [l, first, low],
        [r, first + low, size - low],
      ] as const) {
        out.box.set(unionOf(Array.from({ length: n }, (_, i) => boxAt(boxes, f + i))), 6 * node);
        part(node, f, n);
      }
    };
    part(id, start, count);
  }
  return out;
}

/** Groups that a leaf's references are parted into: its pairs together, each place by itself. */
function groupsOf(start: number, count: number, isPlace: (i: number) => boolean): number {
  let places = 0;
  for (let i = start; i < start + count; i++) if (isPlace(i)) places++;
  return places + (places < count ? 1 : 0);
}

const boxAt = (boxes: Float32Array, i: number): Box => [...boxes.subarray(6 * i, 6 * i + 6)] as Box;

/** Sorts the references of a leaf: pairs before places, places along the longest side of what their middles span. */
function pairsFirst(start: number, count: number, order: Int32Array, boxes: Float32Array, isPlace: (i: number) => boolean): void {
  const all = Array.from({ length: count }, (_, k) => ({
    number: order[start + k]!,
    place: isPlace(start + k),
    box: boxAt(boxes, start + k),
  }));
  const middles = all.filter((r) => r.place).map((r) => AXES.map((k) => r.box[k] + r.box[k + 3]!));
  const span = AXES.map((k) => Math.max(...middles.map((m) => m[k]!)) - Math.min(...middles.map((m) => m[k]!)));
  const axis = span.indexOf(Math.max(...span));
  const key = (r: (typeof all)[number]): number => (r.place ? r.box[axis]! + r.box[axis + 3]! : -Infinity);
  all.sort((a, b) => Number(a.place) - Number(b.place) || (a.place ? key(a) - key(b) : 0));
  all.forEach((r, k) => {
    order[start + k] = r.number;
    boxes.set(r.box, 6 * (start + k));
  });
}
