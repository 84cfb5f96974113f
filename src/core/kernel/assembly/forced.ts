/** Drawing distances on the camera ray, for single scattering and glow. */
import { MAX_DEPTH, MIN_EXTINCTION, THIN } from "./precision";
import { SCRATCH_LIST_A, SEGMENT_BYTES } from "../../layout/scratch";
import { CELL_BYTES, MAX_CELLS, SCRATCH_CELLS } from "../../layout/scratch";
import { M_SIGMA_S, M_SIGMA_T, M_EMISSION, M_HEIGHT, M_HEIGHT_SCALE } from "../../layout/layout";
import { profileDensity } from "../../optics/profile";
import { afterMedium, atMedium } from "./activity";
import { ablation, scratch, word, wordInt } from "./state";
import { temperatureAt, temperatureR, temperatureG, temperatureB } from "./temperature";
import { tintAt, tintR, tintG, tintB } from "./tint";
import { densityAt } from "./density";
import { cellA, cellB, cellMajorant, startCells, nextCell } from "./majorants";
import {
  mediumCount,
  S_TYPE,
  S_A,
  S_B,
  S_Y,
  S_SLOPE,
  S_SHARE,
  S_TOTAL,
  S_PICK,
  S_BAND,
  S_NORM,
  S_CELL,
  S_GENTLE,
  S_CELLS,
  CLOSED,
  UNDER_PROFILE,
  GRIDDED,
  collect,
  profileDepth,
  profileDistance,
} from "./segments";
import { scattererCount, clearScatterers, addScatterer } from "./scatterers";
import { phaseOf } from "./phase";

/** Part of the ray that holds media, set by beginForced(). */
export let segA: f64 = 0.0;
export let segB: f64 = 0.0;
/** Metres over which the ray scatters appreciably, for weighing lights. */
export let reach: f64 = 0.0;
/** Counts the rays prepared: what was made for one of them holds while this stays. */
export let forcedRay: u32 = 0;
let forcedCount: i32 = 0;
let fox: f64 = 0.0,
  foy: f64 = 0.0,
  foz: f64 = 0.0,
  fdx: f64 = 0.0,
  fdy: f64 = 0.0,
  fdz: f64 = 0.0;

