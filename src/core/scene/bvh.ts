/** Builds the kernel's 8-wide BVH: a binary tree (kernel/tree) over pairs of triangles, collapsed to eight children a node, its leaves packed by four pairs. */
import { bytes } from "#built/tree";
import { growMemory } from "../kernel/kernel";
import { pairTriangles } from "./pairs";
import { packLeaves, type Leaves } from "./leaves";
import { splitInstances } from "./split-instances";
import { splitReferences, type References } from "./split";
import { BLOCK_SIZE, LEAF_FIRST, NODE_CHILDREN, NODE_GROUP, NODE_SIZE, NODE_UNIT } from "../layout/layout";
import type { BinaryTree } from "./binary-tree";

export interface Bvh {
  /** NODE_SIZE bytes a node. */
  nodes: ArrayBuffer;
  /** BLOCK_SIZE bytes a block. */
  leaves: ArrayBuffer;
  /** Child code of the root (a leaf when the scene is tiny). */
  root: number;
}

export interface BvhOptions {
  /** Whether badly filled triangles may stand in several leaves. */
  split?: boolean;
  /** 1 for triangles that a ray must look at when it meets them; they stand in one leaf only. */
  lookAt?: Uint8Array | null;
  /** Number in the scene of the first triangle. */
  first?: number;
  /** Boxes about places of shared triangles (6 floats each: least, most), which are leaves too, by their numbers. */
  places?: Float32Array;
}

/** Builds a BVH over `positions` (9 floats a triangle, m). Pure: the same triangles give the same bytes. */
export function buildBvh(positions: Float32Array, { split = true, lookAt = null, first = 0, places = NONE }: BvhOptions = {}): Bvh {
  const pairs = pairTriangles(positions);
  const refs = splitReferences(positions, pairs, split, lookAt);
  const tree = binaryTree(withPlaces(refs, places, pairs.count), pairs.count);
  return collapse(tree, packLeaves({ positions, lookAt, pairs, first }, tree));
}
const NONE = new Float32Array(0);

/** References to pairs, and to places numbered after them. */
function withPlaces({ bounds, pair }: References, places: Float32Array, pairCount: number): References {
  if (places.length === 0) return { bounds, pair };
  const all = { bounds: new Float32Array(bounds.length + places.length), pair: new Int32Array(pair.length + places.length / 6) };
  all.bounds.set(bounds);
  all.bounds.set(places, bounds.length);
  all.pair.set(pair);
  for (let i = 0; i < places.length / 6; i++) all.pair[pair.length + i] = pairCount + i;
  return all;
}

interface TreeModule {
  memory: WebAssembly.Memory;
  build(refs: number, count: number, nodes: number, stack: number): number;
}
/** Bytes of a reference and of a node there: see kernel/tree. */
const REFERENCE = 32;
const TREE_NODE = 80;

/** BinaryTree tree over references, and the pairs in the order of its leaves. @param pairCount from this number on they are places */
function binaryTree({ bounds, pair }: References, pairCount: number): BinaryTree {
  // an instance for each tree: its memory is given back with it
  const { memory, build } = new WebAssembly.Instance((treeModule ??= new WebAssembly.Module(bytes))).exports as unknown as TreeModule;
  const n = pair.length;
  const refs = memory.buffer.byteLength;
  const nodes = refs + n * REFERENCE;
  const stack = nodes + Math.max(1, 2 * n) * TREE_NODE;
  growMemory(memory, stack + 8 * Math.max(1, n));
  const f = new Float32Array(memory.buffer, refs, 8 * n),
    ids = new Int32Array(memory.buffer, refs, 8 * n);
  for (let i = 0; i < n; i++) {
    f[8 * i] = bounds[6 * i]!;
    f[8 * i + 1] = bounds[6 * i + 1]!;
    f[8 * i + 2] = bounds[6 * i + 2]!;
    ids[8 * i + 3] = pair[i]!;
    f[8 * i + 4] = -bounds[6 * i + 3]!;
    f[8 * i + 5] = -bounds[6 * i + 4]!;
    f[8 * i + 6] = -bounds[6 * i + 5]!;
  }
  const used = build(refs, n, nodes, stack);
  const order = new Int32Array(n);
  for (let i = 0; i < n; i++) order[i] = ids[8 * i + 3]!;
  const box = new Float32Array(6 * used);
  const [left, right, start, count] = [0, 1, 2, 3].map(() => new Int32Array(used)) as [Int32Array, Int32Array, Int32Array, Int32Array];
  const nodeF = new Float32Array(memory.buffer, nodes, (used * TREE_NODE) / 4),
    nodeI = new Int32Array(memory.buffer, nodes, (used * TREE_NODE) / 4);
  for (let i = 0; i < used; i++) {
    const at = (i * TREE_NODE) / 4;
    for (let k = 0; k < 3; k++) {
      box[6 * i + k] = nodeF[at + k]!;
      box[6 * i + 3 + k] = -nodeF[at + 4 + k]!;
    }
    left[i] = nodeI[at + 16]!;
    right[i] = nodeI[at + 17]!;
    start[i] = nodeI[at + 18]!;
    count[i] = nodeI[at + 19]!;
  }
  const tree = { box, left, right, start, count, used, order };
  if (!pair.some((p) => p >= pairCount)) return tree;
  const boxes = new Float32Array(6 * n);
  for (let i = 0; i < n; i++)
    for (let k = 0; k < 3; k++) {
      boxes[6 * i + k] = f[8 * i + k]!;
      boxes[6 * i + 3 + k] = -f[8 * i + 4 + k]!;
    }
  return splitInstances(tree, boxes, pairCount);
}
let treeModule: WebAssembly.Module | null = null;

