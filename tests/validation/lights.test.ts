import { describe, expect, it } from "vitest";
import { photometryGrid, photometryLumens, readIes, tiltFileOf, withTilt } from "#core/formats/ies";
import { passValues } from "#core/film/film";
import { luminance } from "#core/optics/colour";
import { clearSky, clearZenithLuminance } from "#core/optics/sky";
import { sunDirection } from "#core/math/vectors";
import { beamExponent, LUMEN_PER_WATT } from "#core/scene/lights";
import { skyDistribution } from "#core/scene/sky";
import { bandMean, load, pencil, pixelErrors, render, simpson, type Loaded, type PartialDocument } from "../support/kernel";

type V3 = [number, number, number];
const dark = { sun: { on: false }, sky: { on: false } };
const base = { unit: "cd/m2" as const, temperature: 6500 };

/** Irradiance on a plane facing each drawn direction, times a weight, averaged over a regular grid of (u, v). */
function average(l: Loaded, light: number, at: V3, weight: (d: V3) => number, n = 64): number {
  let sum = 0;
  for (let i = 0; i < n; i++)
    for (let j = 0; j < n; j++) {
      const [u, v] = [(i + 0.5) / n, (j + 0.5) / n];
      const e = [0, 1, 2].reduce((a, k) => a + [0.2126, 0.7152, 0.0722][k]! * l.kernel.lightAt(light, ...at, u, v, k), 0);
      const d = [3, 4, 5].map((k) => l.kernel.lightAt(light, ...at, u, v, k)) as V3;
      sum += e * weight(d);
    }
  return sum / (n * n);
}
/** On a floor that faces up. */
const floor = (d: V3): number => Math.max(0, d[1]);

describe("lights with an area", () => {
  it("a disk above a floor gives π L r² / (r² + h²) below its centre", async () => {
    const l = await load({
      ...dark,
      lights: [{ kind: "disk", ...base, position: [0, 3, 0], target: [0, 0, 0], radius: 1, intensity: 500 }],
    });
    expect(average(l, 0, [0, 0, 0], floor) / ((Math.PI * 500) / 10)).toBeCloseTo(1, 3);
  });
  it("a sphere gives π L (r / d)² to what faces it, near and far", async () => {
    const l = await load({ ...dark, lights: [{ kind: "sphere", ...base, position: [0, 3, 0], radius: 1, intensity: 500 }] });
    for (const y of [0, 1.9, -50]) {
      const d = 3 - y;
      expect(average(l, 0, [0, y, 0], floor) / ((Math.PI * 500) / (d * d))).toBeCloseTo(1, 3);
    }
    expect(average(l, 0, [0, 2.5, 0], () => 1)).toBe(0);
  });
  it("a rectangle gives what quadrature over it gives, on both sides where asked", async () => {
    const light = {
      kind: "rectangle" as const,
      ...base,
      position: [0, 2, 0] as V3,
      target: [0.5, 0, 0.2] as V3,
      size: [2, 0.6] as [number, number],
      intensity: 300,
    };
    const l = await load({ ...dark, lights: [light, { ...light, bothSides: true }] });
    const axis = [0.5, -2, 0.2].map((x) => x / Math.hypot(0.5, 2, 0.2)) as V3;
    // the first side is level, the second across both
    const u = [-axis[2], 0, axis[0]].map((x) => x / Math.hypot(axis[0], axis[2])) as V3;
    const v = [u[1] * axis[2] - u[2] * axis[1], u[2] * axis[0] - u[0] * axis[2], u[0] * axis[1] - u[1] * axis[0]] as V3;
    const at: V3 = [1, 0, 0.5];
    let want = 0;
    const n = 200;
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        const [s, t] = [(2 * (i + 0.5)) / n - 1, 0.3 * ((2 * (j + 0.5)) / n - 1)];
        const d = [0, 1, 2].map((k) => [0, 2, 0][k]! + s * u[k]! + t * v[k]! - at[k]!) as V3;
        const r = Math.hypot(...d);
        const cos = -(d[0] * axis[0] + d[1] * axis[1] + d[2] * axis[2]) / r;
        want += (((300 * Math.max(0, cos) * Math.max(0, d[1] / r)) / (r * r)) * 1.2) / (n * n);
      }
    expect(average(l, 0, at, floor) / want).toBeCloseTo(1, 3);
    expect(average(l, 0, [0, 5, 0], () => 1)).toBe(0);
    expect(average(l, 1, [0, 5, 0], () => 1)).toBeGreaterThan(1);
  });
  it("a tube gives what quadrature over its side gives", async () => {
    const l = await load({
      ...dark,
      lights: [{ kind: "tube", ...base, position: [0, 1, 0], direction: [1, 0, 0], length: 2, radius: 0.05, intensity: 1000 }],
    });
    const want = simpson(
      (x) =>
        simpson(
          (a) => {
            const n = [0, Math.cos(a), Math.sin(a)];
            const d = [x - 0.3, 1 + 0.05 * n[1]!, 0.05 * n[2]! - 0.4];
            const r = Math.hypot(...d);
            const cos = -(n[1]! * d[1]! + n[2]! * d[2]!) / r;
            return (1000 * 0.05 * Math.max(0, cos) * Math.max(0, d[1]! / r)) / (r * r);
          },
          0,
          2 * Math.PI,
          200,
        ),
      -1,
      1,
      200,
    );
    expect(average(l, 0, [0.3, 0, 0.4], floor, 128) / want).toBeCloseTo(1, 2);
  });
});

