/**
 * OpenVDB files (versions 222 to 225: libraries 3 to 12): every grid of numbers of the usual 5-4-3 tree, plain, as half, and of
 * three numbers (as .x .y .z), with zip, blosc and active-mask compression; and a writer whose files those libraries read.
 */
import { fromUtf8, utf8 } from "./utf8";
import { AXES, type V3 } from "../math/vectors";
import { determinant, type Affine } from "../math/affine";
import { unzlibSync, zlibSync } from "fflate";
import Blosc from "numcodecs/blosc";
import { InputError, reasonOf } from "../errors";
import { BRICK, VolumeBuilder, type Volume } from "../data/volume";
import { HALVES } from "./half";

/** What a file says of one of its grids. */
export interface GridReport {
  name: string;
  /** Type of its values as the file has it, without "Tree_" and the sizes of nodes. */
  type: string;
  /** "fog volume", "level set", …; empty where the file says nothing. */
  kind: string;
  voxels: number;
  min: number;
  max: number;
  /** Edge lengths of a voxel, m. */
  voxelSize: [number, number, number];
}

export interface VolumeFile {
  /** Channels by name. */
  channels: Record<string, Volume>;
  grids: GridReport[];
  /** Grids that were left out, and why. */
  left: string[];
}

export const VDB_LIMITS = {
  /** Bytes of a file. */
  file: 2_000_000_000,
  grids: 256,
  /** Bricks of 8³ voxels in all grids together. */
  bricks: 1_500_000,
} as const;

const blosc = Blosc.fromConfig({ id: "blosc" });

const MAGIC = 0x56444220;
const OLDEST = 222;
const NEWEST = 225;
const ZIP = 1,
  MASKED = 2,
  BLOSC = 4;
/** log₂ of the children along a side of the three levels below the root. */
const SHIFTS = [5, 4, 3] as const;
/** log₂ of the voxels along a side of a child of each level. */
const CHILD = [7, 3, 0] as const;

class Reader {
  at = 0;
  private readonly view: DataView;
  constructor(
    readonly bytes: Uint8Array,
    private readonly what: string,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }
  fail(message: string, at = this.at): InputError {
    return new InputError(`${this.what}: ${message} (byte ${at})`);
  }
  private need(n: number): number {
    if (n < 0 || this.at + n > this.bytes.length)
      throw this.fail(`the file ends early: ${n} bytes wanted, ${this.bytes.length - this.at} are left`);
    const at = this.at;
    this.at += n;
    return at;
  }
  take(n: number): Uint8Array {
    const at = this.need(n);
    return this.bytes.subarray(at, at + n);
  }
  u8(): number {
    return this.bytes[this.need(1)]!;
  }
  u32(): number {
    return this.view.getUint32(this.need(4), true);
  }
  i32(): number {
    return this.view.getInt32(this.need(4), true);
  }
  i64(): number {
    const at = this.need(8);
    return this.view.getUint32(at, true) + this.view.getInt32(at + 4, true) * 4294967296;
  }
  f64(): number {
    return this.view.getFloat64(this.need(8), true);
  }
  text(): string {
    const n = this.u32();
    if (n > 65536) throw this.fail(`a name of ${n} characters`, this.at - 4);
    return fromUtf8(this.take(n));
  }
  /** Metadata by name: text, or numbers of the usual types; others are passed over. */
  metadata(): Record<string, string | number> {
    const out: Record<string, string | number> = {};
    const n = this.u32();
    if (n > 4096) throw this.fail(`${n} entries of metadata`, this.at - 4);
    for (let i = 0; i < n; i++) {
      const name = this.text();
      const type = this.text();
      const size = this.u32();
      const at = this.need(size);
      if (type === "string") out[name] = fromUtf8(this.bytes.subarray(at, at + Math.min(size, 4096)));
      else if (type === "int32" && size === 4) out[name] = this.view.getInt32(at, true);
      else if (type === "float" && size === 4) out[name] = this.view.getFloat32(at, true);
      else if (type === "bool" && size === 1) out[name] = this.bytes[at]!;
    }
    return out;
  }
}

