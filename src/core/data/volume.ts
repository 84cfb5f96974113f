/** Sparse grids of numbers in bricks of 8³ voxels, as the kernel reads them. */
import { type Box, cornersOf } from "../math/box";
import { type V3, vector, map3, AXES } from "../math/vectors";
import { transformPoint, type Affine } from "../math/affine";

/** Voxels along a brick's side, and in a brick. */
export const BRICK = 8;
export const BRICK_VOXELS = BRICK ** 3;

/** A grid: voxel (i, j, k) holds the value at index coordinates (i, j, k); between voxels it is trilinear. */
export interface Volume {
  /** First voxel of the table, a multiple of 8, and how many bricks it holds along each axis. */
  low: readonly [number, number, number];
  bricks: readonly [number, number, number];
  /** Number of each brick (x fastest), -1 where all is background. */
  table: Int32Array;
  /** 512 values a brick, x fastest. */
  data: Float32Array;
  /** Value outside and in empty bricks. */
  background: number;
  /** Index coordinates to metres. */
  toWorld: Affine;
  min: number;
  max: number;
  /** Voxels that were given. */
  active: number;
}

/** Gathers voxels in any order. */
export class VolumeBuilder {
  private readonly found = new Map<string, Float32Array>();
  private readonly even = new Map<number, Float32Array>();
  private active = 0;
  private min = Infinity;
  private max = -Infinity;
  constructor(private readonly background: number) {}

  /** Whether nothing was given yet. */
  get empty(): boolean {
    return this.active === 0;
  }

  /** Sets a voxel. */
  set(i: number, j: number, k: number, value: number): void {
    this.brick(i >> 3, j >> 3, k >> 3)[((k & 7) << 6) | ((j & 7) << 3) | (i & 7)] = value;
    this.count(value);
  }

  /** The 512 values of brick (a, b, c), x fastest, to be written directly; {@link count} the values. */
  brick(a: number, b: number, c: number): Float32Array {
    const key = `${a},${b},${c}`;
    let brick = this.found.get(key);
    if (!brick || brick === this.even.get(brick[0]!))
      this.found.set(key, (brick = brick ? brick.slice() : new Float32Array(BRICK_VOXELS).fill(this.background)));
    return brick;
  }

  /** Makes brick (a, b, c) of one value, of which `active` voxels count; bricks of the same value share their voxels. */
  fill(a: number, b: number, c: number, value: number, active = BRICK_VOXELS): void {
    let brick = this.even.get(value);
    if (!brick) this.even.set(value, (brick = new Float32Array(BRICK_VOXELS).fill(value)));
    this.found.set(`${a},${b},${c}`, brick);
    if (active > 0) this.count(value);
    this.active += Math.max(0, active - 1);
  }

  count(value: number): void {
    this.active++;
    if (value < this.min) this.min = value;
    if (value > this.max) this.max = value;
  }

  /** @throws RangeError where the bricks lie too far apart for a table */
  build(toWorld: Affine): Volume {
    const low: V3 = [Infinity, Infinity, Infinity],
      high: V3 = [-Infinity, -Infinity, -Infinity];
    const keys = [...this.found.keys()].map((k) => k.split(",").map(Number) as V3);
    for (const key of keys)
      for (const a of AXES) {
        low[a] = Math.min(low[a], key[a]);
        high[a] = Math.max(high[a], key[a]);
      }
    if (keys.length === 0) {
      low.fill(0);
      high.fill(-1);
    }
    const bricks = vector((a) => high[a] - low[a] + 1);
    const places = bricks[0] * bricks[1] * bricks[2];
    if (places > MAX_PLACES)
      throw new RangeError(`the grid's voxels span ${bricks.map((b) => b * BRICK).join(" × ")}, more than can be tabled`);
    const table = new Int32Array(places).fill(-1);
    const own = new Map<Float32Array, number>();
    [...this.found.values()].forEach((values, n) => {
      const [a, b, c] = keys[n]!;
      let id = own.get(values);
      if (id === undefined) own.set(values, (id = own.size));
      table[((c - low[2]) * bricks[1] + (b - low[1])) * bricks[0] + (a - low[0])] = id;
    });
    const data = new Float32Array(own.size * BRICK_VOXELS);
    for (const [values, id] of own) data.set(values, id * BRICK_VOXELS);
    const none = this.active === 0;
    return {
      low: map3(low, (l) => l * BRICK),
      bricks,
      table,
      data,
      background: this.background,
      toWorld,
      min: none ? this.background : this.min,
      max: none ? this.background : this.max,
      active: this.active,
    };
  }
}
/** Bricks that a table may have room for. */
const MAX_PLACES = 16_000_000;

