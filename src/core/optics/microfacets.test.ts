import { describe, expect, it } from "vitest";
import { facetIntegral, overHemisphere } from "../../../tests/support/facets";
import { ALBEDO_NODES } from "../layout/materials";
import { alphaOfRow, cosOfColumn, facetAlbedo, fresnel, glassAlbedo, placeOfCos } from "./microfacets";

describe("what microfacets give back", () => {
  const { mirror, schlick, means } = facetAlbedo();
  const rows = [9, 14, 19, ALBEDO_NODES - 1];

  it("is the integral over all directions, at every angle", () => {
    for (const row of rows)
      for (const column of [9, 13, 17, 21, 23]) {
        const alpha = alphaOfRow(row);
        const cos = cosOfColumn(column, alpha);
        const at = `alpha ${alpha.toFixed(3)}, cosine ${cos.toFixed(3)}`;
        const e = facetIntegral(alpha, cos, () => 1);
        expect(Math.abs(mirror[row * ALBEDO_NODES + column]! - e), at).toBeLessThan(0.002);
        const k = facetIntegral(alpha, cos, (vh) => (1 - vh) ** 5) / e;
        expect(Math.abs((schlick[row * ALBEDO_NODES + column]! + 1 - cos) ** 5 - k), at).toBeLessThan(0.002);
      }
  });

  it("has the means that its integrals have", () => {
    for (const row of rows) {
      const alpha = alphaOfRow(row);
      expect(Math.abs(means[2 * row]! - overHemisphere((c) => facetIntegral(alpha, c, () => 1, 120)))).toBeLessThan(0.002);
      expect(Math.abs(means[2 * row + 1]! - overHemisphere((c) => facetIntegral(alpha, c, (vh) => (1 - vh) ** 5, 120)))).toBeLessThan(
        0.001,
      );
    }
  });

  it("is all of it for a smooth mirror, and places go to cosines and back", () => {
    expect(mirror[ALBEDO_NODES - 1]).toBeGreaterThan(0.999);
    for (const alpha of [0.001, 0.05, 1])
      for (const column of [1, 7, 15, 23])
        expect(placeOfCos(cosOfColumn(column, alpha), alpha)).toBeCloseTo(column / (ALBEDO_NODES - 1), 9);
  });
});

describe("clear glass", () => {
  it("reflects 4 % at index 1.5 head on, all past the critical angle, and nothing at the angle of Brewster in one polarisation", () => {
    expect(fresnel(1, 1.5)).toBeCloseTo(0.04, 12);
    expect(fresnel(Math.cos(Math.asin(1 / 1.5)) - 1e-6, 1 / 1.5)).toBe(1);
    // tan of Brewster's angle is the index; there half of the other polarisation's ((n² - 1) / (n² + 1))² is left
    expect(fresnel(Math.cos(Math.atan(1.5)), 1.5)).toBeCloseTo(0.5 * (1.25 / 3.25) ** 2, 12);
  });

  it("loses nothing where it is smooth, and never gives more than it gets", () => {
    for (const eta of [1.5, 1 / 1.5]) {
      const t = glassAlbedo(eta);
      expect(t[ALBEDO_NODES - 1]).toBeGreaterThan(0.999);
      for (const v of t) {
        expect(v).toBeLessThanOrEqual(1 + 1e-6);
        expect(v).toBeGreaterThan(0.2);
      }
    }
  });
});
