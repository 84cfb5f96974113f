/**
 * The media along a ray. Each medium is an independent field of particles: its optical depth, its
 * transmittance and its collisions are computed by itself, in closed form where its density is a height
 * profile alone, by tracking under upper bounds of its density elsewhere; a ray through several
 * multiplies their transmittances and takes the nearest of their collisions.
 */
import {
  MEDIA, MEDIUM_WORDS, P_MEDIA, P_ESTIMATOR, P_MAX_STEPS, P_LEVEL, M_FACTOR, M_SIGMA_S, M_SIGMA_T, M_EMISSION, M_REGION, M_EDGE,
  M_PROFILE, M_LEVEL, M_SCALE, M_UP, M_NOISE, M_START, M_START_DISTANCE, M_START_FADE, M_START_LEAST, M_START_LENS,
  M_VOLUME, M_VOLUME_ROWS, M_VOLUME_LOW, M_VOLUME_SCALE, M_NEAR, M_SEEN, M_STEP, M_GRID, M_GRID_CELLS, M_GRID_LOW, M_GRID_SCALE, M_GRID_LOCAL, M_CENTRE, M_ROWS, RAY_SHADOW,
} from "../../scene/layout";
import { profileDensity, profileIntegral, profileInverse } from "../../optics/profile";
import { param, scratch, word, countLookup, plain } from "./state";
import { random, randomState, setRandomState } from "./random";
import { breakUp, rawNoise, threshold, noiseMargin } from "./noise";
import { volumeAt, rangeWithin, rangeLeast, rangeMost } from "./volume";
import { nearness, nearnessBound } from "./nearness";
import { heatAt, heatR, heatG, heatB } from "./heat";
import { clip, clipA, clipB, depthInside, meshIntervals, intervalStart, intervalEnd, EVERYWHERE, LAYER, MESH } from "./region";

/** Transmittance per band, set by transmit(). */
export let tr: f64 = 1.0;
export let tg: f64 = 1.0;
export let tb: f64 = 1.0;

/** Set by sampleCollision(): distance, medium, and spectral weights (f / pdf) per band. */
export let colT: f64 = 0.0;
export let colMedium: usize = 0;
export let colR: f64 = 0.0;
export let colG: f64 = 0.0;
export let colB: f64 = 0.0;

let count: i32 = 0;
let stepping: bool = false;
let maxSteps: f64 = 1024.0;
/** Whether any medium treats the bands differently: else one band speaks for all. */
let chromatic: bool = false;
/** Level veil: factors without closed form are left out. */
let veiling: bool = false;

// --- a segment: the part of a ray inside one medium
const SEGMENT: usize = 128;
const S_TYPE: usize = 4;
const S_A: usize = 8;
const S_B: usize = 16;
const S_Y: usize = 24; // height above the medium's level at A
const S_SLOPE: usize = 32;
const S_SHARE: usize = 40;
const S_TOTAL: usize = 48; // ∫ of the majorant density
const S_PICK: usize = 56; // chance of drawing from this segment
const S_BAND: usize = 64; // share of each band in its mixture
const S_NORM: usize = 88; // 1 - exp(-σt · total) per band
const S_CELL: usize = 112;
/** Rate of the second way of drawing from broken air; 0 where there is none. */
const S_GENTLE: usize = 120;
const S_CELLS: usize = 116;

/** Segments a ray may have; what lies beyond is left out, which no scene of sense reaches. */
const MOST_SEGMENTS: i32 = 63;
const LIST_A: usize = 8192;
const LIST_B: usize = 16384;
const POINTS: usize = 28672;
/** Cells of the camera ray through coarse grids: where each ends (m), its bound, the depth up to it. */
const CELLS: usize = 40960;
const CELL: usize = 24;
const MOST_CELLS: i32 = 700;

const CLOSED: i32 = 0;
const UNDER_PROFILE: i32 = 1;
const GRIDDED: i32 = 2;

export function prepareMedia(on: bool): void {
  count = on ? <i32>param(P_MEDIA) : 0;
  veiling = param(P_LEVEL) == 2.0;
  stepping = param(P_ESTIMATOR) != 0.0 && !veiling;
  maxSteps = param(P_MAX_STEPS);
  chromatic = false;
  for (let m = 0; m < count; m++) {
    const p = mediumAt(m);
    const e = word(p, M_SIGMA_T);
    if (word(p, M_SIGMA_T + 1) != e || word(p, M_SIGMA_T + 2) != e) chromatic = true;
  }
}

// @ts-ignore: decorator
@inline
export function mediumAt(m: i32): usize {
  return <usize>MEDIA + <usize>(m * MEDIUM_WORDS * 8);
}
export function mediaCount(): i32 { return count; }

/** Height of a point above the medium's level, along its own up. */
// @ts-ignore: decorator
@inline
function heightOf(p: usize, x: f64, y: f64, z: f64): f64 {
  return x * word(p, M_UP) + y * word(p, M_UP + 1) + z * word(p, M_UP + 2) - word(p, M_LEVEL);
}

// @ts-ignore: decorator
@inline
function smooth(t: f64): f64 {
  t = Math.max(0.0, Math.min(1.0, t));
  return t * t * (3.0 - 2.0 * t);
}

/** What multiplies the height profile at a point of the region, in [0, 1]: soft edge × start × break-up. */
function factorAt(p: usize, x: f64, y: f64, z: f64): f64 {
  countLookup();
  let f = 1.0;
  const edge = word(p, M_EDGE);
  if (edge > 0.0) f = smooth(depthInside(p, x, y, z) / edge);
  if (word(p, M_START) != 0.0) f *= startFactor(p, distanceFromLens(p, x, y, z));
  if (f > 0.0 && word(p, M_NEAR) != 0.0) f *= nearness(p, x, y, z);
  if (f > 0.0 && word(p, M_VOLUME) != 0.0) f *= gridDensity(p, x, y, z);
  if (f > 0.0 && word(p, M_NOISE) != 0.0) f *= breakUp(p, x, y, z);
  return f;
}

/** Row of a 3×4 transform in a medium's record, applied to a point. */
// @ts-ignore: decorator
@inline
function row(p: usize, at: i32, x: f64, y: f64, z: f64): f64 {
  return x * word(p, at) + y * word(p, at + 1) + z * word(p, at + 2) + word(p, at + 3);
}

/** Share of full density that a medium's grid holds at a point, in [0, 1]. */
function gridDensity(p: usize, x: f64, y: f64, z: f64): f64 {
  const v = volumeAt(<usize>word(p, M_VOLUME), row(p, M_VOLUME_ROWS, x, y, z), row(p, M_VOLUME_ROWS + 4, x, y, z), row(p, M_VOLUME_ROWS + 8, x, y, z));
  return Math.max(0.0, Math.min(1.0, (v - word(p, M_VOLUME_LOW)) * word(p, M_VOLUME_SCALE)));
}

