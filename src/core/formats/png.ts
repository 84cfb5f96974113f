/**
 * PNG pictures of every depth and colour type, decompressed no further than their size needs, as samples of red, green, blue and opacity.
 */
import { decode } from "fast-png";
import { joinBytes } from "../data/bytes";
import { Unzlib } from "fflate";
import { InputError, reasonOf } from "../errors";

export interface PngImage {
  width: number;
  height: number;
  /** Largest value of a sample. */
  top: number;
  /** width × height × 4 samples. */
  rgba: Uint8Array | Uint16Array;
}

/** Samples of a pixel by colour type, and the depths that go with it (PNG specification, table 11.1). */
const TYPES: Readonly<Record<number, { samples: number; depths: readonly number[] }>> = {
  0: { samples: 1, depths: [1, 2, 4, 8, 16] },
  2: { samples: 3, depths: [8, 16] },
  3: { samples: 1, depths: [1, 2, 4, 8] },
  4: { samples: 2, depths: [8, 16] },
  6: { samples: 4, depths: [8, 16] },
};
/** Bytes decompressed at a time: they may become a thousand times as many. */
const PIECE = 4096;
/** What a picture is made of; all else only decorates it, and may hold more than it says. */
const NEEDED = new Set(["IHDR", "PLTE", "tRNS", "IDAT", "IEND"]);

/** Bytes that the rows of a picture decompress to, a filter byte before each; interlaced ones have rows of seven smaller pictures. */
function rawBytes(width: number, height: number, bits: number, interlaced: boolean): number {
  const of = (w: number, h: number): number => (w > 0 ? h * (1 + Math.ceil((w * bits) / 8)) : 0);
  if (!interlaced) return of(width, height);
  const passes = [[0, 0, 8, 8], [4, 0, 8, 8], [0, 4, 4, 8], [2, 0, 4, 4], [0, 2, 2, 4], [1, 0, 2, 2], [0, 1, 1, 2]] as const; // prettier-ignore
  return passes.reduce((n, [x, y, dx, dy]) => n + of(Math.ceil((width - x) / dx), Math.ceil((height - y) / dy)), 0);
}

/** Decodes a PNG picture. @param maxPixels more are refused before anything is decompressed @throws InputError saying what is wrong */
export function readPng(bytes: Uint8Array, what: string, maxPixels: number): PngImage {
  const bad = (why: string): InputError => new InputError(`${what}: not readable as PNG (${why})`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const chunks: Uint8Array[] = [bytes.subarray(0, 8)];
  const data: Uint8Array[] = [];
  let palette = 0;
  for (let at = 8; ;) {
    if (at + 12 > bytes.length) throw bad("it is cut short");
    const length = view.getUint32(at);
    const type = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
    if (length > bytes.length - at - 12) throw bad(`its part ${type} is cut short`);
    const body = bytes.subarray(at + 8, at + 8 + length);
    if (NEEDED.has(type)) chunks.push(bytes.subarray(at, at + 12 + length));
    if (type === "IDAT") data.push(body);
    if (type === "PLTE") palette = Math.floor(length / 3);
    at += 12 + length;
    if (type === "IEND") break;
  }
  if (view.getUint32(8) !== 13 || view.getUint32(12) !== 0x49484452) throw bad("it does not begin with its size");
  const [width, height] = [view.getUint32(16), view.getUint32(20)];
  const [depth = 0, kind = 0, , , interlace = 0] = bytes.subarray(24, 29);
  const type = TYPES[kind];
  if (!type?.depths.includes(depth)) throw bad(`colour type ${kind} of ${depth} bits`);
  if (width < 1 || height < 1 || width * height > maxPixels)
    throw new InputError(`${what}: ${width} × ${height} pixels; between 1 and ${maxPixels} are read`);
  if (kind === 3 && palette === 0) throw bad("it has no palette");
  const wanted = rawBytes(width, height, depth * type.samples, interlace === 1);
  let size = 0;
  try {
    const unzip = new Unzlib((part) => {
      size += part.length;
    });
    for (const part of data)
      // in pieces: one may expand a thousandfold
      for (let i = 0; i < part.length && size <= wanted; i += PIECE) unzip.push(part.subarray(i, i + PIECE));
  } catch (error) {
    throw bad(reasonOf(error));
  }
  if (size < wanted) throw bad("its data end early");
  if (size > wanted) throw bad(`its data hold more than ${width} × ${height} pixels`);
  let image: ReturnType<typeof decode>;
  try {
    image = decode(joinBytes(chunks));
  } catch (error) {
    throw bad(reasonOf(error));
  }
  return expanded(image, depth, what);
}

/** Four samples a pixel, those of less than a byte taken out of their rows, palettes looked up. */
function expanded(image: ReturnType<typeof decode>, depth: number, what: string): PngImage {
  const { width, height, channels, data, palette, transparency } = image;
  const top = palette ? 255 : 2 ** depth - 1;
  const rgba = depth === 16 ? new Uint16Array(4 * width * height) : new Uint8Array(4 * width * height);
  const rowBytes = Math.ceil((width * channels * depth) / 8);
  const sample = (x: number, y: number, c: number): number => {
    if (depth >= 8) return data[(y * width + x) * channels + c] ?? 0;
    const bit = (x * channels + c) * depth;
    return ((data[y * rowBytes + (bit >> 3)] ?? 0) >> (8 - depth - (bit & 7))) & (2 ** depth - 1);
  };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const to = 4 * (y * width + x);
      if (palette) {
        const index = sample(x, y, 0);
        const colour = palette[index];
        if (!colour) throw new InputError(`${what}: not readable as PNG (a pixel has colour ${index} of a palette of ${palette.length})`);
        for (let c = 0; c < 3; c++) rgba[to + c] = colour[c] ?? 0;
        rgba[to + 3] = colour[3] ?? 255;
        continue;
      }
      const first = sample(x, y, 0);
      rgba[to] = first;
      rgba[to + 1] = channels < 3 ? first : sample(x, y, 1);
      rgba[to + 2] = channels < 3 ? first : sample(x, y, 2);
      const clear =
        transparency && channels !== 2 && channels !== 4 && [0, 1, 2].every((c) => rgba[to + c] === transparency[channels < 3 ? 0 : c]);
      rgba[to + 3] = clear ? 0 : channels === 2 || channels === 4 ? sample(x, y, channels - 1) : top;
    }
  return { width, height, top, rgba };
}
