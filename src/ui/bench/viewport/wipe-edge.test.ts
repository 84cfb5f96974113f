import { describe, expect, it } from "vitest";
import { clipBefore, edgeThrough, middleOf, pastEdge, tidyAngle } from "./wipe-edge";

const SIZE = [400, 200] as const;

/** Area of a CSS polygon as a share of the picture. */
function area(polygon: string): number {
  const p = [...polygon.matchAll(/([\d.-]+)% ([\d.-]+)%/g)].map((m) => [Number(m[1]) / 100, Number(m[2]) / 100] as const);
  return Math.abs(p.reduce((a, [x, y], i) => a + x * p[(i + 1) % p.length]![1] - p[(i + 1) % p.length]![0] * y, 0)) / 2;
}

describe("the edge of a wipe", () => {
  it("upright is a share of the width", () => {
    for (const edge of [0, 0.2, 0.5, 1]) {
      expect(area(clipBefore({ edge, angle: 0 }, SIZE))).toBeCloseTo(edge, 4);
      expect(middleOf({ edge, angle: 0 }, SIZE)[0]).toBeCloseTo(400 * edge, 6);
    }
    expect(pastEdge({ edge: 0.25, angle: 0 }, SIZE, [130, 77])).toBeCloseTo(30, 6);
    expect(edgeThrough(0, SIZE, [120, 3])).toBeCloseTo(0.3, 6);
  });

  it("at any angle goes through where it is put, and leaves nothing before it at 0 and all at 1", () => {
    for (let angle = -175; angle <= 180; angle += 35) {
      const p = [90, 150] as const;
      const edge = edgeThrough(angle, SIZE, p);
      expect(pastEdge({ edge, angle }, SIZE, p)).toBeCloseTo(0, 6);
      expect(pastEdge({ edge, angle }, SIZE, middleOf({ edge, angle }, SIZE))).toBeCloseTo(0, 6);
      expect(area(clipBefore({ edge: 0, angle }, SIZE))).toBeCloseTo(0, 4);
      expect(area(clipBefore({ edge: 1, angle }, SIZE))).toBeCloseTo(1, 4);
      // both sides together are the picture
      const [one, other] = [clipBefore({ edge, angle }, SIZE), clipBefore({ edge: 1 - edge, angle: angle + 180 }, SIZE)].map(area);
      expect(one! + other!).toBeCloseTo(1, 4);
    }
    expect(area(clipBefore({ edge: 0.5, angle: 63 }, SIZE))).toBeCloseTo(0.5, 4);
  });

  it("angles stay between −180 and 180", () => {
    expect([190, -190, 360, 540.2, -45].map(tidyAngle)).toEqual([-170, 170, 0, -180, -45]);
  });
});
