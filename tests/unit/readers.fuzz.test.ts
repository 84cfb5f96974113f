/**
 * Every reader of files against inputs that were damaged at random: an error that names the file and says what is wrong, or a result;
 * never another exception, never an endless wait. FUZZ sets the inputs of each reader (npm run fuzz: 20,000), SEED where they begin.
 */
import { execFileSync } from "node:child_process";
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { zipSync } from "fflate";
import { encode as encodePng } from "fast-png";
import dawn from "@pmndrs/assets/hdri/dawn.exr.js";
import jpeg from "jpeg-js";
import { beforeAll, describe, expect, it } from "vitest";
import { parseDocument, parseDocumentText } from "#core/document/parse";
import { InputError } from "#core/errors";
import { readArchive } from "#core/exchange/archive";
import { importSet } from "#core/exchange/import/index";
import { COMPRESSIONS } from "#core/formats/depths";
import { writeExr, writeExrParts } from "#core/formats/exr";
import { readExr, readExrLayers } from "#core/formats/exr-read";
import { readModel } from "#core/formats/gltf";
import { photometryGrid, readIes } from "#core/formats/ies";
import { readPicture } from "#core/formats/image";
import { readVdb, writeVdb } from "#core/formats/vdb";
import { VolumeBuilder } from "#core/data/volume";
import { Model } from "../../demo/kit/model";
import { decoders } from "../../src/cli/decoders";
import { seeded } from "../bench/rays";
import { movingModel, picturedModel } from "../support/moving-model";

const COUNT = Number(process.env.FUZZ ?? 500);
const SEED = Number(process.env.SEED ?? 1);
/** Milliseconds that any input may take: files of a few kilobytes, on a machine that does something else too. */
const LIMIT = 8000;
const text = (s: string): Uint8Array => new TextEncoder().encode(s);
const bytesOf = (uri: string): Uint8Array => new Uint8Array(Buffer.from(uri.slice(uri.indexOf(",") + 1), "base64"));
const decode = (b: Uint8Array): string => new TextDecoder().decode(b);

/** A damaged copy: bits turned, bytes set to borders, pieces cut out, doubled, swapped with those of another file, or the end cut off. */
function damaged(random: () => number, from: readonly Uint8Array[]): Uint8Array {
  const pick = (n: number): number => Math.floor(random() * n);
  let b = new Uint8Array(from[pick(from.length)]!);
  for (let n = 1 + pick(4); n > 0; n--) {
    const at = pick(b.length + 1);
    const length = Math.min(b.length - at, 1 + pick(16));
    switch (pick(8)) {
      case 0:
        if (at < b.length) b[at] = b[at]! ^ (1 << pick(8));
        break;
      case 1:
        for (let i = 0; i < length; i++) b[at + i] = [0, 0xff, 0x7f, 0x80, 1][pick(5)]!;
        break;
      case 2:
        b = b.slice(0, at);
        break;
      case 3:
        b = Uint8Array.from([...b.subarray(0, at), ...b.subarray(at + length)]);
        break;
      case 4:
        b = Uint8Array.from([...b.subarray(0, at), ...b.subarray(Math.max(0, at - length), at), ...b.subarray(at)]);
        break;
      case 5: {
        const other = from[pick(from.length)]!;
        b.set(other.subarray(Math.min(at, other.length), Math.min(at + length, other.length)), Math.min(at, b.length - length));
        break;
      }
      case 6:
        for (let i = 0; i < length; i++) b[at + i] = pick(256);
        break;
      default:
        if (b.length >= 4) new DataView(b.buffer).setUint32(Math.min(at, b.length - 4), [0xffffffff, 0x7fffffff, 0x80000000, 0x10000, 0][pick(5)]!, true); // prettier-ignore
    }
    if (b.length === 0) b = new Uint8Array(1);
  }
  return b;
}

interface Reader {
  seeds: Uint8Array[];
  read(bytes: Uint8Array): unknown;
  /** Share of the inputs that are tried, where each takes long. */
  share?: number;
}
const readers: Record<string, Reader> = {};