function halfArea(b: Float32Array, at: number): number {
  const x = b[at + 3]! - b[at]!,
    y = b[at + 4]! - b[at + 1]!,
    z = b[at + 5]! - b[at + 2]!;
  return x < 0 ? 0 : x * y + y * z + z * x;
}

/** Places of the boxes' bounds and the codes of children by slot, in words of a node. */
const place = (slot: number): number => ((slot >> 2) * NODE_GROUP) / 4 + (slot & 3);

/** Collapses the binary tree to eight children a node. */
function collapse(tree: BinaryTree, { blocks: leaves, code }: Leaves): Bvh {
  const { box, left, right } = tree;
  const cut = bestCuts(tree);
  let wide = 0;
  const count = (id: number, max: number): void => {
    // the tree's depth is that of its recursion here and below: a hundred or so
    if (left[id]! < 0) return;
    const share = cut[8 * id + max - 1]!;
    if (share === 0) {
      wide++;
      count(left[id]!, cut[8 * id + 7]!);
      count(right[id]!, 8 - cut[8 * id + 7]!);
    } else {
      count(left[id]!, share);
      count(right[id]!, max - share);
    }
  };
  if (tree.used) count(0, 1);
  const nodes = new ArrayBuffer(Math.max(1, wide) * NODE_SIZE);
  const nodeF = new Float32Array(nodes),
    nodeI = new Int32Array(nodes);
  let nextNode = 0;
  const gather = (id: number, max: number, into: Int32Array, found: number): number => {
    const share = left[id]! < 0 ? 0 : cut[8 * id + max - 1]!;
    if (share === 0) {
      into[found] = id;
      return found + 1;
    }
    return gather(right[id]!, max - share, into, gather(left[id]!, share, into, found));
  };
  // depth-first, so that a node's first child tends to follow it in memory
  const emit = (id: number): number => {
    const at = nextNode++;
    const base = (at * NODE_SIZE) / 4;
    const children = new Int32Array(8);
    const own = cut[8 * id + 7]!;
    const found = gather(right[id]!, 8 - own, children, gather(left[id]!, own, children, 0));
    const slots = slotsOf(box, id, children, found);
    for (let slot = 0; slot < 8; slot++) {
      const to = base + place(slot);
      const c = slots[slot]! < 0 ? -1 : children[slots[slot]!]!;
      for (let k = 0; k < 6; k++) nodeF[to + 4 * k] = c >= 0 ? box[6 * c + k]! : k < 3 ? 1e30 : -1e30;
      if (c >= 0) nodeI[to + NODE_CHILDREN / 4] = left[c]! < 0 ? code[c]! : 0;
    }
    // slots are made anew for each node: what they say must be read before going on
    const order = slots.slice();
    for (let slot = 0; slot < 8; slot++) {
      const c = order[slot]! < 0 ? -1 : children[order[slot]!]!;
      if (c >= 0 && left[c]! >= 0) nodeI[base + place(slot) + NODE_CHILDREN / 4] = emit(c);
    }
    return (at * NODE_SIZE) / NODE_UNIT;
  };

  if (tree.used === 0) {
    for (let slot = 0; slot < 8; slot++) for (let k = 0; k < 6; k++) nodeF[place(slot) + 4 * k] = k < 3 ? 1e30 : -1e30;
    return { nodes, leaves, root: 0 };
  }
  return { nodes, leaves, root: left[0]! < 0 ? code[0]! : emit(0) };
}