describe("strength by unit", () => {
  /** Flux through a far sphere, by directions of equal solid angle. */
  function flux(l: Loaded, light: number, centre: V3): number {
    const n = 20000,
      far = 1000;
    let sum = 0;
    for (let i = 0; i < n; i++) {
      const z = 1 - (2 * i + 1) / n,
        phi = i * 2.399963229728653;
      const s = Math.sqrt(1 - z * z);
      const at = [s * Math.cos(phi), z, s * Math.sin(phi)].map((c, k) => centre[k]! + far * c) as V3;
      sum += average(l, light, at, () => 1, 3) * far * far * ((4 * Math.PI) / n);
    }
    return sum;
  }
  const at = { position: [0, 0, 0] as V3, temperature: 6500 };
  const kinds: [string, object][] = [
    ["point", { kind: "point" }],
    ["spot", { kind: "spot", target: [1, 0, 0], cone: 70, softness: 0.6 }],
    ["rectangle", { kind: "rectangle", target: [0, 1, 0.2], size: [0.3, 0.2] }],
    ["rectangle, beam", { kind: "rectangle", target: [0, 1, 0.2], size: [0.3, 0.2], spread: 0.3, bothSides: true }],
    ["disk", { kind: "disk", target: [0, 0, 1], radius: 0.2, spread: 0.5 }],
    ["sphere", { kind: "sphere", radius: 0.3 }],
    ["tube", { kind: "tube", direction: [0, 1, 1], length: 1, radius: 0.1 }],
  ];
  it.each(kinds)("1000 lm of a %s come out as 1000 lm", async (name, light) => {
    const l = await load({ ...dark, lights: [{ ...at, intensity: 1000, unit: "lm", ...light } as never] });
    // a tube's ends are left open
    expect(Math.abs(flux(l, 0, [0, 0, 0]) / 1000 - 1)).toBeLessThan(name === "tube" ? 0.02 : 0.01);
  });
  it("candela, lux at a metre, stops and watts mean what they say", async () => {
    const lights = [
      { kind: "point", unit: "cd", intensity: 50 },
      { kind: "point", unit: "lux", intensity: 50, stops: 2 },
      { kind: "point", unit: "W", intensity: 1 },
      { kind: "disk", unit: "cd", intensity: 50, radius: 0.1, target: [10, 0, 0] },
    ].map((l) => ({ ...at, ...l }) as never);
    const l = await load({ ...dark, lights });
    const e = (i: number): number => average(l, i, [10, 0, 0], () => 1, 8);
    expect(e(0)).toBeCloseTo(0.5, 6);
    expect(e(1)).toBeCloseTo(2, 6);
    expect(e(2)).toBeCloseTo(LUMEN_PER_WATT / (4 * Math.PI) / 100, 6);
    expect(e(3)).toBeCloseTo(0.5, 3);
    expect(LUMEN_PER_WATT).toBeCloseTo(243.3, 1);
    expect(beamExponent(1)).toBe(0);
  });
  it("fades from near to far are nought, part and whole where they say", async () => {
    const fade = { nearFrom: 1, nearTo: 2, farFrom: 10, farTo: 20 };
    const l = await load({ ...dark, lights: [{ kind: "point", ...at, intensity: 100, fade }] });
    const k = (d: number): number => (average(l, 0, [d, 0, 0], () => 1, 1) * d * d) / 100;
    expect([k(0.5), k(1.5), k(5), k(15), k(25)].map((x) => Number(x.toFixed(6)))).toEqual([0, 0.5, 1, 0.5, 0]);
  });
});

const ies = (rest: string): string => `IESNA:LM-63-2002\r\n[TEST] made up\r\n[MANUFAC] ours\r\nTILT=NONE\r\n${rest}`;

