import type { ForecastReport } from "../../src/cli/forecast";
import { spawn, spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, symlinkSync, truncateSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { decode } from "fast-png";
import sharp from "sharp";
import { beforeAll, describe, expect, it } from "vitest";
import { readExr, readExrLayers } from "#core/formats/exr-read";
import { readVdb } from "#core/formats/vdb";
import { voxelAt, type Volume } from "#core/data/volume";
import { COMMAND, shellIn } from "../support/shell";

const root = fileURLToPath(new URL("../..", import.meta.url));
const folder = mkdtempSync(join(tmpdir(), "fumarium-cli-"));

const run = shellIn(folder);
const scene = {
  fumarium: 2,
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
  it("renders frames to files of their own, and with --resume leaves out those that are there", async () => {
    const drifting = { ...scene, air: [{ density: 0.3, noise: { size: 1, drift: [1, 0, 0] } }] };
    write("drift.json", drifting);
    const frames = (...more: string[]) =>
      run("render", "drift.json", "-o", "drift-##.exr", "--samples", "2", "--size", "32x24", "--passes", "beauty,transmittance", ...more);
    const first = await frames("--frames", "0-24x24", "--fps", "24", "--json");
    expect(first).toMatchObject({ code: 0, err: "" });
    expect(first.out.trim().split("\n").map((line) => (JSON.parse(line) as { output: string }).output)).toEqual(["drift-00.exr", "drift-24.exr"]); // prettier-ignore
    const [a, b] = ["drift-00.exr", "drift-24.exr"].map((name) => readExr(readFileSync(join(folder, name)), name));
    const values = (image: typeof a) => image!.channels.find((c) => c.name === "transmittance.R")!.values;
    expect(values(a)).not.toEqual(values(b));
    // a second later, as --at says it
    await run("render", "drift.json", "-o", "at.exr", "--samples", "2", "--size", "32x24", "--passes", "beauty,transmittance", "--at", "1");
    expect(values(readExr(readFileSync(join(folder, "at.exr")), "at"))).toEqual(values(b));
    const more = await frames("--frames", "0-24x12", "--resume", "--json");
    expect(more.out.trim().split("\n").map((line) => (JSON.parse(line) as { output: string }).output)).toEqual(["drift-12.exr"]); // prettier-ignore
    expect(readdirSync(folder).filter((name) => name.includes("checkpoint"))).toEqual([]);
  });

  it("frames are the same in any order, from two processes at once", async () => {
    write("shared.json", { ...scene, air: [{ density: 0.3, height: { level: 0, scale: 2 }, noise: { size: 1, drift: [1, 0, 0] } }] });
    const frames = (range: string, name: string) =>
      run("render", "shared.json", "-o", name, "--samples", "3", "--size", "48x36", "--depth", "float", "--passes", "beauty,air,surfaces", "--frames", range, "--fps", "2"); // prettier-ignore
    await frames("1-4", "one.#.exr");
    // the later ones first
    await Promise.all([frames("2-4x2", "two.#.exr"), frames("1-3x2", "two.#.exr")]);
    const light = (name: string) => readExr(readFileSync(join(folder, name)), name).channels.map((c) => [c.name, c.values] as const);
    for (const n of [1, 2, 3, 4]) expect(light(`two.${n}.exr`)).toEqual(light(`one.${n}.exr`));
    expect(light("one.1.exr")).not.toEqual(light("one.2.exr"));
    expect(Math.max(...light("one.1.exr").find(([name]) => name === "air.R")![1])).toBeGreaterThan(1);
  });

  it("goes on with what a killed command had kept, to the same picture", async () => {
    write("kept.json", { ...scene, air: [{ ...scene.air[0], noise: { size: 1 } }], film: { size: [96, 64] } });
    const args = ["render", "kept.json", "--samples", "64", "--depth", "float", "--passes", "beauty", "--json"];
    const environment = { ...process.env, FUMARIUM_CHECKPOINT_SECONDS: "0.2" };
    const child = spawn(process.execPath, [COMMAND, ...args, "-o", "kept.exr", "--resume"], {
      cwd: folder,
      env: environment,
    });
    const ended = new Promise((done) => child.on("exit", done));
    const kept = join(folder, "kept.exr.checkpoint");
    // tiles come after 4 kB of head
    while (!existsSync(kept) || statSync(kept).size < 100_000) await new Promise((rested) => setTimeout(rested, 20));
    child.kill("SIGKILL");
    await ended;
    expect(existsSync(join(folder, "kept.exr"))).toBe(false);
    const resumed = await run(...args, "-o", "kept.exr", "--resume");
    expect(resumed).toMatchObject({ code: 0, err: "" });
    expect((JSON.parse(resumed.out) as { resumed: number }).resumed).toBeGreaterThan(0);
    await run(...args, "-o", "whole.exr");
    const [a, b] = ["kept.exr", "whole.exr"].map((name) => readExr(readFileSync(join(folder, name)), name));
    expect(Math.max(...a!.channels.find((c) => c.name === "R")!.values)).toBeGreaterThan(1);
    for (const [i, channel] of a!.channels.entries()) expect(channel.values).toEqual(b!.channels[i]!.values);
    expect(existsSync(kept)).toBe(false);
  });

  it("interrupted, writes the picture as it is by then, or keeps it where it is to go on", async () => {
    write("long.json", { ...scene, film: { size: [96, 64] } });
    const interrupted = async (...more: string[]) => {
      const args = ["render", "long.json", "-o", "long.png", "--samples", "60000", "--progress", ...more];
      const child = spawn(process.execPath, [COMMAND, ...args], {
        cwd: folder,
        env: { ...process.env, FUMARIUM_CHECKPOINT_SECONDS: "0.2" },
      });
      let err = "";
      child.stderr.on("data", (d) => (err += d));
      const ended = new Promise<number | null>((done) => child.on("exit", done));
      const far = () => [...err.matchAll(/"share":([\d.]+)/g)].map((found) => Number(found[1])).at(-1) ?? 0;
      while (far() === 0) await new Promise((rested) => setTimeout(rested, 20));
      child.kill("SIGINT");
      return { code: await ended, err };
    };
    expect((await interrupted()).code).toBe(3);
    const picture = decode(readFileSync(join(folder, "long.png")));
    expect(picture.data.some((v) => v > 50)).toBe(true);
    rmSync(join(folder, "long.png"));
    const kept = await interrupted("--resume");
    expect(kept.code).toBe(1);
    expect(kept.err).toMatch(/interrupted/);
    expect(existsSync(join(folder, "long.png"))).toBe(false);
    expect(statSync(join(folder, "long.png.checkpoint")).size).toBeGreaterThan(100_000);
  });

  it.each([
    [["--frames", "9-2"], /ends before/],
    [["--frames", "1-2", "--fps", "0"], /--fps 0/],
    [["--fps", "24"], /say which frames/],
    [["--frames", "x"], /must look like/],
  ])("refuses %j with words", async (more, words) => {
    const r = await run("render", "scene.json", "-o", "no.exr", ...more);
    expect(r.code).toBe(2);
    expect(r.err).toMatch(words);
  });

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
      "A",
      "B",
      "G",
      "R",
      "Z",
      "air.B",
      "air.G",
      "air.R",
      "albedo.B",
      "albedo.G",
      "albedo.R",
      "clear.B",
      "clear.G",
      "clear.R",
      "depth.Z",
      "distance.Z",
      "emission.B",
      "emission.G",
      "emission.R",
      "height.V",
      "noise.V",
      "normal.X",
      "normal.Y",
      "normal.Z",
      "opacity.V",
      "position.X",
      "position.Y",
      "position.Z",
      "rays.V",
      "samples.V",
      "surfaces.B",
      "surfaces.G",
      "surfaces.R",
      "transmittance.B",
      "transmittance.G",
      "transmittance.R",
    ]);
    for (const band of ["R", "G", "B"])
      c[band]!.forEach((v, i) => expect(v).toBe(Math.fround(c[`air.${band}`]![i]! + c[`surfaces.${band}`]![i]!)));
    expect(JSON.parse(exr.attributes!["fumarium.document"]!)).toMatchObject({ fumarium: 2, film: { size: [64, 48] } });
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

  it("finishes PNG pictures as the document says, with its look-up table and the balance of its lights; OpenEXR stays as rendered", async () => {
    write("swap.cube", "LUT_3D_SIZE 2\n0 0 0\n0 0 1\n0 1 0\n0 1 1\n1 0 0\n1 0 1\n1 1 0\n1 1 1\n");
    const lit = { ...scene, sky: { zenith: [0.2, 0.5, 1], horizon: [0.2, 0.5, 1] }, sun: { on: false } };
    const film = (more: object) => ({ ...lit, assets: { swap: { uri: "swap.cube" } }, film: { ...scene.film, exposure: 11, ...more } });
    write("plain.json", film({}));
    write("swapped.json", film({ finish: { lut: { asset: "swap" } } }));
    write("dimmed.json", film({ balance: { sky: { air: { stops: -1 }, surfaces: { stops: -1 } } } }));
    const means = async (name: string): Promise<number[]> => {
      const r = await run("render", `${name}.json`, "-o", `${name}.png`, "--samples", "2", "--threads", "1");
      expect(r.code, r.err).toBe(0);
      const { data } = decode(readFileSync(join(folder, `${name}.png`)));
      return [0, 1, 2].map((k) => (data as Uint8Array).reduce((a, v, i) => (i % 3 === k ? a + v : a), 0) / (data.length / 3));
    };
    const [plain, swapped, dimmed] = [await means("plain"), await means("swapped"), await means("dimmed")] as [
      number[],
      number[],
      number[],
    ];
    expect(plain[2]!).toBeGreaterThan(plain[0]! + 20);
    [2, 1, 0].forEach((k, i) => expect(Math.abs(swapped[i]! - plain[k]!)).toBeLessThan(1));
    expect(dimmed[1]!).toBeLessThan(plain[1]! - 20);
    for (const name of ["plain", "dimmed"]) await run("render", `${name}.json`, "-o", `${name}.exr`, "--samples", "2", "--threads", "1");
    const beauty = (name: string) => readExr(readFileSync(join(folder, `${name}.exr`))).channels.find((c) => c.name === "G")!.values;
    expect([...beauty("dimmed")]).toEqual([...beauty("plain")]);
    // a broken table is told before anything is rendered
    write("swap.cube", "LUT_3D_SIZE 2\n0 0 0\n");
    expect(await run("render", "swapped.json", "-o", "none.png")).toMatchObject({ code: 2, out: "" });
    expect((await run("check", "swapped.json")).err).toMatch(/assets\.swap \(swap\.cube\): 1 colours, where a table of 2 has 8/);
    expect(existsSync(join(folder, "none.png"))).toBe(false);
  });

  it("writes the finished picture as TIFF, by the size of a print, with masks beside it", async () => {
    const r = await run("render", "scene.json", "-o", "m.tif", "--samples", "2", "--size", "4x3cm", "--dpi", "40", "--mask", "depth:1,10", "--mask", "air", "--json"); // prettier-ignore
    expect(r).toMatchObject({ code: 0, err: "" });
    expect(JSON.parse(r.out)).toMatchObject({ output: "m.tif", files: ["m.tif", "m.depth.tif", "m.air.tif"] });
    for (const [name, channels] of [
      ["m.tif", 3],
      ["m.depth.tif", 1],
      ["m.air.tif", 1],
    ] as const)
      // prettier-ignore
      expect(await sharp(join(folder, name)).metadata()).toMatchObject({ width: 63, height: 47, channels, bitsPerSample: 16, density: 40 });
  });

  it("writes passes as parts, or each to a file of its own, and ends by noise, with other bounces", async () => {
    const at = ["render", "scene.json", "--samples", "4", "--depth", "float", "--passes", "beauty,air,depth,lights"];
    expect(await run(...at, "-o", "l.exr")).toMatchObject({ code: 0 });
    expect(await run(...at, "-o", "p.exr", "--layout", "parts", "--compression", "piz")).toMatchObject({ code: 0 });
    const each = await run(...at, "-o", "each.exr", "--layout", "files", "--frames", "3", "--fps", "1000", "--json");
    expect(each).toMatchObject({ code: 0 });
    const [layers, parts] = [readExr(readFileSync(join(folder, "l.exr"))), readExrLayers(readFileSync(join(folder, "p.exr")))];
    for (const { name, values } of layers.channels.filter((c) => c.name !== "Z"))
      expect(parts.channels.find((c) => c.name === name)!.values, name).toEqual(values);
    const files = (JSON.parse(each.out) as { files: string[] }).files;
    expect(files).toEqual(expect.arrayContaining(["each.beauty.0003.exr", "each.air.0003.exr", "each.depth.0003.exr", "each.air.sun.0003.exr"])); // prettier-ignore
    expect(readdirSync(folder).filter((name) => name.startsWith("each."))).toHaveLength(files.length);
    expect(await run(...at, "-o", "each.exr", "--layout", "files", "--frames", "3", "--resume")).toMatchObject({ code: 0, out: "" });
    const few = await run("render", "scene.json", "-o", "few.exr", "--samples", "4000", "--noise", "20", "--surface-bounces", "0", "--air-bounces", "3", "--split", "half", "--json"); // prettier-ignore
    expect((JSON.parse(few.out) as { samples: number }).samples).toBeLessThan(200);
    const told = JSON.parse(readExr(readFileSync(join(folder, "few.exr"))).attributes!["fumarium.document"]!) as { render: object };
    expect(told.render).toMatchObject({ noiseThreshold: 0.2, thresholdOf: "rendered", surfaceBounces: 0, airBounces: 3, airSize: "half" });
  });

  it("out of time: exit code 3 and a valid partial picture", async () => {
    const r = await run("render", "scene.json", "-o", "late.exr", "--samples", "60000", "--time", "0.7", "--json");
    expect(r.code).toBe(3);
    expect(JSON.parse(r.out)).toMatchObject({ outcome: "time" });
    expect(readExr(readFileSync(join(folder, "late.exr"))).channels).toHaveLength(36);
  });

  it.each([
    ["no document", ["render", "-o", "x.exr"], /name a document/],
    ["no output", ["render", "scene.json"], /-o/],
    ["an output of unknown kind", ["render", "scene.json", "-o", "x.jpg"], /\.exr, \.png or \.tif/],
    ["an unknown option", ["render", "scene.json", "-o", "x.exr", "--quality", "9"], /--quality/],
    ["a size of zero", ["render", "scene.json", "-o", "x.exr", "--size", "0x10"], /film\.size/],
    ["a size that is none", ["render", "scene.json", "-o", "x.exr", "--size", "big"], /1280x720/],
    ["samples below one", ["render", "scene.json", "-o", "x.exr", "--samples", "0"], /--samples/],
    ["time that is not a number", ["render", "scene.json", "-o", "x.exr", "--time", "soon"], /--time/],
    ["an unknown level", ["render", "scene.json", "-o", "x.exr", "--level", "best"], /shafts, full/],
    ["an unknown size of the air", ["render", "scene.json", "-o", "x.exr", "--split", "third"], /full, half, quarter/],
    ["an unknown pass", ["render", "scene.json", "-o", "x.exr", "--passes", "beauty,gloss"], /gloss/],
    ["a document that is not there", ["render", "none.json", "-o", "x.exr"], /none\.json: no such file/],
    ["a folder for a document", ["render", ".", "-o", "x.exr"], /not a file/],
    [
      "an output folder that is not there",
      ["render", "scene.json", "-o", "no/x.exr", "--samples", "1", "--size", "8x8"],
      /cannot be written/,
    ],
    ["a mask that ends before it begins", ["render", "scene.json", "-o", "x.tif", "--mask", "depth:9,2"], /depth:2,40/],
    ["two masks of a kind", ["render", "scene.json", "-o", "x.tif", "--mask", "air", "--mask", "air"], /one of each/],
    ["a mask of an OpenEXR", ["render", "scene.json", "-o", "x.exr", "--mask", "air"], /among its passes/],
    ["a layout of a PNG", ["render", "scene.json", "-o", "x.png", "--layout", "parts"], /is of OpenEXR/],
    ["an unknown compression", ["render", "scene.json", "-o", "x.exr", "--compression", "best"], /zip, zips, piz, none/],
    ["halves in files of their own", ["render", "scene.json", "-o", "x.exr", "--halves", "--layout", "files"], /in one file/],
    ["a depth of another kind", ["render", "scene.json", "-o", "x.tif", "--depth", "half"], /16 or 8/],
    ["no noise at all", ["render", "scene.json", "-o", "x.exr", "--noise", "0"], /--noise 0/],
    ["noise of an unknown picture", ["render", "scene.json", "-o", "x.exr", "--noise", "2", "--noise-of", "mine"], /rendered, cleaned/],
    ["a print without a size", ["render", "scene.json", "-o", "x.exr", "--size", "30x20mm"], /30x20cm/],
    ["no dots", ["render", "scene.json", "-o", "x.exr", "--dpi", "0"], /--dpi 0/],
    ["an unknown action of the queue", ["queue", "fly", "x"], /list, pause, resume/],
    ["a server that has no address", ["queue", "--server", "ftp://x"], /--server ftp/],
    ["an action without a render", ["queue", "pause"], /say which render/],
    ["an unknown command", ["draw"], /no command named draw/],
  ])("bad input: %s", async (_, args, pattern) => {
    const r = await run(...args);
    expect(r.code).toBe(2);
    expect(r.err).toMatch(pattern);
    expect(existsSync(join(folder, "x.exr"))).toBe(false);
    expect(readdirSync(folder).filter((f) => f.endsWith(".part"))).toEqual([]);
  });
});

