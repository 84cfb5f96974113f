import { describe, expect, it } from "vitest";
import { rayThrough } from "../document/camera";
import { modelIO, readModel } from "../formats/gltf";
import { unit, type V3 } from "../math/vectors";
import { axisDirection, upOf, type PlateLens } from "./lens";
import { depthMesh } from "./mesh";
import { plateModel, plateScene } from "./scene";

const RAD = Math.PI / 180;
const lens: PlateLens = { fieldOfView: 40 * RAD, width: 16, height: 10 };
const MODEL = { uri: "plate.glb", sha256: "0".repeat(64) };

describe("a scene of a plate", () => {
  it.each([
    [0, 0],
    [-12, 4],
    [30, -20],
  ])("has its lens where its pixels look: tilt %s°, roll %s°", async (tilt, roll) => {
    const stand = { up: upOf({ tilt: tilt * RAD, roll: roll * RAD }), height: 1.5 };
    const doc = plateScene("p", lens, stand, [16, 10], MODEL);
    expect(doc.camera.position).toEqual([0, 1.5, 0]);
    // a surface all 5 m from the lens: its corners lie where the document's lens looks
    const mesh = depthMesh(new Float32Array(160).fill(5), lens);
    const bytes = await plateModel(mesh, lens, stand);
    const { mesh: placed } = await readModel(bytes, "plate");
    const corners = new Set<string>();
    const tidy = (p: readonly number[]): string => p.map((v) => (v + 1e-9).toFixed(3)).join();
    for (let i = 0; i < placed.positions.length; i += 3) corners.add(tidy([...placed.positions.subarray(i, i + 3)]));
    for (const i of mesh.pixels) {
      const d = rayThrough(doc, ((i % 16) + 0.5) / 16, (Math.floor(i / 16) + 0.5) / 10);
      const p: V3 = [5 * d[0], 1.5 + 5 * d[1], 5 * d[2]];
      // to a millimetre either way
      const near = [0, 1, 2].reduce<V3[]>(
        (all, k) => all.flatMap((q) => [-0.001, 0, 0.001].map((e) => q.map((v, j) => (j === k ? v + e : v)) as V3)),
        [p],
      );
      expect(near.some((q) => corners.has(tidy(q)))).toBe(true);
    }
    // and so does the lens in the model
    const node = (await modelIO().readBinary(bytes))
      .getRoot()
      .listNodes()
      .find((n) => n.getCamera())!;
    const m = node.getWorldMatrix();
    const ahead = rayThrough(doc, 0.5, 0.5);
    [8, 9, 10].forEach((k, i) => expect(-m[k]!).toBeCloseTo(ahead[i]!, 5));
    const up = rayThrough(doc, 0.5, 0).map((v, i) => v - ahead[i]! * rayThrough(doc, 0.5, 0).reduce((s, w, j) => s + w * ahead[j]!, 0));
    [4, 5, 6].forEach((k, i) => expect(m[k]).toBeCloseTo(up[i]! / Math.hypot(...up), 5));
    expect(unit(axisDirection(lens, 0.5, 0.5))).toEqual([0, 0, -1]);
  });
});
