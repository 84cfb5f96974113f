/**
 * OpenEXR scan-line files with named layers (half and float), of one part or several. After "OpenEXR File Layout" and
 * "Technical Introduction to OpenEXR". Reading is in exr-read.ts.
 */
import { FLOAT, HALF } from "./exr-block";
import type { Compression } from "./depths";
import { deflated, PACKERS, type Deflate } from "./exr-pack";
import { halfBits } from "./half";
import { utf8 } from "./utf8";

export interface ExrChannel {
  /** Full name, with its layer before a dot: "R", "air.R", "depth.Z". */
  name: string;
  type: "half" | "float";
  /** width × height values, rows from the top. */
  values: Float32Array;
}

export interface ExrImage {
  width: number;
  height: number;
  channels: ExrChannel[];
  /** Text attributes to keep in the header. */
  attributes?: Record<string, string>;
  /** Attributes that are numbers, as a file has them: one, a vector, or a matrix by rows. */
  numbers?: Readonly<Record<string, readonly number[]>>;
  /** Attributes that are matrices, 16 numbers by rows, for row vectors: the convention of the format. */
  matrices?: Record<string, readonly number[]>;
  /** Frames a second, as a fraction, and time of day and frame as packed digits. */
  rate?: readonly [number, number] | null;
  timeCode?: number | null;
  /** Pixels an inch of a print. */
  density?: number;
  /** Where its upper left pixel lies in the frame, and the frame's size: the picture itself where it is not said. */
  frame?: { x: number; y: number; width: number; height: number };
  /** CIE 1931 chromaticities of red, green, blue and white (x, y each) that the file states. */
  chromaticities?: readonly number[];
}

export interface ExrOptions {
  compression?: Compression;
  /** zlib compression to use; a faster one than the built-in may be passed on servers. */
  deflate?: Deflate;
}

export const MAGIC = 20000630;

class Writer {
  private bytes = new Uint8Array(65536);
  private view = new DataView(this.bytes.buffer);
  length = 0;
  private room(n: number): void {
    if (this.length + n <= this.bytes.length) return;
    const next = new Uint8Array(Math.max(this.bytes.length * 2, this.length + n));
    next.set(this.bytes);
    this.bytes = next;
    this.view = new DataView(next.buffer);
  }
  u8(v: number): void {
    this.room(1);
    this.bytes[this.length++] = v;
  }
  i32(v: number): void {
    this.room(4);
    this.view.setInt32(this.length, v, true);
    this.length += 4;
  }
  f32(v: number): void {
    this.room(4);
    this.view.setFloat32(this.length, v, true);
    this.length += 4;
  }
  u64At(at: number, v: number): void {
    this.view.setBigUint64(at, BigInt(v), true);
  }
  raw(b: Uint8Array): void {
    this.room(b.length);
    this.bytes.set(b, this.length);
    this.length += b.length;
  }
  /** UTF-8 that ends with a zero, which no name holds. */
  text(s: string): void {
    this.raw(utf8(s));
    this.u8(0);
  }
  done(): Uint8Array {
    return this.bytes.slice(0, this.length);
  }
}

/** Most bytes of a channel's name. */
const NAME_BYTES = 255;

/** Order of names as bytes, in which readers look for them. */
function byBytes(a: string, b: string): number {
  const [p, q] = [utf8(a), utf8(b)];
  for (let i = 0; i < Math.min(p.length, q.length); i++) if (p[i] !== q[i]) return (p[i] ?? 0) - (q[i] ?? 0);
  return p.length - q.length;
}

/**
 * A name that a file can hold as one layer or part of one: no dots, which part layers, no control characters, not too long, and none
 * of those taken. @param room bytes that it may have
 */
