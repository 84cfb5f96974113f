import { readFileSync } from "node:fs";
import { SectionProbe } from "#core/section/probe";
import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { matteValues, passValues, type Film } from "#core/film/film";
import { compileScene } from "#core/scene/compile";
import type { Mesh } from "#core/data/geometry";
import * as L from "#core/layout/layout";
import { seeded } from "../bench/rays";
import { load, render, type PartialDocument } from "../support/kernel";
import { holds } from "../support/record";
import { manyPlaces, sharedModel } from "../support/shared-model";

const { shared, expanded, one } = sharedModel(manyPlaces(15));
const scene: PartialDocument = {
  assets: { row: { uri: "row.glb" } },
  materials: { floor: { baseColor: [0.5, 0.5, 0.5] } },
  objects: [
    { kind: "model", name: "row", asset: "row", scale: 0.7, rotation: [0, 20, 0], position: [0.3, 0, 0] },
    { kind: "rectangle", name: "ground", material: "floor", size: [30, 30], position: [0, -2.5, 0] },
  ],
  camera: { position: [0.5, 0.3, 5], target: [0, -0.4, 0], fieldOfView: 48 },
  sun: { azimuth: 150, elevation: 35 },
  air: [{ density: 0.05, region: { kind: "sphere", centre: [0, 0, 0], radius: 9 } }],
  film: { size: [64, 48], mattes: true },
  render: { level: "full", airBounces: 2, surfaceBounces: 4 },
};
const compiled = (mesh: Mesh) => compileScene(parseDocument({ fumarium: 2, ...scene }), { models: new Map([["row", mesh]]) });

