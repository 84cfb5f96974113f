/** Light groups and mattes: parts kept apart on the film. */
import { describe, expect, it } from "vitest";
import { lightBalance } from "#core/film/light-balance";
import { lightValues, matteValues, passValues, type Film } from "#core/film/film";
import { filmChannels } from "#core/formats/picture";
import { render, type PartialDocument } from "../support/kernel";

const scene = (level: "veil" | "shafts" | "full"): PartialDocument => ({
  sun: { azimuth: 40, elevation: 35, illuminance: 2000 },
  moon: { on: true, azimuth: 200, elevation: 50, illuminance: 300 },
  sky: { luminance: 300, stars: { count: 100_000 } },
  materials: {
    wall: { baseColor: [0.6, 0.5, 0.4] },
    lamp: { baseColor: [0, 0, 0], emission: [400, 300, 200] },
    pane: { baseColor: [0.9, 0.5, 0.2], transmission: 0.9 },
  },
  objects: [
    { kind: "rectangle", name: "ground", material: "wall", size: [40, 40] },
    { kind: "sphere", name: "glow", material: "lamp", position: [1, 1, -4], radius: 0.4 },
    { kind: "rectangle", material: "pane", position: [-1, 1, -2], size: [1, 1], rotation: [90, 0, 0] },
  ],
  lights: [
    { kind: "point", name: "left", position: [-2, 2, -4], intensity: 300 },
    { kind: "point", name: "right", position: [2, 2, -4], intensity: 300, group: "pair" },
    { kind: "spot", name: "back", position: [2, 3, -8], target: [0, 0, -4], intensity: 900, group: "pair" },
    { kind: "point", name: "off", on: false, position: [0, 1, 0], intensity: 1e6 },
  ],
  air: [
    { density: 0.08, height: { level: 1, scale: 3 } },
    {
      name: "ember",
      density: 0.5,
      region: { kind: "sphere", centre: [0, 1, -5], radius: 1 },
      noise: {},
      emission: { colour: [1, 0.5, 0.2], strength: 50 },
    },
  ],
  camera: { position: [0, 1.5, 3], target: [0, 1, -4], fieldOfView: 60 },
  render: { level, surfaceBounces: 2, airBounces: 4, airSamples: 3 },
  film: { size: [24, 16], lightGroups: true },
});

const mean = (v: Float32Array): number => v.reduce((a, b) => a + b, 0) / v.length;
const sumOf = (film: Film, side: "air" | "surfaces"): Float32Array => {
  const sum = new Float32Array(film.width * film.height * 3);
  for (const group of film.lights) lightValues(film, group, side).forEach((v, i) => (sum[i]! += v));
  return sum;
};

/** Judges two noisy pictures of the same thing: pixels are independent, so their spread tells the error of the mean. */
function expectEqual(a: Float32Array, b: Float32Array, what: string, precision = 0.05): void {
  const d = Array.from(a, (v, i) => v - b[i]!);
  const m = d.reduce((x, y) => x + y, 0) / d.length;
  const error = Math.sqrt(d.reduce((x, y) => x + (y - m) ** 2, 0) / d.length / (d.length / 3));
  expect(Math.abs(m), what).toBeLessThan(4 * error + 1e-12);
  expect(error).toBeLessThanOrEqual(precision * mean(b));
}

/** Roughness of a group's air from pixel to pixel: the picture itself is smooth. */
function spread(film: Film, group: string): number {
  const v = lightValues(film, group, "air");
  let sum = 0;
  for (let i = 3; i < v.length; i++) sum += Math.abs(v[i]! - v[i - 3]!);
  return sum / v.length / mean(v);
}

