/**
 * The compressions of OpenEXR files ("Technical Introduction to OpenEXR", and the format's reference implementation), each to the plain
 * bytes of its block: for each line, for each channel, its values. Every loop is bounded by the size of the block.
 */
import { unzlibSync } from "fflate";
import { FLOAT, HALF, plainBytes, type Block } from "./exr-block";
import { unpackDwa } from "./exr-dwa";
import { unpackPiz } from "./exr-piz";

interface Codec {
  name: string;
  /** Lines of a block that is no tile. */
  lines: number;
  unpack(data: Uint8Array, block: Block): Uint8Array;
}

/** By their numbers in the file. */
export const CODECS: Readonly<Record<number, Codec>> = {
  0: { name: "none", lines: 1, unpack: (data) => data },
  1: { name: "RLE", lines: 1, unpack: (data, block) => unpredict(unrun(data, plainBytes(block))) },
  2: { name: "ZIPS", lines: 1, unpack: unzipped },
  3: { name: "ZIP", lines: 16, unpack: unzipped },
  4: { name: "PIZ", lines: 32, unpack: unpackPiz },
  5: { name: "PXR24", lines: 16, unpack: unpackPxr24 },
  6: { name: "B44", lines: 32, unpack: unpackB44 },
  7: { name: "B44A", lines: 32, unpack: unpackB44 },
  8: { name: "DWAA", lines: 32, unpack: unpackDwa },
  9: { name: "DWAB", lines: 256, unpack: unpackDwa },
};

function unzipped(data: Uint8Array, block: Block): Uint8Array {
  return unpredict(unzlibSync(data, { out: new Uint8Array(plainBytes(block)) }));
}

/** Takes back the differencing and reordering that go before compression. */
function unpredict(bytes: Uint8Array): Uint8Array {
  const n = bytes.length;
  for (let i = 1; i < n; i++) bytes[i] = bytes[i - 1]! + bytes[i]! - 128;
  const out = new Uint8Array(n);
  const half = (n + 1) >> 1;
  for (let i = 0; i < n; i++) out[i] = bytes[(i & 1 ? half : 0) + (i >> 1)]!;
  return out;
}

/** Runs: a count below 0 goes before as many bytes as they are, others before one byte that is there once more than they say. */
function unrun(data: Uint8Array, wanted: number): Uint8Array {
  const out = new Uint8Array(wanted);
  let to = 0;
  for (let at = 0; at < data.length;) {
    const count = (data[at++]! << 24) >> 24;
    const length = count < 0 ? -count : count + 1;
    if (to + length > wanted) throw new Error("runs reach past its end");
    if (count < 0) {
      if (at + length > data.length) throw new Error("it is cut short");
      out.set(data.subarray(at, at + length), to);
      at += length;
    } else {
      if (at >= data.length) throw new Error("it is cut short");
      out.fill(data[at++]!, to, to + length);
    }
    to += length;
  }
  if (to !== wanted) throw new Error(`${to} bytes where ${wanted} belong`);
  return out;
}

/** Floats of 24 bits: differences along each line, their bytes in planes, the highest first. */
function unpackPxr24(data: Uint8Array, block: Block): Uint8Array {
  const { channels, width, lines } = block;
  const planes = (type: number): number => (type === HALF ? 2 : type === FLOAT ? 3 : 4);
  const wanted = lines * width * channels.reduce((n, c) => n + planes(c.type), 0);
  const raw = unzlibSync(data, { out: new Uint8Array(wanted) });
  if (raw.length !== wanted) throw new Error(`${raw.length} bytes where ${wanted} belong`);
  const out = new Uint8Array(plainBytes(block));
  const view = new DataView(out.buffer);
  let from = 0,
    to = 0;
  for (let y = 0; y < lines; y++)
    for (const { type } of channels) {
      const n = planes(type);
      let value = 0;
      for (let x = 0; x < width; x++) {
        let difference = 0;
        for (let k = 0; k < n; k++) difference = (difference << 8) | raw[from + k * width + x]!;
        value = (value + (type === FLOAT ? difference << 8 : difference)) | 0;
        if (type === HALF) view.setUint16(to, value & 0xffff, true);
        else view.setUint32(to, value >>> 0, true);
        to += type === HALF ? 2 : 4;
      }
      from += n * width;
    }
  return out;
}

/** Halves in squares of four by four: 14 bytes each, or 3 where all are alike; other channels as they are. */
function unpackB44(data: Uint8Array, block: Block): Uint8Array {
  const { channels, width, lines } = block;
  const out = new Uint8Array(plainBytes(block));
  const view = new DataView(out.buffer);
  const lineBytes = out.length / lines;
  let at = 0,
    column = 0;
  const take = (n: number): Uint8Array => {
    if (at + n > data.length) throw new Error("it is cut short");
    at += n;
    return data.subarray(at - n, at);
  };
  const s = new Uint16Array(16);
  for (const { type, linear } of channels) {
    if (type !== HALF) {
      for (let y = 0; y < lines; y++) out.set(take(4 * width), y * lineBytes + column);
      column += 4 * width;
      continue;
    }
    if (linear) throw new Error("channels in the logarithms of B44 are not read");
    for (let y = 0; y < lines; y += 4)
      for (let x = 0; x < width; x += 4) {
        if (at + 3 > data.length) throw new Error("it is cut short");
        if (data[at + 2]! >= 0xfc) (s.fill(ordered((data[at]! << 8) | data[at + 1]!)), take(3));
        else square(take(14), s);
        for (let j = 0; j < Math.min(4, lines - y); j++)
          for (let i = 0; i < Math.min(4, width - x); i++) view.setUint16((y + j) * lineBytes + column + 2 * (x + i), s[4 * j + i]!, true);
      }
    column += 2 * width;
  }
  return out;
}

/** A half from the number by which halves are in order. */
const ordered = (v: number): number => (v & 0x8000 ? v & 0x7fff : ~v & 0xffff);

/** Sixteen halves: the first whole, the others as differences of six bits from the one above or to the left. */
function square(b: Uint8Array, s: Uint16Array): void {
  const shift = b[2]! >> 2;
  const bias = 0x20 << shift;
  // sixteen bits and fifteen times six, from the third byte's last two bits on
  const six = (k: number): number => {
    const bit = 22 + 6 * k;
    const two = (b[bit >> 3]! << 8) | (b[(bit >> 3) + 1] ?? 0);
    return (two >> (10 - (bit & 7))) & 0x3f;
  };
  s[0] = (b[0]! << 8) | b[1]!;
  const from = [0, 4, 8, 0, 4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14];
  const to = [4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14, 3, 7, 11, 15];
  for (let k = 0; k < 15; k++) s[to[k]!] = s[from[k]!]! + (six(k) << shift) - bias;
  for (let k = 0; k < 16; k++) s[k] = ordered(s[k]!);
}