/** Value at whole index coordinates. */
export function voxelAt(v: Volume, i: number, j: number, k: number): number {
  const [x, y, z] = [i - v.low[0], j - v.low[1], k - v.low[2]];
  const [a, b, c] = [x >> 3, y >> 3, z >> 3];
  if (a < 0 || b < 0 || c < 0 || a >= v.bricks[0] || b >= v.bricks[1] || c >= v.bricks[2]) return v.background;
  const brick = v.table[(c * v.bricks[1] + b) * v.bricks[0] + a]!;
  return brick < 0 ? v.background : v.data[brick * BRICK_VOXELS + ((z & 7) << 6) + ((y & 7) << 3) + (x & 7)]!;
}

/** Trilinear value at index coordinates. */
export function volumeAt(v: Volume, x: number, y: number, z: number): number {
  const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)];
  const [a, b, c] = [x - i, y - j, z - k];
  let sum = 0;
  for (let n = 0; n < 8; n++) {
    const [p, q, r] = [n & 1, (n >> 1) & 1, n >> 2];
    sum += (p ? a : 1 - a) * (q ? b : 1 - b) * (r ? c : 1 - c) * voxelAt(v, i + p, j + q, k + r);
  }
  return sum;
}

/** Low and high corner of the index coordinates at which the grid may differ from its background. */
export function indexBounds(v: Volume): Box {
  return [
    v.low[0] - 1,
    v.low[1] - 1,
    v.low[2] - 1,
    v.low[0] + BRICK * v.bricks[0],
    v.low[1] + BRICK * v.bricks[1],
    v.low[2] + BRICK * v.bricks[2],
  ];
}

/** Corners of the box outside which a grid is its background, by a transform of index coordinates; bits of a corner's number say which side along each axis. */
export function boxCorners(v: Volume, m: Affine): V3[] {
  return cornersOf(indexBounds(v)).map((c) => transformPoint(m, c));
}

/** Bytes of the header of a packed grid: see kernel/assembly/volume.ts. */
export const VOLUME_HEADER = 64;

/** A grid as one block of bytes for the kernel: header, table, least and largest value of each brick, voxels. */
export function packVolume(v: Volume): ArrayBuffer {
  const count = v.data.length / BRICK_VOXELS;
  const ranges = VOLUME_HEADER + 4 * v.table.length;
  const data = Math.ceil((ranges + 8 * count) / 16) * 16;
  const out = new ArrayBuffer(data + 4 * v.data.length);
  new Int32Array(out, 0, 8).set([...v.low, ...v.bricks, ranges, data]);
  new Float64Array(out, 32, 1)[0] = v.background;
  new Int32Array(out, VOLUME_HEADER, v.table.length).set(v.table);
  const range = new Float32Array(out, ranges, 2 * count);
  for (let n = 0; n < count; n++) {
    let min = Infinity,
      max = -Infinity;
    for (const x of v.data.subarray(n * BRICK_VOXELS, (n + 1) * BRICK_VOXELS)) {
      if (x < min) min = x;
      if (x > max) max = x;
    }
    range[2 * n] = min;
    range[2 * n + 1] = max;
  }
  new Float32Array(out, data, v.data.length).set(v.data);
  return out;
}
