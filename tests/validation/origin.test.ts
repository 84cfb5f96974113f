import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { passValues } from "#core/film/film";
import { AXES } from "#core/math/vectors";
import { L_POSITION, P_CAM_ORIGIN, PASS_AIR, PASS_CLEAR, PASS_SURFACES } from "#core/layout/layout";
import { compileScene } from "#core/scene/compile";
import { boundsInWorld } from "#core/scene/origin";
import { SectionProbe } from "#core/section/probe";
import { veilTables } from "#core/veil/tables";
import { load, render, wasm, type PartialDocument } from "../support/kernel";

type V3 = [number, number, number];

/** A yard with everything that has a place, moved as a whole. The sun's gobo repeats every 0.625 m, so a move of 100 km leaves it where it was. */
function yard([x0, y0, z0]: V3 = [0, 0, 0], level: "veil" | "full" = "full"): PartialDocument {
  const v = (x: number, y: number, z: number): V3 => [x0 + x, y0 + y, z0 + z];
  return {
    time: 1,
    sun: { elevation: 90, gobo: { pattern: "bars", size: 0.625, distance: 10 } },
    sky: { luminance: 300 },
    materials: { wall: { baseColor: [0.7, 0.6, 0.5] }, lit: { baseColor: [0, 0, 0], emission: [400, 300, 200] } },
    objects: [
      { kind: "box", material: "wall", position: v(0, -0.5, 0), size: [20, 1, 20] },
      { kind: "box", material: "wall", position: v(0, 3, -5.5), size: [12, 8, 1] },
      { kind: "cylinder", name: "column", material: "wall", position: v(0.6, 2, -1), radius: 0.5, height: 4 },
      { kind: "sphere", name: "ball", material: "wall", position: v(-2, 1, -1), radius: 0.7 },
      { kind: "rectangle", material: "lit", position: v(2, 2, -2), rotation: [60, 0, 0], size: [0.5, 0.5] },
    ],
    camera: { position: v(0, 2, 6), target: v(0, 2, 0), fieldOfView: 50 },
    lights: [
      { kind: "spot", position: v(-3, 5, -3), target: v(0.6, 1, -1), intensity: 20000, cone: 50, gobo: { pattern: "bars", distance: 0.5 } },
      { kind: "tube", position: v(3, 3, -3), length: 1.5, intensity: 4000 },
      { kind: "rectangle", position: v(3, 4, 2), target: v(0, 1, 0), size: [1, 1], intensity: 4000 },
    ],
    air: [
      { density: 0.03, height: { level: y0 + 0.5, scale: 3 }, start: { distance: 1, fade: 2 } },
      { name: "bank", density: 0.05, region: { kind: "layer", level: y0 + 1, up: [0, 1, 0] } },
      { name: "cloud", density: 0.5, region: { kind: "box", centre: v(1, 1, 1), size: [3, 2, 3] }, noise: { size: 0.8, drift: [x0, y0, z0] } },
      { name: "local", density: 0.5, region: { kind: "sphere", centre: v(-2, 3, 0), radius: 1 }, noise: { size: 0.5, space: "region" } },
      { name: "skin", density: 0.4, proximity: { object: "column", curve: [[0, 1], [0.5, 0]] } },
      { name: "halo", density: 1, region: { kind: "mesh", object: "ball" }, edge: 0.2 },
    ],
    render: { level, airBounces: 2, surfaceBounces: 2, airSamples: 1 },
    film: { size: [48, 32] },
  }; // prettier-ignore
}

const film = (d: PartialDocument) => render(d, 5, PASS_AIR | PASS_SURFACES | PASS_CLEAR);

/** RMS of the difference as a share of the mean. */
function difference(a: Float32Array, b: Float32Array): number {
  const mean = a.reduce((s, x) => s + x, 0) / a.length;
  return Math.sqrt(a.reduce((s, x, i) => s + (x - b[i]!) ** 2, 0) / a.length) / mean;
}

