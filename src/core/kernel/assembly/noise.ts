/**
 * Solid noise of several characters, summed over octaves and brought to [0, 1] between a low and a high
 * threshold. Gradient noise has Perlin 2002's quintic fade and gradients from a hash of the lattice point;
 * cells are distances to one jittered point a lattice cell (Worley 1996).
 */
import { MIN_SPAN } from "./precision";
import { NOISE_BILLOW, NOISE_CELLS, NOISE_RIDGE, NOISE_LAYERS, NOISE_SOFT, NOISE_WISPS } from "../../layout/kinds";
import {
  M_NOISE,
  M_NOISE_FREQ,
  M_NOISE_OCTAVES,
  M_NOISE_ROUGHNESS,
  M_NOISE_LACUNARITY,
  M_NOISE_LOW,
  M_NOISE_HIGH,
  M_NOISE_KNEE,
  M_NOISE_EVENNESS,
  M_NOISE_INVERT,
  M_NOISE_OFFSET,
  M_NOISE_CHANGE,
  M_NOISE_SEED,
  M_NOISE_LOCAL,
  M_NOISE_AXIS,
  M_NOISE_BEND,
  M_CENTRE,
  M_ROWS,
} from "../../layout/layout";
import { word, wordInt } from "./state";

/** Most that gradient noise rises or falls over one cell of its lattice. */
const SLOPE: f64 = 2.2;
/** How many swells layers have along their size: they sway slowly. */
const BEND_FREQ: f64 = 0.3;

function lattice(x: i32, y: i32, z: i32, seed: u32): u32 {
  let h: u32 = <u32>x * 0x8da6b343 + <u32>y * 0xd8163841 + <u32>z * 0xcb1ab31f + seed;
  h ^= h >> 15;
  h *= 0x2c1b3c6d;
  h ^= h >> 12;
  h *= 0x297a2d39;
  h ^= h >> 15;
  return h;
}

/** Dot product with one of the twelve cube-edge directions (four of them doubled to make 16). */
// @ts-ignore: decorator
@inline
function slope(h: u32, x: f64, y: f64, z: f64): f64 {
  const k = h & 15;
  const u = k < 8 ? x : y;
  const v = k < 4 ? y : k == 12 || k == 14 ? x : z;
  return ((k & 1) == 0 ? u : -u) + ((k & 2) == 0 ? v : -v);
}

// @ts-ignore: decorator
@inline
function mixd(a: f64, b: f64, t: f64): f64 {
  return a + t * (b - a);
}

/** Gradient noise, within about [-1, 1], mean 0. */
function gradientNoise(x: f64, y: f64, z: f64, seed: u32): f64 {
  const fx = Math.floor(x),
    fy = Math.floor(y),
    fz = Math.floor(z);
  const X = <i32>fx,
    Y = <i32>fy,
    Z = <i32>fz;
  x -= fx;
  y -= fy;
  z -= fz;
  const u = x * x * x * (x * (x * 6.0 - 15.0) + 10.0);
  const v = y * y * y * (y * (y * 6.0 - 15.0) + 10.0);
  const w = z * z * z * (z * (z * 6.0 - 15.0) + 10.0);
  return mixd(
    mixd(
      mixd(slope(lattice(X, Y, Z, seed), x, y, z), slope(lattice(X + 1, Y, Z, seed), x - 1, y, z), u),
      mixd(slope(lattice(X, Y + 1, Z, seed), x, y - 1, z), slope(lattice(X + 1, Y + 1, Z, seed), x - 1, y - 1, z), u),
      v,
    ),
    mixd(
      mixd(slope(lattice(X, Y, Z + 1, seed), x, y, z - 1), slope(lattice(X + 1, Y, Z + 1, seed), x - 1, y, z - 1), u),
      mixd(slope(lattice(X, Y + 1, Z + 1, seed), x, y - 1, z - 1), slope(lattice(X + 1, Y + 1, Z + 1, seed), x - 1, y - 1, z - 1), u),
      v,
    ),
    w,
  );
}