beforeAll(async () => {
  const folder = mkdtempSync(join(tmpdir(), "fumarium-fuzz-"));
  const plane = Float32Array.from({ length: 35 }, (_, i) => Math.sin(i) * 3);
  const image = (type: "half" | "float") => ({ width: 7, height: 5, channels: ["R", "G", "B", "depth.Z"].map((name) => ({ name, type, values: plane })), attributes: { note: "霧" } }); // prettier-ignore
  const exrs = [writeExr(image("half")), writeExr(image("float"), { compression: "none" }), writeExr({ ...image("half"), frame: { x: 1, y: 2, width: 20, height: 9 } })]; // prettier-ignore
  const { channels, ...rest } = image("half");
  const halves = [channels.slice(0, 2), channels.slice(2)].map((own, i) => ({ name: `part ${i}`, channels: own }));
  const parted = COMPRESSIONS.map((compression) => writeExrParts(rest, halves, { compression }));
  // other compressions and tiles, by Debian's tools where they are
  if (existsSync("/usr/bin/exrmaketiled"))
    for (const kind of ["piz", "pxr24", "b44", "rle", "dwaa"]) {
      const [a, b] = [join(folder, "a.exr"), join(folder, `${kind}.exr`)];
      writeFileSync(a, writeExr({ ...image("half"), channels: image("half").channels.slice(0, 3) }));
      execFileSync("exrmaketiled", ["-o", "-z", kind, a, b]);
      exrs.push(new Uint8Array(readFileSync(b)));
    }
  const pngs = ([[1, 8], [3, 8], [4, 8], [3, 16]] as const).map(([channels, depth]) => encodePng({ width: 5, height: 4, channels, depth, data: depth === 16 ? new Uint16Array(20 * channels).fill(999) : new Uint8Array(20 * channels).fill(77) })); // prettier-ignore
  const jpg = jpeg.encode({ width: 16, height: 16, data: Buffer.alloc(1024, 90) }, 80).data;
  const hdr = Buffer.concat([Buffer.from("#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 2 +X 8\n"), Buffer.from([2, 2, 0, 8, 136, 1, 136, 2, 136, 3, 136, 4, 2, 2, 0, 8, 8, 1, 2, 3, 4, 5, 6, 7, 8, 136, 2, 136, 3, 136, 4])]); // prettier-ignore
  const builder = new VolumeBuilder(0);
  for (let i = 0; i < 40; i++) builder.set(i, (i * 3) % 20, i % 7, i / 40);
  const vdbs = [writeVdb({ density: builder.build([0.1, 0, 0, 1, 0, 0.1, 0, 2, 0, 0, 0.1, 3]) }), new Uint8Array(readFileSync("tests/fixtures/library.vdb"))]; // prettier-ignore
  const model = new Model({ stone: { baseColor: [0.5, 0.4, 0.3], roughness: 0.7 }, lamp: { emission: [100, 90, 80] } });
  model.box("stone", [0, 0, 0], [1, 2, 3]);
  model.polygon("lamp", [0, 3, 0], [1, 3, 0], [1, 3, 1]);
  const glb = await model.glb("test");
  const obj = text("mtllib a.mtl\no roof\nv 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nvt 0 0\nvn 0 0 1\nusemtl red\nf 1/1/1 2/1/1 3/1/1\nf 1//1 -1//1 2//1 3//1\n"); // prettier-ignore
  const usda = `#usda 1.0\n(\n    metersPerUnit = 0.01\n    upAxis = "Z"\n)\ndef Xform "A"\n{\n    def Mesh "M"\n    {\n        int[] faceVertexCounts = [4]\n        int[] faceVertexIndices = [0, 1, 2, 3]\n        point3f[] points = [(0, 0, 0), (4, 0, 0), (4, 3, 0), (0, 3, 0)]\n        texCoord2f[] primvars:st = [(0, 0), (1, 0), (1, 1), (0, 1)] (\n            interpolation = "vertex"\n        )\n    }\n\n    def "B" (\n        references = </A/M>\n    )\n    {\n        double3 xformOp:translate = (0, 0, 4)\n        uniform token[] xformOpOrder = ["xformOp:translate"]\n    }\n\n    def SphereLight "L"\n    {\n        float inputs:intensity = 2000\n    }\n}\n`; // prettier-ignore
  const mtl = text("newmtl red\nKd 1 0 0\nNs 100\nd 0.5\nmap_Kd a.png\n");
  const doc = JSON.stringify(
    parseDocument({
      fumarium: 2,
      title: "x",
      air: [{ density: 0.1, noise: {}, height: { scale: 2 }, region: { kind: "box", centre: [0, 1, 0], size: [1, 2, 3] } }],
      lights: [{ kind: "spot", position: [0, 1, 0], target: [0, 0, 0], gobo: { pattern: "leaves" } }],
      objects: [{ kind: "sphere", material: "m", radius: 1 }],
      materials: { m: {} },
    }),
  );
  const ies = text("IES:LM-63-2019\n[TEST] x\nTILT=NONE\n1 -1 1 3 2 1 2 0 0 0 1 1 60\n0 45 90\n0 90\n10 9 8\n7 6 5\n");
  const imported = (name: string) => (b: Uint8Array) => importSet(new Map([[name, b], ["a.mtl", mtl]]), { decoders: { draco: () => Promise.reject(new Error("none")) } as never, decode }); // prettier-ignore
  Object.assign(readers, {
    OpenEXR: { seeds: exrs, read: (b) => readExr(b, "x.exr") },
    "OpenEXR in parts": { seeds: parted, read: (b) => readExrLayers(b, "x.exr") },
    "OpenEXR as a picture": { seeds: exrs, read: (b) => readPicture(b, "x.exr") },
    "OpenEXR in DWA": { seeds: [bytesOf(dawn)], read: (b) => readPicture(b, "x.exr"), share: 0.04 },
    PNG: { seeds: pngs, read: (b) => readPicture(b, "x.exr") },
    JPEG: { seeds: [jpg], read: (b) => readPicture(b, "x.exr") },
    "Radiance HDR": { seeds: [hdr], read: (b) => readPicture(b, "x.exr") },
    OpenVDB: { seeds: vdbs, read: (b) => readVdb(b, "x.exr"), share: 0.4 },
    "photometric profile": { seeds: [ies], read: (b) => photometryGrid(readIes(decode(b), "x.exr")), share: 0.2 },
    GLB: { seeds: [glb], read: (b) => readModel(b, "x.exr") },
    "set in GLB": { seeds: [glb], read: imported("x.glb") },
    "set in OBJ": { seeds: [obj], read: imported("x.obj") },
    "set in OpenUSD": { seeds: [text(usda)], read: imported("x.usda") },
    "set that moves": { seeds: [await movingModel(), await movingModel(true)], read: (b) => importSet(new Map([["x.glb", b]]), { decoders, decode, moment: { animation: 0, time: 0.3 } }) }, // prettier-ignore
    "pictures of a set": { seeds: await Promise.all((["webp", "ktx2"] as const).map(picturedModel)), read: (b) => importSet(new Map([["x.glb", b]]), { decoders, decode }), share: 0.3 }, // prettier-ignore
    "material library": { seeds: [mtl], read: (b) => importSet(new Map([["x.obj", obj], ["a.mtl", b]]), { decoders: {} as never, decode }) }, // prettier-ignore
    "set in a zip": { seeds: [zipSync({ "x.glb": glb }, { level: 0 }), zipSync({ "x.obj": obj, "a.mtl": mtl })], read: imported("x.zip") },
    "project file": { seeds: [zipSync({ "x.fumarium.json": text(doc) }, { level: 0 })], read: (b) => readArchive(b, "x.exr", decode) },
    document: { seeds: [text(doc)], read: (b) => parseDocumentText(decode(b), "x.exr") },
  } satisfies Record<string, Reader>);
});

