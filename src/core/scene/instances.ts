/** Shared triangles in the places where they stand: boxes about them, and the kernel's table. */
import type { Box } from "../math/box";
import { determinant, inverseAffine, type Affine } from "../math/affine";
import { buildBvh, type Bvh } from "./bvh";
import { boundsOf, unionOf, type Mesh, type MeshPart, type SharedTriangles } from "../data/geometry";
import * as L from "../layout/layout";

/** Words of a tree, read as it lies in memory. */
class TreeReader {
  private readonly nodes: Float32Array;
  private readonly codes: Int32Array;
  private readonly leaves: Float32Array;
  private readonly indices: Int32Array;
  // seven more than it takes off at each node on the way down
  private readonly open = new Int32Array(4096);
  private readonly far = new Float64Array(4096);
  constructor(private readonly bvh: Bvh) {
    this.nodes = new Float32Array(bvh.nodes);
    this.codes = new Int32Array(bvh.nodes);
    this.leaves = new Float32Array(bvh.leaves);
    this.indices = new Int32Array(bvh.leaves);
  }

  /** The most that x·p reaches over the corners p of the tree's triangles. Boxes that cannot reach further are passed over. */
  reach(x: number, y: number, z: number): number {
    const { nodes, codes, open, far } = this;
    // where a box reaches furthest: its most along axes of positive direction, its least along the others
    const [ax, ay, az] = [x > 0 ? 12 : 0, y > 0 ? 16 : 4, z > 0 ? 20 : 8];
    let best = -Infinity;
    let depth = 1;
    open[0] = this.bvh.root;
    far[0] = Infinity;
    while (depth > 0) {
      depth--;
      if (!(far[depth]! > best)) continue;
      const code = open[depth]!;
      if (code < 0) {
        best = Math.max(best, this.reachOfLeaf(~code, x, y, z));
        continue;
      }
      const first = depth;
      for (let slot = 0; slot < 8; slot++) {
        const at = (code * L.NODE_UNIT + (slot >> 2) * L.NODE_GROUP) / 4 + (slot & 3);
        if (nodes[at]! > nodes[at + 12]!) continue;
        const f = x * nodes[at + ax]! + y * nodes[at + ay]! + z * nodes[at + az]!;
        if (!(f > best)) continue;
        // the furthest on top, to be looked at next
        const above = depth > first && far[depth - 1]! > f ? depth - 1 : depth;
        if (above < depth) {
          open[depth] = open[above]!;
          far[depth] = far[above]!;
        }
        open[above] = codes[at + L.NODE_CHILDREN / 4]!;
        far[above] = f;
        depth++;
      }
    }
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
        best = Math.max(best, from);
        for (let e = at + 12; e <= at + (partner ? 36 : 24); e += 12)
          best = Math.max(best, from + x * this.leaves[e]! + y * this.leaves[e + 4]! + z * this.leaves[e + 8]!);
      }
    return best;
  }
}

/** Boxes about the triangles of a tree as each transform places them, a little wider than what single precision makes of them. */
export function instanceBoxes(bvh: Bvh, matrices: readonly Affine[]): Box[] {
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

/** Bounds of a model in its own frame, with what stands in several places at each of them. */
export function boundsOfMesh({ positions, parts = [] }: Mesh): Box {
  const shared = new Map<number, { part: MeshPart; matrices: Affine[] }>();
  const boxes: Box[] = [];
  for (const part of parts) {
    const had = shared.get(part.first);
    if (!part.matrix) boxes.push(boundsOf(positions.subarray(9 * part.first, 9 * (part.first + part.count))));
    else if (had) had.matrices.push(part.matrix);
    else shared.set(part.first, { part, matrices: [part.matrix] });
  }
  if (shared.size === 0) return boundsOf(positions);
  const placed = [...shared.values()].flatMap(({ part, matrices }) =>
    instanceBoxes(buildBvh(positions.subarray(9 * part.first, 9 * (part.first + part.count)), { split: false }), matrices),
  );
  return unionOf([...boxes, ...placed]);
}

/** Records of places (layout.ts: INSTANCE_SIZE). @param roots of the trees, one for each that is shared */
export function instanceRecords(shared: readonly SharedTriangles[], roots: readonly number[]): ArrayBuffer {
  const count = shared.reduce((n, s) => n + s.places.length, 0);
  const out = new ArrayBuffer(count * L.INSTANCE_SIZE);
  let at = 0;
  shared.forEach(({ places }, i) => {
    for (const { matrix, object } of places) {
      const f = new Float32Array(out, at, L.INSTANCE_SIZE / 4),
        words = new Int32Array(out, at, L.INSTANCE_SIZE / 4);
      f.set(matrix, L.INSTANCE_FORWARD / 4);
      // of what single precision made of it
      f.set(inverseAffine([...f.subarray(L.INSTANCE_FORWARD / 4, L.INSTANCE_FORWARD / 4 + 12)] as number[] as Affine));
      words[L.INSTANCE_ROOT / 4] = roots[i]!;
      words[L.INSTANCE_OBJECT / 4] = object;
      words[L.INSTANCE_MIRRORS / 4] = determinant(matrix) < 0 ? 1 : 0;
      at += L.INSTANCE_SIZE;
    }
  });
  return out;
}