/** Index coordinates to metres. */
function readTransform(r: Reader): Affine {
  const at = r.at;
  const type = r.text();
  const three = (): V3 => [r.f64(), r.f64(), r.f64()];
  const scaled = (s: Readonly<V3>, t: Readonly<V3>): Affine => [s[0], 0, 0, t[0], 0, s[1], 0, t[1], 0, 0, s[2], t[2]];
  let out: Affine;
  switch (type) {
    case "UniformScaleMap":
    case "ScaleMap": {
      out = scaled(three(), [0, 0, 0]);
      for (let i = 0; i < 4; i++) three();
      break;
    }
    case "UniformScaleTranslateMap":
    case "ScaleTranslateMap": {
      const t = three();
      out = scaled(three(), t);
      for (let i = 0; i < 4; i++) three();
      break;
    }
    case "TranslationMap":
      out = scaled([1, 1, 1], three());
      break;
    case "AffineMap":
    case "UnitaryMap": {
      // rows of numbers that a row vector is multiplied with
      const m = Array.from({ length: 16 }, () => r.f64());
      out = AXES.flatMap((k) => [m[k]!, m[4 + k]!, m[8 + k]!, m[12 + k]!]) as Affine;
      break;
    }
    default:
      throw r.fail(
        `grids placed by ${type === "NonlinearFrustumMap" ? "a frustum" : type} are not read; resample the grid to a linear transform`,
        at,
      );
  }
  if (!out.every(Number.isFinite) || !(Math.abs(determinant(out)) > 1e-30))
    throw r.fail("the grid's transform is not finite or flattens space", at);
  return out;
}

/** What is known while one grid is read. */
interface GridState {
  r: Reader;
  compression: number;
  half: boolean;
  /** Numbers a value. */
  width: number;
  background: Float32Array;
  builders: VolumeBuilder[];
  budget: { bricks: number };
  /** Values that were no finite numbers. */
  broken: number;
}

const isOn = (mask: Uint8Array, n: number): boolean => (mask[n >> 3]! & (1 << (n & 7))) !== 0;
function countOn(mask: Uint8Array): number {
  let n = 0;
  for (const b of mask) for (let x = b; x; x &= x - 1) n++;
  return n;
}

/** Numbers of `count` values. */
async function readData(g: GridState, count: number): Promise<Float32Array> {
  const n = count * g.width;
  // halves that are none have not even a length
  if (g.half && n === 0) return new Float32Array(0);
  const size = n * (g.half ? 2 : 4);
  let bytes: Uint8Array;
  if (g.compression & (BLOSC | ZIP)) {
    const at = g.r.at;
    const packed = g.r.i64();
    if (packed <= 0) bytes = g.r.take(-packed);
    else {
      const chunk = g.r.take(packed);
      try {
        if (g.compression & BLOSC) {
          bytes = await unblosc(chunk, size);
        } else bytes = unzlibSync(chunk, { out: new Uint8Array(size) });
      } catch (error) {
        throw g.r.fail(`broken compressed voxels: ${reasonOf(error)}`, at);
      }
    }
    if (bytes.length !== size) throw g.r.fail(`${bytes.length} bytes of voxels where ${size} belong`, at);
  } else bytes = g.r.take(size);
  const out = new Float32Array(n);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let i = 0; i < n; i++) {
    const v = g.half ? HALVES[view.getUint16(2 * i, true)]! : view.getFloat32(4 * i, true);
    if (Number.isFinite(v)) out[i] = v;
    else g.broken++;
  }
  return out;
}

/** Decodes a blosc chunk whose own header is checked first: the decoder trusts it. */
async function unblosc(chunk: Uint8Array, size: number): Promise<Uint8Array> {
  const view = new DataView(chunk.buffer, chunk.byteOffset, chunk.byteLength);
  if (chunk.length < 16) throw new Error(`a chunk of ${chunk.length} bytes`);
  if (view.getUint32(4, true) !== size) throw new Error(`${view.getUint32(4, true)} bytes where ${size} belong`);
  if (view.getUint32(12, true) !== chunk.length) throw new Error("its length is not what its header says");
  return blosc.decode(chunk);
}

