import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import { assemble } from "./assemble";
import { MIN_SPARED, isWorthSharing } from "../data/sharing";
import type { Affine } from "../math/affine";
import { ownTriangles, type Mesh } from "../data/geometry";

const COUNT = 1000;
const plain = parseDocument({ fumarium: 2, materials: { m: {} } }).materials.m!;
const at = (x: number): Affine => [1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0];

/** A strip of triangles in `places` places along x; the last ten of them are of the second material. */
function model(places: number, emission: [number, number, number] = [0, 0, 0]): Mesh {
  const positions = new Float32Array(9 * COUNT);
  for (let i = 0; i < COUNT; i++) positions.set([i, 0, 5, i + 1, 0, 5, i, 1, 5], 9 * i);
  return {
    positions,
    normals: new Float32Array(9 * COUNT),
    material: Int32Array.from({ length: COUNT }, (_, i) => (i >= COUNT - 10 ? 1 : 0)),
    materials: [
      { ...plain, name: "wood" },
      { ...plain, name: "lamp", emission },
    ],
    parts: Array.from({ length: places }, (_, i) => ({
      path: `row/${i}`,
      first: 0,
      count: COUNT,
      pivot: [i, 0, 0] as const,
      matrix: at(i),
    })),
  };
}
const scene = (objects: object[]) =>
  parseDocument({
    fumarium: 2,
    assets: { set: { uri: "set.glb" } },
    materials: { glow: { emission: [5, 5, 5] }, tin: {} },
    objects: objects.map((o) => ({ kind: "model", asset: "set", ...o })),
  });
const put = (mesh: Mesh, objects: object[] = [{}]) => assemble(scene(objects), new Map([["set", mesh]]));

describe("what stands in several places", () => {
  it("is kept once where that spares enough, else written out at each", () => {
    expect(isWorthSharing(COUNT, MIN_SPARED / COUNT + 1)).toBe(true);
    expect(isWorthSharing(COUNT, MIN_SPARED / COUNT)).toBe(false);
    const few = put(model(5));
    expect([few.material.length, few.shared]).toEqual([5 * COUNT, []]);
    const many = put(model(30));
    expect([many.material.length, ownTriangles(many)]).toEqual([COUNT, 0]);
    expect(many.shared).toHaveLength(1);
    // about its own middle, its places where it was
    expect([...many.positions.subarray(0, 3)]).toEqual([-COUNT / 2, -0.5, 0]);
    expect(many.shared![0]!.places.map((p) => p.matrix[3])).toEqual(Array.from({ length: 30 }, (_, i) => COUNT / 2 + i));
    expect(many.shared![0]!.places[0]!.matrix.slice(4)).toEqual([0, 1, 0, 0.5, 0, 0, 1, 5]);
  });

  it("is kept once over objects of the same file, and its places know their object", () => {
    const two = put(model(15), [{ name: "a" }, { name: "b", position: [0, 7, 0] }]);
    expect(two.material.length).toBe(COUNT);
    expect(two.shared![0]!.places.map((p) => p.object)).toEqual([...new Array<number>(15).fill(0), ...new Array<number>(15).fill(1)]);
    expect(two.shared![0]!.places[15]!.matrix[7]).toBe(7.5);
    // materials of a file are there once
    expect(two.materials.map((m) => m.name)).toEqual(["wood", "lamp"]);
  });

  it("is another thing where its material is another; hidden parts are in no place, moved ones in theirs", () => {
    const parts = { "row/0": { hidden: true }, "row/1": { material: "tin" }, "row/2": { position: [0, 3, 0], rotation: [0, 0, 90] } };
    const g = put(model(40), [{ parts }]);
    expect(ownTriangles(g)).toBe(COUNT);
    expect(new Set([...g.material.subarray(0, COUNT)].map((m) => g.materials[m]!.name))).toEqual(new Set(["tin"]));
    expect(g.shared![0]!.places).toHaveLength(38);
    const turned = g.shared![0]!.places[0]!.matrix;
    // the middle (500, 0.5, 5) from the pivot (2, 0, 0), where the place puts it: turned a quarter, moved up
    expect([turned[3], turned[7], turned[11]].map((v) => Math.round(v * 1e6) / 1e6)).toEqual([1.5, 503, 5]);
    expect(put(model(40), [{ holdout: true }]).materials.filter((m) => m.holdout)).toHaveLength(2);
  });

  it("is written out where it shines, as each is a light of its own", () => {
    const g = put(model(30, [100, 100, 100]));
    expect([ownTriangles(g), g.material.length]).toEqual([300, 300 + COUNT - 10]);
    expect(g.shared![0]).toMatchObject({ first: 300, count: COUNT - 10 });
    const all = put(model(30), [{ material: "glow" }]);
    expect([ownTriangles(all), all.shared]).toEqual([30 * COUNT, []]);
  });

  it("is written out where its place flattens it, and refused past what a scene may show", () => {
    const mesh = model(30);
    mesh.parts![3]!.matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0];
    expect(ownTriangles(put(mesh))).toBe(COUNT);
    const count = 200_000;
    const large: Mesh = {
      ...mesh,
      positions: new Float32Array(9 * count),
      normals: new Float32Array(9 * count),
      material: new Int32Array(count),
      parts: Array.from({ length: 10_001 }, () => ({ path: "row", first: 0, count, pivot: [0, 0, 0] as const, matrix: at(0) })),
    };
    expect(() => put(large)).toThrow("scene: shows 2000200000 triangles, more than the limit of 2000000000");
  });
});
