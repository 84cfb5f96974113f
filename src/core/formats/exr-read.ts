/**
 * Reads OpenEXR files: scan lines and tiles (the finest level), one part or several, every compression. What the file says of
 * sizes is checked before memory is taken for it.
 */
import { InputError, reasonOf } from "../errors";
import { MAGIC, type ExrImage } from "./exr";
import { FLOAT, HALF, plainBytes, sizeOfType, UINT, type Block } from "./exr-block";
import { CODECS } from "./exr-codecs";
import { HALVES } from "./half";
import { fromUtf8 } from "./utf8";

type Box = [number, number, number, number];

interface Header {
  channels: { name: string; type: number; linear: boolean }[];
  attributes: Record<string, string>;
  numbers: Record<string, number[]>;
  compression: number;
  data: Box | null;
  display: Box | null;
  chromaticities: number[] | null;
  tile: [number, number] | null;
  /** Chunks, where the file says how many; it must of parts. */
  chunks: number | null;
  /** Name of a part, empty where it has none. */
  name: string;
  /** What a part is: "scanlineimage", "tiledimage", "deepscanline", "deeptile". */
  type: string;
}

const MAX_PIXELS = 1 << 28;
/** Most numbers of all channels that are read. */
const MAX_NUMBERS = 1 << 29;
const MAX_PARTS = 256;

class Cursor {
  readonly view: DataView;
  at = 0;
  constructor(
    readonly bytes: Uint8Array,
    readonly bad: (why: string) => InputError,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }
  need(n: number): void {
    if (!(n >= 0 && this.at >= 0 && this.at + n <= this.bytes.length)) throw this.bad(`ends early, at byte ${this.bytes.length}`);
  }
  u8(): number {
    this.need(1);
    return this.bytes[this.at++] ?? 0;
  }
  i32(): number {
    this.need(4);
    this.at += 4;
    return this.view.getInt32(this.at - 4, true);
  }
  u64(): number {
    this.need(8);
    this.at += 8;
    return Number(this.view.getBigUint64(this.at - 8, true));
  }
  text(): string {
    const end = this.bytes.indexOf(0, this.at);
    if (end < 0 || end - this.at > 255) throw this.bad(`broken name at byte ${this.at}`);
    const s = fromUtf8(this.bytes.subarray(this.at, end));
    this.at = end + 1;
    return s;
  }
}

/** A header up to the empty name that ends it; null where it is empty itself, which ends the list of parts. */
function readHeader(c: Cursor): Header | null {
  const h: Header = { channels: [], attributes: {}, numbers: {}, compression: -1, data: null, display: null, chromaticities: null, tile: null, chunks: null, name: "", type: "" }; // prettier-ignore
  for (let n = 0; ; n++) {
    const name = c.text();
    if (!name) return n === 0 ? null : h;
    const type = c.text();
    const size = c.i32();
    c.need(size);
    const end = c.at + size;
    const box = (): Box => [c.i32(), c.i32(), c.i32(), c.i32()];
    if (name === "channels") readChannels(c, h);
    else if (name === "compression") h.compression = c.u8();
    else if (name === "dataWindow") h.data = box();
    else if (name === "displayWindow") h.display = box();
    else if (name === "tiles") h.tile = [c.i32(), c.i32()];
    else if (name === "chunkCount") h.chunks = c.i32();
    else if (name === "chromaticities" && size >= 32)
      h.chromaticities = Array.from({ length: 8 }, (_, i) => c.view.getFloat32(c.at + 4 * i, true)); // prettier-ignore
    else if (type === "string") {
      const value = fromUtf8(c.bytes.subarray(c.at, end));
      if (name === "type") h.type = value;
      else if (name === "name") h.name = value;
      else if (Object.keys(h.attributes).length < 1000) h.attributes[name] = value;
    }
    const count = COUNTS[type];
    if (count !== undefined && size === 4 * count && Object.keys(h.numbers).length < 1000)
      h.numbers[name] = Array.from({ length: count }, (_, i) =>
        type === "int" ? c.view.getInt32(end - size + 4 * i, true) : c.view.getFloat32(end - size + 4 * i, true),
      );
    c.at = end;
  }
}

/** Types of attributes that are numbers of 32 bits, and how many each has. */
const COUNTS: Readonly<Record<string, number>> = { int: 1, float: 1, v2f: 2, v3f: 3, m44f: 16 };

