/**
 * Models and pictures that others made (the package @pmndrs/assets, CC0): what a file carries is read as its own index says.
 */
import bunny from "@pmndrs/assets/models/bunny.glb.js";
import mark from "@pmndrs/assets/models/pmndrs.glb.js";
import suzi from "@pmndrs/assets/models/suzi.glb.js";
import dawn from "@pmndrs/assets/hdri/dawn.exr.js";
import { describe, expect, it } from "vitest";
import { decoders } from "#cli/decoders";
import { readPicture } from "../../formats/image";
import { readModel } from "../../formats/gltf";
import { importSet } from "./index";

const bytesOf = (uri: string): Uint8Array => new Uint8Array(Buffer.from(uri.slice(uri.indexOf(",") + 1), "base64"));

interface Index {
  accessors: { count: number }[];
  meshes: { primitives: { indices?: number; attributes: { POSITION: number }; mode?: number }[] }[];
  nodes: { mesh?: number }[];
  extensionsUsed?: string[];
}

/** Triangles of a file by its own index, a mesh as often as nodes place it. */
function trianglesSaid(glb: Uint8Array): { triangles: number; extensions: string[] } {
  const view = new DataView(glb.buffer, glb.byteOffset);
  const index = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + view.getUint32(12, true)))) as Index;
  const of = (mesh: number): number =>
    index.meshes[mesh]!.primitives.reduce((n, p) => n + index.accessors[p.indices ?? p.attributes.POSITION]!.count / 3, 0);
  return {
    triangles: index.nodes.reduce((n, { mesh }) => n + (mesh === undefined ? 0 : of(mesh)), 0),
    extensions: index.extensionsUsed ?? [],
  };
}

describe("what others made", () => {
  it.each([
    ["bunny", bunny],
    ["mark", mark],
    ["suzi", suzi],
  ])("the model %s comes in whole", async (name, uri) => {
    const bytes = bytesOf(uri);
    const said = trianglesSaid(bytes);
    const set = await importSet(new Map([[`${name}.glb`, bytes]]), { decoders, decode: (b) => new TextDecoder().decode(b) });
    const { mesh } = await readModel(set.model);
    expect(mesh.positions.length / 9).toBe(said.triangles);
    expect(said.triangles).toBeGreaterThan(100);
    expect(mesh.positions.every(Number.isFinite)).toBe(true);
    const size = [0, 1, 2].map((k) => set.bounds[k + 3]! - set.bounds[k]!);
    expect(Math.min(...size)).toBeGreaterThan(0);
  });

  it("the picture of a dawn, compressed with loss, is read: its sky above, bright in places, nowhere negative", () => {
    const { width, height, rgb } = readPicture(bytesOf(dawn), "dawn.exr");
    expect(width).toBe(2 * height);
    let most = 0;
    for (const v of rgb) {
      if (!(v >= 0 && v < Infinity)) throw new Error(`a value of ${v}`);
      most = Math.max(most, v);
    }
    expect(most).toBeGreaterThan(1);
    const mean = (from: number, to: number): number => {
      const part = rgb.subarray(3 * width * Math.floor(from * height), 3 * width * Math.floor(to * height));
      return part.reduce((a, v) => a + v, 0) / part.length;
    };
    expect(mean(0.1, 0.45)).toBeGreaterThan(2 * mean(0.6, 0.9));
    expect(() => readPicture(bytesOf(dawn).subarray(0, 4000), "dawn.exr")).toThrow(/dawn\.exr: ends early/);
  });
});
