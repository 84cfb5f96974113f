/** Pictures made elsewhere as sets: what the lens sees of them, exact per pixel, and the air before them. */
import { fileURLToPath } from "node:url";
import { describe, expect, it } from "vitest";
import { rayThrough } from "#core/document/camera";
import { parseDocument } from "#core/document/parse";
import { lightValues, matteValues, passValues, type Film } from "#core/film/film";
import { HALVES } from "#core/formats/half";
import { PASS_AIR, PASS_CLEAR, PASS_SURFACES } from "#core/layout/layout";
import type { SceneDocument } from "#core/document/schema";
import { CleanPool } from "#engine/clean-pool";
import { nodeCleanHost } from "#engine/node-clean";
import type { PlatePictures } from "#core/plate/read";
import { bandMean, render, simpson, type PartialDocument } from "../support/kernel";
import { picturesOf, plateDocument, plateResources } from "../support/plates";

const SIZE = [24, 16] as const;
const ALL = PASS_AIR | PASS_SURFACES | PASS_CLEAR;
const shoot = (doc: SceneDocument, pictures: PlatePictures, samples: number, passes = ALL): Promise<Film> =>
  render(doc, samples, passes, 0, plateResources(doc, pictures));

/** Numbers that look random, the same each time. */
function noise(seed: number): () => number {
  let s = seed;
  return () => (s = (s * 16807) % 2147483647) / 2147483647;
}

const dark: PartialDocument = { sun: { on: false }, sky: { on: false } };
const grey = (v: number) => (): [number, number, number] => [v, v, v];

describe("a plate without air is its picture, bit for bit", () => {
  const next = noise(3);
  // numbers of 16-bit floats, and of 32 bits
  const half = picturesOf(SIZE, () => [0, 0, 0].map(() => HALVES[Math.floor(next() * 0x7bff)]!) as [number, number, number], () => (next() < 0.2 ? Infinity : 1 + 50 * next())); // prettier-ignore
  const single = { ...half, bands: half.bands.map((b) => b.map(() => Math.fround(Math.exp(20 * next() - 10)))) };

  const same = (film: Film, pictures: PlatePictures, scale: number): void => {
    for (const pass of ["beauty", "surfaces", "clear"] as const) {
      const got = passValues(film, pass);
      pictures.bands.forEach((band, k) => {
        expect(
          Float32Array.from(band, (_, i) => got[3 * i + k]! / scale),
          pass,
        ).toEqual(band);
      });
    }
  };

  it.each([1, 3, 7, 100])("of halves, with %s samples", async (samples) => {
    const doc = plateDocument(SIZE, { light: 12 }, { ...dark, air: [{ density: 0 }] });
    same(await shoot(doc, half, samples), half, 4096);
  });

  it.each([1, 4, 64])("of single precision, with %s samples, whatever the filter and the lights", async (samples) => {
    const doc = plateDocument(SIZE, { light: -3 }, { film: { filter: "tent" }, render: { level: "full" } });
    same(await shoot(doc, single, samples), single, 0.125);
  });

  it("at half its size is the mean of what each pixel covers", async () => {
    const doc = plateDocument(SIZE, {}, dark);
    const small = { ...doc, film: { ...doc.film, size: [12, 8] as [number, number] } };
    const flat = picturesOf(SIZE, (x, y) => [x, y, x * y], () => 10);
    const film = await shoot(small, flat, 256);
    const got = passValues(film, "surfaces");
    for (let y = 0; y < 8; y++)
      for (let x = 0; x < 12; x++) {
        const i = 3 * (y * 12 + x);
        // the sequence puts as many samples into each quarter
        expect(got[i]).toBeCloseTo(2 * x + 0.5, 5);
        expect(got[i + 1]).toBeCloseTo(2 * y + 0.5, 5);
        expect(got[i + 2]! / ((2 * x + 0.5) * (2 * y + 0.5))).toBeCloseTo(1, 5);
      }
  }); // prettier-ignore
});

