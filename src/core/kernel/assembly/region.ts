/**
 * Where a medium lies: the part of a ray inside a region, the depth of a point below its border, and the
 * crossings of a closed mesh. Convex regions give one interval; meshes give several.
 */
import { FAR, MIN_LINEAR, MIN_QUADRATIC, PARALLEL, SAME_CROSSING } from "./precision";
import { MAX_CROSSINGS, SCRATCH_CROSSINGS } from "../../layout/scratch";
import { REGION_BOX, REGION_CONE, REGION_CYLINDER, REGION_EVERYWHERE, REGION_LAYER, REGION_MESH, REGION_SPHERE } from "../../layout/kinds";
import { M_REGION, M_CENTRE, M_ROWS, M_HALF, M_LAYER_UP, M_ROOT, M_EDGE_DISTANCE } from "../../layout/layout";
import { scratch, word, wordAddress, wordInt } from "./state";
import { crossings } from "./bvh";
import { distanceAt } from "./proximity";

/** Set by clip(): the part of the ray inside. */
export let clipA: f64 = 0.0;
export let clipB: f64 = 0.0;

// a point and a direction in the region's own frame
let qx: f64 = 0.0,
  qy: f64 = 0.0,
  qz: f64 = 0.0;
let vx: f64 = 0.0,
  vy: f64 = 0.0,
  vz: f64 = 0.0;

// @ts-ignore: decorator
@inline
function toLocal(p: usize, x: f64, y: f64, z: f64): void {
  const a = x - word(p, M_CENTRE),
    b = y - word(p, M_CENTRE + 1),
    c = z - word(p, M_CENTRE + 2);
  qx = a * word(p, M_ROWS) + b * word(p, M_ROWS + 1) + c * word(p, M_ROWS + 2);
  qy = a * word(p, M_ROWS + 3) + b * word(p, M_ROWS + 4) + c * word(p, M_ROWS + 5);
  qz = a * word(p, M_ROWS + 6) + b * word(p, M_ROWS + 7) + c * word(p, M_ROWS + 8);
}

// @ts-ignore: decorator
@inline
function turn(p: usize, x: f64, y: f64, z: f64): void {
  vx = x * word(p, M_ROWS) + y * word(p, M_ROWS + 1) + z * word(p, M_ROWS + 2);
  vy = x * word(p, M_ROWS + 3) + y * word(p, M_ROWS + 4) + z * word(p, M_ROWS + 5);
  vz = x * word(p, M_ROWS + 6) + y * word(p, M_ROWS + 7) + z * word(p, M_ROWS + 8);
}

/** Narrows the interval to |o + t d| <= h. @returns whether anything is left */
// @ts-ignore: decorator
@inline
function slab(o: f64, d: f64, h: f64): bool {
  if (Math.abs(d) < PARALLEL) return o >= -h && o <= h;
  const i = 1.0 / d;
  const a = (-h - o) * i,
    b = (h - o) * i;
  clipA = Math.max(clipA, Math.min(a, b));
  clipB = Math.min(clipB, Math.max(a, b));
  return clipB > clipA;
}

/** Narrows the interval to a t² + 2 b t + c <= 0 for a > 0. */
function between(a: f64, b: f64, c: f64): bool {
  const q = b * b - a * c;
  if (q <= 0.0) return false;
  const r = Math.sqrt(q);
  // the root of larger magnitude first, the other by Vieta: no cancellation far from the region
  const big = b > 0.0 ? -b - r : -b + r;
  const t0 = big / a;
  const t1 = big != 0.0 ? c / big : -t0;
  clipA = Math.max(clipA, Math.min(t0, t1));
  clipB = Math.min(clipB, Math.max(t0, t1));
  return clipB > clipA;
}