describe("photometric profiles", () => {
  it("an even lamp of 100 cd has 400 π lumen, and its light keeps the candela", async () => {
    const p = readIes(ies("1 1000 1 3 1 1 2 0 0 0 1 1 60\n0 90 180\n0\n100 100 100"));
    expect(p).toMatchObject({ type: "C", headerLumens: 1000, watts: 60, version: "IESNA:LM-63-2002" });
    expect(p.keywords).toContainEqual(["MANUFAC", "ours"]);
    expect(photometryLumens(p)).toBeCloseTo(400 * Math.PI, 3);
    const l = await load(
      {
        ...dark,
        assets: { lamp: { uri: "lamp.ies" } },
        lights: [{ kind: "profile", asset: "lamp", position: [0, 3, 0], target: [0, 0, 0], temperature: 6500 }],
      },
      { profiles: new Map([["lamp", photometryGrid(p)]]) },
    );
    expect(average(l, 0, [0, 0, 0], () => 1, 2)).toBeCloseTo(100 / 9, 4);
  });
  it("multipliers, ballast and TILT=INCLUDE count; quadrants and halves are mirrored", () => {
    const text = "IESNA:LM-63-1995\nTILT=INCLUDE\n1\n3\n0 45 90\n0.5 1 1\n1 -1 2 2 3 1 2 0 0 0 0.9 1 60\n0 90\n0 45 90\n10 1 20 2 30 3";
    const p = readIes(text);
    expect(p.headerLumens).toBe(-1);
    expect(p.candela[1]![0]).toBeCloseTo(20 * 2 * 0.9 * 0.5, 9);
    const grid = photometryGrid(p);
    const at = (v: number, h: number): number => grid[v * 360 + h]!;
    for (const h of [30, 150, 210, 330]) expect(at(0, h)).toBeCloseTo(at(0, 30), 6);
    expect(at(0, 90)).toBeCloseTo(27, 6);
    // nothing is said above the horizon
    expect(at(120, 0)).toBe(0);
    const half = photometryGrid(readIes(ies("1 -1 1 2 3 1 2 0 0 0 1 1 1\n0 180\n0 90 180\n1 1 2 2 3 3")));
    expect(half[90 * 360 + 270]).toBeCloseTo(2, 6);
    expect(half[90 * 360 + 181]).toBeCloseTo(3, 1);
    const sides = photometryGrid(readIes(ies("1 -1 1 2 3 1 2 0 0 0 1 1 1\n0 180\n90 180 270\n1 1 2 2 3 3")));
    expect(sides[90 * 360 + 0]).toBeCloseTo(2, 6);
    expect(sides[90 * 360 + 270]).toBeCloseTo(3, 6);
  });
  it("types A and B look forward: A's poles are above and below, B's to the sides (LM-75)", () => {
    const table = "3 3 {T} 2 0 0 0 1 1 1\n-90 0 90\n-90 0 90\n0 10 0\n0 100 0\n0 40 0";
    for (const [type, kind] of [
      ["3", "A"],
      ["2", "B"],
    ] as const) {
      const p = readIes(ies(`1 -1 1 ${table.replace("{T}", type)}`));
      expect(p.type).toBe(kind);
      const grid = photometryGrid(p);
      expect(grid[0]).toBeCloseTo(100, 6);
      // 45° to the side and 45° up are horizontal and vertical angles of either
      expect(grid[45 * 360 + 0]).toBeCloseTo(70, 5);
      expect(grid[45 * 360 + 90]).toBeCloseTo(50, 5);
      // 60° off the axis, half way between side and up: asin √(3/8) and atan √(3/2), which of them is which
      const [a, b] = [37.761243907, 50.768479517];
      const [h, v] = kind === "A" ? [b, a] : [a, b];
      // the table between 0 and 90: columns are vertical angles, 0 10 0 / 0 100 0 / 0 40 0
      const along = (value: number, t: number): number => value * (1 - t / 90);
      expect(grid[60 * 360 + 45]).toBeCloseTo(along(100, v) * (1 - h / 90) + along(40, v) * (h / 90), 4);
      expect(grid[120 * 360]).toBe(0);
    }
  });
  it("the twelfth number is a factor until 1995 alone; from 2019 it says how the file came about", () => {
    const peak = (version: string): number =>
      readIes(`${version}TILT=NONE\n1 -1 1 2 1 1 2 0 0 0 1 1.10000 1\n0 90\n0\n100 100`).candela[0]![0]!;
    expect(peak("IESNA91\n[TEST] x\n")).toBeCloseTo(110, 9);
    expect(peak("IESNA:LM-63-1995\n")).toBeCloseTo(110, 9);
    expect(peak("IESNA:LM-63-2002\n")).toBe(100);
    expect(peak("IES:LM-63-2019\n")).toBe(100);
    expect(readIes("IES:LM-63-2019\nTILT=NONE\n1 -1 1 2 1 1 2 0 0 0 1 1.00001 1\n0 90\n0\n1 1").version).toBe("IES:LM-63-2019");
  });
  it("a tilt file is taken into its photometric file", () => {
    const text = "IESNA:LM-63-1995\r\n TILT = Lamp.TLT \r\n1 -1 1 2 1 1 2 0 0 0 1 1 1\r\n0 90\r\n0\r\n100 100";
    expect(tiltFileOf(text)).toBe("Lamp.TLT");
    expect(tiltFileOf(ies(""))).toBe(null);
    expect(readIes(withTilt(text, "1\n3\n0 45 90\n0.8 0.9 1\n")).candela[0]![0]).toBeCloseTo(80, 9);
  });
  it.each([
    [
      "decimal commas",
      ies("1 -1 1 2 1 1 2 0 0 0 1 1 1\n0 90\n0\n12,5 3,25"),
      /2 numbers are left over after the last candela: decimal commas/,
    ],
    ["no tilt", "hello", /no line TILT/],
    ["a tilt file", "TILT=other.tlt\n", /names another file/],
    ["words for numbers", ies("1 x"), /line 5: the lumens per lamp is "x"/],
    ["a short table", ies("1 -1 1 3 1 1 2 0 0 0 1 1 1\n0 90 180\n0\n1 2"), /ends before the candela at 180° \/ 0°/],
    ["angles that fall", ies("1 -1 1 2 1 1 2 0 0 0 1 1 1\n90 0\n0\n1 2"), /vertical angles do not rise/],
    ["negative candela", ies("1 -1 1 2 1 1 2 0 0 0 1 1 1\n0 90\n0\n1 -2"), /negative/],
    ["a huge count", ies("1 -1 1 99999999 1 1 2 0 0 0 1 1 1"), /number of vertical angles/],
  ])("refuses %s", (_, text, message) => {
    expect(() => readIes(text, "lamp")).toThrow(message);
  });
});