describe("the air before a plate", () => {
  it("keeps exp(−σ d) of its light, by band, of each pixel's own distance", async () => {
    const doc = plateDocument(SIZE, { edges: false }, { ...dark, air: [{ density: 0.02, scattering: [1, 0.5, 0.25], absorption: [0, 0.5, 0], anisotropy: 0 }] });
    const next = noise(5);
    const pictures = picturesOf(SIZE, () => [100, 200, 300], () => 1 + 100 * next());
    const film = await shoot(doc, pictures, 4);
    const surfaces = passValues(film, "surfaces"), t = passValues(film, "transmittance"), far = passValues(film, "distance");
    pictures.depth.forEach((d, i) => {
      expect(far[i]).toBeCloseTo(d, 4);
      [0.02, 0.02, 0.005].forEach((sigma, k) => {
        expect(t[3 * i + k]! / Math.exp(-sigma * d)).toBeCloseTo(1, 5);
        expect(surfaces[3 * i + k]! / (100 * (k + 1) * Math.exp(-sigma * d))).toBeCloseTo(1, 5);
      });
    });
  }); // prettier-ignore

  it("swallows the sky as air whose density falls with height does", async () => {
    const air = [{ density: 0.05, scattering: [1, 1, 1] as [number, number, number], height: { level: 0, scale: 8 } }];
    const doc = plateDocument(SIZE, { tilt: 30, fieldOfView: 30, position: [0, 2, 0] }, { ...dark, air });
    const film = await shoot(
      doc,
      picturesOf(SIZE, grey(1), () => Infinity),
      64,
    );
    // by quadrature, over the pixel's middle: its own mean differs by what the curve bends over it
    const t = passValues(film, "transmittance");
    for (const y of [0, 7, 15]) {
      const d = rayThrough(doc, 11.5 / 24, (y + 0.5) / 16);
      const depth = simpson((s) => 0.05 * Math.exp(-(2 + d[1] * s) / 8), 0, 400 / d[1], 4000);
      expect(t[3 * (y * 24 + 11)]! / Math.exp(-depth)).toBeCloseTo(1, 2);
    }
    expect(passValues(film, "distance").every((v) => v === Infinity)).toBe(true);
  });

  it("has the shadow of the plate's surface: a lamp behind a wall lights nothing before it", async () => {
    const lamp = { kind: "point" as const, name: "lamp", position: [0, 1.6, -20] as [number, number, number], intensity: 1e5 };
    const doc = plateDocument(SIZE, { fieldOfView: 40 }, { ...dark, lights: [lamp], air: [{ density: 0.01 }] });
    const wall = picturesOf(SIZE, grey(0), () => 10);
    const behind = bandMean(await shoot(doc, wall, 16), "air", 1);
    const hidden = { ...doc, objects: doc.objects.map((o) => ({ ...o, hidden: true })) };
    const lit = bandMean(await shoot(hidden, wall, 16), "air", 1).mean;
    expect(lit).toBeGreaterThan(1);
    // but for what lies between the surface's flat facets and the exact distances
    expect(behind.mean / lit).toBeLessThan(1e-3);
    // the lamp of this side lights the air as in a scene with such a wall, and nothing of it the picture
    const here = { ...doc, lights: [{ ...doc.lights[0]!, position: [0, 1.6, -5] as [number, number, number] }] } as SceneDocument;
    const film = await shoot(here, wall, 64);
    expect(bandMean(film, "surfaces", 1).mean).toBe(0);
    const scene = await render(
      {
        ...dark,
        materials: { m: { baseColor: [0, 0, 0], specular: 0 } },
        objects: [{ kind: "sphere", material: "m", radius: 10, position: [0, 1.6, 0] }],
        camera: here.camera,
        lights: [{ ...lamp, position: [0, 1.6, -5] }],
        air: [{ density: 0.01 }],
        film: { size: [...SIZE] },
      },
      64,
    );
    const [a, b] = [bandMean(film, "air", 1), bandMean(scene, "air", 1)];
    expect(Math.abs(a.mean - b.mean)).toBeLessThan(0.02 * b.mean);
  });
});