export function layerName(name: string, taken: ReadonlySet<string>, room = 200): string {
  // eslint-disable-next-line no-control-regex -- these are what is taken out
  let plain = name.replace(/[.\u0000-\u001f\u007f-\u009f]/g, "_").trim() || "_";
  while (utf8(plain).length > room) plain = [...plain].slice(0, -1).join("");
  for (let n = 2, next = plain; ; n++) {
    if (!taken.has(next)) return next;
    next = `${plain} ${n}`;
  }
}

/** One of the pictures of a file, which share their frame and window. */
export interface ExrPart {
  /** Each part's own. */
  name: string;
  channels: ExrChannel[];
}

/**
 * Encodes an image. Channels are stored in the order of their names, as the format asks.
 * @throws Error for names that a file cannot hold: twice the same, none, too long or with a zero
 */
export function writeExr(image: ExrImage, options: ExrOptions = {}): Uint8Array {
  return encode(image, [{ name: null, channels: image.channels }], options);
}

/**
 * Encodes several pictures of one window into one file; attributes go with the first.
 * @throws Error for names that a file cannot hold, of parts as of channels
 */
export function writeExrParts(image: Omit<ExrImage, "channels">, parts: readonly ExrPart[], options: ExrOptions = {}): Uint8Array {
  checkNames(parts, "part");
  if (parts.length === 0) throw new Error("exr: a file without a part");
  return encode(image, parts, options);
}

/** @throws Error for one that no file can hold, or that is there twice */
function checkNames(named: readonly { name: string }[], what: string): void {
  const taken = new Set<string>();
  for (const { name } of named) {
    if (name === "" || name.includes("\0") || utf8(name).length > NAME_BYTES || taken.has(name))
      throw new Error(`exr: ${what} "${name.slice(0, 80)}": a name that no file can hold, or there twice`);
    taken.add(name);
  }
}

/** @param parts one without a name is a file of one part */
function encode(
  image: Omit<ExrImage, "channels">,
  parts: readonly { name: string | null; channels: readonly ExrChannel[] }[],
  options: ExrOptions,
): Uint8Array {
  const { width, height } = image;
  const several = parts[0]?.name != null;
  const packer = PACKERS[options.compression ?? "zip"];
  const blocks = Math.ceil(height / packer.lines);
  const sorted = parts.map(({ name, channels }) => {
    checkNames(channels, "channel");
    for (const c of channels)
      if (c.values.length !== width * height)
        throw new Error(`exr: channel ${c.name} has ${c.values.length} values, not ${width * height}`);
    return { name, channels: [...channels].sort((a, b) => byBytes(a.name, b.name)) };
  });
  const w = new Writer();
  w.i32(MAGIC);
  // version 2; bit 10 allows names of more than 31 characters, bit 12 says that there are parts
  const long = sorted.some(({ name, channels }) => [name ?? "", ...channels.map((c) => c.name)].some((n) => utf8(n).length > 31));
  w.i32(2 | (long ? 0x400 : 0) | (several ? 0x1000 : 0));
  sorted.forEach((part, i) => writeHeader(w, image, part, packer.code, several ? blocks : null, i === 0));
  if (several) w.u8(0);

  const tables = sorted.map(() => {
    const at = w.length;
    w.raw(new Uint8Array(8 * blocks));
    return at;
  });
  const y0 = image.frame?.y ?? 0;
  sorted.forEach(({ channels }, i) => {
    for (let b = 0; b < blocks; b++) {
      const [from, to] = [b * packer.lines, Math.min(height, (b + 1) * packer.lines)];
      const raw = plainBlock(channels, width, from, to);
      const block = {
        width,
        lines: to - from,
        channels: channels.map(({ name, type }) => ({ name, type: type === "half" ? HALF : FLOAT, linear: false })),
      };
      const packed = packer.pack(raw, block, options.deflate ?? deflated);
      // what does not become smaller is stored as it is
      const data = packed.length < raw.length ? packed : raw;
      w.u64At(tables[i]! + 8 * b, w.length);
      if (several) w.i32(i);
      w.i32(y0 + from);
      w.i32(data.length);
      w.raw(data);
    }
  });
  return w.done();
}

