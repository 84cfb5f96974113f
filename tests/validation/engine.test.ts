import { fileURLToPath } from "node:url";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { compileScene } from "#core/scene/compile";
import type { CompiledGeometry } from "#core/scene/compiled";
import { F_COUNT, PASS_CLEAR, PIXEL_FLOATS } from "#core/layout/layout";
import { beautyNoise } from "#core/film/film";
import { measureStepBias } from "#engine/bias";
import { RenderEngine, type RunResult } from "#engine/engine";
import { nodeHost } from "#engine/node-host";
import { finalSchedule, liveSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { findNoise } from "#engine/noise-sources";
import { atBounces, atLevel, missing, trial } from "#engine/trial";

const build = fileURLToPath(new URL("../../build", import.meta.url));
const doc = parseDocument({
  fumarium: 2,
  materials: {
    m: { baseColor: [0.6, 0.5, 0.4], roughness: 0.4 },
    amber: { baseColor: [1, 0.6, 0.2], transmission: 0.9 },
    blue: { baseColor: [0.3, 0.5, 1], transmission: 0.8 },
  },
  objects: [
    // panes before the lens and beside the lamp, one behind the other: what a worker notes of them is its own
    { kind: "rectangle", material: "amber", position: [0, 1.5, 3.4], rotation: [90, 0, 0], size: [6, 4] },
    { kind: "rectangle", material: "blue", position: [1, 1.5, 3], rotation: [90, 10, 0], size: [6, 4] },
    { kind: "rectangle", material: "blue", position: [0.4, 1.5, 1], rotation: [0, 0, 80], size: [3, 3] },
    { kind: "rectangle", material: "m", size: [20, 20] },
    { kind: "sphere", material: "m", position: [0, 1, 0], radius: 1 },
  ],
  sun: { azimuth: 60, elevation: 35 },
  lights: [{ kind: "point", position: [1, 2, 1], intensity: 3000 }],
  air: [{ density: 0.08, anisotropy: 0.5, height: { level: 0, scale: 3 }, noise: { size: 2 } }],
  render: { level: "full", airBounces: 3 },
  film: { size: [100, 60] },
});
const [width, height] = doc.film.size;
let geometry: CompiledGeometry;
const engines: RenderEngine[] = [];

async function engine(workers: number, shared = true): Promise<RenderEngine> {
  const e = await RenderEngine.create(nodeHost(build, workers, shared));
  e.setGeometry(geometry);
  engines.push(e);
  return e;
}
const request = (samples = 4) => ({ document: doc, width, height, stages: finalSchedule(0, samples, MEDIUM_PASSES | PASS_CLEAR) });
const bits = (r: RunResult): Uint32Array => new Uint32Array(r.film.data.slice().buffer);

beforeAll(() => {
  geometry = compileScene(doc, { models: new Map() });
});
afterAll(() => engines.forEach((e) => e.dispose()));

describe("the engine", () => {
  it("gives the same film, bit for bit, with one, two and five workers, and without shared memory", async () => {
    const one = await (await engine(1)).start(request());
    expect(one.outcome).toBe("done");
    expect(one.invalid).toBe(0);
    for (const e of [await engine(2), await engine(5), await engine(2, false)]) {
      const other = await e.start(request());
      expect(other.outcome).toBe("done");
      expect(bits(other)).toEqual(bits(one));
      expect(other.rays).toBe(one.rays);
    }
  });

  it("gives the same film however the samples are scheduled", async () => {
    const e = await engine(2);
    const final = bits(await e.start({ ...request(), stages: finalSchedule(0, 8, MEDIUM_PASSES) }));
    const live = await e.start({ ...request(), stages: liveSchedule(8, "air").filter((s) => s.passes !== PASS_CLEAR) });
    expect(bits(live)).toEqual(final);
  });

  it("gives a window of the frame the pixels that the whole frame has there", async () => {
    const e = await engine(2);
    const whole = (await e.start({ ...request(), stages: finalSchedule(0, 2, MEDIUM_PASSES) })).film;
    const pixels = whole.data.slice();
    const frame = { x: 37, y: 21, width, height };
    for (const other of [e, await engine(2, false)]) {
      const part = (await other.start({ ...request(), width: 41, height: 33, frame, stages: finalSchedule(0, 2, MEDIUM_PASSES) })).film;
      expect(part.data.length).toBe(41 * 33 * part.stride);
      for (let y = 0; y < 33; y++) {
        const row = part.data.slice(y * 41 * part.stride, (y + 1) * 41 * part.stride);
        const at = ((y + 21) * width + 37) * part.stride;
        expect(row).toEqual(pixels.slice(at, at + 41 * part.stride));
      }
    }
  });

  it("takes first what is looked at, and ends with the same film", async () => {
    const e = await engine(2);
    const stages = liveSchedule(16, "air").filter((s) => s.passes !== PASS_CLEAR);
    const usual = bits(await e.start({ ...request(), stages }));
    const place = { x: 0.1, y: 0.9 };
    e.attend(place);
    const ahead: number[] = [];
    const count = (x: number, y: number): number => {
      const film = e.film()!;
      return film.data[(Math.floor(y * height) * width + Math.floor(x * width)) * film.stride + F_COUNT]!;
    };
    const looked = await e.start({ ...request(), stages, onStage: () => ahead.push(count(place.x, place.y) - count(0.96, 0.1)) });
    e.attend(null);
    expect(bits(looked)).toEqual(usual);
    // from the first whole sample on, until all have all of them
    expect(ahead.slice(0, 3)).toEqual([0, 0, 0]);
    expect(Math.max(...ahead)).toBeGreaterThanOrEqual(4);
    expect(ahead.at(-1)).toBe(0);
  });

  it("bounds of broken air kept from an earlier run, or not, give the same film", async () => {
    const used = await engine(2);
    await used.start(request(1));
    const thicker = { ...doc, air: doc.air.map((m) => ({ ...m, density: 0.16, anisotropy: 0 })) };
    const broken = { ...thicker, air: thicker.air.map((m) => ({ ...m, noise: { ...m.noise!, size: 0.7 } })) };
    for (const document of [thicker, broken, doc]) {
      const kept = await used.start({ ...request(2), document });
      expect(bits(kept)).toEqual(bits(await (await engine(1)).start({ ...request(2), document })));
    }
  });

  it("a pause in the middle changes nothing, and is not time that the picture took", async () => {
    const HELD = 300;
    for (const shared of [true, false]) {
      const e = await engine(2, shared);
      const whole = bits(await e.start(request(4)));
      const began = performance.now();
      let held = 0;
      const pause = (): void => {
        const from = performance.now();
        e.pause();
        setTimeout(() => {
          held = performance.now() - from;
          e.resume();
        }, HELD);
      };
      const run = await e.start({ ...request(4), onStage: (p) => p.stage === 2 && pause() });
      expect(bits(run)).toEqual(whole);
      expect(held).toBeGreaterThan(0.9 * HELD);
      // a tick of the clock on either side
      expect(run.seconds).toBeLessThanOrEqual((performance.now() - began - held + 5) / 1000);
    }
  });

  it("a later start ends the one before; cancel ends the last, soon and for good", async () => {
    for (const shared of [true, false]) {
      const e = await engine(2, shared);
      const long = e.start({ ...request(60000) });
      const short = e.start(request(1));
      expect((await long).outcome).toBe("cancelled");
      expect((await short).outcome).toBe("done");
      const again = e.start(request(60000));
      await e.cancel();
      expect((await again).outcome).toBe("cancelled");
      // and it still works
      expect((await e.start(request(1))).outcome).toBe("done");
    }
  });

  it("out of time, it hands over a valid partial film", async () => {
    const e = await engine(2);
    const r = await e.start({ ...request(60000), timeLimit: 0.4 });
    expect(r.outcome).toBe("time");
    expect(r.film.data.some((v) => v > 0)).toBe(true);
    expect(r.film.data.every(Number.isFinite)).toBe(true);
  });

  it("has as much time as it is given, more than a timer can wait too", async () => {
    const e = await engine(2);
    const checkpoint = { every: 1e7, keep: () => undefined };
    expect((await e.start({ ...request(2), timeLimit: 1e7, checkpoint })).outcome).toBe("done");
  });

  it("works with fewer workers while it is told to, to the same picture and counts", async () => {
    const e = await engine(2);
    const whole = await e.start(request(6));
    const [film, rays] = [whole.film.data.slice(), whole.rays];
    let stages = 0;
    const again = await e.start({ ...request(6), onStage: () => e.useWorkers(stages++ % 2 ? 2 : 1) });
    expect(again.film.data).toEqual(film);
    expect(again.rays).toBe(rays);
    // in the middle of a stage
    const turns = setInterval(() => e.useWorkers(stages++ % 2 ? 2 : 1), 3);
    const third = await e.start(request(6));
    clearInterval(turns);
    e.useWorkers(2);
    expect(third.film.data).toEqual(film);
    expect(third.rays).toBe(rays);
  });

  it("renders a region alone, with the pixels it has in the whole frame", async () => {
    const e = await engine(2);
    const whole = (await e.start(request(2))).film.data.slice();
    const region = { ...doc, film: { ...doc.film, region: { x: 0.2, y: 0.3, width: 0.4, height: 0.5 } } };
    const part = (await e.start({ ...request(2), document: region })).film;
    const [x0, y0, x1, y1] = part.crop;
    expect([x0, y0, x1, y1]).toEqual([20, 18, 60, 48]);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const inside = x >= x0 && x < x1 && y >= y0 && y < y1;
        const p = PIXEL_FLOATS * (y * width + x);
        for (let k = 0; k < PIXEL_FLOATS; k++) expect(part.data[p + k]).toBe(inside ? whole[p + k] : 0);
      }
  });
});