/** Values of a node, those of inactive ones filled in. */
async function readValues(g: GridState, count: number, mask: Uint8Array): Promise<Float32Array> {
  const code = g.r.u8();
  if (code > 6) throw g.r.fail(`unknown layout ${code} of a node's values`, g.r.at - 1);
  const { width } = g;
  const one = (): Float32Array => {
    const bytes = g.r.take(4 * width);
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    return Float32Array.from({ length: width }, (_, k) => view.getFloat32(4 * k, true));
  };
  const minus = g.background.map((v) => -v);
  let off = code === 0 ? g.background : minus;
  let on = g.background;
  if (code === 2 || code === 4 || code === 5) off = one();
  if (code === 5) on = one();
  const selection = code >= 3 && code <= 5 ? g.r.take(mask.length) : null;
  if (!(g.compression & MASKED) || code === 6) return readData(g, count);
  const active = countOn(mask);
  const data = await readData(g, active);
  if (active === count) return data;
  const out = new Float32Array(count * width);
  let from = 0;
  for (let i = 0; i < count; i++) {
    if (isOn(mask, i)) {
      for (let k = 0; k < width; k++) out[i * width + k] = data[from++]!;
    } else {
      const v = selection && isOn(selection, i) ? on : off;
      for (let k = 0; k < width; k++) out[i * width + k] = v[k]!;
    }
  }
  return out;
}

/** A leaf whose voxels follow later, in the order in which they were met. */
type Leaf = [number, number, number];

/** Sets a cube of `side` voxels to one value where it is not background. */
function fill(g: GridState, x: number, y: number, z: number, side: number, values: Float32Array, active: boolean): void {
  if (values.every((v, k) => v === g.background[k])) return;
  const n = Math.max(1, side / BRICK);
  spend(g, n ** 3);
  for (let k = 0; k < g.width; k++)
    for (let c = 0; c < n; c++)
      for (let b = 0; b < n; b++)
        for (let a = 0; a < n; a++) g.builders[k]!.fill((x >> 3) + a, (y >> 3) + b, (z >> 3) + c, values[k]!, active ? BRICK ** 3 : 0);
}

function spend(g: GridState, bricks: number): void {
  g.budget.bricks -= bricks;
  if (g.budget.bricks < 0) throw g.r.fail(`more than ${VDB_LIMITS.bricks} blocks of 8 × 8 × 8 voxels`);
}

/** Topology of a node of a level below the root; leaves are gathered. */
async function readNode(g: GridState, level: 0 | 1, x: number, y: number, z: number, leaves: Leaf[]): Promise<void> {
  const shift = SHIFTS[level];
  const count = 1 << (3 * shift);
  const children = g.r.take(count / 8);
  const mask = g.r.take(count / 8);
  const values = await readValues(g, count, mask);
  const side = 1 << CHILD[level];
  for (let n = 0; n < count; n++) {
    const i = n >> (2 * shift),
      j = (n >> shift) & ((1 << shift) - 1),
      k = n & ((1 << shift) - 1);
    const [cx, cy, cz] = [x + i * side, y + j * side, z + k * side];
    if (!isOn(children, n)) fill(g, cx, cy, cz, side, values.subarray(n * g.width, (n + 1) * g.width), isOn(mask, n));
    else if (level === 0) await readNode(g, 1, cx, cy, cz, leaves);
    else {
      g.r.take(64);
      spend(g, 1);
      leaves.push([cx, cy, cz]);
    }
  }
}

