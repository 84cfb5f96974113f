/** How often which light is asked changes the noise, never the light: against each light of a scene rendered by itself, and against even choice. */
import { describe, expect, it } from "vitest";
import type { Film } from "#core/film/film";
import { passValues } from "#core/film/film";
import { PASS_AIR, PASS_SURFACES } from "#core/layout/layout";
import { load, type PartialDocument } from "../support/kernel";

/** A yard under a roof with a slit: a narrow beam of sun, sky at one side, two lamps, one of them a ball that surfaces can meet, glowing air. */
const yard: PartialDocument = {
  materials: {
    wall: { baseColor: [0.6, 0.55, 0.5], roughness: 0.8 },
    wet: { baseColor: [0.3, 0.3, 0.35], roughness: 0.25 },
  },
  objects: [
    { kind: "box", material: "wet", size: [10, 0.2, 8], position: [0, -0.1, 0] },
    { kind: "box", material: "wall", size: [4.8, 0.2, 8], position: [-2.6, 4, 0] },
    { kind: "box", material: "wall", size: [4.8, 0.2, 8], position: [2.6, 4, 0] },
    { kind: "box", material: "wall", size: [10, 4, 0.2], position: [0, 2, -4] },
    { kind: "box", material: "wall", size: [0.2, 4, 8], position: [-5, 2, 0] },
  ],
  sun: { azimuth: 170, elevation: 70, illuminance: 30000 },
  sky: { luminance: 300 },
  lights: [
    { kind: "sphere", position: [-3, 2.5, -2], radius: 0.15, intensity: 200 },
    { kind: "point", position: [2, 1, -3], intensity: 60 },
  ],
  air: [
    { name: "haze", density: 0.05, scattering: [0.9, 0.9, 0.9], region: { kind: "box", size: [10, 4, 8], centre: [0, 2, 0] } },
    { name: "glow", density: 0.2, emission: { strength: 40 }, region: { kind: "sphere", radius: 0.5, centre: [3.5, 1, -1] } },
  ],
  camera: { position: [0, 1.6, 3.8], target: [0, 1.5, -1], fieldOfView: 65 },
  film: { size: [32, 20], exposure: 9 },
};
const none = { sun: { ...yard.sun, on: false }, sky: { ...yard.sky, on: false }, lights: [], air: [yard.air![0]!] };
const alone: PartialDocument[] = [
  { ...none, sun: yard.sun },
  { ...none, sky: yard.sky },
  { ...none, lights: [yard.lights![0]!] },
  { ...none, lights: [yard.lights![1]!] },
];

async function render(doc: PartialDocument, samples: number, even = false): Promise<Film> {
  const { doc: d, kernel, memory, filmAt, plan } = await load(doc);
  kernel.setAblation(even ? 1 : 0);
  kernel.begin(1);
  const [w, h] = d.film.size;
  kernel.renderTile(0, 0, w, h, 0, 0, 1, 0, 0, samples, PASS_AIR | PASS_SURFACES);
  expect(kernel.invalidSamples()).toBe(0);
  const data = new Float32Array(memory.buffer.slice(filmAt, filmAt + 4 * w * h * plan.stride));
  return { data, stride: plan.stride, width: w, height: h, crop: [0, 0, w, h], ...plan.extras };
}

/** Mean over the frame of a side's green, over runs of other numbers, and its standard error. */
async function sides(
  doc: PartialDocument,
  samples: number,
  even = false,
): Promise<Record<"air" | "surfaces", { mean: number; error: number }>> {
  const runs = 6;
  const means = { air: [] as number[], surfaces: [] as number[] };
  for (let seed = 0; seed < runs; seed++) {
    const film = await render({ ...doc, render: { ...doc.render, seed } }, samples, even);
    for (const side of ["air", "surfaces"] as const) {
      const v = passValues(film, side);
      let sum = 0;
      for (let i = 1; i < v.length; i += 3) sum += v[i]! / (v.length / 3);
      means[side].push(sum);
    }
  }
  const of = (m: number[]) => {
    const mean = m.reduce((a, b) => a + b, 0) / runs;
    return { mean, error: Math.sqrt(m.reduce((a, b) => a + (b - mean) ** 2, 0) / (runs * (runs - 1))) };
  };
  return { air: of(means.air), surfaces: of(means.surfaces) };
}

describe("choice of lights", () => {
  it.each(["shafts", "full"] as const)(
    "gives together what each light gives by itself, at level %s",
    { timeout: 240_000 },
    async (level) => {
      const render = { level, surfaceBounces: 1, airBounces: 2, airSamples: 2 };
      // glow is left out: it dims what lies behind it as well
      const all = await sides({ ...yard, air: none.air, render }, 48);
      const parts = await Promise.all(alone.map((doc) => sides({ ...yard, ...doc, render }, 24)));
      for (const side of ["air", "surfaces"] as const) {
        const sum = parts.reduce((a, p) => a + p[side].mean, 0);
        const error = Math.sqrt(parts.reduce((a, p) => a + p[side].error ** 2, all[side].error ** 2));
        expect(error / sum).toBeLessThan(0.02);
        expect(Math.abs(all[side].mean - sum), `${side}: ${all[side].mean} together, ${sum} apart, ±${error}`).toBeLessThan(4 * error);
      }
    },
  );

  it.each(["shafts", "full"] as const)(
    "is the same light as by even choice, with air that glows, at level %s",
    { timeout: 240_000 },
    async (level) => {
      const doc = { ...yard, render: { level, surfaceBounces: 1, airBounces: 2, airSamples: 2 } };
      const [chosen, even] = [await sides(doc, 24), await sides(doc, 96, true)];
      for (const side of ["air", "surfaces"] as const) {
        const error = Math.hypot(chosen[side].error, even[side].error);
        expect(error / even[side].mean).toBeLessThan(0.03);
        expect(
          Math.abs(chosen[side].mean - even[side].mean),
          `${side}: ${chosen[side].mean}, evenly ${even[side].mean}, ±${error}`,
        ).toBeLessThan(4 * error);
      }
    },
  );
});
