import { describe, expect, it } from "vitest";
import { passValues } from "#core/film/film";
import { eddington, diffuseMean } from "#core/optics/eddington";
import { henyeyGreenstein } from "#core/optics/phase";
import { temperatureRgb } from "#core/optics/colour";
import { bandMean, pencil, pixelErrors, render, type PartialDocument } from "../support/kernel";
import { holds } from "../support/record";
import { gauss, slab } from "../support/slab";

type V3 = [number, number, number];
const GAUSS = gauss(16).w;
const green = temperatureRgb(6500)[1];
const noSky = { sky: { on: false } };
const sun = { azimuth: 90, elevation: 30, illuminance: 1000, angularDiameter: 0.01, temperature: 6500, diskVisible: false };
const once = { level: "veil" as const, airBounces: 1 };

describe("the veil, light scattered once", () => {
  it("of the sun in an exponential layer is the closed form, looking up and down", async () => {
    const [sigma, H, g, elevation] = [0.05, 8, 0.5, 30];
    for (const climb of [0.3, -0.2, 1e-3]) {
      const d: V3 = [Math.sqrt(1 - climb * climb), climb, 0];
      const y0 = 20,
        length = 60;
      const film = await render(
        {
          ...noSky,
          sun,
          materials: { black: { baseColor: [0, 0, 0], specular: 0 } },
          objects: [
            { kind: "sphere", material: "black", radius: 0.01, position: [0, y0, 0].map((v, k) => v + d[k]! * (length + 0.01)) as V3 },
          ],
          camera: pencil([0, y0, 0], d),
          air: [{ density: sigma, anisotropy: g, height: { level: 0, scale: H } }],
          render: once,
          film: { size: [2, 2] },
        },
        1,
      );
      // with x = exp(-y/H): ∫ of exp(-(σH/m)(x0 - x) - (σH/s) x) dx, m the climb and s the sine of the sun's elevation
      const s = Math.sin((elevation * Math.PI) / 180);
      const x0 = Math.exp(-y0 / H),
        x1 = Math.exp(-(y0 + climb * length) / H);
      const a = sigma * H * (1 / climb - 1 / s);
      const phase = henyeyGreenstein(d[0] * Math.cos((elevation * Math.PI) / 180) + climb * s, g);
      const want =
        ((sigma * phase * 1000 * green * H) / climb) * Math.exp((-sigma * H * x0) / climb) * ((Math.exp(a * x0) - Math.exp(a * x1)) / a);
      holds(
        {
          case: `veil, sun in an exponential layer, climb ${climb}`,
          quantity: "air luminance",
          expected: want,
          source: "closed form",
          measured: passValues(film, "air")[1]!,
          error: 0,
        },
        4,
        1e-4 * want,
      );
    }
  });

  const lamps: PartialDocument["lights"] = [
    { kind: "point", position: [1, 2, 1], intensity: 900, temperature: 6500 },
    { kind: "spot", position: [-2, 3, 0], target: [0, 0, 0], cone: 70, softness: 1, intensity: 3000, temperature: 6500 },
  ];
  const scenes: [string, PartialDocument][] = [
    [
      "sun, chromatic box seen from outside",
      {
        sun,
        air: [
          {
            density: 0.4,
            scattering: [1, 0.5, 0.1],
            absorption: [0, 0.2, 0.6],
            region: { kind: "box", centre: [0, 1, 0], size: [4, 2, 4] },
          },
        ],
      },
    ],
    [
      "sun, overlapping regions with other lobes",
      {
        sun,
        air: [
          { density: 0.1, anisotropy: -0.3, region: { kind: "sphere", centre: [0, 1, 0], radius: 2.5 } },
          { density: 0.3, phase: { model: "rayleigh" }, region: { kind: "cone", centre: [0.5, 1, 0], radius: 1.5, height: 2 } },
          { density: 0.05, height: { shape: "quadratic", level: 0, scale: 3 }, region: { kind: "layer", level: 2.5 } },
        ],
      },
    ],
    ["lamps in even air", { sun: { on: false }, lights: lamps, air: [{ density: 0.06, anisotropy: 0.4 }] }],
    [
      "moon and lamps in a low layer",
      {
        sun: { on: false },
        moon: { on: true, elevation: 40, illuminance: 100 },
        lights: lamps,
        air: [{ density: 0.2, height: { shape: "linear", level: 0.5, scale: 2 } }],
      },
    ],
  ];
  for (const [name, scene] of scenes)
    it(`equals tracking without occluders: ${name}`, async () => {
      const all: PartialDocument = {
        ...noSky,
        camera: { position: [0, 1.5, 6], target: [0, 1, 0], fieldOfView: 50 },
        film: { size: [96, 64] },
        ...scene,
      };
      const exact = await render({ ...all, render: once }, 4);
      const traced = await render({ ...all, render: { level: "shafts", airSamples: 4 } }, 32);
      const [pe, pt] = [pixelErrors(exact), pixelErrors(traced)];
      // the veil has no noise but from places within the pixel: beside a lamp that is a lot
      const n = pe.length;
      const error = Math.sqrt(pt.reduce((a, p, i) => a + p.error ** 2 + pe[i]!.error ** 2, 0)) / n;
      const difference = pe.reduce((a, p, i) => a + p.mean - pt[i]!.mean, 0) / n;
      const mean = pt.reduce((a, p) => a + p.mean, 0) / n;
      expect(error).toBeLessThan(0.03 * mean);
      expect(Math.abs(difference)).toBeLessThan(4 * error + 2e-3 * mean);
    });

  it("has no randomness: seeds change nothing where a pixel sees one place", async () => {
    const scene: PartialDocument = {
      ...noSky,
      sun,
      camera: pencil([0, 1, 6], [0, 0, -1]),
      air: [{ density: 0.05, height: { scale: 4 } }],
      film: { size: [3, 3] },
    };
    const a = passValues(await render({ ...scene, render: { ...once, seed: 1 } }, 1), "air");
    const b = passValues(await render({ ...scene, render: { ...once, seed: 2 } }, 3), "air");
    a.forEach((v, i) => expect(b[i]! / v).toBeCloseTo(1, 5));
  });
});