async function readTree(g: GridState, blocks: number): Promise<void> {
  const { r } = g;
  const buffers = r.u32();
  if (buffers !== 1) throw r.fail(`${buffers} buffers a grid where one belongs`, r.at - 4);
  const raw = r.take(4 * g.width);
  const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
  g.background = Float32Array.from({ length: g.width }, (_, k) => view.getFloat32(4 * k, true));
  if (!g.background.every(Number.isFinite)) throw r.fail("the background is not a finite number", r.at - 4 * g.width);
  g.builders = Array.from(g.background, (b) => new VolumeBuilder(b));
  const tiles = r.u32();
  const children = r.u32();
  if (tiles > 65536 || children > 65536) throw r.fail(`${tiles} tiles and ${children} children of a root`);
  const origin = (): Leaf => {
    const at = r.at;
    const o: Leaf = [r.i32(), r.i32(), r.i32()];
    if (o.some((v) => Math.abs(v) > 1e8 || v & 4095)) throw r.fail(`a node at (${o.join(", ")})`, at);
    return o;
  };
  for (let i = 0; i < tiles; i++) {
    const o = origin();
    const bytes = r.take(4 * g.width);
    const values = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const v = Float32Array.from({ length: g.width }, (_, k) => values.getFloat32(4 * k, true));
    const active = r.u8() !== 0;
    fill(g, ...o, 4096, v, active);
  }
  const leaves: Leaf[] = [];
  for (let i = 0; i < children; i++) await readNode(g, 0, ...origin(), leaves);
  r.at = blocks;
  for (const [x, y, z] of leaves) {
    const mask = r.take(64);
    const values = await readValues(g, BRICK ** 3, mask);
    for (let k = 0; k < g.width; k++) {
      const brick = g.builders[k]!.brick(x >> 3, y >> 3, z >> 3);
      // the file's first axis runs slowest, a brick's fastest
      for (let n = 0; n < BRICK ** 3; n++) {
        const v = values[n * g.width + k]!;
        brick[((n & 7) << 6) | (n & 56) | (n >> 6)] = v;
        if (isOn(mask, n)) g.builders[k]!.count(v);
      }
    }
  }
}

/** Values of which types are read: numbers a value, and how the file names the tree. */
const TYPES: Record<string, number> = { Tree_float_5_4_3: 1, Tree_vec3s_5_4_3: 3 };

/**
 * Reads all grids of numbers in a file.
 * @throws InputError that says what is wrong and at which byte
 */
export async function readVdb(bytes: Uint8Array, what = "volume file"): Promise<VolumeFile> {
  const r = new Reader(bytes, what);
  if (bytes.length > VDB_LIMITS.file) throw r.fail(`${bytes.length} bytes, more than the limit of ${VDB_LIMITS.file}`, 0);
  if (bytes.length < 8 || r.i64() !== MAGIC) throw r.fail("is no OpenVDB file", 0);
  const version = r.u32();
  if (version < OLDEST || version > NEWEST)
    throw r.fail(`has version ${version} of the format; ${OLDEST} to ${NEWEST} are read. Saving it anew with a current library helps`, 8);
  r.u32();
  r.u32();
  if (r.u8() === 0) throw r.fail("has no table of its grids' places: it was written to a stream that cannot seek");
  r.take(36);
  r.metadata();
  const count = r.u32();
  if (count > VDB_LIMITS.grids) throw r.fail(`${count} grids, more than the limit of ${VDB_LIMITS.grids}`);
  const out: VolumeFile = { channels: {}, grids: [], left: [] };
  const budget = { bricks: VDB_LIMITS.bricks };
  for (let i = 0; i < count; i++) {
    const unique = r.text();
    // several grids of one name are told apart by a control character and a number
    const [plain, number] = unique.split("\x1e") as [string, string | undefined];
    const name = `${plain || "unnamed"}${number ? ` ${number}` : ""}`;
    const full = r.text();
    const half = full.endsWith("_HalfFloat");
    const type = full.replace(/_HalfFloat$/, "");
    const parent = r.text();
    const [gridAt, blocksAt, endAt] = [r.i64(), r.i64(), r.i64()];
    if (!(gridAt >= r.at && blocksAt >= gridAt && endAt >= blocksAt && endAt <= bytes.length))
      throw r.fail(`grid "${name}" lies from byte ${gridAt} to ${endAt} of ${bytes.length}: the file is cut short or broken`);
    const width = TYPES[type];
    if (width === undefined || parent) {
      out.left.push(
        parent
          ? `${name}: shares the tree of ${parent}`
          : `${name}: ${type.includes("ptdataidx") ? "a cloud of points is not read; rasterize it to densities" : `values of ${type.replace(/^Tree_|_5_4_3$/g, "")} are not read`}`,
      );
      r.at = endAt;
      continue;
    }
    r.at = gridAt;
    const compression = r.u32();
    if (compression > 7) throw r.fail(`unknown compression ${compression}`, r.at - 4);
    const meta = r.metadata();
    const toWorld = readTransform(r);
    const g: GridState = { r, compression, half, width, background: new Float32Array(width), builders: [], budget, broken: 0 };
    await readTree(g, blocksAt);
    if (g.broken > 0) out.left.push(`${name}: ${g.broken} values that are no finite numbers are taken as 0`);
    r.at = endAt;
    g.builders.forEach((b, k) => {
      let volume: Volume;
      try {
        volume = b.build(toWorld);
      } catch (error) {
        throw r.fail(`grid "${name}": ${(error as Error).message}`, gridAt);
      }
      const channel = width === 1 ? name : `${name}.${"xyz"[k]!}`;
      out.channels[channel] = volume;
      out.grids.push({
        name: channel,
        type: type.replace(/^Tree_|_5_4_3$/g, "") + (half ? ", half" : ""),
        kind: typeof meta.class === "string" ? meta.class : "",
        voxels: volume.active,
        min: volume.min,
        max: volume.max,
        voxelSize: AXES.map((c) => Math.hypot(toWorld[c], toWorld[4 + c]!, toWorld[8 + c]!)) as [number, number, number],
      });
    });
  }
  return out;
}