/** Distance to the nearest of the points, one jittered in each lattice cell. */
function cellDistance(x: f64, y: f64, z: f64, seed: u32): f64 {
  const fx = Math.floor(x),
    fy = Math.floor(y),
    fz = Math.floor(z);
  let lowest = 9.0;
  for (let i = -1; i <= 1; i++)
    for (let j = -1; j <= 1; j++)
      for (let k = -1; k <= 1; k++) {
        const cx = fx + <f64>i,
          cy = fy + <f64>j,
          cz = fz + <f64>k;
        const h = lattice(<i32>cx, <i32>cy, <i32>cz, seed);
        const px = cx + <f64>(h & 1023) * (1.0 / 1023.0) - x;
        const py = cy + <f64>((h >> 10) & 1023) * (1.0 / 1023.0) - y;
        const pz = cz + <f64>(h >> 20) * (1.0 / 4095.0) - z;
        lowest = Math.min(lowest, px * px + py * py + pz * pz);
      }
  return Math.sqrt(lowest);
}

// @ts-ignore: decorator
@inline
function basis(character: i32, x: f64, y: f64, z: f64, seed: u32): f64 {
  if (character == NOISE_CELLS) return 1.0 - 2.0 * cellDistance(x, y, z, seed);
  const n = gradientNoise(x, y, z, seed);
  if (character == NOISE_BILLOW) return 3.0 * Math.abs(n) - 1.0;
  if (character == NOISE_RIDGE) return 1.0 - 3.0 * Math.abs(n);
  // wisps and layers are soft noise, looked up at a place that other noise has moved
  if (character == NOISE_SOFT || character == NOISE_WISPS || character == NOISE_LAYERS) return n;
  unreachable();
  return n;
}

/** One octave; patterns that change pass from one seed to the next with constant variance. */
// @ts-ignore: decorator
@inline
function octave(character: i32, x: f64, y: f64, z: f64, seed: u32, change: f64): f64 {
  if (change == 0.0) return basis(character, x, y, z, seed);
  const k = Math.floor(change);
  const a = (change - k) * 1.5707963267948966;
  const from = seed + <u32>(<i32>k) * 0x9e3779b1;
  return Math.cos(a) * basis(character, x, y, z, from) + Math.sin(a) * basis(character, x, y, z, from + 0x9e3779b1);
}