function readChannels(c: Cursor, h: Header): void {
  for (;;) {
    const name = c.text();
    if (!name) return;
    const type = c.i32();
    const linear = c.u8() !== 0;
    c.need(3);
    c.at += 3;
    if (c.i32() !== 1 || c.i32() !== 1) throw c.bad(`channel ${name} is subsampled`);
    if (type !== UINT && type !== HALF && type !== FLOAT) throw c.bad(`channel ${name} is of an unknown type`);
    h.channels.push({ name, type, linear });
    if (h.channels.length > 1024) throw c.bad("more than 1024 channels");
  }
}

/** Whether a part holds a picture's colours. */
const hasColours = (h: Header): boolean => h.channels.some((c) => /(^|\.)[RY]$/.test(c.name));

/** A file with the headers of its parts, its cursor behind them. */
interface Opened {
  c: Cursor;
  parts: Header[];
  several: boolean;
  tiled: boolean;
}

function open(bytes: Uint8Array, bad: (why: string) => InputError): Opened {
  const c = new Cursor(bytes, bad);
  if (c.i32() !== MAGIC) throw bad("does not begin like an OpenEXR file");
  const version = c.i32();
  const several = (version & 0x1000) !== 0;
  const parts: Header[] = [];
  for (let h = readHeader(c); h; h = several ? readHeader(c) : null) {
    parts.push(h);
    if (parts.length > MAX_PARTS) throw bad(`more than ${MAX_PARTS} parts`);
  }
  if (version & 0x800 && !several) throw bad(DEEP);
  if (parts.length === 0) throw bad("has no header");
  return { c, parts, several, tiled: (version & 0x200) !== 0 };
}
const DEEP = "deep files, with many values a pixel, are not read";
const isFlat = (p: Header): boolean => !p.type.startsWith("deep");

/** Decodes an image: of several parts the first that has colours, or the first. @throws InputError */
export function readExr(bytes: Uint8Array, what = "OpenEXR file"): ExrImage {
  const bad = (why: string): InputError => new InputError(`${what}: ${why}`);
  const opened = open(bytes, bad);
  const flat = opened.parts.filter(isFlat);
  const chosen = flat.find(hasColours) ?? flat[0];
  if (!chosen) throw bad(DEEP);
  return readPart(opened, chosen, bad);
}

/**
 * Decodes all parts of an image as layers of one: channels without a layer are named after their part, but those of the first.
 * Parts with another window are left out. @throws InputError
 */
export function readExrLayers(bytes: Uint8Array, what = "OpenEXR file"): ExrImage {
  const bad = (why: string): InputError => new InputError(`${what}: ${why}`);
  const opened = open(bytes, bad);
  const flat = opened.parts.filter(isFlat);
  if (flat.length === 0) throw bad(DEEP);
  const first = flat[0]!;
  const alike = flat.filter((p) => String(p.data) === String(first.data));
  const numbers = alike.reduce((n, p) => n + p.channels.length, 0) * pixelsOf(first);
  if (numbers > MAX_NUMBERS) throw bad(`its ${alike.length} parts hold more numbers than are read`);
  const image = readPart(opened, first, bad);
  const taken = new Set(image.channels.map(({ name }) => name));
  for (const part of alike.slice(1))
    for (const channel of readPart(opened, part, bad).channels) {
      const name = part.name === "" || channel.name.includes(".") ? channel.name : `${part.name}.${channel.name}`;
      if (taken.has(name)) throw bad(`channel ${name} is there twice`);
      taken.add(name);
      image.channels.push({ ...channel, name });
    }
  return image;
}
const pixelsOf = ({ data }: Header): number => (data ? (data[2] - data[0] + 1) * (data[3] - data[1] + 1) : 0);