/**
 * How to cut the binary tree into wide nodes so that the sum of their areas, which is what a ray is expected to visit, is least (by
 * dynamic programming, after Ylitie, Karras and Laine 2017).
 * @returns by node and number m = 1 … 7 of children that it may stand for: how many of them its left child has (0: it is one child,
 *   a wide node itself or a leaf); in the eighth place: how many its left child has where it is a wide node
 */
function bestCuts({ box, left, right, used }: BinaryTree): Uint8Array {
  const cost = new Float32Array(8 * used),
    cut = new Uint8Array(8 * used);
  // children have larger numbers than their parents
  for (let id = used - 1; id >= 0; id--) {
    if (left[id]! < 0) continue;
    const l = 8 * left[id]! - 1,
      r = 8 * right[id]! - 1,
      at = 8 * id - 1;
    let best = Infinity;
    for (let k = 1; k < 8; k++) {
      const c = cost[l + k]! + cost[r + 8 - k]!;
      if (c >= best) continue;
      best = c;
      cut[at + 8] = k;
    }
    cost[at + 1] = best + halfArea(box, 6 * id);
    cut[at + 1] = 0;
    for (let m = 2; m < 8; m++) {
      cost[at + m] = cost[at + m - 1]!;
      cut[at + m] = 255;
      for (let k = 1; k < m; k++) {
        const c = cost[l + k]! + cost[r + m - k]!;
        if (c >= cost[at + m]!) continue;
        cost[at + m] = c;
        cut[at + m] = k;
      }
      // no better with one child more
      if (cut[at + m] === 255) cut[at + m] = cut[at + m - 1]!;
    }
  }
  return cut;
}

const slotChild = new Int8Array(8);
const offsets = new Float32Array(24);
/**
 * The child of each slot, -1 where none: of all pairs of a free slot and a child without one, that whose child lies farthest towards the slot's
 * octant, again and again (after Ylitie, Karras and Laine 2017).
 */
function slotsOf(box: Float32Array, parent: number, children: Int32Array, count: number): Int8Array {
  slotChild.fill(-1);
  for (let i = 0; i < count; i++)
    for (let k = 0; k < 3; k++) {
      const c = 6 * children[i]! + k,
        p = 6 * parent + k;
      offsets[3 * i + k] = box[c]! + box[c + 3]! - box[p]! - box[p + 3]!;
    }
  let placed = 0;
  for (let round = 0; round < count; round++) {
    let best = -Infinity,
      child = -1,
      slot = -1;
    for (let i = 0; i < count; i++) {
      if (placed & (1 << i)) continue;
      const x = offsets[3 * i]!,
        y = offsets[3 * i + 1]!,
        z = offsets[3 * i + 2]!;
      for (let s = 0; s < 8; s++) {
        if (slotChild[s]! >= 0) continue;
        const far = (s & 1 ? x : -x) + (s & 2 ? y : -y) + (s & 4 ? z : -z);
        if (far <= best) continue;
        best = far;
        child = i;
        slot = s;
      }
    }
    slotChild[slot] = child;
    placed |= 1 << child;
  }
  return slotChild;
}

/** Puts trees one after another into common buffers. @returns the buffers with the first tree's root, and the roots of all */
export function joinTrees(trees: readonly Bvh[]): { bvh: Bvh; roots: number[] } {
  const total = (of: (t: Bvh) => ArrayBuffer): ArrayBuffer => new ArrayBuffer(trees.reduce((n, t) => n + of(t).byteLength, 0));
  const bvh: Bvh = { nodes: total((t) => t.nodes), leaves: total((t) => t.leaves), root: 0 };
  let nodesAt = 0,
    leavesAt = 0;
  const roots = trees.map((tree) => {
    const units = nodesAt / NODE_UNIT,
      blocks = leavesAt / BLOCK_SIZE;
    const moved = (code: number): number => (code >= 0 ? code + units : ~(~code + blocks * LEAF_FIRST));
    const copy = new Int32Array(bvh.nodes, nodesAt, tree.nodes.byteLength / 4);
    copy.set(new Int32Array(tree.nodes));
    // places of shared triangles are numbered by the scene: only the first tree, which stays where it is, has any
    if (nodesAt > 0)
      for (let n = 0; n < copy.length; n += NODE_SIZE / 4)
        for (let slot = 0; slot < 8; slot++) {
          const at = n + NODE_CHILDREN / 4 + place(slot);
          copy[at] = moved(copy[at]!);
        }
    new Uint8Array(bvh.leaves, leavesAt).set(new Uint8Array(tree.leaves));
    nodesAt += tree.nodes.byteLength;
    leavesAt += tree.leaves.byteLength;
    return moved(tree.root);
  });
  bvh.root = roots[0] ?? 0;
  return { bvh, roots };
}
