/**
 * Solid gradient noise summed over octaves (Perlin 2002's quintic fade, gradients from a hash of the
 * lattice point), brought to [0, 1] between a low and a high threshold.
 */
import {
  P_NOISE_FREQ, P_NOISE_OCTAVES, P_NOISE_ROUGHNESS, P_NOISE_LOW, P_NOISE_HIGH, P_NOISE_SEED,
} from "../../scene/layout";
import { param, countLookup } from "./state";

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
export function gradientNoise(x: f64, y: f64, z: f64, seed: u32): f64 {
  const fx = Math.floor(x), fy = Math.floor(y), fz = Math.floor(z);
  const X = <i32>fx, Y = <i32>fy, Z = <i32>fz;
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

/** Density factor in [0, 1] at a world position. */
export function breakUp(x: f64, y: f64, z: f64): f64 {
  countLookup();
  const octaves = <i32>param(P_NOISE_OCTAVES);
  const roughness = param(P_NOISE_ROUGHNESS);
  let seed = <u32>param(P_NOISE_SEED);
  x *= param(P_NOISE_FREQ);
  y *= param(P_NOISE_FREQ + 1);
  z *= param(P_NOISE_FREQ + 2);
  let sum = 0.0, amplitude = 1.0, total = 0.0;
  for (let i = 0; i < octaves; i++) {
    sum += amplitude * gradientNoise(x, y, z, seed);
    total += amplitude;
    amplitude *= roughness;
    // lacunarity just off 2, so that lattice planes of the octaves do not line up
    x = x * 2.03 + 17.31;
    y = y * 2.03 + 5.77;
    z = z * 2.03 + 29.13;
    seed += 0x632be5ab;
  }
  const value = 0.5 + (0.5 * sum) / total;
  const low = param(P_NOISE_LOW), high = param(P_NOISE_HIGH);
  const t = Math.max(0.0, Math.min(1.0, (value - low) / Math.max(high - low, 1e-9)));
  return t * t * (3.0 - 2.0 * t);
}
