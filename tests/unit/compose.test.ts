/** The shell's way with stacks: begun of a render, put together, of frames, as a package; what is wrong is said and nothing written. */
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import sharp from "sharp";
import { beforeAll, describe, expect, it } from "vitest";
import { writePackage } from "#core/compose/package";
import { parseStackText, type Stack } from "#core/compose/stack";
import type { ExrImage } from "#core/formats/exr";
import { readExrLayers } from "#core/formats/exr-read";
import { shellIn } from "../support/shell";

const folder = mkdtempSync(join(tmpdir(), "fumarium-compose-"));
const at = (name: string): string => join(folder, name);

const run = shellIn(folder);
const read = (name: string): ExrImage => readExrLayers(readFileSync(at(name)), name);
const channel = (image: ExrImage, name: string): Float32Array => image.channels.find((c) => c.name === name)!.values;
const stackIn = (name: string): Stack => parseStackText(readFileSync(at(name), "utf8"), name);
const write = (name: string, value: unknown): void => writeFileSync(at(name), typeof value === "string" ? value : JSON.stringify(value));

/** Whether two numbers are the same but for single precision. */
const near = (a: number, b: number): boolean => Math.abs(a - b) <= 1e-6 * Math.max(1, Math.abs(b));

const PASSES = "beauty,air,surfaces,transmittance,depth,distance,height,mattes";
const scene = {
  fumarium: 2,
  title: "two stones",
  materials: { m: { baseColor: [0.5, 0.4, 0.3] } },
  objects: [
    { kind: "rectangle", name: "ground", material: "m", size: [40, 40] },
    { kind: "sphere", name: "near stone", material: "m", radius: 1, position: [0, 1, 0] },
  ],
  air: [{ density: 0.08, height: { level: 0, scale: 2 }, noise: { size: 1, drift: [1, 0, 0] } }],
  film: { size: [48, 36] },
};

beforeAll(async () => {
  write("scene.json", scene);
  const common = ["--samples", "2", "--depth", "float", "--passes", PASSES];
  expect(await run("render", "scene.json", "-o", "one.exr", ...common)).toMatchObject({ code: 0, err: "" });
  expect(await run("render", "scene.json", "-o", "many-##.exr", "--frames", "0-24x24", ...common)).toMatchObject({ code: 0, err: "" });
  expect(await run("compose", "one.exr", "-o", "one.stack.json")).toMatchObject({ code: 0, err: "" });
}, 120_000);

