/** Air that is sampled at every second or fourth pixel each way, and joined to surfaces of full size. */
import { fileURLToPath } from "node:url";
import { afterAll, describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import type { AirSize } from "#core/document/kinds";
import { AIR_EVERY } from "#core/document/air-size";
import type { SceneDocument } from "#core/document/schema";
import { joinCleaned } from "#core/clean/joined";
import { copyFilm, emptyFilm, groupFloat, lightValues, measureFilm, passValues, type Film } from "#core/film/film";
import {
  F_AIR,
  F_AIR_LUMINANCE2,
  F_AIR_ODD,
  F_COUNT,
  F_EMISSION,
  F_LUMINANCE2,
  F_SURFACES,
  F_SURFACES_LUMINANCE2,
  F_SURFACES_ODD,
  F_TRANSMITTANCE,
  PASS_CLEAR,
  R_AIR,
  R_AIR_LUMINANCE2,
  R_AIR_ODD,
} from "#core/layout/layout";
import { luminance } from "#core/optics/colour";
import { compileScene } from "#core/scene/compile";
import { CleanPool } from "#engine/clean-pool";
import { RenderEngine, type RunRequest } from "#engine/engine";
import { nodeCleanHost } from "#engine/node-clean";
import { nodeHost } from "#engine/node-host";
import { finalSchedule, liveSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { judgeOf } from "#engine/settled";
import type { PartialDocument } from "../support/kernel";

const build = fileURLToPath(new URL("../../build", import.meta.url));
const [WIDTH, HEIGHT] = [96, 64];
const engines = new Map<number, Promise<RenderEngine>>();
const engineOf = (workers: number): Promise<RenderEngine> => {
  const engine = engines.get(workers) ?? RenderEngine.create(nodeHost(build, workers));
  engines.set(workers, engine);
  return engine;
};
afterAll(async () => {
  for (const engine of engines.values()) (await engine).dispose();
});

const document = (input: PartialDocument): SceneDocument =>
  parseDocument({ fumarium: 2, ...input, film: { ...input.film, size: [WIDTH, HEIGHT] } });

async function run(
  { render, ...rest }: SceneDocument,
  airSize: AirSize,
  samples: number,
  more: Partial<RunRequest> = {},
  workers = 2,
): Promise<Film> {
  const doc = { ...rest, render: { ...render, airSize } };
  const engine = await engineOf(workers);
  engine.setGeometry(compileScene(doc, { models: new Map() }));
  const stages = finalSchedule(0, samples, MEDIUM_PASSES, AIR_EVERY[airSize]);
  const { film, invalid } = await engine.start({ document: doc, width: WIDTH, height: HEIGHT, stages, ...more });
  expect(invalid).toBe(0);
  return copyFilm(film);
}

/** Pillars at many distances, and rods of a pixel's width, before a wall. */
const pillars: PartialDocument = {
  materials: { stone: { baseColor: [0.5, 0.5, 0.5] } },
  objects: [
    { kind: "rectangle", material: "stone", size: [80, 80] },
    ...Array.from({ length: 7 }, (_, i) => ({
      kind: "box" as const,
      material: "stone",
      position: [-6 + 2 * i, 2, 6 - 3 * i] as [number, number, number],
      size: [i % 2 ? 0.7 : 0.08, 4, 0.5] as [number, number, number],
    })),
  ],
  camera: { position: [0, 2, 14], target: [0, 1.6, 0], fieldOfView: 50 },
};
const lit: PartialDocument = {
  ...pillars,
  sun: { azimuth: 70, elevation: 25 },
  lights: [{ kind: "point", position: [1, 2, 4], intensity: 4000 }],
  air: [{ density: 0.03, anisotropy: 0.4, height: { level: 0, scale: 4 }, noise: { size: 3 } }],
  film: { lightGroups: true },
};

describe("joined air", () => {
  it.each(["half", "quarter"] as const)("of a glow is what its opacity says, on rods of a pixel's width too: %s size", async (size) => {
    // light that air gives off as it takes others' away is in proportion to its opacity, whatever stands in it
    const glow = document({
      ...pillars,
      air: [{ density: 0.04, scattering: [0, 0, 0], absorption: [1, 1, 1], emission: { colour: [1, 0.6, 0.3], strength: 50 } }],
    });
    const [whole, joined] = [await run(glow, "full", 16), await run(glow, size, 16)];
    const [a, b] = [passValues(whole, "air"), passValues(joined, "air")];
    const opacity = passValues(joined, "opacity");
    expect(Math.max(...opacity) / Math.min(...opacity)).toBeGreaterThan(2);
    let worst = 0;
    for (let i = 0; i < a.length; i++) worst = Math.max(worst, Math.abs(b[i]! / a[i]! - 1));
    expect(worst).toBeLessThan(0.01);
    expect(passValues(joined, "emission")).toEqual(b);
  });

  it("leaves surfaces as they are without, and samples the air as without, bit for bit", async () => {
    const doc = document(lit);
    const [whole, joined] = [await run(doc, "full", 8), await run(doc, "half", 8)];
    const raw = groupFloat(joined, joined.lights.length);
    expect(joined.stride).toBeGreaterThan(whole.stride);
    for (let y = 0; y < HEIGHT; y++)
      for (let x = 0; x < WIDTH; x++) {
        const [p, q] = [(y * WIDTH + x) * whole.stride, (y * WIDTH + x) * joined.stride];
        const [was, is] = [whole.data.subarray(p, p + whole.stride), joined.data.subarray(q, q + joined.stride)];
        for (const [from, to] of [
          [F_SURFACES, F_LUMINANCE2],
          [F_COUNT, F_EMISSION],
          [F_SURFACES_ODD, F_SURFACES_LUMINANCE2],
        ] as const)
          expect(is.subarray(from, to)).toEqual(was.subarray(from, to));
        if (x % 2 || y % 2) expect(is.subarray(raw).every((v) => v === 0)).toBe(true);
        else {
          expect(is.subarray(raw + R_AIR, raw + R_AIR + 3)).toEqual(was.subarray(F_AIR, F_AIR + 3));
          expect(is.subarray(raw + R_AIR_ODD, raw + R_AIR_ODD + 3)).toEqual(was.subarray(F_AIR_ODD, F_AIR_ODD + 3));
          expect(is[raw + R_AIR_LUMINANCE2]).toBe(was[F_AIR_LUMINANCE2]);
        }
      }
    // and the light of the frame stays: a quarter of the samples of the air
    const mean = (film: Film): number => passValues(film, "air").reduce((s, v) => s + v, 0);
    expect(mean(joined) / mean(whole)).toBeGreaterThan(0.97);
    expect(mean(joined) / mean(whole)).toBeLessThan(1.03);
  });

  it("is the sum of the light of its groups", async () => {
    const film = await run(document(lit), "half", 4);
    const air = passValues(film, "air");
    const groups = film.lights.map((name) => lightValues(film, name, "air"));
    expect(groups.filter((g) => g.some((v) => v > 0)).length).toBeGreaterThan(1);
    air.forEach((v, i) => expect(groups.reduce((s, g) => s + g[i]!, 0)).toBeCloseTo(v, 2 - Math.floor(Math.log10(v + 1e-6))));
  });

  it("is the same bit for bit from one, two and five workers, as it is rendered live, and a place first", async () => {
    const doc = document(lit);
    const one = await run(doc, "quarter", 12, {}, 1);
    for (const workers of [2, 5]) expect((await run(doc, "quarter", 12, {}, workers)).data).toEqual(one.data);
    const stages = liveSchedule(12, "air", AIR_EVERY.quarter).filter((s) => s.passes !== PASS_CLEAR);
    expect((await run(doc, "quarter", 12, { stages })).data).toEqual(one.data);
    const engine = await engineOf(2);
    engine.attend({ x: 0.8, y: 0.7 });
    expect((await run(doc, "quarter", 12, { stages })).data).toEqual(one.data);
    engine.attend(null);
  });

  it("goes on from a checkpoint in the middle to the same film", async () => {
    const doc = document(lit);
    const usual = await run(doc, "half", 24);
    type Kept = NonNullable<RunRequest["resume"]>;
    const kept: Kept[] = [];
    const keep = (film: Film, taken: Uint16Array, counts: Kept["counts"]): void =>
      void kept.push({ data: film.data.slice(), taken: taken.slice(), counts });
    await run(doc, "half", 24, { checkpoint: { every: 0.05, keep } });
    expect(kept.length).toBeGreaterThan(1);
    for (const resume of [kept[0]!, kept[Math.floor(kept.length / 2)]!])
      expect((await run(doc, "half", 24, { resume })).data).toEqual(usual.data);
  });

  it("is there in a picture whose time is up in the middle", async () => {
    const film = await run(document(lit), "half", 100_000, { timeLimit: 3 });
    const [air, opacity] = [passValues(film, "air"), passValues(film, "opacity")];
    let seen = 0;
    for (let i = 0; i < opacity.length; i++) {
      if (film.data[i * film.stride + F_COUNT]! < 1) continue;
      seen++;
      expect(air[3 * i]!).toBeGreaterThan(0);
    }
    expect(seen).toBeGreaterThan(opacity.length / 2);
  });

  it("knows its noise: what it says is what it errs by from seed to seed, as far as that of the whole air does", async () => {
    const doc = document({ ...lit, air: [{ density: 0.03, height: { level: 0, scale: 4 } }] });
    const seeds = 16;
    /** Mean square of what a picture errs by, and of what it says. */
    const noise = async (size: AirSize): Promise<{ is: number; said: number }> => {
      const films = [];
      for (let seed = 0; seed < seeds; seed++) films.push(await run({ ...doc, render: { ...doc.render, seed } }, size, 8));
      const [beauties, noises] = [films.map((f) => passValues(f, "beauty")), films.map((f) => passValues(f, "noise"))];
      let is = 0,
        said = 0;
      for (let i = 0; i < WIDTH * HEIGHT; i++) {
        const light = beauties.map((b) => luminance(b[3 * i]!, b[3 * i + 1]!, b[3 * i + 2]!));
        const mean = light.reduce((a, b) => a + b) / seeds;
        is += light.reduce((s, v) => s + (v - mean) ** 2, 0) / (seeds - 1);
        said += noises.reduce((s, n) => s + n[i]! ** 2, 0) / seeds;
      }
      return { is, said };
    };
    const [whole, joined] = [await noise("full"), await noise("half")];
    // samples are spread better than by chance, so that both say more than it is
    expect(whole.is / whole.said).toBeLessThan(1.1);
    expect(joined.is / joined.said / (whole.is / whole.said)).toBeGreaterThan(0.6);
    expect(joined.is / joined.said / (whole.is / whole.said)).toBeLessThan(1.4);
    // a mean of pixels has less noise than each
    expect(joined.is).toBeLessThan(whole.is);
  });

  it("ends by noise, of the picture as rendered and as cleaned, the same from any workers", async () => {
    const pool = new CleanPool(nodeCleanHost(build, 2));
    try {
      for (const thresholdOf of ["rendered", "cleaned"] as const) {
        const doc = document({ ...lit, render: { noiseThreshold: 0.06, thresholdOf, minSamples: 8 } });
        const judge = () => judgeOf(doc, () => pool);
        const film = await run(doc, "half", 96, { judge: judge() });
        expect((await run(doc, "half", 96, { judge: judge() }, 1)).data).toEqual(film.data);
        const counts = Array.from({ length: WIDTH * HEIGHT }, (_, i) => film.data[i * film.stride + F_COUNT]!);
        expect(Math.min(...counts)).toBeLessThan(Math.max(...counts));
        expect(measureFilm(film).samples).toBeLessThan(80);
        expect(film.data.every((v) => !Number.isNaN(v))).toBe(true);
      }
    } finally {
      pool.dispose();
    }
  });
});

describe("cleaned air", () => {
  it("is cleaned as it is sampled, and joined: nearer to the truth than what is cleaned after it, its groups add up to it", async () => {
    // no lamp: about it light changes within a few pixels, which none of these shows
    const doc = document({ ...lit, lights: [], sky: {}, air: [{ density: 0.03, height: { level: 0, scale: 4 } }] });
    const pool = new CleanPool(nodeCleanHost(build, 2));
    const strengths = { fireflies: 1, air: 1, surfaces: 1 };
    try {
      const truth = passValues(await run({ ...doc, render: { ...doc.render, seed: 77 } }, "full", 192), "air");
      const film = await run(doc, "half", 16);
      const cleaned = await pool.finish(film, { sides: ["air", "surfaces"], strengths, lights: true });
      const { airEvery: _, ...usual } = film;
      const after = await pool.finish(usual, { sides: ["air"], strengths });
      const error = (air: Float32Array): number => {
        let sum = 0;
        for (let i = 0; i < WIDTH * HEIGHT; i++) for (let k = 0; k < 3; k++) sum += (air[4 * i + k]! - truth[3 * i + k]!) ** 2;
        return Math.sqrt(sum / (3 * WIDTH * HEIGHT));
      };
      const mean = truth.reduce((s, v) => s + v, 0) / truth.length;
      expect(error(cleaned.air!)).toBeLessThan(0.12 * mean);
      expect(error(cleaned.air!)).toBeLessThan(1.05 * error(after.air!));
      const groups = cleaned.lights!.air;
      expect(groups.length).toBe(film.lights.length);
      for (let i = 0; i < cleaned.air!.length; i++) {
        if (i % 4 === 3) continue;
        const sum = groups.reduce((s, g) => s + g[i]!, 0);
        expect(Math.abs(sum - cleaned.air![i]!)).toBeLessThan(2e-4 * mean + 2e-4 * Math.abs(sum));
      }
      // the quick filter as well, of one sample
      const first = await run(doc, "half", 2);
      const quick = await pool.live(first, "air", 1, strengths);
      expect(error(quick.air!)).toBeLessThan(0.4 * mean);
      expect(quick.surfaces!.some((v) => v > 0)).toBe(true);
    } finally {
      pool.dispose();
    }
  });

  it("of one light is that light on every pixel", () => {
    // what is joined by weights that add up to one is what it was, where air and surfaces are alike everywhere
    const [width, height] = [13, 9];
    const film = emptyFilm(width, height);
    for (let p = 0; p < film.data.length; p += film.stride) {
      film.data[p + F_COUNT] = 4;
      for (let k = 0; k < 3; k++) film.data[p + F_TRANSMITTANCE + k] = 2;
    }
    const from = new Float32Array(4 * 4 * 3).map((_, i) => [3, 2, 1, 0.5][i % 4]!);
    const into = new Float32Array(4 * width * height);
    joinCleaned({ data: film.data, stride: film.stride, across: width, bounds: film.crop }, 4, [from], [into], [0, 0, width, height]);
    const wanted = [3, 2, 1, 0.5];
    into.forEach((v, i) => expect(v).toBeCloseTo(wanted[i % 4]!, 5));
  });
});