describe("light scattered many times", () => {
  it("a plane layer under an even sky: what the closed form sends back is the doubling solver's within 0.04", () => {
    for (const [tau, omega, g] of [
      [1, 1, 0],
      [4, 1, 0.6],
      [8, 0.9, 0.5],
      [0.3, 0.8, 0],
    ] as const) {
      const { mu, back } = slab(tau, omega, g, 16);
      const flux = 2 * mu.reduce((s, m, i) => s + m * back[i]! * GAUSS[i]!, 0);
      // up at the top: the mean less two thirds of the slope; here by the mean, with the sky's own half taken off
      eddington(0, tau, omega, g, 0, 0, 1, 0);
      expect(Math.abs(2 * diffuseMean - 1 - flux)).toBeLessThan(0.04);
    }
  });

  it("white fog in daylight looks white: within a quarter of the traced brightness over thin and thick, high and low sun", async () => {
    const ratios: number[] = [];
    for (const density of [0.01, 0.05, 0.2])
      for (const elevation of [20, 60]) {
        const scene = (level: "veil" | "full"): PartialDocument => ({
          sun: { ...sun, illuminance: 50000, elevation },
          sky: { luminance: 5000, zenith: [1, 1, 1], horizon: [1, 1, 1] },
          materials: { ground: { baseColor: [0.25, 0.25, 0.25], specular: 0 } },
          objects: [{ kind: "rectangle", material: "ground", size: [4000, 4000] }],
          camera: { position: [0, 2, 0], target: [0, 4, -30], fieldOfView: 40 },
          air: [{ density, anisotropy: 0.7, height: { level: 0, scale: 20 } }],
          render: { level, airBounces: 200, surfaceBounces: 8, airSamples: 1 },
          film: { size: [24, 16] },
        });
        const [v, f] = [bandMean(await render(scene("veil"), 2), "air", 1), bandMean(await render(scene("full"), 48), "air", 1)];
        expect(f.error).toBeLessThan(0.05 * f.mean);
        ratios.push(v.mean / f.mean);
      }
    for (const r of ratios) {
      expect(r).toBeGreaterThan(0.75);
      expect(r).toBeLessThan(1.25);
    }
    // the fog itself is as bright as the sky behind it, not grey
    const white = await render(
      {
        sun: { ...sun, illuminance: 50000, elevation: 40 },
        sky: { luminance: 5000, zenith: [1, 1, 1], horizon: [1, 1, 1] },
        camera: { position: [0, 2, 0], target: [0, 2, -1] },
        air: [{ density: 0.3, height: { level: 0, scale: 10 } }],
        render: { level: "veil", airBounces: 8 },
        film: { size: [4, 4] },
      },
      1,
    );
    expect(bandMean(white, "air", 1).mean).toBeGreaterThan(4000);
  });
});

describe("the veil under spots", () => {
  /** Luminance by a fine sum over the ray, of a spot in even air of isotropic scattering. */
  const summed = (o: V3, cone: number, softness: number, sigma: number): number => {
    const position: V3 = [0, 4, -6];
    const half = (cone * Math.PI) / 360;
    const [outer, inner] = [Math.cos(half), Math.cos(half * (1 - softness))];
    let sum = 0;
    const n = 200_000,
      far = 40;
    for (let i = 0; i < n; i++) {
      const t = (far * (i + 0.5)) / n;
      const [x, y, z] = [o[0] - position[0], o[1] - position[1], o[2] - t - position[2]];
      const away = Math.hypot(x, y, z);
      const k = Math.max(0, Math.min(1, (-y / away - outer) / Math.max(1e-9, inner - outer)));
      sum += ((k * k * (3 - 2 * k) * Math.exp(-sigma * (t + away))) / away ** 2) * (far / n);
    }
    return (sum * sigma * 1000) / (4 * Math.PI);
  };
  it.each([
    [20, 0.01],
    [20, 0.3],
    [60, 0.05],
    [60, 1],
    [120, 0.2],
  ])("is exact for a cone of %f degrees, softness %f, near the axis and at its edge", async (cone, softness) => {
    for (const [x, y] of [
      [0, 1],
      [0.3, 1],
      [0, 3.5],
      [1.1, 0.2],
    ] as const) {
      const film = await render(
        {
          ...noSky,
          sun: { on: false },
          camera: pencil([x, y, 0], [0, 0, -1]),
          lights: [{ kind: "spot", position: [0, 4, -6], target: [0, 0, -6], cone, softness, intensity: 1000, temperature: 6500 }],
          air: [{ density: 0.05, anisotropy: 0, region: { kind: "box", centre: [0, 0, -20], size: [400, 400, 40] } }],
          render: once,
          film: { size: [1, 1] },
        },
        1,
      );
      const want = summed([x, y, 0], cone, softness, 0.05);
      const v = passValues(film, "air");
      const measured = 0.2126 * v[0]! + 0.7152 * v[1]! + 0.0722 * v[2]!;
      expect(Math.abs(measured - want), `at ${x}, ${y}: ${measured} for ${want}`).toBeLessThan(0.004 * want + 1e-6);
    }
  });
});
