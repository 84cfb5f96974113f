/** Sunlight by way of the air, estimated along the whole ray and corrected at random: the same light, with less noise. */
import { describe, expect, it } from "vitest";
import { F_AIR, F_AIR_LUMINANCE2, F_COUNT, PASS_AIR } from "#core/layout/layout";
import { load, type PartialDocument } from "../support/kernel";

const at = (x: number, y: number, z: number): [number, number, number] => [x, y, z];
const slats: PartialDocument["objects"] = Array.from({ length: 7 }, (_, i) => ({
  kind: "box" as const,
  material: "wall",
  position: at(4, 3, -7 + 2 * i),
  size: at(0.3, 6, 1.1),
}));
const base: PartialDocument = {
  sky: { on: false },
  sun: { azimuth: 90, elevation: 30 },
  materials: {
    wall: { baseColor: [0.5, 0.5, 0.5], specular: 0 },
    pane: { baseColor: [0.9, 0.3, 0.1], transmission: 1 },
  },
  camera: { position: [-2, 1.7, 10], target: [0, 2, -4], fieldOfView: 55 },
  render: { airSamples: 2, surfaceBounces: 0 },
  film: { size: [32, 18] },
};

/** Mean luminance of the air with its standard error, and the variance of a sample over pixels. `plain`: without the estimate. */
async function air(doc: PartialDocument, samples: number, plain: boolean): Promise<{ mean: number; error: number; variance: number }> {
  const { doc: d, kernel, memory, filmAt, plan } = await load(doc);
  kernel.setAblation(plain ? 2 : 0);
  kernel.begin(1);
  const [w, h] = d.film.size;
  kernel.renderTile(0, 0, w, h, 0, 0, 1, 0, 0, samples, PASS_AIR);
  expect(kernel.invalidSamples()).toBe(0);
  const film = new Float32Array(memory.buffer, filmAt, w * h * plan.stride);
  let mean = 0,
    variance = 0;
  for (let p = 0; p < film.length; p += plan.stride) {
    const n = film[p + F_COUNT]!;
    const m = (0.2126 * film[p + F_AIR]! + 0.7152 * film[p + F_AIR + 1]! + 0.0722 * film[p + F_AIR + 2]!) / n;
    mean += m / (w * h);
    variance += ((film[p + F_AIR_LUMINANCE2]! / n - m * m) * n) / (n - 1) / (w * h);
  }
  return { mean, error: Math.sqrt(variance / (w * h * samples)), variance };
}

const scenes: [string, PartialDocument, number][] = [
  [
    "shafts between slats, height fog in a box",
    {
      ...base,
      objects: [...slats, { kind: "rectangle", material: "wall", size: [40, 40] }],
      air: [{ density: 0.06, height: { level: 1, scale: 4 }, region: { kind: "box", centre: [0, 4, 0], size: [8, 8, 18] } }],
    },
    4,
  ],
  [
    "open air, nothing in the way of the sun",
    {
      ...base,
      objects: [{ kind: "rectangle", material: "wall", size: [60, 60] }],
      air: [{ density: 0.03, anisotropy: 0.5, height: { scale: 15 } }],
    },
    0.8,
  ],
  [
    "overlapping coloured media, one lit alone by the sun, behind a tinted pane",
    {
      ...base,
      sun: { azimuth: 90, elevation: 30, media: ["a"] },
      objects: [
        ...slats.slice(0, 4),
        { kind: "rectangle", material: "pane", position: [4, 3, 4], size: [6, 6], rotation: [0, 0, 90] },
        { kind: "rectangle", material: "wall", size: [40, 40] },
      ],
      air: [
        { name: "a", density: 0.05, scattering: [1, 0.6, 0.2], region: { kind: "sphere", centre: [0, 3, 0], radius: 5 } },
        { name: "b", density: 0.08, scattering: [0.1, 0.2, 0.4], absorption: [0.2, 0, 0.3], region: { kind: "layer", level: 3 } },
      ],
    },
    2,
  ],
  [
    "full level, light scattered again from where it was found",
    {
      ...base,
      objects: [...slats, { kind: "rectangle", material: "wall", size: [40, 40] }],
      air: [{ density: 0.2, region: { kind: "box", centre: [0, 3, 0], size: [7, 6, 18] } }],
      render: { airSamples: 2, surfaceBounces: 1, level: "full", airBounces: 4 },
    },
    0.8,
  ],
];