describe("disks at infinity", () => {
  it.each([0.53, 30, 90])("a sun %f degrees wide gives the plane that faces it the illuminance it states", async (angularDiameter) => {
    for (const moon of [false, true]) {
      const light = {
        on: true,
        azimuth: 30,
        elevation: 90,
        illuminance: 1000,
        temperature: 6500,
        angularDiameter: Math.min(angularDiameter, moon ? 30 : 90),
      };
      const film = await render(
        {
          sky: { on: false },
          sun: moon ? { on: false } : { ...light, diskVisible: false },
          ...(moon ? { moon: light } : {}),
          materials: { m: { baseColor: [1, 1, 1], specular: 0 } },
          objects: [{ kind: "rectangle", material: "m", size: [400, 400] }],
          camera: pencil([0, 5, 0], [0, -1, 0]),
          render: { surfaceBounces: 0 },
          film: { size: [16, 16] },
        },
        64,
      );
      const m = bandMean(film, "beauty", 1);
      expect(Math.abs(m.mean - 1000 / Math.PI)).toBeLessThan(4 * m.error + 0.05);
    }
  });
  it("the strongest light that a document may have leaves every pass finite", async () => {
    const film = await render(
      {
        sky: { on: false },
        sun: { on: false },
        lights: [{ kind: "point", position: [0, 1, 0], intensity: 1e9, stops: 40, temperature: 6500 }],
        materials: { m: { baseColor: [1, 1, 1] } },
        objects: [{ kind: "rectangle", material: "m", size: [40, 40] }],
        air: [{ density: 0.1 }],
        camera: { position: [0, 1, 6], target: [0, 0, 0], fieldOfView: 50 },
        film: { size: [8, 8] },
      },
      4,
    );
    const noise = passValues(film, "noise");
    expect(noise.every(Number.isFinite)).toBe(true);
    // more than can be summed: as uncertain as bright, never certain
    expect(Math.max(...noise)).toBeGreaterThan(1e15);
  });
});

describe("many lights", () => {
  const lights = Array.from({ length: 200 }, (_, i) => ({
    kind: (i % 3 === 0 ? "sphere" : i % 3 === 1 ? "spot" : "point") as never,
    position: [((i * 37) % 41) / 2 - 10, 1 + ((i * 13) % 7) / 3, ((i * 29) % 43) / 2 - 10] as V3,
    target: [0, 0, 0] as V3,
    radius: 0.1,
    intensity: 100 + ((i * 7919) % 900),
    temperature: 6500,
  })).map((l) => {
    const { target, radius, ...rest } = l;
    return (l.kind === "spot" ? { ...rest, target, cone: 90 } : l.kind === "sphere" ? { ...rest, radius } : rest) as never;
  });
  it("the floor under 200 lights, chosen from a tree, gets the sum of what each gives", async () => {
    const scene: PartialDocument = {
      ...dark,
      lights,
      materials: { grey: { baseColor: [1, 1, 1], specular: 0 } },
      objects: [{ kind: "rectangle", material: "grey", size: [60, 60] }],
      camera: { kind: "orthographic", position: [1.2, 0.3, 0.7], target: [1.2, 0, 0.7], height: 1e-6 },
      render: { surfaceBounces: 0 },
      film: { size: [48, 48] },
    };
    const l = await load(scene);
    let want = 0;
    for (let i = 0; i < 200; i++) want += average(l, i, [1.2, 0, 0.7], floor, 16) / Math.PI;
    const film = await render(scene, 128);
    const bands = [0, 1, 2].map((band) => bandMean(film, "surfaces", band));
    const mean = luminance(bands[0]!.mean, bands[1]!.mean, bands[2]!.mean);
    expect(bands[1]!.error).toBeLessThan(0.01 * want);
    expect(Math.abs(mean - want)).toBeLessThan(4 * bands[1]!.error + 5e-4 * want);
  });
  it("the air among them too: tree and one-by-one give one picture", async () => {
    const scene = (some: never[]): PartialDocument => ({
      ...dark,
      lights: some,
      camera: pencil([-12, 1.2, 0], [1, 0, 0.05]),
      air: [{ density: 0.05, anisotropy: 0.4, region: { kind: "box", centre: [0, 1, 0], size: [24, 4, 24] } }],
      film: { size: [40, 40] },
    });
    // eight at a time are weighed one by one
    let want = 0,
      variance = 0;
    for (let i = 0; i < 64; i += 8) {
      const m = bandMean(await render(scene(lights.slice(i, i + 8)), 48), "air", 1);
      want += m.mean;
      variance += m.error ** 2;
    }
    const all = bandMean(await render(scene(lights.slice(0, 64)), 128), "air", 1);
    expect(all.error).toBeLessThan(0.02 * want);
    expect(Math.abs(all.mean - want)).toBeLessThan(4 * Math.sqrt(variance + all.error ** 2));
  });
});

