import { describe, expect, it } from "vitest";
import { henyeyGreenstein, sampleHenyeyGreenstein } from "./phase";
import { equiangularPdf, equiangularSample } from "./equiangular";

describe("Henyey–Greenstein", () => {
  it.each([-0.95, -0.3, 0, 5e-4, 2e-3, 0.6, 0.95])("g = %d: integrates to 1, has mean cosine g, and its sampling follows it", (g) => {
    const n = 2_000_000;
    let total = 0,
      mean = 0;
    for (let i = 0; i < n; i++) {
      const c = -1 + (2 * (i + 0.5)) / n;
      const p = (2 * Math.PI * henyeyGreenstein(c, g) * 2) / n;
      total += p;
      mean += c * p;
    }
    expect(total).toBeCloseTo(1, 6);
    expect(mean).toBeCloseTo(g, 6);

    // chi-square of the inverse on a regular grid of u: cells of equal cosine width
    const cells = 32,
      draws = 64_000;
    const found = new Float64Array(cells);
    for (let i = 0; i < draws; i++)
      found[Math.min(cells - 1, Math.floor(((sampleHenyeyGreenstein(g, (i + 0.5) / draws) + 1) / 2) * cells))]!++;
    for (let k = 0; k < cells; k++) {
      let p = 0;
      for (let j = 0; j < 2000; j++) p += (2 * Math.PI * henyeyGreenstein(-1 + (2 * (k + (j + 0.5) / 2000)) / cells, g) * 2) / cells / 2000;
      // a regular grid of u misses each cell's share by at most two draws, and the expansion near 0 by O(g²)
      expect(Math.abs(found[k]! - p * draws)).toBeLessThan(2 + 1e-6 * draws + draws * (Math.abs(g) < 1e-3 ? g * g : 0));
    }
  });
});

describe("equiangular sampling", () => {
  it.each([
    [3, 0.5, 0, 10],
    [-2, 1, 0, Infinity],
    [20, 0.01, 5, 15],
  ])("light at %d, gap %d on [%d, %d]: samples follow the density", (closest, gap, a, b) => {
    for (const u of [0.1, 0.5, 0.9]) {
      const t = equiangularSample(closest, gap, a, b, u);
      // ∫ pdf from a to t is u
      const n = 200_000;
      let sum = 0;
      for (let i = 0; i < n; i++) sum += (equiangularPdf(closest, gap, a, b, a + ((t - a) * (i + 0.5)) / n) * (t - a)) / n;
      expect(sum).toBeCloseTo(u, 4);
    }
  });
});