/** Clips [0, tmax] of a ray to a convex region; sets clipA, clipB. @returns whether anything is left */
export function clip(p: usize, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64): bool {
  clipA = 0.0;
  clipB = tmax;
  const kind = wordInt(p, M_REGION);
  if (kind == REGION_EVERYWHERE) return tmax > 0.0;
  if (kind == REGION_LAYER) {
    const o = word(p, M_HALF) - (ox * word(p, M_LAYER_UP) + oy * word(p, M_LAYER_UP + 1) + oz * word(p, M_LAYER_UP + 2));
    const d = dx * word(p, M_LAYER_UP) + dy * word(p, M_LAYER_UP + 1) + dz * word(p, M_LAYER_UP + 2);
    if (Math.abs(d) < PARALLEL) return o > 0.0;
    const t = o / d;
    if (d > 0.0) clipB = Math.min(clipB, t);
    else clipA = Math.max(clipA, t);
    return clipB > clipA;
  }
  toLocal(p, ox, oy, oz);
  if (kind == REGION_SPHERE) {
    const r = word(p, M_HALF);
    const b = (ox - word(p, M_CENTRE)) * dx + (oy - word(p, M_CENTRE + 1)) * dy + (oz - word(p, M_CENTRE + 2)) * dz;
    return between(1.0, b, qx * qx + qy * qy + qz * qz - r * r);
  }
  turn(p, dx, dy, dz);
  const hx = word(p, M_HALF),
    hy = word(p, M_HALF + 1);
  // of a mesh, the box about it
  if (kind == REGION_BOX || kind == REGION_MESH) return slab(qx, vx, hx) && slab(qy, vy, hy) && slab(qz, vz, word(p, M_HALF + 2));
  if (!slab(qy, vy, hy)) return false;
  if (kind == REGION_CYLINDER) {
    const a = vx * vx + vz * vz;
    const c = qx * qx + qz * qz - hx * hx;
    if (a < MIN_QUADRATIC) return c <= 0.0;
    return between(a, qx * vx + qz * vz, c);
  }
  if (kind != REGION_CONE) unreachable();
  // x² + z² <= k² w², w the way down from the tip
  const k = hx / (2.0 * hy);
  const w = hy - qy;
  const a = vx * vx + vz * vz - k * k * vy * vy;
  const b = qx * vx + qz * vz + k * k * w * vy;
  const c = qx * qx + qz * qz - k * k * w * w;
  if (Math.abs(a) < PARALLEL) {
    if (Math.abs(b) < MIN_LINEAR) return c <= 0.0;
    const t = -c / (2.0 * b);
    if (b > 0.0) clipB = Math.min(clipB, t);
    else clipA = Math.max(clipA, t);
    return clipB > clipA;
  }
  if (a > 0.0) return between(a, b, c);
  const q = b * b - a * c;
  if (q <= 0.0) return true;
  const r = Math.sqrt(q);
  // inside before the nearer root on one nappe or after the farther on the other; only one lies below the tip
  if (vy > 0.0) clipB = Math.min(clipB, Math.min((-b - r) / a, (-b + r) / a));
  else clipA = Math.max(clipA, Math.max((-b - r) / a, (-b + r) / a));
  return clipB > clipA;
}

/** Metres of a point below the border of a convex region (negative outside); a large number where there is no border. */
export function depthInside(p: usize, x: f64, y: f64, z: f64): f64 {
  const kind = wordInt(p, M_REGION);
  if (kind == REGION_MESH) {
    const field = wordAddress(p, M_EDGE_DISTANCE);
    return field == 0 ? FAR : distanceAt(field, x, y, z);
  }
  if (kind == REGION_EVERYWHERE) return FAR;
  if (kind == REGION_LAYER) return word(p, M_HALF) - (x * word(p, M_LAYER_UP) + y * word(p, M_LAYER_UP + 1) + z * word(p, M_LAYER_UP + 2));
  toLocal(p, x, y, z);
  const hx = word(p, M_HALF),
    hy = word(p, M_HALF + 1);
  if (kind == REGION_SPHERE) return hx - Math.sqrt(qx * qx + qy * qy + qz * qz);
  if (kind == REGION_BOX) return Math.min(hx - Math.abs(qx), Math.min(hy - Math.abs(qy), word(p, M_HALF + 2) - Math.abs(qz)));
  const rho = Math.sqrt(qx * qx + qz * qz);
  if (kind == REGION_CYLINDER) return Math.min(hx - rho, hy - Math.abs(qy));
  if (kind != REGION_CONE) unreachable();
  const k = hx / (2.0 * hy);
  return Math.min((k * (hy - qy) - rho) / Math.sqrt(1.0 + k * k), qy + hy);
}