/** The sum of octaves about 0.5, before thresholds, at a world position; `p` is the medium's record. */
export function rawNoise(p: usize, x: f64, y: f64, z: f64): f64 {
  if (wordInt(p, M_NOISE_LOCAL) != 0) {
    const px = x - word(p, M_CENTRE),
      py = y - word(p, M_CENTRE + 1),
      pz = z - word(p, M_CENTRE + 2);
    x = px * word(p, M_ROWS) + py * word(p, M_ROWS + 1) + pz * word(p, M_ROWS + 2);
    y = px * word(p, M_ROWS + 3) + py * word(p, M_ROWS + 4) + pz * word(p, M_ROWS + 5);
    z = px * word(p, M_ROWS + 6) + py * word(p, M_ROWS + 7) + pz * word(p, M_ROWS + 8);
  }
  x = (x - word(p, M_NOISE_OFFSET)) * word(p, M_NOISE_FREQ);
  y = (y - word(p, M_NOISE_OFFSET + 1)) * word(p, M_NOISE_FREQ + 1);
  z = (z - word(p, M_NOISE_OFFSET + 2)) * word(p, M_NOISE_FREQ + 2);
  const character = wordInt(p, M_NOISE);
  const octaves = wordInt(p, M_NOISE_OCTAVES);
  const roughness = word(p, M_NOISE_ROUGHNESS);
  const finer = word(p, M_NOISE_LACUNARITY);
  const change = word(p, M_NOISE_CHANGE);
  let seed = <u32>wordInt(p, M_NOISE_SEED);
  if (character == NOISE_WISPS) {
    // wisps: the place is dragged along by another noise before it is looked up
    const wx = gradientNoise(x * 0.7, y * 0.7, z * 0.7, seed + 101);
    const wy = gradientNoise(x * 0.7 + 31.7, y * 0.7, z * 0.7, seed + 211);
    const wz = gradientNoise(x * 0.7, y * 0.7 + 47.3, z * 0.7, seed + 307);
    x += 1.1 * wx;
    y += 1.1 * wy;
    z += 1.1 * wz;
  }
  if (character == NOISE_LAYERS) {
    // layers: noise along one axis alone, off the lattice's planes, where it would be 0 at every integer
    const sway = gradientNoise(x * BEND_FREQ, y * BEND_FREQ, z * BEND_FREQ, seed + 401);
    x = x * word(p, M_NOISE_AXIS) + y * word(p, M_NOISE_AXIS + 1) + z * word(p, M_NOISE_AXIS + 2) + word(p, M_NOISE_BEND) * sway;
    y = 0.37;
    z = 0.61;
  }
  let sum = 0.0,
    amplitude = 1.0,
    total = 0.0;
  for (let i = 0; i < octaves; i++) {
    sum += amplitude * octave(character, x, y, z, seed, change);
    total += amplitude;
    amplitude *= roughness;
    // shifted, so that lattice planes of the octaves do not line up
    x = x * finer + 17.31;
    y = y * finer + 5.77;
    z = z * finer + 29.13;
    seed += 0x632be5ab;
  }
  return 0.5 + (0.5 * sum) / total;
}

/** The raw sum brought between the thresholds, to [0, 1]. */
export function threshold(p: usize, value: f64): f64 {
  const low = word(p, M_NOISE_LOW),
    high = word(p, M_NOISE_HIGH);
  const t = Math.max(0.0, Math.min(1.0, (value - low) / Math.max(high - low, MIN_SPAN)));
  let v = t + word(p, M_NOISE_KNEE) * (t * t * (3.0 - 2.0 * t) - t);
  if (wordInt(p, M_NOISE_INVERT) != 0) v = 1.0 - v;
  return v + word(p, M_NOISE_EVENNESS) * (1.0 - v);
}

/** Density factor in [0, 1] at a world position. */
export function noiseFactor(p: usize, x: f64, y: f64, z: f64): f64 {
  return threshold(p, rawNoise(p, x, y, z));
}

/**
 * How far the raw sum can rise or fall within `reach` metres of a point: octave by octave no more than its
 * slope times the reach, nor than its range.
 */
export function noiseMargin(p: usize, reach: f64): f64 {
  const character = wordInt(p, M_NOISE);
  let slopes = character == NOISE_BILLOW || character == NOISE_RIDGE ? 6.0 : character == NOISE_WISPS ? 5.0 : SLOPE;
  // what sways adds its own slope
  if (character == NOISE_LAYERS) slopes *= 1.0 + word(p, M_NOISE_BEND) * BEND_FREQ * SLOPE;
  const range = character == NOISE_BILLOW || character == NOISE_RIDGE ? 3.0 : 1.5;
  const freq = Math.max(word(p, M_NOISE_FREQ), Math.max(word(p, M_NOISE_FREQ + 1), word(p, M_NOISE_FREQ + 2)));
  let f = freq * reach * (word(p, M_NOISE_CHANGE) == 0.0 ? 1.0 : 1.42);
  let sum = 0.0,
    amplitude = 1.0,
    total = 0.0;
  for (let i = 0; i < wordInt(p, M_NOISE_OCTAVES); i++) {
    sum += amplitude * Math.min(range, slopes * f);
    total += amplitude;
    amplitude *= word(p, M_NOISE_ROUGHNESS);
    f *= word(p, M_NOISE_LACUNARITY);
  }
  return (0.5 * sum) / total;
}
