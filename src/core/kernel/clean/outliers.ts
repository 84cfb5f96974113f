/** What stands out of its surroundings in one half alone is chance: it is limited, in either half, by the other and by both surroundings. */
import {
  GUIDE,
  HALF_A,
  HALF_B,
  LUMINANCE_A,
  LUMINANCE_B,
  SHARE_B,
  VARIANCE,
  WORK,
  at,
  clear,
  height,
  margin,
  stride,
  width,
} from "./planes";
import { luminanceOf } from "./result";

/** Sides of the window that outliers are judged in: two pixels each way. */
const AROUND: i32 = 2;
/** Light above this many times what the surroundings and the other half allow is limited. */
const ALLOWED: f32 = 1.5;
/** Sides of the window that variances are averaged in: two pixels each way. */
const BOX: i32 = 2;

/** Third largest of a plane in the window about four pixels. */
// @ts-ignore: decorator
@inline
function third(plane: i32, x: i32, y: i32): v128 {
  let a = f32x4.splat(-3e38),
    b = a,
    c = a;
  for (let j = -AROUND; j <= AROUND; j++)
    for (let i = -AROUND; i <= AROUND; i++) {
      const v = v128.load(at(plane, x + i, y + j));
      const below = f32x4.pmin(a, v);
      a = f32x4.pmax(a, v);
      const lower = f32x4.pmin(b, below);
      b = f32x4.pmax(b, below);
      c = f32x4.pmax(c, lower);
    }
  return c;
}

/** Luminance of a half, of all that its plane holds. */
function measure(half: i32, into: i32): void {
  for (let y = -margin; y < height + margin; y++)
    for (let x = -margin; x < stride - margin; x += 4)
      v128.store(at(into, x, y), luminanceOf(v128.load(at(half, x, y)), v128.load(at(half + 1, x, y)), v128.load(at(half + 2, x, y))));
}

/** Multiplies a half by the factors of a plane. */
function scale(half: i32, by: i32, reach: i32): void {
  for (let k = 0; k < 3; k++)
    for (let y = -reach; y < height + reach; y++)
      for (let x = -reach; x < width + reach; x += 4) {
        const p = at(half + k, x, y);
        v128.store(p, f32x4.mul(v128.load(p), v128.load(at(by, x, y))));
      }
}

/** Share of light v that lies above what is allowed beside `others`. */
// @ts-ignore: decorator
@inline
function tooMuch(v: v128, others: v128): v128 {
  const allowed = f32x4.mul(f32x4.splat(ALLOWED), others);
  const over = f32x4.gt(v, allowed);
  return v128.and(over, f32x4.sub(f32x4.splat(1.0), f32x4.div(allowed, v)));
}

/**
 * Limits both halves within `reach` of the tile. Their surroundings must be there.
 * @param strength 0 leaves them, 1 limits them whole
 */
export function limitOutliers(strength: f32, reach: i32): void {
  measure(HALF_A, LUMINANCE_A);
  measure(HALF_B, LUMINANCE_B);
  if (strength <= 0.0) return;
  const one = f32x4.splat(1.0),
    s = f32x4.splat(strength);
  for (let y = -reach; y < height + reach; y++)
    for (let x = -reach; x < width + reach; x += 4) {
      const around = f32x4.pmax(f32x4.splat(0.0), f32x4.pmin(third(LUMINANCE_A, x, y), third(LUMINANCE_B, x, y)));
      const a = v128.load(at(LUMINANCE_A, x, y)),
        b = v128.load(at(LUMINANCE_B, x, y));
      // where there is one half alone it cannot speak for itself
      const single = f32x4.eq(v128.load(at(SHARE_B, x, y)), f32x4.splat(0.0));
      v128.store(at(WORK, x, y), f32x4.sub(one, f32x4.mul(s, tooMuch(a, f32x4.pmax(around, v128.bitselect(around, b, single))))));
      v128.store(at(WORK + 1, x, y), f32x4.sub(one, f32x4.mul(s, tooMuch(b, f32x4.pmax(around, v128.bitselect(around, a, single))))));
    }
  scale(HALF_A, WORK, reach);
  scale(HALF_B, WORK + 1, reach);
  measure(HALF_A, LUMINANCE_A);
  measure(HALF_B, LUMINANCE_B);
}

