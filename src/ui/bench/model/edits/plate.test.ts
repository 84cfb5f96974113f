import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { plateCamera, seesPlate } from "#core/document/plate-lens";
import type { SceneDocument } from "#core/document/schema";
import { axisDirection, horizonOf, upOf, type PlateLens } from "#core/plate/lens";
import { partsOf } from "../../../shared/plate-files";
import { changePlate, heldByHorizon, rollByUpright, withBrought, withoutPlate } from "./plate";

const RAD = Math.PI / 180;
const hash = (c: string): string => c.repeat(64);
function brought(more: object = {}): SceneDocument {
  const doc = parseDocument({
    fumarium: 2,
    assets: { picture: { uri: "a.png", sha256: hash("a") }, depth: { uri: "z.png", sha256: hash("b") } },
    materials: { plate: {} },
    objects: [{ kind: "plate", name: "plate", material: "plate", locked: true }],
    film: { size: [640, 360], exposure: 9 },
    plate: { picture: "picture", depth: "depth", fieldOfView: 40, ...more },
  });
  return { ...doc, camera: plateCamera(doc.plate!, doc.camera) };
}

describe("a plate that is brought in", () => {
  it("gives an empty document its size, exposure and lens; the air stays", () => {
    const doc = withBrought(parseDocument({ fumarium: 2, air: [{ name: "haze" }] }), brought());
    expect(doc.film).toMatchObject({ size: [640, 360], exposure: 9 });
    expect(doc.air).toHaveLength(1);
    expect(seesPlate(doc)).toBe(true);
    expect(() => parseDocument(doc)).not.toThrow();
  });

  it("keeps apart what has the same names, and the exposure of a set that is there", () => {
    const there = parseDocument({
      fumarium: 2,
      assets: { picture: { uri: "sky.hdr", sha256: hash("c") } },
      materials: { plate: { roughness: 0.2 } },
      objects: [{ kind: "box", name: "plate", material: "plate", size: [1, 1, 1] }],
    });
    const doc = withBrought(there, brought());
    expect(doc.plate).toMatchObject({ picture: "picture 2", depth: "depth" });
    expect(doc.objects.map((o) => [o.kind, o.name])).toEqual([["box", "plate"], ["plate", "plate 2"]]); // prettier-ignore
    expect(doc.materials["plate"]!.roughness).toBe(0.2);
    expect(doc.film.exposure).toBe(12);
    expect(() => parseDocument(doc)).not.toThrow();
    // another one takes its place: one surface
    const again = withBrought(doc, brought({ along: "ray" }));
    expect(again.objects).toHaveLength(2);
    expect(again.plate!.along).toBe("ray");
    expect(withoutPlate(again)).toMatchObject({ plate: null, objects: [{ kind: "box" }] });
  });

  it("takes its lens along where one looks through it, and refuses what cannot be", () => {
    const doc = brought();
    expect(seesPlate(changePlate(doc, { tilt: -12, fieldOfView: 60 }))).toBe(true);
    const elsewhere = { ...doc, camera: { ...doc.camera, position: [5, 5, 5] as [number, number, number] } };
    expect(changePlate(elsewhere, { tilt: -12 }).camera).toEqual(elsewhere.camera);
    expect(changePlate(doc, { unit: -1 })).toBe(doc);
    expect(changePlate(doc, { range: [4, 4] })).toBe(doc);
  });
});

describe("a lens set in the picture", () => {
  const { plate, film } = brought();
  const lens: PlateLens = { fieldOfView: 40 * RAD, width: 640, height: 360 };

  it.each([[0, 0], [-8, 5], [20, -15]])("by its horizon: tilt %s°, lean %s°", (tilt, roll) => {
    const line = horizonOf(lens, upOf({ tilt: tilt * RAD, roll: -roll * RAD }))!;
    const at = (x: number): [number, number] => [x, line.left + x * (line.right - line.left)];
    const held = heldByHorizon(plate!, film.size, at(0.1), at(0.8))!;
    expect(held.tilt).toBeCloseTo(tilt, 3);
    expect(held.roll).toBeCloseTo(roll, 3);
    expect(heldByHorizon(plate!, film.size, [0.5, 0.5], [0.5, 0.5])).toBe(null);
  }); // prettier-ignore

  it.each([[0, 6], [-10, -4], [12, 9]])("by something upright: tilt %s°, lean %s°", (tilt, roll) => {
    // two points of a post that stands aside, as that lens sees them
    const up = upOf({ tilt: tilt * RAD, roll: -roll * RAD });
    const foot = axisDirection(lens, 0.7, 0.6).map((v) => 10 * v);
    const seen = (p: readonly number[]): [number, number] => {
      const hy = Math.tan(20 * RAD);
      return [0.5 + p[0]! / -p[2]! / ((hy * 640) / 360) / 2, 0.5 - p[1]! / -p[2]! / hy / 2];
    };
    const head = foot.map((v, k) => v + 2 * up[k]!);
    expect(rollByUpright({ ...plate!, tilt }, film.size, seen(foot), seen(head))).toBeCloseTo(roll, 3);
  }); // prettier-ignore
});

it("which of two files is the depth goes by names, else by order", () => {
  const named = (...names: string[]) => names.map((name) => ({ name }));
  expect(partsOf(named("a_depth.exr", "a.exr"))).toMatchObject({ picture: { name: "a.exr" }, depth: { name: "a_depth.exr" } });
  expect(partsOf(named("a.exr", "Z.exr")).depth!.name).toBe("Z.exr");
  expect(partsOf(named("one.exr", "two.exr")).picture.name).toBe("one.exr");
  expect(partsOf(named("a.exr")).depth).toBe(null);
  expect(() => partsOf(named("a", "b", "c"))).toThrow(/3 files/);
  expect(() => partsOf([])).toThrow(/Choose a picture/);
});
