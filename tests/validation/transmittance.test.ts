import { describe, expect, it } from "vitest";
import { passValues } from "#core/film/film";
import { heightDensity, heightIntegral, heightInverse } from "#core/optics/height";
import { load, render, simpson } from "../support/kernel";

const dark = { sun: { on: false }, sky: { on: false } };

describe("Beer–Lambert", () => {
  it("a glowing wall behind 7 m of uniform air keeps exp(-σt d) of each band", async () => {
    const film = await render(
      {
        ...dark,
        materials: { glow: { baseColor: [0, 0, 0], specular: 0, emission: [100, 200, 300] } },
        objects: [{ kind: "box", material: "glow", position: [0, 0, -7.5], size: [10, 10, 1] }],
        camera: { position: [0, 0, 0], target: [0, 0, -1], kind: "orthographic", height: 2 },
        air: [{ density: 0.2, scattering: [0.5, 1, 0], absorption: [1, 0, 0.25], anisotropy: 0 }],
        film: { size: [8, 8] },
      },
      4,
    );
    const surfaces = passValues(film, "surfaces"),
      t = passValues(film, "transmittance"),
      depth = passValues(film, "depth");
    const expected = [0.3, 0.2, 0.05].map((s) => Math.exp(-s * 7));
    for (let i = 0; i < 64; i++) {
      expect(depth[i]).toBeCloseTo(7, 4);
      for (let k = 0; k < 3; k++) {
        expect(t[3 * i + k]! / expected[k]!).toBeCloseTo(1, 5);
        expect(surfaces[3 * i + k]! / (expected[k]! * 100 * (k + 1))).toBeCloseTo(1, 5);
      }
    }
  });

  it("a band without extinction keeps everything, even over an endless ray", async () => {
    const { kernel } = await load({ ...dark, air: [{ density: 1, scattering: [0, 1, 0] }] });
    expect([0, 1, 2].map((band) => kernel.transmittance(0, 0, 0, 1, 0, 0, Infinity, band, 0))).toEqual([1, 0, 1]);
  });
});

describe("exponential height", () => {
  const cases: [string, number, number, number][] = [
    ["level above the ground level", 3, 0, 50],
    ["almost level", 3, 1e-9, 50],
    ["rising from below through the level", -4, 0.3, 80],
    ["rising from above", 2, 0.7, 60],
    ["falling to above the level", 30, -0.4, 50],
    ["falling through the level", 12, -0.6, 40],
    ["below the level", -5, -0.2, 30],
    ["grazing", 0, 1e-4, 400],
    ["steep from high up", 5000, -1, 5100],
  ];
  for (const [name, y, slope, length] of cases)
    it(`${name}: the closed form equals quadrature, and its inverse undoes it`, () => {
      const H = 6;
      // split at the kink, where Simpson would lose its order
      const kink = slope === 0 ? -1 : -y / slope;
      const f = (t: number): number => heightDensity(y + slope * t, H);
      const expected =
        kink > 0 && kink < length ? simpson(f, 0, kink, 20000) + simpson(f, kink, length, 20000) : simpson(f, 0, length, 20000);
      const closed = heightIntegral(y, slope, H, length);
      expect(Math.abs(closed - expected)).toBeLessThan(1e-6 * Math.max(1e-3, expected));
      for (const share of [0.01, 0.3, 0.9]) {
        const t = heightInverse(y, slope, H, closed * share);
        expect(heightIntegral(y, slope, H, t) / (closed * share)).toBeCloseTo(1, 7);
      }
    });

  it("a rising ray has a finite depth to infinity, and depths past it are never reached", () => {
    expect(heightIntegral(0, 0.5, 10, Infinity)).toBeCloseTo(20, 9);
    expect(heightInverse(0, 0.5, 10, 20.0001)).toBe(Infinity);
    expect(heightIntegral(0, -0.5, 10, Infinity)).toBe(Infinity);
  });

  it("the kernel's transmittance of a layer follows the same integral, inside a turned box too", async () => {
    const air = { density: 0.1, scattering: [1, 0.5, 0.2] as [number, number, number], height: { level: 1, scale: 4 } };
    const { kernel } = await load({ ...dark, air: [air] });
    const d = [0.6, 0.48, 0.64] as const;
    for (const band of [0, 1, 2]) {
      const sigma = 0.1 * air.scattering[band]!;
      expect(kernel.transmittance(0, -2, 0, ...d, 30, band, 0)).toBeCloseTo(Math.exp(-sigma * heightIntegral(-3, 0.48, 4, 30)), 10);
    }
    const boxed = await load({
      ...dark,
      air: [{ ...air, region: { kind: "box", centre: [0, 0, 0], size: [4, 4, 4], rotation: [0, 45, 0] } }],
    });
    // along x the turned box is 4√2 wide
    const a = boxed.kernel.transmittance(-10, 0, 0, 1, 0, 0, 20, 0, 0);
    expect(a).toBeCloseTo(Math.exp(-0.1 * 4 * Math.SQRT2), 10);
  });
});