/** Sum of numbers `apart` bytes from one another, the first at p: 2r + 1 of them. Written out, as this is where the better filter's time goes. */
// @ts-ignore: decorator
@inline
function sumAlong(p: usize, apart: usize, r: i32): v128 {
  let sum = f32x4.add(v128.load(p), v128.load(p + apart));
  p += 2 * apart;
  sum = f32x4.add(sum, v128.load(p));
  for (let i = 1; i < r; i++) {
    p += apart;
    sum = f32x4.add(sum, v128.load(p));
    p += apart;
    sum = f32x4.add(sum, v128.load(p));
  }
  return sum;
}

/** Mean of a plane over a box of (2r + 1)² into another, within `reach` of the tile, r from 1 on; `work` is overwritten. */
export function box(from: i32, into: i32, work: i32, r: i32, reach: i32): void {
  const row = (<usize>stride) << 2;
  const across = <usize>(((width + 2 * reach + 3) >> 2) << 4);
  const before = (<usize>r) << 2;
  let p = at(from, -reach, -reach - r),
    to = at(work, -reach, -reach - r);
  for (let y = -reach - r; y < height + reach + r; y++) {
    for (let x: usize = 0; x < across; x += 16) v128.store(to + x, sumAlong(p + x - before, 4, r));
    p += row;
    to += row;
  }
  const side: i32 = 2 * r + 1;
  const mean = f32x4.splat(1.0 / <f32>(side * side));
  p = at(work, -reach, -reach - r);
  to = at(into, -reach, -reach);
  for (let y = -reach; y < height + reach; y++) {
    for (let x: usize = 0; x < across; x += 16) v128.store(to + x, f32x4.mul(sumAlong(p + x, row, r), mean));
    p += row;
    to += row;
  }
}

/** The guide, the luminance of all samples, and its variance: from the difference of the halves, or of neighbours where there is one. */
export function measureNoise(reach: i32): void {
  const wide = reach + BOX;
  const zero = f32x4.splat(0.0);
  let alone = false;
  for (let y = -wide; y < height + wide; y++)
    for (let x = -wide; x < width + wide; x += 4) {
      const a = v128.load(at(LUMINANCE_A, x, y)),
        b = v128.load(at(LUMINANCE_B, x, y)),
        share = v128.load(at(SHARE_B, x, y));
      alone = alone || v128.any_true(f32x4.eq(share, zero));
      const d = f32x4.sub(b, a);
      v128.store(at(GUIDE, x, y), f32x4.add(a, f32x4.mul(share, d)));
      v128.store(at(WORK, x, y), f32x4.mul(f32x4.mul(share, f32x4.sub(f32x4.splat(1.0), share)), f32x4.mul(d, d)));
    }
  box(WORK, VARIANCE, WORK + 1, BOX, reach);
  if (!alone) return;
  // of one sample: how much its surroundings differ
  for (let y = -wide; y < height + wide; y++)
    for (let x = -wide; x < width + wide; x += 4) {
      const g = v128.load(at(GUIDE, x, y));
      v128.store(at(WORK, x, y), f32x4.mul(g, g));
    }
  box(WORK, WORK + 3, WORK + 1, BOX, reach);
  box(GUIDE, WORK + 2, WORK + 1, BOX, reach);
  for (let y = -reach; y < height + reach; y++)
    for (let x = -reach; x < width + reach; x += 4) {
      const mean = v128.load(at(WORK + 2, x, y));
      const spread = f32x4.pmax(zero, f32x4.sub(v128.load(at(WORK + 3, x, y)), f32x4.mul(mean, mean)));
      const p = at(VARIANCE, x, y);
      v128.store(p, v128.bitselect(spread, v128.load(p), f32x4.eq(v128.load(at(SHARE_B, x, y)), zero)));
    }
}

/** Sets the sums to 0. */
export function clearSums(first: i32, count: i32): void {
  for (let k = 0; k < count; k++) clear(first + k);
}
