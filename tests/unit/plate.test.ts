/** The shell's way with pictures made elsewhere: what they say of themselves, a scene of them, frames of them; what is wrong is said. */
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import sharp from "sharp";
import { beforeAll, expect, it } from "vitest";
import { parseDocumentText } from "#core/document/parse";
import { writeExr, type ExrChannel, type ExrImage } from "#core/formats/exr";
import { readExrLayers } from "#core/formats/exr-read";
import { shellIn } from "../support/shell";

const folder = mkdtempSync(join(tmpdir(), "fumarium-plate-"));
const at = (name: string): string => join(folder, name);

const run = shellIn(folder);
const read = (name: string): ExrImage => readExrLayers(readFileSync(at(name)), name);
const channel = (image: ExrImage, name: string): Float32Array => image.channels.find((c) => c.name === name)!.values;
const write = (name: string, value: unknown): void => writeFileSync(at(name), JSON.stringify(value));

const scene = (x: number, more: object = {}): object => ({
  fumarium: 2,
  title: "stones",
  materials: { m: { baseColor: [0.5, 0.4, 0.3] } },
  objects: [
    { kind: "rectangle", name: "ground", material: "m", size: [400, 400] },
    { kind: "sphere", name: "stone", material: "m", radius: 1, position: [0, 1, 0] },
  ],
  camera: { position: [x, 1.8, 9], target: [x, 1, 0], roll: 2, fieldOfView: 40 },
  film: { size: [96, 64] },
  ...more,
});
const PASSES = ["--passes", "beauty,depth,distance", "--depth", "float"];

/** A file as another program would hand it over: without what ours says of itself, light as shares of white. */
function plain(from: string, to: string, extra: Partial<ExrImage> = {}): void {
  const { width, height, channels } = read(from);
  const kept = channels.flatMap((c): ExrChannel[] =>
    /^[RGB]$/.test(c.name)
      ? [{ ...c, type: "float", values: c.values.map((v) => v / 4096) }]
      : c.name === "depth.Z"
        ? [{ ...c, name: "Z" }]
        : [],
  );
  writeFileSync(at(to), writeExr({ width, height, channels: kept, ...extra }));
}

beforeAll(async () => {
  for (const [i, x] of [0, 0.5].entries()) {
    write(`known${i}.json`, scene(x));
    expect(await run("render", `known${i}.json`, "-o", `ours.${i}.exr`, "--samples", "16", ...PASSES)).toMatchObject({ code: 0, err: "" });
  }
  plain("ours.0.exr", "plain.exr");
}, 60_000);

it("takes the lens from a file that says it, and the picture is it again bit for bit", async () => {
  const told = await run("plate", "ours.0.exr", "-o", "stage", "--json");
  expect(told).toMatchObject({ code: 0, err: "" });
  const { plate, guessed, doubts } = JSON.parse(told.out) as { plate: Record<string, unknown>; guessed: string[]; doubts: string[] };
  expect([guessed, doubts]).toEqual([[], []]);
  expect(plate).toMatchObject({ light: 0, along: "ray", depthLayer: "distance", position: [0, 1.8, 9], roll: 2, fieldOfView: 40 });
  const doc = parseDocumentText(readFileSync(at("stage/ours.0.fumarium.json"), "utf8"), "stage");
  expect(doc.film.exposure).toBe(12);
  expect(await run("render", "stage/ours.0.fumarium.json", "-o", "again.exr", "--samples", "8", ...PASSES)).toMatchObject({ code: 0 });
  for (const name of ["R", "G", "B"]) expect(channel(read("again.exr"), name)).toEqual(channel(read("ours.0.exr"), name));
});

it("tells the lens by the ground where no file says it", async () => {
  const told = await run("plate", "plain.exr", "--fov", "40", "-o", "told", "--json");
  expect(told).toMatchObject({ code: 0, err: "" });
  const report = JSON.parse(told.out) as { doubts: string[]; ground: { height: number; tilt: number }; plate: { tilt: number; roll: number; position: number[] } }; // prettier-ignore
  expect(report.doubts).toEqual([]);
  expect(report.ground.height).toBeCloseTo(1.8, 2);
  const tilt = (-180 * Math.atan2(0.8, 9)) / Math.PI;
  expect(report.plate.tilt).toBeCloseTo(tilt, 1);
  expect(report.plate.roll).toBeCloseTo(2, 1);
  expect(report.plate.position[1]).toBeCloseTo(1.8, 2);
  const line = await run("plate", "plain.exr", "--fov", "40", "--horizon", "0,0.5,1,0.5", "--json");
  expect((JSON.parse(line.out) as typeof report).plate).toMatchObject({ tilt: 0, roll: 0 });
});

it("takes the lens from the format's own attributes", async () => {
  const matrices = { worldToNDC: (read("ours.0.exr").numbers ?? {})["worldToNDC"]! };
  expect(matrices.worldToNDC).toHaveLength(16);
  plain("ours.0.exr", "matrix.exr", { matrices });
  const { plate } = JSON.parse((await run("plate", "matrix.exr", "--json")).out) as {
    plate: Record<string, number> & { position: number[] };
  };
  expect(plate.fieldOfView).toBeCloseTo(40, 4);
  expect(plate.tilt).toBeCloseTo((-180 * Math.atan2(0.8, 9)) / Math.PI, 4);
  expect(plate.roll).toBeCloseTo(2, 4);
  [0, 1.8, 9].forEach((v, k) => expect(plate.position[k]).toBeCloseTo(v, 4));
});