describe("light groups", () => {
  it.each(["veil", "shafts", "full"] as const)("add up to the air and to the surfaces in every pixel, level %s", async (level) => {
    const film = await render(scene(level), 24);
    expect(film.lights).toEqual(["sky", "sun", "moon", "air emission", "emissive surfaces", "left", "pair"]);
    for (const side of ["air", "surfaces"] as const) {
      const whole = passValues(film, side);
      const sum = sumOf(film, side);
      for (let i = 0; i < whole.length; i++) expect(Math.abs(sum[i]! - whole[i]!)).toBeLessThanOrEqual(1e-5 * (1 + whole[i]!));
    }
    for (const group of film.lights)
      expect(mean(lightValues(film, group, "air")), group).toBeGreaterThan(level === "veil" && group === "emissive surfaces" ? -1 : 0);
  });

  it("keeping them changes nothing else", async () => {
    const kept = await render(scene("full"), 4);
    const not = await render({ ...scene("full"), film: { size: [24, 16] } }, 4);
    expect(passValues(kept, "beauty")).toEqual(passValues(not, "beauty"));
    expect(kept.stride).toBeGreaterThan(not.stride);
  });

  it("a group is what its lights give alone", async () => {
    const all = await render(scene("full"), 400);
    const s = scene("full");
    const serializeWrites = await render(
      {
        ...s,
        sun: { on: false },
        moon: { on: false },
        sky: { on: false },
        lights: s.lights!.filter((l) => l.group === "pair"),
        materials: { ...s.materials, lamp: { baseColor: [0, 0, 0] } },
        air: s.air!.map((m) => ({ ...m, emission: null })),
      },
      400,
    );
    for (const side of ["air", "surfaces"] as const) {
      const a = lightValues(all, "pair", side),
        b = passValues(serializeWrites, side);
      expectEqual(a, b, side);
    }
  });

  it("say what each gives and costs, in shares", async () => {
    const film = await render(scene("shafts"), 64);
    const balance = lightBalance(film);
    for (const key of ["air", "surfaces", "light", "rays"] as const) expect(balance.reduce((a, b) => a + b[key], 0)).toBeCloseTo(1, 5);
    const bands = (v: Float32Array, i: number): number => 0.2126 * v[i]! + 0.7152 * v[i + 1]! + 0.0722 * v[i + 2]!;
    const sum = (v: Float32Array): number => Array.from({ length: v.length / 3 }, (_, i) => bands(v, 3 * i)).reduce((a, b) => a + b, 0);
    const sun = balance.find((b) => b.name === "sun")!;
    expect(sun.air).toBeCloseTo(sum(lightValues(film, "sun", "air")) / sum(passValues(film, "air")), 4);
    expect(sun.surfaces).toBeCloseTo(sum(lightValues(film, "sun", "surfaces")) / sum(passValues(film, "surfaces")), 4);
    // a light that is asked by itself more often costs more
    const often = await render({ ...scene("shafts"), sun: { ...scene("shafts").sun, airSamples: 16 } }, 16);
    expect(lightBalance(often).find((b) => b.name === "sun")!.rays).toBeGreaterThan(1.5 * sun.rays);
  });

  it.each(["shafts", "full"] as const)("air samples of a light's own change its noise and nothing else, level %s", async (level) => {
    const s = scene(level);
    const own = {
      ...s,
      sun: { ...s.sun, airSamples: 2 },
      moon: { ...s.moon, airSamples: 1 },
      lights: s.lights!.map((l) => (l.name === "back" ? l : { ...l, airSamples: 16 })),
    };
    const [a, b] = [await render(own, 160), await render(s, 160)];
    for (const group of a.lights) expectEqual(lightValues(a, group, "air"), lightValues(b, group, "air"), group, 0.15);
    expectEqual(passValues(a, "surfaces"), passValues(b, "surfaces"), "surfaces");
    // its air is shown by single scattering alone: sixteen samples against a share of three, of which lamps beside a sun get a good part
    // most of what is left is the pixel's own: the lamp is near its rays, and none goes through the same place twice
    if (level === "shafts") expect(spread(a, "left")).toBeLessThan(0.96 * spread(b, "left"));
  });

  it("says so where too many lights ask for samples of their own", async () => {
    const lights = Array.from({ length: 40 }, () => ({
      kind: "point" as const,
      position: [0, 2, 0] as [number, number, number],
      airSamples: 1,
    }));
    await expect(render({ ...scene("shafts"), lights }, 1)).rejects.toThrow(
      "lights: 40 lights have air samples of their own, at most 32 may",
    );
  });

  it("past the limit the rest share one group, and an outlier limit holds the parts to the sum", async () => {
    const film = await render(
      {
        ...scene("shafts"),
        lights: Array.from({ length: 80 }, (_, i) => ({
          kind: "point" as const,
          name: `lamp ${i}`,
          position: [i / 8 - 5, 2, -5] as [number, number, number],
          intensity: 50,
        })),
        render: { level: "shafts", fireflyClamp: 0.001 },
      },
      8,
    );
    expect(film.lights).toHaveLength(64);
    expect(film.lights[63]).toBe("other lights");
    const whole = passValues(film, "air");
    sumOf(film, "air").forEach((v, i) => expect(Math.abs(v - whole[i]!)).toBeLessThanOrEqual(1e-5 * (1 + whole[i]!)));
  });
});