it("is black where it is held out, but for its sky, and its air stays; in a frame of another shape it is not seen", async () => {
  const doc = plateDocument(SIZE, {}, { ...dark, lights: [{ kind: "point", name: "lamp", position: [0, 1.6, -3], intensity: 1e4 }], air: [{ density: 0.01, height: { level: 0, scale: 5 } }] });
  const pictures = picturesOf(SIZE, grey(50), (x) => (x < 12 ? 10 : Infinity));
  const held = { ...doc, objects: doc.objects.map((o) => ({ ...o, holdout: true })) };
  const [film, whole] = [await shoot(held, pictures, 8), await shoot(doc, pictures, 8)];
  passValues(film, "surfaces").forEach((v, i) => expect(v).toBeCloseTo(Math.floor(i / 3) % 24 < 12 ? 0 : passValues(whole, "surfaces")[i]!, 4));
  expect(passValues(film, "air")).toEqual(passValues(whole, "air"));
  const other = { ...doc, film: { ...doc.film, size: [24, 24] as [number, number] } };
  expect((await shoot(other, pictures, 1)).plate).toBe(undefined);
}); // prettier-ignore

describe("what stands in a plate", () => {
  const front = { kind: "rectangle" as const, material: "glow", position: [0, 1.6, -4] as [number, number, number], rotation: [90, 0, 0] as [number, number, number], size: [100, 100] as [number, number] };
  const glow = { glow: { baseColor: [0, 0, 0] as [number, number, number], specular: 0, emission: [7, 7, 7] as [number, number, number] } };

  it("hides it where it is nearer, and is hidden where it is farther", async () => {
    const doc = plateDocument(SIZE, { along: "axis" }, { ...dark, materials: glow, objects: [front] });
    const pictures = picturesOf(SIZE, grey(3), (x) => (x < 12 ? 3 : 5));
    const film = await shoot(doc, pictures, 4);
    passValues(film, "beauty").forEach((v, i) => expect(v).toBeCloseTo(Math.floor(i / 3) % 24 < 12 ? 3 : 7, 5));
  });

  it("is seen from elsewhere with the plate's surface in grey", async () => {
    const doc = plateDocument(SIZE, { along: "axis" }, { ...dark, sky: { on: true, model: "overcast", luminance: 100 } });
    const moved = { ...doc, camera: { ...doc.camera, position: [0.5, 1.6, 0] as [number, number, number] } };
    const film = await shoot(moved, picturesOf(SIZE, grey(3000), () => 5), 16);
    const { mean } = bandMean(film, "surfaces", 1);
    expect(mean).toBeGreaterThan(5);
    expect(mean).toBeLessThan(100);
  });
}); // prettier-ignore

it("a plate's light is a group of its own, and its surface a matte", async () => {
  const doc = plateDocument(
    SIZE,
    {},
    { film: { lightGroups: true, mattes: true }, air: [{ density: 0.01, height: { level: 0, scale: 5 } }] },
  );
  const pictures = picturesOf(SIZE, grey(50), () => 20);
  const film = await shoot(doc, pictures, 8);
  const [own, all] = [lightValues(film, "plate", "surfaces"), passValues(film, "surfaces")];
  own.forEach((v, i) => expect(v / all[i]!).toBeCloseTo(1, 5));
  const matte = film.mattes!.object;
  expect(matte).toEqual(["plate 1"]);
});

