import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import type { SceneDocument } from "../document/schema";
import { geometryKey } from "./keys";
import { assemble } from "./assemble";
import type { Mesh } from "../data/geometry";

/** Three triangles of three nodes, two of them in a group, along x. */
function model(): Mesh {
  const at = [0, 10, 20];
  return {
    positions: new Float32Array(at.flatMap((x) => [x, 0, 0, x + 1, 0, 0, x, 1, 0])),
    normals: new Float32Array(27),
    material: new Int32Array([0, 1, 0]),
    materials: [
      { ...parseDocument({ fumarium: 2, materials: { m: {} } }).materials.m!, name: "wood" },
      { ...parseDocument({ fumarium: 2, materials: { m: {} } }).materials.m!, name: "iron" },
    ],
    parts: at.map((x, i) => ({ path: ["hall/door", "hall/lamp", "yard"][i]!, first: i, count: 1, pivot: [x, 0, 0] as const })),
  };
}
const scene = (object: object): SceneDocument =>
  parseDocument({
    fumarium: 2,
    assets: { set: { uri: "set.glb" } },
    materials: { glow: { emission: [5, 5, 5] } },
    objects: [{ kind: "model", asset: "set", ...object }],
  });
const corners = (doc: SceneDocument): number[][] => {
  const { positions } = assemble(doc, new Map([["set", model()]]));
  return Array.from({ length: positions.length / 9 }, (_, i) =>
    [...positions.subarray(9 * i, 9 * i + 3)].map((v) => Math.round(v * 1e4) / 1e4),
  );
};

describe("parts of a model", () => {
  it("stay as they are where nothing is changed", () => {
    expect(corners(scene({ position: [1, 0, 0], scale: 2 }))).toEqual([[1, 0, 0], [21, 0, 0], [41, 0, 0]]); // prettier-ignore
  });

  it("are hidden by themselves or with what they lie in", () => {
    expect(corners(scene({ parts: { "hall/lamp": { hidden: true } } }))).toEqual([[0, 0, 0], [20, 0, 0]]); // prettier-ignore
    expect(corners(scene({ parts: { hall: { hidden: true } } }))).toEqual([[20, 0, 0]]);
    // a name that another begins with is another name
    expect(corners(scene({ parts: { hal: { hidden: true } } }))).toHaveLength(3);
  });

  it("move, turn and scale about their own place, within the object's scale", () => {
    const doc = scene({ scale: 2, parts: { yard: { position: [0, 3, 0], rotation: [0, 90, 0], scale: 3 } } });
    const { positions } = assemble(doc, new Map([["set", model()]]));
    // the corner at its place moves with it; the one a metre along x now lies three along -z
    expect([...positions.subarray(18, 24)].map((v) => Math.round(v * 1e3) / 1e3)).toEqual([40, 6, 0, 40, 6, -6]);
  });

  it("take a material of the document, nearest first; emission makes them shine", () => {
    const doc = scene({ material: "glow", parts: { "hall/lamp": { material: "glow" } } });
    const all = assemble(doc, new Map([["set", model()]]));
    expect([...all.material].map((m) => all.materials[m]!.name)).toEqual(["glow", "glow", "glow"]);
    const one = assemble(scene({ parts: { hall: { material: "glow" } } }), new Map([["set", model()]]));
    expect([...one.material].map((m) => one.materials[m]!.name)).toEqual(["glow", "glow", "wood"]);
  });

  it("become holdouts with the material they have", () => {
    const { material, materials } = assemble(scene({ parts: { "hall/door": { holdout: true } } }), new Map([["set", model()]]));
    expect([...material].map((m) => [materials[m]!.name, materials[m]!.holdout ?? false])).toEqual([
      ["wood", true],
      ["iron", false],
      ["wood", false],
    ]);
  });

  it("rebuild nothing when they are locked or renamed, and all when they are moved", () => {
    const key = geometryKey(scene({ parts: { yard: {} } }));
    expect(geometryKey(scene({ locked: true, parts: { yard: { locked: true, label: "court" } } }))).toBe(key);
    expect(geometryKey(scene({ parts: { yard: { position: [0, 1, 0] } } }))).not.toBe(key);
  });

  it("name a material that is not there: said with its place", () => {
    expect(() => scene({ parts: { yard: { material: "gold" } } })).toThrow('objects[0].parts.yard.material: no material named "gold"');
  });
});
