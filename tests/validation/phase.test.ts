import { describe, expect, it } from "vitest";
import { dropletDraineAlpha, dropletDraineG, dropletDraineShare, dropletForward, draine, henyeyGreenstein } from "#core/optics/phase";
import { mie } from "../support/mie";
import { holds } from "../support/record";
import { load, simpson } from "../support/kernel";

/** A cosine grid that is fine where lobes are: c = cos(π t²). */
function sphere(f: (c: number) => number, n = 20000): number {
  return simpson((t) => f(Math.cos(Math.PI * t * t)) * Math.sin(Math.PI * t * t) * 2 * Math.PI * t * 2 * Math.PI, 0, 1, n);
}
const droplets = (d: number) => (c: number) => {
  const w = dropletDraineShare(d);
  return (1 - w) * henyeyGreenstein(c, dropletForward(d)) + w * draine(c, dropletDraineG(d), dropletDraineAlpha(d));
};

describe("phase functions of the kernel", () => {
  const cases: [string, object, number][] = [
    ["one lobe", { anisotropy: 0.7 }, 0.7],
    ["two lobes", { phase: { model: "two-lobe", forward: 0.8, backward: -0.4, mix: 0.3 } }, 0.7 * 0.8 - 0.3 * 0.4],
    ["rayleigh", { phase: { model: "rayleigh" } }, 0],
    ["droplets", { phase: { model: "droplets", diameter: 8 } }, NaN],
  ];
  for (const [name, air, mean] of cases)
    it(`${name}: integrates to 1, has its mean cosine, and its samples follow it (chi-square)`, async () => {
      const { kernel } = await load({ air: [{ density: 1, ...air }] });
      const p = (c: number): number => kernel.phase(0, c);
      expect(sphere(p)).toBeCloseTo(1, 5);
      const g = sphere((c) => c * p(c));
      if (!Number.isNaN(mean)) expect(g).toBeCloseTo(mean, 5);
      // cells of equal angle, so that the forward peak has some of its own
      const cells = 40,
        draws = 200_000;
      const found = new Float64Array(cells);
      for (let i = 0; i < draws; i++) found[Math.min(cells - 1, Math.floor((Math.acos(kernel.phaseSample(0, i)) / Math.PI) * cells))]!++;
      let chi = 0,
        degrees = -1;
      for (let k = 0; k < cells; k++) {
        const share = simpson((a) => p(Math.cos(a)) * Math.sin(a) * 2 * Math.PI, (Math.PI * k) / cells, (Math.PI * (k + 1)) / cells, 400);
        if (share * draws < 10) continue;
        chi += (found[k]! - share * draws) ** 2 / (share * draws);
        degrees++;
      }
      // mean k, variance 2k: five standard deviations
      expect(chi).toBeLessThan(degrees + 5 * Math.sqrt(2 * degrees));
    });
});

describe("the fit for water droplets against an own Lorenz–Mie computation", () => {
  it("the series itself gives published values: x = 10, m = 1.5 (Wiscombe 1979: Q 2.8820, g 0.742913) and Rayleigh's limit", () => {
    const one = mie(10, 1.5);
    expect(one.qsca).toBeCloseTo(2.882, 4);
    expect(one.g).toBeCloseTo(0.742913, 5);
    const small = mie(0.01, 1.33);
    const k = (1.33 ** 2 - 1) / (1.33 ** 2 + 2);
    expect(small.qsca / ((8 / 3) * 0.01 ** 4 * k * k)).toBeCloseTo(1, 3);
    for (const c of [-1, 0, 0.5]) expect(small.phase(c)).toBeCloseTo((3 / (16 * Math.PI)) * (1 + c * c), 4);
    expect(sphere(mie(20, 1.33).phase, 40000)).toBeCloseTo(1, 4);
  });

  it.each([6, 10, 20, 40])("%d µm: mean cosine within 0.02 (it misses by 0.015 at most), and the shape of the lobe over decades", (d) => {
    // droplets of one size ripple; a spread of sizes and the three bands smooth that, as in air
    const sizes: [number, number][] = [];
    for (const lambda of [0.45, 0.55, 0.65])
      for (let i = -3; i <= 3; i++) sizes.push([(Math.PI * d * (1 + 0.06 * i)) / lambda, Math.exp(-i * i * 0.15)]);
    const spheres = sizes.map(([x, w]) => ({ sphere: mie(x, 1.333), w: w * x * x }));
    const total = spheres.reduce((a, s) => a + s.w, 0);
    const g = spheres.reduce((a, s) => a + s.w * s.sphere.g, 0) / total;
    const fit = droplets(d);
    holds(
      {
        case: `droplets of ${d} µm`,
        quantity: "mean cosine of the fit",
        expected: g,
        source: "own Lorenz–Mie series",
        measured: sphere((c) => c * fit(c)),
        error: 0,
      },
      4,
      0.02,
    );
    const exact = (c: number): number => spheres.reduce((a, s) => a + s.w * s.sphere.phase(c), 0) / total;
    // the fit keeps the level from the lobe to the back; bows and glory are beyond two lobes: compare means over 20°
    for (const at of [20, 50, 80, 110, 160]) {
      const mean = (f: (c: number) => number): number => {
        let sum = 0;
        for (let k = -10; k <= 10; k++) sum += f(Math.cos(((at + k) * Math.PI) / 180));
        return sum / 21;
      };
      const ratio = mean(fit) / mean(exact);
      expect(ratio).toBeGreaterThan(0.4);
      expect(ratio).toBeLessThan(2.5);
    }
  });
});
