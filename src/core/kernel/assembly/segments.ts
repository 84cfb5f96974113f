/** The media along a ray, as segments of it. Lists of them lie in the worker's scratch. */
import { ENDLESS, MAX_UNIT, MIN_EXTINCTION, PARALLEL } from "./precision";
import { MAX_SEGMENTS, SEGMENT_BYTES } from "../../layout/scratch";
import { ESTIMATOR_STEPPING } from "../../layout/kinds";
import { REGION_EVERYWHERE, REGION_LAYER, REGION_MESH } from "../../layout/kinds";
import {
  P_MEDIA,
  P_ESTIMATOR,
  P_MAX_STEPS,
  M_FACTOR,
  M_SIGMA_T,
  M_REGION,
  M_HEIGHT,
  M_HEIGHT_SCALE,
  M_HEIGHT_UP,
  M_VOLUME,
  M_SEEN,
  M_MAJORANT,
  M_MAJORANT_CELLS,
  M_MAJORANT_LOW,
  M_MAJORANT_SCALE,
} from "../../layout/layout";
import { profileIntegral, profileInverse } from "../../optics/profile";
import { paramInt, ablation, word, wordInt } from "./state";
import { clip, clipA, clipB, meshIntervals, intervalStart, intervalEnd } from "./region";
import { mediumAt, veiling, prepareDensity, heightOf } from "./density";

export let mediumCount: i32 = 0;
export let stepping: bool = false;
export let maxSteps: f64 = 1024.0;
/** Whether any medium treats the bands differently: else one band speaks for all. */
export let chromatic: bool = false;

// --- a segment: the part of a ray inside one medium
export const S_TYPE: usize = 4;
export const S_A: usize = 8;
export const S_B: usize = 16;
export const S_Y: usize = 24; // height above the medium's level at A
export const S_SLOPE: usize = 32;
export const S_SHARE: usize = 40;
export const S_TOTAL: usize = 48; // ∫ of the majorant density
export const S_PICK: usize = 56; // chance of drawing from this segment
export const S_BAND: usize = 64; // share of each band in its mixture
export const S_NORM: usize = 88; // 1 - exp(-σt · total) per band
export const S_CELL: usize = 112;
/** Rate of the second way of drawing from broken air; 0 where there is none. */
export const S_GENTLE: usize = 120;
export const S_CELLS: usize = 116;

export const CLOSED: i32 = 0;
export const UNDER_PROFILE: i32 = 1;
export const GRIDDED: i32 = 2;

/** Reads the media from the parameters; `on` false leaves clear air. */
export function prepareMedia(on: bool): void {
  mediumCount = on ? paramInt(P_MEDIA) : 0;
  prepareDensity();
  stepping = paramInt(P_ESTIMATOR) == ESTIMATOR_STEPPING && !veiling;
  maxSteps = <f64>paramInt(P_MAX_STEPS);
  chromatic = false;
  for (let m = 0; m < mediumCount; m++) {
    const p = mediumAt(m);
    const e = word(p, M_SIGMA_T);
    if (word(p, M_SIGMA_T + 1) != e || word(p, M_SIGMA_T + 2) != e) chromatic = true;
  }
}

// the ray of the list last collected, as the lists' functions need it
export let rx: f64 = 0.0;
export let ry: f64 = 0.0;
export let rz: f64 = 0.0;
export let ux: f64 = 0.0;
export let uy: f64 = 0.0;
export let uz: f64 = 0.0;

function push(list: usize, n: i32, p: usize, a: f64, b: f64, share: f64, type: i32): i32 {
  if (n >= MAX_SEGMENTS || !(b > a)) return n;
  const s = list + <usize>n * SEGMENT_BYTES;
  store<u32>(s, <u32>p);
  store<i32>(s, type, S_TYPE);
  store<f64>(s, a, S_A);
  store<f64>(s, b, S_B);
  store<f64>(
    s,
    heightOf(p, rx, ry, rz) + a * (ux * word(p, M_HEIGHT_UP) + uy * word(p, M_HEIGHT_UP + 1) + uz * word(p, M_HEIGHT_UP + 2)),
    S_Y,
  );
  store<f64>(s, ux * word(p, M_HEIGHT_UP) + uy * word(p, M_HEIGHT_UP + 1) + uz * word(p, M_HEIGHT_UP + 2), S_SLOPE);
  store<f64>(s, share, S_SHARE);
  return n + 1;
}

