import { map3 } from "#core/math/vectors";
import { readFileSync } from "node:fs";
import { beforeAll, describe, expect, it } from "vitest";
import { gridSchema } from "#core/document/air";
import { parseDocument } from "#core/document/parse";
import { readVdb, writeVdb } from "#core/formats/vdb";
import type { SceneDocument } from "#core/document/schema";
import { luminance } from "#core/optics/colour";
import { compileScene } from "#core/scene/compile";
import { sunDirection } from "#core/math/vectors";
import { henyeyGreenstein } from "#core/optics/phase";
import { fromSection, sectionFrame, toSection } from "#core/section/frame";
import { pointOf } from "#core/section/region";
import { along } from "#core/section/scale";
import { SectionProbe, type Gain, type Section, type SectionRequest } from "#core/section/probe";
import { bandMean, render, simpson, type PartialDocument } from "../support/kernel";

let probe: SectionProbe;
beforeAll(async () => {
  probe = await SectionProbe.create(new WebAssembly.Module(readFileSync("build/kernel/kernel.plain.wasm")));
});

const black = { black: { baseColor: [0, 0, 0] as [number, number, number], specular: 0 } };
const base: PartialDocument = {
  materials: black,
  sun: { on: false },
  sky: { on: false },
  objects: [
    { kind: "box", material: "black", position: [0, 5, -30.5], size: [60, 40, 1] },
    { kind: "rectangle", material: "black", size: [200, 200] },
  ],
  camera: { position: [0, 2, 0], target: [0, 2, -10], fieldOfView: 40 },
  film: { size: [32, 32] },
};

function sectionOf(input: PartialDocument, at: Partial<SectionRequest> = {}): Section & { doc: SceneDocument } {
  const doc = parseDocument({ fumarium: 2, ...base, ...input });
  probe.setGeometry(compileScene(doc, { models: new Map() }));
  const section = probe.section(doc, {
    x: 0.5,
    y: 0.5,
    plane: { kind: "upright" },
    scale: "even",
    window: null,
    columns: 120,
    rows: 60,
    lit: false,
    ...at,
  });
  return { ...section, doc };
}
const sumOf = (g: Gain, band: number): number => {
  let sum = 0;
  for (let i = band; i < g.values.length; i += 3) sum += g.values[i]!;
  return sum;
};
const left = (s: Section, i: number, band: number): number => Math.exp(-s.fate.depths[3 * i + band]!);

describe("the frame of a section", () => {
  it("takes points of the scene into its plane and back", () => {
    const doc = parseDocument({ fumarium: 2, ...base, camera: { position: [3, 2, 1], target: [-4, 5, -7] } });
    const f = sectionFrame(doc, 0.3, 0.8);
    for (const p of [
      [1, 2, 3],
      [-5, 0, 8],
    ] as const) {
      const q = toSection(f, p);
      fromSection(f, q.s, q.y, q.away).forEach((v, k) => expect(v).toBeCloseTo(p[k]!, 9));
    }
    // the ray lies in the plane
    const q = toSection(f, map3(f.origin, (o, k) => o + 7 * f.direction[k])); // prettier-ignore
    expect(q.away).toBeCloseTo(0, 9);
    expect(q.s).toBeCloseTo(7 * f.level, 9);
  });
});

