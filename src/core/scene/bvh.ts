/**
 * Builds the kernel's 4-wide BVH: a binary tree by binned surface-area heuristic (Wald 2007) whose
 * costs count packed blocks of four triangles, collapsed to four children a node.
 */
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

const BINS = 24;
/** Blocks a leaf may hold: the child code has three bits for it. */
const MOST_BLOCKS = 7;
const TRAVERSAL_COST = 1;
const BLOCK_COST = 1.1;

/**
 * Builds a BVH over `positions` (9 floats a triangle, m). Pure: the same triangles give the same bytes.
 * @param split whether badly filled triangles may stand in several leaves
 * @param lookAt 1 for triangles that a ray must look at when it meets them; they stand in one leaf only
 */
export function buildBvh(positions: Float32Array, split = true, lookAt: Uint8Array | null = null): Bvh {
  const { bounds, triangle } = splitReferences(positions, split, lookAt);
  const n = triangle.length;
  const order = new Int32Array(n);
  for (let i = 0; i < n; i++) order[i] = i;

  // binary tree in arrays: bounds, then either children or a range of `order`
  const most = Math.max(1, 2 * n);
  const box = new Float32Array(6 * most);
  const left = new Int32Array(most); // -1 marks a leaf
  const right = new Int32Array(most);
  const start = new Int32Array(most);
  const count = new Int32Array(most);
  let used = 0;

  const binBox = new Float64Array(6 * BINS);
  const binCount = new Int32Array(BINS);
  const suffixArea = new Float64Array(BINS);
  const suffixCount = new Int32Array(BINS);

  const make = (first: number, size: number): number => {
    const id = used++;
    start[id] = first;
    count[id] = size;
    left[id] = -1;
    let [x0, y0, z0, x1, y1, z1] = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
    for (let i = first; i < first + size; i++) {
      const t = 6 * order[i]!;
      const a = bounds[t]!,
        b = bounds[t + 1]!,
        c = bounds[t + 2]!,
        d = bounds[t + 3]!,
        e = bounds[t + 4]!,
        f = bounds[t + 5]!;
      if (a < x0) x0 = a;
      if (b < y0) y0 = b;
      if (c < z0) z0 = c;
      if (d > x1) x1 = d;
      if (e > y1) y1 = e;
      if (f > z1) z1 = f;
    }
    box[6 * id] = x0;
    box[6 * id + 1] = y0;
    box[6 * id + 2] = z0;
    box[6 * id + 3] = x1;
    box[6 * id + 4] = y1;
    box[6 * id + 5] = z1;
    return id;
  };

  const halfArea = (b: Float32Array | Float64Array, at: number): number => {
    const x = b[at + 3]! - b[at]!,
      y = b[at + 4]! - b[at + 1]!,
      z = b[at + 5]! - b[at + 2]!;
    return x < 0 ? 0 : x * y + y * z + z * x;
  };

  const stack: number[] = [];
  if (n > 0) stack.push(make(0, n));
  while (stack.length) {
    const id = stack.pop()!;
    const first = start[id]!,
      size = count[id]!;
    if (size <= 4) continue;
    let bestCost = Infinity,
      bestAxis = -1,
      bestBin = 0;
    // centroid bounds (doubled, to save the halving)
    const lo = [Infinity, Infinity, Infinity],
      hi = [-Infinity, -Infinity, -Infinity];
    for (let i = first; i < first + size; i++) {
      const t = 6 * order[i]!;
      for (let k = 0; k < 3; k++) {
        const c = bounds[t + k]! + bounds[t + 3 + k]!;
        if (c < lo[k]!) lo[k] = c;
        if (c > hi[k]!) hi[k] = c;
      }
    }
    const bins = size < 32 ? Math.min(BINS, Math.max(8, size)) : BINS;
    for (let axis = 0; axis < 3; axis++) {
      const extent = hi[axis]! - lo[axis]!;
      if (!(extent > 0)) continue;
      const toBin = bins / extent,
        from = lo[axis]!;
      binCount.fill(0);
      for (let i = 0; i < bins; i++) {
        binBox[6 * i] = binBox[6 * i + 1] = binBox[6 * i + 2] = Infinity;
        binBox[6 * i + 3] = binBox[6 * i + 4] = binBox[6 * i + 5] = -Infinity;
      }
      for (let i = first; i < first + size; i++) {
        const t = 6 * order[i]!;
        let b = ((bounds[t + axis]! + bounds[t + 3 + axis]! - from) * toBin) | 0;
        if (b >= bins) b = bins - 1;
        binCount[b]!++;
        const o = 6 * b;
        if (bounds[t]! < binBox[o]!) binBox[o] = bounds[t]!;
        if (bounds[t + 1]! < binBox[o + 1]!) binBox[o + 1] = bounds[t + 1]!;
        if (bounds[t + 2]! < binBox[o + 2]!) binBox[o + 2] = bounds[t + 2]!;
        if (bounds[t + 3]! > binBox[o + 3]!) binBox[o + 3] = bounds[t + 3]!;
        if (bounds[t + 4]! > binBox[o + 4]!) binBox[o + 4] = bounds[t + 4]!;
        if (bounds[t + 5]! > binBox[o + 5]!) binBox[o + 5] = bounds[t + 5]!;
      }
      const grow = new Float64Array([Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity]);
      let total = 0;
      for (let i = bins - 1; i > 0; i--) {
        for (let k = 0; k < 3; k++) {
          if (binBox[6 * i + k]! < grow[k]!) grow[k] = binBox[6 * i + k]!;
          if (binBox[6 * i + 3 + k]! > grow[3 + k]!) grow[3 + k] = binBox[6 * i + 3 + k]!;
        }
        total += binCount[i]!;
        suffixArea[i] = halfArea(grow, 0);
        suffixCount[i] = total;
      }
      grow.set([Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity]);
      total = 0;
      for (let i = 0; i < bins - 1; i++) {
        for (let k = 0; k < 3; k++) {
          if (binBox[6 * i + k]! < grow[k]!) grow[k] = binBox[6 * i + k]!;
          if (binBox[6 * i + 3 + k]! > grow[3 + k]!) grow[3 + k] = binBox[6 * i + 3 + k]!;
        }
        total += binCount[i]!;
        if (total === 0 || suffixCount[i + 1] === 0) continue;
        // for many triangles the fraction of a block matters little: keep it, it rewards balance
        const l = size > 64 ? total / 4 : Math.ceil(total / 4),
          r = size > 64 ? suffixCount[i + 1]! / 4 : Math.ceil(suffixCount[i + 1]! / 4);
        const cost = halfArea(grow, 0) * l + suffixArea[i + 1]! * r;
        if (cost < bestCost) {
          bestCost = cost;
          bestAxis = axis;
          bestBin = i;
        }
      }
    }
    const area = halfArea(box, 6 * id);
    const blocks = Math.ceil(size / 4);
    if (blocks <= MOST_BLOCKS && area > 0 && BLOCK_COST * blocks <= TRAVERSAL_COST + (BLOCK_COST * bestCost) / area) continue;
    let middle: number;
    if (bestAxis < 0) {
      if (blocks <= MOST_BLOCKS) continue;
      middle = first + (size >> 1); // all centroids coincide
    } else {
      const toBin = bins / (hi[bestAxis]! - lo[bestAxis]!),
        from = lo[bestAxis]!;
      let i = first,
        j = first + size - 1;
      while (i <= j) {
        const t = 6 * order[i]!;
        let b = ((bounds[t + bestAxis]! + bounds[t + 3 + bestAxis]! - from) * toBin) | 0;
        if (b >= bins) b = bins - 1;
        if (b <= bestBin) i++;
        else {
          const swap = order[i]!;
          order[i] = order[j]!;
          order[j] = swap;
          j--;
        }
      }
      middle = i;
    }
    left[id] = make(first, middle - first);
    right[id] = make(middle, first + size - middle);
    stack.push(left[id]!, right[id]!);
  }

  for (let i = 0; i < n; i++) order[i] = triangle[order[i]!]!;
  return pack(positions, order, lookAt, { box, left, right, start, count, used });
}

interface Binary {
  box: Float32Array;
  left: Int32Array;
  right: Int32Array;
  start: Int32Array;
  count: Int32Array;
  used: number;
}

/** Collapses the binary tree to four children a node and packs the leaves. */
function pack(positions: Float32Array, order: Int32Array, lookAt: Uint8Array | null, tree: Binary): Bvh {
  const { box, left, right, start, count } = tree;
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
  const area = (id: number): number => {
    const b = 6 * id;
    const x = box[b + 3]! - box[b]!,
      y = box[b + 4]! - box[b + 1]!,
      z = box[b + 5]! - box[b + 2]!;
    return x * y + y * z + z * x;
  };
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
