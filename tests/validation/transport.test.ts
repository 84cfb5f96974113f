import { describe, expect, it } from "vitest";
import { temperatureRgb } from "#core/optics/colour";
import { bandMean, pencil, render, type PartialDocument } from "../support/kernel";
import { holds } from "../support/record";
import { chandrasekharH, decayRate, gauss, slab } from "../support/slab";

type V3 = [number, number, number];
/** What the green band of a light of 6500 K carries. */
const green = temperatureRgb(6500)[1];

describe("the references themselves", () => {
  it("H functions are the published ones (Chandrasekhar 1950, table XI: H(1) = 2.9078 for ω = 1, and its mean 2)", () => {
    const h = chandrasekharH(1);
    expect(h(1)).toBeCloseTo(2.9078, 3);
    const { x, w } = gauss(64);
    expect(x.reduce((s, m, i) => s + w[i]! * h(m), 0)).toBeCloseTo(2, 4);
    expect(chandrasekharH(0.9)(1)).toBeCloseTo(1.8501, 2);
  });
  it("the doubling solver loses no light without absorption, and agrees with H where the layer is deep", () => {
    for (const g of [0, 0.6]) {
      const { mu, back, through } = slab(4, 1, g);
      const { w } = gauss(16);
      const flux = (v: number[]): number => v.reduce((s, x, i) => s + 2 * w[i]! * mu[i]! * x, 0);
      expect(flux(back) + flux(through)).toBeCloseTo(1, 5);
    }
    // even light on a half-space: 1 - H(μ) √(1 - ω) comes back
    const { mu, back } = slab(60, 0.8, 0);
    const h = chandrasekharH(0.8);
    mu.forEach((m, i) => expect(back[i]!).toBeCloseTo(1 - h(m) * Math.sqrt(0.2), 3));
  });
  it("the decay rate is the published one (Case and Zweifel 1967: ω = 0.9 gives 0.52543)", () => {
    expect(decayRate(0.9)).toBeCloseTo(0.52543, 4);
  });
});

/** A sky of luminance 1 above and none below. */
const half = { width: 4, height: 64, rgb: Float32Array.from({ length: 3 * 4 * 64 }, (_, i) => (i < 3 * 4 * 32 ? 1 : 0)) };
const litFromAbove: PartialDocument = {
  sun: { on: false },
  assets: { half: { uri: "half.hdr" } },
  sky: { model: "image", image: "half" },
  render: { level: "full", airBounces: 1000, airSamples: 1 },
  film: { size: [24, 24] },
};
const pictures = new Map([["half", half]]);

describe("slabs against the doubling solver", () => {
  for (const [tau, omega, g] of [
    [0.5, 0.9, 0],
    [2, 0.6, 0],
    [2, 1, 0.7],
    [8, 0.95, 0.5],
    [1, 0.9, -0.5],
  ] as const)
    it(`optical depth ${tau}, albedo ${omega}, g ${g}: what comes back and what goes through, steep and slanting`, async () => {
      const want = slab(tau, omega, g, 20);
      const scene = (mu: number, below: boolean): PartialDocument => {
        const s = Math.sqrt(1 - mu * mu);
        const d: V3 = below ? [s, mu, 0] : [s, -mu, 0];
        return {
          ...litFromAbove,
          camera: pencil([-d[0] * 3, below ? -3 * mu - 0.5 : 3 * mu + 0.5, 0], d),
          air: [
            {
              density: tau,
              scattering: [omega, omega, omega],
              absorption: [1 - omega, 1 - omega, 1 - omega],
              anisotropy: g,
              region: { kind: "box", centre: [0, 0, 0], size: [1e4, 1, 1e4] },
            },
          ],
        };
      };
      for (const node of [2, 9, 16]) {
        const mu = want.mu[node]!;
        for (const below of [false, true]) {
          const m = bandMean(await render(scene(mu, below), 96, undefined, 0, { pictures }), "beauty", 1);
          const expected = below ? want.through[node]! : want.back[node]!;
          expect(m.error).toBeLessThan(0.01);
          holds(
            {
              case: `slab τ ${tau}, ω ${omega}, g ${g}`,
              quantity: `luminance ${below ? "let through" : "sent back"} at cosine ${mu.toFixed(3)}`,
              expected,
              source: "adding and doubling",
              measured: m.mean,
              error: m.error,
            },
            4,
            1e-3,
          );
        }
      }
    });
});

describe("a half-space of even scattering", () => {
  const ground = (omega: number): PartialDocument["air"] => [
    {
      density: 1,
      scattering: [omega, omega, omega],
      absorption: [1 - omega, 1 - omega, 1 - omega],
      anisotropy: 0,
      region: { kind: "layer", level: 0 },
    },
  ];
  const sunny = (elevation: number): PartialDocument => ({
    sky: { on: false },
    sun: { azimuth: 90, elevation, illuminance: Math.PI, angularDiameter: 0.01, temperature: 6500, diskVisible: false },
    render: { level: "full", airBounces: 1000, airSamples: 1 },
    film: { size: [32, 32] },
  });
  for (const omega of [0.3, 0.8, 0.95])
    it(`sends back what Chandrasekhar's H functions say, albedo ${omega}`, async () => {
      const h = chandrasekharH(omega);
      for (const [elevation, mu] of [
        [90, 1],
        [30, 0.8],
        [50, 0.3],
      ] as const) {
        const mu0 = Math.sin((elevation * Math.PI) / 180);
        const s = Math.sqrt(1 - mu * mu);
        const m = bandMean(await render({ ...sunny(elevation), air: ground(omega), camera: pencil([0, 1, 0], [0, -mu, s]) }, 96), "air", 1);
        const want = ((omega / 4) * mu0 * h(mu) * h(mu0)) / (mu + mu0);
        expect(m.error / want).toBeLessThan(0.02);
        holds(
          {
            case: `half-space, ω ${omega}`,
            quantity: `luminance back at cosine ${mu}, sun at ${elevation}°`,
            expected: want * green,
            source: "Chandrasekhar's H functions",
            measured: m.mean,
            error: m.error,
          },
          4,
          1e-4 * want,
        );
      }
    });

  it("lets light decay with depth at the rate of the transcendental equation", async () => {
    const omega = 0.98;
    const at = async (depth: number): Promise<{ mean: number; error: number }> =>
      bandMean(
        await render({ ...sunny(90), film: { size: [48, 48] }, air: ground(omega), camera: pencil([0, -depth, 0], [1, 0, 0]) }, 48),
        "air",
        1,
      );
    const [a, b] = [await at(6), await at(12)];
    const k = Math.log(a.mean / b.mean) / 6;
    const error = Math.hypot(a.error / a.mean, b.error / b.mean) / 6;
    expect(error).toBeLessThan(0.01);
    holds(
      {
        case: "deep inside, ω 0.98",
        quantity: "decay rate per mean free path",
        expected: decayRate(omega),
        source: "transcendental equation",
        measured: k,
        error,
      },
      4,
      5e-4,
    );
  });
});
