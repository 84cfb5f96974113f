import { describe, expect, it } from "vitest";
import { drawCube } from "./cube";

const size = 32;
const middle = 2 * ((size / 2) * size + size / 2);

describe("a cube of densities, drawn", () => {
  it("covers by its optical depth along the view", () => {
    const thin = drawCube(new Float32Array(8 ** 3).fill(0.05), 8, size);
    // the way through the middle of the cube along (-0.55, -0.45, -0.7): as far as its longest part allows
    const way = Math.hypot(0.55, 0.45, 0.7) / 0.7;
    expect(thin[middle + 1]).toBeCloseTo(1 - Math.exp(-7 * 0.05 * way), 1);
    expect(drawCube(new Float32Array(8 ** 3), 8, size).every((v) => v === 0)).toBe(true);
    // the corners of the picture see past it
    expect([thin[1], thin[2 * size * size - 1]]).toEqual([0, 0]);
  });

  it("is brighter above than below, where its own shadow falls", () => {
    const full = drawCube(new Float32Array(8 ** 3).fill(1), 8, size);
    const at = (row: number): number => full[2 * (row * size + size / 2)]!;
    expect(at(10)).toBeGreaterThan(1.5 * at(24));
    for (let i = 0; i < full.length; i += 2) expect(full[i]).toBeLessThanOrEqual(full[i + 1]! + 1e-6);
  });
});