describe("fumarium compose", () => {
  it("begins with surfaces and air, which add up to the beauty of the file", async () => {
    const stack = stackIn("one.stack.json");
    expect(stack.layers.map((l) => l.name)).toEqual(["surfaces", "air"]);
    expect(Object.values(stack.sources)).toEqual([{ name: "one.exr", sha256: null, file: "one.exr" }]);
    expect(await run("compose", "one.stack.json", "-o", "sum.exr", "--depth", "float")).toMatchObject({ code: 0, err: "" });
    const [sum, one] = [read("sum.exr"), read("one.exr")];
    for (const band of ["R", "G", "B"]) channel(sum, band).forEach((v, i) => expect(near(v, channel(one, band)[i]!)).toBe(true));
    expect(parseStackText(sum.attributes!["fumarium.stack"]!)).toEqual(stack);
  });

  it("finishes a picture as a render of the same document is finished", async () => {
    // the same samples through another door
    expect(await run("render", "scene.json", "-o", "one.png", "--samples", "2", "--depth", "16")).toMatchObject({ code: 0, err: "" });
    for (const name of ["sum.png", "sum.tif"]) {
      expect(await run("compose", "one.stack.json", "-o", name, "--depth", "16")).toMatchObject({ code: 0, err: "" });
      const raw = (file: string) => sharp(at(file)).toColourspace("rgb16").raw({ depth: "ushort" }).toBuffer();
      const [ours, theirs] = [await raw(name), await raw("one.png")].map((b) => new Uint16Array(b.buffer, b.byteOffset, b.length / 2));
      expect(ours!.length).toBe(3 * 48 * 36);
      // half a grey level of 8 bits at most
      ours!.forEach((v, i) => expect(Math.abs(v - theirs![i]!)).toBeLessThanOrEqual(128));
    }
  });

  it("takes frames through one stack, and says which frame lacks a layer", async () => {
    const frames = ["--frames", "0-24x24", "--source", "one=many-##.exr", "--depth", "float"];
    const done = await run("compose", "one.stack.json", "-o", "out/all-##.exr", ...frames);
    expect(done).toMatchObject({ code: 0, err: "" });
    expect(done.out.trim().split("\n")).toEqual(["out/all-00.exr", "out/all-24.exr"]);
    for (const n of ["00", "24"]) {
      const [sum, one] = [channel(read(`out/all-${n}.exr`), "G"), channel(read(`many-${n}.exr`), "G")];
      sum.forEach((v, i) => expect(near(v, one[i]!)).toBe(true));
    }
    expect(channel(read("out/all-00.exr"), "G")).not.toEqual(channel(read("out/all-24.exr"), "G"));
    expect(await run("render", "scene.json", "-o", "thin-24.exr", "--samples", "1", "--passes", "beauty,surfaces")).toMatchObject({
      code: 0,
    });
    writeFileSync(at("thin-00.exr"), readFileSync(at("many-00.exr")));
    const lacking = await run("compose", "one.stack.json", "-o", "thin-out-##.exr", ...frames.slice(0, 2), "--source", "one=thin-##.exr");
    expect(lacking.code).toBe(2);
    expect(lacking.err).toMatch(/frame 24: "air": the layer "air" is not in "one"/);
    // the frame before stays
    expect([existsSync(at("thin-out-00.exr")), existsSync(at("thin-out-24.exr"))]).toEqual([true, false]);
  });

  it("writes each layer and its mask beside the picture, and opens a package of stack and picture", async () => {
    const stack = stackIn("one.stack.json");
    const masked: Stack = {
      ...stack,
      layers: [
        stack.layers[0]!,
        {
          ...stack.layers[1]!,
          gain: 1,
          mask: {
            parts: [{ kind: "matte", source: "one", layer: "object.near stone", join: "and", invert: false }],
            invert: false,
            feather: 0,
            guided: true,
          },
        },
      ],
    };
    write("masked.stack.json", masked);
    expect(await run("compose", "masked.stack.json", "-o", "masked.exr", "--layers", "--depth", "float")).toMatchObject({
      code: 0,
      err: "",
    });
    const [image, one] = [read("masked.exr"), read("one.exr")];
    expect(image.channels.map((c) => c.name).sort()).toEqual(
      ["B", "G", "R", "air.B", "air.G", "air.R", "mask.air.V", "surfaces.B", "surfaces.G", "surfaces.R"].sort(),
    );
    const matte = channel(one, "object.near stone.V");
    expect(Math.max(...matte)).toBe(1);
    channel(image, "mask.air.V").forEach((v, i) => expect(v).toBeCloseTo(matte[i]!, 6));
    channel(image, "air.R").forEach((v, i) => expect(v / Math.max(1e-9, 2 * channel(one, "air.R")[i]!)).toBeCloseTo(1, 4));
    // the picture is what its layers say
    const [laid, under] = [channel(image, "air.R"), channel(image, "surfaces.R")];
    channel(image, "R").forEach((v, i) => expect(near(v, under[i]! + matte[i]! * laid[i]!)).toBe(true));
    const zip = await writePackage(masked, "masked", (text) => new TextEncoder().encode(text), () => Promise.resolve(readFileSync(at("one.exr")))); // prettier-ignore
    writeFileSync(at("masked.zip"), zip);
    expect(await run("compose", "masked.zip", "-o", "unpacked.exr", "--depth", "float")).toMatchObject({ code: 0, err: "" });
    expect(channel(read("unpacked.exr"), "R")).toEqual(channel(image, "R"));
  });

  it.each([
    [["compose", "one.stack.json"], /say where to write/],
    [["compose", "gone.stack.json", "-o", "x.exr"], /gone\.stack\.json/],
    [["compose", "scene.json", "-o", "x.exr"], /not a valid stack/],
    [["compose", "one.stack.json", "-o", "x.jpg"], /must end in/],
    [["compose", "one.stack.json", "-o", "x.png", "--layers"], /only an OpenEXR file has layers/],
    [["compose", "one.stack.json", "-o", "x.png", "--depth", "half"], /a file in \.png has 8 or 16/],
    [["compose", "one.stack.json", "-o", "x.exr", "--source", "two=one.exr"], /no such source; it has one/],
    [["compose", "one.stack.json", "-o", "x.exr", "--source", "one=gone.exr"], /gone\.exr: does not exist/],
    [["compose", "one.stack.json", "-o", "x.exr", "--source", "one=scene.json"], /scene\.json: is neither OpenEXR/],
    [["compose", "one.exr", "small.exr", "-o", "x.stack.json"], /sources are of one size/],
    [["compose", "-o", "x.stack.json"], /name the OpenEXR files/],
  ])("refuses %j", async (args, says) => {
    if (args.includes("small.exr") && !existsSync(at("small.exr")))
      await run("render", "scene.json", "-o", "small.exr", "--size", "8x6", "--samples", "1");
    const { code, err } = await run(...args);
    expect(err).toMatch(says);
    expect(code).toBe(2);
    expect(["x.exr", "x.png", "x.jpg", "x.stack.json"].some((f) => existsSync(at(f)))).toBe(false);
  });
});