/** Upper bound of gridDensity() within a box of half sizes (hx, hy, hz), turned or not, about a point. */
function gridBound(p: usize, local: bool, x: f64, y: f64, z: f64, hx: f64, hy: f64, hz: f64): f64 {
  let low0 = 0.0, low1 = 0.0, low2 = 0.0, high0 = 0.0, high1 = 0.0, high2 = 0.0;
  for (let axis = 0; axis < 3; axis++) {
    const at = M_VOLUME_ROWS + 4 * axis;
    const c = row(p, at, x, y, z);
    let r = 0.0;
    for (let k = 0; k < 3; k++) {
      const a = local ? word(p, at) * word(p, M_ROWS + 3 * k) + word(p, at + 1) * word(p, M_ROWS + 3 * k + 1) + word(p, at + 2) * word(p, M_ROWS + 3 * k + 2) : word(p, at + k);
      r += Math.abs(a) * (k == 0 ? hx : k == 1 ? hy : hz);
    }
    // a hair more, against rounding
    r = r * 1.000001 + 1e-9;
    if (axis == 0) { low0 = c - r; high0 = c + r; } else if (axis == 1) { low1 = c - r; high1 = c + r; } else { low2 = c - r; high2 = c + r; }
  }
  rangeWithin(<usize>word(p, M_VOLUME), low0, low1, low2, high0, high1, high2);
  const scale = word(p, M_VOLUME_SCALE);
  return Math.max(0.0, Math.min(1.0, ((scale >= 0.0 ? rangeMost : rangeLeast) - word(p, M_VOLUME_LOW)) * scale));
}

function distanceFromLens(p: usize, x: f64, y: f64, z: f64): f64 {
  const a = x - word(p, M_START_LENS), b = y - word(p, M_START_LENS + 1), c = z - word(p, M_START_LENS + 2);
  return Math.sqrt(a * a + b * b + c * c);
}

function startFactor(p: usize, distance: f64): f64 {
  const past = distance - word(p, M_START_DISTANCE);
  const fade = word(p, M_START_FADE);
  const least = word(p, M_START_LEAST);
  const t = fade > 0.0 ? smooth(past / fade) : past >= 0.0 ? 1.0 : 0.0;
  return least + (1.0 - least) * t;
}

/** Relative density of a medium at a point of its region. */
export function densityAt(p: usize, x: f64, y: f64, z: f64): f64 {
  const h = profileDensity(<i32>word(p, M_PROFILE), heightOf(p, x, y, z), word(p, M_SCALE));
  return h > 0.0 && word(p, M_FACTOR) != 0.0 && !veiling ? h * factorAt(p, x, y, z) : h;
}

// --- which media a ray passes

// the ray of the list last collected, as the lists' functions need it
let rx: f64 = 0.0, ry: f64 = 0.0, rz: f64 = 0.0, ux: f64 = 0.0, uy: f64 = 0.0, uz: f64 = 0.0;

function push(list: usize, n: i32, p: usize, a: f64, b: f64, share: f64, type: i32): i32 {
  if (n >= MOST_SEGMENTS || !(b > a)) return n;
  const s = list + <usize>n * SEGMENT;
  store<u32>(s, <u32>p);
  store<i32>(s, type, S_TYPE);
  store<f64>(s, a, S_A);
  store<f64>(s, b, S_B);
  store<f64>(s, heightOf(p, rx, ry, rz) + a * (ux * word(p, M_UP) + uy * word(p, M_UP + 1) + uz * word(p, M_UP + 2)), S_Y);
  store<f64>(s, ux * word(p, M_UP) + uy * word(p, M_UP + 1) + uz * word(p, M_UP + 2), S_SLOPE);
  store<f64>(s, share, S_SHARE);
  return n + 1;
}

/** Adds the part [a, b] of the ray in medium p, cut where its coarse grid begins and ends. */
function add(list: usize, n: i32, p: usize, a: f64, b: f64, share: f64): i32 {
  if (word(p, M_FACTOR) == 0.0 || veiling) return push(list, n, p, a, b, share, CLOSED);
  if (word(p, M_GRID) == 0.0 || stepping || (plain & 4) != 0) return push(list, n, p, a, b, share, UNDER_PROFILE);
  const kind = <i32>word(p, M_REGION);
  if (kind != EVERYWHERE && kind != LAYER) return push(list, n, p, a, b, share, GRIDDED);
  let c = a, d = b;
  for (let axis = 0; axis < 3; axis++) {
    const low = word(p, M_GRID_LOW + axis);
    const high = low + word(p, M_GRID_CELLS + axis) / word(p, M_GRID_SCALE + axis);
    const o = axis == 0 ? rx : axis == 1 ? ry : rz;
    const u = axis == 0 ? ux : axis == 1 ? uy : uz;
    if (Math.abs(u) < 1e-12) {
      if (o < low || o > high) return push(list, n, p, a, b, share, UNDER_PROFILE);
      continue;
    }
    const s = (low - o) / u, t = (high - o) / u;
    c = Math.max(c, Math.min(s, t));
    d = Math.min(d, Math.max(s, t));
  }
  if (!(d > c)) return push(list, n, p, a, b, share, UNDER_PROFILE);
  n = push(list, n, p, a, c, share, UNDER_PROFILE);
  n = push(list, n, p, c, d, share, GRIDDED);
  return push(list, n, p, d, b, share, UNDER_PROFILE);
}

/** Fills a list with the segments of [0, tmax] of a ray of the given kind. @returns how many */
function collect(list: usize, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64, ray: i32): i32 {
  rx = ox; ry = oy; rz = oz;
  ux = dx; uy = dy; uz = dz;
  let n = 0;
  for (let m = 0; m < count; m++) {
    const p = mediumAt(m);
    const share = word(p, M_SEEN + ray);
    // the level veil knows no grids
    if (share <= 0.0 || (veiling && word(p, M_VOLUME) != 0.0)) continue;
    if (<i32>word(p, M_REGION) == MESH) {
      const k = meshIntervals(p, ox, oy, oz, dx, dy, dz, tmax);
      for (let i = 0; i < k; i++) n = add(list, n, p, intervalStart(i), intervalEnd(i), share);
    } else if (clip(p, ox, oy, oz, dx, dy, dz, tmax)) n = add(list, n, p, clipA, clipB, share);
  }
  return n;
}

// --- coarse grids of upper bounds, walked cell by cell

let gp: usize = 0, gAddress: usize = 0;
let gx: i32 = 0, gy: i32 = 0, gz: i32 = 0, gnx: i32 = 0, gny: i32 = 0, gnz: i32 = 0;
let gsx: i32 = 0, gsy: i32 = 0, gsz: i32 = 0;
let gtx: f64 = 0.0, gty: f64 = 0.0, gtz: f64 = 0.0, gdx: f64 = 0.0, gdy: f64 = 0.0, gdz: f64 = 0.0;
let gAt: f64 = 0.0, gEnd: f64 = 0.0;
/** Set by nextCell(): the cell's part of the ray and its bound. */
let cellA: f64 = 0.0, cellB: f64 = 0.0, cellBound: f64 = 0.0;