describe("emissive surfaces", () => {
  const scene = (roughness: number, more: object): PartialDocument => ({
    ...dark,
    materials: {
      floor: { baseColor: [0.9, 0.9, 0.9], metallic: roughness < 1 ? 1 : 0, specular: 0, roughness },
      lamp: { baseColor: [0, 0, 0], specular: 0, emission: [300, 300, 300] },
    },
    objects: [
      { kind: "rectangle", material: "floor", size: [20, 20] },
      { kind: "rectangle", material: "lamp", position: [0, 2, -1], size: [1.5, 0.8], rotation: [110, 0, 0] },
    ],
    camera: { position: [0, 1.2, 3.5], target: [0, 0.4, 0], fieldOfView: 45 },
    film: { size: [24, 16] },
    ...more,
  });
  it("sampled as lights and met by chance add up to the same as either alone, on matt and glossy floors", async () => {
    for (const roughness of [1, 0.15]) {
      const both = await render(scene(roughness, { render: { surfaceBounces: 1 } }), 128);
      const direct = await render(scene(roughness, { render: { surfaceBounces: 0, seed: 5 } }), 1024);
      const [a, b] = [bandMean(both, "surfaces", 1), bandMean(direct, "surfaces", 1)];
      const [pa, pb] = [pixelErrors(both), pixelErrors(direct)];
      const n = pa.length;
      const error = Math.sqrt(pa.reduce((s, p, i) => s + p.error ** 2 + pb[i]!.error ** 2, 0)) / n;
      expect(error).toBeLessThan(0.02 * a.mean);
      expect(Math.abs(a.mean - b.mean)).toBeLessThan(4 * error);
    }
  });
  it("light the air at level shafts, as a rectangle light of the same place does", async () => {
    const air = [{ density: 0.05, anisotropy: 0 }];
    const shines = await render(
      scene(1, {
        air,
        materials: { floor: { baseColor: [0, 0, 0], specular: 0 }, lamp: { baseColor: [0, 0, 0], specular: 0, emission: [300, 300, 300] } },
      }),
      128,
    );
    const half = (110 * Math.PI) / 180;
    // the sheet faces (0, cos, sin) of its turn; both sides shine
    const light = {
      kind: "rectangle" as const,
      ...base,
      position: [0, 2, -1] as V3,
      target: [0, 2 + Math.cos(half), -1 + Math.sin(half)] as V3,
      size: [1.5, 0.8] as [number, number],
      bothSides: true,
      intensity: 300,
    };
    const lit = await render(
      {
        ...scene(1, { air, lights: [light], render: { seed: 3 } }),
        materials: { floor: { baseColor: [0, 0, 0], specular: 0 }, lamp: { baseColor: [0, 0, 0], specular: 0 } },
      },
      128,
    );
    const [a, b] = [bandMean(shines, "air", 1), bandMean(lit, "air", 1)];
    const [pa, pb] = [pixelErrors(shines), pixelErrors(lit)];
    const error = Math.sqrt(pa.reduce((s, p, i) => s + p.error ** 2 + pb[i]!.error ** 2, 0)) / pa.length;
    expect(Math.abs(a.mean - b.mean)).toBeLessThan(4 * error + 5e-3 * a.mean);
    expect(a.mean).toBeGreaterThan(0.1);
  });
});

