import type { Affine } from "../math/affine";
import { describe, expect, it } from "vitest";
import { gridSchema } from "../document/air";
import { parseDocument } from "../document/parse";
import { compileTimeVarying, compileScene } from "./compile";
import { geometryKey, meshKey } from "./keys";
import { frameAt, gridFrames, gridKey } from "../document/sequence";
import { everUsedAssets, usedAssets } from "../document/assets";
import { blendVolumes } from "../data/blend";
import { volumeAt, VolumeBuilder, type Volume } from "../data/volume";

const grid = (more: object = {}) => gridSchema.parse({ asset: "a", high: 1, sequence: { frames: ["a", "b", "c"], rate: 10, ...more } });

/** A lump of ones about a place, cubes of `voxel` m. */
function lump(voxel: number, at: [number, number, number], value = 1): Volume {
  const b = new VolumeBuilder(0);
  for (let k = -6; k <= 6; k++) for (let j = -6; j <= 6; j++) for (let i = -6; i <= 6; i++) b.set(i, j, k, value);
  return b.build([voxel, 0, 0, at[0], 0, voxel, 0, at[1], 0, 0, voxel, at[2]]);
}

describe("sequences", () => {
  it("show the frame of a time, begun anew at the end or held there", () => {
    expect([0, 0.05, 0.1, 0.29, 0.3, -0.05].map((t) => frameAt(3, 10, true, t))).toEqual([0, 0, 1, 2, 0, 2]);
    expect([-1, 0.25, 9].map((t) => frameAt(3, 10, false, t))).toEqual([0, 2, 2]);
  });

  it("lie between two frames in between, and on one at its own time", () => {
    expect(gridFrames(grid(), 0.1)).toEqual({ from: "b", to: null, share: 0 });
    expect(gridFrames(grid(), 0.15)).toEqual({ from: "b", to: "c", share: 0.5 });
    // from the last to the first again, or to nothing
    expect(gridFrames(grid(), 0.275)).toEqual({ from: "c", to: "a", share: 0.75 });
    expect(gridFrames(grid({ loop: false }), 0.275)).toEqual({ from: "c", to: null, share: 0 });
    expect(gridFrames(grid({ loop: false }), -3)).toEqual({ from: "a", to: null, share: 0 });
    expect(gridFrames(grid({ between: false }), 0.19)).toEqual({ from: "b", to: null, share: 0 });
    expect(gridFrames(gridSchema.parse({ asset: "a" }), 0.19)).toEqual({ from: "a", to: null, share: 0 });
    expect(gridKey(grid(), "density", 0.15)).not.toBe(gridKey(grid(), "density", 0.16));
  });

  it("need a fixed full value, and files that the document names", () => {
    expect(() => gridSchema.parse({ asset: "a", sequence: { frames: ["a"] } })).toThrow(/pump/);
    const doc = { fumarium: 2, assets: { a: { uri: "a.vdb" } }, air: [{ grid: grid() }] };
    expect(() => parseDocument(doc)).toThrow(/air\[0\]\.grid\.sequence\.frames\[1\].*no asset named "b"/s);
  });

  it("are read and built for their time alone; triangles stay", () => {
    const assets = Object.fromEntries(["a", "b", "c"].map((n) => [n, { uri: `${n}.vdb` }]));
    const doc = (time: number) =>
      parseDocument({
        fumarium: 2,
        time,
        assets,
        materials: { m: {} },
        objects: [{ kind: "box", material: "m", size: [1, 1, 1] }],
        air: [{ grid: grid() }],
      });
    expect([...usedAssets(doc(0.15)).keys()]).toEqual(["b", "c"]);
    expect([...everUsedAssets(doc(0.15)).keys()].sort()).toEqual(["a", "b", "c"]);
    expect(meshKey(doc(0.15))).toBe(meshKey(doc(0.1)));
    expect(geometryKey(doc(0.15))).not.toBe(geometryKey(doc(0.1)));
    const volumes = new Map([["b", { density: lump(0.1, [0, 0, 0]) }], ["c", { density: lump(0.1, [0, 0, 0], 3) }]]); // prettier-ignore
    const whole = compileScene(doc(0.15), { models: new Map(), volumes });
    const loose = compileTimeVarying(doc(0.15), { models: new Map(), volumes });
    expect(Object.keys(loose.volumes)).toEqual(Object.keys(whole.volumes));
    expect(volumeAt(Object.values(loose.volumes)[0]!.volume, 0, 0, 0)).toBeCloseTo(2, 6);
    expect(() => compileTimeVarying(doc(0.25), { models: new Map(), volumes })).toThrow(/assets\.a: the volume file is missing/);
  });
});

describe("grids between two", () => {
  it("are between at every point where both lie alike", () => {
    const [a, b] = [new VolumeBuilder(0), new VolumeBuilder(0.5)];
    for (let n = 0; n < 600; n++) a.set((n * 7) % 19, (n * 5) % 13, (n * 3) % 11, 1 + (n % 9));
    for (let n = 0; n < 600; n++) b.set(((n * 11) % 23) - 4, (n * 5) % 17, (n * 13) % 29, (n % 5) / 2);
    const place: Affine = [0.1, 0, 0, 1, 0, 0.2, 0, 2, 0, 0, 0.1, 3];
    const [va, vb] = [a.build(place), b.build(place)];
    const between = blendVolumes(va, vb, 0.25);
    for (let n = 0; n < 2000; n++) {
      const p = [0.7548776662, 0.5698402909, 0.8191725134].map((k) => ((n * k) % 1) * 40 - 8) as [number, number, number];
      expect(volumeAt(between, ...p)).toBeCloseTo(0.75 * volumeAt(va, ...p) + 0.25 * volumeAt(vb, ...p), 5);
    }
    expect(between.background).toBe(0.125);
  });

  it("look the second one up where it lies otherwise", () => {
    // 1.3 m of ones each, half a metre apart, with other voxels
    const [a, b] = [lump(0.1, [0, 0, 0]), lump(0.05, [0.5, 0, 0], 2)];
    const between = blendVolumes(a, b, 0.5);
    const at = (x: number): number => volumeAt(between, x / 0.1, 0, 0);
    expect(at(-0.4)).toBeCloseTo(0.5, 5);
    expect(at(0.4)).toBeCloseTo(0.5 + 1, 5);
    expect(at(0.7)).toBeCloseTo(1, 5);
    expect(at(1.2)).toBe(0);
    expect(() => blendVolumes(lump(1e-4, [0, 0, 0]), lump(1, [0, 0, 0]), 0.5)).toThrow(/looked up/);
  });
});
