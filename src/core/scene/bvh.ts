/** Builds the kernel's 4-wide BVH: a binary tree (kernel/tree), collapsed to four children a node, its leaves packed by four triangles. */
import { bytes } from "#built/tree";
import { growMemory } from "../kernel/kernel";
import { splitReferences } from "./split";
import { BLOCK_INDEX, BLOCK_SIZE, LOOK_AT, NODE_CHILDREN, NODE_SIZE } from "./layout";

export interface Bvh {
  /** NODE_SIZE bytes a node. */
  nodes: ArrayBuffer;
  /** BLOCK_SIZE bytes a block. */
  leaves: ArrayBuffer;
  /** Child code of the root (a leaf when the scene is tiny). */
  root: number;
}

/**
 * Builds a BVH over `positions` (9 floats a triangle, m). Pure: the same triangles give the same bytes.
 * @param split whether badly filled triangles may stand in several leaves
 * @param lookAt 1 for triangles that a ray must look at when it meets them; they stand in one leaf only
 */
export function buildBvh(positions: Float32Array, split = true, lookAt: Uint8Array | null = null): Bvh {
  const { bounds, triangle } = splitReferences(positions, split, lookAt);
  return pack(positions, lookAt, binaryTree(bounds, triangle));
}

interface TreeModule {
  memory: WebAssembly.Memory;
  build(refs: number, count: number, nodes: number, stack: number): number;
}
/** Bytes of a reference and of a node there: see kernel/tree. */
const REFERENCE = 32;
const TREE_NODE = 80;

/** Binary tree over references, and the triangles in the order of its leaves. */
function binaryTree(bounds: Float32Array, triangle: Int32Array): Binary {
  // an instance for each tree: its memory is given back with it
  const { memory, build } = new WebAssembly.Instance((treeModule ??= new WebAssembly.Module(bytes))).exports as unknown as TreeModule;
  const n = triangle.length;
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
    ids[8 * i + 3] = triangle[i]!;
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
  return { box, left, right, start, count, used, order };
}
let treeModule: WebAssembly.Module | null = null;

function halfArea(b: Float32Array, at: number): number {
  const x = b[at + 3]! - b[at]!,
    y = b[at + 4]! - b[at + 1]!,
    z = b[at + 5]! - b[at + 2]!;
  return x < 0 ? 0 : x * y + y * z + z * x;
}

interface Binary {
  box: Float32Array;
  left: Int32Array;
  right: Int32Array;
  start: Int32Array;
  count: Int32Array;
  used: number;
  /** Triangles in the order of the leaves. */
  order: Int32Array;
}

/** Collapses the binary tree to four children a node and packs the leaves. */
function pack(positions: Float32Array, lookAt: Uint8Array | null, tree: Binary): Bvh {
  const { box, left, right, start, count, order } = tree;
  let blockTotal = 0,
    interior = 0;
  for (let i = 0; i < tree.used; i++) {
    if (left[i]! < 0) blockTotal += Math.ceil(count[i]! / 4);
    else interior++;
  }
  const leaves = new ArrayBuffer(Math.max(1, blockTotal) * BLOCK_SIZE);
  const leafF = new Float32Array(leaves),
    leafI = new Int32Array(leaves);
  leafI.fill(0);
  let nextBlock = 0;
  const leafCode = (id: number): number => {
    const blocks = Math.ceil(count[id]! / 4);
    const first = nextBlock;
    for (let b = 0; b < blocks; b++) {
      const base = ((first + b) * BLOCK_SIZE) / 4;
      for (let lane = 0; lane < 4; lane++) {
        const k = 4 * b + lane;
        if (k >= count[id]!) {
          // an unused lane keeps zero edges (determinant 0: never hit)
          leafI[base + BLOCK_INDEX / 4 + lane] = -1;
          continue;
        }
        const tri = order[start[id]! + k]!;
        const p = 9 * tri;
        for (let axis = 0; axis < 3; axis++) {
          const v = positions[p + axis]!;
          leafF[base + 4 * axis + lane] = v;
          leafF[base + 12 + 4 * axis + lane] = positions[p + 3 + axis]! - v;
          leafF[base + 24 + 4 * axis + lane] = positions[p + 6 + axis]! - v;
        }
        leafI[base + BLOCK_INDEX / 4 + lane] = lookAt?.[tri] ? tri | LOOK_AT : tri;
      }
    }
    nextBlock += blocks;
    return ~(first * 8 + blocks);
  };

  const nodes = new ArrayBuffer(Math.max(1, interior) * NODE_SIZE);
  const nodeF = new Float32Array(nodes),
    nodeI = new Int32Array(nodes);
  let nextNode = 0;
  const area = (id: number): number => halfArea(box, 6 * id);
  const emptyNode = (at: number): void => {
    const base = (at * NODE_SIZE) / 4;
    for (let k = 0; k < 12; k++) nodeF[base + k] = 1e30;
    for (let k = 12; k < 24; k++) nodeF[base + k] = -1e30;
  };
  // depth-first, so that a node's first child tends to follow it in memory
  const emit = (id: number): number => {
    const at = nextNode++;
    emptyNode(at);
    const children = [left[id]!, right[id]!];
    while (children.length < 4) {
      let largest = -1,
        size = -1;
      for (let i = 0; i < children.length; i++) {
        if (left[children[i]!]! >= 0 && area(children[i]!) > size) {
          size = area(children[i]!);
          largest = i;
        }
      }
      if (largest < 0) break;
      const c = children[largest]!;
      children.splice(largest, 1, left[c]!, right[c]!);
    }
    const base = (at * NODE_SIZE) / 4;
    for (let i = 0; i < children.length; i++) {
      const c = children[i]!;
      for (let k = 0; k < 6; k++) nodeF[base + 4 * k + i] = box[6 * c + k]!;
      nodeI[base + NODE_CHILDREN / 4 + i] = left[c]! < 0 ? leafCode(c) : emit(c);
    }
    return at;
  };

  if (tree.used === 0) {
    emptyNode(0);
    return { nodes, leaves, root: 0 };
  }
  const root = left[0]! < 0 ? leafCode(0) : emit(0);
  return { nodes: nodes.slice(0, Math.max(1, nextNode) * NODE_SIZE), leaves, root };
}

/** Appends one tree's nodes and leaves to another's buffers. @returns the root's child code there */
export function appendTree(to: Bvh, tree: Bvh): number {
  const nodes = to.nodes.byteLength / NODE_SIZE,
    blocks = to.leaves.byteLength / BLOCK_SIZE;
  const moved = (code: number): number => (code >= 0 ? code + nodes : ~(~code + blocks * 8));
  const copy = new Int32Array(tree.nodes.slice(0));
  for (let n = 0; n < copy.length; n += NODE_SIZE / 4)
    for (let i = 0; i < 4; i++) {
      const at = n + NODE_CHILDREN / 4 + i;
      copy[at] = moved(copy[at]!);
    }
  const joined = (a: ArrayBuffer, b: ArrayBuffer): ArrayBuffer => {
    const out = new Uint8Array(a.byteLength + b.byteLength);
    out.set(new Uint8Array(a));
    out.set(new Uint8Array(b), a.byteLength);
    return out.buffer;
  };
  to.nodes = joined(to.nodes, copy.buffer);
  to.leaves = joined(to.leaves, tree.leaves);
  return moved(tree.root);
}