describe("random numbers", () => {
  it("every power-of-two run of samples is a (0, 2)-net in each dimension pair, differently for each pixel", async () => {
    const { load } = await import("../support/kernel");
    const { kernel } = await load({});
    for (const [x, dimension] of [
      [0, 0],
      [7, 3],
    ] as const)
      for (const log of [4, 6]) {
        const n = 2 ** log;
        const points = Array.from({ length: n }, (_, i) => [0, 1].map((axis) => kernel.sequencePoint(1, x, 0, i, dimension, axis)));
        for (let a = 0; a <= log; a++) {
          const cells = new Set(points.map(([u, v]) => Math.floor(u! * 2 ** a) * 2 ** (log - a) + Math.floor(v! * 2 ** (log - a))));
          expect(cells.size).toBe(n);
        }
      }
    expect(kernel.sequencePoint(1, 0, 0, 0, 0, 0)).not.toBe(kernel.sequencePoint(1, 1, 0, 0, 0, 0));
    expect(kernel.sequencePoint(1, 0, 0, 0, 0, 0)).not.toBe(kernel.sequencePoint(2, 0, 0, 0, 0, 0));
  });
});

describe("the bias of stepping", () => {
  const smoke = (stepSize: number, estimator: "stepping" | "tracking" = "stepping") =>
    parseDocument({
      fumarium: 2,
      sun: { on: false },
      sky: { luminance: 1000, zenith: [1, 1, 1], horizon: [1, 1, 1] },
      camera: { position: [0, 0, 12], target: [0, 0, 0], fieldOfView: 40 },
      air: [
        {
          density: 6,
          scattering: [0, 0, 0],
          absorption: [1, 1, 1],
          region: { kind: "box", centre: [0, 0, 0], size: [9, 9, 6] },
          noise: { size: 1, octaves: 1, low: 0.5, high: 0.7 },
        },
      ],
      render: { estimator, stepSize, samples: 4 },
      film: { size: [320, 180] },
    });
  it("is found where steps are coarse, not where they are fine, and not asked for where nothing is stepped", async () => {
    const e = await engine(2);
    e.setGeometry(compileScene(smoke(1), { models: new Map() }));
    const coarse = (await measureStepBias(e, smoke(3)))!;
    // through dark smoke the mean of e^-τ is above e^-mean τ: too bright
    expect(coarse.relative).toBeGreaterThan(6 * coarse.error);
    expect(coarse.relative).toBeGreaterThan(0.05);
    const fine = (await measureStepBias(e, smoke(0.02)))!;
    expect(Math.abs(fine.relative)).toBeLessThan(4 * fine.error);
    expect(fine.error).toBeLessThan(0.02);
    expect([coarse.pixels, coarse.samples]).toEqual([48 * 27, 48]);
    expect(await measureStepBias(e, smoke(3, "tracking"))).toBeNull();
    expect(await measureStepBias(e, { ...smoke(3), air: [] })).toBeNull();
  });
});

