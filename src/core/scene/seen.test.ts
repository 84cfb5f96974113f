import { expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import { unit } from "../math/vectors";
import { assemble } from "./assemble";
import { firstMet } from "./seen";

const doc = parseDocument({
  fumarium: 2,
  materials: { clay: {}, brass: {} },
  objects: [
    { kind: "rectangle", material: "clay", size: [20, 20] },
    { kind: "sphere", name: "ball", material: "brass", position: [0, 2, 0], radius: 1 },
    { kind: "box", name: "crate", material: "clay", position: [4, 1, 0], rotation: [0, 45, 0], size: [2, 2, 2] },
  ],
});
const set = assemble(doc, new Map());

it("a ray meets the nearest object, from either side, at its distance", () => {
  const met = (origin: [number, number, number], direction: [number, number, number]) => {
    const m = firstMet(set, origin, unit(direction));
    return m && { object: m.object, material: set.materials[m.material]!.name, distance: m.distance };
  };
  // spheres are of triangles
  const ball = met([0, 2, 5], [0, 0, -1])!;
  expect([ball.object, ball.material]).toEqual([1, "brass"]);
  expect(ball.distance).toBeCloseTo(4, 1);
  const ground = met([8, 3, 8], [0, -1, 0])!;
  expect([ground.object, ground.material]).toEqual([0, "clay"]);
  expect(ground.distance).toBeCloseTo(3, 6);
  // from below, and an edge that is turned towards the ray
  expect(met([8, -3, 8], [0, 1, 0])!.distance).toBeCloseTo(3, 6);
  expect(met([4.01, 1, 9], [0, 0, -1])!.distance).toBeCloseTo(9 - Math.SQRT2, 1);
  expect(met([0, 2, 5], [0, 1, 0])).toBeNull();
  // behind the origin is nothing
  expect(met([0, 5, 0], [0, 1, 0])).toBeNull();
});

it("instances are met where they stand, turned and scaled", () => {
  const shared = {
    ...set,
    shared: [{ first: 0, count: set.material.length, places: [{ matrix: [0, 0, 2, 100, 0, 2, 0, 0, -2, 0, 0, 0] as never, object: 7 }] }],
  };
  // the ball's middle goes to (100, 4, 0), its radius to 2
  const m = firstMet(shared, [100, 4, 10], [0, 0, -1])!;
  expect(m.object).toBe(7);
  expect(m.distance).toBeCloseTo(8, 1);
});
