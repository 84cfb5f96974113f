import { describe, expect, it } from "vitest";
import { monotoneCurve } from "./monotone";

describe("curves through points", () => {
  it("go through them, are level past the ends, and straight where two points say so", () => {
    const points = [
      [0.1, 0.2],
      [0.3, 0.25],
      [0.7, 0.9],
      [0.9, 0.6],
    ] as const;
    const f = monotoneCurve(points);
    for (const [x, y] of points) expect(f(x)).toBeCloseTo(y, 12);
    expect([f(-1), f(0), f(2)]).toEqual([0.2, 0.2, 0.6]);
    const straight = monotoneCurve([
      [0, 0],
      [1, 1],
    ]);
    for (const x of [0, 0.2, 0.37, 0.9, 1]) expect(straight(x)).toBeCloseTo(x, 12);
    expect(monotoneCurve([[0.5, 0.3]])(0.8)).toBe(0.3);
  });

  it("never swing past their points, and have no kink", () => {
    // the data of Fritsch and Carlson's paper (RPN 14), which a common spline overshoots
    const data = [
      [7.99, 0],
      [8.09, 2.76429e-5],
      [8.19, 4.37498e-2],
      [8.7, 0.169183],
      [9.2, 0.469428],
      [10, 0.94374],
      [12, 0.998636],
      [15, 0.999919],
      [20, 0.999994],
    ] as const;
    const f = monotoneCurve(data);
    let before = 0;
    for (let x = 8; x <= 20; x += 0.001) {
      const y = f(x);
      expect(y).toBeGreaterThanOrEqual(before - 1e-15);
      expect(y).toBeLessThanOrEqual(1);
      before = y;
    }
    for (const [x] of data.slice(1, -1)) {
      const [left, right] = [(f(x) - f(x - 1e-6)) / 1e-6, (f(x + 1e-6) - f(x)) / 1e-6];
      expect(Math.abs(left - right)).toBeLessThan(1e-3 * (1 + Math.abs(left)));
    }
  });
});