/** Upper bound of relative density in a cell, computed when first asked for; the same from any worker. */
function boundOf(p: usize, ix: i32, iy: i32, iz: i32): f64 {
  const at = gAddress + (<usize>((iz * gny + iy) * gnx + ix) << 2);
  const known = load<f32>(at);
  if (known >= 0.0) return <f64>known;
  const wx = 1.0 / word(p, M_GRID_SCALE), wy = 1.0 / word(p, M_GRID_SCALE + 1), wz = 1.0 / word(p, M_GRID_SCALE + 2);
  const lx = word(p, M_GRID_LOW) + (<f64>ix + 0.5) * wx;
  const ly = word(p, M_GRID_LOW + 1) + (<f64>iy + 0.5) * wy;
  const lz = word(p, M_GRID_LOW + 2) + (<f64>iz + 0.5) * wz;
  const local = word(p, M_GRID_LOCAL) != 0.0;
  const half = 0.5 * Math.sqrt(wx * wx + wy * wy + wz * wz);
  const cx = worldOf(p, local, 0, lx, ly, lz), cy = worldOf(p, local, 1, lx, ly, lz), cz = worldOf(p, local, 2, lx, ly, lz);
  let bound = profileDensity(<i32>word(p, M_PROFILE), heightOf(p, cx, cy, cz) - half, word(p, M_SCALE));
  const edge = word(p, M_EDGE);
  // the distance grid of a mesh is steeper than distance itself where it is interpolated
  if (edge > 0.0) bound *= smooth((depthInside(p, cx, cy, cz) + (<i32>word(p, M_REGION) == MESH ? 1.7321 * half : half)) / edge);
  if (word(p, M_START) != 0.0) bound *= startFactor(p, distanceFromLens(p, cx, cy, cz) + half);
  if (bound > 0.0 && word(p, M_NEAR) != 0.0) bound *= nearnessBound(p, cx, cy, cz, half);
  if (bound > 0.0 && word(p, M_VOLUME) != 0.0) bound *= gridBound(p, local, cx, cy, cz, 0.5 * wx, 0.5 * wy, 0.5 * wz);
  if (bound > 0.0 && word(p, M_NOISE) != 0.0) {
    let least = 1e9, most = -1e9;
    for (let i = 0; i < 4; i++)
      for (let j = 0; j < 4; j++)
        for (let k = 0; k < 4; k++) {
          const a = lx + (<f64>i * 0.25 - 0.375) * wx, b = ly + (<f64>j * 0.25 - 0.375) * wy, c = lz + (<f64>k * 0.25 - 0.375) * wz;
          const v = rawNoise(p, worldOf(p, local, 0, a, b, c), worldOf(p, local, 1, a, b, c), worldOf(p, local, 2, a, b, c));
          least = Math.min(least, v);
          most = Math.max(most, v);
        }
    const margin = noiseMargin(p, half / 4.0);
    bound *= Math.max(threshold(p, most + margin), threshold(p, least - margin));
  }
  // rounded up, so that the single-precision bound still bounds
  store<f32>(at, <f32>(bound * 1.000001));
  return <f64>load<f32>(at);
}

// @ts-ignore: decorator
@inline
function worldOf(p: usize, local: bool, axis: i32, x: f64, y: f64, z: f64): f64 {
  if (!local) return axis == 0 ? x : axis == 1 ? y : z;
  return word(p, M_CENTRE + axis) + x * word(p, M_ROWS + axis) + y * word(p, M_ROWS + 3 + axis) + z * word(p, M_ROWS + 6 + axis);
}

function startCells(p: usize, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, a: f64, b: f64): void {
  gp = p;
  gAddress = <usize>word(p, M_GRID);
  gnx = <i32>word(p, M_GRID_CELLS);
  gny = <i32>word(p, M_GRID_CELLS + 1);
  gnz = <i32>word(p, M_GRID_CELLS + 2);
  let x = ox, y = oy, z = oz, vx = dx, vy = dy, vz = dz;
  if (word(p, M_GRID_LOCAL) != 0.0) {
    const qx = ox - word(p, M_CENTRE), qy = oy - word(p, M_CENTRE + 1), qz = oz - word(p, M_CENTRE + 2);
    x = qx * word(p, M_ROWS) + qy * word(p, M_ROWS + 1) + qz * word(p, M_ROWS + 2);
    y = qx * word(p, M_ROWS + 3) + qy * word(p, M_ROWS + 4) + qz * word(p, M_ROWS + 5);
    z = qx * word(p, M_ROWS + 6) + qy * word(p, M_ROWS + 7) + qz * word(p, M_ROWS + 8);
    vx = dx * word(p, M_ROWS) + dy * word(p, M_ROWS + 1) + dz * word(p, M_ROWS + 2);
    vy = dx * word(p, M_ROWS + 3) + dy * word(p, M_ROWS + 4) + dz * word(p, M_ROWS + 5);
    vz = dx * word(p, M_ROWS + 6) + dy * word(p, M_ROWS + 7) + dz * word(p, M_ROWS + 8);
  }
  x = (x - word(p, M_GRID_LOW)) * word(p, M_GRID_SCALE);
  y = (y - word(p, M_GRID_LOW + 1)) * word(p, M_GRID_SCALE + 1);
  z = (z - word(p, M_GRID_LOW + 2)) * word(p, M_GRID_SCALE + 2);
  vx *= word(p, M_GRID_SCALE);
  vy *= word(p, M_GRID_SCALE + 1);
  vz *= word(p, M_GRID_SCALE + 2);
  gx = <i32>Math.max(0.0, Math.min(<f64>(gnx - 1), Math.floor(x + vx * a)));
  gy = <i32>Math.max(0.0, Math.min(<f64>(gny - 1), Math.floor(y + vy * a)));
  gz = <i32>Math.max(0.0, Math.min(<f64>(gnz - 1), Math.floor(z + vz * a)));
  gsx = vx > 0.0 ? 1 : -1;
  gsy = vy > 0.0 ? 1 : -1;
  gsz = vz > 0.0 ? 1 : -1;
  gtx = vx == 0.0 ? Infinity : (<f64>(gx + (vx > 0.0 ? 1 : 0)) - x) / vx;
  gty = vy == 0.0 ? Infinity : (<f64>(gy + (vy > 0.0 ? 1 : 0)) - y) / vy;
  gtz = vz == 0.0 ? Infinity : (<f64>(gz + (vz > 0.0 ? 1 : 0)) - z) / vz;
  gdx = vx == 0.0 ? Infinity : Math.abs(1.0 / vx);
  gdy = vy == 0.0 ? Infinity : Math.abs(1.0 / vy);
  gdz = vz == 0.0 ? Infinity : Math.abs(1.0 / vz);
  gAt = a;
  gEnd = b;
}