describe("skies", () => {
  it("the clear sky has the zenith luminance of its source, is bluest away from the sun, and keeps its illuminance in bounds", () => {
    // Preetham, Shirley and Smits 1999, appendix 2: Yz (kcd/m²) for turbidity 3 and the sun 45° high, worked by hand
    const chi = (4 / 9 - 3 / 120) * (Math.PI - Math.PI / 2);
    expect(clearZenithLuminance(3, Math.PI / 4) / 1000).toBeCloseTo((4.0453 * 3 - 4.971) * Math.tan(chi) - 0.2155 * 3 + 2.4192, 9);
    const sky = clearSky(3, sunDirection(0, 45));
    expect(luminance(...sky([0, 1, 0]))).toBeCloseTo(clearZenithLuminance(3, Math.PI / 4), -1);
    const away = sky([0, Math.SQRT1_2, Math.SQRT1_2]);
    expect(away[2]).toBeGreaterThan(1.5 * away[0]);
    let lux = 0;
    const n = 200;
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        const s = (i + 0.5) / n,
          phi = (2 * Math.PI * (j + 0.5)) / n,
          c = Math.sqrt(1 - s * s);
        lux += (luminance(...sky([c * Math.sin(phi), s, -c * Math.cos(phi)])) * s * 2 * Math.PI) / (n * n);
      }
    // measured clear skies give 8 to 20 klx on the ground besides the sun; this model is known to run bright
    expect(lux).toBeGreaterThan(7000);
    expect(lux).toBeLessThan(32000);
  });
  it("the gradient rises from its horizon, and passes into the ground over its blur", async () => {
    const sky = { luminance: 100, zenith: [0.2, 0.2, 0.2] as V3, horizon: [1, 1, 1] as V3, horizonHeight: 10 };
    const sine = (degrees: number): number => Math.sin((degrees * Math.PI) / 180);
    const at = async (more: object): Promise<(elevation: number) => number> => {
      const { kernel } = await load({ sun: { on: false }, sky: { ...sky, ...more } });
      return (elevation) => kernel.skyAt(Math.sqrt(1 - sine(elevation) ** 2), sine(elevation), 0, 1);
    };
    /** Between horizon and zenith, evenly by the sine. */
    const rise = (elevation: number): number => 100 - (80 * (sine(elevation) - sine(10))) / (1 - sine(10));
    const plain = await at({});
    for (const below of [-90, -20, 0, 10]) expect(plain(below)).toBeCloseTo(100, 9);
    for (const above of [11, 30, 89]) expect(plain(above)).toBeCloseTo(rise(above), 9);
    const ground = await at({ ground: [0.1, 0.1, 0.1], horizonBlur: 8 });
    for (const below of [-90, 0, 5.9]) expect(ground(below)).toBeCloseTo(10, 9);
    for (const above of [14.1, 30, 90]) expect(ground(above)).toBeCloseTo(rise(above), 9);
    // half way by the sine, half of either
    const half = (Math.asin((sine(6) + sine(14)) / 2) * 180) / Math.PI;
    expect(ground(half)).toBeCloseTo((10 + rise(half)) / 2, 1);
    for (let e = 6; e < 12; e += 0.1) expect(ground(e + 0.1)).toBeGreaterThanOrEqual(ground(e));
    const sharp = await at({ ground: [0.1, 0.1, 0.1] });
    expect([sharp(9.99), sharp(10.01)].map(Math.round)).toEqual([10, 100]);
  });
  it("a floor loses the light of the sky that its horizon hides", async () => {
    const scene: PartialDocument = {
      sun: { on: false },
      sky: { luminance: 900, zenith: [1, 1, 1], horizon: [1, 1, 1], ground: [0, 0, 0], horizonHeight: 20 },
      materials: { white: { baseColor: [1, 1, 1], specular: 0 } },
      objects: [{ kind: "rectangle", material: "white", size: [9, 9] }],
      camera: { kind: "orthographic", position: [0, 1, 0], target: [0, 0, 0], height: 1e-6 },
      film: { size: [32, 32] },
    };
    for (const surfaceBounces of [0, 1]) {
      const m = bandMean(await render({ ...scene, render: { surfaceBounces } }, 64), "surfaces", 1);
      expect(Math.abs(m.mean - 900 * (1 - Math.sin(Math.PI / 9) ** 2))).toBeLessThan(4 * m.error + 1e-3);
      expect(m.error).toBeLessThan(5);
    }
  });
  it("the overcast sky gives a floor 7/9 π of its zenith luminance, and what is left of that above a raised horizon", async () => {
    const scene = (more: object): PartialDocument => ({
      sun: { on: false },
      sky: { model: "overcast", luminance: 900, zenith: [1, 1, 1], ...more },
      materials: { white: { baseColor: [1, 1, 1], specular: 0 } },
      objects: [{ kind: "rectangle", material: "white", size: [9, 9] }],
      camera: { kind: "orthographic", position: [0, 1, 0], target: [0, 0, 0], height: 1e-6 },
      film: { size: [32, 32] },
    });
    // 2 ∫ (1 + 2 s) / 3 s ds from the sine of the horizon to 1
    const left = (s: number): number => (900 * 2 * ((1 - s ** 2) / 2 + (2 * (1 - s ** 3)) / 3)) / 3;
    expect(left(0)).toBeCloseTo((900 * 7) / 9, 9);
    for (const surfaceBounces of [0, 1])
      for (const height of [null, 20]) {
        const sky = height === null ? {} : { ground: [0, 0, 0] as V3, horizonHeight: height };
        const m = bandMean(await render({ ...scene(sky), render: { surfaceBounces } }, 64), "surfaces", 1);
        // the table has 64 rows, which is worth a thousandth
        expect(Math.abs(m.mean - left(Math.sin(((height ?? 0) * Math.PI) / 180)))).toBeLessThan(4 * m.error + 1e-3 * 900);
        expect(m.error).toBeLessThan(5);
      }
  });
  it("tables run smoothly from texel to texel, and pass into their ground", async () => {
    const overcastSky = { model: "overcast", luminance: 900, zenith: [1, 1, 1] as V3 } as const;
    const clear = { model: "clear", turbidity: 3 } as const;
    const sine = (degrees: number): number => Math.sin((degrees * Math.PI) / 180);
    const at = async (sky: object): Promise<(azimuth: number, elevation: number) => number> => {
      const { kernel } = await load({ sun: { azimuth: 50, elevation: 30, on: false }, sky });
      return (azimuth, elevation) => kernel.skyAt(...sunDirection(azimuth, elevation), 1);
    };
    const [cloudy, blue] = [await at(overcastSky), await at(clear)];
    const exact = clearSky(3, sunDirection(50, 30));
    for (let i = 0; i < 400; i++) {
      const [azimuth, elevation] = [(i * 137.508) % 360, 4 + ((i * 0.2137) % 85)];
      expect(Math.abs(cloudy(azimuth, elevation) / (300 * (1 + 2 * sine(elevation))) - 1)).toBeLessThan(1e-3);
      // within the aureole the light bends within a texel
      const d = sunDirection(azimuth, elevation);
      expect(Math.abs(blue(azimuth, elevation) / exact(d)[1] - 1)).toBeLessThan(0.01);
    }
    // the seam of the table, due south, is none
    expect(Math.abs(blue(179.999, 20) / blue(-179.999, 20) - 1)).toBeLessThan(1e-4);
    const ground = { ground: [0.1, 0.1, 0.1], horizonHeight: 3, horizonBlur: 4 };
    const [cloudyGround, blueGround] = [await at({ ...overcastSky, ...ground }), await at({ ...clear, ...ground })];
    for (const below of [-90, -10, 0.9]) expect(cloudyGround(70, below)).toBeCloseTo(90, 4);
    for (const above of [5.1, 40]) expect(cloudyGround(70, above)).toBeCloseTo(cloudy(70, above), 6);
    const half = (Math.asin((sine(1) + sine(5)) / 2) * 180) / Math.PI;
    expect(cloudyGround(70, half)).toBeCloseTo((90 + cloudy(70, half)) / 2, 3);
    // of a clear sky: a tenth of its light on a level plane
    let level = 0;
    const n = 300;
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++)
        level += luminance(...exact(sunDirection((360 * j) / n, (Math.asin(Math.sqrt((i + 0.5) / n)) * 180) / Math.PI))) / n ** 2;
    expect(Math.abs(blueGround(0, -30) / (0.1 * level) - 1)).toBeLessThan(5e-3);
  });
  const [width, height] = [64, 32];
  /** Even sky with one texel that outshines all the rest. */
  const spotted = { width, height, rgb: new Float32Array(3 * width * height).fill(1) };
  spotted.rgb.fill(40000, 3 * (6 * width + 20), 3 * (6 * width + 21));
  const image: PartialDocument = { sun: { on: false }, assets: { sky: { uri: "sky.hdr" } }, sky: { model: "image", image: "sky" } };
  const resources = { pictures: new Map([["sky", spotted]]) };

  it("an image is drawn by its brightness: the density integrates to 1 and matches the draws", async () => {
    const { kernel } = await load({ ...image, sky: { ...image.sky!, rotation: 40 } }, resources);
    const n = 4000;
    let inverse = 0,
      bright = 0;
    for (let i = 0; i < n; i++) {
      const [u, v] = [(i + 0.5) / n, (i * 0.6180339887498949) % 1];
      const d = [0, 1, 2].map((a) => kernel.skySample(u, v, a)) as V3;
      const pdf = kernel.skySample(u, v, 3);
      expect(pdf).toBeGreaterThan(0);
      inverse += 1 / pdf / n;
      if (kernel.skyAt(...d, 0) > 10) bright++;
    }
    // the mean of 1/pdf over the draws is the solid angle of the sphere
    expect(inverse / (4 * Math.PI)).toBeCloseTo(1, 1);
    const { cdf } = skyDistribution(width, height, spotted.rgb);
    // the light of one texel runs out half way through those beside it: 23 % of what is drawn for it lies beyond
    expect(bright / n).toBeGreaterThan(0.7);
    expect(cdf[height]).toBe(1);
  });
  it("a floor and the air under it get what quadrature over the image gives, at every level, without fireflies", async () => {
    const scene = (more: object): PartialDocument => ({
      ...image,
      materials: { white: { baseColor: [0.7, 0.7, 0.7], specular: 0 } },
      objects: [{ kind: "rectangle", material: "white", size: [9, 9] }],
      camera: { kind: "orthographic", position: [0, 1, 0], target: [0, 0, 0], height: 1e-6 },
      film: { size: [32, 32] },
      ...more,
    });
    // light runs straight from middle to middle of the texels: sums over fine rings and sectors
    const FINE = 12;
    const middle = (x: number, y: number): number =>
      spotted.rgb[3 * (Math.max(0, Math.min(height - 1, y)) * width + ((x + width) % width))]!;
    let want = 0,
      all = 0;
    for (let j = 0; j < FINE * height; j++) {
      const [a, b] = [j, j + 1].map((k) => Math.cos((Math.PI * k) / (FINE * height))) as [number, number];
      const v = (j + 0.5) / FINE - 0.5;
      const [row, fv] = [Math.floor(v), v - Math.floor(v)];
      let ring = 0;
      for (let i = 0; i < FINE * width; i++) {
        const u = (i + 0.5) / FINE - 0.5;
        const [column, fu] = [Math.floor(u), u - Math.floor(u)];
        const across = (y: number): number => middle(column, y) * (1 - fu) + middle(column + 1, y) * fu;
        ring += across(row) * (1 - fv) + across(row + 1) * fv;
      }
      ring *= (2 * Math.PI) / (FINE * width);
      // ∫ cos over the ring's solid angle, and the ring's solid angle
      want += ring * 0.5 * (Math.max(0, a) ** 2 - Math.max(0, b) ** 2);
      all += ring * (a - b);
    }
    want *= 0.7 / Math.PI;
    for (const surfaceBounces of [0, 1]) {
      const m = bandMean(await render(scene({ render: { surfaceBounces } }), 64, undefined, 0, resources), "surfaces", 1);
      expect(m.error).toBeLessThan(0.01 * want);
      expect(Math.abs(m.mean - want)).toBeLessThan(4 * m.error + 1e-4 * want);
    }
    // in the air: a thin slab of even phase function scatters σs d / 4π of all that comes
    for (const level of ["shafts", "full"] as const) {
      const thin = { density: 1e-3, anisotropy: 0, region: { kind: "box" as const, centre: [0, 0, 0] as V3, size: [1, 1, 1] as V3 } };
      const m = bandMean(
        await render(
          scene({ objects: [], camera: pencil([0, 0, 3], [0, 0, -1]), air: [thin], render: { level, airBounces: 4 } }),
          64,
          undefined,
          0,
          resources,
        ),
        "air",
        1,
      );
      const lit = (1e-3 * all) / (4 * Math.PI);
      expect(m.error).toBeLessThan(0.01 * lit);
      expect(Math.abs(m.mean - lit)).toBeLessThan(4 * m.error + 2e-3 * lit);
    }
  });
  it("stars lie behind everything, as many as asked for, dimmed by the air like any background; the moon hides them", async () => {
    const night = (more: object): PartialDocument => ({
      sun: { on: false },
      sky: { luminance: 0, stars: { count: 20000, size: 0.2, brightness: 100 } },
      camera: { position: [0, 0, 0], target: [0, 0.3, -1], fieldOfView: 40 },
      film: { size: [200, 150] },
      ...more,
    });
    const clear = await render(night({}), 4);
    const bright = pixelErrors(clear).filter((p) => p.mean > 0).length;
    expect(bright).toBeGreaterThan(200);
    const dimmed = await render(
      night({
        air: [{ density: 0.01, scattering: [0, 0, 0], absorption: [1, 1, 1], region: { kind: "sphere", centre: [0, 0, 0], radius: 50 } }],
      }),
      4,
    );
    expect(bandMean(dimmed, "surfaces", 0).mean / bandMean(clear, "surfaces", 0).mean).toBeCloseTo(Math.exp(-0.5), 4);
    const moon = { on: true, azimuth: 0, elevation: 17, illuminance: 0.25, angularDiameter: 4 };
    const lit = await render(night({ moon }), 4);
    const disk = 0.25 / (2 * Math.PI * (1 - Math.cos((2 * Math.PI) / 180)));
    expect(pixelErrors(lit).filter((p) => Math.abs(p.mean - disk) < 0.02 * disk).length).toBeGreaterThan(100);
    const wall = await render(
      night({
        materials: { m: { baseColor: [0, 0, 0], specular: 0 } },
        objects: [{ kind: "box", material: "m", position: [0, 0, -5], size: [50, 50, 1] }],
      }),
      1,
    );
    expect(bandMean(wall, "surfaces", 0).mean).toBe(0);
  });
});

