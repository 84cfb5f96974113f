import { execFileSync } from "node:child_process";
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { Document } from "@gltf-transform/core";
import { decode } from "fast-png";
import sharp from "sharp";
import { encode as encodeSrgb, shoulder } from "../film/finish";
import { whiteBalanceMatrix } from "../optics/colour";
import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import { emptyFilm, groupFloat, lightValues, passValues, pixelFloats, type Film } from "../film/film";
import { PASS_NAMES } from "../film/passes";
import {
  F_AIR,
  F_AIR_ODD,
  F_ALBEDO,
  F_COUNT,
  F_HITS,
  F_SEEN,
  F_SURFACES,
  F_SURFACES_ODD,
  F_TRANSMITTANCE,
  G_AIR,
  G_SEEN,
  G_SURFACES,
  GROUP_FLOATS,
  PIXEL_FLOATS,
} from "../layout/layout";
import { writeExr, writeExrParts, type ExrChannel, type ExrImage } from "./exr";
import { COMPRESSIONS } from "./depths";
import { halfBits, HALVES } from "./half";
import { readExr, readExrLayers } from "./exr-read";
import { modelIO, readModel } from "./gltf";
import { singleTriangles } from "./gltf-shape";
import { readPicture } from "./image";
import { filmToExr } from "./film-exr";
import { filmChannels, filmFromExr } from "./picture";
import { filmToPng } from "./shown";
import { Model } from "../../../demo/kit/model";

const folder = mkdtempSync(join(tmpdir(), "fumarium-"));
const width = 53,
  height = 37;

/** A picture with every kind of number: gradients, tiny and huge values, infinity. */
function image(): ExrImage {
  const plane = (f: (x: number, y: number) => number): Float32Array =>
    Float32Array.from({ length: width * height }, (_, i) => f(i % width, Math.floor(i / width)));
  return {
    width,
    height,
    channels: [
      { name: "R", type: "half", values: plane((x, y) => x / 32 + (y % 16)) },
      { name: "G", type: "half", values: plane((x, y) => ((x * y) % 7) / 8) },
      { name: "B", type: "half", values: plane((x) => 2 ** (x % 15)) },
      { name: "air.R", type: "float", values: plane((x, y) => Math.fround(Math.sin(x) * 1e-5 + y * 1e4)) },
      { name: "depth.Z", type: "float", values: plane((x, y) => (x > 40 ? Infinity : x + y * 0.5)) },
    ],
    attributes: { "fumarium.note": "naïve – 霧" },
  };
}

