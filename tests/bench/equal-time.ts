/**
 * Error² × time of the estimators against the plain way (lights chosen evenly, distances by transmittance alone,
 * one bound for all of a broken medium), in turn on the same scenes, one thread.
 */
import { readFileSync } from "node:fs";
import { parseDocument } from "#core/document/parse";
import type { SceneDocumentInput } from "#core/document/schema";
import { instantiateKernel, kernelMemory } from "#core/kernel/kernel";
import { compileScene } from "#core/scene/compile";
import { planMemory, writeGeometry } from "#core/scene/memory";
import { writeParameters } from "#core/scene/parameters";
import { CONTROL, F_AIR, F_AIR_LUMINANCE2, F_COUNT, PASS_AIR, PIXEL_FLOATS } from "#core/layout/layout";

type Scene = Omit<SceneDocumentInput, "fumarium">;
const size: [number, number] = [96, 54];
const matt = { m: { baseColor: [0.5, 0.5, 0.5] as [number, number, number], specular: 0 } };

/** A wall with many openings, before the sun. */
const openings = Array.from({ length: 8 }, (_, i) => [
  {
    kind: "box" as const,
    material: "m",
    position: [4, 3, -7 + 2 * i] as [number, number, number],
    size: [0.3, 6, 1.4] as [number, number, number],
  },
  {
    kind: "box" as const,
    material: "m",
    position: [4, 0.4, -6 + 2 * i] as [number, number, number],
    size: [0.3, 0.8, 0.7] as [number, number, number],
  },
]).flat();

const SCENES: [string, Scene][] = [
  [
    "point light in even fog, occluders",
    {
      sun: { on: false },
      sky: { on: false },
      materials: matt,
      objects: [-3, -1, 1, 3].map((x) => ({
        kind: "box" as const,
        material: "m",
        position: [x, 1, 0] as [number, number, number],
        size: [0.4, 2, 0.4] as [number, number, number],
      })),
      lights: [{ kind: "point", position: [0, 1.5, -2], intensity: 2000 }],
      camera: { position: [0, 1.5, 9], target: [0, 1, 0], fieldOfView: 50 },
      air: [{ density: 0.012 }],
    },
  ],
  [
    "sun through many openings, height fog",
    {
      sky: { luminance: 500 },
      sun: { azimuth: 90, elevation: 30 },
      materials: matt,
      objects: [...openings, { kind: "rectangle", material: "m", size: [40, 40] }],
      camera: { position: [-2, 1.7, 10], target: [0, 2, -4], fieldOfView: 55 },
      air: [{ density: 0.06, height: { level: 1, scale: 4 }, region: { kind: "box", centre: [0, 4, 0], size: [8, 8, 18] } }],
    },
  ],
  [
    "noise cloud in the sun",
    {
      sky: { luminance: 2000 },
      sun: { azimuth: 60, elevation: 40 },
      camera: { position: [0, 2, 14], target: [0, 2, 0], fieldOfView: 50 },
      air: [
        {
          density: 6,
          anisotropy: 0.5,
          edge: 1,
          region: { kind: "sphere", centre: [0, 2, 0], radius: 5 },
          noise: { size: 1.6, octaves: 2, low: 0.58, high: 0.75 },
        },
      ],
    },
  ],
  [
    "200 lights in haze",
    {
      sun: { on: false },
      sky: { on: false },
      lights: Array.from({ length: 200 }, (_, i) => ({
        kind: "point" as const,
        position: [((i * 37) % 41) - 20, 0.5 + ((i * 13) % 7) / 2, ((i * 29) % 43) - 40] as [number, number, number],
        intensity: 50 + ((i * 7919) % 400),
      })),
      camera: { position: [0, 2, 8], target: [0, 1, -10], fieldOfView: 55 },
      air: [{ density: 0.03 }],
    },
  ],
];

