import type { V3, Axis } from "../math/vectors";
import { describe, expect, it } from "vitest";
import type { Region } from "../document/air";
import { parseDocument } from "../document/parse";
import { sectionFrame } from "./frame";
import { placeIn, pointOf, regionCut, stretched, type Plane } from "./region";
import { along } from "./scale";

const doc = parseDocument({ fumarium: 2, camera: { position: [1, 2, 3], target: [-6, 1, -9] } });
const frame = sectionFrame(doc, 0.5, 0.5);
const planes: Plane[] = [{ kind: "upright" }, { kind: "level", height: 1.2 }];

describe("regions in a section", () => {
  it.each(planes)("places go into the drawing and back (%o)", (plane) => {
    const p: V3 = [4, 5, -6];
    const { at, away } = placeIn(frame, plane, p);
    pointOf(frame, plane, at, away).forEach((v, k) => expect(v).toBeCloseTo(p[k as Axis], 9));
  });

  it.each(planes)("outlines lie in the plane and on the border (%o)", (plane) => {
    const centre = pointOf(frame, plane, [8, plane.kind === "upright" ? 1 : 0.5], 0.4);
    const box: Region = { kind: "box", centre, size: [3, 4, 5], rotation: [10, 35, -20] };
    const sphere: Region = { kind: "sphere", centre, radius: 2 };
    const cut = regionCut(frame, plane, sphere);
    for (const at of cut) expect(Math.hypot(...pointOf(frame, plane, at).map((v, k) => v - centre[k]!))).toBeCloseTo(2, 9);
    const corners = regionCut(frame, plane, box);
    expect(corners.length).toBeGreaterThanOrEqual(3);
    // an area no larger than the largest face-to-face cut, and the middle inside
    const area = Math.abs(corners.reduce((a, p, i) => a + p[0] * corners[(i + 1) % corners.length]![1] - p[1] * corners[(i + 1) % corners.length]![0], 0)) / 2; // prettier-ignore
    expect(area).toBeGreaterThan(6);
    expect(area).toBeLessThan(Math.hypot(3, 4) * Math.hypot(4, 5) + 1e-9);
    expect(regionCut(frame, plane, { ...sphere, centre: pointOf(frame, plane, [8, 0], 5) })).toEqual([]);
    expect(regionCut(frame, plane, { kind: "everywhere" })).toEqual([]);
  });

  it("a dragged side moves and the other stays; a region never turns inside out", () => {
    const box: Region = { kind: "box", centre: [0, 1, 0], size: [2, 2, 2], rotation: [0, 90, 0] };
    const taller = stretched(box, [0, 1, 0], 3) as typeof box;
    expect(taller.size[1]).toBe(5);
    expect(taller.centre[1] - taller.size[1] / 2).toBeCloseTo(0, 9);
    // turned by a right angle, its own z lies along x
    const wider = stretched(box, [1, 0, 0], 1) as typeof box;
    expect(wider.size[2]).toBeCloseTo(3, 6);
    expect(wider.centre[0]).toBeCloseTo(0.5, 6);
    expect((stretched(box, [0, -1, 0], -50) as typeof box).size[1]).toBe(0.01);
    const drum: Region = { kind: "cylinder", centre: [0, 0, 0], radius: 1, height: 2, rotation: [0, 0, 0] };
    expect(stretched(drum, [1, 0, 0], 0.5)).toMatchObject({ radius: 1.5, centre: [0, 0, 0] });
    expect(stretched(drum, [0, 1, 0], 1)).toMatchObject({ height: 3, centre: [0, 0.5, 0] });
    expect(stretched({ kind: "everywhere" }, [1, 0, 0], 1)).toEqual({ kind: "everywhere" });
  });

  it("distances run from end to end, evenly or stretched, and back", () => {
    for (const scale of ["even", "logarithmic"] as const) {
      const a = along(-4, 400, scale);
      expect(a.share(-4)).toBeCloseTo(0, 12);
      expect(a.share(400)).toBeCloseTo(1, 12);
      for (const s of [-1, 0, 0.5, 30, 399]) expect(a.distance(a.share(s))).toBeCloseTo(s, 8);
    }
    expect(along(-4, 400, "logarithmic").share(4)).toBeGreaterThan(4 * along(-4, 400, "even").share(4));
  });
});