describe("OpenEXR", () => {
  it.each(COMPRESSIONS)("with %s reads back to the same numbers, names and attributes", (compression) => {
    const made = image();
    const back = readExr(writeExr(made, { compression }));
    expect([back.width, back.height]).toEqual([width, height]);
    expect(back.attributes).toEqual(made.attributes);
    expect(back.channels.map((c) => c.name)).toEqual(["B", "G", "R", "air.R", "depth.Z"]);
    for (const c of made.channels) expect(back.channels.find((b) => b.name === c.name)!.values).toEqual(c.values);
  });

  it("is read by Debian's OpenEXR tools with the same layers and the same pixels", () => {
    // the test runner installs them where it may; without them this cannot be judged
    expect(existsSync("/usr/bin/exrheader"), "Debian package openexr is missing: apt-get install openexr").toBe(true);
    const made = image();
    const file = join(folder, "a.exr"),
      tiled = join(folder, "tiled.exr");
    writeFileSync(file, writeExr(made));
    const header = execFileSync("exrheader", [file], { encoding: "utf8" });
    for (const line of ["R, 16-bit floating-point", "air.R, 32-bit floating-point", "depth.Z, 32-bit floating-point"])
      expect(header).toContain(line);
    expect(header).toMatch(/compression.*zip/);
    // the tool decodes every pixel and writes it anew, uncompressed, as one tile of the picture's size
    execFileSync("exrmaketiled", ["-o", "-z", "none", "-t", String(width), String(height), file, tiled]);
    const bytes = readFileSync(tiled);
    const rowBytes = width * (2 + 2 + 2 + 4 + 4);
    const at = bytes.length - rowBytes * height;
    const view = new DataView(bytes.buffer, bytes.byteOffset + at);
    const depth = made.channels.find((c) => c.name === "depth.Z")!.values,
      air = made.channels.find((c) => c.name === "air.R")!.values;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        // channels lie in the order of their names: B, G, R, air.R, depth.Z
        const row = y * rowBytes;
        expect(view.getFloat32(row + 6 * width + 4 * x, true)).toBe(air[y * width + x]);
        expect(view.getFloat32(row + 10 * width + 4 * x, true)).toBe(depth[y * width + x]);
      }
  });

  it.each(COMPRESSIONS)("packed by %s is the same for Debian's OpenEXR tools, of any size and content", (compression) => {
    let seed = 11;
    const random = (): number => (seed = (seed * 1103515245 + 12345) % 2147483648) / 2147483648;
    const kinds: ((x: number, y: number) => number)[] = [
      () => 0,
      () => 0.25,
      (x, y) => (x + 31 * y) / 64,
      (x, y) => Math.sin(x / 5) * Math.cos(y / 7) + 0.01 * random(),
      () => 65000 * (random() - 0.5),
      (x) => (x % 9 === 0 ? Infinity : 1e-7 * x),
    ];
    // one pixel, less than a block, more than one, sides that halve and that do not
    for (const [w, h] of [
      [1, 1],
      [3, 70],
      [64, 32],
      [130, 45],
    ] as const) {
      // prettier-ignore
      const channels = kinds.flatMap((of, k) =>
        (["half", "float"] as const).map((type) => ({
          name: `${"abcdef"[k]}.${type}`,
          type,
          values: Float32Array.from({ length: w * h }, (_, i) => {
            const v = of(i % w, Math.floor(i / w));
            return type === "half" ? HALVES[halfBits(v)]! : v;
          }),
        })),
      );
      const bytes = writeExr({ width: w, height: h, channels }, { compression });
      const [file, plain] = [join(folder, `${compression}-${w}.exr`), join(folder, `${compression}-${w}-plain.exr`)];
      writeFileSync(file, bytes);
      expect(execFileSync("exrheader", [file], { encoding: "utf8" })).toMatch(
        { zip: /: zip, multi-scanline/, zips: /: zip, individual/, piz: /: piz/, none: /: none/ }[compression],
      );
      execFileSync("exrmaketiled", ["-o", "-z", "none", "-t", String(w), String(h), file, plain]);
      const theirs = readExr(readFileSync(plain));
      const mine = readExr(bytes);
      for (const { name, values } of channels) {
        expect(theirs.channels.find((c) => c.name === name)!.values, name).toEqual(values);
        expect(mine.channels.find((c) => c.name === name)!.values, name).toEqual(values);
      }
      if (compression !== "none" && w > 3) expect(bytes.length).toBeLessThan(readFileSync(plain).length);
    }
  });

  it("of several parts is what Debian's tools take apart, and is read as one again", () => {
    const made = image();
    const { channels, ...rest } = made;
    const named = (...names: string[]): ExrChannel[] => names.map((name) => channels.find((c) => c.name === name)!);
    const parts = [
      { name: "beauty", channels: named("R", "G", "B") },
      { name: "air", channels: named("air.R").map((c) => ({ ...c, name: "R" })) },
      { name: "depth", channels: named("depth.Z").map((c) => ({ ...c, name: "Z" })) },
    ];
    const bytes = writeExrParts(rest, parts, { compression: "piz" });
    const file = join(folder, "parts.exr");
    writeFileSync(file, bytes);
    execFileSync("exrmultipart", ["-separate", "-i", file, "-o", join(folder, "part")]);
    for (const [i, part] of parts.entries()) {
      const one = readExr(readFileSync(join(folder, `part.${i + 1}.exr`)));
      expect(one.channels.map((c) => c.name)).toEqual(part.channels.map((c) => c.name).sort());
      for (const c of part.channels) expect(one.channels.find((o) => o.name === c.name)!.values).toEqual(c.values);
    }
    const back = readExrLayers(bytes);
    expect(back.attributes).toEqual(made.attributes);
    expect(back.channels.map((c) => c.name).sort()).toEqual(channels.map((c) => c.name).sort());
    for (const c of channels) expect(back.channels.find((b) => b.name === c.name)!.values).toEqual(c.values);
    // the first part with colours is the picture
    expect(readExr(bytes).channels.map((c) => c.name)).toEqual(["B", "G", "R"]);
    // a file of one part has its own layers
    expect(readExrLayers(writeExr(made)).channels).toEqual(readExr(writeExr(made)).channels);
    expect(() => writeExrParts(rest, [parts[0]!, parts[0]!])).toThrow(/part "beauty".*twice/);
    expect(() => writeExrParts(rest, [])).toThrow(/without a part/);
    for (const length of [100, 900, bytes.length - 3]) expect(() => readExrLayers(bytes.slice(0, length), "x.exr")).toThrow(/^x\.exr: /);
  });

  it("tells moments and places as Debian's tools read them", () => {
    const file = join(folder, "told.exr");
    const matrix = Array.from({ length: 16 }, (_, i) => i / 8);
    writeFileSync(file, writeExr({ ...image(), rate: [24000, 1001], matrices: { worldToCamera: matrix } }));
    const header = execFileSync("exrheader", [file], { encoding: "utf8" });
    expect(header).toMatch(/framesPerSecond \(type rational\): 24000\/1001/);
    expect(header).toMatch(/worldToCamera \(type m44f\):[^a-z]*\(?0[^a-z]*0.125[^a-z]*0.25/);
  });

  it("refuses broken files and says why", () => {
    const good = writeExr(image());
    expect(() => readExr(new Uint8Array(10))).toThrow(/does not begin/);
    for (const length of [6, 40, 200, 500, good.length - 3]) expect(() => readExr(good.slice(0, length), "x.exr")).toThrow(/^x\.exr: /);
    const mad = good.slice();
    mad.fill(0xff, 400, 420);
    expect(() => readExr(mad)).toThrow();
  });
});