describe("the fate of light", () => {
  it("what survives follows Beer's law per band in even air, and the marks are where contrast is gone", () => {
    const s = sectionOf({ air: [{ density: 0.2, scattering: [1, 0.5, 0.25], absorption: [0, 0.2, 0] }] });
    expect(s.fate.end).toBeCloseTo(30, 4);
    const sigma = [0.2, 0.14, 0.05];
    for (const i of [1, 40, 160])
      for (const k of [0, 1, 2]) expect(left(s, i, k)).toBeCloseTo(Math.exp((-sigma[k]! * s.fate.far * i) / s.fate.pieces), 6);
    const gone = s.fate.marks[1]!;
    expect(luminance(...(sigma.map((e) => Math.exp(-e * gone)) as [number, number, number]))).toBeCloseTo(0.1, 3);
    expect(sectionOf({ air: [{ density: 0.001 }] }).fate.marks).toEqual([null, null, null]);
  });

  it("what the sun adds is its single-scattering integral, piece by piece", () => {
    const [sigma, g] = [0.05, 0.4];
    const sun = { on: true, azimuth: 60, elevation: 90, illuminance: 1000, temperature: 6500, angularDiameter: 0.01 };
    const s = sectionOf({ sun, air: [{ density: sigma, anisotropy: g, region: { kind: "layer", level: 12 } }] });
    const d = sunDirection(60, 90);
    const cos = s.frame.direction.reduce((a, v, k) => a + v * d[k]!, 0);
    // a level ray 10 m below the top of the layer, the sun at the zenith
    const gained = (t: number): number => sigma * henyeyGreenstein(cos, g) * 1000 * Math.exp(-sigma * (t + 10));
    const [sunGain] = s.fate.gains;
    expect(sunGain!.name).toBe("sun");
    expect(sunGain!.total).toBeCloseTo(simpson(gained, 0, 30), 2);
    const step = s.fate.far / s.fate.pieces;
    for (const i of [0, 50, 159]) {
      const got = luminance(sunGain!.values[3 * i]!, sunGain!.values[3 * i + 1]!, sunGain!.values[3 * i + 2]!);
      expect(got / simpson(gained, i * step, (i + 1) * step, 20)).toBeCloseTo(1, 3);
    }
  });

  it("its sum is the air's light in the picture at that place, with lamps, sky, shadows and broken air", async () => {
    const input: PartialDocument = {
      ...base,
      // a frame of almost no size: every pixel is the same ray
      camera: { ...base.camera, kind: "orthographic", height: 1e-5 },
      sun: { on: true, azimuth: 100, elevation: 40, illuminance: 2000 },
      sky: { on: true, luminance: 300 },
      objects: [...base.objects!, { kind: "box", material: "black", position: [6, 3, -12], size: [0.5, 8, 6] }],
      lights: [
        { kind: "point", name: "near", position: [1, 3, -8], intensity: 3000 },
        { kind: "spot", name: "cone", position: [-6, 6, -20], target: [0, 1, -18], intensity: 60000, cone: 25 },
        { kind: "sphere", name: "globe", position: [3, 2, -24], radius: 0.6, intensity: 900 },
      ],
      air: [
        { density: 0.04, anisotropy: 0.5, height: { level: 0, scale: 5 } },
        {
          name: "cloud",
          density: 0.3,
          region: { kind: "sphere", centre: [0, 2, -14], radius: 4 },
          edge: 1,
          noise: { size: 2, low: 0.3, high: 0.7 },
          emission: { strength: 3 },
        },
      ],
      render: { level: "shafts", surfaceBounces: 0, airSamples: 4 },
    };
    const runs = [1, 2, 3, 4, 5, 6, 7, 8].map((seed) => sectionOf({ ...input, render: { ...input.render, seed } }, { lit: true }));
    const s = runs[0]!;
    const film = await render(input, 500);
    for (const band of [0, 1, 2]) {
      const { mean, error } = bandMean(film, "air", band);
      const sums = runs.map((run) => run.fate.gains.reduce((a, g) => a + sumOf(g, band), 0));
      const sum = sums.reduce((a, v) => a + v, 0) / sums.length;
      const spread = Math.sqrt(sums.reduce((a, v) => a + (v - sum) ** 2, 0) / (sums.length * (sums.length - 1)));
      // both errors, and three thousandths for the ray cut into pieces
      expect(Math.abs(sum - mean)).toBeLessThan(4 * Math.hypot(error, spread) + 0.003 * mean);
      const transmitted = bandMean(film, "transmittance", band);
      expect(Math.abs(left(s, s.fate.pieces, band) - transmitted.mean)).toBeLessThan(4 * transmitted.error + 0.003);
    }
    expect(s.fate.gains.map((g) => g.name).sort()).toEqual(["air emission", "cone", "globe", "near", "sky", "sun"]);
  });

  it("tells many lamps and emissive surfaces as one, with the same sum", async () => {
    const lamps = Array.from({ length: 30 }, (_, i) => ({
      kind: "point" as const,
      name: `lamp ${i}`,
      position: [-3 + (i % 5), 3, -5 - 4 * Math.floor(i / 5)] as [number, number, number],
      intensity: 100 + 20 * i,
    }));
    const input: PartialDocument = {
      ...base,
      materials: { ...black, hot: { baseColor: [0, 0, 0], emission: [900, 500, 100] } },
      objects: [...base.objects!, { kind: "box", material: "hot", position: [-2, 1, -15], size: [1, 2, 1] }],
      camera: { ...base.camera, kind: "orthographic", height: 1e-5 },
      lights: lamps,
      air: [{ density: 0.05 }],
      render: { level: "shafts", surfaceBounces: 0, airSamples: 4 },
    };
    const s = sectionOf(input, { lit: true });
    expect(s.fate.gains.map((g) => g.name)).toEqual(["lamps and emissive surfaces"]);
    const film = await render(input, 400);
    const { mean, error } = bandMean(film, "air", 0);
    const sum = sumOf(s.fate.gains[0]!, 0);
    // 5120 draws, each off by about its own size: 1.5 percent, three times
    expect(Math.abs(sum - mean)).toBeLessThan(4 * error + 0.045 * mean);
  });
});