/** Steps to the next cell; sets cellA, cellB, cellBound. @returns false past the end */
function nextCell(): bool {
  while (gAt < gEnd) {
    const bound = boundOf(gp, gx, gy, gz);
    const t = Math.min(gtx, Math.min(gty, gtz));
    cellA = gAt;
    cellB = Math.min(gEnd, Math.max(t, gAt));
    if (t < gEnd) {
      // a ray that leaves the grid by rounding stays in its last cell
      if (t == gtx) {
        gx += gsx;
        gtx = gx < 0 || gx >= gnx ? Infinity : gtx + gdx;
        gx = gx < 0 ? 0 : gx >= gnx ? gnx - 1 : gx;
      } else if (t == gty) {
        gy += gsy;
        gty = gy < 0 || gy >= gny ? Infinity : gty + gdy;
        gy = gy < 0 ? 0 : gy >= gny ? gny - 1 : gy;
      } else {
        gz += gsz;
        gtz = gz < 0 || gz >= gnz ? Infinity : gtz + gdz;
        gz = gz < 0 ? 0 : gz >= gnz ? gnz - 1 : gz;
      }
    }
    gAt = cellB;
    if (cellB > cellA) {
      cellBound = bound;
      return true;
    }
  }
  return false;
}

/** Bound that a test may hold against the density: that of the cell of a point; 1 without a grid. */
export function boundAt(p: usize, x: f64, y: f64, z: f64): f64 {
  if (word(p, M_GRID) == 0.0) return 1.0;
  startCells(p, x, y, z, 1.0, 0.0, 0.0, 0.0, 1e-9);
  return boundOf(p, gx, gy, gz);
}

// --- one segment

/** Extinction of the thinnest band of medium p that has any, 1/m. */
function leastExtinction(p: usize): f64 {
  const r = word(p, M_SIGMA_T), g = word(p, M_SIGMA_T + 1), b = word(p, M_SIGMA_T + 2);
  let least = Math.max(r, Math.max(g, b));
  if (r > 0.0) least = Math.min(least, r);
  if (g > 0.0) least = Math.min(least, g);
  if (b > 0.0) least = Math.min(least, b);
  return least;
}

/**
 * Collisions, real or not, that one segment may have. Broken air whose bound is so dense that more would be needed
 * counts as opaque: a coefficient of 1e9 must not hold a render up for ever.
 */
const MOST_EVENTS: i32 = 4000;

/** Endless broken air is followed up to this many mean free paths of its bound. */
const FOLLOWED: f64 = 500.0;

/** End of a segment as far as it is worth following, at most `limit`. */
function usefulEnd(s: usize, p: usize, limit: f64): f64 {
  const end = Math.min(load<f64>(s, S_B), limit);
  if (end < Infinity) return end;
  const shape = <i32>word(p, M_PROFILE);
  const total = profileIntegral(shape, load<f64>(s, S_Y), load<f64>(s, S_SLOPE), word(p, M_SCALE), Infinity);
  const least = leastExtinction(p) * load<f64>(s, S_SHARE);
  const depth = Math.min(FOLLOWED / Math.max(least, 1e-12), total * 0.9999999);
  return Math.min(1e15, load<f64>(s, S_A) + profileInverse(shape, load<f64>(s, S_Y), load<f64>(s, S_SLOPE), word(p, M_SCALE), depth));
}

/** ∫ of the profile over `length` metres of a segment from its start. */
// @ts-ignore: decorator
@inline
function profileDepth(s: usize, p: usize, length: f64): f64 {
  return profileIntegral(<i32>word(p, M_PROFILE), load<f64>(s, S_Y), load<f64>(s, S_SLOPE), word(p, M_SCALE), length);
}
// @ts-ignore: decorator
@inline
function profileDistance(s: usize, p: usize, depth: f64): f64 {
  return profileInverse(<i32>word(p, M_PROFILE), load<f64>(s, S_Y), load<f64>(s, S_SLOPE), word(p, M_SCALE), depth);
}

/** ∫ρ dt by the jittered rectangle rule: steps of at most the step size, one common offset. */
function steppedDepth(s: usize, p: usize): f64 {
  const a = load<f64>(s, S_A);
  const length = usefulEnd(s, p, Infinity) - a;
  const n = Math.max(1.0, Math.min(maxSteps, Math.ceil(length / word(p, M_STEP))));
  const step = length / n;
  let t = a + step * random();
  let sum = 0.0;
  // past e^-20 in the thinnest band that is attenuated at all, further steps cannot be told from none
  const enough = 20.0 / (leastExtinction(p) * load<f64>(s, S_SHARE) * step);
  for (let i = 0.0; i < n; i += 1.0) {
    sum += densityAt(p, rx + t * ux, ry + t * uy, rz + t * uz);
    if (sum > enough) break;
    t += step;
  }
  return sum * step;
}

/** Multiplies the transmittance by 1 - ratio per band and plays roulette where little is left. @returns false at nothing */
// @ts-ignore: decorator
@inline
function dim(k: f64, qr: f64, qg: f64, qb: f64): bool {
  tr *= 1.0 - k * qr;
  tg *= 1.0 - k * qg;
  tb *= 1.0 - k * qb;
  const most = Math.max(tr, Math.max(tg, tb));
  if (most >= 0.01) return true;
  // roulette keeps the estimate unbiased
  if (most <= 0.0 || random() >= 0.25) {
    tr = 0.0;
    tg = 0.0;
    tb = 0.0;
    return false;
  }
  tr *= 4.0;
  tg *= 4.0;
  tb *= 4.0;
  return true;
}

function opaque(): bool {
  tr = 0.0;
  tg = 0.0;
  tb = 0.0;
  return false;
}

/** Multiplies the transmittance by that of one segment by ratio tracking. @returns false when nothing is left */
function ratioTrack(s: usize, p: usize): bool {
  const share = load<f64>(s, S_SHARE);
  const er = word(p, M_SIGMA_T), eg = word(p, M_SIGMA_T + 1), eb = word(p, M_SIGMA_T + 2);
  const most = Math.max(er, Math.max(eg, eb));
  const rate = most * share;
  if (!(rate > 0.0)) return true;
  const qr = er / most, qg = eg / most, qb = eb / most;
  const a = load<f64>(s, S_A);
  let events = 0;
  if (load<i32>(s, S_TYPE) == GRIDDED) {
    startCells(p, rx, ry, rz, ux, uy, uz, a, load<f64>(s, S_B));
    let left = -Math.log(1.0 - random());
    while (nextCell()) {
      const m = cellBound;
      if (m <= 0.0) continue;
      let t = cellA;
      while (true) {
        const d = left / (rate * m);
        if (t + d >= cellB) {
          left -= (cellB - t) * rate * m;
          break;
        }
        t += d;
        left = -Math.log(1.0 - random());
        if (++events > MOST_EVENTS) return opaque();
        if (!dim(densityAt(p, rx + t * ux, ry + t * uy, rz + t * uz) / m, qr, qg, qb)) return false;
      }
    }
    return true;
  }
  const total = profileDepth(s, p, usefulEnd(s, p, Infinity) - a);
  let depth = 0.0;
  while (true) {
    depth -= Math.log(1.0 - random()) / rate;
    if (depth >= total) return true;
    const t = a + profileDistance(s, p, depth);
    if (++events > MOST_EVENTS) return opaque();
    if (!dim(factorAt(p, rx + t * ux, ry + t * uy, rz + t * uz), qr, qg, qb)) return false;
  }
}