describe("OpenEXR from and for other programs", () => {
  const made = (channels: string[], extra: Partial<ExrImage> = {}): Uint8Array =>
    writeExr({
      width: 3,
      height: 2,
      channels: channels.map((name, k) => ({ name, type: "half", values: new Float32Array(6).fill(k + 1) })),
      ...extra,
    });

  it("light groups of any name make files that other programs read, two that are alike stay two", () => {
    const hostile = ["", ".", "..", "a.b", "a_b", "a\0b", "Ā", "日本語 の 霧", "🌫️", "\ud800", "x".repeat(300), "霧".repeat(200), "R", "\u0001\n", " spaced ", "e\u0301", "é"]; // prettier-ignore
    let seed = 7;
    const random = (n: number): number => (seed = (seed * 1103515245 + 12345) % 2147483648) % n;
    const names = [
      ...hostile,
      ...Array.from({ length: 60 }, () => String.fromCharCode(...Array.from({ length: 1 + random(12) }, () => random(0x2ff)))),
    ];
    for (let from = 0; from < names.length; from += 12) {
      const lights = names.slice(from, from + 12);
      const film = { ...emptyFilm(4, 3), lights };
      const stride = film.stride + GROUP_FLOATS * lights.length;
      const channels = filmChannels({ ...film, stride, data: new Float32Array(12 * stride).fill(1) }, ["beauty"], "half");
      expect(new Set(channels.map((c) => c.name)).size).toBe(channels.length);
      const file = join(folder, `names-${from}.exr`);
      const bytes = writeExr({ width: 4, height: 3, channels });
      writeFileSync(file, bytes);
      const header = execFileSync("exrheader", [file], { encoding: "utf8" });
      expect(header.match(/16-bit floating-point/g)?.length).toBe(channels.length);
      expect(readExr(bytes).channels.length).toBe(channels.length);
    }
    expect(() => made(["R", "R"])).toThrow(/there twice/);
    expect(() => made(["a\0b"])).toThrow(/no file can hold/);
  });

  it("light groups come back from a file that keeps halves, whatever they are called", () => {
    const lights = ["sun", "clean", "half"];
    const stride = pixelFloats({ lights, mattes: null });
    const film: Film = { ...emptyFilm(6, 5), lights, stride, data: new Float32Array(30 * stride) };
    for (let i = 0; i < 30; i++) {
      const p = i * stride;
      film.data[p + F_COUNT] = 4;
      film.data[p + F_HITS] = 4;
      for (let k = 0; k < 3; k++) {
        film.data[p + F_TRANSMITTANCE + k] = 2;
        film.data[p + F_ALBEDO + k] = 2;
        lights.forEach((_, g) => {
          const at = p + groupFloat(film, g) + k;
          film.data[at + G_AIR] = (i % 5) + g + 1;
          film.data[at + G_SURFACES] = 4 * (i % 7) + g;
          film.data[at + G_SEEN] = g;
          film.data[p + F_AIR + k]! += (i % 5) + g + 1;
          film.data[p + F_SURFACES + k]! += 4 * (i % 7) + g;
          film.data[p + F_SEEN + k]! += g;
        });
        film.data[p + F_AIR_ODD + k] = film.data[p + F_AIR + k]! / 2;
        film.data[p + F_SURFACES_ODD + k] = (film.data[p + F_SURFACES + k]! - film.data[p + F_SEEN + k]!) / 2;
      }
    }
    const doc = parseDocument({ fumarium: 2 });
    const image = readExr(filmToExr(film, PASS_NAMES, "float", doc, {}, { halves: true }));
    const back = filmFromExr(image);
    expect(back.lights).toEqual(lights);
    for (const side of ["air", "surfaces"] as const)
      for (const light of lights) expect(lightValues(back, light, side)).toEqual(lightValues(film, light, side));
    for (let i = 0; i < 30; i++)
      for (let k = 0; k < 3; k++) lights.forEach((_, g) => expect(back.data[i * back.stride + groupFloat(back, g) + G_SEEN + k]).toBe(g));
    // files of earlier versions do not tell the groups: they go by the names of layers
    const before = { ...image, attributes: {} };
    expect(filmFromExr(before).lights).toEqual(["clean 2", "half 2", "sun"]);
    // those of still earlier ones do not say what is seen directly of a group: its light stays as it was rendered
    const earlier = { ...before, channels: image.channels.filter((c) => !/^surfaces\..+\.seen\./.test(c.name)) };
    expect(filmFromExr(earlier).lights).toEqual([]);
    // as cleaned they are layers of their own
    const cleaned = (n: number): Float32Array => new Float32Array(4 * 30).fill(n);
    const sides = { air: cleaned(6), surfaces: cleaned(9), clear: null };
    const parts = { air: lights.map((_, g) => cleaned(g + 1)), surfaces: lights.map((_, g) => cleaned(g + 2)) };
    const channels = filmChannels({ ...film, cleaned: { ...sides, lights: parts } }, ["air", "surfaces"], "half");
    for (const [name, value] of [
      ["air.clean.R", 6],
      ["air.sun.clean.R", 1],
      ["surfaces.clean 2.clean.B", 3],
      ["air.half 2.clean.G", 3],
    ] as const)
      // prettier-ignore
      expect(channels.find((c) => c.name === name)?.values[7], name).toBe(value);
  });

  it("a region is its data window, the frame its display window; primaries and program are said", () => {
    const film = { ...emptyFilm(8, 6), crop: [2, 1, 5, 3] as const };
    film.data.fill(1);
    const doc = parseDocument({ fumarium: 2 });
    const bytes = filmToExr(film, ["beauty", "depth"], "half", doc, {}, { made: new Date(0) });
    const file = join(folder, "region.exr");
    writeFileSync(file, bytes);
    const header = execFileSync("exrheader", [file], { encoding: "utf8" });
    expect(header).toContain("dataWindow (type box2i): (2 1) - (4 2)");
    expect(header).toContain("displayWindow (type box2i): (0 0) - (7 5)");
    expect(header).toMatch(/chromaticities[\s\S]*0\.3127/);
    expect(header).toContain('capDate (type string): "1970:01:01 00:00:00"');
    for (const name of ["A,", "Z,", "depth.Z,"]) expect(header).toContain(name);
    // seen again where it lies
    const back = filmFromExr(readExr(bytes));
    expect([back.width, back.height, ...back.crop]).toEqual([3, 2, 0, 0, 3, 2]);
    expect(back.frame).toEqual({ x: 2, y: 1, width: 8, height: 6 });
    const picture = readPicture(bytes);
    expect([picture.width, picture.height]).toEqual([8, 6]);
    expect(picture.rgb[0]).toBe(0);
    expect(picture.rgb[3 * (1 * 8 + 2)]).toBeGreaterThan(0);
  });

  it("A is what geometry covers, or geometry and air", () => {
    const film = emptyFilm(1, 1);
    film.data[F_COUNT] = 4;
    film.data[F_HITS] = 1;
    for (let k = 0; k < 3; k++) film.data[F_TRANSMITTANCE + k] = 2;
    const a = (alpha: "geometry" | "air"): number =>
      filmChannels(film, ["beauty"], "float", { alpha }).find((c) => c.name === "A")!.values[0]!;
    expect(a("geometry")).toBe(0.25);
    expect(a("air")).toBeCloseTo(0.25 + 0.75 * 0.5, 6);
  });

  it("pictures in layers alone, and of other primaries, are read as they look", () => {
    expect([...readPicture(made(["key.R", "key.G", "key.B", "other.V"])).rgb.slice(0, 3)]).toEqual([1, 2, 3]);
    expect(() => readPicture(made(["depth.Z"]))).toThrow(/no channels R, G, B/);
    // white stays white whatever the primaries; ACES AP0 red is far outside Rec. 709
    const ap0 = [0.7347, 0.2653, 0, 1, 0.0001, -0.077, 0.32168, 0.33767];
    const even = writeExr({ width: 1, height: 1, chromaticities: ap0, channels: ["R", "G", "B"].map((name) => ({ name, type: "float", values: new Float32Array([0.5]) })) }); // prettier-ignore
    for (const v of readPicture(even).rgb) expect(v).toBeCloseTo(0.5, 3);
    const red = writeExr({ width: 1, height: 1, chromaticities: ap0, channels: [["R", 0.5], ["G", 0.1], ["B", 0.1]].map(([name, v]) => ({ name: name as string, type: "float", values: new Float32Array([v as number]) })) }); // prettier-ignore
    // AP0 to Rec. 709 after the Academy's own matrix (TB-2014-004, CTL utilities): row of red 2.5217, -1.1341, -0.3876
    expect(readPicture(red).rgb[0]).toBeCloseTo(2.5217 * 0.5 - 1.1341 * 0.1 - 0.3876 * 0.1, 2);
  });

  it("every compression, in tiles and lines, of halves and floats at once, comes back as Debian's tools wrote it", () => {
    const file = join(folder, "mixed.exr");
    const made = image();
    writeFileSync(file, writeExr(made));
    for (const compression of ["none", "rle", "zip", "piz", "pxr24", "b44", "b44a"])
      for (const [mode, size] of [
        ["-o", 64],
        ["-o", 16],
        ["-m", 16],
        ["-r", 9],
      ] as const) {
        const other = join(folder, `other-${compression}.exr`);
        execFileSync("exrmaketiled", [mode, "-z", compression, "-t", String(size), String(size), file, other]);
        const back = readExr(readFileSync(other), other);
        expect([back.width, back.height, back.channels.length]).toEqual([width, height, made.channels.length]);
        // what compression with loss keeps is judged against what the tool itself makes of it
        const plain = join(folder, "plain.exr");
        execFileSync("exrmaketiled", ["-o", "-z", "none", other, plain]);
        const theirs = compression === "pxr24" || compression.startsWith("b44") ? readExr(readFileSync(plain)).channels : made.channels;
        for (const c of theirs)
          expect(back.channels.find((b) => b.name === c.name)!.values, `${compression} ${mode} ${c.name}`).toEqual(c.values);
      }
  });

  it.each(["dwaa", "dwab"])("%s in tiles, lines and parts, as Debian's tools have it", (compression) => {
    const [a, b, plain, both] = ["a.exr", "b.exr", "plain.exr", "both.exr"].map((n) => join(folder, n)) as [string, string, string, string];
    const [width, height] = [90, 70];
    const wave = (k: number): Float32Array =>
      Float32Array.from({ length: width * height }, (_, i) => 2 + 2 * Math.sin((i % width) / (5 + k)) * Math.cos(i / width / 9));
    writeFileSync(a, writeExr({ width, height, channels: [..."RGBA"].map((name, k) => ({ name, type: "half", values: wave(k) })) }));
    const check = (file: string): void => {
      execFileSync("exrmaketiled", ["-o", "-z", "none", file, plain]);
      const [ours, theirs] = [readExr(readFileSync(file)), readExr(readFileSync(plain))];
      for (const c of theirs.channels) {
        const own = ours.channels.find((o) => o.name === c.name)!.values;
        // to a step or two of half numbers: both transforms are in single precision
        c.values.forEach((v, i) => expect(Math.abs(own[i]! - v)).toBeLessThan(0.01 * Math.abs(v) + 0.004));
      }
    };
    for (const tile of ["64", "23"]) {
      execFileSync("exrmaketiled", ["-o", "-z", compression, "-t", tile, tile, a, b]);
      check(b);
    }
    execFileSync("exrmultipart", ["-combine", "-i", b, b, "-o", both]);
    const part = readExr(readFileSync(both));
    expect(part.channels.map((c) => c.name)).toEqual(["A", "B", "G", "R"]);
    expect(part.channels[3]!.values).toEqual(readExr(readFileSync(b)).channels[3]!.values);
  });

  it("of several parts the first with colours is taken", () => {
    const [a, b, both] = ["first.exr", "second.exr", "both.exr"].map((n) => join(folder, n)) as [string, string, string];
    writeFileSync(a, writeExr({ width: 3, height: 2, channels: [{ name: "Z", type: "float", values: new Float32Array(6).fill(7) }] }));
    writeFileSync(b, made(["R", "G", "B"]));
    execFileSync("exrmultipart", ["-combine", "-i", a, b, "-o", both]);
    expect([...readPicture(readFileSync(both), "both.exr").rgb.slice(0, 3)]).toEqual([1, 2, 3]);
  });
});