describe("damaged files", () => {
  it.each([
    "OpenEXR",
    "OpenEXR in parts",
    "OpenEXR as a picture",
    "OpenEXR in DWA",
    "PNG",
    "JPEG",
    "Radiance HDR",
    "OpenVDB",
    "photometric profile",
    "GLB",
    "set in GLB",
    "set in OBJ",
    "set in OpenUSD",
    "set that moves",
    "pictures of a set",
    "material library",
    "set in a zip",
    "project file",
    "document",
  ])(
    "%s: an error in words or a result, soon",
    async (name) => {
      const reader = readers[name]!;
      const random = seeded(SEED * 7919 + name.length);
      const bad: string[] = [];
      let refused = 0;
      for (let n = 0; n < COUNT * (reader.share ?? 1) && bad.length < 10; n++) {
        const bytes = damaged(random, reader.seeds);
        const began = performance.now();
        try {
          await reader.read(bytes);
        } catch (error) {
          refused++;
          if (!(error instanceof InputError)) bad.push(`${n}: ${error instanceof Error ? (error.stack ?? "").split("\n").slice(0, 3).join(" ") : String(error)}`); // prettier-ignore
          else if (!error.message.trim() || /Cannot read|not a function|: undefined|\[object Object|at .*:\d+:\d+/.test(error.message)) bad.push(`${n}: says "${error.message.slice(0, 120)}"`); // prettier-ignore
        }
        const took = performance.now() - began;
        if (took > LIMIT) bad.push(`${n}: took ${Math.round(took)} ms`);
      }
      expect(bad).toEqual([]);
      // the inputs are damaged, not mere noise: some are still read
      expect(refused).toBeLessThan(COUNT);
    },
    3_600_000,
  );
});