describe("gobos", () => {
  const wall = (light: object): PartialDocument => ({
    ...dark,
    lights: [
      {
        kind: "spot",
        position: [0, 0, 4],
        target: [0, 0, 0],
        cone: 60,
        softness: 0,
        intensity: 1000,
        temperature: 6500,
        ...light,
      } as never,
    ],
    materials: { white: { baseColor: [1, 1, 1], specular: 0 } },
    objects: [{ kind: "rectangle", material: "white", size: [20, 20], rotation: [90, 0, 0] }],
    camera: { kind: "orthographic", position: [0, 0, 3], target: [0, 0, 0], height: 2.8 },
    render: { surfaceBounces: 0 },
    film: { size: [112, 112] },
  });
  it.each(["leaves", "blinds", "bars", "ripples"] as const)("%s let through about the share that is open", async (pattern) => {
    const open = await render(wall({ gobo: { pattern, open: 0.4, count: 8 } }), 4);
    const clear = await render(wall({}), 4);
    const share = bandMean(open, "surfaces", 1).mean / bandMean(clear, "surfaces", 1).mean;
    expect(share).toBeGreaterThan(0.3);
    expect(share).toBeLessThan(0.5);
    const whole = pixelErrors(clear);
    const relative = pixelErrors(open).map((p, i) => p.mean / whole[i]!.mean);
    expect(Math.min(...relative)).toBeLessThan(pattern === "ripples" ? 0.35 : 0.02);
  });
  it("an image is thrown the right way up, level, as wide as the cone", async () => {
    // dark but for the upper left quarter, seen from the light
    const picture = { width: 2, height: 2, rgb: new Float32Array(12) };
    picture.rgb.fill(1, 0, 3);
    const scene = wall({ gobo: { pattern: "image", image: "g" } });
    const film = await render({ ...scene, assets: { g: { uri: "g.png" } } }, 4, undefined, 0, { pictures: new Map([["g", picture]]) });
    const p = pixelErrors(film);
    const at = (x: number, y: number): number => p[Math.floor(y * 112) * 112 + Math.floor(x * 112)]!.mean;
    expect(at(0.2, 0.2)).toBeGreaterThan(10 * at(0.9, 0.9));
    expect(at(0.2, 0.2)).toBeGreaterThan(10 * at(0.9, 0.2));
  });
  it("a wider emitter softens it, and the sun's falls on the scene at its size", async () => {
    const steepest = (film: Awaited<ReturnType<typeof render>>): number => {
      const p = pixelErrors(film);
      let most = 0;
      for (let x = 1; x < 112; x++) most = Math.max(most, Math.abs(p[42 * 112 + x]!.mean - p[42 * 112 + x - 1]!.mean));
      return most;
    };
    const gobo = { pattern: "bars", count: 4, open: 0.4, distance: 0.5 };
    expect(steepest(await render(wall({ gobo, radius: 0.03 }), 64))).toBeLessThan(0.5 * steepest(await render(wall({ gobo }), 64)));
    const sun: PartialDocument = {
      sky: { on: false },
      sun: { azimuth: 0, elevation: 90, illuminance: 1000, gobo: { pattern: "blinds", count: 4, size: 8, open: 0.5, distance: 0.01 } },
      materials: { white: { baseColor: [1, 1, 1], specular: 0 } },
      objects: [{ kind: "rectangle", material: "white", size: [40, 40] }],
      camera: { kind: "orthographic", position: [0, 5, 0], target: [0, 0, 0], height: 16 },
      render: { surfaceBounces: 0 },
      film: { size: [64, 64] },
    };
    const bright = pixelErrors(await render(sun, 8)).map((p) => p.mean > 150);
    // two metres a slat: eight slats over sixteen metres, along one axis of the frame
    const flips = (step: number, from: number): number => {
      let n = 0;
      for (let i = 1; i < 64; i++) if (bright[from + i * step] !== bright[from + (i - 1) * step]) n++;
      return n;
    };
    expect(Math.max(flips(1, 5 * 64), flips(64, 5))).toBeGreaterThanOrEqual(14);
    expect(Math.min(flips(1, 8 * 64 + 1), flips(64, 8))).toBeLessThanOrEqual(1);
  });
});
