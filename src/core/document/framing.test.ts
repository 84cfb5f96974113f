import { describe, expect, it } from "vitest";
import { frameOfShape } from "./framing";
import { LIMITS } from "./schema";

describe("a frame of a shape", () => {
  it("has the side that was asked for, and the other one by its shape", () => {
    expect(frameOfShape(16 / 9, "width", 1920)).toEqual([1920, 1080]);
    expect(frameOfShape(16 / 9, "height", 1080)).toEqual([1920, 1080]);
    expect(frameOfShape(2.39, "width", 2048)).toEqual([2048, 857]);
    expect(frameOfShape(9 / 16, "height", 100)).toEqual([56, 100]);
    expect(frameOfShape(1, "width", 1)).toEqual([1, 1]);
    expect(frameOfShape(16, "width", 3)).toEqual([3, 1]);
  });

  it("stays within a document's limits, in its shape as far as they go", () => {
    for (const ratio of [16 / 9, 1, 9 / 16, 2.39, 40, 0.01])
      for (const side of ["width", "height"] as const) {
        const [w, h] = frameOfShape(ratio, side, LIMITS.side);
        expect(w).toBeLessThanOrEqual(LIMITS.side);
        expect(h).toBeLessThanOrEqual(LIMITS.side);
        expect(w * h).toBeLessThanOrEqual(LIMITS.pixels);
        expect(w / h / ratio).toBeCloseTo(1, 1);
      }
  });
});