describe("films to files", () => {
  const film = emptyFilm(4, 3);
  for (let i = 0; i < 12; i++) {
    const p = i * PIXEL_FLOATS;
    film.data.set([i, 2 * i, 0.1 * i, 1, 1, 1, 0.5, 0.25, 1, 8, 4, 0, 4], p);
  }

  it("layers carry the passes' names, and air + surfaces is the beauty to the last bit", () => {
    const c = Object.fromEntries(filmChannels(film, ["beauty", "air", "surfaces", "depth"], "float").map((x) => [x.name, x.values]));
    expect(Object.keys(c).sort()).toEqual(
      ["A", "B", "G", "R", "Z", "air.B", "air.G", "air.R", "depth.Z", "surfaces.B", "surfaces.G", "surfaces.R"], // prettier-ignore
    );
    for (let i = 0; i < 12; i++) expect(c.R![i]).toBe(Math.fround(c["air.R"]![i]! + c["surfaces.R"]![i]!));
    expect(c["depth.Z"]![0]).toBe(2);
    expect(passValues(film, "transmittance")[1]).toBeCloseTo(0.0625, 6);
  });

  it("the developed PNG has the picture's size and grows brighter with light", () => {
    const png = decode(filmToPng(film, "beauty", parseDocument({ fumarium: 2, film: { exposure: 1 } }), {}));
    expect([png.width, png.height, png.channels]).toEqual([4, 3, 3]);
    expect(png.data[3 * 11 + 1]!).toBeGreaterThan(png.data[1]!);
  });

  it("an OpenEXR has the finished picture in R, G, B where that is asked for, and else light as it was rendered", () => {
    const doc = parseDocument({ fumarium: 2, film: { exposure: 1, finish: { contrast: 1.4, black: 0.01 } } });
    const of = (finished: { lut: null } | null) => readExr(filmToExr(film, [...PASS_NAMES], "float", doc, {}, { finished }), "t");
    const [linear, finished] = [of(null), of({ lut: null })];
    const plane = (image: ExrImage, name: string) => image.channels.find((c) => c.name === name)!.values;
    const png = decode(filmToPng(film, "beauty", doc, {}, 16)).data;
    // sRGB as the standard has it (IEC 61966-2-1)
    const light = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
    ["R", "G", "B"].forEach((name, k) => {
      expect([...plane(linear, name)]).toEqual(
        Array.from({ length: film.width * film.height }, (_, i) => passValues(film, "beauty")[3 * i + k]),
      );
      plane(finished, name).forEach((v, i) => expect(v).toBeCloseTo(light(png[3 * i + k]! / 65535), 6));
    });
    for (const { name, values } of linear.channels)
      if (!"RGB".includes(name)) expect([...plane(finished, name)], name).toEqual([...values]);
    expect(linear.attributes).not.toHaveProperty(["fumarium.finished"]);
    expect(finished.attributes).toHaveProperty(["fumarium.finished"]);
    // read back it is the light that was rendered
    expect(passValues(filmFromExr(finished), "beauty")).toEqual(passValues(filmFromExr(linear), "beauty"));
  });

  it("a window of a frame says where it lies, and comes back there", () => {
    const frame = { x: 10, y: 4, width: film.width + 30, height: film.height + 9 };
    const doc = parseDocument({ fumarium: 2 });
    const image = readExr(filmToExr({ ...film, frame }, ["beauty", "air", "surfaces"], "float", doc, {}), "t");
    expect(image.frame).toEqual(frame);
    const back = filmFromExr(image);
    expect(back).toMatchObject({ width: film.width, height: film.height, frame, crop: [0, 0, film.width, film.height] });
    expect(filmFromExr(readExr(filmToExr(back, ["beauty", "air", "surfaces"], "float", doc, {}), "t")).frame).toEqual(frame);
  });

  it("a PNG of 16 bits is the same picture, finer; its colours are said to be sRGB, its text is the document", async () => {
    const doc = parseDocument({ fumarium: 2, title: "Höhe — 高さ", film: { exposure: 1 } });
    const [coarse, bytes] = [decode(filmToPng(film, "beauty", doc, {})), filmToPng(film, "beauty", doc, { seconds: 3 }, 16)];
    const fine = decode(bytes);
    expect([fine.depth, fine.channels]).toEqual([16, 3]);
    // by half a level of dither and half of rounding
    fine.data.forEach((v, i) => expect(Math.abs(v / 257 - coarse.data[i]!)).toBeLessThan(1.1));
    // the shoulder and the curve by themselves: not in steps of a table
    const m = whiteBalanceMatrix(doc.film.whiteBalance);
    const linear = passValues(film, "beauty").subarray(0, 3);
    for (const k of [0, 1, 2]) {
      const x = linear.reduce((sum, v, b) => sum + m[3 * k + b]! * v, 0) / (1.2 * 2 ** doc.film.exposure);
      // to one step of 16 bits
      expect(Math.abs(fine.data[k]! - 65535 * encodeSrgb(shoulder(Math.max(0, x))))).toBeLessThan(1.1);
    }
    // another reader: chunks in order, their checks right, colour space and text
    const meta = await sharp(bytes).metadata();
    expect([meta.depth, meta.space, meta.width]).toEqual(["ushort", "rgb16", 4]);
    const texts = new Map((meta.comments ?? []).map(({ keyword, text }) => [keyword, text]));
    expect(texts.get("Title")).toBe(doc.title);
    expect(JSON.parse(texts.get("fumarium.document")!)).toEqual(doc);
    expect(JSON.parse(texts.get("fumarium.render")!)).toEqual({ seconds: 3 });
    expect(Buffer.from(bytes.subarray(33, 60)).toString("latin1")).toMatch(/sRGB.*gAMA/s);
  });
});