/** Prepares drawing distances on [0, tmax] of a camera ray. @returns false where nothing scatters or glows */
export function beginForced(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64, ray: i32): bool {
  if (mediumCount == 0) return false;
  const list = scratch + SCRATCH_LIST_A;
  forcedRay++;
  forcedCount = collect(list, ox, oy, oz, dx, dy, dz, tmax, ray);
  fox = ox;
  foy = oy;
  foz = oz;
  fdx = dx;
  fdy = dy;
  fdz = dz;
  let cells = 0;
  let scatterSum = 0.0,
    glowSum = 0.0;
  segA = Infinity;
  segB = 0.0;
  reach = 0.0;
  for (let i = 0; i < forcedCount; i++) {
    const s = list + <usize>i * SEGMENT_BYTES;
    const p = <usize>load<u32>(s);
    atMedium(p);
    const share = load<f64>(s, S_SHARE);
    const a = load<f64>(s, S_A);
    let total = 0.0;
    if (load<i32>(s, S_TYPE) == GRIDDED) {
      store<i32>(s, cells, S_CELL);
      startCells(p, ox, oy, oz, dx, dy, dz, a, load<f64>(s, S_B));
      let fits = true;
      while (nextCell()) {
        if (cells >= MAX_CELLS) {
          fits = false;
          break;
        }
        const c = scratch + SCRATCH_CELLS + <usize>cells * CELL_BYTES;
        store<f64>(c, cellB);
        store<f64>(c, cellMajorant, 8);
        store<f64>(c, total, 16);
        total += (cellB - cellA) * cellMajorant;
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
    const sr = word(p, M_SIGMA_S),
      sg = word(p, M_SIGMA_S + 1),
      sb = word(p, M_SIGMA_S + 2);
    const sum = sr + sg + sb;
    const glow = word(p, M_EMISSION) + word(p, M_EMISSION + 1) + word(p, M_EMISSION + 2);
    let scatters = 0.0,
      emits = 0.0;
    if (total > 0.0 && (sum > 0.0 || glow > 0.0)) {
      let mean = 0.0;
      let norm = 0.0,
        known = NaN;
      for (let k = 0; k < 3; k++) {
        const e = word(p, M_SIGMA_T + k) * share;
        const w = sum > 0.0 ? word(p, M_SIGMA_S + k) / sum : 1.0 / 3.0;
        store<f64>(s + ((<usize>k) << 3), w, S_BAND);
        // most air treats its bands alike
        if (e != known) norm = e > 0.0 ? -Math.expm1(-e * total) : 0.0;
        known = e;
        store<f64>(s + ((<usize>k) << 3), norm, S_NORM);
        // light gained per unit of source strength: (1 - e^-τ) / σt
        const gain = e > 0.0 ? norm / e : Math.min(total, MAX_DEPTH);
        mean += w * gain;
        scatters += word(p, M_SIGMA_S + k) * share * gain;
        emits += word(p, M_EMISSION + k) * share * gain;
      }
      reach = Math.max(reach, mean);
      segA = Math.min(segA, a);
      segB = Math.max(segB, load<f64>(s, S_B));
    }
    store<f64>(s, scatters, S_PICK);
    store<f64>(s, emits, S_GENTLE);
    scatterSum += scatters;
    glowSum += emits;
  }
  afterMedium();
  if (!(scatterSum > 0.0) && !(glowSum > 0.0)) return false;
  const both = scatterSum > 0.0 && glowSum > 0.0 ? 0.5 : 1.0;
  for (let i = 0; i < forcedCount; i++) {
    const s = list + <usize>i * SEGMENT_BYTES;
    let pick = 0.0;
    if (scatterSum > 0.0) pick += (both * load<f64>(s, S_PICK)) / scatterSum;
    if (glowSum > 0.0) pick += (both * load<f64>(s, S_GENTLE)) / glowSum;
    store<f64>(s, pick, S_PICK);
    const total = load<f64>(s, S_TOTAL);
    const p = <usize>load<u32>(s);
    const highest = Math.max(word(p, M_SIGMA_T), Math.max(word(p, M_SIGMA_T + 1), word(p, M_SIGMA_T + 2))) * load<f64>(s, S_SHARE);
    store<f64>(
      s,
      load<i32>(s, S_TYPE) == CLOSED || (ablation & 4) != 0 || !(total > 0.0)
        ? 0.0
        : Math.max(MIN_EXTINCTION, Math.min(highest, GENTLE_DEPTH / total)),
      S_GENTLE,
    );
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
  const list = scratch + SCRATCH_LIST_A;
  let s = list;
  for (let i = 0; i < forcedCount; i++) {
    const c = load<f64>(list + <usize>i * SEGMENT_BYTES, S_PICK);
    if (c <= 0.0) continue;
    s = list + <usize>i * SEGMENT_BYTES;
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
  let norm = load<f64>(s + ((<usize>band) << 3), S_NORM);
  if (gently) {
    e = gentle;
    norm = -Math.expm1(-e * total);
  }
  let depth = e * total > THIN ? -Math.log1p(-u * norm) / e : u * Math.min(total, MAX_DEPTH);
  depth = Math.min(depth, total * 0.9999999999);
  const a = load<f64>(s, S_A);
  if (load<i32>(s, S_TYPE) != GRIDDED) return a + profileDistance(s, p, depth);
  let at = a;
  const first = scratch + SCRATCH_CELLS + <usize>load<i32>(s, S_CELL) * CELL_BYTES;
  const n = load<i32>(s, S_CELLS);
  for (let i = 0; i < n; i++) {
    const c = first + <usize>i * CELL_BYTES;
    const majorant = load<f64>(c, 8);
    const end = load<f64>(c);
    const before = load<f64>(c, 16);
    if (majorant > 0.0 && depth < before + (end - at) * majorant) return at + Math.max(0.0, depth - before) / majorant;
    at = end;
  }
  return at;
}

/** Density (1/m) of forcedDistance at distance t from the ray's origin. */
export function forcedPdf(t: f64): f64 {
  const list = scratch + SCRATCH_LIST_A;
  let sum = 0.0;
  for (let i = 0; i < forcedCount; i++) {
    const s = list + <usize>i * SEGMENT_BYTES;
    const pick = load<f64>(s, S_PICK);
    const a = load<f64>(s, S_A);
    if (pick <= 0.0 || t < a || t > load<f64>(s, S_B)) continue;
    const p = <usize>load<u32>(s);
    let depth = 0.0,
      density = 0.0;
    if (load<i32>(s, S_TYPE) == GRIDDED) {
      const first = scratch + SCRATCH_CELLS + <usize>load<i32>(s, S_CELL) * CELL_BYTES;
      let low = 0,
        high = load<i32>(s, S_CELLS) - 1;
      while (low < high) {
        const middle = (low + high) >> 1;
        if (load<f64>(first + <usize>middle * CELL_BYTES) < t) low = middle + 1;
        else high = middle;
      }
      const c = first + <usize>low * CELL_BYTES;
      density = load<f64>(c, 8);
      const from = low > 0 ? load<f64>(c - CELL_BYTES) : a;
      depth = load<f64>(c, 16) + (t - from) * density;
    } else {
      depth = profileDepth(s, p, t - a);
      density = profileDensity(wordInt(p, M_HEIGHT), load<f64>(s, S_Y) + load<f64>(s, S_SLOPE) * (t - a), word(p, M_HEIGHT_SCALE));
    }
    const total = load<f64>(s, S_TOTAL);
    let q = 0.0,
      one = 0.0,
      known = NaN;
    for (let k = 0; k < 3; k++) {
      const w = load<f64>(s + ((<usize>k) << 3), S_BAND);
      if (w <= 0.0) continue;
      const e = word(p, M_SIGMA_T + k) * load<f64>(s, S_SHARE);
      // most air treats its bands alike
      if (e != known)
        one = e * total > THIN ? (e * Math.exp(-e * depth)) / load<f64>(s + ((<usize>k) << 3), S_NORM) : 1.0 / Math.min(total, MAX_DEPTH);
      known = e;
      q += w * one;
    }
    const gentle = load<f64>(s, S_GENTLE);
    if (gentle > 0.0)
      q =
        0.5 * q +
        0.5 *
          (gentle * total > THIN ? (gentle * Math.exp(-gentle * depth)) / -Math.expm1(-gentle * total) : 1.0 / Math.min(total, MAX_DEPTH));
    sum += pick * density * q;
  }
  return sum;
}

// --- the same ray without randomness, a segment at a time

/** Segments of the ray being drawn from. */
export function forcedSegments(): i32 {
  return forcedCount;
}

/** Chance of drawing from segment i. */
export function forcedPick(i: i32): f64 {
  return load<f64>(scratch + SCRATCH_LIST_A + <usize>i * SEGMENT_BYTES, S_PICK);
}

/** Whether segment i has a closed form, and where it begins. */
export function forcedClosed(i: i32): bool {
  return load<i32>(scratch + SCRATCH_LIST_A + <usize>i * SEGMENT_BYTES, S_TYPE) == CLOSED;
}
/** Distance at which segment i begins. */
export function forcedBegin(i: i32): f64 {
  return load<f64>(scratch + SCRATCH_LIST_A + <usize>i * SEGMENT_BYTES, S_A);
}

/** Share of a ray's scattered light below which a medium has no say in where to look for it. */
const LEAST_SAY: f64 = 0.1;

/** Phase function (1/sr) of the ray's media by what each scatters towards the lens: enough to weigh one light against others. */
export function phaseOfRay(cos: f64): f64 {
  let sum = 0.0;
  for (let i = 0; i < forcedCount; i++) {
    const s = scratch + SCRATCH_LIST_A + <usize>i * SEGMENT_BYTES;
    const pick = load<f64>(s, S_PICK);
    if (pick > 0.0) sum += pick * phaseOf(<usize>load<u32>(s), cos);
  }
  return sum;
}

/** Phase function times scattering coefficient, over the media that fill [a, b] of the ray by how much of it they fill: about that. */
export function scatterOfPart(a: f64, b: f64, cos: f64): f64 {
  let sum = 0.0;
  for (let i = 0; i < forcedCount; i++) {
    const s = scratch + SCRATCH_LIST_A + <usize>i * SEGMENT_BYTES;
    if (load<f64>(s, S_PICK) < LEAST_SAY) continue;
    const from = Math.max(a, load<f64>(s, S_A)),
      to = Math.min(b, load<f64>(s, S_B));
    if (!(to > from)) continue;
    const p = <usize>load<u32>(s);
    const part = to - from < b - a ? (b < Infinity ? (to - from) / (b - a) : 0.5) : 1.0;
    sum += part * load<f64>(s, S_SHARE) * (word(p, M_SIGMA_S) + word(p, M_SIGMA_S + 1) + word(p, M_SIGMA_S + 2)) * phaseOf(p, cos);
  }
  return sum;
}

/** Band of segment s that scatters most. */
function leadOf(s: usize): i32 {
  const r = load<f64>(s, S_BAND),
    g = load<f64>(s + 8, S_BAND),
    b = load<f64>(s + 16, S_BAND);
  return g >= r && g >= b ? 1 : r >= b ? 0 : 2;
}

/** Distance in segment i at which a share u of what its leading band can scatter lies behind; negative where nothing scatters. */
export function forcedAt(i: i32, u: f64): f64 {
  const s = scratch + SCRATCH_LIST_A + <usize>i * SEGMENT_BYTES;
  if (load<f64>(s, S_PICK) <= 0.0) return -1.0;
  const p = <usize>load<u32>(s);
  const band = leadOf(s);
  const e = word(p, M_SIGMA_T + band) * load<f64>(s, S_SHARE);
  const total = load<f64>(s, S_TOTAL);
  const depth = e * total > THIN ? -Math.log1p(-u * load<f64>(s + ((<usize>band) << 3), S_NORM)) / e : u * Math.min(total, MAX_DEPTH);
  return load<f64>(s, S_A) + profileDistance(s, p, Math.min(depth, total * 0.9999999999));
}

/** Share of u a metre at distance t of segment i: what forcedAt() stretches by. */
export function forcedSlope(i: i32, t: f64): f64 {
  const s = scratch + SCRATCH_LIST_A + <usize>i * SEGMENT_BYTES;
  const p = <usize>load<u32>(s);
  const band = leadOf(s);
  const along = t - load<f64>(s, S_A);
  const density = profileDensity(wordInt(p, M_HEIGHT), load<f64>(s, S_Y) + load<f64>(s, S_SLOPE) * along, word(p, M_HEIGHT_SCALE));
  const e = word(p, M_SIGMA_T + band) * load<f64>(s, S_SHARE);
  const total = load<f64>(s, S_TOTAL);
  if (!(e * total > THIN)) return density / Math.min(total, MAX_DEPTH);
  return (density * e * Math.exp(-e * profileDepth(s, p, along))) / load<f64>(s + ((<usize>band) << 3), S_NORM);
}

/** Adds a medium of relative density k at a point to the scatterers there. */
function scatterAt(p: usize, k: f64, x: f64, y: f64, z: f64): void {
  tintAt(p, x, y, z);
  addScatterer(p, k * word(p, M_SIGMA_S) * tintR, k * word(p, M_SIGMA_S + 1) * tintG, k * word(p, M_SIGMA_S + 2) * tintB);
}

/** Makes the medium of segment i the only scatterer at distance t. @returns whether it scatters there */
export function scattererOfSegment(i: i32, t: f64): bool {
  const s = scratch + SCRATCH_LIST_A + <usize>i * SEGMENT_BYTES;
  const p = <usize>load<u32>(s);
  clearScatterers();
  const k = load<f64>(s, S_SHARE) * densityAt(p, fox + t * fdx, foy + t * fdy, foz + t * fdz);
  temperatureAt(p, fox + t * fdx, foy + t * fdy, foz + t * fdz);
  mediumEmissionR = k * word(p, M_EMISSION) * temperatureR;
  mediumEmissionG = k * word(p, M_EMISSION + 1) * temperatureG;
  mediumEmissionB = k * word(p, M_EMISSION + 2) * temperatureB;
  if (k > 0.0) scatterAt(p, k, fox + t * fdx, foy + t * fdy, foz + t * fdz);
  return scattererCount > 0;
}

/** Luminance gained per metre there, per band. */
export let mediumEmissionR: f64 = 0.0;
export let mediumEmissionG: f64 = 0.0;
export let mediumEmissionB: f64 = 0.0;

/** Looks up the media at distance t of the camera ray being drawn from. @returns whether anything scatters there */
export function scatterersAt(t: f64): bool {
  const list = scratch + SCRATCH_LIST_A;
  clearScatterers();
  mediumEmissionR = 0.0;
  mediumEmissionG = 0.0;
  mediumEmissionB = 0.0;
  const x = fox + t * fdx,
    y = foy + t * fdy,
    z = foz + t * fdz;
  for (let i = 0; i < forcedCount; i++) {
    const s = list + <usize>i * SEGMENT_BYTES;
    if (load<f64>(s, S_PICK) <= 0.0 || t < load<f64>(s, S_A) || t > load<f64>(s, S_B)) continue;
    const p = <usize>load<u32>(s);
    atMedium(p);
    const k = load<f64>(s, S_SHARE) * densityAt(p, x, y, z);
    if (!(k > 0.0)) continue;
    temperatureAt(p, x, y, z);
    mediumEmissionR += k * word(p, M_EMISSION) * temperatureR;
    mediumEmissionG += k * word(p, M_EMISSION + 1) * temperatureG;
    mediumEmissionB += k * word(p, M_EMISSION + 2) * temperatureB;
    scatterAt(p, k, x, y, z);
  }
  afterMedium();
  return scattererCount > 0;
}
