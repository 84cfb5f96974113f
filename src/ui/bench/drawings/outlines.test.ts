import type { V3 } from "#core/math/vectors";
import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { projectPoint } from "#core/scene/pick";
import type { Medium } from "#core/document/air";
import { gridKey } from "#core/document/sequence";
import { VolumeBuilder } from "#core/data/volume";
import { gridBox } from "../model/grid-box";
import { lensOutline, lightOutline, mediumOutline, segmentsInFrame } from "./outlines";

const points = (lines: number[]): number[][] => Array.from({ length: lines.length / 3 }, (_, i) => lines.slice(3 * i, 3 * i + 3));
const doc = parseDocument({
  fumarium: 2,
  camera: { position: [1, 2, 9], target: [0, 1, -3], roll: 20, fieldOfView: 40 },
  lights: [
    { kind: "spot", position: [0, 5, 0], target: [0, 0, 0], cone: 60 },
    { kind: "rectangle", position: [0, 1, 0], target: [0, 0, 0], size: [2, 4] },
    { kind: "sphere", position: [3, 1, 0], radius: 0.5 },
    { kind: "tube", position: [0, 1, 0], direction: [0, 0, 1], length: 3 },
    { kind: "point", position: [0, 1, 0] },
  ],
  air: [
    { density: 1, region: { kind: "box", centre: [1, 2, 3], size: [2, 4, 6] } },
    { density: 1, region: { kind: "sphere", centre: [0, 0, 0], radius: 2 } },
    { density: 1, region: { kind: "cone", centre: [0, 3, 0], radius: 1, height: 4 } },
    { density: 1, region: { kind: "layer", level: 2 } },
    { density: 1 },
  ],
});

describe("outlines", () => {
  it("of grids are the box about them, placed with their air", () => {
    const b = new VolumeBuilder(0);
    for (const [i, j, k] of [[0, 0, 0], [15, 7, 7]] as const) b.set(i, j, k, 1); // prettier-ignore
    const volume = b.build([0.5, 0, 0, 0, 0, 0.5, 0, 0, 0, 0, 0.5, 0]);
    const placed = parseDocument({
      fumarium: 2,
      assets: { puff: { uri: "puff.vdb" } },
      air: [{ density: 1, grid: { asset: "puff", position: [10, 0, 0], rotation: [0, 90, 0], scale: 2 } }, { density: 1 }],
    });
    const [m, other] = placed.air as [Medium, Medium];
    const volumes = { [gridKey(m.grid!, "density", 0)]: { volume, packed: new ArrayBuffer(0) } };
    expect(gridBox(other, volumes, 0)).toBeNull();
    expect(gridBox(m, {}, 0)).toBeNull();
    const edges = points(mediumOutline(m, 5, gridBox(m, volumes, 0)));
    expect(edges).toHaveLength(24);
    // voxels -1 to 16 along x are a metre each, and run along -z after the quarter turn
    const range = (k: number): number[] =>
      [Math.min(...edges.map((p) => p[k]!)), Math.max(...edges.map((p) => p[k]!))].map((v) => Math.round(v * 1e6) / 1e6);
    expect([range(0), range(1), range(2)]).toEqual([[9, 18], [-1, 8], [-16, 1]]); // prettier-ignore
  });

  it("of lights show their cone, sides, size and length", () => {
    const [spot, rectangle, sphere, tube, point] = doc.lights.map((l) => points(lightOutline(l, 100)));
    // 5 m below, half of 60° opens to 2.89 m
    expect(Math.max(...spot!.map((p) => Math.hypot(p[0]!, p[2]!)))).toBeCloseTo(5 * Math.tan(Math.PI / 6), 6);
    expect(Math.max(...rectangle!.slice(0, 8).map((p) => Math.hypot(p[0]!, p[2]!)))).toBeCloseTo(Math.hypot(1, 2), 6);
    for (const p of sphere!) expect(Math.hypot(p[0]! - 3, p[1]! - 1, p[2]!)).toBeCloseTo(0.5, 6);
    expect(Math.max(...tube!.map((p) => p[2]!))).toBeCloseTo(1.5, 6);
    expect(point).toEqual([]);
  });

  it("of media are their borders; air that is everywhere has none", () => {
    const [box, sphere, cone, layer, all] = doc.air.map((m) => points(mediumOutline(m, 10)));
    expect(box).toHaveLength(24);
    for (const p of box!) expect(p.map((v, k) => Math.abs(v - [1, 2, 3][k]!))).toEqual([1, 2, 3]);
    for (const p of sphere!) expect(Math.hypot(...p)).toBeCloseTo(2, 6);
    expect(Math.max(...cone!.map((p) => p[1]!))).toBeCloseTo(5, 6);
    for (const p of layer!) expect(p[1]).toBeCloseTo(2, 6);
    expect(all).toEqual([]);
  });

  it("of the lens has its corners in the corners of the frame", () => {
    const corners = points(lensOutline(doc, 100))
      .slice(0, 16)
      .filter((p) => Math.hypot(...p.map((v, k) => v - doc.camera.position[k]!)) > 1);
    for (const p of corners) {
      const { x, y } = projectPoint(doc, p as V3)!;
      expect(Math.min(Math.abs(x), Math.abs(x - 1))).toBeLessThan(1e-6);
      expect(Math.min(Math.abs(y), Math.abs(y - 1))).toBeLessThan(1e-6);
    }
  });
});

const front = parseDocument({
  fumarium: 2,
  camera: { position: [0, 0, 0], target: [0, 0, -10], fieldOfView: 90 },
  film: { size: [100, 100] },
});

describe("outlines in the frame", () => {
  it("are where the lens sees them", () => {
    expect(segmentsInFrame(front, [-1, 0, -2, 1, 0, -2])).toEqual([
      [
        [expect.closeTo(0.25, 6), expect.closeTo(0.5, 6)],
        [expect.closeTo(0.75, 6), expect.closeTo(0.5, 6)],
      ],
    ]);
  });

  it("end at the lens: what is behind it is cut away, not mirrored", () => {
    expect(segmentsInFrame(front, [0, 1, 1, 1, 1, 5])).toEqual([]);
    const [[a, b]] = segmentsInFrame(front, [1, 0, -4, 1, 0, 4]) as [[[number, number], [number, number]]];
    expect(a[0]).toBeCloseTo(0.625, 6);
    // far off to the right, still on the ray towards the lens's own plane
    expect(b[0]).toBeGreaterThan(100);
    expect(b.every(Number.isFinite)).toBe(true);
  });
});
