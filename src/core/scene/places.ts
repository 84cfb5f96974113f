/** Shared triangles in the places where they stand: boxes, leaves of the tree over them, and the kernel's table. */
import { determinant, inverseAffine, type Affine } from "./affine";
import type { Binary, Bvh } from "./bvh";
import type { SharedTriangles } from "./geometry";
import * as L from "./layout";

type Box = [number, number, number, number, number, number];

/** Words of a tree, read as it lies in memory. */
class TreeReader {
  private readonly nodes: Float32Array;
  private readonly codes: Int32Array;
  private readonly leaves: Float32Array;
  private readonly indices: Int32Array;
  constructor(private readonly bvh: Bvh) {
    this.nodes = new Float32Array(bvh.nodes);
    this.codes = new Int32Array(bvh.nodes);
    this.leaves = new Float32Array(bvh.leaves);
    this.indices = new Int32Array(bvh.leaves);
  }

  /** The most that x·p reaches over the corners p of the tree's triangles. Boxes that cannot reach further are passed over. */
  reach(x: number, y: number, z: number): number {
    const { nodes, codes } = this;
    let best = -Infinity;
    const visit = (code: number): void => {
      if (code < 0) {
        best = Math.max(best, this.reachOfLeaf(~code, x, y, z));
        return;
      }
      const open: { child: number; far: number }[] = [];
      for (let slot = 0; slot < 8; slot++) {
        const at = (code * L.NODE_UNIT + (slot >> 2) * L.NODE_GROUP) / 4 + (slot & 3);
        if (nodes[at]! > nodes[at + 12]!) continue;
        const far =
          x * nodes[x > 0 ? at + 12 : at]! + y * nodes[y > 0 ? at + 16 : at + 4]! + z * nodes[z > 0 ? at + 20 : at + 8]!;
        open.push({ child: codes[at + L.NODE_CHILDREN / 4]!, far });
      }
      open.sort((a, b) => b.far - a.far);
      for (const { child, far } of open) if (far > best) visit(child);
    };
    visit(this.bvh.root);
    return best;
  }

  private reachOfLeaf(leaf: number, x: number, y: number, z: number): number {
    let best = -Infinity;
    const first = Math.floor(leaf / L.LEAF_FIRST);
    for (let block = first; block < first + (leaf & L.LEAF_BLOCKS); block++)
      for (let lane = 0; lane < 4; lane++) {
        const at = (block * L.BLOCK_SIZE) / 4 + lane;
        if (this.indices[at + L.BLOCK_INDEX / 4]! < 0) continue;
        const partner = this.indices[at + L.BLOCK_PARTNER / 4]! >= 0;
        const from = x * this.leaves[at]! + y * this.leaves[at + 4]! + z * this.leaves[at + 8]!;
        for (const edge of partner ? [0, 12, 24, 36] : [0, 12, 24]) {
          const e = at + edge;
          const more = edge === 0 ? 0 : x * this.leaves[e]! + y * this.leaves[e + 4]! + z * this.leaves[e + 8]!;
          best = Math.max(best, from + more);
        }
      }
    return best;
  }
}

/** Boxes about the triangles of a tree as each transform places them, a little wider than what single precision makes of them. */
export function placedBoxes(bvh: Bvh, matrices: readonly Affine[]): Box[] {
  const tree = new TreeReader(bvh);
  return matrices.map((m) => {
    const box = new Array<number>(6) as Box;
    for (let k = 0; k < 3; k++) {
      const [x, y, z, t] = [m[4 * k]!, m[4 * k + 1]!, m[4 * k + 2]!, m[4 * k + 3]!];
      box[k] = t - tree.reach(-x, -y, -z);
      box[k + 3] = t + tree.reach(x, y, z);
    }
    const slack = 1e-6 * Math.max(...box.map(Math.abs), 1e-30);
    for (let k = 0; k < 3; k++) {
      box[k]! -= slack;
      box[k + 3]! += slack;
    }
    return box;
  });
}

/** Union of boxes; all zero where there are none. */
export function unionOf(boxes: readonly Box[]): Box {
  if (boxes.length === 0) return [0, 0, 0, 0, 0, 0];
  const out: Box = [...boxes[0]!];
  for (const b of boxes)
    for (let k = 0; k < 3; k++) {
      out[k] = Math.min(out[k]!, b[k]!);
      out[k + 3] = Math.max(out[k + 3]!, b[k + 3]!);
    }
  return out;
}

/** Records of places (layout.ts: PLACE_SIZE). @param roots of the trees, one for each that is shared */
export function placeRecords(shared: readonly SharedTriangles[], roots: readonly number[]): ArrayBuffer {
  const count = shared.reduce((n, s) => n + s.places.length, 0);
  const out = new ArrayBuffer(count * L.PLACE_SIZE);
  let at = 0;
  shared.forEach(({ places }, i) => {
    for (const { matrix, object } of places) {
      const f = new Float32Array(out, at, L.PLACE_SIZE / 4),
        words = new Int32Array(out, at, L.PLACE_SIZE / 4);
      f.set(inverseAffine(matrix));
      f.set(matrix, L.PLACE_FORWARD / 4);
      words[L.PLACE_ROOT / 4] = roots[i]!;
      words[L.PLACE_OBJECT / 4] = object;
      words[L.PLACE_MIRRORS / 4] = determinant(matrix) < 0 ? 1 : 0;
      at += L.PLACE_SIZE;
    }
  });
  return out;
}

/**
 * The tree with each place in a leaf of its own: leaves that hold places besides others become small trees.
 * @param boxes 6 floats for each reference, in the order of the leaves
 * @param pairCount numbers from here on are places
 */
export function placesApart(tree: Binary, boxes: Float32Array, pairCount: number): Binary {
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
  const out: Binary = { box, left: grown(tree.left), right: grown(tree.right), start: grown(tree.start), count: grown(tree.count), used: tree.used, order };
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
  const all = Array.from({ length: count }, (_, k) => ({ number: order[start + k]!, place: isPlace(start + k), box: boxAt(boxes, start + k) }));
  const middles = all.filter((r) => r.place).map((r) => [0, 1, 2].map((k) => r.box[k]! + r.box[k + 3]!));
  const span = [0, 1, 2].map((k) => Math.max(...middles.map((m) => m[k]!)) - Math.min(...middles.map((m) => m[k]!)));
  const axis = span.indexOf(Math.max(...span));
  const key = (r: (typeof all)[number]): number => (r.place ? r.box[axis]! + r.box[axis + 3]! : -Infinity);
  all.sort((a, b) => Number(a.place) - Number(b.place) || (a.place ? key(a) - key(b) : 0));
  all.forEach((r, k) => {
    order[start + k] = r.number;
    boxes.set(r.box, 6 * (start + k));
  });
}