/**
 * Transmittance of [0, tmax] of a ray of the given kind; sets tr, tg, tb. Closed forms in one exponential,
 * ratio tracking or stepping for the rest.
 */
export function transmit(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64, ray: i32): void {
  tr = 1.0;
  tg = 1.0;
  tb = 1.0;
  if (count == 0) return;
  const list = scratch + LIST_B;
  const n = collect(list, ox, oy, oz, dx, dy, dz, tmax, ray);
  let r = 0.0, g = 0.0, b = 0.0;
  let tracked = false;
  for (let i = 0; i < n; i++) {
    const s = list + <usize>i * SEGMENT;
    const p = <usize>load<u32>(s);
    let depth = 0.0;
    if (load<i32>(s, S_TYPE) == CLOSED) depth = profileDepth(s, p, load<f64>(s, S_B) - load<f64>(s, S_A));
    else if (stepping) depth = steppedDepth(s, p);
    else {
      tracked = true;
      continue;
    }
    if (!(depth > 0.0)) continue;
    const k = depth * load<f64>(s, S_SHARE);
    // a band without extinction keeps everything even over an infinite depth
    if (word(p, M_SIGMA_T) > 0.0) r += k * word(p, M_SIGMA_T);
    if (word(p, M_SIGMA_T + 1) > 0.0) g += k * word(p, M_SIGMA_T + 1);
    if (word(p, M_SIGMA_T + 2) > 0.0) b += k * word(p, M_SIGMA_T + 2);
  }
  if (r > 0.0) tr = Math.exp(-r);
  if (g > 0.0) tg = g == r ? tr : Math.exp(-g);
  if (b > 0.0) tb = b == g ? tg : Math.exp(-b);
  if (!tracked || !(tr + tg + tb > 0.0)) return;
  for (let i = 0; i < n; i++) {
    const s = list + <usize>i * SEGMENT;
    if (load<i32>(s, S_TYPE) != CLOSED && !ratioTrack(s, <usize>load<u32>(s))) return;
  }
}

/** Set by opticalDepth(): per band, of closed forms alone. */
export let depthR: f64 = 0.0;
export let depthG: f64 = 0.0;
export let depthB: f64 = 0.0;

/** Optical depth of [0, tmax] of a shadow ray through the media's closed forms. */
export function opticalDepth(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64): void {
  depthR = 0.0;
  depthG = 0.0;
  depthB = 0.0;
  const list = scratch + LIST_B;
  const n = collect(list, ox, oy, oz, dx, dy, dz, tmax, RAY_SHADOW);
  for (let i = 0; i < n; i++) {
    const s = list + <usize>i * SEGMENT;
    const p = <usize>load<u32>(s);
    const k = Math.min(1e12, profileDepth(s, p, load<f64>(s, S_B) - load<f64>(s, S_A))) * load<f64>(s, S_SHARE);
    depthR += k * word(p, M_SIGMA_T);
    depthG += k * word(p, M_SIGMA_T + 1);
    depthB += k * word(p, M_SIGMA_T + 2);
  }
}

// --- drawing from the camera ray, for single scattering and glow

/** Part of the ray that holds media, set by beginForced(). */
export let segA: f64 = 0.0;
export let segB: f64 = 0.0;
/** Metres over which the ray scatters appreciably, for weighing lights. */
export let reach: f64 = 0.0;
let forcedCount: i32 = 0;
let fox: f64 = 0.0, foy: f64 = 0.0, foz: f64 = 0.0, fdx: f64 = 0.0, fdy: f64 = 0.0, fdz: f64 = 0.0;

/** Prepares drawing distances on [0, tmax] of a camera ray. @returns false where nothing scatters or glows */
export function beginForced(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64, ray: i32): bool {
  if (count == 0) return false;
  const list = scratch + LIST_A;
  forcedCount = collect(list, ox, oy, oz, dx, dy, dz, tmax, ray);
  fox = ox; foy = oy; foz = oz;
  fdx = dx; fdy = dy; fdz = dz;
  let cells = 0;
  let scatterSum = 0.0, glowSum = 0.0;
  segA = Infinity;
  segB = 0.0;
  reach = 0.0;
  for (let i = 0; i < forcedCount; i++) {
    const s = list + <usize>i * SEGMENT;
    const p = <usize>load<u32>(s);
    const share = load<f64>(s, S_SHARE);
    const a = load<f64>(s, S_A);
    let total = 0.0;
    if (load<i32>(s, S_TYPE) == GRIDDED) {
      store<i32>(s, cells, S_CELL);
      startCells(p, ox, oy, oz, dx, dy, dz, a, load<f64>(s, S_B));
      let fits = true;
      while (nextCell()) {
        if (cells >= MOST_CELLS) {
          fits = false;
          break;
        }
        const c = scratch + CELLS + <usize>cells * CELL;
        store<f64>(c, cellB);
        store<f64>(c, cellBound, 8);
        store<f64>(c, total, 16);
        total += (cellB - cellA) * cellBound;
        cells++;
      }
      store<i32>(s, cells - load<i32>(s, S_CELL), S_CELLS);
      if (!fits) {
        cells = load<i32>(s, S_CELL);
        store<i32>(s, UNDER_PROFILE, S_TYPE);
      }
    }
    if (load<i32>(s, S_TYPE) != GRIDDED) total = profileDepth(s, p, load<f64>(s, S_B) - a);
    store<f64>(s, total, S_TOTAL);
    const sr = word(p, M_SIGMA_S), sg = word(p, M_SIGMA_S + 1), sb = word(p, M_SIGMA_S + 2);
    const sum = sr + sg + sb;
    const glow = word(p, M_EMISSION) + word(p, M_EMISSION + 1) + word(p, M_EMISSION + 2);
    let scatters = 0.0, glows = 0.0;
    if (total > 0.0 && (sum > 0.0 || glow > 0.0)) {
      let mean = 0.0;
      for (let k = 0; k < 3; k++) {
        const e = word(p, M_SIGMA_T + k) * share;
        const w = sum > 0.0 ? word(p, M_SIGMA_S + k) / sum : 1.0 / 3.0;
        store<f64>(s + (<usize>k << 3), w, S_BAND);
        const norm = e > 0.0 ? -Math.expm1(-e * total) : 0.0;
        store<f64>(s + (<usize>k << 3), norm, S_NORM);
        // light gained per unit of source strength: (1 - e^-τ) / σt
        const gain = e > 0.0 ? norm / e : Math.min(total, 1e9);
        mean += w * gain;
        scatters += word(p, M_SIGMA_S + k) * share * gain;
        glows += word(p, M_EMISSION + k) * share * gain;
      }
      reach = Math.max(reach, mean);
      segA = Math.min(segA, a);
      segB = Math.max(segB, load<f64>(s, S_B));
    }
    store<f64>(s, scatters, S_PICK);
    store<f64>(s, glows, S_GENTLE);
    scatterSum += scatters;
    glowSum += glows;
  }
  if (!(scatterSum > 0.0) && !(glowSum > 0.0)) return false;
  const both = scatterSum > 0.0 && glowSum > 0.0 ? 0.5 : 1.0;
  for (let i = 0; i < forcedCount; i++) {
    const s = list + <usize>i * SEGMENT;
    let pick = 0.0;
    if (scatterSum > 0.0) pick += (both * load<f64>(s, S_PICK)) / scatterSum;
    if (glowSum > 0.0) pick += (both * load<f64>(s, S_GENTLE)) / glowSum;
    store<f64>(s, pick, S_PICK);
    const total = load<f64>(s, S_TOTAL);
    const p = <usize>load<u32>(s);
    const most = Math.max(word(p, M_SIGMA_T), Math.max(word(p, M_SIGMA_T + 1), word(p, M_SIGMA_T + 2))) * load<f64>(s, S_SHARE);
    store<f64>(s, load<i32>(s, S_TYPE) == CLOSED || (plain & 4) != 0 || !(total > 0.0) ? 0.0 : Math.max(1e-12, Math.min(most, GENTLE_DEPTH / total)), S_GENTLE);
  }
  return true;
}

