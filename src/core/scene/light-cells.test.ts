import { describe, expect, it } from "vitest";
import * as L from "../layout/layout";
import { placementMatrix, transformPoint } from "../math/affine";
import { parseDocument } from "../document/parse";
import { compileScene } from "./compile";
import { detailBounds } from "./detail";
import { buildTables } from "./parameters";

const box = (x: number, z: number, size: number): number[] => {
  // one triangle a metre or so across, standing
  return [x, 0, z, x + size, 0, z, x, size, z];
};

describe("where a set has its detail", () => {
  it("is its house, not the ground about it", () => {
    const house = Array.from({ length: 400 }, (_, i) => box((i % 20) / 2, Math.floor(i / 20) / 2, 0.5)).flat();
    const ground = [-500, 0, -500, 500, 0, -500, 500, 0, 500, -500, 0, -500, 500, 0, 500, -500, 0, 500];
    const positions = new Float32Array([...house, ...ground]);
    const out = detailBounds(positions, 402, [], [-500, 0, -500, 500, 0.5, 500]);
    expect(out[0]).toBeGreaterThan(-3);
    expect(out[3]).toBeLessThan(13);
    expect(out[0]).toBeLessThan(1.5);
    expect(out[3]).toBeGreaterThan(8.5);
    expect(out[5]).toBeLessThan(13);
  });
  it("is all of it where there is nothing to tell apart", () => {
    expect(detailBounds(new Float32Array(0), 0, [], [0, 0, 0, 1, 1, 1])).toEqual([0, 0, 0, 1, 1, 1]);
    expect(detailBounds(new Float32Array(9), 1, [], [0, 0, 0, 0, 0, 0])).toEqual([0, 0, 0, 0, 0, 0]);
  });
  it("is the same whether what stands in several places is written out or kept once", () => {
    const places = Array.from({ length: 53 }, (_, i) => ({ matrix: placementMatrix([i, 0, 0], [0, 30 * i, 0]) }));
    const one = new Float32Array(box(0, 0, 1));
    const bounds: [number, number, number, number, number, number] = [-1, 0, -1, 900, 1, 1];
    const shared = detailBounds(one, 0, [{ first: 0, count: 1, places }], bounds);
    expect(shared[3]).toBeLessThan(60);
    expect(shared[3]).toBeGreaterThan(40);
    const out = places.flatMap(({ matrix }) => [0, 3, 6].flatMap((k) => transformPoint(matrix, [one[k]!, one[k + 1]!, one[k + 2]!])));
    detailBounds(new Float32Array(out), 53, [], bounds).forEach((x, k) => expect(x).toBeCloseTo(shared[k]!, 5));
  });
});

describe("cells that know their lights", () => {
  const plan = (change: object = {}): { at: number; count: number[]; keys: Set<string>; low: number[] } => {
    const doc = parseDocument({
      fumarium: 2,
      materials: { stone: {} },
      objects: [{ kind: "box", material: "stone", size: [4, 3, 5], position: [0, 1.5, 0] }],
      ...change,
    });
    const geometry = compileScene(doc, { models: new Map() });
    const { tables, parameters } = buildTables(doc, geometry, 0, { volumes: {}, distances: {} });
    return {
      at: parameters.get(L.P_LIGHT_CELLS) ?? 0,
      count: [0, 1, 2].map((k) => parameters.get(L.P_LIGHT_CELLS_COUNT + k) ?? 0),
      low: [0, 1, 2].map((k) => parameters.get(L.P_LIGHT_CELLS_LOW + k) ?? 0),
      keys: new Set([...tables.filledAt(0)].filter((key) => key.includes("cells"))),
    };
  };
  it("cover the set and fit their number", () => {
    const { at, count } = plan();
    expect(at).toBeGreaterThan(0);
    expect(count[0]! * count[1]! * count[2]!).toBeLessThanOrEqual(L.MAX_LIGHT_CELLS);
    expect(count[0]! * count[1]! * count[2]!).toBeGreaterThan(0.6 * L.MAX_LIGHT_CELLS);
  });
  it("stay while air is shaped, and are looked at anew where lights, sun or sky change", () => {
    const keys = (change: object): string => [...plan(change).keys].join();
    const lamp = { kind: "point", position: [0, 2, 0], intensity: 100 };
    expect(keys({ air: [{ density: 0.1 }] }).replace(/^\d+ /, "")).toBe(keys({ air: [{ density: 0.2 }] }).replace(/^\d+ /, ""));
    const known = [{}, { lights: [lamp] }, { lights: [{ ...lamp, intensity: 50 }] }, { sun: { elevation: 70 } }, { sky: { luminance: 3 } }];
    expect(new Set(known.map(keys)).size).toBe(known.length);
  });
  it("reach out to a lamp nearby, not to one far off", () => {
    const low = (x: number): number => plan({ lights: [{ kind: "point", position: [x, 2, 0], intensity: 1 }] }).low[0]!;
    expect(low(-4)).toBeCloseTo(-4, 5);
    expect(low(-4000)).toBeGreaterThan(-10);
  });
  it("are left out where there is nothing to see them by", () => {
    expect(plan({ sun: { on: false }, sky: { on: false } }).at).toBe(0);
    expect(plan({ objects: [] }).at).toBe(0);
  });
});