describe("mattes", () => {
  it("cover what objects and materials cover, add up to all that is hit, and travel in the file", async () => {
    const film = await render(
      {
        sky: { on: false },
        materials: { a: {}, b: {} },
        objects: [
          { kind: "rectangle", name: "wall.left", material: "a", position: [-1, 0, -5], size: [2, 20], rotation: [90, 0, 0] },
          { kind: "rectangle", name: "right", material: "b", position: [1.35, 0, -5], size: [2.7, 20], rotation: [90, 0, 0] },
        ],
        // a frame 8 m wide about x = 0 in 8 pixels: the left wall fills two of them, the right one two and seven tenths
        camera: { kind: "orthographic", position: [0, 0, 0], target: [0, 0, -1], height: 2 },
        film: { size: [8, 2], mattes: true, lightGroups: true },
      },
      1024,
    );
    expect(film.mattes).toEqual({ object: ["wall.left", "right"], material: ["a", "b"], medium: [] });
    const left = matteValues(film, "object").get(film.mattes!.object[0]!)!,
      right = matteValues(film, "material").get(film.mattes!.material[1]!)!;
    expect([...left.subarray(0, 8)]).toEqual([0, 0, 1, 1, 0, 0, 0, 0]);
    expect([...right.subarray(0, 6)]).toEqual([0, 0, 0, 0, 1, 1]);
    expect(right[6]).toBeCloseTo(0.7, 2);
    const names = filmChannels(film, ["beauty"], "float").map((c) => c.name);
    expect(names).toContain("object.wall_left.V");
    expect(names).toContain("material.b.V");
    expect(names).toContain("surfaces.sun.G");
  });

  /** Light that is kept from the lens before a wall ten metres away, by a haze everywhere and a cloud from 4 to 7 m. */
  const layered = (haze: object, cloud: object, rest: PartialDocument = {}): PartialDocument => ({
    sky: { on: false },
    materials: { a: {} },
    objects: [{ kind: "rectangle", material: "a", position: [0, 0, -10], size: [20, 20], rotation: [90, 0, 0] }],
    air: [
      { name: "off", on: false },
      { name: "haze", ...haze },
      { name: "cloud", region: { kind: "box", centre: [0, 0, -5.5], size: [30, 30, 3] }, ...cloud },
    ],
    camera: { kind: "orthographic", position: [0, 0, 0], target: [0, 0, -1], height: 2 },
    film: { size: [16, 8], mattes: true },
    ...rest,
  });
  const statistics = (v: ArrayLike<number>): { mean: number; error: number } => {
    const values = Array.from(v);
    const m = values.reduce((a, b) => a + b, 0) / values.length;
    return { mean: m, error: Math.sqrt(values.reduce((a, b) => a + (b - m) ** 2, 0) / (values.length - 1) / values.length) };
  };

  it("tell what each medium keeps of the light: the integral of its extinction by what has come so far", async () => {
    const [h, c] = [0.1, 0.35];
    const film = await render(layered({ density: h }, { density: c }), 256);
    expect(film.mattes!.medium).toEqual(["haze", "cloud"]);
    const [haze, cloud] = film.mattes!.medium.map((name) => statistics(matteValues(film, "medium").get(name)!)) as [
      ReturnType<typeof statistics>,
      ReturnType<typeof statistics>,
    ];
    // closed forms: before the cloud, in it, and behind it
    const inside = Math.exp(-4 * h) * (1 - Math.exp(-3 * (h + c)));
    const truth = {
      haze: 1 - Math.exp(-4 * h) + (inside * h) / (h + c) + Math.exp(-7 * h - 3 * c) * (1 - Math.exp(-3 * h)),
      cloud: (inside * c) / (h + c),
    };
    expect(truth.haze + truth.cloud).toBeCloseTo(1 - Math.exp(-10 * h - 3 * c), 12);
    for (const [found, wanted] of [
      [haze, truth.haze],
      [cloud, truth.cloud],
    ] as const) {
      // prettier-ignore
      expect(found.error).toBeLessThan(0.003);
      expect(Math.abs(found.mean - wanted)).toBeLessThan(4 * found.error);
    }
    expect(filmChannels(film, ["beauty"], "float").map((x) => x.name)).toContain("medium.cloud.V");
  });

  it("of one medium alone are the opacity of the air, in every pixel", async () => {
    const film = await render(layered({ density: 0.2, height: { level: 0, scale: 2 } }, { on: false }), 16);
    const opacity = passValues(film, "opacity");
    matteValues(film, "medium")
      .get("haze")!
      .forEach((v, i) => expect(v).toBeCloseTo(opacity[i]!, 5));
  });

  it.each([
    ["broken, coloured and thick", { density: 0.1, absorption: [0.2, 0.5, 1] }, { density: 3, noise: { size: 0.5 } }, {}],
    ["with soft edges and a start", { density: 0.3, start: { distance: 2, fade: 3 } }, { density: 1, edge: 1 }, {}],
    ["analytic", { density: 0.1 }, { density: 1 }, { render: { level: "veil" } }],
    ["towards the sky", { density: 0.02, height: { level: 0, scale: 4 } }, { density: 0.5, noise: {} }, { objects: [] }],
  ] as const)("of media add up to the opacity: %s", async (_, haze, cloud, rest) => {
    const film = await render(layered(haze, cloud, rest as PartialDocument), 1024);
    const sum = new Float64Array(film.width * film.height);
    for (const values of matteValues(film, "medium").values()) values.forEach((v, i) => (sum[i]! += v));
    const opacity = passValues(film, "opacity");
    const { mean: off, error } = statistics(sum.map((v, i) => v - opacity[i]!));
    expect(statistics(opacity).mean).toBeGreaterThan(0.1);
    expect(error).toBeLessThan(0.005);
    expect(Math.abs(off)).toBeLessThan(4 * error + 1e-6);
  });

  it("are kept without any change to the picture", async () => {
    const scene = layered({ density: 0.1 }, { density: 3, noise: { size: 0.5 } }, { render: { level: "full" }, lights: [{ kind: "point", position: [0, 1, -3], intensity: 500 }] }); // prettier-ignore
    const [kept, not] = await Promise.all([render(scene, 8), render({ ...scene, film: { size: [16, 8] } }, 8)]);
    expect(statistics(passValues(kept, "air")).mean).toBeGreaterThan(0);
    for (const pass of ["air", "surfaces"] as const) expect(passValues(kept, pass)).toEqual(passValues(not, pass));
  });
});

describe("the place that is seen", () => {
  it.each([0, 250_000])("is the lens and the distance along the ray, %s m from the document's middle", async (far) => {
    const film = await render(
      {
        sky: { on: false },
        materials: { a: {} },
        objects: [
          { kind: "rectangle", material: "a", position: [far, 0, -far], size: [60, 60] },
          { kind: "sphere", material: "a", position: [far + 1, 1, -far - 6], radius: 1 },
        ],
        camera: { position: [far, 2, -far], target: [far + 1, 1, -far - 6], fieldOfView: 50 },
        film: { size: [16, 8] },
      },
      1,
    );
    const [place, distance, height] = (["position", "distance", "height"] as const).map((pass) => passValues(film, pass));
    let hits = 0;
    for (let i = 0; i < distance!.length; i++) {
      if (distance![i] === Infinity) continue;
      hits++;
      const [x, y, z] = place!.subarray(3 * i, 3 * i + 3) as unknown as [number, number, number];
      // single precision keeps hundredths of a metre so far out
      expect(Math.hypot(x - far, y - 2, z + far) / distance![i]!).toBeCloseTo(1, far ? 1 : 5);
      expect(y).toBe(height![i]);
    }
    expect(hits).toBeGreaterThan(60);
  });
});
