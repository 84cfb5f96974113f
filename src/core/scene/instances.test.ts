import { describe, expect, it } from "vitest";
import { seeded } from "../../../tests/bench/rays";
import type { Affine } from "../math/affine";
import { buildBvh } from "./bvh";
import { boundsOf } from "../data/geometry";
import * as L from "../layout/layout";
import { boundsOfMesh, instanceBoxes, instanceRecords } from "./instances";

function cloud(count: number, seed: number): Float32Array {
  const random = seeded(seed);
  const out = new Float32Array(9 * count);
  for (let i = 0; i < count; i++) {
    const c = [random() * 4 - 2, random() * 2, random() * 6 - 3];
    for (let k = 0; k < 9; k++) out[9 * i + k] = c[k % 3]! + 0.3 * random();
  }
  return out;
}
function randomPlaces(count: number, seed: number, reach: number): Affine[] {
  const random = seeded(seed);
  return Array.from({ length: count }, () => Array.from({ length: 12 }, (_, k) => (random() - 0.5) * (k % 4 === 3 ? reach : 2)) as Affine);
}
function placed(positions: Float32Array, m: Affine): Float32Array {
  const out = new Float32Array(positions.length);
  for (let i = 0; i < positions.length; i += 3)
    for (let r = 0; r < 3; r++)
      out[i + r] = m[4 * r]! * positions[i]! + m[4 * r + 1]! * positions[i + 1]! + m[4 * r + 2]! * positions[i + 2]! + m[4 * r + 3]!;
  return out;
}

describe("boxes about placed triangles", () => {
  it("are those of every corner, without looking at every corner", () => {
    const positions = cloud(2000, 1);
    const places = randomPlaces(20, 2, 50);
    const boxes = instanceBoxes(buildBvh(positions), places);
    places.forEach((m, i) => {
      const want = boundsOf(placed(positions, m));
      for (let k = 0; k < 3; k++) {
        expect(boxes[i]![k]!).toBeLessThanOrEqual(want[k]!);
        expect(boxes[i]![k + 3]!).toBeGreaterThanOrEqual(want[k + 3]!);
        expect(boxes[i]![k]!).toBeGreaterThan(want[k]! - 2e-4);
        expect(boxes[i]![k + 3]!).toBeLessThan(want[k + 3]! + 2e-4);
      }
    });
  });

  it("make the bounds of a model with what stands where it is", () => {
    const [one, two] = [cloud(50, 3), cloud(50, 4)];
    const positions = new Float32Array([...one, ...two]);
    const [a, b] = randomPlaces(2, 5, 90);
    const part = { path: "x", pivot: [0, 0, 0] as const };
    const bounds = boundsOfMesh({
      positions,
      normals: positions,
      material: new Int32Array(100),
      materials: [],
      parts: [
        { ...part, first: 0, count: 50, matrix: a! },
        { ...part, first: 50, count: 50 },
        { ...part, first: 0, count: 50, matrix: b! },
      ],
    });
    const want = boundsOf(new Float32Array([...placed(one, a!), ...two, ...placed(one, b!)]));
    bounds.forEach((v, k) => expect(v).toBeCloseTo(want[k]!, 3));
  });
});

describe("the scene's tree", () => {
  it("has every place in one leaf of its own, and every triangle in one, however they lie", () => {
    for (const [triangles, places, spread] of [
      [0, 1, 5],
      [0, 300, 5],
      [3, 2, 5],
      [400, 90, 5],
      // all in one spot: leaves of many
      [40, 25, 0],
    ] as const) {
      const random = seeded(triangles + places);
      const positions = spread ? cloud(triangles, 8) : new Float32Array(9 * triangles).map((_, i) => [0, 1, 0, 0, 0, 1, 1, 0, 0][i % 9]!);
      const boxes = new Float32Array(6 * places);
      for (let i = 0; i < places; i++) {
        const c = [random() * spread, random() * spread, random() * spread];
        boxes.set([...c, ...c.map((v) => v + 1)], 6 * i);
      }
      const { nodes, leaves, root } = buildBvh(positions, { split: false, places: boxes, first: 7 });
      const [f, codes, words] = [new Float32Array(nodes), new Int32Array(nodes), new Int32Array(leaves)];
      const [foundPlaces, foundTriangles]: [number[], number[]] = [[], []];
      const visit = (code: number, box: number[] | null): void => {
        if (code < 0) {
          const first = Math.floor(~code / L.LEAF_FIRST),
            blocks = ~code & L.LEAF_BLOCKS;
          if (blocks === 0) {
            foundPlaces.push(first);
            if (box)
              for (let k = 0; k < 3; k++) expect(box[k]! <= boxes[6 * first + k]! && box[k + 3]! >= boxes[6 * first + k + 3]!).toBe(true);
          }
          const lanes = Math.floor(~code / L.LEAF_LANES) & 15;
          for (let b = first; b < first + blocks; b++)
            for (let lane = 0; lane < 4; lane++)
              for (const at of [L.BLOCK_INDEX, L.BLOCK_PARTNER]) {
                const word = words[(b * L.BLOCK_SIZE + at) / 4 + lane]!;
                if (word >= 0 && (lanes >> lane) & 1) foundTriangles.push(word & L.TRIANGLE_BITS);
              }
          return;
        }
        for (let slot = 0; slot < 8; slot++) {
          const at = (code * L.NODE_UNIT + (slot >> 2) * L.NODE_GROUP) / 4 + (slot & 3);
          if (f[at]! > f[at + 12]!) continue;
          visit(
            codes[at + L.NODE_CHILDREN / 4]!,
            [0, 1, 2, 3, 4, 5].map((k) => f[at + 4 * k]!),
          );
        }
      };
      visit(root, null);
      expect(foundPlaces.sort((a, b) => a - b)).toEqual(Array.from({ length: places }, (_, i) => i));
      expect(foundTriangles.sort((a, b) => a - b)).toEqual(Array.from({ length: triangles }, (_, i) => i + 7));
    }
  });

  it("writes what undoes a place beside the place, its root, its object and whether it mirrors", () => {
    const matrix: Affine = [0, 0, 2, 5, 0, 2, 0, 6, 2, 0, 0, 7];
    const records = instanceRecords([{ first: 0, count: 1, places: [{ matrix, object: 3 }] }], [42]);
    const f = new Float32Array(records),
      words = new Int32Array(records);
    expect([...f.subarray(0, 12)].map((v) => v + 0)).toEqual([0, 0, 0.5, -3.5, 0, 0.5, 0, -3, 0.5, 0, 0, -2.5]);
    expect([...f.subarray(12, 24)]).toEqual(matrix);
    // x and z change places: a mirror
    expect([words[L.INSTANCE_ROOT / 4], words[L.INSTANCE_OBJECT / 4], words[L.INSTANCE_MIRRORS / 4]]).toEqual([42, 3, 1]);
  });
});