describe("other ways of glTF", () => {
  it("strips and fans are the triangles that they stand for, facing the same way; a file without a scene shows all its nodes", async () => {
    expect([...singleTriangles([0, 1, 2, 3, 4], false)]).toEqual([0, 1, 2, 1, 3, 2, 2, 3, 4]);
    expect([...singleTriangles([0, 1, 2, 3], true)]).toEqual([1, 2, 0, 2, 3, 0]);
    const doc = new Document();
    const buffer = doc.createBuffer();
    // a square in the plane of x and y, seen from +z
    const strip = doc.createAccessor().setType("VEC3").setArray(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0])).setBuffer(buffer); // prettier-ignore
    const fan = doc.createAccessor().setType("VEC3").setArray(new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0])).setBuffer(buffer); // prettier-ignore
    for (const [name, mode, position] of [
      ["strip", 5, strip],
      ["fan", 6, fan],
    ] as const)
      // prettier-ignore
      doc.createNode(name).setMesh(doc.createMesh(name).addPrimitive(doc.createPrimitive().setMode(mode).setAttribute("POSITION", position)));
    const { mesh, report } = await readModel(await modelIO().writeBinary(doc), "m.glb");
    expect(report).toMatchObject({ triangles: 4, left: [] });
    for (let t = 0; t < 4; t++) {
      const p = (k: number): number => mesh.positions[9 * t + k]!;
      // twice the area, positive where it faces +z
      expect((p(3) - p(0)) * (p(7) - p(1)) - (p(4) - p(1)) * (p(6) - p(0))).toBeCloseTo(1, 6);
    }
  });
});