/**
 * Depth at most, of the bound, by which the second way of drawing fades. The bound may be far thicker than the air in it: drawn
 * by the bound alone, what lies behind would come up ever more rarely with ever larger weights.
 */
const GENTLE_DEPTH: f64 = 1.5;

/** Distance drawn from the mixture over segments and bands of the majorant transmittance densities. */
export function forcedDistance(u: f64, pick: f64): f64 {
  const list = scratch + LIST_A;
  let s = list;
  for (let i = 0; i < forcedCount; i++) {
    const c = load<f64>(list + <usize>i * SEGMENT, S_PICK);
    if (c <= 0.0) continue;
    s = list + <usize>i * SEGMENT;
    if (pick < c) {
      pick /= c;
      break;
    }
    pick -= c;
  }
  const p = <usize>load<u32>(s);
  let band = 2;
  const gentle = load<f64>(s, S_GENTLE);
  const gently = gentle > 0.0 && pick >= 0.5;
  if (gentle > 0.0) pick = gently ? 2.0 * pick - 1.0 : 2.0 * pick;
  if (pick < load<f64>(s, S_BAND)) band = 0;
  else if (pick < load<f64>(s, S_BAND) + load<f64>(s + 8, S_BAND)) band = 1;
  let e = word(p, M_SIGMA_T + band) * load<f64>(s, S_SHARE);
  const total = load<f64>(s, S_TOTAL);
  let norm = load<f64>(s + (<usize>band << 3), S_NORM);
  if (gently) {
    e = gentle;
    norm = -Math.expm1(-e * total);
  }
  let depth = e * total > 1e-9 ? -Math.log1p(-u * norm) / e : u * Math.min(total, 1e9);
  depth = Math.min(depth, total * 0.9999999999);
  const a = load<f64>(s, S_A);
  if (load<i32>(s, S_TYPE) != GRIDDED) return a + profileDistance(s, p, depth);
  let at = a;
  const first = scratch + CELLS + <usize>load<i32>(s, S_CELL) * CELL;
  const n = load<i32>(s, S_CELLS);
  for (let i = 0; i < n; i++) {
    const c = first + <usize>i * CELL;
    const bound = load<f64>(c, 8);
    const end = load<f64>(c);
    const before = load<f64>(c, 16);
    if (bound > 0.0 && depth < before + (end - at) * bound) return at + Math.max(0.0, depth - before) / bound;
    at = end;
  }
  return at;
}

/** Density (1/m) of forcedDistance at distance t from the ray's origin. */
export function forcedPdf(t: f64): f64 {
  const list = scratch + LIST_A;
  let sum = 0.0;
  for (let i = 0; i < forcedCount; i++) {
    const s = list + <usize>i * SEGMENT;
    const pick = load<f64>(s, S_PICK);
    const a = load<f64>(s, S_A);
    if (pick <= 0.0 || t < a || t > load<f64>(s, S_B)) continue;
    const p = <usize>load<u32>(s);
    let depth = 0.0, density = 0.0;
    if (load<i32>(s, S_TYPE) == GRIDDED) {
      const first = scratch + CELLS + <usize>load<i32>(s, S_CELL) * CELL;
      let low = 0, high = load<i32>(s, S_CELLS) - 1;
      while (low < high) {
        const middle = (low + high) >> 1;
        if (load<f64>(first + <usize>middle * CELL) < t) low = middle + 1;
        else high = middle;
      }
      const c = first + <usize>low * CELL;
      density = load<f64>(c, 8);
      const from = low > 0 ? load<f64>(c - CELL) : a;
      depth = load<f64>(c, 16) + (t - from) * density;
    } else {
      depth = profileDepth(s, p, t - a);
      density = profileDensity(
        <i32>word(p, M_PROFILE), load<f64>(s, S_Y) + load<f64>(s, S_SLOPE) * (t - a), word(p, M_SCALE),
      );
    }
    const total = load<f64>(s, S_TOTAL);
    let q = 0.0;
    for (let k = 0; k < 3; k++) {
      const w = load<f64>(s + (<usize>k << 3), S_BAND);
      if (w <= 0.0) continue;
      const e = word(p, M_SIGMA_T + k) * load<f64>(s, S_SHARE);
      if (e * total > 1e-9) q += (w * e * Math.exp(-e * depth)) / load<f64>(s + (<usize>k << 3), S_NORM);
      else q += w / Math.min(total, 1e9);
    }
    const gentle = load<f64>(s, S_GENTLE);
    if (gentle > 0.0)
      q = 0.5 * q + 0.5 * (gentle * total > 1e-9 ? (gentle * Math.exp(-gentle * depth)) / -Math.expm1(-gentle * total) : 1.0 / Math.min(total, 1e9));
    sum += pick * density * q;
  }
  return sum;
}

// --- the same ray without randomness, a segment at a time

/** Segments of the ray being drawn from. */
export function forcedSegments(): i32 { return forcedCount; }

/** Chance of drawing from segment i. */
export function forcedPick(i: i32): f64 { return load<f64>(scratch + LIST_A + <usize>i * SEGMENT, S_PICK); }

