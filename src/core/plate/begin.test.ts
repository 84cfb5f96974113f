import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import { plateCamera, seesPlate } from "../document/plate-lens";
import { lensMatrices } from "../formats/film-exr";
import type { Frame, Planes } from "../formats/layers";
import { lensOfFile } from "./attributes";
import { beginPlate, isWhole, type PlateFile } from "./begin";
import { depthFrame } from "./read";
import { axisDirection, upOf, type PlateLens } from "./lens";

const RAD = Math.PI / 180;
const [WIDTH, HEIGHT] = [60, 40];
const LENS: PlateLens = { fieldOfView: 50 * RAD, width: WIDTH, height: HEIGHT };

const planes = (name: string, ...bands: ((i: number) => number)[]): Planes => ({
  ...{ name, light: false, alpha: null },
  bands: bands.map((of) => Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => of(i))),
});
const frame = (layers: Planes[], more: Partial<Frame> = {}): Frame => ({
  ...{ width: WIDTH, height: HEIGHT, attributes: {}, layers: new Map(layers.map((l) => [l.name, l])) },
  ...more,
});
const grey = planes("", () => 0.4, () => 0.4, () => 0.4); // prettier-ignore
/** Depth along the axis of ground below a lens that is held so, 1.7 m up. */
function ground(tilt: number, roll: number, height = 1.7): (i: number) => number {
  const up = upOf({ tilt: tilt * RAD, roll: roll * RAD });
  return (i) => {
    const d = axisDirection(LENS, ((i % WIDTH) + 0.5) / WIDTH, (Math.floor(i / WIDTH) + 0.5) / HEIGHT);
    const down = -(up[0] * d[0] + up[1] * d[1] + up[2] * d[2]);
    return down > 0 ? height / down : Infinity;
  };
}
const file = (of: Frame, whole = false): PlateFile => ({ uri: "p.exr", sha256: "0".repeat(64), frame: of, whole });

describe("a document of a plate", () => {
  it("sees it through its lens, held as its ground tells, white as white", () => {
    const { document, guessed, report } = beginPlate("p", file(frame([grey, planes("Z", ground(-9, 4))])), null, { fieldOfView: 50 });
    expect(report.doubts).toEqual([]);
    expect(guessed).toEqual([]);
    const plate = document.plate!;
    expect(plate).toMatchObject({ depthLayer: "Z", along: "axis", light: 12, range: null });
    expect(plate.tilt).toBeCloseTo(-9, 1);
    expect(plate.roll).toBeCloseTo(-4, 1);
    expect(plate.position[1]).toBeCloseTo(1.7, 2);
    expect(seesPlate(document)).toBe(true);
    expect(1.2 * 2 ** document.film.exposure).toBeCloseTo(4096, 1);
    expect(document.film.size).toEqual([WIDTH, HEIGHT]);
    expect(document.objects).toMatchObject([{ kind: "plate", locked: true }]);
    // a hand's breadth aside it is another lens
    expect(seesPlate({ ...document, camera: { ...document.camera, position: [0.1, 1.7, 0] } })).toBe(false);
    expect(seesPlate({ ...document, camera: { ...document.camera, aperture: 0.01 } })).toBe(false);
  });

  it("says what it guesses: the angle, the range of whole numbers, how the lens stands", () => {
    const flat = planes("", () => 0.5);
    const { guessed } = beginPlate("p", file(frame([grey]), true), file(frame([flat]), true));
    expect(guessed.map((g) => g.what)).toEqual(["angle", "range", "held", "height"]);
    expect([isWhole(new Uint8Array([0x89])), isWhole(new Uint8Array([0x76]))]).toEqual([true, false]);
  });

  it("finds depth by its name, in the file or beside it", () => {
    const of = (layers: Planes[], depth: Planes[] | null = null) =>
      beginPlate("p", file(frame(layers)), depth && file(frame(depth)), { fieldOfView: 50 }).document.plate!;
    const z = ground(0, 0);
    expect(of([grey, planes("Z", z), planes("distance", z)])).toMatchObject({ depthLayer: "distance", along: "ray", depth: "picture" });
    expect(of([grey, planes("world.depth", z)])).toMatchObject({ depthLayer: "world.depth", along: "axis" });
    expect(of([grey], [planes("V", z)])).toMatchObject({ depthLayer: "V", depth: "depth" });
    const told = beginPlate("p", file(frame([grey, planes("distance", z)])), null, { fieldOfView: 50, depthLayer: "distance" });
    expect(told.plate.along).toBe("ray");
    expect(() => depthFrame(new Uint8Array([0xff, 0xd8, 0xff]), "z.jpg")).toThrow(/z\.jpg: a JPEG is no depth/);
    expect(() => of([grey])).toThrow(/none of its layers is called distance, depth or Z; it has a main picture/);
    expect(() => of([planes("Z", z)])).toThrow(/has no colours/);
    const small = { ...frame([planes("Z", z)]), width: 30, height: 80 };
    expect(() => beginPlate("p", file(frame([grey])), file(small), { fieldOfView: 50 })).toThrow(/30 × 80 pixels, the picture 60 × 40/);
  });
});

