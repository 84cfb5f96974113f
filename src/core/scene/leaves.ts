/** Packs the pairs of a tree's leaves into blocks of four (layout.ts: BLOCK_SIZE). */
import type { BinaryTree } from "./binary-tree";
import { BLOCK_INDEX, BLOCK_PARTNER, BLOCK_SIZE, LEAF_FIRST, LEAF_LANES, NEEDS_FILTER, TURN_BIT } from "../layout/layout";
import type { Pairs } from "./pairs";

export interface Leaves {
  blocks: ArrayBuffer;
  /** Child code of each leaf, by node of the binary tree. */
  code: Int32Array;
}

/** What a tree's leaves hold besides their boxes. */
export interface LeafContent {
  positions: Float32Array;
  /** 1 for triangles that a ray must look at when it meets them. */
  lookAt: Uint8Array | null;
  pairs: Pairs;
  /** Number in the scene of the first triangle. */
  first: number;
}

/**
 * A leaf of up to four pairs may share its block with others, so that blocks are full: a ray that comes for one leaf tests the
 * other's pairs for nothing, in the same instructions. Larger leaves have blocks of their own, one after another. A number past those of
 * the pairs is a place of shared triangles, which is alone in its leaf.
 */
export function packLeaves({ positions, lookAt, pairs, first }: LeafContent, tree: BinaryTree): Leaves {
  const { start, count } = tree;
  const pairCount = pairs.count;
  const code = new Int32Array(tree.used);
  // blocks with 1, 2 and 3 lanes free, the last opened on top: leaves that follow each other lie near each other
  const open: number[][] = [[], [], [], []];
  let blocks = 0;
  const leaves: number[] = [];
  for (const id of leavesInDepth(tree)) {
    const size = count[id]!;
    const place = size > 0 ? tree.order[start[id]!]! - pairCount : -1;
    if (place >= 0) {
      code[id] = ~(place * LEAF_FIRST);
      continue;
    }
    leaves.push(id);
    if (size > 4) {
      const own = Math.ceil(size / 4);
      code[id] = ~(blocks * LEAF_FIRST + 15 * LEAF_LANES + own);
      blocks += own;
      continue;
    }
    let free = size;
    while (free < 4 && open[free]!.length === 0) free++;
    const block = free < 4 ? open[free]!.pop()! : blocks++;
    if (free > size) open[free - size]!.push(block);
    const lanes = ((1 << size) - 1) << (4 - free);
    code[id] = ~(block * LEAF_FIRST + lanes * LEAF_LANES + 1);
  }
  const out = new ArrayBuffer(Math.max(1, blocks) * BLOCK_SIZE);
  const f = new Float32Array(out),
    words = new Int32Array(out);
  // an unused lane keeps zero edges (determinant 0: never hit) and no triangle
  for (let b = 0; b < Math.max(1, blocks); b++) words.fill(-1, (b * BLOCK_SIZE + BLOCK_INDEX) / 4, ((b + 1) * BLOCK_SIZE) / 4);
  const index = (triangle: number): number =>
    (first + triangle) | (pairs.first[triangle]! << TURN_BIT) | (lookAt?.[triangle] ? NEEDS_FILTER : 0);
  const put = (block: number, lane: number, pair: number): void => {
    const base = (block * BLOCK_SIZE) / 4 + lane;
    const one = pairs.triangles[2 * pair]!,
      two = pairs.triangles[2 * pair + 1]!;
    const corner = (triangle: number, k: number): number => 9 * triangle + 3 * ((pairs.first[triangle]! + k) % 3);
    const a = corner(one, 0),
      b = corner(one, 1),
      c = corner(one, 2);
    for (let axis = 0; axis < 3; axis++) {
      const from = positions[a + axis]!;
      const to = base + 4 * axis;
      f[to] = from;
      f[to + 12] = positions[b + axis]! - from;
      f[to + 24] = positions[c + axis]! - from;
      if (two >= 0) f[to + 36] = positions[corner(two, 2) + axis]! - from;
    }
    words[base + BLOCK_INDEX / 4] = index(one);
    if (two >= 0) words[base + BLOCK_PARTNER / 4] = index(two);
  };
  for (const id of leaves) {
    const at = ~code[id]!;
    const block = Math.floor(at / LEAF_FIRST);
    const lanes = Math.floor(at / LEAF_LANES) & 15;
    const lane = count[id]! > 4 ? 0 : Math.log2(lanes & -lanes);
    for (let k = 0; k < count[id]!; k++) put(block + ((lane + k) >> 2), (lane + k) & 3, tree.order[start[id]! + k]!);
  }
  return { blocks: out, code };
}

/** Leaves from left to right. */
function leavesInDepth({ left, right, used }: BinaryTree): Int32Array {
  const out = new Int32Array(used);
  let found = 0;
  const stack = used ? [0] : [];
  while (stack.length) {
    const id = stack.pop()!;
    if (left[id]! < 0) out[found++] = id;
    else stack.push(right[id]!, left[id]!);
  }
  return out.subarray(0, found);
}
