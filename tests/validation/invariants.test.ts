import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { scaleDocument } from "#core/document/scale";
import { passValues } from "#core/film/film";
import { PASS_AIR, PASS_CLEAR, PASS_SURFACES } from "#core/layout/layout";
import { bandMean, render, type PartialDocument } from "../support/kernel";

type V3 = [number, number, number];

/** A closed room with a lamp and a pillar, full of haze. */
function room(k = 1, change: PartialDocument = {}): PartialDocument {
  const v = (x: number, y: number, z: number): V3 => [k * x, k * y, k * z];
  return {
    sun: { on: false },
    sky: { on: false },
    materials: { wall: { baseColor: [0.7, 0.6, 0.5], specular: 0 }, pillar: { baseColor: [0.2, 0.3, 0.6], roughness: 0.5 } },
    objects: [
      { kind: "box", material: "wall", position: v(0, -0.5, 0), size: v(10, 1, 10) },
      { kind: "box", material: "wall", position: v(0, 6.5, 0), size: v(10, 1, 10) },
      { kind: "box", material: "wall", position: v(-5.5, 3, 0), size: v(1, 8, 10) },
      { kind: "box", material: "wall", position: v(5.5, 3, 0), size: v(1, 8, 10) },
      { kind: "box", material: "wall", position: v(0, 3, -5.5), size: v(12, 8, 1) },
      { kind: "box", material: "wall", position: v(0, 3, 5.5), size: v(12, 8, 1) },
      { kind: "cylinder", material: "pillar", position: v(0.6, 2, -1), radius: 0.5 * k, height: 4 * k },
    ],
    camera: { position: v(0, 2, 4.5), target: v(0, 2, 0), fieldOfView: 60 },
    lights: [{ kind: "spot", position: v(-3, 5, -3), target: v(0.6, 1, -1), intensity: 2000 * k * k, cone: 70 }],
    air: [{ density: 0.1 / k, scattering: [1, 0.9, 0.7], anisotropy: 0.5 }],
    render: { level: "full", airBounces: 4, surfaceBounces: 3, airSamples: 1 },
    film: { size: [32, 24] },
    ...change,
  };
}

/** Compares two renders by the mean of every band, in standard errors of the difference of pixels. */
function expectSame(a: Float32Array, b: Float32Array, sigmas = 4): void {
  for (const band of [0, 1, 2]) {
    let sum = 0,
      squares = 0,
      level = 0;
    const n = a.length / 3;
    for (let i = 0; i < n; i++) {
      const d = a[3 * i + band]! - b[3 * i + band]!;
      sum += d;
      squares += d * d;
      level += a[3 * i + band]!;
    }
    const mean = sum / n;
    const error = Math.sqrt(Math.max(0, squares / n - mean * mean) / n);
    expect(Math.abs(mean)).toBeLessThan(sigmas * error + 1e-6 * (level / n));
    expect(error).toBeLessThan(0.03 * (level / n));
  }
}

const beauty = async (d: PartialDocument, samples: number): Promise<Float32Array> => passValues(await render(d, samples), "beauty");

/** The room of the scaled documents as it is, rendered once for all of them. */
let unscaled: Float32Array | null = null;

