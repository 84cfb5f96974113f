/** Cells that know which lights reach them: they say where to look, never what is there. */
import { describe, expect, it } from "vitest";
import { F_AIR, F_COUNT, F_LUMINANCE2, F_SURFACES, PASS_AIR, PASS_SURFACES } from "#core/layout/layout";
import { bandMean, load, pencil, render, simpson, type PartialDocument } from "../support/kernel";
import { holds } from "../support/record";

const ALBEDO = 0.5;
/** The window in the wall x = 4, m. */
const WINDOW = { y: [1, 2.5], z: [-1, 1] } as const;
const [Y0, Y1] = WINDOW.y;
const [Z0, Z1] = WINDOW.z;

const upright = (y0: number, y1: number, z0: number, z1: number, x: number): NonNullable<PartialDocument["objects"]>[number] => ({
  kind: "rectangle",
  material: "black",
  position: [x, (y0 + y1) / 2, (z0 + z1) / 2],
  size: [y1 - y0, z1 - z0],
  rotation: [0, 0, 90],
});

/** A black room of 8 × 4 × 6 m over a grey floor, with a window to an even sky of 1000 cd/m². */
const room: PartialDocument = {
  sun: { on: false },
  sky: { model: "gradient", luminance: 1000, zenith: [1, 1, 1], horizon: [1, 1, 1] },
  materials: { black: { baseColor: [0, 0, 0], specular: 0 }, grey: { baseColor: [ALBEDO, ALBEDO, ALBEDO], specular: 0 } },
  objects: [
    { kind: "rectangle", material: "grey", position: [0, 0, 0], size: [8, 6] },
    { kind: "rectangle", material: "black", position: [0, 4, 0], size: [8, 6] },
    upright(0, 4, -3, 3, -4),
    ...[-3, 3].map((z) => ({ kind: "rectangle" as const, material: "black", position: [0, 2, z] as [number, number, number], size: [8, 4] as [number, number], rotation: [90, 0, 0] as [number, number, number] })),
    upright(0, Y0, -3, 3, 4),
    upright(Y1, 4, -3, 3, 4),
    upright(Y0, Y1, -3, Z0, 4),
    upright(Y0, Y1, Z1, 3, 4),
  ],
  film: { size: [8, 8] },
}; // prettier-ignore

/** ∫∫ f over the window. */
const overWindow = (f: (y: number, z: number) => number): number => simpson((y) => simpson((z) => f(y, z), Z0, Z1, 40), Y0, Y1, 40);
/** Illuminance of the floor at the room's middle, by the formula of two patches that face each other across an angle. */
const floor = 1000 * overWindow((y, z) => (4 * y) / (16 + y * y + z * z) ** 2);

describe("a window to the sky", () => {
  it.each([0, 1])("lights the floor as it should, %i bounces", async (surfaceBounces) => {
    const film = await render({ ...room, camera: pencil([0, 3, 0], [0, -1, 0]), render: { surfaceBounces } }, 256, PASS_SURFACES);
    const { mean, error } = bandMean(film, "surfaces", 1);
    holds({
      case: `window to the sky, ${surfaceBounces} bounces`,
      quantity: "luminance of the floor, cd/m²",
      expected: (ALBEDO / Math.PI) * floor,
      source: "quadrature over the window",
      measured: mean,
      error,
    });
  });

  it("is found: directions drawn by the floor alone would err far more", async () => {
    const { doc, kernel, memory, filmAt, plan } = await load({
      ...room,
      camera: pencil([0, 3, 0], [0, -1, 0]),
      render: { surfaceBounces: 0 },
    });
    const [w, h] = doc.film.size;
    kernel.renderTile(0, 0, w, h, 0, 0, 1, 0, 0, 256, PASS_SURFACES);
    const film = new Float32Array(memory.buffer, filmAt, w * h * plan.stride);
    let mean = 0,
      square = 0;
    for (let p = 0; p < film.length; p += plan.stride) {
      mean += film[p + F_SURFACES + 1]! / film[p + F_COUNT]! / (w * h);
      square += film[p + F_LUMINANCE2]! / film[p + F_COUNT]! / (w * h);
    }
    // a direction by the cosine meets the window with chance E / πL, else nothing
    const chance = floor / (1000 * Math.PI);
    expect((square / mean ** 2 - 1) / ((1 - chance) / chance)).toBeLessThan(0.35);
  });

  it("lights the air as it should", async () => {
    const density = 0.05;
    const air: PartialDocument["air"] = [{ density, scattering: [1, 1, 1], absorption: [0, 0, 0], anisotropy: 0, region: { kind: "box", centre: [0, 2, 0], size: [8, 4, 6] } }]; // prettier-ignore
    // from the back of the room along x = -1, at the height of 2 m
    const film = await render({ ...room, air, camera: pencil([-1, 2, 2.9], [0, 0, -1]), render: { level: "shafts", airSamples: 4 } }, 256, PASS_AIR); // prettier-ignore
    const { mean, error } = bandMean(film, "air", 1);
    const sigma = density;
    const expected = simpson(
      (t) =>
        (sigma * Math.exp(-sigma * t) * 1000 * overWindow((y, z) => {
            const [a, b, c] = [5, y - 2, z - (2.9 - t)];
            const d = Math.hypot(a, b, c);
            return (Math.exp(-sigma * d) * a) / d ** 3;
          })) / (4 * Math.PI),
      0,
      5.9,
      60,
    ); // prettier-ignore
    holds({ case: "window to the sky, air", quantity: "luminance of the air, cd/m²", expected, source: "quadrature over ray and window", measured: mean, error }); // prettier-ignore
  });
});