/** Adds the part [a, b] of the ray in medium p, cut where its coarse grid begins and ends. */
function add(list: usize, n: i32, p: usize, a: f64, b: f64, share: f64): i32 {
  if (wordInt(p, M_FACTOR) == 0 || veiling) return push(list, n, p, a, b, share, CLOSED);
  if (wordInt(p, M_MAJORANT) == 0 || stepping || (ablation & 4) != 0) return push(list, n, p, a, b, share, UNDER_PROFILE);
  const kind = wordInt(p, M_REGION);
  if (kind != REGION_EVERYWHERE && kind != REGION_LAYER) return push(list, n, p, a, b, share, GRIDDED);
  let c = a,
    d = b;
  for (let axis = 0; axis < 3; axis++) {
    const low = word(p, M_MAJORANT_LOW + axis);
    const high = low + <f64>wordInt(p, M_MAJORANT_CELLS + axis) / word(p, M_MAJORANT_SCALE + axis);
    const o = axis == 0 ? rx : axis == 1 ? ry : rz;
    const u = axis == 0 ? ux : axis == 1 ? uy : uz;
    if (Math.abs(u) < PARALLEL) {
      if (o < low || o > high) return push(list, n, p, a, b, share, UNDER_PROFILE);
      continue;
    }
    const s = (low - o) / u,
      t = (high - o) / u;
    c = Math.max(c, Math.min(s, t));
    d = Math.min(d, Math.max(s, t));
  }
  if (!(d > c)) return push(list, n, p, a, b, share, UNDER_PROFILE);
  n = push(list, n, p, a, c, share, UNDER_PROFILE);
  n = push(list, n, p, c, d, share, GRIDDED);
  return push(list, n, p, d, b, share, UNDER_PROFILE);
}

/** Fills a list with the segments of [0, tmax] of a ray of the given kind. @returns how many */
export function collect(list: usize, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64, ray: i32): i32 {
  rx = ox;
  ry = oy;
  rz = oz;
  ux = dx;
  uy = dy;
  uz = dz;
  let n = 0;
  for (let m = 0; m < mediumCount; m++) {
    const p = mediumAt(m);
    const share = word(p, M_SEEN + ray);
    // the level veil knows no grids
    if (share <= 0.0 || (veiling && wordInt(p, M_VOLUME) != 0)) continue;
    if (wordInt(p, M_REGION) == REGION_MESH) {
      const k = meshIntervals(p, ox, oy, oz, dx, dy, dz, tmax);
      for (let i = 0; i < k; i++) n = add(list, n, p, intervalStart(i), intervalEnd(i), share);
    } else if (clip(p, ox, oy, oz, dx, dy, dz, tmax)) n = add(list, n, p, clipA, clipB, share);
  }
  return n;
}

/** Extinction of the thinnest band of medium p that has any, 1/m. */
export function minExtinction(p: usize): f64 {
  const r = word(p, M_SIGMA_T),
    g = word(p, M_SIGMA_T + 1),
    b = word(p, M_SIGMA_T + 2);
  let lowest = Math.max(r, Math.max(g, b));
  if (r > 0.0) lowest = Math.min(lowest, r);
  if (g > 0.0) lowest = Math.min(lowest, g);
  if (b > 0.0) lowest = Math.min(lowest, b);
  return lowest;
}

/**
 * Collisions, real or not, that one segment may have. Broken air whose bound is so dense that more would be needed
 * counts as opaque: a coefficient of 1e9 must not hold a render up for ever.
 */
export const MAX_EVENTS: i32 = 4000;

/** Endless broken air is followed up to this many mean free paths of its bound. */
const FOLLOWED: f64 = 500.0;

/** End of a segment as far as it is worth following, at most `limit`. */
export function usefulEnd(s: usize, p: usize, limit: f64): f64 {
  const end = Math.min(load<f64>(s, S_B), limit);
  if (end < Infinity) return end;
  const shape = wordInt(p, M_HEIGHT);
  const total = profileIntegral(shape, load<f64>(s, S_Y), load<f64>(s, S_SLOPE), word(p, M_HEIGHT_SCALE), Infinity);
  const lowest = minExtinction(p) * load<f64>(s, S_SHARE);
  const depth = Math.min(FOLLOWED / Math.max(lowest, MIN_EXTINCTION), total * MAX_UNIT);
  return Math.min(
    ENDLESS,
    load<f64>(s, S_A) + profileInverse(shape, load<f64>(s, S_Y), load<f64>(s, S_SLOPE), word(p, M_HEIGHT_SCALE), depth),
  );
}

/** ∫ of the profile over `length` metres of a segment from its start. */
// @ts-ignore: decorator
@inline
export function profileDepth(s: usize, p: usize, length: f64): f64 {
  return profileIntegral(wordInt(p, M_HEIGHT), load<f64>(s, S_Y), load<f64>(s, S_SLOPE), word(p, M_HEIGHT_SCALE), length);
}
/** Distance (m) into a segment at which the optical depth of its height profile is `depth`. */
// @ts-ignore: decorator
@inline
export function profileDistance(s: usize, p: usize, depth: f64): f64 {
  return profileInverse(wordInt(p, M_HEIGHT), load<f64>(s, S_Y), load<f64>(s, S_SLOPE), word(p, M_HEIGHT_SCALE), depth);
}
