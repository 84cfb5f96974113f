import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import { compileScene, compileGeometry } from "./compile";
import { cropOf, planMemory } from "./memory";
import { geometryKey } from "./keys";
import { assemble } from "./assemble";
import { writeParameters } from "./parameters";
import { sunAngles, sunDirection } from "../math/vectors";
import { cameraFrame, frameOf, rayThrough } from "../document/camera";
import { placementMatrix } from "../math/affine";
import * as L from "../layout/layout";
import { finestStep } from "./media";
import { VolumeBuilder } from "../data/volume";
import { integerAt, integerParameter } from "../layout/integers";

const doc = (value: object = {}) => parseDocument({ fumarium: 2, ...value });

describe("directions", () => {
  it("azimuth and elevation go there and back", () => {
    for (const [a, e] of [
      [0, 0],
      [90, 10],
      [-120, -35],
      [179, 80],
    ] as const) {
      const back = sunAngles(sunDirection(a, e));
      expect(back.azimuth).toBeCloseTo(a, 9);
      expect(back.elevation).toBeCloseTo(e, 9);
    }
    expect(sunDirection(0, 0)[2]).toBeCloseTo(-1, 12);
    expect(sunDirection(90, 0)[0]).toBeCloseTo(1, 12);
  });

  it("the lens frame is orthonormal and right-handed, also straight down and rolled", () => {
    for (const camera of [{}, { position: [0, 9, 0], target: [0, 0, 0] }, { position: [1, 2, 3], target: [-4, 0, 9], roll: 37 }]) {
      const { right, up, forward } = cameraFrame(doc({ camera }).camera);
      const dot = (a: number[], b: number[]): number => a.reduce((s, v, i) => s + v * b[i]!, 0);
      for (const v of [right, up, forward]) expect(dot(v, v)).toBeCloseTo(1, 12);
      for (const [a, b] of [
        [right, up],
        [up, forward],
        [right, forward],
      ] as const)
        expect(dot(a, b)).toBeCloseTo(0, 12);
      expect(right[1] * up[2] - right[2] * up[1]).toBeCloseTo(-forward[0], 12);
    }
  });

  it("a place in the frame and its ray belong together", () => {
    const d = doc({ camera: { position: [3, 2, 9], target: [0, 1, 0], roll: 12, fieldOfView: 40 }, film: { size: [800, 300] } });
    for (const [x, y] of [
      [0.5, 0.5],
      [0.1, 0.9],
      [1, 0],
    ] as const) {
      const back = frameOf(d, rayThrough(d, x, y))!;
      expect(back.x).toBeCloseTo(x, 9);
      expect(back.y).toBeCloseTo(y, 9);
    }
    expect(frameOf(d, rayThrough(d, 0.5, 0.5).map((v) => -v) as [number, number, number])).toBeNull();
  });
});