it("renders frames of a plate in the air of one scene, each through the lens of its own file", async () => {
  const doc = JSON.parse(readFileSync(at("stage/ours.0.fumarium.json"), "utf8")) as object;
  const fog = [{ density: 0.1, height: { level: 0, scale: 1.5 } }];
  write("stage/foggy.json", { ...doc, air: fog });
  const passes = ["--passes", "beauty,transmittance,air", "--depth", "float", "--samples", "16", "--level", "shafts"];
  expect(await run("render", "stage/foggy.json", "--plate", "ours.#.exr", "--frames", "0-1", "-o", "out.#.exr", ...passes)).toMatchObject({ code: 0, err: "" });
  for (const [i, x] of [0, 0.5].entries()) {
    write("real.json", scene(x, { air: fog }));
    expect(await run("render", "real.json", "-o", "real.exr", ...passes)).toMatchObject({ code: 0, err: "" });
    const [a, b] = [channel(read(`out.${i}.exr`), "transmittance.G"), channel(read("real.exr"), "transmittance.G")];
    const off = Array.from(a, (v, k) => Math.abs(v - b[k]!)).sort((p, q) => p - q);
    expect(off[Math.floor(0.9 * off.length)]).toBeLessThan(0.001);
  }
  // a frame that is not there, or has not what the others have
  const gone = await run("render", "stage/foggy.json", "--plate", "ours.#.exr", "--frames", "2-2", "-o", "out.#.exr", ...passes);
  expect(gone).toMatchObject({ code: 2 });
  expect(gone.err).toMatch(/ours\.2\.exr: no such file/);
  plain("ours.1.exr", "ours.3.exr");
  const lacks = await run("render", "stage/foggy.json", "--plate", "ours.#.exr", "--frames", "3-3", "-o", "out.#.exr", ...passes);
  expect(lacks.err).toMatch(/ours\.3\.exr\): has not a layer "distance"; it has a main picture, Z/);
  expect(existsSync(at("out.3.exr"))).toBe(false);
}, 120_000); // prettier-ignore

it("says what is wrong with depth, and what is missing", async () => {
  const doubt = await run("plate", "plain.exr", "--fov", "40", "--along", "ray");
  expect(doubt.out).toMatch(/doubt: The ground is bent as it was said, and flat where depth is along the axis/);
  const unit = await run("plate", "plain.exr", "--fov", "40", "--height", "3.6", "--json");
  expect((JSON.parse(unit.out) as { plate: { unit: number } }).plate.unit).toBeCloseTo(2, 1);
  const { width, height } = read("plain.exr");
  const digits = Uint16Array.from(channel(read("plain.exr"), "Z"), (d) => Math.round(65535 * Math.min(1, d / 100)));
  const grey = sharp(digits, { raw: { width, height, channels: 1 } }).toColourspace("grey16");
  await grey.clone().png().toFile(at("depth.png"));
  await grey.tiff({ compression: "deflate", predictor: "horizontal" }).toFile(at("depth.tif"));
  await sharp({ create: { width: 32, height: 20, channels: 3, background: "#345" } }).png().toFile(at("small.png")); // prettier-ignore
  for (const [args, says] of [
    [["plate", "plain.exr"], /say the lens/],
    [["plate", "plain.exr", "--fov", "40", "--depth-layer", "fog"], /has not a layer "fog"; it has .*Z/],
    [["plate", "plain.exr", "--fov", "400"], /--fov 400: must be degrees/],
    [["plate", "plain.exr", "--sensor", "36"], /one tells nothing without the other/],
    [["plate", "plain.exr", "depth.png", "--fov", "40"], /whole numbers have no metres/],
    [["plate", "small.png", "depth.png", "--fov", "40", "--range", "0,100"], /depth\.png: 96 × 64 pixels, the picture 32 × 20/],
    [["plate", "small.png", "--fov", "40"], /none of its layers is called distance, depth or Z/],
    [["plate", "known0.json", "--fov", "40"], /is neither OpenEXR, Radiance HDR, PNG nor JPEG/],
    [["plate", "plain.exr", "--fov", "40", "--horizon", "0,1"], /must be 4 numbers/],
    [["render", "known0.json", "--plate", "plain.exr", "-o", "x.exr"], /the scene has no plate/],
    [["render", "known0.json", "--plate-depth", "plain.exr", "-o", "x.exr"], /say the picture with --plate/],
  ] as const) {
    const { code, err } = await run(...args);
    expect(err).toMatch(says);
    expect(code).toBe(2);
  }
  for (const depth of ["depth.tif", "depth.png"]) {
    const whole = await run("plate", "plain.exr", depth, "--fov", "40", "--range", "0,100", "--json");
    expect((JSON.parse(whole.out) as { ground: { height: number } }).ground.height).toBeCloseTo(1.8, 1);
  }
}, 60_000);
