import { describe, expect, it } from "vitest";
import { drawnOf, thinned } from "./thin";

describe("triangles thinned for drawing", () => {
  it("are all drawn within the budget, a part of each shape past it, never none", () => {
    expect(drawnOf(500, 1000, 1000)).toBe(500);
    expect(drawnOf(500, 10_000, 1000)).toBe(50);
    expect(drawnOf(500, 1e9, 1000)).toBe(24);
    expect(drawnOf(10, 1e9, 1000)).toBe(10);
  });

  it("keep their sum of areas and their colours, spread over all of them", () => {
    const count = 1000;
    const positions = new Float32Array(9 * count);
    for (let i = 0; i < count; i++) positions.set([i, 0, 0, i + 1, 0, 0, i, 2, 0], 9 * i);
    const colours = Uint8Array.from({ length: 9 * count }, (_, i) => Math.floor(i / 9) % 256);
    const out = thinned(positions, colours, 250);
    expect(out.positions.length).toBe(9 * 250);
    const area = (p: Float32Array): number => {
      let sum = 0;
      for (let i = 0; i < p.length; i += 9) sum += ((p[i + 3]! - p[i]!) * (p[i + 7]! - p[i + 1]!)) / 2;
      return sum;
    };
    expect(area(out.positions) / area(positions)).toBeCloseTo(1, 5);
    expect(out.positions[0]!).toBeLessThan(10);
    expect(out.positions.at(-9)!).toBeGreaterThan(990);
    // a triangle's colour is that of the one it was
    for (let i = 0; i < 250; i++) {
      const x = (out.positions[9 * i]! + out.positions[9 * i + 3]! + out.positions[9 * i + 6]!) / 3;
      expect(out.colours[9 * i]).toBe(Math.floor(x) % 256);
    }
    expect(thinned(positions, colours, 2000).positions).toBe(positions);
  });
});
