import { encode } from "fast-png";
import { describe, expect, it } from "vitest";
import { decoders } from "../../cli/decoders";
import { parseDocument } from "../document/parse";
import type { Affine } from "../math/affine";
import { assemble } from "../scene/assemble";
import { exportGltf } from "./gltf-export";
import { importSet } from "./import/index";
import { readModel } from "../formats/gltf";

const obj = "mtllib w.mtl\nv 0 0 0\nv 2 0 0\nv 2 3 0\nv 0 3 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nusemtl b\nf 1/1 2/2 3/3 4/4\n";
const png = new Uint8Array(encode({ width: 2, height: 1, data: new Uint8Array([255, 0, 0, 0, 255, 0]), channels: 3, depth: 8 }));
const bring = (files: [string, Uint8Array | string][]) =>
  importSet(new Map(files.map(([k, v]) => [k, typeof v === "string" ? new TextEncoder().encode(v) : v])), {
    decoders,
    decode: (b) => new TextDecoder().decode(b),
  });

describe("scenes as glTF", () => {
  it("come back with the same set, lenses, lights and sun", async () => {
    const wall = await bring([["w.obj", obj], ["w.mtl", "newmtl b\nKd 1 1 1\nmap_Kd w.png\n"], ["w.png", png]]); // prettier-ignore
    const { mesh } = await readModel(wall.model);
    const doc = parseDocument({
      fumarium: 2,
      assets: { wall: { uri: "w.glb" } },
      materials: { glow: { baseColor: [0.1, 0.2, 0.3], emission: [40, 20, 10] }, pane: { transmission: 0.9, solid: true, ior: 1.4 } },
      objects: [
        { kind: "model", name: "wall", asset: "wall", position: [1, 0, -2], scale: 2 },
        { kind: "box", name: "lamp", material: "glow", size: [1, 1, 1] },
        { kind: "sphere", material: "pane", radius: 0.5, hidden: true },
      ],
      camera: { position: [3, 2, 9], target: [0, 1, -2], roll: 15, fieldOfView: 33 },
      lenses: [{ name: "plan", camera: { kind: "orthographic", position: [0, 20, 1], target: [0, 0, 0], height: 14 } }],
      sun: { azimuth: 70, elevation: 25, illuminance: 30_000, temperature: 6500 },
      lights: [
        { kind: "spot", name: "beam", position: [0, 4, 0], target: [1, 0, 2], intensity: 500, cone: 44, softness: 0.25, temperature: 6500 },
        { kind: "point", name: "bulb", position: [1, 1, 1], intensity: 800, unit: "lm" },
        { kind: "tube", name: "strip", position: [0, 2, 0] },
      ],
      air: [{ density: 0.1 }],
    });
    const { bytes, left } = await exportGltf(doc, new Map([["wall", mesh]]));
    expect(left).toEqual(['light "strip": glTF knows no tube lights', "1 medium", "the sky"]);
    const back = await bring([["out.glb", bytes]]);
    expect(back.report.triangles).toBe(2 + 12);
    // the model's far corner at twice its size, moved
    expect(back.bounds.map((v) => Number(v.toFixed(3)))).toEqual([-0.5, -0.5, -2, 5, 6, 0.5]);
    const [lens, plan] = back.lenses;
    expect(lens!.camera.roll).toBeCloseTo(15, 3);
    expect(lens!.camera.fieldOfView).toBeCloseTo(33, 4);
    const along = (c: { position: number[]; target: number[] }): number[] => {
      const d = c.target.map((t, k) => t - c.position[k]!);
      return d.map((v) => v / Math.hypot(...d));
    };
    along(lens!.camera).forEach((v, k) => expect(v).toBeCloseTo(along(doc.camera)[k]!, 5));
    expect(plan).toMatchObject({ name: "plan", camera: { kind: "orthographic", height: 14 } });
    expect(back.sun!.azimuth).toBeCloseTo(70, 3);
    expect(back.sun!.elevation).toBeCloseTo(25, 3);
    const [beam, bulb] = back.lights;
    if (beam?.kind !== "spot") throw new Error("no spot");
    expect(beam.cone).toBeCloseTo(44, 3);
    expect(beam.softness).toBeCloseTo(0.25, 3);
    expect(bulb!.intensity).toBeCloseTo((800 / (4 * Math.PI)) * Math.max(...(await import("../optics/colour")).temperatureRgb(4000)), 1);
    const model = (await readModel(back.model)).mesh;
    expect([...model.textures![0]!.rgba]).toEqual([255, 0, 0, 255, 0, 255, 0, 255]);
    model.materials.find((m) => m.name === "glow")!.emission.forEach((v, k) => expect(v).toBeCloseTo([40, 20, 10][k]!, 3));
  });

  it("keep what stands in many places as one mesh in many nodes, and write out what a node cannot hold", async () => {
    const wall = await bring([["w.obj", obj]]);
    const { mesh } = await readModel(wall.model);
    const count = 12_000;
    const part = { path: "row", first: 0, count: 2, pivot: [0, 0, 0] as const };
    const parts = Array.from({ length: count }, (_, i) => ({ ...part, matrix: [1, 0, 0, i, 0, 1, 0, 0, 0, 0, 1, 0] as Affine }));
    // turned and mirrored; sheared
    parts[7]!.matrix = [0, 2, 0, 0, 2, 0, 0, 50, 0, 0, 1, 0];
    parts[8]!.matrix = [1, 0.5, 0, 0, 0, 1, 0, 90, 0, 0, 1, 0];
    const doc = parseDocument({
      fumarium: 2,
      assets: { wall: { uri: "w.glb" } },
      objects: [{ kind: "model", name: "row", asset: "wall", position: [0, 0, -2] }],
    });
    const { bytes } = await exportGltf(doc, new Map([["wall", { ...mesh, parts }]]));
    const back = await bring([["out.glb", bytes]]);
    expect(back.report).toMatchObject({ triangles: 2 * count, kept: 2 + 2, instances: count - 2 });
    const read = (await readModel(back.model)).mesh;
    const shown = assemble(
      parseDocument({ fumarium: 2, assets: { o: { uri: "o.glb" } }, objects: [{ kind: "model", asset: "o" }] }),
      new Map([["o", read]]),
    );
    const corners = (i: number): number[] => {
      const { matrix: m } = shown.shared![0]!.places[i]!;
      const p = shown.positions.subarray(9 * shown.shared![0]!.first);
      return [0, 1, 2].flatMap((k) =>
        [0, 1, 2].map(
          (r) =>
            Number((m[4 * r]! * p[3 * k]! + m[4 * r + 1]! * p[3 * k + 1]! + m[4 * r + 2]! * p[3 * k + 2]! + m[4 * r + 3]!).toFixed(3)) + 0,
        ),
      );
    };
    expect(corners(5)).toEqual([5, 0, -2, 7, 0, -2, 7, 3, -2]);
    expect(corners(7)).toEqual([0, 50, -2, 0, 54, -2, 6, 54, -2]);
    expect([...shown.positions.subarray(0, 9)].map((v) => Number(v.toFixed(3)))).toEqual([0, 90, -2, 2, 90, -2, 3.5, 93, -2]);
  });
});
