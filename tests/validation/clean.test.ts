/** The clean-up on rendered films: the same from any pool, nearer to the truth, and out of the way once a picture has converged. */
import { availableParallelism } from "node:os";
import { fileURLToPath } from "node:url";
import { describe, expect, it } from "vitest";
import { cleanedValues, type Cleaned } from "#core/film/cleaned";
import { parseDocument } from "#core/document/parse";
import { copyFilm, measureFilm, passValues, type Film } from "#core/film/film";
import { luminance } from "#core/optics/colour";
import { F_COUNT, PASS_AIR, PASS_CLEAR, PASS_SURFACES } from "#core/layout/layout";
import { compileScene } from "#core/scene/compile";
import { CleanCancelled, CleanPool } from "#engine/clean-pool";
import { RenderEngine } from "#engine/engine";
import { nodeCleanHost } from "#engine/node-clean";
import { nodeHost } from "#engine/node-host";
import { finalSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { judgeOf } from "#engine/settled";
import { render, type PartialDocument } from "../support/kernel";

const build = fileURLToPath(new URL("../../build", import.meta.url));
const FULL = { fireflies: 1, air: 1, surfaces: 1 };
/** A room in haze: a window's light on the floor, a lamp, a polished ball. */
const room: PartialDocument = {
  sun: { azimuth: 90, elevation: 35, illuminance: 20000 },
  sky: { luminance: 200 },
  materials: { wall: { baseColor: [0.6, 0.55, 0.5], roughness: 0.9 }, brass: { baseColor: [0.9, 0.7, 0.4], metallic: 1, roughness: 0.3 } },
  objects: [
    { kind: "box", material: "wall", size: [12, 0.2, 8], position: [0, -0.1, 0] },
    { kind: "box", material: "wall", size: [12, 0.2, 8], position: [0, 4.1, 0] },
    { kind: "box", material: "wall", size: [0.2, 4, 8], position: [-6, 2, 0] },
    { kind: "box", material: "wall", size: [0.2, 4, 3], position: [6, 2, -2.5] },
    { kind: "box", material: "wall", size: [0.2, 4, 3], position: [6, 2, 2.5] },
    { kind: "box", material: "wall", size: [12, 4, 0.2], position: [0, 2, -4] },
    { kind: "sphere", material: "brass", radius: 0.6, position: [0, 0.6, -1] },
  ],
  lights: [{ kind: "sphere", position: [-3, 2.5, -2], radius: 0.08, intensity: 300 }],
  air: [{ name: "haze", density: 0.08, scattering: [0.9, 0.9, 0.9], region: { kind: "box", size: [12, 4, 8], centre: [0, 2, 0] } }],
  camera: { position: [0, 1.6, 3.6], target: [0, 1.5, -1], fieldOfView: 60 },
  render: { level: "shafts", surfaceBounces: 1, airSamples: 2 },
  film: { size: [48, 30], exposure: 9 },
};
const passes = PASS_AIR | PASS_SURFACES;

async function cleaned(film: Film, workers = 2): Promise<Film> {
  const pool = new CleanPool(nodeCleanHost(build, workers));
  try {
    return { ...film, cleaned: await pool.finish(film, { sides: ["air", "surfaces"], strengths: FULL }) };
  } finally {
    pool.dispose();
  }
}
/** As an eye weighs them: errors of light far below and far above white count little. */
function error(a: Float32Array, b: Float32Array): number {
  const shown = (v: number): number => Math.sqrt(Math.max(0, v) / (Math.max(0, v) + 600));
  return Math.sqrt(a.reduce((s, v, i) => s + (shown(v) - shown(b[i]!)) ** 2, 0) / a.length);
}
const square = (a: Float32Array, b: Float32Array): number => a.reduce((s, v, i) => s + (v - b[i]!) ** 2, 0);
const mean = (a: Float32Array): number => a.reduce((s, v) => s + v, 0) / a.length;

describe("cleaning rendered films", () => {
  it("comes nearer to the truth, keeps the light, and knows its error", { timeout: 300_000 }, async () => {
    // other samples than those that are cleaned
    const truth = await render(room, 1024, passes, 100_000);
    const reference = passValues(truth, "beauty");
    for (const [samples, most] of [
      [4, 0.62],
      [16, 0.66],
      [64, 0.85],
    ] as const) {
      const film = await cleaned(await render(room, samples, passes));
      const [before, after] = [passValues(film, "beauty"), cleanedValues(film, "beauty")!];
      expect(error(after, reference) / error(before, reference), `${samples} samples`).toBeLessThan(most);
      if (samples >= 16) expect(Math.abs(mean(after) / mean(before) - 1)).toBeLessThan(0.03);
      if (samples >= 16) {
        const lum = (v: Float32Array, i: number): number => luminance(v[3 * i]!, v[3 * i + 1]!, v[3 * i + 2]!);
        const dark = mean(reference) / 20;
        let squares = 0;
        for (let i = 0; i < after.length / 3; i++) squares += ((lum(after, i) - lum(reference, i)) / Math.max(dark, lum(after, i))) ** 2;
        const true_ = Math.sqrt((3 * squares) / after.length);
        const said = measureFilm(film).cleanedNoise!;
        expect(said / true_, `${samples} samples: ${said} for ${true_}`).toBeGreaterThan(0.5);
        expect(said / true_, `${samples} samples: ${said} for ${true_}`).toBeLessThan(2);
      }
      // air and surfaces are the beauty to the last bit
      const sum = cleanedValues(film, "air")!.map((v, i) => v + cleanedValues(film, "surfaces")![i]!);
      expect(sum).toEqual(after);
    }
    for (const samples of [256, 512]) {
      const film = await cleaned(await render(room, samples, passes));
      const [before, after] = [passValues(film, "beauty"), cleanedValues(film, "beauty")!];
      expect(square(after, reference) / square(before, reference), `${samples} samples`).toBeLessThan(1.08);
    }
  });

  it("is the same bit for bit with any number of workers, and from a memory that is shared", { timeout: 120_000 }, async () => {
    const film = await render({ ...room, film: { size: [200, 150] } }, 3, passes | PASS_CLEAR);
    const results: Cleaned[] = [];
    for (const [workers, shared] of [
      [1, false],
      [3, false],
      [2, true],
    ] as const) {
      const data = shared ? new Float32Array(new SharedArrayBuffer(film.data.byteLength)) : film.data;
      data.set(film.data);
      const pool = new CleanPool(nodeCleanHost(build, workers));
      const whole = { ...film, data };
      const finish = await pool.finish(whole, { sides: ["air", "surfaces", "clear"], strengths: FULL });
      const live = await pool.live(whole, "air", 1, FULL);
      results.push(finish, live);
      pool.dispose();
    }
    for (const side of ["air", "surfaces", "clear"] as const) {
      for (const k of [2, 4]) {
        expect(results[k]![side]).toEqual(results[0]![side]);
        expect(results[k + 1]![side]).toEqual(results[1]![side]);
      }
    }
  });

  it("tells how far it is, ends where it is told to, and says what a worker could not do", async () => {
    const film = await render({ ...room, film: { size: [300, 40] } }, 2, passes);
    const pool = new CleanPool(nodeCleanHost(build, Math.min(2, availableParallelism())));
    const shares: number[] = [];
    await pool.finish(film, { sides: ["air"], strengths: FULL, onProgress: (s) => shares.push(s) });
    expect(shares.at(-1)).toBe(1);
    expect([...shares].sort((a, b) => a - b)).toEqual(shares);
    const ending = new AbortController();
    const cut = pool.finish(film, { sides: ["air", "surfaces"], strengths: FULL, signal: ending.signal, onProgress: () => ending.abort() });
    await expect(cut).rejects.toThrow(CleanCancelled);
    // the pool goes on after that
    await pool.finish(film, { sides: ["air"], strengths: FULL });
    const broken = { ...film, stride: 1e9 };
    await expect(pool.finish(broken, { sides: ["air"], strengths: FULL })).rejects.toThrow();
    pool.dispose();
    await expect(pool.finish(film, { sides: ["air"], strengths: FULL, signal: AbortSignal.abort() })).rejects.toThrow(CleanCancelled);
  });
});

describe("adaptive sampling by the cleaned picture", () => {
  const size: [number, number] = [72, 45];
  const run = async (thresholdOf: "rendered" | "cleaned", workers: number, shared = true): Promise<Film> => {
    const render = { ...room.render, samples: 512, noiseThreshold: 0.1, minSamples: 8, thresholdOf };
    const doc = parseDocument({ fumarium: 2, ...room, render, film: { ...room.film, size } });
    const engine = await RenderEngine.create(nodeHost(build, workers, shared));
    const pool = new CleanPool(nodeCleanHost(build, workers));
    try {
      engine.setGeometry(compileScene(doc, { models: new Map() }));
      const stages = finalSchedule(0, 512, MEDIUM_PASSES);
      const { film } = await engine.start({ document: doc, width: size[0], height: size[1], stages, judge: judgeOf(doc, () => pool) });
      return await cleaned(copyFilm(film), workers);
    } finally {
      pool.dispose();
      engine.dispose();
    }
  };
  const counts = (film: Film): number[] =>
    Array.from({ length: film.width * film.height }, (_, i) => film.data[i * film.stride + F_COUNT]!);

  it("takes fewer samples than by the rendered one, where they are needed, the same from any workers and memory", async () => {
    const film = await run("cleaned", 2);
    const [fewer, more] = [counts(film), counts(await run("rendered", 2))];
    expect(mean(Float32Array.from(fewer))).toBeLessThan(0.4 * mean(Float32Array.from(more)));
    expect(Math.min(...fewer)).toBeGreaterThanOrEqual(8);
    expect(Math.max(...fewer)).toBeGreaterThan(2 * Math.min(...fewer));
    for (const other of [await run("cleaned", 1), await run("cleaned", 2, false)])
      expect(new Uint32Array(other.data.buffer)).toEqual(new Uint32Array(film.data.buffer));
    // what is left is about what was asked for: most blocks stop a little below it
    const said = measureFilm(film).cleanedNoise!;
    expect(said).toBeLessThan(1.3 * 0.1);
    expect(said).toBeGreaterThan(0.3 * 0.1);
  });
});