/** Intervals of a ray inside a closed mesh, as pairs of f64 at insideAt(i). @returns how many */
export function meshIntervals(p: usize, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64): i32 {
  const at = scratch + SCRATCH_CROSSINGS;
  // each crossing 16 bytes: distance f64, sign f64 (+1 leaving, -1 entering)
  let n = crossings(wordInt(p, M_ROOT), <f32>ox, <f32>oy, <f32>oz, <f32>dx, <f32>dy, <f32>dz, at, MAX_CROSSINGS);
  if (n == 0) return 0;
  for (let i = 1; i < n; i++) {
    const t = load<f64>(at + ((<usize>i) << 4)),
      s = load<f64>(at + ((<usize>i) << 4), 8);
    let j = i - 1;
    while (j >= 0 && load<f64>(at + ((<usize>j) << 4)) > t) {
      store<f64>(at + ((<usize>(j + 1)) << 4), load<f64>(at + ((<usize>j) << 4)));
      store<f64>(at + ((<usize>(j + 1)) << 4), load<f64>(at + ((<usize>j) << 4), 8), 8);
      j--;
    }
    store<f64>(at + ((<usize>(j + 1)) << 4), t);
    store<f64>(at + ((<usize>(j + 1)) << 4), s, 8);
  }
  // a ray through a shared edge meets both triangles: one crossing
  let kept = 0;
  let depth = 0.0;
  for (let i = 0; i < n; i++) {
    const t = load<f64>(at + ((<usize>i) << 4)),
      s = load<f64>(at + ((<usize>i) << 4), 8);
    if (kept > 0) {
      const l = at + ((<usize>(kept - 1)) << 4);
      if (load<f64>(l, 8) == s && t - load<f64>(l) < SAME_CROSSING * (1.0 + t)) continue;
    }
    store<f64>(at + ((<usize>kept) << 4), t);
    store<f64>(at + ((<usize>kept) << 4), s, 8);
    kept++;
    depth += s;
  }
  // more ways out than in: the ray began inside
  let inside = Math.max(0.0, depth);
  let from = inside > 0.0 ? 0.0 : -1.0;
  let out = 0;
  for (let i = 0; i < kept; i++) {
    const t = load<f64>(at + ((<usize>i) << 4)),
      s = load<f64>(at + ((<usize>i) << 4), 8);
    const now = inside - s;
    if (inside <= 0.0 && now > 0.0) from = t;
    else if (inside > 0.0 && now <= 0.0) {
      if (from < tmax) {
        // pairs are written behind the crossings still to be read
        store<f64>(at + ((<usize>out) << 4), from);
        store<f64>(at + ((<usize>out) << 4), Math.min(t, tmax), 8);
        out++;
      }
      from = -1.0;
    }
    inside = Math.max(0.0, now);
  }
  return out;
}

/** Where (m) interval `i` of a ray within a region begins. */
// @ts-ignore: decorator
@inline
export function intervalStart(i: i32): f64 {
  return load<f64>(scratch + SCRATCH_CROSSINGS + ((<usize>i) << 4));
}
/** Where (m) interval `i` of a ray within a region ends. */
// @ts-ignore: decorator
@inline
export function intervalEnd(i: i32): f64 {
  return load<f64>(scratch + SCRATCH_CROSSINGS + ((<usize>i) << 4), 8);
}

/** Whether a point lies inside a closed mesh. */
export function insideMesh(p: usize, x: f64, y: f64, z: f64): bool {
  return meshIntervals(p, x, y, z, 0.0, 1.0, 0.0, FAR) > 0 && intervalStart(0) == 0.0;
}
