import { describe, expect, it } from "vitest";
import { withNewPoint, withoutPoint, withPoint, type CurvePoint } from "./CurveField";

const curve: CurvePoint[] = [[0, 0], [0.5, 0.8], [1, 1]]; // prettier-ignore

describe("points of a curve", () => {
  it("stay in their order and within the frame, wherever the hand goes", () => {
    expect(withPoint(curve, 1, 0.7, 0.3)[1]).toEqual([0.7, 0.3]);
    expect(withPoint(curve, 1, 5, -2)[1]).toEqual([0.99, 0]);
    expect(withPoint(curve, 1, -5, 2)[1]).toEqual([0.01, 1]);
    expect(withPoint(curve, 0, -1, 0.5)[0]).toEqual([0, 0.5]);
    // where neighbours leave no room it keeps its place
    expect(withPoint([[0, 0], [0.004, 0.5], [0.008, 1]], 1, 0.9, 0.2)[1]).toEqual([0.004, 0.2]); // prettier-ignore
  });

  it("are added between the others, eight at most, and taken out down to two", () => {
    expect(withNewPoint(curve, 0.25, 0.4)).toEqual([[0, 0], [0.25, 0.4], [0.5, 0.8], [1, 1]]); // prettier-ignore
    expect(withNewPoint(curve, 0.501, 0.4)).toEqual(curve);
    let full: CurvePoint[] = [...curve];
    for (let i = 1; i < 20; i++) full = withNewPoint(full, i / 21, 0.5);
    expect(full).toHaveLength(8);
    expect(withoutPoint(curve, 1)).toEqual([[0, 0], [1, 1]]); // prettier-ignore
    expect(withoutPoint(withoutPoint(curve, 1), 0)).toHaveLength(2);
  });
});
