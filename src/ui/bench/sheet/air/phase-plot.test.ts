import { describe, expect, it } from "vitest";
import { DECADES, lobeRadius } from "./phase-plot";

describe("radii of the phase function's picture", () => {
  it("begin at the middle and end at the peak", () => {
    for (const scale of ["roots", "decades"] as const) {
      expect(lobeRadius(3, 3, scale)).toBe(1);
      expect(lobeRadius(0, 3, scale)).toBe(0);
    }
  });

  it("by decades, each factor of ten is one ring, and what lies below the last is in the middle", () => {
    for (let k = 0; k <= DECADES; k++) expect(lobeRadius(10 ** -k, 1, "decades")).toBeCloseTo(1 - k / DECADES, 12);
    expect(lobeRadius(1e-9, 1, "decades")).toBe(0);
  });

  it("by roots, an eighth lies half way", () => {
    expect(lobeRadius(0.125, 1, "roots")).toBeCloseTo(0.5, 12);
  });
});
