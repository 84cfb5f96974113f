import { spawn } from "node:child_process";
import { existsSync, mkdtempSync, readdirSync, readFileSync, symlinkSync, truncateSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { decode } from "fast-png";
import { beforeAll, describe, expect, it } from "vitest";
import { readExr } from "#core/formats/exr";

const root = fileURLToPath(new URL("../..", import.meta.url));
const folder = mkdtempSync(join(tmpdir(), "fumarium-cli-"));

function run(...args: string[]): Promise<{ code: number | null; out: string; err: string }> {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, [join(root, "bin/fumarium.mjs"), ...args], { cwd: folder });
    let out = "",
      err = "";
    child.stdout.on("data", (d) => (out += d));
    child.stderr.on("data", (d) => (err += d));
    child.on("close", (code) => resolve({ code, out, err }));
  });
}
const scene = {
  fumarium: 1,
  materials: { m: { baseColor: [0.5, 0.5, 0.5] } },
  objects: [
    { kind: "rectangle", material: "m", size: [10, 10] },
    { kind: "sphere", material: "m", radius: 1, position: [0, 1, 0] },
  ],
  air: [{ density: 0.05, height: { level: 0, scale: 2 } }],
  film: { size: [64, 48] },
};
const write = (name: string, value: unknown): string => {
  const file = join(folder, name);
  writeFileSync(file, typeof value === "string" ? value : JSON.stringify(value));
  return file;
};

beforeAll(() => write("scene.json", scene));

describe("fumarium render", () => {
  it("writes layered OpenEXR whose parts add up, and prints one line of figures", async () => {
    const r = await run("render", "scene.json", "-o", "a.exr", "--samples", "4", "--depth", "float", "--json", "--threads", "2");
    expect(r).toMatchObject({ code: 0, err: "" });
    expect(r.out.trim().split("\n")).toHaveLength(1);
    const report = JSON.parse(r.out) as Record<string, number | string>;
    expect(report).toMatchObject({ outcome: "done", samples: 4, threads: 2 });
    expect(report.rays).toBeGreaterThan(64 * 48 * 4);
    expect(report.noise).toBeGreaterThan(0);
    const exr = readExr(readFileSync(join(folder, "a.exr")));
    const c = Object.fromEntries(exr.channels.map((x) => [x.name, x.values]));
    expect(Object.keys(c)).toEqual([
      "B",
      "G",
      "R",
      "air.B",
      "air.G",
      "air.R",
      "albedo.B",
      "albedo.G",
      "albedo.R",
      "clear.B",
      "clear.G",
      "clear.R",
      "cost.V",
      "depth.Z",
      "distance.Z",
      "glow.B",
      "glow.G",
      "glow.R",
      "height.V",
      "mist.V",
      "noise.V",
      "normal.X",
      "normal.Y",
      "normal.Z",
      "surfaces.B",
      "surfaces.G",
      "surfaces.R",
      "transmittance.B",
      "transmittance.G",
      "transmittance.R",
    ]);
    for (const band of ["R", "G", "B"])
      c[band]!.forEach((v, i) => expect(v).toBe(Math.fround(c[`air.${band}`]![i]! + c[`surfaces.${band}`]![i]!)));
    expect(JSON.parse(exr.attributes!["fumarium.document"]!)).toMatchObject({ fumarium: 1, film: { size: [64, 48] } });
  });

  it("is the same picture with one thread and with three, and another with another seed", async () => {
    for (const [name, ...rest] of [
      ["t1.exr", "--threads", "1"],
      ["t3.exr", "--threads", "3"],
      ["s2.exr", "--seed", "2"],
    ])
      expect((await run("render", "scene.json", "-o", name!, "--samples", "2", "--passes", "beauty", ...rest)).code).toBe(0);
    const pixels = (name: string) => readExr(readFileSync(join(folder, name))).channels[0]!.values;
    expect(pixels("t3.exr")).toEqual(pixels("t1.exr"));
    expect(pixels("s2.exr")).not.toEqual(pixels("t1.exr"));
  });

  it("takes size, level and passes, and writes PNG", async () => {
    const r = await run("render", "scene.json", "-o", "b.png", "--size", "40x20", "--samples", "2", "--level", "full", "--passes", "air");
    expect(r.code).toBe(0);
    const png = decode(readFileSync(join(folder, "b.png")));
    expect([png.width, png.height]).toEqual([40, 20]);
  });

  it("out of time: exit code 3 and a valid partial picture", async () => {
    const r = await run("render", "scene.json", "-o", "late.exr", "--samples", "60000", "--time", "0.7", "--json");
    expect(r.code).toBe(3);
    expect(JSON.parse(r.out)).toMatchObject({ outcome: "time" });
    expect(readExr(readFileSync(join(folder, "late.exr"))).channels).toHaveLength(30);
  });

  it.each([
    ["no document", ["render", "-o", "x.exr"], /name one document/],
    ["no output", ["render", "scene.json"], /-o/],
    ["an output of unknown kind", ["render", "scene.json", "-o", "x.jpg"], /\.exr or \.png/],
    ["an unknown option", ["render", "scene.json", "-o", "x.exr", "--quality", "9"], /--quality/],
    ["a size of zero", ["render", "scene.json", "-o", "x.exr", "--size", "0x10"], /film\.size/],
    ["a size that is none", ["render", "scene.json", "-o", "x.exr", "--size", "big"], /1280x720/],
    ["samples below one", ["render", "scene.json", "-o", "x.exr", "--samples", "0"], /--samples/],
    ["time that is not a number", ["render", "scene.json", "-o", "x.exr", "--time", "soon"], /--time/],
    ["an unknown level", ["render", "scene.json", "-o", "x.exr", "--level", "best"], /shafts, full/],
    ["an unknown pass", ["render", "scene.json", "-o", "x.exr", "--passes", "beauty,gloss"], /gloss/],
    ["a document that is not there", ["render", "none.json", "-o", "x.exr"], /none\.json: no such file/],
    ["a folder for a document", ["render", ".", "-o", "x.exr"], /not a file/],
    [
      "an output folder that is not there",
      ["render", "scene.json", "-o", "no/x.exr", "--samples", "1", "--size", "8x8"],
      /cannot be written/,
    ],
    ["an unknown command", ["draw"], /no command named draw/],
  ])("bad input: %s", async (_, args, pattern) => {
    const r = await run(...args);
    expect(r.code).toBe(2);
    expect(r.err).toMatch(pattern);
    expect(existsSync(join(folder, "x.exr"))).toBe(false);
    expect(readdirSync(folder).filter((f) => f.endsWith(".part"))).toEqual([]);
  });
});