class Writer {
  private buffer = new Uint8Array(1 << 16);
  private view = new DataView(this.buffer.buffer);
  at = 0;
  private room(n: number): number {
    if (this.at + n > this.buffer.length) {
      const next = new Uint8Array(Math.max(2 * this.buffer.length, this.at + n));
      next.set(this.buffer);
      this.buffer = next;
      this.view = new DataView(next.buffer);
    }
    const at = this.at;
    this.at += n;
    return at;
  }
  put(bytes: Uint8Array): void {
    const at = this.room(bytes.length);
    this.buffer.set(bytes, at);
  }
  u8(v: number): void {
    this.view.setUint8(this.room(1), v);
  }
  u32(v: number): void {
    this.view.setUint32(this.room(4), v, true);
  }
  i32(v: number): void {
    this.view.setInt32(this.room(4), v, true);
  }
  i64(v: number, at = this.room(8)): void {
    this.view.setUint32(at, v >>> 0, true);
    this.view.setInt32(at + 4, Math.floor(v / 4294967296), true);
  }
  f32(v: number): void {
    this.view.setFloat32(this.room(4), v, true);
  }
  f64(v: number): void {
    this.view.setFloat64(this.room(8), v, true);
  }
  text(s: string): void {
    const bytes = utf8(s);
    this.u32(bytes.length);
    this.put(bytes);
  }
  done(): Uint8Array {
    return this.buffer.slice(0, this.at);
  }
}

/**
 * Writes grids as an OpenVDB file (version 224, zip). Voxels that differ from the background are active.
 * @param volumes by channel name
 */
export function writeVdb(volumes: Readonly<Record<string, Volume>>, says: Readonly<Record<string, string>> = {}): Uint8Array {
  const w = new Writer();
  w.i64(MAGIC);
  w.u32(224);
  w.u32(10);
  w.u32(0);
  w.u8(1);
  // an identifier that files of equal content share
  w.put(Uint8Array.from("00000000-0000-4000-8000-000000000000", (c) => c.charCodeAt(0)));
  w.u32(0);
  const names = Object.keys(volumes);
  w.u32(names.length);
  for (const name of names) writeGrid(w, name, volumes[name]!, says);
  return w.done();
}