describe("the lens that a file says", () => {
  const camera = { position: [3, 2, -5], target: [0.5, 1, -14], roll: 7, fieldOfView: 33 };
  const doc = parseDocument({ fumarium: 2, camera, film: { size: [WIDTH, HEIGHT] } });

  it("is that of its scene document", () => {
    const found = lensOfFile(frame([grey], { attributes: { "fumarium.document": JSON.stringify(doc) } }))!;
    expect(found.by).toBe("document");
    const plate = { ...beginPlate("p", file(frame([grey, planes("Z", ground(0, 0))])), null, {}).document.plate!, ...found.stand!, fieldOfView: 33 }; // prettier-ignore
    const own = plateCamera(plate, doc.camera);
    const aim = (c: typeof own) => c.target.map((t, k) => t - c.position[k]!).map((v, _, all) => v / Math.hypot(...all));
    aim(own).forEach((v, k) => expect(v).toBeCloseTo(aim(doc.camera)[k]!, 6));
    expect(own).toMatchObject({ position: [3, 2, -5], roll: 7 });
  });

  it.each([["from 0 to 1", 1, 0], ["from −1 to 1", 2, 1]] as const)("is that of its matrix, whose frame goes %s", (_, scale, back) => {
    const m = lensMatrices(doc).worldToNDC;
    // x and y times so much, less so much of the depth
    const other = m.map((v, i) => (i % 4 < 2 ? scale * v - back * m[4 * Math.floor(i / 4) + 3]! : v));
    const found = lensOfFile(frame([grey], { numbers: { worldToNDC: other } }))!;
    expect(found.by).toBe("matrix");
    expect(found.fieldOfView).toBeCloseTo(33, 4);
    expect(found.stand!.roll).toBeCloseTo(7, 4);
    found.stand!.position.forEach((v, k) => expect(v).toBeCloseTo(camera.position[k]!, 5));
    expect(found.stand!.tilt).toBeCloseTo(Math.asin(-1 / Math.hypot(2.5, 1, 9)) / RAD, 4);
    expect(found.stand!.heading).toBeCloseTo(Math.atan2(-2.5, 9) / RAD, 4);
  }); // prettier-ignore

  it("is the angle alone of a focal length and a sensor, or nothing", () => {
    const numbers = { nominalFocalLength: [50], sensorOverallDimensions: [36, 24] };
    // 36 × 24 mm and 50 mm: 26.99° upright, the textbook's number
    expect(lensOfFile(frame([grey], { numbers }))).toMatchObject({ by: "focal length", stand: null });
    expect(lensOfFile(frame([grey], { numbers }))!.fieldOfView).toBeCloseTo(26.99, 2);
    for (const bad of [{}, { worldToNDC: [1, 2, 3] }, { worldToNDC: new Array<number>(16).fill(0) }, { nominalFocalLength: [0], sensorOverallDimensions: [36, 24] }])
      expect(lensOfFile(frame([grey], { numbers: bad }))).toBe(null);
    expect(lensOfFile(frame([grey], { attributes: { "fumarium.document": "{" } }))).toBe(null);
  }); // prettier-ignore

  it("stands upright where the file's world has z up, as its ground tells", () => {
    // the same lens in a world turned so that z is up: (x, y, z) becomes (x, −z, y)
    const level = parseDocument({ fumarium: 2, camera: { position: [1, 1.7, 2], target: [1, 1.2, -8], fieldOfView: 50 }, film: { size: [WIDTH, HEIGHT] } }); // prettier-ignore
    const m = lensMatrices(level).worldToNDC;
    const row = (k: number): number[] => m.slice(4 * k, 4 * k + 4);
    // rows are what x, y and z of the world count for
    const turned = [...row(0), ...row(2).map((v) => -v), ...row(1), ...row(3)];
    const tilt = Math.atan2(-0.5, 10) / RAD;
    const { document } = beginPlate("p", file(frame([grey, planes("Z", ground(tilt, 0))], { numbers: { worldToNDC: turned } })), null);
    expect(document.plate!.tilt).toBeCloseTo(tilt, 3);
    [1, 1.7, 2].forEach((v, k) => expect(document.plate!.position[k]).toBeCloseTo(v, 4));
  });
});
