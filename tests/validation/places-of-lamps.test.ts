import { beforeAll, describe, expect, it } from "vitest";
import { densityAcross } from "#core/air/across";
import { airFacts } from "#core/air/facts";
import type { SceneDocument } from "#core/document/schema";
import type { V3 } from "#core/math/vectors";
import type { SectionProbe } from "#core/section/probe";
import { block, createProbe, loadInto } from "../support/blocks";
import type { PartialDocument } from "../support/kernel";

let probe: SectionProbe;
beforeAll(async () => {
  probe = await createProbe();
});
const load = (input: PartialDocument): SceneDocument => loadInto(probe, input);

/** A closed room of 6 × 3 × 4 m with walls of 0.2 m, one window of 1 m in the wall at x = 6. */
const room = [
  block([-0.2, -0.2, -0.2], [6.2, 0, 4.2]),
  block([-0.2, 3, -0.2], [6.2, 3.2, 4.2]),
  block([-0.2, 0, -0.2], [0, 3, 4.2]),
  block([0, 0, -0.2], [6.2, 3, 0]),
  block([0, 0, 4], [6.2, 3, 4.2]),
  block([6, 0, 0], [6.2, 3, 1.5]),
  block([6, 0, 2.5], [6.2, 3, 4]),
  block([6, 0, 1.5], [6.2, 1, 2.5]),
  block([6, 2, 1.5], [6.2, 3, 2.5]),
];
const lens = { position: [1, 1.6, 2] as V3, target: [6, 1.5, 2] as V3 };
const point = (name: string, position: V3) => ({ kind: "point" as const, name, position });
const placeOf = (input: PartialDocument) => airFacts(load({ camera: lens, objects: room, ...input }), probe, 8).place;

describe("how lens and lamps stand to the set", () => {
  it("lamps outside that reach no place in the room, and not those that shine in", () => {
    const found = placeOf({
      lights: [
        point("inside", [3, 2.5, 2]),
        point("behind the wall", [-2, 1.5, 2]),
        point("before the window", [9, 1.5, 2]),
        point("above", [3, 6, 2]),
        { ...point("off", [-2, 1.5, 2]), on: false },
        // in the thickness of a wall
        point("walled in", [3, 3.1, 2]),
      ],
    });
    expect(found.room).not.toBeNull();
    expect(found.outside).toEqual([1, 3, 5]);
    expect(found.onNothing).toEqual([]);
    expect(found.inSolid).toBe(false);
  });

  it("lamps that meet neither surface nor air", () => {
    const lights = [
      { kind: "spot" as const, name: "away", position: [0, 2, 0] as V3, target: [0, 2, -10] as V3, cone: 30 },
      { kind: "spot" as const, name: "at the block", position: [0, 2, 0] as V3, target: [0, 0.5, 10] as V3, cone: 30 },
      { kind: "disk" as const, name: "up", position: [0, 5, 0] as V3, target: [0, 9, 0] as V3 },
      point("bulb", [0, 2, 2]),
    ];
    const scene = { objects: [block([-1, 0, 9], [1, 1, 11])], camera: { position: [0, 2, -8] as V3, target: [0, 1, 10] as V3 }, lights };
    expect(placeOf(scene).onNothing).toEqual([0, 2]);
    // air that its beam crosses is something
    expect(placeOf({ ...scene, air: [{ density: 0.1, region: { kind: "sphere", centre: [0, 2, -6], radius: 2 } }] }).onNothing).toEqual([
      2,
    ]);
    expect(placeOf({ ...scene, air: [{ density: 0.1 }] }).onNothing).toEqual([]);
  });

  it("a lens within a solid; not one in a closed room, nor in the open", () => {
    const solid = [block([0, 0, 0], [2, 2, 2]), block([-20, -1, -20], [20, 0, 20])];
    const at = (position: V3, more: PartialDocument = {}) => placeOf({ objects: solid, camera: { position, target: [9, 1, 1] }, ...more }).inSolid; // prettier-ignore
    expect(at([1, 1, 1])).toBe(true);
    expect(at([0.1, 1.9, 0.1])).toBe(true);
    expect(at([5, 1, 1])).toBe(false);
    expect(placeOf({ camera: lens }).inSolid).toBe(false);
    expect(placeOf({ objects: [...room, block([6, 1, 1.5], [6.2, 2, 2.5])] }).inSolid).toBe(false);
    // in the wall itself
    expect(placeOf({ camera: { position: [-0.1, 1.5, 2], target: [3, 1, 2] } }).inSolid).toBe(true);
    // closed in, with a lamp
    expect(at([1, 1, 1], { lights: [point("bulb", [1.5, 1.5, 1.5])] })).toBe(false);
  });
});

describe("density by a share of light across the view", () => {
  const wall = { objects: [block([-50, -50, -11], [50, 50, -10])] };
  const straight = { kind: "orthographic" as const, height: 4, position: [0, 2, 0] as V3, target: [0, 2, -10] as V3 };

  it("is Beer's law where every ray goes the same way", () => {
    const doc = load({ ...wall, camera: straight, air: [{ density: 3 }, { name: "other", density: 50 }] });
    expect(densityAcross(doc, 0, 0.4, probe, 99)! / (-Math.log(0.4) / 10)).toBeCloseTo(1, 2);
    // half of the way lies in a box
    const half = load({ ...wall, camera: straight, air: [{ density: 3, region: { kind: "box", centre: [0, 0, -5], size: [20, 20, 5] } }] });
    expect(densityAcross(half, 0, 0.4, probe, 99)! / (-Math.log(0.4) / 5)).toBeCloseTo(1, 2);
  });

  it("is of luminance where the bands differ: the root of a sum of three exponentials", () => {
    const doc = load({ ...wall, camera: straight, air: [{ density: 1, scattering: [1, 0.5, 0.1], absorption: [0, 0.2, 0] }] });
    const density = densityAcross(doc, 0, 0.3, probe, 99)!;
    const left = 0.2126 * Math.exp(-10 * density) + 0.7152 * Math.exp(-7 * density) + 0.0722 * Math.exp(-density);
    expect(left).toBeCloseTo(0.3, 2);
  });

  it("says nothing of a medium that the view hardly meets, or that is empty", () => {
    const beside = load({ ...wall, camera: straight, air: [{ density: 3, region: { kind: "sphere", centre: [40, 0, 0], radius: 1 } }] });
    expect(densityAcross(beside, 0, 0.4, probe, 99)).toBeNull();
    expect(densityAcross(load({ ...wall, camera: straight, air: [{ density: 0 }] }), 0, 0.4, probe, 99)).toBeNull();
  });
});