it("a server that is not there is said, with exit code 1", async () => {
  const r = await run("queue", "--server", "http://127.0.0.1:9");
  expect(r).toMatchObject({ code: 1, out: "", err: "fumarium: http://127.0.0.1:9/: no server answers there\n" });
});

describe("assets of a document", () => {
  const withAsset = (uri: string, sha256?: string) => ({
    fumarium: 2,
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
    expect(JSON.parse((await run("schema", "stack")).out)).toEqual(JSON.parse(readFileSync(join(root, "docs/stack.schema.json"), "utf8")));
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

describe("fumarium clean", () => {
  const layer = (name: string, exr: ReturnType<typeof readExr>): ArrayLike<number> => exr.channels.find((c) => c.name === name)!.values;

  it("cleans as it renders, or later from a file that keeps halves, with the same result", async () => {
    const at = ["render", "scene.json", "--samples", "5", "--depth", "float", "--seed", "3"];
    expect(await run(...at, "-o", "both.exr", "--clean", "1", "--halves")).toMatchObject({ code: 0 });
    expect(await run("clean", "both.exr", "-o", "later.exr", "--strengths", "1", "--depth", "float")).toMatchObject({
      code: 0,
      out: expect.stringMatching(/^later\.exr: noise [\d.]+ %, cleaned [\d.]+ %/) as string,
    });
    const [now, later] = [readExr(readFileSync(join(folder, "both.exr"))), readExr(readFileSync(join(folder, "later.exr")))];
    for (const band of "RGB") {
      const [a, b] = [layer(`beauty.clean.${band}`, now), layer(`beauty.clean.${band}`, later)];
      for (let i = 0; i < 64 * 48; i++) {
        expect(Math.abs(a[i]! - b[i]!)).toBeLessThan(2e-3 * Math.abs(a[i]!) + 1e-3);
        // the raw layers are untouched, and cleaned sides add up
        expect(layer(band, later)[i]).toBeCloseTo(layer(band, now)[i]!, 3);
        expect(a[i]).toBe(Math.fround(layer(`air.clean.${band}`, now)[i]! + layer(`surfaces.clean.${band}`, now)[i]!));
      }
    }
    // no strength at all is the picture as it was rendered
    expect(await run("clean", "both.exr", "-o", "none.exr", "--strengths", "0,0,0", "--depth", "float")).toMatchObject({ code: 0 });
    const none = readExr(readFileSync(join(folder, "none.exr")));
    for (let i = 0; i < 64 * 48; i++) expect(layer("beauty.clean.G", none)[i]!).toBeCloseTo(layer("G", now)[i]!, 2);
    expect(await run("clean", "both.exr", "-o", "later.png")).toMatchObject({ code: 0 });
    expect(decode(readFileSync(join(folder, "later.png")))).toMatchObject({ width: 64, height: 48 });
  });

  it("takes the strengths that the document says where it is asked to", async () => {
    const doc = JSON.parse(readFileSync(join(folder, "scene.json"), "utf8")) as { film?: object };
    const pictures = [];
    for (const air of [0, 1]) {
      write("own.json", JSON.stringify({ ...doc, film: { ...doc.film, cleanUp: { fireflies: 0, air, surfaces: 0 } } }));
      const at = ["render", "own.json", "-o", "own.exr", "--samples", "3", "--depth", "float", "--clean", "document"];
      expect(await run(...at)).toMatchObject({ code: 0 });
      pictures.push(readExr(readFileSync(join(folder, "own.exr"))));
    }
    const changed = pictures.map((p) => {
      const [raw, clean] = [layer("air.G", p), layer("air.clean.G", p)];
      return Array.from({ length: 64 * 48 }, (_, i) => Math.abs(raw[i]! - clean[i]!)).filter((d) => d > 1e-3).length;
    });
    expect(changed[0]).toBe(0);
    expect(changed[1]).toBeGreaterThan(100);
  });

  it("says what it cannot clean, and writes nothing then", async () => {
    await run("render", "scene.json", "-o", "plain.exr", "--samples", "2");
    await run("render", "scene.json", "-o", "few.exr", "--samples", "2", "--halves", "--passes", "beauty,air,surfaces");
    for (const [args, says] of [
      [["plain.exr", "-o", "x.exr"], "does not keep the halves"],
      [["few.exr", "-o", "x.exr"], "it lacks transmittance, albedo, normal, distance"],
      [["scene.json", "-o", "x.exr"], "scene.json"],
      [["plain.exr", "-o", "x.exr", "--strengths", "2"], "--strengths 2"],
      [["plain.exr", "-o", "x.exr", "--strengths", "1,1"], "--strengths 1,1"],
      [["plain.exr", "-o", "x.jpg"], "must end in .exr, .png or .tif"],
      [["nowhere.exr", "-o", "x.exr"], "no such file"],
      [["plain.exr"], "say where to write"],
      [[], "name one OpenEXR file"],
    ] as const) {
      const r = await run("clean", ...args);
      expect(r.code, r.err).toBe(2);
      expect(r.err).toContain(says);
    }
    expect(await run("render", "scene.json", "-o", "x.exr", "--clean", "yes")).toMatchObject({
      code: 2,
      err: expect.stringContaining("--clean yes") as string,
    });
    expect(existsSync(join(folder, "x.exr"))).toBe(false);
  });
});

describe("fumarium diagnose", () => {
  it("measures where the noise comes from", async () => {
    const r = await run("diagnose", "scene.json", "--noise", "--json", "--threads", "2");
    expect(r.code, r.err).toBe(0);
    const { sources } = JSON.parse(r.out) as { sources: { light: string; side: string; share: number }[] };
    expect(sources.length).toBeGreaterThan(0);
    for (const s of sources) expect(["sun", "sky"]).toContain(s.light);
    expect((await run("diagnose", "scene.json", "--noise")).out).toMatch(/\d+ % {2}s(un|ky), (in the air|on surfaces)/);
    expect(await run("diagnose", "scene.json", "--noise", "-o", "x.json")).toMatchObject({ code: 2 });
  });

  // without an end the haze swallows sun and sky
  const thick = { ...scene, air: [{ name: "haze", density: 0.2 }], film: { size: [64, 48] } };

  it("says what is wrong with its number, and writes a document in which it is mended", async () => {
    write("thick.json", thick);
    const r = await run("diagnose", "thick.json", "--json", "--threads", "2", "-o", "mended.json");
    expect(r).toMatchObject({ code: 0, err: "" });
    const found = JSON.parse(r.out) as { id: string; says: string; remedies: string[] }[];
    expect(found.find((f) => f.id === "lost")).toMatchObject({ remedies: ["add a height falloff"] });
    expect(found.find((f) => f.id === "lost")!.says).toMatch(/haze is unbounded/);
    const mended = JSON.parse(readFileSync(join(folder, "mended.json"), "utf8")) as { air: { height: unknown }[] };
    expect(mended.air[0]!.height).toMatchObject({ shape: "exponential" });
    expect((await run("check", "mended.json")).code).toBe(0);
    const again = await run("diagnose", "mended.json", "--json");
    expect((JSON.parse(again.out) as { id: string }[]).map((f) => f.id)).not.toContain("lost");
  });

  it("refuses what is no document", async () => {
    expect(await run("diagnose")).toMatchObject({ code: 2, err: expect.stringContaining("name one document") as string });
    expect(await run("diagnose", "nowhere.json")).toMatchObject({ code: 2, err: expect.stringContaining("no such file") as string });
  });
});

describe("fumarium forecast", () => {
  const few = ["--size", "64x40", "--look", "1"];
  it("says what a frame will cost, against a budget, for another machine and for many frames", async () => {
    const r = await run("forecast", "scene.json", ...few, "--samples", "400", "--budget", "60", "--json");
    expect(r).toMatchObject({ code: 0, err: "" });
    const one = JSON.parse(r.out) as ForecastReport;
    expect(one).toMatchObject({ width: 64, height: 40, samples: 400, frames: 1, budget: { seconds: 3600, kept: "yes" }, speed: 1 });
    expect(one.frame.low).toBeLessThan(one.frame.seconds);
    expect(one.frame.seconds).toBeLessThan(one.frame.high);
    expect(one.work.seconds).toBeGreaterThan(one.frame.seconds);
    const many = await run("forecast", "scene.json", ...few, "--noise", "30", "--clean", "1", "--frames", "1-9", "--threads", "4", "--speed", "2", "--json"); // prettier-ignore
    const all = JSON.parse(many.out) as ForecastReport;
    expect(all.all.seconds).toBeCloseTo(9 * all.frame.seconds, 6);
    expect(all.frame.seconds).toBeCloseTo((all.work.scene + (all.work.seconds - all.work.scene) / 4) / 2, 6);
    expect(all.work.clean).toBeGreaterThan(0);
    expect(all.look.frames).toBe(3);
  });

  it("over its budget ends with a code of its own, in words", async () => {
    const r = await run("forecast", "scene.json", ...few, "--samples", "60000", "--budget", "0.001");
    expect(r.code).toBe(4);
    expect(r.out).toMatch(/64 × 40, about 60000 samples a pixel\na frame takes .* \(.* to .*\) on \d+ threads?; .* of processor time/);
    expect(r.out).toMatch(/budget 0.06 s a frame: is not kept/);
  });

  it.each([
    ["no document", [], /name one document/],
    ["a budget of nought", ["scene.json", "--budget", "0"], /--budget 0: must be minutes a frame, above 0/],
    ["a look of nought", ["scene.json", "--look", "0"], /--look 0/],
    ["a machine that stands still", ["scene.json", "--speed", "0"], /--speed 0/],
    ["frames without end", ["scene.json", "--frames", "9-1"], /--frames/],
    ["a document that is not there", ["none.json"], /none\.json: no such file/],
  ])("%s is refused in words", async (_, args, message) => {
    const r = await run("forecast", ...args);
    expect([r.code, r.err]).toEqual([2, expect.stringMatching(message)]);
  });
});

describe("fumarium render, several and wrongly", () => {
  it("renders each document to a file of its name, in a folder that is made", async () => {
    write("one.fumarium.json", scene);
    write("two.json", scene);
    const r = await run("render", "one.fumarium.json", "two.json", "-o", "many/", "--samples", "1", "--size", "8x8", "--level", "veil");
    expect(r).toMatchObject({ code: 0, err: "" });
    expect(r.out.trim().split("\n").map((l) => l.split(":")[0])).toEqual(["many/one.exr", "many/two.exr"]); // prettier-ignore
    for (const name of ["one", "two"]) expect(readExr(readFileSync(join(folder, `many/${name}.exr`))).width).toBe(8);
    expect(await run("render", "one.fumarium.json", "two.json", "-o", "x.exr")).toMatchObject({ code: 2, err: expect.stringContaining("must be a folder") as string }); // prettier-ignore
    write("one.json", scene);
    expect((await run("render", "one.json", "one.fumarium.json", "-o", "many/")).err).toMatch(
      /two documents would be written to many\/one\.exr/,
    );
  });

  it("tries the place before the first sample, and takes names as long as names can be", async () => {
    const long = `${"x".repeat(251)}.exr`;
    expect(await run("render", "scene.json", "-o", long, "--samples", "1", "--size", "8x8")).toMatchObject({ code: 0 });
    for (const [out, why] of [
      [`${"x".repeat(252)}.exr`, /name is too long/],
      ["scene.json/x.exr", /a file is in the way/],
      ["nowhere/x.exr", /its folder does not exist/],
    ] as const) {
      // it would take hours if it were tried afterwards
      const r = await run("render", "scene.json", "-o", out, "--samples", "60000");
      expect([r.code, r.err]).toEqual([2, expect.stringMatching(why)]);
    }
    expect(readdirSync(folder).filter((f) => f.endsWith(".part"))).toEqual([]);
  });

  it("a picture too large for a render's memory is refused with its gigabytes", async () => {
    const lights = Array.from({ length: 12 }, (_, i) => ({ kind: "point", name: `lamp ${i}`, position: [i, 2, 0] }));
    write("big.json", { fumarium: 2, lights, film: { size: [4096, 4096] } });
    const r = await run("render", "big.json", "-o", "big.exr", "--passes", "beauty,lights,mattes");
    expect([r.code, r.err]).toEqual([2, expect.stringMatching(/need \d+\.\d GB, more than the 4 GB/)]);
  });

  it("each verb explains itself", async () => {
    const r = await run("bake", "--help");
    expect(r.code).toBe(0);
    expect(r.out).toMatch(/^ {2}fumarium bake/);
    expect(r.out).toMatch(/--across/);
    expect(r.out).not.toMatch(/fumarium render/);
    expect((await run("render", "-h")).out).toMatch(/--passes/);
  });
});

describe("fumarium bake", () => {
  const cloud = {
    ...scene,
    air: [
      { name: "floor", density: 0.1 },
      { name: "cloud", density: 2, region: { kind: "sphere", centre: [0, 2, 0], radius: 1.5 }, edge: 0.4, noise: { size: 0.8, drift: [1, 0, 0] } },
    ],
  }; // prettier-ignore

  it("writes a medium by name or number, as the moment has it", async () => {
    write("cloud.json", cloud);
    const r = await run("bake", "cloud.json", "-o", "cloud.vdb", "--medium", "cloud", "--across", "24");
    expect(r).toMatchObject({ code: 0, err: "" });
    expect(r.out).toMatch(/cloud\.vdb: cloud, \d+ voxels of 0\.125 m, extinction in 1\/m/);
    const read = async (name: string): Promise<Volume> => (await readVdb(readFileSync(join(folder, name)))).channels.density!;
    const [still, later] = [await read("cloud.vdb"), (await run("bake", "cloud.json", "-o", "later.vdb", "--medium", "2", "--across", "24", "--at", "0.5"), await read("later.vdb"))]; // prettier-ignore
    // 1/m: density 2 of air that scatters by 1
    expect(still.max).toBeGreaterThan(1);
    expect(still.max).toBeLessThanOrEqual(2);
    expect(readFileSync(join(folder, "cloud.vdb")).includes("extinction, 1/m")).toBe(true);
    expect([...still.data]).not.toEqual([...later.data]);
  });

  it("says what is wrong and writes nothing", async () => {
    for (const [args, message] of [
      [["-o", "x.vdb", "--medium", "steam"], '1 "floor", 2 "cloud"'],
      [["-o", "x.vdb", "--medium", "3"], '1 "floor", 2 "cloud"'],
      [["-o", "x.exr"], "must end in .vdb"],
      [["-o", "x.vdb", "--across", "4000"], "--across 4000"],
      [["-o", "x.vdb", "--at", "soon"], "--at soon"],
      [[], "-o OUT.vdb"],
    ] as const)
      expect(await run("bake", "cloud.json", ...args)).toMatchObject({ code: 2, err: expect.stringContaining(message) as string });
    expect(existsSync(join(folder, "x.vdb"))).toBe(false);
  });

  it.runIf(existsSync("/usr/bin/vdb_tool"))(
    "writes files that the OpenVDB library's own tool reads; what it writes of them is read back alike",
    async () => {
      const tool = (...args: string[]): string => {
        const r = spawnSync("vdb_tool", args, { cwd: folder, encoding: "utf8" });
        expect(r.status, r.stderr).toBe(0);
        return r.stdout;
      };
      const mine = await readVdb(readFileSync(join(folder, "cloud.vdb")));
      const a = mine.channels.density!;
      for (const codec of ["none", "zip", "blosc", "active"]) {
        tool("-read", "cloud.vdb", "-write", `codec=${codec}`, `theirs-${codec}.vdb`);
        const theirs = await readVdb(readFileSync(join(folder, `theirs-${codec}.vdb`)));
        expect(theirs.grids[0]).toMatchObject({ name: "density", kind: "fog volume", voxels: a.active });
        const b = theirs.channels.density!;
        expect(b.toWorld.map((v) => Number(v.toFixed(9)))).toEqual(a.toWorld.map((v) => Number(v.toFixed(9))));
        let different = 0;
        for (let k = -2; k < 27; k++)
          for (let j = -2; j < 27; j++) for (let i = -2; i < 27; i++) if (voxelAt(a, i, j, k) !== voxelAt(b, i, j, k)) different++;
        expect(different, codec).toBe(0);
      }
    },
  );
});