it("mattes of its file are its own, by how much of a pixel they cover", async () => {
  const doc = plateDocument(SIZE, {}, { ...dark, film: { mattes: true } });
  const of = (share: (x: number) => number): Float32Array => Float32Array.from({ length: SIZE[0] * SIZE[1] }, (_, i) => share(i % SIZE[0]));
  const mattes = [
    { name: "hull", cover: of((x) => (x < 8 ? 1 : x === 8 ? 0.25 : 0)) },
    { name: "pier", cover: of((x) => (x === 8 ? 0.75 : x > 8 && x < 16 ? 1 : 0)) },
    { name: "crew", cover: of((x) => (x === 20 ? 0.4 : 0)) },
  ];
  const film = await shoot(doc, { ...picturesOf(SIZE, grey(50), () => 20), mattes }, 128);
  expect(film.mattes!.object).toEqual(["plate 1", "hull", "pier", "crew"]);
  const values = matteValues(film, "object");
  const share = (name: string, x: number): number => values.get(name)?.[5 * SIZE[0] + x] ?? 0;
  for (const [name, x, expected] of [["hull", 3, 1], ["hull", 8, 0.25], ["pier", 8, 0.75], ["pier", 12, 1], ["crew", 20, 0.4], ["plate 1", 20, 0.6], ["plate 1", 22, 1], ["hull", 12, 0]] as const)
    expect(share(name, x), `${name} at ${x}`).toBeCloseTo(expected, 1);
}); // prettier-ignore

describe("the same air over a scene and over a plate of it", () => {
  const [W, H] = [144, 96] as const;
  const scene = (air: PartialDocument["air"]): PartialDocument => ({
    sun: { azimuth: -60, elevation: 25, illuminance: 90000, diskVisible: false },
    sky: { on: true, model: "gradient", luminance: 1000 },
    materials: {
      // that shine by themselves, so that the air changes nothing about their light but what comes of it
      ground: { baseColor: [0, 0, 0], specular: 0, emission: [320, 280, 200] },
      stone: { baseColor: [0, 0, 0], specular: 0, emission: [100, 120, 160] },
      lime: { baseColor: [0, 0, 0], specular: 0, emission: [2800, 2700, 2500] },
    },
    objects: [
      { kind: "rectangle", name: "ground", material: "ground", size: [600, 600] },
      { kind: "box", name: "block", material: "stone", position: [-2.2, 1.5, -12], rotation: [0, 25, 0], size: [3, 3, 3] },
      { kind: "cylinder", name: "post", material: "lime", position: [2, 1.5, -7], radius: 0.3, height: 3 },
      { kind: "sphere", name: "ball", material: "lime", position: [7, 2, -25], radius: 2 },
    ],
    camera: { position: [0, 1.7, 0], target: [0, 1.5, -10], fieldOfView: 40 },
    render: { level: "veil", surfaceBounces: 0 },
    film: { size: [W, H], exposure: 13 },
    ...(air ? { air } : {}),
  });
  const MIST: PartialDocument["air"] = [{ density: 0.03, scattering: [1, 1, 1], absorption: [0, 0, 0], anisotropy: 0.6, height: { level: 0, scale: 4 } }];

  /** The plate that a scene is without air, with the distances that a file would have. */
  async function plateOf(mend: boolean): Promise<{ doc: SceneDocument; pictures: PlatePictures }> {
    const clear = await render(scene([]), 64, ALL);
    const [light, far] = [passValues(clear, "clear"), passValues(clear, "distance")];
    const doc = plateDocument([W, H], { fieldOfView: 40, position: [0, 1.7, 0], tilt: (-180 / Math.PI) * Math.atan2(0.2, 10), edges: mend, across: W }, {});
    const { sun, sky, render: r, film } = parseDocument({ fumarium: 2, ...scene([]) });
    return {
      doc: { ...doc, sun, sky, render: r, film },
      pictures: { width: W, height: H, bands: [0, 1, 2].map((k) => Float32Array.from(far, (_, i) => light[3 * i + k]!)), depth: far, normals: null, mattes: [], layers: { picture: [""], depth: [""] } },
    };
  }
  const inAir = (doc: SceneDocument, air: PartialDocument["air"], level: "veil" | "shafts"): SceneDocument => ({
    ...doc,
    air: parseDocument({ fumarium: 2, air: air! }).air,
    render: { ...doc.render, level },
  });
  const shares = (a: Float32Array, b: Float32Array): number[] => Array.from(a, (v, i) => Math.abs(v - b[i]!) / Math.max(1e-6, Math.abs(b[i]!))).sort((p, q) => p - q);

  const SAMPLES = 32;
  const within = (all: number[], limit: number): number => all.filter((v) => v <= limit).length / all.length;
  const seen = async (doc: SceneDocument, pictures: PlatePictures, air: PartialDocument["air"], level: "veil" | "shafts"): Promise<Film> =>
    shoot(inAir(doc, air, level), pictures, SAMPLES, PASS_AIR | PASS_SURFACES);

  it("has the same transmittance to 0.1 % but at edges, and the same veil to 1 %", async () => {
    const truth = await render(scene(MIST), SAMPLES, PASS_AIR | PASS_SURFACES);
    const { doc, pictures } = await plateOf(true);
    const plate = await seen(doc, pictures, MIST, "veil");
    expect(within(shares(passValues(plate, "transmittance"), passValues(truth, "transmittance")), 1e-3)).toBeGreaterThan(0.93);
    expect(within(shares(passValues(plate, "air"), passValues(truth, "air")), 0.01)).toBeGreaterThan(0.98);
    // light of two things in a pixel comes through as much air as each lies behind
    const parted = shares(passValues(plate, "surfaces"), passValues(truth, "surfaces"));
    const raw = await plateOf(false);
    const whole = shares(passValues(await seen(raw.doc, raw.pictures, MIST, "veil"), "surfaces"), passValues(truth, "surfaces"));
    expect(within(parted, 0.05)).toBeGreaterThan(0.98);
    expect(1 - within(parted, 0.1)).toBeLessThan(0.7 * (1 - within(whole, 0.1)));
  }, 120_000);

  it("has shafts of the same mean", async () => {
    const { doc, pictures } = await plateOf(true);
    const a = bandMean(await seen(doc, pictures, MIST, "shafts"), "air", 1);
    const b = bandMean(await render({ ...scene(MIST), render: { level: "shafts", surfaceBounces: 0 } }, SAMPLES, PASS_AIR | PASS_SURFACES), "air", 1);
    // errors are those from pixel to pixel, which the picture's own differences lead
    expect(Math.abs(a.mean - b.mean)).toBeLessThan(3 * Math.hypot(a.error, b.error));
  }, 120_000);
}); // prettier-ignore