describe("models", () => {
  async function glb(): Promise<Uint8Array> {
    const m = new Model({
      leaf: { baseColor: [0.1, 0.5, 0.2], roughness: 0.4, diffuseTransmission: 0.3, specular: 0.5 },
      iron: { metallic: 1, roughness: 0.2 },
    });
    m.box("leaf", [0, 0, 0], [1, 2, 3]);
    m.tube(
      "iron",
      [
        [0, 0, 0],
        [0, 3, 0],
      ],
      [0.1, 0.1],
      6,
    );
    return m.glb("test");
  }

  it("come back with their triangles, normals and materials", async () => {
    const { mesh, report } = await readModel(await glb());
    expect(report).toEqual({ triangles: 12 + 12, kept: 24, instances: 0, materials: 2, left: [] });
    expect(mesh.materials[0]).toMatchObject({ roughness: 0.4, specular: 0.5 });
    expect(mesh.materials[0]!.diffuseTransmission).toBeCloseTo(0.3, 9);
    for (let i = 0; i < mesh.normals.length; i += 3)
      expect(Math.hypot(mesh.normals[i]!, mesh.normals[i + 1]!, mesh.normals[i + 2]!)).toBeCloseTo(1, 5);
  });

  it("that are broken or hostile get an error that says what and where", async () => {
    const good = await glb();
    const change = (f: (b: Uint8Array, v: DataView) => Uint8Array | void): Uint8Array => {
      const b = good.slice();
      return f(b, new DataView(b.buffer)) ?? b;
    };
    const text = new TextDecoder().decode(good.slice(20, 20 + new DataView(good.buffer, good.byteOffset).getUint32(12, true)));
    /** The same file with its JSON changed, lengths kept true. */
    const json = (f: (s: string) => string): Uint8Array => {
      const chunk = new TextEncoder().encode(f(text).padEnd(text.length));
      const rest = good.slice(20 + text.length);
      const out = new Uint8Array(20 + chunk.length + rest.length);
      out.set(good.slice(0, 20));
      out.set(chunk, 20);
      out.set(rest, 20 + chunk.length);
      new DataView(out.buffer).setUint32(8, out.length, true);
      new DataView(out.buffer).setUint32(12, chunk.length, true);
      return out;
    };
    const cases: [Uint8Array, RegExp][] = [
      [new Uint8Array(5), /too few/],
      [new Uint8Array(100), /does not begin/],
      [good.slice(0, good.length - 40), /cut short/],
      [change((_, v) => v.setUint32(4, 1, true)), /version 1/],
      [change((_, v) => v.setUint32(12, 0x7fffffff, true)), /reaches past the end/],
      [json((s) => s.replace("{", "[")), /not JSON/],
      [json((s) => s.replaceAll('"POSITION"', '"PSITION"')), /no positions|not readable/],
      [json((s) => s.replace(/"nodes":\[.*?\],"asset|"scenes":\[\{.*?\}\]/, '"scenes":[{}]')), /no triangles|not readable/],
    ];
    for (const [bytes, pattern] of cases) await expect(readModel(bytes, "m.glb")).rejects.toThrow(pattern);
    const nan = good.slice();
    new DataView(nan.buffer).setFloat32(nan.length - 4, NaN, true);
    const floats = new DataView(nan.buffer);
    for (let i = 20 + text.length + 8; i + 4 <= 20 + text.length + 8 + 36; i += 4) floats.setFloat32(i, NaN, true);
    await expect(readModel(nan, "m.glb")).rejects.toThrow(/m\.glb: mesh "leaf", corner 0: .*not a number/);
  });
});
