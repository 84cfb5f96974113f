import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { sectionFrame } from "#core/section/frame";
import { placeIn, type Plane } from "#core/section/region";
import { marksOf, type Seen } from "./section-handles";

const doc = parseDocument({
  fumarium: 2,
  camera: { position: [0, 2, 10], target: [0, 2, 0] },
  lights: [{ kind: "spot", name: "beam", position: [1, 4, 0], target: [0, 0, 0] }],
  air: [
    {
      name: "mist",
      height: { level: 0.5, scale: 2 },
      start: { distance: 3, fade: 2 },
      region: { kind: "box", centre: [0, 2, 0], size: [4, 4, 6] },
    },
  ],
});
const upright: Plane = { kind: "upright" };
const seen = (plane: Plane = upright): Seen => ({ doc, frame: sectionFrame(doc, 0.5, 0.5), plane, medium: 0, lights: [0] });
const mark = (key: string, plane: Plane = upright) => marksOf(seen(plane)).find((m) => m.key === key)!;

describe("what can be dragged in a section", () => {
  it("lies where it is, and does what it says", () => {
    expect(marksOf(seen()).map((m) => m.key)).toEqual(
      ["level", "scale", "start", "fade", "centre", "near", "far", "low", "high", "position 0", "target 0"]); // prettier-ignore
    expect(mark("level").move(doc, [0, 1.23456]).air[0]!.height).toMatchObject({ level: 1.235, scale: 2 });
    expect(mark("scale").move(doc, [0, 4.5]).air[0]!.height).toMatchObject({ level: 0.5, scale: 4 });
    expect(mark("scale").move(doc, [0, -3]).air[0]!.height!.scale).toBe(0.01);
    expect(mark("start").move(doc, [5, 0]).air[0]!.start).toMatchObject({ distance: 5, fade: 2 });
    expect(mark("fade").move(doc, [9, 0]).air[0]!.start).toMatchObject({ distance: 3, fade: 6 });
    // the box lies 7 to 13 m from the lens
    expect(mark("near").at[0]).toBeCloseTo(7, 6);
    expect(mark("near").move(doc, [5, 0]).air[0]!.region).toMatchObject({ size: [4, 4, 8], centre: [0, 2, 1] });
    expect(mark("high").move(doc, [0, 6]).air[0]!.region).toMatchObject({ size: [4, 6, 6], centre: [0, 3, 0] });
    expect(mark("centre").move(doc, [4, 3]).air[0]!.region).toMatchObject({ centre: [0, 3, 6] });
    // a lamp keeps its distance from the plane
    const lamp = mark("position 0");
    expect(Math.abs(lamp.away)).toBeCloseTo(1, 6);
    expect(lamp.move(doc, [12, 5]).lights[0]!.position).toEqual([1, 5, -2]);
  });

  it("from above has no levels, and moves along the ground", () => {
    const plane: Plane = { kind: "level", height: 2 };
    expect(marksOf(seen(plane)).map((m) => m.key)).not.toContain("level");
    const wide = mark("high", plane).move(doc, [0, 5]).air[0]!.region;
    expect(wide).toMatchObject({ kind: "box", size: [7, 4, 6] });
    const lamp = mark("position 0", plane);
    const moved = lamp.move(doc, [12, 3]).lights[0]!.position;
    expect(placeIn(seen().frame, plane, moved).at).toEqual([12, 3]);
    expect(moved[1]).toBe(4);
  });
});