describe("the picture of a section", () => {
  it("holds the media's coefficients: a layer with a falloff, and a turned box by its borders", () => {
    const s = sectionOf({
      air: [
        { density: 0.1, absorption: [0.5, 0.5, 0.5], height: { level: 1, scale: 4 } },
        { name: "block", density: 1, region: { kind: "box", centre: [0, 8, -15], size: [4, 2, 6], rotation: [0, 90, 0] } },
      ],
    });
    const [s0, y0, s1, y1] = s.window;
    let inside = 0;
    for (let j = 0; j < s.rows; j++)
      for (let i = 0; i < s.columns; i++) {
        const at = 4 * (j * s.columns + i);
        const along = s0 + ((i + 0.5) * (s1 - s0)) / s.columns,
          y = y0 + ((j + 0.5) * (y1 - y0)) / s.rows;
        // turned by a right angle, the box is 4 m along the ray
        const block = Math.abs(along - 15) < 2 && Math.abs(y - 8) < 1 ? 1 : 0;
        inside += block;
        const layer = 0.1 * Math.exp(-Math.max(0, y - 1) / 4);
        expect(s.field[at]!).toBeCloseTo(layer + block, 5);
        expect(s.field[at + 3]!).toBeCloseTo(1.5 * layer + block, 5);
      }
    expect(inside).toBeGreaterThan(20);
  });

  it("seen from above or with distances stretched, holds the same air in its places", () => {
    const air: PartialDocument["air"] = [
      { density: 0.5, region: { kind: "cylinder", centre: [2, 3, -12], radius: 3, height: 4 } },
      { name: "haze", density: 0.01, start: { distance: 4, fade: 0 } },
    ];
    for (const request of [{ plane: { kind: "level", height: 2 } }, { scale: "stretched" }] as Partial<SectionRequest>[]) {
      const s = sectionOf({ air }, request);
      const [s0, t0, s1, t1] = s.window;
      const { distance } = along(s0, s1, s.scale);
      let [inside, wrong] = [0, 0];
      for (let j = 0; j < s.rows; j++)
        for (let i = 0; i < s.columns; i++) {
          const p = pointOf(s.frame, s.plane, [distance((i + 0.5) / s.columns), t0 + ((j + 0.5) * (t1 - t0)) / s.rows]);
          const block = Math.hypot(p[0] - 2, p[2] + 12) < 3 && Math.abs(p[1] - 3) < 2 ? 0.5 : 0;
          const haze = Math.hypot(p[0], p[1] - 2, p[2]) >= 4 ? 0.01 : 0;
          inside += block > 0 ? 1 : 0;
          if (Math.abs(s.field[4 * (j * s.columns + i) + 3]! - block - haze) > 1e-6) wrong++;
        }
      expect(inside).toBeGreaterThan(20);
      expect(wrong).toBe(0);
    }
  });

  it("cuts the set where it stands", () => {
    const s = sectionOf({ objects: [...base.objects!, { kind: "box", material: "black", position: [0, 3.5, -10], size: [2, 2, 4] }] });
    const found = (a: number, b: number, c: number, d: number): boolean => {
      // a side may come in pieces: points along it are all on some segment
      return [0.1, 0.5, 0.9].every((f) => {
        const [x, y] = [a + f * (c - a), b + f * (d - b)];
        for (let i = 0; i < s.cut.length; i += 4) {
          const [p, q, r, t] = s.cut.subarray(i, i + 4) as unknown as [number, number, number, number];
          const l = Math.hypot(r - p, t - q);
          if (l < 1e-6) continue;
          const u = ((x - p) * (r - p) + (y - q) * (t - q)) / l;
          if (u > -1e-3 && u < l + 1e-3 && Math.abs((x - p) * (t - q) - (y - q) * (r - p)) / l < 1e-3) return true;
        }
        return false;
      });
    };
    expect(found(8, 2.5, 8, 4.5)).toBe(true);
    expect(found(12, 2.5, 12, 4.5)).toBe(true);
    expect(found(8, 4.5, 12, 4.5)).toBe(true);
    expect(found(0, 0, 29, 0)).toBe(true);
    expect(found(8, 3.5, 12, 3.5)).toBe(false);
  });

  it("shows where lamps shine and what shadows them", () => {
    const s = sectionOf(
      {
        lights: [{ kind: "point", position: [0, 6, -10], intensity: 1000, temperature: 6500 }],
        objects: [...base.objects!, { kind: "box", material: "black", position: [0, 4, -10], size: [4, 0.2, 4] }],
        air: [{ density: 1e-6 }],
      },
      { lit: true },
    );
    const { columns, rows, values } = s.lit!;
    const [s0, y0, s1, y1] = s.window;
    const at = (along: number, y: number): number =>
      values[Math.floor(((y - y0) / (y1 - y0)) * rows) * columns + Math.floor(((along - s0) / (s1 - s0)) * columns)]!;
    expect(at(10, 2)).toBe(0);
    const r = Math.hypot(20 - 10, 6 - 6);
    expect(at(20, 6) / (1000 / r ** 2)).toBeGreaterThan(0.9);
    expect(at(20, 6) / (1000 / r ** 2)).toBeLessThan(1.1);
  });
});

