/**
 * OpenEXR scan-line files with named layers (half and float), written with ZIP or no compression. After "OpenEXR File Layout" and
 * "Technical Introduction to OpenEXR". Reading is in exr-read.ts.
 */
import { zlibSync } from "fflate";
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
  /** Where its upper left pixel lies in the frame, and the frame's size: the picture itself where it is not said. */
  frame?: { x: number; y: number; width: number; height: number };
  /** CIE 1931 chromaticities of red, green, blue and white (x, y each) that the file states. */
  chromaticities?: readonly number[];
}

export interface ExrOptions {
  compression?: "zip" | "none";
  /** zlib compression to use; a faster one than the built-in may be passed on servers. */
  deflate?: (bytes: Uint8Array) => Uint8Array;
}

export const MAGIC = 20000630;
const HALF = 1,
  FLOAT = 2;
const ZIP_ROWS = 16;

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

/**
 * Encodes an image. Channels are stored in the order of their names, as the format asks.
 * @throws Error for names that a file cannot hold: twice the same, none, too long or with a zero
 */
export function writeExr(image: ExrImage, options: ExrOptions = {}): Uint8Array {
  const { width, height } = image;
  const zip = (options.compression ?? "zip") === "zip";
  const deflate = options.deflate ?? ((b: Uint8Array) => zlibSync(b, { level: 6 }));
  const channels = [...image.channels].sort((a, b) => byBytes(a.name, b.name));
  channels.forEach((c, i) => {
    if (c.name === "" || c.name.includes("\0") || utf8(c.name).length > NAME_BYTES || channels[i + 1]?.name === c.name)
      throw new Error(`exr: channel "${c.name.slice(0, 80)}": a name that no file can hold, or there twice`);
  });
  for (const c of channels)
    if (c.values.length !== width * height) throw new Error(`exr: channel ${c.name} has ${c.values.length} values, not ${width * height}`);
  const w = new Writer();
  w.i32(MAGIC);
  // version 2; bit 10 allows names of more than 31 characters
  const lengths = channels.map((c) => utf8(c.name).length);
  w.i32(2 | (lengths.some((n) => n > 31) ? 0x400 : 0));
  const attribute = (name: string, type: string, size: number, body: () => void): void => {
    w.text(name);
    w.text(type);
    w.i32(size);
    body();
  };
  attribute(
    "channels",
    "chlist",
    lengths.reduce((n, l) => n + l + 17, 1),
    () => {
      for (const c of channels) {
        w.text(c.name);
        w.i32(c.type === "half" ? HALF : FLOAT);
        w.i32(0);
        w.i32(1);
        w.i32(1);
      }
      w.u8(0);
    },
  );
  attribute("compression", "compression", 1, () => w.u8(zip ? 3 : 0));
  const frame = image.frame ?? { x: 0, y: 0, width, height };
  const box = (...window: number[]): void => window.forEach((v) => w.i32(v));
  if (image.chromaticities) {
    const values = image.chromaticities;
    attribute("chromaticities", "chromaticities", 32, () => values.forEach((v) => w.f32(v)));
  }
  attribute("dataWindow", "box2i", 16, () => box(frame.x, frame.y, frame.x + width - 1, frame.y + height - 1));
  attribute("displayWindow", "box2i", 16, () => box(0, 0, frame.width - 1, frame.height - 1));
  attribute("lineOrder", "lineOrder", 1, () => w.u8(0));
  attribute("pixelAspectRatio", "float", 4, () => w.f32(1));
  attribute("screenWindowCenter", "v2f", 8, () => (w.f32(0), w.f32(0)));
  attribute("screenWindowWidth", "float", 4, () => w.f32(1));
  for (const [name, value] of Object.entries(image.attributes ?? {})) {
    const bytes = utf8(value);
    attribute(name, "string", bytes.length, () => w.raw(bytes));
  }
  w.u8(0);

  const rows = zip ? ZIP_ROWS : 1;
  const blocks = Math.ceil(height / rows);
  const offsets = w.length;
  w.raw(new Uint8Array(8 * blocks));
  const rowBytes = channels.reduce((n, c) => n + width * (c.type === "half" ? 2 : 4), 0);
  for (let b = 0; b < blocks; b++) {
    const y0 = b * rows,
      y1 = Math.min(height, y0 + rows);
    const raw = new Uint8Array(rowBytes * (y1 - y0));
    const view = new DataView(raw.buffer);
    let at = 0;
    for (let y = y0; y < y1; y++)
      for (const c of channels) {
        const from = y * width;
        if (c.type === "half")
          for (let x = 0; x < width; x++, at += 2) view.setUint16(at, halfBits(toHalfRange(c.values[from + x]!)), true);
        else for (let x = 0; x < width; x++, at += 4) view.setFloat32(at, c.values[from + x]!, true);
      }
    let packed = raw;
    if (zip) {
      const squeezed = deflate(predict(raw));
      if (squeezed.length < raw.length) packed = squeezed as Uint8Array<ArrayBuffer>;
    }
    w.u64At(offsets + 8 * b, w.length);
    w.i32(frame.y + y0);
    w.i32(packed.length);
    w.raw(packed);
  }
  return w.done();
}

/** Finite values past the largest half are held there, so that a bright sun does not turn into infinity. */
function toHalfRange(v: number): number {
  return v > 65504 && v < Infinity ? 65504 : v;
}

/** The reordering and differencing that precede zlib. */
function predict(raw: Uint8Array): Uint8Array {
  const n = raw.length;
  const out = new Uint8Array(n);
  const half = (n + 1) >> 1;
  for (let i = 0; i < n; i++) out[(i & 1 ? half : 0) + (i >> 1)] = raw[i]!;
  let last = out[0]!;
  for (let i = 1; i < n; i++) {
    const v = out[i]!;
    out[i] = v - last + 384;
    last = v;
  }
  return out;
}