describe("air with break-up", () => {
  const input = {
    ...dark,
    air: [
      {
        density: 0.35,
        scattering: [1, 0.4, 0] as [number, number, number],
        absorption: [0, 0.1, 0] as [number, number, number],
        height: { level: 0, scale: 6 },
        noise: { size: 3, octaves: 2, low: 0.35, high: 0.65 },
      },
    ],
  };
  const ray = [0.3, 0.5, 0.2, 0.8, 0.1, Math.sqrt(1 - 0.65)] as const;
  const length = 18;

  async function reference(): Promise<number> {
    const { kernel } = await load(input);
    const [x, y, z, a, b, c] = ray;
    return simpson((t) => kernel.density(0, x + a * t, y + b * t, z + c * t), 0, length, 40000);
  }

  it("ratio tracking is unbiased in every band", async () => {
    const depth = await reference();
    const { kernel } = await load(input);
    const sigma = [0.35, 0.35 * 0.5, 0];
    const n = 40000;
    for (const band of [0, 1, 2]) {
      let sum = 0,
        squares = 0;
      for (let i = 0; i < n; i++) {
        const v = kernel.transmittance(...ray, length, band, i);
        sum += v;
        squares += v * v;
      }
      const mean = sum / n;
      const error = Math.sqrt(Math.max(0, squares / n - mean * mean) / n);
      expect(Math.abs(mean - Math.exp(-sigma[band]! * depth))).toBeLessThanOrEqual(4 * error + 1e-12);
      expect(error).toBeLessThan(0.004);
    }
  });

  it("free flights of a walk survive with the same transmittance, weights included", async () => {
    const depth = await reference();
    const { kernel } = await load(input);
    const n = 60000;
    for (const [band, sigma] of [0.35, 0.175, 0].entries()) {
      let sum = 0,
        squares = 0;
      for (let i = 0; i < n; i++) {
        const passed = kernel.walkDistance(...ray, length, i) === Infinity;
        const v = passed ? kernel.walkWeight(band) : 0;
        sum += v;
        squares += v * v;
      }
      const mean = sum / n;
      const error = Math.sqrt((squares / n - mean * mean) / n);
      expect(Math.abs(mean - Math.exp(-sigma * depth))).toBeLessThanOrEqual(4 * error);
    }
  });

  it("stepping is biased, and its bias falls with the square of the step", async () => {
    // a smooth field whose density differs at the ends of the ray: the common offset of the steps then
    // leaves a variance of order step², and exp() turns half of that into bias
    const smooth = {
      ...dark,
      air: [{ ...input.air[0]!, density: 0.8, height: { level: 0, scale: 0.6 }, noise: { size: 6, octaves: 1, low: 0, high: 1 } }],
    };
    const fine = await load(smooth);
    const [x, y, z, a, b, c] = ray;
    const depth = simpson((t) => fine.kernel.density(0, x + a * t, y + b * t, z + c * t), 0, length, 40000);
    const exact = Math.exp(-0.8 * depth);
    const bias = async (stepSize: number): Promise<{ bias: number; error: number }> => {
      const { kernel } = await load({ ...smooth, render: { estimator: "stepping", stepSize } });
      const n = 200_000;
      let sum = 0,
        squares = 0;
      for (let i = 0; i < n; i++) {
        const v = kernel.transmittance(...ray, length, 0, i);
        sum += v;
        squares += v * v;
      }
      const mean = sum / n;
      return { bias: mean - exact, error: Math.sqrt((squares / n - mean * mean) / n) };
    };
    const [coarse, half, finest] = [await bias(4.5), await bias(2.25), await bias(0.05)];
    // each is known well enough to tell its bias from noise, and the finest shows none
    expect(coarse.bias).toBeGreaterThan(8 * coarse.error);
    expect(half.bias).toBeGreaterThan(8 * half.error);
    expect(Math.abs(finest.bias)).toBeLessThan(4 * finest.error + 1e-7);
    const order = Math.log2(coarse.bias / half.bias);
    expect(order).toBeGreaterThan(1.7);
    expect(order).toBeLessThan(2.3);
  });
});