describe("triangles in several places", () => {
  it("are kept once, but for those that shine; bounds are those of all places", () => {
    const [a, b] = [compiled(shared), compiled(expanded)];
    expect(a.shownTriangles).toBe(b.triangleCount);
    expect(b.shownTriangles).toBe(b.triangleCount);
    const lamp = [...shared.material].filter((m) => m === 5).length;
    expect(a.triangleCount).toBe(one - lamp + 15 * lamp + 2);
    expect(a.places.byteLength).toBe(15 * L.INSTANCE_SIZE);
    expect(a.emissive.length).toBe(b.emissive.length);
    a.bounds.forEach((v, k) => expect(v).toBeCloseTo(b.bounds[k]!, 4));
    a.objectBounds[0]!.forEach((v, k) => expect(v).toBeCloseTo(b.objectBounds[0]![k]!, 4));
  });

  it("are named where the lens sees them, as the mattes of a render name them", async () => {
    const plain = { ...shared, materials: shared.materials.map((m) => ({ ...m, alphaMode: "opaque" as const, transmission: 0 })) };
    const models = new Map([["row", plain]]);
    const film = await render(scene, 4, undefined, 0, { models });
    const probe = await SectionProbe.create(new WebAssembly.Module(readFileSync("build/kernel/kernel.plain.wasm")));
    const doc = parseDocument({ fumarium: 2, ...scene });
    probe.setGeometry(compileScene(doc, { models }));
    const mattes = { object: matteValues(film, "object"), material: matteValues(film, "material") };
    const whole = (kind: "object" | "material", i: number): string | null =>
      [...mattes[kind]].find(([, values]) => values[i]! > 0.999)?.[0] ?? null;
    const [told, expected]: { object: string; material: string }[][] = [[], []];
    for (let i = 0; i < 64 * 48; i++) {
      const [object, material] = [whole("object", i), whole("material", i)];
      if (!object || !material) continue;
      const [met] = probe.seen(doc, [{ x: ((i % 64) + 0.5) / 64, y: (Math.floor(i / 64) + 0.5) / 48 }]);
      expected!.push({ object, material });
      told!.push(met!);
    }
    // four samples may all miss what stands in a pixel's middle
    const wrong = expected!.filter((e, i) => JSON.stringify(e) !== JSON.stringify(told![i])).length;
    expect(wrong / expected!.length).toBeLessThan(0.01);
    expect(new Set(expected!.map((e) => `${e.object}, ${e.material}`)).size).toBeGreaterThan(2);
    // past the set is nothing
    const above = { ...doc, camera: { ...doc.camera, target: [0.5, 9, 4] as [number, number, number] } };
    expect(probe.seen(above, [{ x: 0.5, y: 0.1 }])).toEqual([null]);
  });

  it("are met by rays where they would be if each were written out, whatever their place does to them", async () => {
    const rays = 20_000;
    const random = seeded(11);
    const set = new Float32Array(8 * rays);
    for (let i = 0; i < rays; i++) {
      const d = i % 50 === 0 ? [0, 0, 0].map((_v, k) => (k === (i / 50) % 3 ? 1 : 0)) : [random() - 0.5, random() - 0.5, random() - 0.5];
      const l = Math.hypot(...d);
      set.set([random() * 8 - 4, random() * 5 - 2, random() * 4 - 2, i % 4 ? 1e30 : 2 * random(), ...d.map((v) => v / l), 0], 8 * i);
    }
    const traced = async (mesh: Mesh): Promise<Float32Array[]> => {
      // solid, so that chance has no part in it
      const plain = { ...mesh, materials: mesh.materials.map((m) => ({ ...m, alphaMode: "opaque" as const, transmission: 0 })) };
      const { kernel, memory, plan } = await load(scene, { models: new Map([["row", plain]]) });
      const from = Math.ceil(plan.end / 65536) * 65536;
      memory.grow(Math.ceil((40 * rays) / 65536) + 1);
      new Float32Array(memory.buffer, from, set.length).set(set);
      return [0, 1].map((any) => {
        kernel.traceRays(from, from + 32 * rays, rays, any);
        return new Float32Array(memory.buffer, from + 32 * rays, 2 * rays).slice();
      });
    };
    const [a, b] = [await traced(shared), await traced(expanded)];
    let far = 0,
      hits = 0;
    for (let i = 0; i < rays; i++) {
      const [x, y] = [a[0]![2 * i]!, b[0]![2 * i]!];
      if (y < 1e29 && y < set[8 * i + 3]!) hits++;
      if (Math.abs(Math.min(x, 1e3) - Math.min(y, 1e3)) > 1e-4 * Math.max(1, Math.min(y, 1e3))) far++;
      // any hit where there is a closest one, in the same picture of the same scene
      expect(a[1]![2 * i] === 1).toBe(x < set[8 * i + 3]!);
    }
    expect(hits).toBeGreaterThan(rays / 4);
    // a ray within a rounding of an edge may go either way
    holds({ case: "shared triangles", quantity: "rays that end elsewhere, of 20 000", expected: 0, source: "the same written out", measured: far, error: 1, }, 4); // prettier-ignore
  });

  it("look as they would: normals, bumps, cut-outs, panes, glass, lamps, mattes", async () => {
    const film = (mesh: Mesh): Promise<Film> => render(scene, 16, L.PASS_AIR | L.PASS_SURFACES, 0, { models: new Map([["row", mesh]]) });
    const [a, b] = [await film(shared), await film(expanded)];
    const pixels = a.width * a.height;
    for (const pass of ["surfaces", "air", "albedo", "normal"] as const) {
      const [x, y] = [passValues(a, pass), passValues(b, pass)];
      let sum = 0,
        total = 0,
        off = 0;
      for (let i = 0; i < x.length; i++) {
        sum += x[i]! - y[i]!;
        total += Math.abs(y[i]!);
        if (Math.abs(x[i]! - y[i]!) > 1e-3 * Math.max(Math.abs(y[i]!), 1e-3)) off++;
      }
      // the same samples: but for rays that rounding sends elsewhere, the same picture
      expect(off / x.length, pass).toBeLessThan(0.05);
      holds({ case: "shared triangles", quantity: `mean of ${pass}, as a share`, expected: 1, source: "the same written out", measured: 1 + sum / total, error: 0 }, 0, 5e-3); // prettier-ignore
    }
    const [m, n] = [a, b].map((f) => matteValues(f, "object").get("row")!);
    let covered = 0,
      differs = 0;
    for (let i = 0; i < pixels; i++) {
      covered += n![i]!;
      differs += Math.abs(m![i]! - n![i]!);
    }
    expect(covered).toBeGreaterThan(pixels / 8);
    expect(differs / covered).toBeLessThan(2e-3);
  });
});