function readPart({ c, parts, several, tiled: allTiled }: Opened, chosen: Header, bad: (why: string) => InputError): ExrImage {
  const behind = c.at;
  const tiled = several ? chosen.type === "tiledimage" : allTiled;
  const image = frameOf(chosen, bad);
  const codec = CODECS[chosen.compression];
  if (!codec) throw bad(`compression ${chosen.compression} is unknown`);
  const { width, height } = image;
  const [tw, th] = tiled ? (chosen.tile ?? [0, 0]) : [width, codec.lines];
  if (tw < 1 || th < 1) throw bad(`tiles of ${tw} × ${th}`);
  const [columns, rows] = [Math.ceil(width / tw), Math.ceil(height / th)];
  // tables of the parts before come first
  for (const part of parts.slice(0, parts.indexOf(chosen))) {
    if (part.chunks === null || part.chunks < 0) throw bad("a part does not say how many pieces it has");
    c.need(8 * part.chunks);
    c.at += 8 * part.chunks;
  }
  // of tiled pictures the finest level comes first
  const blocks = columns * rows;
  c.need(8 * blocks);
  const table = c.at;
  const seen = new Uint8Array(blocks);
  for (let b = 0; b < blocks; b++) {
    c.at = table + 8 * b;
    c.at = c.u64();
    if (several) c.i32();
    let [x, y] = [0, 0];
    if (tiled) {
      const [i, j, lx, ly] = [c.i32(), c.i32(), c.i32(), c.i32()];
      if (lx !== 0 || ly !== 0 || i < 0 || j < 0 || i >= columns || j >= rows) throw bad(`tile ${b} lies outside the picture`);
      [x, y] = [i * tw, j * th];
    } else y = c.i32() - image.top;
    const size = c.i32();
    c.need(size);
    const block: Block = { channels: chosen.channels, width: Math.min(tw, width - x), lines: Math.min(th, height - y) };
    if (y < 0 || block.lines < 1 || y % th !== 0) throw bad(`block ${b} lies outside the picture`);
    const place = Math.floor(y / th) * columns + Math.floor(x / tw);
    if (seen[place]) throw bad(`block ${b} lies where another does`);
    seen[place] = 1;
    const wanted = plainBytes(block);
    let data = c.bytes.subarray(c.at, c.at + size);
    // what compression would not make smaller is stored as it is
    if (size < wanted)
      try {
        data = codec.unpack(data, block);
      } catch (error) {
        throw bad(`block ${b} cannot be decompressed: ${reasonOf(error)}`);
      }
    if (data.length !== wanted) throw bad(`block ${b} has ${data.length} bytes, not ${wanted}`);
    copyBlock(data, block, image.planes, width, x, y);
  }
  c.at = behind;
  const { planes, top: _top, ...rest } = image;
  return {
    ...rest,
    channels: chosen.channels.map(({ name, type }, i) => ({ name, type: type === HALF ? "half" : "float", values: planes[i]! })),
    attributes: chosen.attributes,
    numbers: chosen.numbers,
    ...(chosen.chromaticities ? { chromaticities: chosen.chromaticities } : {}),
  };
}

/** Sizes of a part, checked, with room for its channels. */
function frameOf(h: Header, bad: (why: string) => InputError) {
  const { data } = h;
  if (!data) throw bad("no dataWindow");
  if (h.channels.length === 0) throw bad("has no channels");
  const width = data[2] - data[0] + 1,
    height = data[3] - data[1] + 1;
  if (!(width >= 1 && height >= 1 && width * height <= MAX_PIXELS)) throw bad(`size ${width} × ${height}`);
  if (width * height * h.channels.length > MAX_NUMBERS)
    throw bad(`${width} × ${height} pixels of ${h.channels.length} channels are too much`);
  // a window that lies outside the frame is a frame of its own
  const inside = h.display && data[0] >= h.display[0] && data[1] >= h.display[1] && data[2] <= h.display[2] && data[3] <= h.display[3];
  const shown = h.display && inside ? h.display : data;
  const size = [shown[2] - shown[0] + 1, shown[3] - shown[1] + 1] as const;
  if (!(size[0] * size[1] <= MAX_PIXELS)) throw bad(`display window of ${size[0]} × ${size[1]}`);
  return {
    width,
    height,
    top: data[1],
    frame: { x: data[0] - shown[0], y: data[1] - shown[1], width: size[0], height: size[1] },
    planes: h.channels.map(() => new Float32Array(width * height)),
  };
}

/** Values of a block into the planes of its channels. */
function copyBlock(data: Uint8Array, block: Block, planes: readonly Float32Array[], width: number, x0: number, y0: number): void {
  const v = new DataView(data.buffer, data.byteOffset, data.byteLength);
  let p = 0;
  for (let y = y0; y < y0 + block.lines; y++)
    block.channels.forEach(({ type }, k) => {
      const to = planes[k]!;
      const row = y * width + x0;
      for (let x = 0; x < block.width; x++, p += sizeOfType(type))
        to[row + x] = type === HALF ? HALVES[v.getUint16(p, true)]! : type === UINT ? v.getUint32(p, true) : v.getFloat32(p, true);
    });
}