describe("a medium baked into a grid", () => {
  it("holds its density at every voxel, and comes back from the file as the same air", async () => {
    const air: PartialDocument["air"] = [
      {
        name: "cloud",
        density: 0.3,
        region: { kind: "cylinder", centre: [1, 5, -12], radius: 3, height: 4, rotation: [20, 0, 10] },
        height: { level: 4, scale: 3 },
        noise: { size: 2, low: 0.3, high: 0.7 },
      },
    ];
    const { doc } = sectionOf({ air });
    const volume = probe.bake(doc, 0, 64);
    const size = volume.toWorld[0];
    const file = await readVdb(writeVdb({ density: volume }), "cloud.vdb");
    const baked = { ...doc, assets: { cloud: { uri: "cloud.vdb" } }, air: [{ ...doc.air[0]!, region: { kind: "everywhere" as const }, height: null, noise: null, grid: gridSchema.parse({ asset: "cloud", high: 1 }) }] }; // prettier-ignore
    const geometry = compileScene(baked, { models: new Map(), volumes: new Map([["cloud", file.channels]]) });
    // optical depths along rays through the whole, before and after: trilinear voxels of 0.12 m against noise of 2 m
    const rays = [0.42, 0.5, 0.55, 0.6].flatMap((x) => [0.3, 0.38, 0.45].map((y) => ({ x, y, distance: 29 })));
    const before = rays.map((r) => probe.depth(doc, r.x, r.y, r.distance)[0]);
    probe.setGeometry(geometry);
    const after = rays.map((r) => probe.depth(baked, r.x, r.y, r.distance)[0]);
    expect(Math.max(...before)).toBeGreaterThan(0.2);
    before.forEach((v, i) => expect(Math.abs(after[i]! - v)).toBeLessThan(0.04 * Math.max(...before)));
    expect(size).toBeLessThan(0.13);
    expect(() => probe.bake({ ...doc, air: [{ ...doc.air[0]!, density: 1, region: { kind: "layer", level: -1e6, up: [0, 1, 0] } }] }, 0, 16)).toThrow(/holds no air/); // prettier-ignore
  });
});