function writeGrid(w: Writer, name: string, v: Volume, says: Readonly<Record<string, string>>): void {
  w.text(name);
  w.text("Tree_float_5_4_3");
  w.text("");
  const places = w.at;
  for (let i = 0; i < 3; i++) w.i64(0);
  w.i64(w.at, places);
  w.u32(ZIP);
  const meta: [string, string][] = [["class", "fog volume"], ["name", name], ...Object.entries(says)];
  w.u32(meta.length);
  for (const [key, value] of meta) {
    w.text(key);
    w.text("string");
    w.text(value);
  }
  const m = v.toWorld;
  w.text("AffineMap");
  for (let k = 0; k < 4; k++) for (let a = 0; a < 4; a++) w.f64(a < 3 ? m[4 * a + k]! : k === 3 ? 1 : 0);
  w.u32(1);
  w.f32(v.background);
  const roots = new Map<string, { origin: Leaf; lower: Map<number, Map<number, number>> }>();
  for (let c = 0, at = 0; c < v.bricks[2]; c++)
    for (let b = 0; b < v.bricks[1]; b++)
      for (let a = 0; a < v.bricks[0]; a++, at++) {
        const brick = v.table[at]!;
        if (brick < 0) continue;
        const [x, y, z] = [v.low[0] + 8 * a, v.low[1] + 8 * b, v.low[2] + 8 * c];
        const origin: Leaf = [x & ~4095, y & ~4095, z & ~4095];
        const key = origin.join();
        let root = roots.get(key);
        if (!root) roots.set(key, (root = { origin, lower: new Map() }));
        const place = (shift: number, bits: number): number => {
          const k = (1 << bits) - 1;
          return (((x >> shift) & k) << (2 * bits)) | (((y >> shift) & k) << bits) | ((z >> shift) & k);
        };
        const upper = place(7, 5);
        let leaves = root.lower.get(upper);
        if (!leaves) root.lower.set(upper, (leaves = new Map<number, number>()));
        leaves.set(place(3, 4), brick);
      }
  w.u32(0);
  w.u32(roots.size);
  const order: number[] = [];
  const node = (children: Iterable<number>, count: number): void => {
    const mask = new Uint8Array(count / 8);
    for (const n of children) mask[n >> 3]! |= 1 << (n & 7);
    w.put(mask);
    w.put(new Uint8Array(count / 8));
    w.u8(6);
    writeData(w, new Float32Array(count).fill(v.background));
  };
  const sorted = <T>(map: Map<number, T>): [number, T][] => [...map].sort((p, q) => p[0] - q[0]);
  const masks: Uint8Array[] = [];
  for (const { origin, lower } of roots.values()) {
    for (const o of origin) w.i32(o);
    const uppers = sorted(lower);
    node(lower.keys(), 32768);
    for (const [, leaves] of uppers) {
      node(leaves.keys(), 4096);
      for (const [, brick] of sorted(leaves)) {
        const mask = new Uint8Array(64);
        const data = v.data.subarray(brick * 512, (brick + 1) * 512);
        for (let n = 0; n < 512; n++) if (data[((n & 7) << 6) | (n & 56) | (n >> 6)] !== v.background) mask[n >> 3]! |= 1 << (n & 7);
        w.put(mask);
        masks.push(mask);
        order.push(brick);
      }
    }
  }
  w.i64(w.at, places + 8);
  order.forEach((brick, i) => {
    w.put(masks[i]!);
    w.u8(6);
    const data = v.data.subarray(brick * 512, (brick + 1) * 512);
    writeData(
      w,
      Float32Array.from({ length: 512 }, (_, n) => data[((n & 7) << 6) | (n & 56) | (n >> 6)]!),
    );
  });
  w.i64(w.at, places + 16);
}

function writeData(w: Writer, data: Float32Array): void {
  const bytes = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
  const packed = zlibSync(bytes, { level: 6 });
  if (packed.length < bytes.length) {
    w.i64(packed.length);
    w.put(packed);
  } else {
    w.i64(-bytes.length);
    w.put(bytes);
  }
}