describe("invariants", () => {
  it.each([0.0254, 100])("a document scaled by %s as a whole gives the same picture", async (k) => {
    const lamps: PartialDocument["lights"] = [
      {
        kind: "rectangle",
        position: [2, 5, 2],
        target: [0, 1, 0],
        size: [1, 0.5],
        intensity: 500,
        unit: "lm",
        fade: { farFrom: 6, farTo: 9 },
      },
      { kind: "sphere", position: [-3, 1, 2], radius: 0.2, intensity: 4000, unit: "cd/m2" },
      { kind: "tube", position: [3, 1, -3], length: 1.5, intensity: 60, unit: "W" },
      { kind: "spot", position: [0, 5, 3], target: [1, 0, -1], intensity: 3000, gobo: { pattern: "bars", distance: 0.4 } },
    ];
    const air: PartialDocument["air"] = [
      { density: 0.05, height: { level: 0.5, scale: 3 }, start: { distance: 1, fade: 2 } },
      {
        name: "cloud",
        density: 1,
        edge: 0.4,
        region: { kind: "cone", centre: [-1, 2, 0], radius: 1.5, height: 3, rotation: [10, 20, 30] },
        noise: { size: 0.8, drift: [1, 0, 0], octaves: 2, space: "region" },
        emission: { strength: 20 },
      },
      { name: "film", density: 0.4, proximity: { object: "column", curve: [[0, 1], [0.5, 0]] } },
    ]; // prettier-ignore
    const base = room(1, { lights: lamps, air, time: 2 });
    base.objects![6]!.name = "column";
    const doc = parseDocument({ fumarium: 2, ...base });
    const { fumarium: _, ...scaled } = scaleDocument(doc, k);
    expectSame((unscaled ??= await beauty(base, 120)), await beauty(scaled, 120));
    // and back again it is what it was, but for the last digits
    const back = scaleDocument(scaleDocument(doc, k), 1 / k);
    expect(back.lights.map((l) => Number(l.intensity.toPrecision(6)))).toEqual(doc.lights.map((l) => l.intensity));
  });

  it("full at one air bounce with black surfaces equals shafts", async () => {
    const black = { wall: { baseColor: [0, 0, 0] as V3, specular: 0 }, pillar: { baseColor: [0, 0, 0] as V3, specular: 0 } };
    const sky = { luminance: 500 };
    const open = room(1).objects!.filter((_, i) => i !== 1 && i !== 3);
    const common = { materials: black, objects: open, sky, sun: { azimuth: 70, elevation: 40, illuminance: 3000 } };
    const air = [{ density: 0.1, region: { kind: "box" as const, centre: [0, 3, 0] as V3, size: [10, 7, 10] as V3 } }];
    const shafts = await beauty(room(1, { ...common, air, render: { level: "shafts", surfaceBounces: 0 } }), 400);
    const full = await beauty(room(1, { ...common, air, render: { level: "full", airBounces: 1, surfaceBounces: 0, seed: 5 } }), 400);
    expectSame(shafts, full);
  });

  it("a box that holds the whole room equals air everywhere", async () => {
    const everywhere = await beauty(room(), 24);
    const boxed = await beauty(
      room(1, { air: [{ ...room().air![0]!, region: { kind: "box", centre: [0, 3, 0], size: [40, 40, 40] } }] }),
      24,
    );
    // the same random numbers take the same paths: equal to rounding, not only on average
    let largest = 0;
    everywhere.forEach((v, i) => (largest = Math.max(largest, Math.abs(v - boxed[i]!) / (v + 1))));
    expect(largest).toBeLessThan(1e-4);
  });

  it("scaling the scene by 10 with coefficients divided by 10 leaves the picture as it is", async () => {
    expectSame(await beauty(room(1), 200), await beauty(room(10), 200));
  });

  it("moving everything leaves the picture as it is", async () => {
    const shift: V3 = [120, -40, 75];
    const move = (p: V3 | undefined): V3 => [(p?.[0] ?? 0) + shift[0], (p?.[1] ?? 0) + shift[1], (p?.[2] ?? 0) + shift[2]];
    const r = room();
    const moved = room(1, {
      objects: r.objects!.map((o) => ({ ...o, position: move(o.position) })),
      camera: { ...r.camera, position: move(r.camera!.position), target: move(r.camera!.target) },
      lights: r.lights!.map((l) => (l.kind === "spot" ? { ...l, position: move(l.position), target: move(l.target) } : l)),
    });
    expectSame(await beauty(r, 200), await beauty(moved, 200));
  });

  it("seeds change only the noise", async () => {
    const r = room();
    // pixels of one seed share the beginnings of their sequences, so that the error of a frame is judged over seeds
    const means = async (from: number): Promise<number[]> => {
      const out: number[] = [];
      for (let k = 0; k < 8; k++) {
        const v = await beauty({ ...r, render: { ...r.render, seed: from + 1009 * k } }, 20);
        out.push(v.reduce((a, x) => a + x, 0) / v.length);
      }
      return out;
    };
    const [a, b] = [await means(1), await means(4_000_000_000)];
    const mean = (v: number[]): number => v.reduce((x, y) => x + y, 0) / v.length;
    const variance = (v: number[]): number => v.reduce((x, y) => x + (y - mean(v)) ** 2, 0) / (v.length - 1);
    const error = Math.sqrt((variance(a) + variance(b)) / 8);
    expect(Math.abs(mean(a) - mean(b))).toBeLessThan(4.5 * error);
    expect(error).toBeLessThan(0.025 * mean(a));
  });

  it("crossing the border of a box of air changes the picture continuously", async () => {
    const at = async (z: number): Promise<number> => {
      const film = await render(
        {
          sun: { azimuth: 40, elevation: 30, illuminance: 5000 },
          sky: { luminance: 800 },
          materials: { wall: { baseColor: [0.5, 0.5, 0.5], specular: 0 } },
          objects: [{ kind: "rectangle", material: "wall", size: [30, 30] }],
          camera: { position: [0, 2, z], target: [0, 1.5, z - 10], fieldOfView: 50 },
          air: [{ density: 0.15, anisotropy: 0.6, region: { kind: "box", centre: [0, 2, 0], size: [10, 6, 10] } }],
          render: { surfaceBounces: 0, airSamples: 4 },
          film: { size: [48, 32] },
        },
        64,
      );
      return bandMean(film, "beauty", 1).mean;
    };
    const [outside, just, inside, further] = [await at(5.001), await at(5 + 1e-7), await at(4.999), await at(4.5)];
    // 2 mm apart: less than 0.1 %; half a metre apart: a change that can be seen, so the test can fail
    expect(Math.abs(outside / inside - 1)).toBeLessThan(1e-3);
    expect(Math.abs(just / inside - 1)).toBeLessThan(1e-3);
    expect(Math.abs(further / inside - 1)).toBeGreaterThan(2e-3);
  });

  it("two bands of air of half the density in one colour each add up per band as one medium would", async () => {
    const red = await beauty(
      room(1, { air: [{ density: 0.1, scattering: [1, 0, 0] }], render: { level: "shafts", surfaceBounces: 0 } }),
      100,
    );
    const white = await beauty(
      room(1, { air: [{ density: 0.1, scattering: [1, 1, 1] }], render: { level: "shafts", surfaceBounces: 0, seed: 3 } }),
      100,
    );
    let [a, b, difference] = [0, 0, 0];
    for (let i = 0; i < red.length; i += 3) {
      a += red[i]!;
      b += white[i]!;
      difference += (red[i]! - white[i]!) ** 2;
    }
    expect(Math.abs(a - b)).toBeLessThan(4 * Math.sqrt(difference));
  });

  it("passes add up to the beauty to the last bit, and clear air is the same frame without the medium", async () => {
    const r = room();
    const film = await render(r, 8, PASS_AIR | PASS_SURFACES | PASS_CLEAR);
    const [b, a, s, c] = (["beauty", "air", "surfaces", "clear"] as const).map((p) => passValues(film, p));
    for (let i = 0; i < b!.length; i++) expect(b![i]).toBe(Math.fround(a![i]! + s![i]!));
    const without = passValues(await render({ ...r, air: [] }, 8), "beauty");
    for (let i = 0; i < c!.length; i++) expect(c![i]).toBeCloseTo(without[i]!, 2);
  });

  it("the error falls as one over the root of the samples", async () => {
    // the lamp out of view: where a point of light stands in a pixel, its air's mean has no variance to fall
    const lights: PartialDocument["lights"] = [{ kind: "spot", position: [-4, 5.5, 2], target: [0.6, 1, -1], intensity: 2000, cone: 70 }];
    const r = room(1, { lights, render: { level: "shafts", surfaceBounces: 0, airSamples: 1 } });
    const truth = await beauty({ ...r, render: { ...r.render, seed: 1234 } }, 2400);
    const rms = async (n: number): Promise<number> => {
      const v = await beauty(r, n);
      return Math.sqrt(v.reduce((sum, x, i) => sum + (x - truth[i]!) ** 2, 0) / v.length);
    };
    const ratio = (await rms(12)) / (await rms(192));
    // 4 for independent samples; well-spread ones may do better, never worse
    expect(ratio).toBeGreaterThan(3.5);
  });
});
