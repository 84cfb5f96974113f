import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { measureFilm, passValues } from "#core/film/film";
import { compileScene } from "#core/scene/compile";
import { F_COUNT, PIXEL_FLOATS } from "#core/layout/layout";
import { RenderEngine } from "#engine/engine";
import { nodeHost } from "#engine/node-host";
import { finalSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { fileURLToPath } from "node:url";
import { bandMean, pencil, pixelErrors, render, type PartialDocument } from "../support/kernel";

const build = fileURLToPath(new URL("../../build", import.meta.url));

describe("passes of geometry and air", () => {
  it("depth, distance, height, normal, albedo, glow and mist are what the scene says, and glow is part of the air", async () => {
    const film = await render(
      {
        sky: { on: false },
        sun: { azimuth: 90, elevation: 30 },
        materials: { wall: { baseColor: [0.2, 0.4, 0.6], specular: 0 } },
        objects: [{ kind: "rectangle", material: "wall", position: [0, 3, -5], size: [10, 10], rotation: [60, 0, 0] }],
        camera: pencil([0, 3, 0], [0, 0, -1]),
        air: [{ density: 0.1, scattering: [0.5, 0.5, 0.5], absorption: [0.5, 0.5, 0.5], emission: { colour: [1, 1, 1], strength: 20 } }],
        film: { size: [4, 4] },
      },
      256,
    );
    expect(passValues(film, "depth")[0]).toBeCloseTo(5, 4);
    expect(passValues(film, "distance")[0]).toBeCloseTo(5, 4);
    expect(passValues(film, "height")[0]).toBeCloseTo(3, 4);
    expect(passValues(film, "opacity")[0]).toBeCloseTo(1 - Math.exp(-0.5), 5);
    const normal = passValues(film, "normal");
    // a sheet that faced up, turned by 60° about x
    [0, 0.5, Math.sin(Math.PI / 3)].forEach((v, k) => expect(normal[k]).toBeCloseTo(v, 5));
    [0.2, 0.4, 0.6].forEach((v, k) => expect(passValues(film, "albedo")[k]).toBeCloseTo(v, 5));
    const emissive = bandMean(film, "emission", 1);
    expect(Math.abs(emissive.mean - (20 * (1 - Math.exp(-0.5))) / 0.1)).toBeLessThan(4 * emissive.error + 0.05);
    expect(bandMean(film, "air", 1).mean).toBeGreaterThan(emissive.mean);
    expect(passValues(film, "rays")[0]).toBeGreaterThanOrEqual(3);
    const off = await render({ camera: pencil([0, 0, 0], [0, 1, 0]), film: { size: [2, 2] } }, 2);
    expect([passValues(off, "distance")[0], passValues(off, "height")[0]]).toEqual([Infinity, 0]);
  });
});

describe("the lens", () => {
  const points = (camera: object): PartialDocument => ({
    sun: { on: false },
    sky: { on: false },
    materials: { glow: { baseColor: [0, 0, 0], specular: 0, emission: [1, 1, 1] } },
    objects: [
      { kind: "rectangle", material: "glow", position: [-0.5, 0, -4], size: [0.02, 20], rotation: [90, 0, 0] },
      { kind: "rectangle", material: "glow", position: [1, 0, -8], size: [0.04, 40], rotation: [90, 0, 0] },
    ],
    camera: { position: [0, 0, 0], target: [0, 0, -1], fieldOfView: 40, ...camera },
    film: { size: [160, 40] },
  });
  /** Width (pixels, root mean square) of the bright line in one half of the frame. */
  async function width(camera: object, right: boolean): Promise<number> {
    const p = pixelErrors(await render(points(camera), 512));
    let [sum, first, second] = [0, 0, 0];
    for (let y = 0; y < 40; y++)
      for (let x = right ? 80 : 0; x < (right ? 160 : 80); x++) {
        const v = p[y * 160 + x]!.mean;
        sum += v;
        first += v * x;
        second += v * x * x;
      }
    return Math.sqrt(second / sum - (first / sum) ** 2);
  }
  it("an opening blurs by similar triangles what is not in focus, and leaves sharp what is", async () => {
    const opening = { aperture: 0.8, focus: 4 };
    expect(await width(opening, false)).toBeLessThan(0.6);
    // at 8 m the opening's disk is 0.8 × (8 - 4)/4 m wide; a disk's shadow along one axis has a quarter of that as its spread
    const pixel = (2 * 8 * Math.tan((20 * Math.PI) / 180)) / 40;
    expect((await width(opening, true)) / (0.8 / 4 / pixel)).toBeCloseTo(1, 0.9);
    expect(await width({ aperture: 0.8, focus: 8 }, true)).toBeLessThan(0.6);
  });
  it("the tent filter keeps the mean and spreads an edge over two pixels", async () => {
    const edge = (filter: "box" | "tent"): PartialDocument => ({
      sun: { on: false },
      sky: { on: false },
      materials: { glow: { baseColor: [0, 0, 0], specular: 0, emission: [1, 1, 1] } },
      objects: [{ kind: "rectangle", material: "glow", position: [-50, 0, -4], size: [100, 100], rotation: [90, 0, 0] }],
      camera: { kind: "orthographic", position: [0, 0, 0], target: [0, 0, -1], height: 8 },
      film: { size: [8, 8], filter },
    });
    const row = async (filter: "box" | "tent"): Promise<number[]> =>
      [...passValues(await render(edge(filter), 1024), "surfaces")].filter((_, i) => i % 3 === 0).slice(24, 32);
    expect(await row("box")).toEqual([1, 1, 1, 1, 0, 0, 0, 0]);
    const tent = await row("tent");
    expect(tent[3]).toBeCloseTo(7 / 8, 2);
    expect(tent[4]).toBeCloseTo(1 / 8, 2);
    expect(tent[2]).toBe(1);
  });
});

describe("sampling", () => {
  const scene = {
    fumarium: 2,
    materials: { m: { baseColor: [0.6, 0.6, 0.6] } },
    objects: [
      { kind: "rectangle", material: "m", size: [20, 20] },
      { kind: "box", material: "m", position: [0, 1, 0], size: [1, 2, 1] },
    ],
    sun: { azimuth: 60, elevation: 25, illuminance: 20000 },
    sky: { luminance: 1500 },
    lights: [{ kind: "point", position: [2, 1.5, 1], intensity: 3000 }],
    camera: { position: [0, 1.5, 7], target: [0, 1, 0], fieldOfView: 40 },
    air: [{ density: 0.08, region: { kind: "box", centre: [0, 1.5, -1], size: [6, 3, 4] } }],
    film: { size: [48, 32], exposure: 11 },
  };
  async function run(render: object, samples: number, workers = 2) {
    const doc = parseDocument({ ...scene, render: { samples, airSamples: 1, ...render } });
    const engine = await RenderEngine.create(nodeHost(build, workers));
    try {
      engine.setGeometry(compileScene(doc, { models: new Map() }));
      const r = await engine.start({ document: doc, width: 48, height: 32, stages: finalSchedule(0, samples, MEDIUM_PASSES) });
      return { ...r.film, data: r.film.data.slice() };
    } finally {
      engine.dispose();
    }
  }
  const counts = (film: { data: Float32Array }): number[] =>
    Array.from({ length: 48 * 32 }, (_, i) => film.data[i * PIXEL_FLOATS + F_COUNT]!);

  it("adaptive: from the least to the most, more where it is noisier, the same from any number of workers, without bias", async () => {
    const options = { noiseThreshold: 0.03, minSamples: 32 };
    const film = await run(options, 512);
    const n = counts(film);
    expect(Math.min(...n)).toBeGreaterThanOrEqual(32);
    expect(Math.max(...n)).toBeLessThanOrEqual(512);
    const mean = n.reduce((a, b) => a + b, 0) / n.length;
    expect(mean).toBeLessThan(350);
    expect(Math.max(...n)).toBeGreaterThan(2 * Math.min(...n));
    expect(new Uint32Array((await run(options, 512, 1)).data.buffer)).toEqual(new Uint32Array(film.data.buffer));
    // bias: the mean of the frame against a render of other random numbers that samples all alike
    const reference = await run({ seed: 99 }, 512);
    const [a, b] = [pixelErrors(film), pixelErrors(reference)];
    const difference = a.reduce((s, p, i) => s + p.mean - b[i]!.mean, 0) / a.length;
    const error = Math.sqrt(a.reduce((s, p, i) => s + p.error ** 2 + b[i]!.error ** 2, 0)) / a.length;
    expect(Math.abs(difference)).toBeLessThan(4 * error);
  });

  it("the noise it reports is the error it makes or a little more, against a converged picture", async () => {
    const reference = passValues(await run({ seed: 7 }, 1280), "beauty");
    for (const samples of [16, 128]) {
      const film = await run({ seed: 3 }, samples);
      const found = passValues(film, "beauty");
      const y = (v: Float32Array, i: number): number => 0.2126 * v[3 * i]! + 0.7152 * v[3 * i + 1]! + 0.0722 * v[3 * i + 2]!;
      const pixels = Array.from({ length: 48 * 32 }, (_, i) => i);
      const mean = pixels.reduce((sum, i) => sum + y(reference, i), 0) / pixels.length;
      const errors = pixels.map((i) => (y(found, i) - y(reference, i)) / Math.max(0.05 * mean, y(reference, i)));
      const measured = Math.sqrt(errors.reduce((sum, e) => sum + e * e, 0) / pixels.length);
      // well-spread samples do better than independent ones, which the report takes them for: it errs high
      const said = measureFilm(film).noise!;
      expect(said / measured).toBeGreaterThan(0.8);
      expect(said / measured).toBeLessThan(2.5);
    }
  });

  it("an outlier limit caps what a sample gives, and takes light away: it is off by default", async () => {
    const film = await run({ fireflyClamp: 0.5 }, 16);
    const white = 1.2 * 2 ** 11;
    expect(Math.max(...pixelErrors(film).map((p) => p.mean))).toBeLessThanOrEqual(0.5 * white * 1.001);
    expect(measureFilm(film).mean).toBeLessThan(measureFilm(await run({}, 16)).mean);
    expect(parseDocument({ fumarium: 2 }).render.fireflyClamp).toBeNull();
  });
});