describe("sunlight in the air", () => {
  it.each(scenes)("%s: the same light as drawn at random alone, with less noise", async (_, scene, gain) => {
    const plain = await air(scene, 256, true);
    const ours = await air(scene, 256, false);
    expect(plain.mean).toBeGreaterThan(0);
    expect(Math.abs(plain.mean - ours.mean)).toBeLessThan(4 * Math.hypot(plain.error, ours.error));
    // the test can tell a bias of two percent
    expect(4 * Math.hypot(plain.error, ours.error)).toBeLessThan(0.02 * plain.mean);
    expect(plain.variance / ours.variance).toBeGreaterThan(gain);
  });

  it("takes nothing from a pixel that it has to give back by a rare sample: haze that thins out upwards, behind a shadow", async () => {
    const { doc, kernel, memory, filmAt, plan } = await load({
      materials: { stone: { baseColor: [0.5, 0.5, 0.5] } },
      objects: [
        { kind: "rectangle", material: "stone", size: [40, 40] },
        { kind: "box", material: "stone", position: [0, 2, 0], size: [1, 4, 1] },
      ],
      camera: { position: [0, 2, 12], target: [0, 2, 0], fieldOfView: 30 },
      sun: { azimuth: 30, elevation: 20 },
      air: [{ density: 0.09, height: { level: 0, scale: 6 } }],
      render: { surfaceBounces: 0, airSamples: 1 },
      film: { size: [160, 40] },
    });
    kernel.begin(1);
    const [w, h] = doc.film.size;
    kernel.renderTile(0, 0, w, h, 0, 0, 1, 0, 0, 1, PASS_AIR);
    const film = new Float32Array(memory.buffer, filmAt, w * h * plan.stride);
    let least = Infinity,
      sum = 0;
    for (let i = 0; i < w * h; i++) {
      const v = film[i * plan.stride + F_AIR + 1]!;
      least = Math.min(least, v);
      sum += v / (w * h);
    }
    expect(least).toBeGreaterThan(-3 * sum);
  });

  it("is not overestimated where thin air lies over a layer that begins at once: falloff within a fraction of a millimetre", async () => {
    for (const [scale, density, level, y, target, elevation] of [
      [1.34e-5, 3750, 0.97, 3.33, 4.59, 18],
      [8.28e-5, 21.5, -0.14, 1.9, -0.14, 44],
      [4.74e-6, 4.91e5, 0.87, 2.42, 2.99, 6],
    ] as const) {
      const scene: PartialDocument = {
        sky: { on: false },
        sun: { azimuth: 90, elevation },
        materials: { wall: { baseColor: [0.5, 0.5, 0.5], specular: 0 } },
        objects: [{ kind: "box", material: "wall", position: [3, 2, -4], size: [0.3, 4, 3] }],
        camera: { position: [-2, y, 10], target: [0, target, -4], fieldOfView: 55 },
        render: { airSamples: 2, surfaceBounces: 0 },
        film: { size: [16, 9] },
        air: [{ density, height: { shape: "inverse-quadratic", level, scale } }],
      };
      const plain = await air(scene, 64, true);
      const ours = await air(scene, 64, false);
      expect(Math.abs(plain.mean - ours.mean)).toBeLessThan(4 * Math.hypot(plain.error, ours.error) + 0.02 * plain.mean);
      expect(ours.variance).toBeLessThan(4 * plain.variance);
    }
  });
});