/** Transmittance of [0, t] of a ray that has one segment alone, in closed form; sets tr, tg, tb. */
export function transmitAlone(t: f64): void {
  const s = scratch + LIST_A;
  const p = <usize>load<u32>(s);
  const k = profileDepth(s, p, Math.max(0.0, t - load<f64>(s, S_A))) * load<f64>(s, S_SHARE);
  const r = word(p, M_SIGMA_T), g = word(p, M_SIGMA_T + 1), b = word(p, M_SIGMA_T + 2);
  tr = Math.exp(-r * k);
  tg = g == r ? tr : Math.exp(-g * k);
  tb = b == g ? tg : Math.exp(-b * k);
}

/** Band of segment s that scatters most. */
function leadOf(s: usize): i32 {
  const r = load<f64>(s, S_BAND), g = load<f64>(s + 8, S_BAND), b = load<f64>(s + 16, S_BAND);
  return g >= r && g >= b ? 1 : r >= b ? 0 : 2;
}

/** Distance in segment i at which a share u of what its leading band can scatter lies behind; negative where nothing scatters. */
export function forcedAt(i: i32, u: f64): f64 {
  const s = scratch + LIST_A + <usize>i * SEGMENT;
  if (load<f64>(s, S_PICK) <= 0.0) return -1.0;
  const p = <usize>load<u32>(s);
  const band = leadOf(s);
  const e = word(p, M_SIGMA_T + band) * load<f64>(s, S_SHARE);
  const total = load<f64>(s, S_TOTAL);
  const depth = e * total > 1e-9 ? -Math.log1p(-u * load<f64>(s + (<usize>band << 3), S_NORM)) / e : u * Math.min(total, 1e9);
  return load<f64>(s, S_A) + profileDistance(s, p, Math.min(depth, total * 0.9999999999));
}

/** Share of u a metre at distance t of segment i: what forcedAt() stretches by. */
export function forcedSlope(i: i32, t: f64): f64 {
  const s = scratch + LIST_A + <usize>i * SEGMENT;
  const p = <usize>load<u32>(s);
  const band = leadOf(s);
  const along = t - load<f64>(s, S_A);
  const density = profileDensity(<i32>word(p, M_PROFILE), load<f64>(s, S_Y) + load<f64>(s, S_SLOPE) * along, word(p, M_SCALE));
  const e = word(p, M_SIGMA_T + band) * load<f64>(s, S_SHARE);
  const total = load<f64>(s, S_TOTAL);
  if (!(e * total > 1e-9)) return density / Math.min(total, 1e9);
  return (density * e * Math.exp(-e * profileDepth(s, p, along))) / load<f64>(s + (<usize>band << 3), S_NORM);
}

/** Makes the medium of segment i the only scatterer at distance t. @returns whether it scatters there */
export function scattererOfSegment(i: i32, t: f64): bool {
  const s = scratch + LIST_A + <usize>i * SEGMENT;
  const p = <usize>load<u32>(s);
  pointCount = 0;
  const k = load<f64>(s, S_SHARE) * densityAt(p, fox + t * fdx, foy + t * fdy, foz + t * fdz);
  heatAt(p, fox + t * fdx, foy + t * fdy, foz + t * fdz);
  glowR = k * word(p, M_EMISSION) * heatR;
  glowG = k * word(p, M_EMISSION + 1) * heatG;
  glowB = k * word(p, M_EMISSION + 2) * heatB;
  if (k > 0.0) addScatterer(p, k * word(p, M_SIGMA_S), k * word(p, M_SIGMA_S + 1), k * word(p, M_SIGMA_S + 2));
  return pointCount > 0;
}

// --- what scatters at a point

const POINT: usize = 32;
/** Media that scatter at the point last looked at. */
export let pointCount: i32 = 0;
/** Luminance gained per metre there, per band. */
export let glowR: f64 = 0.0;
export let glowG: f64 = 0.0;
export let glowB: f64 = 0.0;

/** Looks up the media at distance t of the camera ray being drawn from. @returns whether anything scatters there */
export function scatterersAt(t: f64): bool {
  const list = scratch + LIST_A;
  pointCount = 0;
  glowR = 0.0;
  glowG = 0.0;
  glowB = 0.0;
  const x = fox + t * fdx, y = foy + t * fdy, z = foz + t * fdz;
  for (let i = 0; i < forcedCount; i++) {
    const s = list + <usize>i * SEGMENT;
    if (load<f64>(s, S_PICK) <= 0.0 || t < load<f64>(s, S_A) || t > load<f64>(s, S_B)) continue;
    const p = <usize>load<u32>(s);
    const k = load<f64>(s, S_SHARE) * densityAt(p, x, y, z);
    if (!(k > 0.0)) continue;
    heatAt(p, x, y, z);
    glowR += k * word(p, M_EMISSION) * heatR;
    glowG += k * word(p, M_EMISSION + 1) * heatG;
    glowB += k * word(p, M_EMISSION + 2) * heatB;
    addScatterer(p, k * word(p, M_SIGMA_S), k * word(p, M_SIGMA_S + 1), k * word(p, M_SIGMA_S + 2));
  }
  return pointCount > 0;
}

// @ts-ignore: decorator
@inline
function addScatterer(p: usize, r: f64, g: f64, b: f64): void {
  if (!(r + g + b > 0.0)) return;
  const at = scratch + POINTS + <usize>pointCount * POINT;
  store<u32>(at, <u32>p);
  store<f64>(at, r, 8);
  store<f64>(at, g, 16);
  store<f64>(at, b, 24);
  pointCount++;
}

/** Makes the medium of the last collision the only scatterer, with weight 1: its coefficient is in the path's weight already. */
export function scattererOfCollision(): void {
  pointCount = 0;
  addScatterer(colMedium, 1.0, 1.0, 1.0);
}

// @ts-ignore: decorator
@inline
export function scatterer(i: i32): usize { return <usize>load<u32>(scratch + POINTS + <usize>i * POINT); }
// @ts-ignore: decorator
@inline
export function scattererWeight(i: i32, band: i32): f64 { return load<f64>(scratch + POINTS + <usize>i * POINT + (<usize>band << 3), 8); }

// --- collisions of random walks

/** Set by firstCollision(): null collisions passed and ∫ of the bound, up to the collision or the limit. */
let nulls: f64 = 0.0;
let bounded: f64 = 0.0;

/**
 * Distance of the first real collision of one segment before `limit` under the rate of band `lead`;
 * Infinity where there is none.
 */