describe("compiling", () => {
  const scene = doc({
    materials: { m: {} },
    objects: [
      { kind: "box", material: "m", size: [1, 2, 3], position: [5, 0, 0] },
      { kind: "sphere", material: "m", radius: 1, hidden: true },
    ],
  });

  it("places what is visible", () => {
    const g = assemble(scene, new Map());
    expect(g.material.length).toBe(12);
    expect(compileGeometry(g).bounds).toEqual([4.5, -1, -1.5, 5.5, 1, 1.5]);
  });

  it("says which model is missing, and what would not fit into memory", () => {
    const missing = doc({ assets: { a: { uri: "a.glb" } }, objects: [{ kind: "model", asset: "a" }] });
    expect(() => assemble(missing, new Map())).toThrow(/objects\[0\]: model "a" is missing/);
    expect(() => planMemory(compileGeometry(assemble(scene, new Map())), 60_000_000)).toThrow(/4 GB/);
  });

  it("its key changes with geometry and materials, not with air, light or lens", () => {
    const key = geometryKey(scene);
    expect(
      geometryKey({ ...scene, air: doc({ air: [{}] }).air, sun: { ...scene.sun, azimuth: 99 }, camera: { ...scene.camera, roll: 5 } }),
    ).toBe(key);
    expect(geometryKey({ ...scene, objects: scene.objects.slice(1) })).not.toBe(key);
    expect(geometryKey({ ...scene, materials: { m: { ...scene.materials.m!, roughness: 0.1 } } })).not.toBe(key);
  });

  it("muted or empty air is no medium; a box gives its axes; factors bring a coarse grid, and the step is kept", () => {
    const g = compileScene(scene, { models: new Map() });
    const written = (air: object[], render: object = {}): { count: number; medium: Float64Array } => {
      const d = doc({ air, render });
      const plan = planMemory(g, 100, d);
      const memory = new ArrayBuffer(plan.end);
      writeParameters(memory, d, g, plan, 10, 10);
      return {
        count: integerParameter(memory, L.P_MEDIA),
        medium: new Float64Array(memory, L.MEDIA, L.MEDIUM_WORDS),
      };
    };
    expect(written([]).count).toBe(0);
    expect(written([{ on: false }, { density: 0 }, { scattering: [0, 0, 0] }]).count).toBe(0);
    expect(written([{}, { on: false }, { region: { kind: "sphere", centre: [0, 0, 0], radius: 2 } }]).count).toBe(2);
    expect(integerAt(written([{}]).medium, L.M_MAJORANT)).toBe(0);
    const broken = written([{ noise: {} }], { estimator: "stepping", stepSize: 0.25 }).medium;
    expect(broken[L.M_STEP_SIZE]).toBe(0.25);
    expect(integerAt(broken, L.M_MAJORANT)).toBeGreaterThan(L.SCENE);
    const turned = written([{ region: { kind: "box", centre: [1, 2, 3], size: [2, 4, 6], rotation: [0, 90, 0] } }]).medium;
    expect([...turned.slice(L.M_HALF, L.M_HALF + 3)]).toEqual([1, 2, 3]);
    // the box's own x axis now lies along -z
    expect(turned[L.M_ROWS + 2]).toBeCloseTo(-1, 12);
    expect(placementMatrix([0, 0, 0], [0, 90, 0])[8]).toBeCloseTo(-1, 12);
  });

  it("crops are whole pixels inside the frame, never empty", () => {
    const crop = (region: object) => cropOf(doc({ film: { region } }), 100, 50);
    expect(crop({ x: 0.1, y: 0.2, width: 0.3, height: 0.4 })).toEqual([10, 10, 40, 30]);
    expect(crop({ x: 1, y: 1, width: 0.0000001, height: 0.0000001 })).toEqual([99, 49, 100, 50]);
  });
});

describe("step size by itself", () => {
  const assets = { puff: { uri: "puff.vdb" } };
  const grid = { asset: "puff", scale: 2 };
  it("is the finest of what is stepped through; a grid's that of its voxels, once they are known", () => {
    const b = new VolumeBuilder(0);
    b.set(0, 0, 0, 1);
    const volumes = new Map([["puff", { density: b.build([0.05, 0, 0, 0, 0, 0.05, 0, 0, 0, 0, 0.05, 0]) }]]);
    const d = parseDocument({ fumarium: 2, assets, air: [{ density: 0.1, grid }, { density: 9, on: false, noise: { size: 0.01 } }, { density: 0.3 }] }); // prettier-ignore
    const built = compileScene(d, { models: new Map(), volumes });
    expect(finestStep(d, built)).toBe(0.1);
    expect(finestStep(d, null)).toBe(5);
    // thick air is stepped through by its own mean free path
    expect(finestStep({ ...d, air: d.air.map((m) => ({ ...m, density: 30 })) }, built)).toBeCloseTo(1 / 90, 3);
    expect(finestStep(parseDocument({ fumarium: 2, air: [{ density: 0.3, height: {} }] }), null)).toBeNull();
  });
});