describe("many lamps behind a partition", () => {
  // thirty of them, spread by the golden ratio; the partition hides those beyond z = -1
  const lamps = Array.from({ length: 30 }, (_, i) => {
    const at: [number, number, number] = [4 * ((i * 0.618034) % 1) - 2, 1 + 2 * ((i * 0.754878) % 1), 6 * ((i * 0.569841) % 1) - 4];
    return { kind: "point" as const, name: `lamp ${i}`, position: at, intensity: 20 + 5 * i };
  });
  const scene: PartialDocument = {
    sun: { on: false },
    sky: { on: false },
    materials: room.materials!,
    objects: [
      { kind: "rectangle", material: "grey", position: [0, 0, 0], size: [12, 12] },
      { kind: "rectangle", material: "black", position: [0, 2, -1], size: [12, 4], rotation: [90, 0, 0] },
    ],
    lights: lamps,
    film: { size: [8, 8] },
    render: { surfaceBounces: 0 },
  };
  const lit = lamps
    .filter((l) => l.position[2] > -1)
    .reduce((sum, l) => sum + (l.intensity * l.position[1]) / Math.hypot(...l.position) ** 3, 0);

  it("light what they reach as they should", async () => {
    const film = await render({ ...scene, camera: pencil([0, 3, 0], [0, -1, 0]) }, 512, PASS_SURFACES);
    // lamps are warm: their luminance is what is known
    const bands = [0.2126, 0.7152, 0.0722].map((k, band) => ({ k, ...bandMean(film, "surfaces", band) }));
    const [mean, error] = [bands.reduce((s, b) => s + b.k * b.mean, 0), bands.reduce((s, b) => s + b.k * b.error, 0)];
    holds({
      case: "lamps behind a partition",
      quantity: "luminance of the floor, cd/m²",
      expected: (ALBEDO / Math.PI) * lit,
      source: "sum over the lamps before it",
      measured: mean,
      error,
    });
  });

  it("and the picture is the same whatever is looked at first", async () => {
    const wide: PartialDocument = { ...scene, sky: { on: true }, sun: { on: true, elevation: 40 }, camera: { position: [0, 3, 5], target: [0, 0, -1] }, film: { size: [24, 16] }, air: [{ density: 0.02 }], render: { surfaceBounces: 2, level: "full" } }; // prettier-ignore
    const films = [];
    for (const order of [
      [0, 1, 2, 3, 4, 5],
      [5, 2, 4, 0, 3, 1],
    ]) {
      const { kernel, memory, filmAt, plan } = await load(wide);
      for (const i of order) {
        const [x, y] = [8 * (i % 3), 8 * (i < 3 ? 0 : 1)];
        kernel.renderTile(x, y, x + 8, y + 8, 0, 0, 1, 0, 0, 4, PASS_AIR | PASS_SURFACES);
      }
      films.push(new Float32Array(memory.buffer.slice(filmAt, filmAt + 4 * 24 * 16 * plan.stride)));
    }
    expect(films[0]!.some((v) => v > 0)).toBe(true);
    expect(films[0]![F_AIR]).toBeGreaterThan(0);
    expect(films[1]).toEqual(films[0]);
  });
});