function firstCollision(s: usize, p: usize, lead: i32, limit: f64): f64 {
  nulls = 0.0;
  bounded = 0.0;
  const rate = word(p, M_SIGMA_T + lead) * load<f64>(s, S_SHARE);
  const a = load<f64>(s, S_A);
  const end = usefulEnd(s, p, limit);
  if (end <= a) return Infinity;
  const type = load<i32>(s, S_TYPE);
  if (type == CLOSED) {
    bounded = profileDepth(s, p, end - a);
    if (rate <= 0.0) return Infinity;
    const depth = -Math.log(1.0 - random()) / rate;
    if (depth >= bounded) return Infinity;
    bounded = depth;
    return a + profileDistance(s, p, depth);
  }
  if (stepping) {
    const length = end - a;
    const n = Math.max(1.0, Math.min(maxSteps, Math.ceil(length / word(p, M_STEP))));
    const step = length / n;
    const target = rate > 0.0 ? -Math.log(1.0 - random()) / rate : Infinity;
    const offset = random();
    for (let i = 0.0; i < n; i += 1.0) {
      const t = a + (i + offset) * step;
      const rho = densityAt(p, rx + t * ux, ry + t * uy, rz + t * uz);
      if (bounded + rho * step >= target) {
        const at = a + (i + (target - bounded) / (rho * step)) * step;
        bounded = target;
        return at;
      }
      bounded += rho * step;
    }
    return Infinity;
  }
  if (type == GRIDDED) {
    startCells(p, rx, ry, rz, ux, uy, uz, a, end);
    let left = rate > 0.0 ? -Math.log(1.0 - random()) : Infinity;
    while (nextCell()) {
      const m = cellBound;
      if (m <= 0.0) continue;
      let t = cellA;
      while (true) {
        const d = rate > 0.0 ? left / (rate * m) : Infinity;
        if (t + d >= cellB) {
          left -= (cellB - t) * rate * m;
          bounded += (cellB - t) * m;
          break;
        }
        t += d;
        bounded += d * m;
        if (random() * m < densityAt(p, rx + t * ux, ry + t * uy, rz + t * uz) || nulls > <f64>MOST_EVENTS) return t;
        nulls += 1.0;
        left = -Math.log(1.0 - random());
      }
    }
    return Infinity;
  }
  const total = profileDepth(s, p, end - a);
  if (rate <= 0.0) {
    bounded = total;
    return Infinity;
  }
  while (true) {
    const next = bounded - Math.log(1.0 - random()) / rate;
    if (next >= total) break;
    bounded = next;
    const t = a + profileDistance(s, p, bounded);
    if (random() < factorAt(p, rx + t * ux, ry + t * uy, rz + t * uz) || nulls > <f64>MOST_EVENTS) return t;
    nulls += 1.0;
  }
  bounded = total;
  return Infinity;
}

// logarithms of each band's density of the events of a path
let logR: f64 = 0.0, logG: f64 = 0.0, logB: f64 = 0.0;

/** Adds a segment's null collisions and bound depth to the bands' densities. */
function account(s: usize, p: usize): void {
  const er = word(p, M_SIGMA_T), eg = word(p, M_SIGMA_T + 1), eb = word(p, M_SIGMA_T + 2);
  const most = Math.max(er, Math.max(eg, eb));
  const k = bounded * load<f64>(s, S_SHARE);
  if (k > 0.0) {
    if (er > 0.0) logR -= er * k;
    if (eg > 0.0) logG -= eg * k;
    if (eb > 0.0) logB -= eb * k;
  }
  if (nulls > 0.0) {
    logR += nulls * Math.log(er / most);
    logG += nulls * Math.log(eg / most);
    logB += nulls * Math.log(eb / most);
  }
}

/**
 * Draws a collision on [0, tmax] for a path of throughput (br, bg, bb): one band leads, all bands are
 * weighted by the balance heuristic over which band might have led. Sets colT, colMedium and the weights.
 * @returns true for a scattering at colT, false where the ray passes
 */
export function sampleCollision(
  ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64, br: f64, bg: f64, bb: f64, ray: i32,
): bool {
  colR = 1.0;
  colG = 1.0;
  colB = 1.0;
  if (count == 0) return false;
  const list = scratch + LIST_B;
  const n = collect(list, ox, oy, oz, dx, dy, dz, tmax, ray);
  if (n == 0) return false;
  const sum = br + bg + bb;
  if (!(sum > 0.0)) return false;
  const qr = br / sum, qg = bg / sum, qb = bb / sum;
  const pick = random();
  const lead = pick < qr ? 0 : pick < qr + qg ? 1 : 2;
  let best = Infinity;
  let winner: usize = 0;
  for (let i = 0; i < n; i++) {
    const s = list + <usize>i * SEGMENT;
    if (load<f64>(s, S_A) >= best) continue;
    // where a nearer collision turns up later, the walk up to it can be repeated from here
    store<u32>(s, randomState(), S_CELL);
    const t = firstCollision(s, <usize>load<u32>(s), lead, Math.min(best, tmax));
    store<f64>(s, nulls, S_BAND);
    store<f64>(s, bounded, S_NORM);
    store<f64>(s, Math.min(t, Math.min(best, tmax)), S_TOTAL);
    if (t < best) {
      best = t;
      winner = s;
    }
  }
  logR = 0.0;
  logG = 0.0;
  logB = 0.0;
  if (chromatic) {
    const after = randomState();
    for (let i = 0; i < n; i++) {
      const s = list + <usize>i * SEGMENT;
      if (load<f64>(s, S_A) >= best) continue;
      const p = <usize>load<u32>(s);
      if (load<f64>(s, S_TOTAL) > best) {
        if (load<i32>(s, S_TYPE) == CLOSED) {
          nulls = 0.0;
          bounded = profileDepth(s, p, Math.min(load<f64>(s, S_B), best) - load<f64>(s, S_A));
        } else {
          setRandomState(load<u32>(s, S_CELL));
          firstCollision(s, p, lead, best);
        }
      } else {
        nulls = load<f64>(s, S_BAND);
        bounded = load<f64>(s, S_NORM);
      }
      account(s, p);
    }
    setRandomState(after);
    // only their ratios matter: relative to the largest, so that deep media do not underflow
    const most = Math.max(logR, Math.max(logG, logB));
    logR = Math.exp(logR - most);
    logG = Math.exp(logG - most);
    logB = Math.exp(logB - most);
  } else {
    logR = 1.0;
    logG = 1.0;
    logB = 1.0;
  }
  if (winner != 0) {
    const p = <usize>load<u32>(winner);
    colT = best;
    colMedium = p;
    const w = qr * word(p, M_SIGMA_T) * logR + qg * word(p, M_SIGMA_T + 1) * logG + qb * word(p, M_SIGMA_T + 2) * logB;
    if (!(w > 0.0)) {
      colR = 0.0;
      colG = 0.0;
      colB = 0.0;
      return true;
    }
    colR = (word(p, M_SIGMA_S) * logR) / w;
    colG = (word(p, M_SIGMA_S + 1) * logG) / w;
    colB = (word(p, M_SIGMA_S + 2) * logB) / w;
    return true;
  }
  const w = 1.0 / (qr * logR + qg * logG + qb * logB);
  colR = logR * w;
  colG = logG * w;
  colB = logB * w;
  return false;
}