describe("a set far from zero", () => {
  // steps of 64 m are exact in every rounding; others round what stands there anew, and a path in some hundreds takes another way
  const far: readonly (readonly [string, V3, number, "veil" | "full"])[] = [
    ["a whole step", [102_400, 3_200, -102_400], 1e-4, "full"],
    ["no whole step", [100_000, 3_000, -100_000], 0.002, "veil"],
    ["no whole step", [100_000, 3_000, -100_000], 0.1, "full"],
  ];
  it.each(far)("is the same picture, %s away at %o (within %d) at level %s", async (_, at, within, level) => {
    const [here, there] = [await film(yard([0, 0, 0], level)), await film(yard([...at], level))];
    // without air and chance: 2 % before
    expect(difference(passValues(here, "clear"), passValues(there, "clear"))).toBeLessThan(0.002);
    const [a, b] = [passValues(here, "beauty"), passValues(there, "beauty")];
    expect(difference(a, b)).toBeLessThan(within);
    const apart = a.map((x, i) => x - b[i]!);
    const mean = apart.reduce((s, d) => s + d, 0) / a.length;
    const error = Math.sqrt(apart.reduce((s, d) => s + (d - mean) ** 2, 0)) / a.length;
    expect(Math.abs(mean)).toBeLessThan(4 * error + 1e-5 * a.reduce((s, x) => s + x / a.length, 0));
    const [low, high] = [passValues(here, "height"), passValues(there, "height")];
    const hits = [...low].flatMap((h, i) => (h !== 0 && high[i] !== 0 && Number.isFinite(h) ? [high[i]! - h] : []));
    expect(hits.length).toBeGreaterThan(700);
    expect(Math.max(...hits.map((d) => Math.abs(d - at[1])))).toBeLessThan(0.01);
  });

  it("is rendered about its middle, and one near zero about zero", () => {
    const geometry = (at: V3) => compileScene(parseDocument({ fumarium: 2, ...yard(at) }), { models: new Map() });
    expect(geometry([900, 0, 900]).origin).toEqual([0, 0, 0]);
    const far = geometry([100_000, 0, 0]);
    expect(far.origin).toEqual([1563 * 64, 0, 0]);
    expect(boundsInWorld(far.bounds, far.origin)[0]).toBeCloseTo(99_990, 9);
    expect(Math.abs(far.bounds[0])).toBeLessThan(64);
  });

  it("gives sections, depths and grids in the document's metres", async () => {
    const look = async (at: V3) => {
      const doc = parseDocument({ fumarium: 2, ...yard(at) });
      const probe = await SectionProbe.create(wasm());
      probe.setGeometry(compileScene(doc, { models: new Map() }));
      const ask = { x: 0.6, y: 0.6, plane: { kind: "upright" }, scale: "even", window: null, columns: 24, rows: 12, lit: false } as const;
      return { section: probe.section(doc, ask), grid: probe.bake(doc, 2, 12), noise: probe.noise(doc, 3) };
    };
    const [here, there] = [await look([0, 0, 0]), await look([100_000, 3_000, -100_000])];
    expect(there.section.window[1] - here.section.window[1]).toBeCloseTo(3000, 2);
    expect(there.section.fate.end!).toBeCloseTo(here.section.fate.end!, 4);
    expect(difference(here.section.field, there.section.field)).toBeLessThan(1e-4);
    expect(there.section.cut[1]! - here.section.cut[1]!).toBeCloseTo(3000, 2);
    expect(there.section.fate.depths.at(-1)!).toBeCloseTo(here.section.fate.depths.at(-1)!, 4);
    expect(there.grid.toWorld[3] - here.grid.toWorld[3]).toBeCloseTo(100_000, 6);
    expect(there.grid.max).toBeCloseTo(here.grid.max, 5);
    expect(difference(here.noise.slice, there.noise.slice)).toBeLessThan(1e-6);
  });

  it("is looked at from a lens of few metres by the veil's shader", async () => {
    const { memory } = await load(yard([100_000, 3_000, -100_000]));
    const { parameters, lights } = veilTables(memory.buffer);
    for (const k of AXES) {
      expect(Math.abs(parameters[P_CAM_ORIGIN + k]!)).toBeLessThan(64);
      expect(Math.abs(lights[L_POSITION + k]!)).toBeLessThan(64);
    }
  });
});