export async function benchEqualTime(): Promise<void> {
  for (const [name, scene] of SCENES) {
    const doc = parseDocument({ fumarium: 2, ...scene, render: { airSamples: 4, surfaceBounces: 0 }, film: { size } });
    const geometry = compileScene(doc, { models: new Map() });
    const [width, height] = size;
    const plan = planMemory(geometry, width * height, doc);
    const memory = kernelMemory(plan.end, true);
    writeGeometry(memory.buffer, geometry, plan);
    writeParameters(memory.buffer, doc, geometry, plan, width, height);
    new Int32Array(memory.buffer, CONTROL, 4)[0] = 1;
    const kernel = await instantiateKernel(new WebAssembly.Module(readFileSync("build/kernel/kernel.shared.wasm")), memory);
    const film = new Float32Array(memory.buffer, plan.film, width * height * PIXEL_FLOATS);
    /** Mean variance of a sample's air luminance over mean luminance², and seconds a sample. */
    const measure = (bits: number, samples: number): { variance: number; seconds: number } => {
      kernel.setAblation(bits);
      kernel.begin(1);
      new Uint8Array(memory.buffer, plan.film, 4 * width * height * PIXEL_FLOATS).fill(0);
      const from = performance.now();
      kernel.renderTile(0, 0, width, height, 0, 0, 1, 0, 0, samples, PASS_AIR);
      const seconds = (performance.now() - from) / 1000 / samples;
      let variance = 0,
        mean = 0;
      for (let p = 0; p < film.length; p += PIXEL_FLOATS) {
        const n = film[p + F_COUNT]!;
        const m = (0.2126 * film[p + F_AIR]! + 0.7152 * film[p + F_AIR + 1]! + 0.0722 * film[p + F_AIR + 2]!) / n;
        variance += film[p + F_AIR_LUMINANCE2]! / n - m * m;
        mean += m;
      }
      const pixels = film.length / PIXEL_FLOATS;
      return { variance: variance / pixels / (mean / pixels) ** 2, seconds };
    };
    measure(0, 8);
    const rounds = [0, 1, 2].map(() => [measure(7, 24), measure(0, 24)] as const);
    const cost = (k: 0 | 1): number => rounds.reduce((s, r) => s + r[k].variance, 0) * Math.min(...rounds.map((r) => r[k].seconds));
    const [plain, ours] = [rounds[0]![0], rounds[0]![1]];
    console.log(
      `${name.padEnd(40)} error² × time ${(cost(0) / cost(1)).toFixed(1)} times lower  (variance ${(plain.variance / ours.variance).toFixed(1)}, time ${(plain.seconds / ours.seconds).toFixed(2)})`,
    );
  }
}

/** Tracking through a sparse cloud (3 % mean to largest density) under local bounds against one bound, same rays. */
export async function benchBounds(): Promise<void> {
  for (const density of [3, 10, 30]) {
    const doc = parseDocument({
      fumarium: 2,
      sun: { on: false },
      air: [
        { density, region: { kind: "box", centre: [0, 0, 0], size: [10, 10, 10] }, noise: { size: 2, octaves: 2, low: 0.6, high: 0.75 } },
      ],
      film: { size: [8, 8] },
    });
    const geometry = compileScene(doc, { models: new Map() });
    const plan = planMemory(geometry, 64, doc);
    const memory = kernelMemory(plan.end, true);
    writeGeometry(memory.buffer, geometry, plan);
    writeParameters(memory.buffer, doc, geometry, plan, 8, 8);
    const kernel = await instantiateKernel(new WebAssembly.Module(readFileSync("build/kernel/kernel.shared.wasm")), memory);
    let mean = 0,
      most = 0;
    kernel.begin(1);
    for (let i = 0; i < 20000; i++) {
      const p = [0.7548776662, 0.5698402909, 0.8191725134].map((a) => ((i * a) % 1) * 10 - 5) as [number, number, number];
      const rho = kernel.density(0, ...p);
      mean += rho / 20000;
      most = Math.max(most, rho);
    }
    const run = (bits: number): { seconds: number; lookups: number } => {
      kernel.setAblation(bits);
      kernel.begin(1);
      const from = performance.now();
      for (let i = 0; i < 20000; i++) {
        const y = ((i * 0.7548776662) % 1) * 9 - 4.5,
          z = ((i * 0.5698402909) % 1) * 9 - 4.5;
        kernel.transmittance(-6, y, z, 1, 0, 0, 12, 0, i);
      }
      return { seconds: (performance.now() - from) / 1000, lookups: kernel.lookups() };
    };
    run(0);
    const rounds = [0, 1, 2].map(() => [run(4), run(0)] as const);
    const best = (k: 0 | 1): number => Math.min(...rounds.map((r) => r[k].seconds));
    console.log(
      `sparse cloud, mean ${((100 * mean) / most).toFixed(1)} % of the largest density, optical depth of the bound ${density * 10}: local bounds ${(best(0) / best(1)).toFixed(1)} times faster, ${(rounds[0]![0].lookups / rounds[0]![1].lookups).toFixed(1)} times fewer lookups`,
    );
  }
}