it("is cleaned of what broken air leaves grainy, and is the picture where no air is", async () => {
  const size = [96, 64] as const;
  const next = noise(9);
  const pictures = picturesOf(size, (x, y) => [40 + 30 * Math.sin(x / 3), 60 + 50 * next(), 30 + (x > 40 ? 60 : 0) + y], (x, y) => 20 + 0.1 * x + (y > 40 ? 15 : 0)); // prettier-ignore
  const broken = [{ density: 0.03, noise: { size: 6 } }];
  const film = async (air: PartialDocument["air"], samples: number): Promise<Film> => {
    const doc = plateDocument(size, {}, { ...dark, ...(air ? { air } : {}) });
    return shoot(doc, pictures, samples, PASS_AIR | PASS_SURFACES);
  };
  const pool = new CleanPool(nodeCleanHost(fileURLToPath(new URL("../../build", import.meta.url)), 1));
  const cleaned = async (of: Film): Promise<Float32Array> => {
    const { surfaces } = await pool.finish(of, { sides: ["surfaces"], strengths: { fireflies: 1, air: 1, surfaces: 1 } });
    return surfaces!;
  };
  try {
    const grainy = await film(broken, 8);
    expect(grainy.plate).toBe(true);
    const truth = passValues(await film(broken, 1024), "surfaces");
    const [raw, clean] = [passValues(grainy, "surfaces"), await cleaned(grainy)];
    let [before, after] = [0, 0];
    for (let i = 0; i < size[0] * size[1]; i++) {
      before += (raw[3 * i + 1]! / truth[3 * i + 1]! - 1) ** 2;
      after += (clean[4 * i + 1]! / truth[3 * i + 1]! - 1) ** 2;
    }
    expect(Math.sqrt(after / before)).toBeLessThan(0.5);
    const still = await cleaned(await film([], 8));
    pictures.bands.forEach((band, k) => band.forEach((v, i) => expect(still[4 * i + k]! / v).toBeCloseTo(1, 5)));
  } finally {
    pool.dispose();
  }
}, 60_000);