/** @param blocks how many the part has, where it must be said @param first whether it is the one that holds the file's attributes */
function writeHeader(
  w: Writer,
  image: Omit<ExrImage, "channels">,
  { name, channels }: { name: string | null; channels: readonly ExrChannel[] },
  compression: number,
  blocks: number | null,
  first: boolean,
): void {
  const { width, height } = image;
  const attribute = (named: string, type: string, size: number, body: () => void): void => {
    w.text(named);
    w.text(type);
    w.i32(size);
    body();
  };
  const text = (named: string, value: string): void => {
    const bytes = utf8(value);
    attribute(named, "string", bytes.length, () => w.raw(bytes));
  };
  const listed = channels.reduce((n, c) => n + utf8(c.name).length + 17, 1);
  attribute("channels", "chlist", listed, () => {
    for (const c of channels) {
      w.text(c.name);
      w.i32(c.type === "half" ? HALF : FLOAT);
      w.i32(0);
      w.i32(1);
      w.i32(1);
    }
    w.u8(0);
  });
  if (blocks !== null) attribute("chunkCount", "int", 4, () => w.i32(blocks));
  attribute("compression", "compression", 1, () => w.u8(compression));
  const frame = image.frame ?? { x: 0, y: 0, width, height };
  const box = (...window: number[]): void => window.forEach((v) => w.i32(v));
  const floats = (named: string, type: string, values: readonly number[]): void =>
    attribute(named, type, 4 * values.length, () => values.forEach((v) => w.f32(v)));
  // parts share those: readers ask that they be alike
  if (image.chromaticities) floats("chromaticities", "chromaticities", image.chromaticities);
  attribute("dataWindow", "box2i", 16, () => box(frame.x, frame.y, frame.x + width - 1, frame.y + height - 1));
  attribute("displayWindow", "box2i", 16, () => box(0, 0, frame.width - 1, frame.height - 1));
  attribute("lineOrder", "lineOrder", 1, () => w.u8(0));
  if (name !== null) text("name", name);
  floats("pixelAspectRatio", "float", [1]);
  floats("screenWindowCenter", "v2f", [0, 0]);
  floats("screenWindowWidth", "float", [1]);
  if (name !== null) text("type", "scanlineimage");
  if (first) {
    for (const [named, value] of Object.entries(image.attributes ?? {})) text(named, value);
    for (const [named, matrix] of Object.entries(image.matrices ?? {})) floats(named, "m44f", matrix);
    const { rate, timeCode, density } = image;
    if (rate) attribute("framesPerSecond", "rational", 8, () => (w.i32(rate[0]), w.i32(rate[1])));
    if (timeCode != null) attribute("timeCode", "timecode", 8, () => (w.i32(timeCode), w.i32(0)));
    if (density) floats("xDensity", "float", [density]);
  }
  w.u8(0);
}

/** Lines of all channels as they are stored plain. */
function plainBlock(channels: readonly ExrChannel[], width: number, from: number, to: number): Uint8Array {
  const rowBytes = channels.reduce((n, c) => n + width * (c.type === "half" ? 2 : 4), 0);
  const raw = new Uint8Array(rowBytes * (to - from));
  const view = new DataView(raw.buffer);
  let at = 0;
  for (let y = from; y < to; y++)
    for (const c of channels) {
      const row = y * width;
      if (c.type === "half") for (let x = 0; x < width; x++, at += 2) view.setUint16(at, halfBits(toHalfRange(c.values[row + x]!)), true);
      else for (let x = 0; x < width; x++, at += 4) view.setFloat32(at, c.values[row + x]!, true);
    }
  return raw;
}

/** Finite values past the largest half are held there, so that a bright sun does not turn into infinity. */
function toHalfRange(v: number): number {
  return v > 65504 && v < Infinity ? 65504 : v;
}