describe("assets of a document", () => {
  const withAsset = (uri: string, sha256?: string) => ({
    fumarium: 1,
    assets: { a: { uri, ...(sha256 ? { sha256 } : {}) } },
    objects: [{ kind: "model", asset: "a" }],
  });

  it("the demo set writes, checks, and is refused when its model is changed, cut short, missing or elsewhere", async () => {
    const demo = join(folder, "demo");
    expect((await run("demo", "--list")).out).toMatch(/^palm-house /);
    expect((await run("demo", "--write", demo)).code).toBe(0);
    const file = join(demo, "palm-house.fumarium.json"),
      model = join(demo, "palm-house.glb");
    const checked = await run("check", file);
    expect(checked.code).toBe(0);
    expect(Number(/with (\d+) triangles/.exec(checked.out)![1])).toBeGreaterThan(150_000);
    truncateSync(model, 100_000);
    expect((await run("check", file)).err).toMatch(/assets\.palm-house \(palm-house\.glb\): the file's hash is/);
    writeFileSync(file, readFileSync(file, "utf8").replace(/,?\s*"sha256": "[0-9a-f]+"/, ""));
    expect((await run("check", file)).err).toMatch(/cut short/);
    expect(await run("check", write("missing.json", withAsset("nothing.glb")))).toMatchObject({ code: 2 });
    const outside = mkdtempSync(join(tmpdir(), "fumarium-outside-"));
    writeFileSync(join(outside, "secret.glb"), "x");
    symlinkSync(join(outside, "secret.glb"), join(folder, "link.glb"));
    expect((await run("check", write("link.json", withAsset("link.glb")))).err).toMatch(/leads outside/);
    expect((await run("check", write("path.json", withAsset("../x.glb")))).err).toMatch(/plain relative path/);
  });

  it("schema prints the published schema", async () => {
    expect(JSON.parse((await run("schema")).out)).toEqual(JSON.parse(readFileSync(join(root, "docs/scene-document.schema.json"), "utf8")));
  });
});

describe("fumarium import", () => {
  const obj = "mtllib box.mtl\no slab\nv 0 0 0\nv 200 0 0\nv 200 100 0\nv 0 100 0\nusemtl red\nf 1 2 3 4\n";
  const set = mkdtempSync(join(tmpdir(), "fumarium-set-"));
  writeFileSync(join(set, "box.obj"), obj);
  writeFileSync(join(set, "box.mtl"), "newmtl red\nKd 1 0 0\n");

  it("makes a document that renders, from a folder in centimetres with z up", async () => {
    const made = await run("import", set, "-o", "brought", "--scale", "0.01", "--up", "z");
    expect(made.err).toBe("");
    expect(made.code).toBe(0);
    expect(made.out).toContain("2 triangles, 0 lenses, 0 lights");
    expect(made.out).toContain("it measures 2 × 0 × 1 m");
    const check = await run("check", "brought/box.fumarium.json");
    expect(check.out).toContain("1 models with 2 triangles");
    expect((await run("render", "brought/box.fumarium.json", "-o", "box.png", "--size", "32x18", "--samples", "1")).code).toBe(0);
  });

  it("says what is wrong and writes nothing", async () => {
    expect(await run("import", "nowhere.glb", "-o", "none")).toMatchObject({ code: 2, err: "fumarium: nowhere.glb: no such file\n" });
    expect((await run("import", set)).err).toContain("say where to write");
    expect((await run("import", set, "-o", "none", "--scale", "0")).err).toContain("--scale 0: must be a number above 0");
    write("bad.obj", "f 1 2 3\n");
    expect((await run("import", "bad.obj", "-o", "none")).err).toContain("bad.obj: line 1: there is no corner 1 (of 0)");
    expect(existsSync(join(folder, "none"))).toBe(false);
  });
});
