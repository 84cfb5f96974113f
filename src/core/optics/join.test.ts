import { describe, expect, it } from "vitest";
import { gainByOpacity, JOIN_REACH, likeness, spline, unlikeOpacity, unlikeSurfaces } from "./join";

describe("weights of joined air", () => {
  it("by place add up to one wherever a pixel lies, and draw straight lines straight", () => {
    for (let f = 0; f < 1; f += 0.01) {
      const nodes = Array.from({ length: JOIN_REACH }, (_, i) => i - 1);
      expect(nodes.reduce((s, i) => s + spline(f - i), 0)).toBeCloseTo(1, 12);
      expect(nodes.reduce((s, i) => s + i * spline(f - i), 0)).toBeCloseTo(f, 12);
    }
    expect(spline(2)).toBe(0);
    expect(spline(-0.5)).toBe(spline(0.5));
  });

  it("are largest for pixels that are alike, and fall with distance, cover and opacity, the same both ways", () => {
    expect(unlikeSurfaces(1, 10, 1, 10)).toBe(0);
    expect(unlikeSurfaces(1, 10, 1, 20)).toBeCloseTo(unlikeSurfaces(1, 20, 1, 10), 12);
    // ratios of distances count, not the metres
    expect(unlikeSurfaces(1, 1, 1, 2)).toBeCloseTo(unlikeSurfaces(1, 100, 1, 200), 12);
    expect(unlikeSurfaces(0, 0, 1, 10)).toBeGreaterThan(unlikeSurfaces(0.5, 10, 1, 10));
    expect(unlikeSurfaces(0, 0, 0, 0)).toBe(0);
    expect(unlikeOpacity(0.5, 0.4)).toBeGreaterThan(unlikeOpacity(0.5, 0.45));
    expect(likeness(0)).toBeGreaterThan(likeness(1));
    expect(likeness(1e9)).toBeGreaterThan(0);
  });

  it("make light stronger as air is denser, within limits", () => {
    expect(gainByOpacity(0.4, 0.4)).toBe(1);
    expect(gainByOpacity(0.4, 0.2)).toBeCloseTo(2, 1);
    expect(gainByOpacity(1, 0)).toBe(4);
    expect(gainByOpacity(0, 1)).toBe(0.25);
    // an estimate of opacity may err below nought
    expect(gainByOpacity(-0.1, 0)).toBe(1);
  });
});
