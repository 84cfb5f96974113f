import { beforeAll, describe, expect, it } from "vitest";
import { map3, type V3 } from "#core/math/vectors";
import { findInterior, inBox, standInside, type Interior, type Look } from "#core/section/interior";
import type { SectionProbe } from "#core/section/probe";
import { block, createProbe, loadInto, type Block } from "../support/blocks";
import type { PartialDocument } from "../support/kernel";

let probe: SectionProbe;
beforeAll(async () => {
  probe = await createProbe();
});

const ground = { kind: "rectangle" as const, material: "m", size: [400, 400] as [number, number], position: [0, -0.5, 0] as V3 };

/** A room 8 × 3 × 5 m with walls 0.3 m thick; its wall at x = 8 has a window 1.2 m wide from 1 to 2.4 m, in the middle of z = 3. */
const room: Block[] = [
  block([-0.3, -0.3, -0.3], [8.3, 0, 5.3]),
  block([-0.3, 3, -0.3], [8.3, 3.3, 5.3]),
  block([-0.3, 0, -0.3], [0, 3, 5.3]),
  block([0, 0, -0.3], [8.3, 3, 0]),
  block([0, 0, 5], [8.3, 3, 5.3]),
  block([8, 0, 0], [8.3, 3, 2.4]),
  block([8, 0, 3.6], [8.3, 3, 5]),
  block([8, 0, 2.4], [8.3, 1, 3.6]),
  block([8, 2.4, 2.4], [8.3, 3, 3.6]),
];

function lookIn(objects: NonNullable<PartialDocument["objects"]>): Look {
  const doc = loadInto(probe, { objects });
  return (from, directions) => probe.look(doc, from, directions);
}
/** The window's recess may be in the box, or not. */
const near = (found: Interior | null, wanted: number[], by: number, recess = 0.3): void => {
  expect(found).not.toBeNull();
  found!.box.forEach((v, k) => {
    expect(v - wanted[k]!, `side ${k}: ${v}`).toBeGreaterThan(-by);
    expect(v - wanted[k]!, `side ${k}: ${v}`).toBeLessThan(by + (k === 3 ? recess : 0));
  });
};

describe("the inside of a set", () => {
  it.each([
    [4, 1.5, 2.5],
    [0.4, 0.5, 0.6],
    [7, 2.6, 4.7],
  ])("of a room is its walls, from wherever in it (%s, %s, %s)", (x, y, z) => {
    near(findInterior(lookIn([...room, ground]), [x, y, z]), [0, 0, 0, 8, 3, 5], 0.02);
  });

  it("is the same for a room of any size, and far from the origin", () => {
    for (const [k, away] of [
      [0.02, 0],
      [40, 0],
      [1, 3000],
    ] as const) {
      const placed = room.map((b) => ({
        ...b,
        position: map3(b.position, (v, i) => v * k + (i === 0 ? away : 0)),
        size: map3(b.size, (v) => v * k),
      }));
      const found = findInterior(lookIn(placed), [4 * k + away, 1.5 * k, 2.5 * k]);
      near(found, [away, 0, 0, 8 * k + away, 3 * k, 5 * k], 0.02 * k, 0.3 * k);
    }
  });

  it("goes round corners, and past what stands in the room", () => {
    // an L: a second arm along z, and a cupboard in the corner
    const arm = [
      block([-0.3, -0.3, 5], [3.3, 0, 12.3]),
      block([-0.3, 3, 5], [3.3, 3.3, 12.3]),
      block([-0.3, 0, 5], [0, 3, 12.3]),
      block([3, 0, 5.3], [3.3, 3, 12.3]),
      block([-0.3, 0, 12], [3.3, 3, 12.3]),
    ];
    const walls = room.filter((_, i) => i !== 4);
    const both = [...walls, block([3, 0, 5], [8.3, 3, 5.3]), ...arm, block([6, 0, 3], [7.5, 2, 4.5])];
    near(findInterior(lookIn(both), [4, 1.5, 2.5]), [0, 0, 0, 8, 3, 12], 0.02);
  });

  it("is not found out of doors: in the open, beside a wall, under an eave, before the window", () => {
    const look = lookIn([...room, ground, block([-2, 3.3, -2], [0, 3.4, 7])]);
    for (const at of [[40, 2, 40], [8.8, 1.6, 1], [9.5, 1.6, 3], [-1, 1.6, 2], [4, 8, 2.5]] as V3[]) expect(findInterior(look, at), at.join()).toBeNull(); // prettier-ignore
  });

  it("does not run out by a wide opening: one wall missing", () => {
    const open = room.filter((_, i) => i < 5);
    const found = findInterior(lookIn([...open, ground]), [3, 1.5, 2.5]);
    expect(found).not.toBeNull();
    expect(found!.box[3]).toBeGreaterThan(5);
    expect(found!.box[3]).toBeLessThan(8.6);
  });

  it("knows the opening: its middle, and the way out; none where all is closed", () => {
    const look = lookIn([...room, ground]);
    const { opening } = findInterior(look, [4, 1.5, 2.5])!;
    expect(opening!.out).toEqual([1, 0, 0]);
    expect(opening!.at[0]).toBeGreaterThan(7.98);
    expect(opening!.at[0]).toBeLessThan(8.32);
    // what goes down through it meets the ground
    expect(opening!.at[1]).toBeGreaterThan(1.5);
    expect(opening!.at[1]).toBeLessThan(2.4);
    expect(Math.abs(opening!.at[2] - 3)).toBeLessThan(0.3);
    const closed = lookIn([...room, block([8, 1, 2.4], [8.3, 2.4, 3.6])]);
    expect(findInterior(closed, [4, 1.5, 2.5])!.opening).toBeNull();
    // a light well in the ceiling
    const above = lookIn([
      ...room.filter((_, i) => i !== 1),
      block([8, 1, 2.4], [8.3, 2.4, 3.6]),
      block([-0.3, 3, -0.3], [3, 3.3, 5.3]),
      block([4, 3, -0.3], [8.3, 3.3, 5.3]),
    ]);
    expect(findInterior(above, [2, 1.5, 2.5])!.opening!.out).toEqual([0, 1, 0]);
  });

  it("gives a lens a place inside, at eye height, from which the opening is seen", () => {
    const look = lookIn([...room, ground, block([3, 0, 2], [4, 2.2, 4])]);
    const found = findInterior(look, [6, 1.5, 2.5])!;
    const { position, target } = standInside(look, found);
    expect(inBox(found.box, position)).toBe(true);
    expect(position[1]).toBeCloseTo(1.6, 1);
    const way = target.map((t, k) => t - position[k]!) as V3;
    const length = Math.hypot(...way);
    expect(way[0]).toBeGreaterThan(2);
    expect(look(position, [way.map((v) => v / length) as V3])[0]).toBeGreaterThan(0.9 * length);
  });
});
