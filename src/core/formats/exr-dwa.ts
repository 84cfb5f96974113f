/**
 * DWA blocks of OpenEXR. They are decoded by three.js, which knows files of scan lines alone and waits for ever on broken ones: so each
 * block, of lines or a tile, becomes a file of its own, and what would be trusted is decoded here first.
 */
import { strToU8, unzlibSync } from "fflate";
import { HalfFloatType } from "three";
import { EXRLoader } from "three/examples/jsm/loaders/EXRLoader.js";
import { joinBytes } from "../data/bytes";
import { HALF, type Block } from "./exr-block";
import { decodeHuffman } from "./exr-piz";

/** Lines that a block of its own file may have. */
const MAX_LINES = 256;
/** The compression of blocks so high; those of 32 lines are packed alike. */
const DWAB = 9;

/** Unpacks a block of half channels named as colours. @throws Error saying what is wrong, or what is not read */
export function unpackDwa(data: Uint8Array, block: Block): Uint8Array {
  const { channels, width, lines } = block;
  if (channels.length > 4 || channels.some(({ name, type }) => type !== HALF || !/^[RGBA]$/.test(name)))
    throw new Error("DWA of other channels than R, G, B and A in half is not read; save it with ZIP or PIZ");
  if (lines > MAX_LINES) throw new Error(`DWA in tiles of more than ${MAX_LINES} lines is not read; save it with ZIP or PIZ`);
  checkDwa(data, width * lines);
  const image = new EXRLoader().setDataType(HalfFloatType).parse(fileOf(readable(data), block).buffer);
  const values = image.data as Uint16Array;
  const there = values.length / (width * lines);
  if (!Number.isInteger(there)) throw new Error(`${values.length} values for ${width} × ${lines} pixels`);
  const out = new Uint16Array(width * lines * channels.length);
  // rows begin at the bottom there; channels lie as colours, here as they are named in the file
  const place = channels.map(({ name }) => Math.min(there - 1, "RGBA".indexOf(name)));
  for (let y = 0, to = 0; y < lines; y++)
    for (const k of place)
      for (let x = 0; x < width; x++, to++) {
        const half = values[there * ((lines - 1 - y) * width + x) + k]!;
        // compression with loss may dip below black
        out[to] = half & 0x8000 ? 0 : half;
      }
  return new Uint8Array(out.buffer);
}

/** Places in the head: bytes of packed coefficients, how many they are, and how they are packed. */
const [AC_BYTES, AC_COUNT, AC_CODE] = [3, 8, 10];

/** A block as three.js reads it: of deflated coefficients it takes as many bytes as there are numbers, and asks for the numbers nowhere else. */
function readable(data: Uint8Array): Uint8Array {
  // not slice(): that of a Node buffer is no copy
  const copy = new Uint8Array(data);
  const view = new DataView(copy.buffer);
  if (view.getBigUint64(8 * AC_CODE, true) === 1n) view.setBigUint64(8 * AC_COUNT, view.getBigUint64(8 * AC_BYTES, true), true);
  return copy;
}

/** A file of scan lines that holds a block alone. */
function fileOf(data: Uint8Array, { channels, width, lines }: Block): Uint8Array<ArrayBuffer> {
  const words = (...values: number[]): Uint8Array => new Uint8Array(Int32Array.from(values).buffer);
  const attribute = (name: string, type: string, value: Uint8Array): Uint8Array =>
    joinBytes([strToU8(`${name}\0${type}\0`), words(value.length), value]);
  const window = words(0, 0, width - 1, lines - 1);
  const one = new Uint8Array(Float32Array.of(1).buffer);
  const list = channels.flatMap(({ name, linear }) => [strToU8(`${name}\0`), words(HALF, linear ? 1 : 0, 1, 1)]);
  const head = joinBytes([
    words(20000630, 2),
    attribute("channels", "chlist", joinBytes([...list, Uint8Array.of(0)])),
    attribute("compression", "compression", Uint8Array.of(DWAB)),
    attribute("dataWindow", "box2i", window),
    attribute("displayWindow", "box2i", window),
    attribute("lineOrder", "lineOrder", Uint8Array.of(0)),
    attribute("pixelAspectRatio", "float", one),
    attribute("screenWindowCenter", "v2f", words(0, 0)),
    attribute("screenWindowWidth", "float", one),
    Uint8Array.of(0),
  ]);
  return joinBytes([head, words(head.length + 8, 0), words(0, data.length), data]);
}

/** Numbers at the head of a block, 8 bytes each. */
const HEAD = 11;

/**
 * Checks a block: sizes that fit, codes that are whole.
 * @param pixels of the block @throws Error saying what is wrong
 */
function checkDwa(data: Uint8Array, pixels: number): void {
  if (data.length < 8 * HEAD) throw new Error("it is cut short");
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  const [version, , plain, ac, dc, rle, runs, raw, acCount, dcCount, code] = Array.from({ length: HEAD }, (_, i) =>
    Number(view.getBigUint64(8 * i, true)),
  ) as [number, number, number, number, number, number, number, number, number, number, number];
  const limit = 16 * pixels + 65536;
  if (version > 2 || code > 1 || ![plain, ac, dc, rle, runs, raw, acCount, dcCount].every((n) => n <= limit))
    throw new Error("its head is broken");
  let at = 8 * HEAD;
  if (version >= 2) {
    if (at + 2 > data.length) throw new Error("it is cut short");
    const rules = view.getUint16(at, true);
    if (rules < 2) throw new Error("its head is broken");
    at += rules;
  }
  const part = (n: number): Uint8Array => {
    if (at + n > data.length) throw new Error("it is cut short");
    at += n;
    return data.subarray(at - n, at);
  };
  part(plain);
  const coefficients = part(ac);
  const means = part(dc);
  const run = part(rle);
  const whole = (bytes: Uint8Array, wanted: number): void => {
    if (bytes.length > 0 && unzlibSync(bytes, { out: new Uint8Array(wanted) }).length !== wanted)
      throw new Error("its parts are not of the size they say");
  };
  if (ac > 0) {
    if (code === 0) decodeHuffman(coefficients, acCount);
    else whole(coefficients, 2 * acCount);
  }
  if (dc > 0) whole(means, 2 * dcCount);
  if (rle > 0) whole(run, runs);
}