describe("sources of noise", () => {
  it("are told by light, side and material, and remedies by what they were measured to gain", { timeout: 120_000 }, async () => {
    // a lamp so near the floor that nothing else makes noise to speak of: the sun without air has none, and most of the lamp's is in the air
    const lamp = { kind: "point", name: "lamp", position: [0, 1, 0], intensity: 20000 } as const;
    const scene = parseDocument({
      fumarium: 2,
      materials: { chalk: { baseColor: [0.8, 0.8, 0.8] } },
      objects: [{ kind: "rectangle", material: "chalk", size: [30, 30], name: "floor" }],
      camera: { position: [0, 2, 9], target: [0, 1.5, 0] },
      sun: { on: false },
      sky: { luminance: 1 },
      lights: [lamp],
      air: [{ name: "fog", density: 0.3, anisotropy: 0.7 }],
      render: { airSamples: 1, surfaceBounces: 1 },
      film: { size: [64, 36], exposure: 8 },
    });
    const e = await RenderEngine.create(nodeHost(build, 2));
    engines.push(e);
    e.setGeometry(compileScene(scene, { models: new Map() }));
    const done: string[] = [];
    const inAir = await findNoise(e, scene, (d, all) => done.push(`${d}/${all}`));
    expect(inAir.sources[0]).toMatchObject({ light: "lamp", side: "air", material: null });
    expect(inAir.sources.reduce((s, x) => s + x.share, 0)).toBeLessThanOrEqual(1 + 1e-9);
    expect(done.at(-1)!.split("/")[0]).toBe(done.at(-1)!.split("/")[1]);
    for (const r of inAir.remedies) {
      expect(r.gain).toBeGreaterThan(1);
      expect(parseDocument(JSON.parse(JSON.stringify(r.apply(scene))))).not.toEqual(scene);
    }
    // without air only the light that the floor throws back twice is noise
    const clear = await findNoise(e, { ...scene, air: [], objects: scene.objects });
    for (const s of clear.sources) expect(s).toMatchObject({ side: "surfaces", material: "chalk" });
  });
});

describe("trials", () => {
  it("say what a level or a bounce misses, within their own error, and what the whole frame would take", async () => {
    const e = await engine(2);
    const once = await trial(e, atBounces(doc, 1), 10);
    const many = await trial(e, atBounces(doc, 8), 10);
    // light scattered once is a part of light scattered up to eight times
    const lost = missing(once, many);
    expect(lost.share).toBeGreaterThan(3 * lost.error);
    expect(lost.share).toBeLessThan(1);
    expect(missing(many, many)).toMatchObject({ share: 0 });
    expect(atLevel(doc, "veil").render.level).toBe("veil");
    const seconds = (await trial(e, { ...doc, film: { ...doc.film, size: [400, 240] } }, 4)).seconds;
    expect(seconds).toBeGreaterThan(0);
    // the mean is the mean of the same render at its own size
    const whole = await e.start({ document: atBounces(doc, 8), width, height, stages: finalSchedule(0, 24, MEDIUM_PASSES) });
    const { mean, error } = beautyNoise(whole.film);
    expect(Math.abs(mean - many.mean)).toBeLessThan(5 * Math.hypot(error, many.error));
  });
});
