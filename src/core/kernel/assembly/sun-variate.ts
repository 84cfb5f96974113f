/**
 * Sunlight by way of the air of a camera ray, without noise as far as that goes: an estimate of the whole ray from closed
 * forms and a map of where sunlight comes, whose integral is known exactly (a control variate). What is drawn at random is
 * only the difference, most of it near the borders of shadows. The map holds, over the plane facing the sun, how far down its
 * light comes and what panes leave of it; texels are traced when first asked for, the same from any worker.
 */
import { ENDLESS, FAR, POSITION_ERROR, SERIES } from "./precision";
import { MAX_PANES, MAX_SUN_ROWS, SCRATCH_SUN_ROWS, SUN_ROW_BYTES } from "../../layout/scratch";
import {
  P_MEDIA,
  P_SUN_AIR,
  P_SUN_DIR,
  P_SUN_E,
  P_SUN_GOBO,
  P_SUN_MAP,
  P_SUN_MAP_LOW,
  P_SUN_MAP_SCALE,
  P_SUN_MAP_TOP,
  P_SUN_MAP_U,
  P_SUN_MAP_V,
  SUN_MAP_SIDE,
  M_FACTOR,
  RAY_SHADOW,
} from "../../layout/layout";
import { countRays, param, paramAddress, paramInt, ablation, raysTraced, scratch, wordInt } from "./state";
import { closestHit, hitT } from "./bvh";
import { forcedAt, forcedBegin, forcedClosed, forcedPick, forcedSegments, scattererOfSegment } from "./forced";
import { mediumAt } from "./density";
import { transmitAlone, transmitClosed, tr, tg, tb } from "./transmit";
import { mediaMask, SUN } from "./lights";
import { phaseAt, phR, phG, phB } from "./phase";
import { gx, gy, gz, positionError } from "./hit-frame";
import { isPane, paneTintR, paneTintG, paneTintB } from "./bsdf";
import { readSurface } from "./surface";

/** Stretches between whose ends the ray's light is taken as exponential, in all, and cells of even visibility in each. */
const STRETCHES: i32 = 3;
const EACH: i32 = 18;
/** Texel not traced yet; one that nothing shades. */
const UNKNOWN: f32 = 1e30;
const OPEN: f32 = -1e30;

/** Texels that a look can speak for, and looks at a cell at most. */
const TEXELS: f64 = 12.0;
const MAX_LOOKS: i32 = 16;

/** Most of a ray that may lie near borders: past that the estimate is not worth its time. */
const MAX_BORDERS: f64 = 0.6;
/** Share of the light below which shadow, or sun, makes no difference. */
const EVEN: f64 = 0.0005;
/** Times that the air leaves more of sunlight at one end of a ray than at the other, from which it is not even. */
const UNEVEN: f64 = 1.35;
/** Times that light changes along a stretch, from which its logarithm is no straight line. */
const MUCH: f64 = 2.0;
/** Times that it changes, from which the estimate is checked against one more point of the stretch, and times it may be off there. */
const CHECKED: f64 = 10.0;
const WILD: f64 = 3.0;

/**
 * Scratch: for each stretch where it begins, its length, light at its start and two numbers a band of the parabola that its
 * logarithm follows (3 + 3 + 3), then visibility of its cells (3 each) and the sum of weights of its border cells up to each
 * (at first: 1 where one is near a border); its segment at the end.
 */
const BEND: usize = 64;
const CELLS: usize = 88;
const SUMS: usize = CELLS + 24 * EACH;
const OF: usize = SUMS + 8 * EACH;
const LAST: usize = 8 * (EACH - 1);

let map: usize = 0;
let mapU0: f64 = 0.0,
  mapU1: f64 = 0.0,
  mapU2: f64 = 0.0,
  mapV0: f64 = 0.0,
  mapV1: f64 = 0.0,
  mapV2: f64 = 0.0;
let sun0: f64 = 0.0,
  sun1: f64 = 0.0,
  sun2: f64 = 0.0,
  mapA: f64 = 0.0,
  mapB: f64 = 0.0;

/** Whether the ray prepared last has an estimate, and its sum per band. */
export let hasSunVariate: bool = false;
export let sunR: f64 = 0.0;
export let sunG: f64 = 0.0;
export let sunB: f64 = 0.0;
/** About what share of the sun's light by way of the ray, were it all lit, is left to draw; never none. */
export let residualShare: f64 = 1.0;
let litShare: f64 = 1.0;
/** Share of what the ray scatters that lies before any air without a closed form, and so has an estimate. */
let covered: f64 = 1.0;
let rows: i32 = 0;
let borders: f64 = 0.0;

/** Reads from the parameters whether the sun's light along a ray can be known beforehand in this run. */
export function prepareSunVariate(): void {
  map = 0;
  sun0 = param(P_SUN_DIR);
  sun1 = param(P_SUN_DIR + 1);
  sun2 = param(P_SUN_DIR + 2);
  if (paramInt(P_SUN_GOBO) != 0 || !(param(P_SUN_AIR) > 0.0)) return;
  if (!(param(P_SUN_E) + param(P_SUN_E + 1) + param(P_SUN_E + 2) > 0.0)) return;
  // where no density has a closed form, neither has the light along any ray
  let closed = false;
  for (let m = 0; m < paramInt(P_MEDIA); m++) closed = closed || wordInt(mediumAt(m), M_FACTOR) == 0;
  if (!closed) return;
  map = paramAddress(P_SUN_MAP);
  const k = param(P_SUN_MAP_SCALE);
  mapU0 = k * param(P_SUN_MAP_U);
  mapU1 = k * param(P_SUN_MAP_U + 1);
  mapU2 = k * param(P_SUN_MAP_U + 2);
  mapV0 = k * param(P_SUN_MAP_V);
  mapV1 = k * param(P_SUN_MAP_V + 1);
  mapV2 = k * param(P_SUN_MAP_V + 2);
  mapA = k * param(P_SUN_MAP_LOW);
  mapB = k * param(P_SUN_MAP_LOW + 1);
}

/** Traces a texel: height towards the sun of the lowest point that it lights, and the tint of the panes above. */
function trace(at: usize, column: i32, row: i32): f32 {
  const rays = raysTraced;
  const a = param(P_SUN_MAP_LOW) + (<f64>column + 0.5) / param(P_SUN_MAP_SCALE);
  const b = param(P_SUN_MAP_LOW + 1) + (<f64>row + 0.5) / param(P_SUN_MAP_SCALE);
  const top = param(P_SUN_MAP_TOP);
  let x = a * param(P_SUN_MAP_U) + b * param(P_SUN_MAP_V) + top * sun0;
  let y = a * param(P_SUN_MAP_U + 1) + b * param(P_SUN_MAP_V + 1) + top * sun1;
  let z = a * param(P_SUN_MAP_U + 2) + b * param(P_SUN_MAP_V + 2) + top * sun2;
  let r = 1.0,
    g = 1.0,
    c = 1.0;
  let h = OPEN;
  for (let panes = 0; panes <= MAX_PANES; panes++) {
    if (!closestHit(<f32>x, <f32>y, <f32>z, <f32>-sun0, <f32>-sun1, <f32>-sun2, <f32>FAR)) break;
    const t = <f64>hitT;
    x -= t * sun0;
    y -= t * sun1;
    z -= t * sun2;
    readSurface(-sun0, -sun1, -sun2);
    if (!isPane() || panes == MAX_PANES) {
      h = <f32>(x * sun0 + y * sun1 + z * sun2);
      break;
    }
    r *= paneTintR;
    g *= paneTintG;
    c *= paneTintB;
    const e = positionError + POSITION_ERROR * Math.max(Math.abs(x), Math.max(Math.abs(y), Math.abs(z)));
    const k = sun0 * gx + sun1 * gy + sun2 * gz > 0.0 ? -e : e;
    x += k * gx;
    y += k * gy;
    z += k * gz;
  }
  const tint = (<u32>(255.0 * r + 0.5)) | ((<u32>(255.0 * g + 0.5)) << 8) | ((<u32>(255.0 * c + 0.5)) << 16);
  store<u32>(at, tint, 12);
  // last, so that another worker that sees it finds the tint too; who comes first pays, so it is no cost of this pixel
  store<f32>(at, h);
  countRays(rays - raysTraced);
  return h;
}

/** Traces of some rows of the map what is not traced yet, for drawings that look all of it up. */
export function sectionSunMap(from: i32, to: i32): void {
  const table = paramAddress(P_SUN_MAP);
  if (table == 0) return;
  for (let row = from; row < to; row++)
    for (let column = 0; column < SUN_MAP_SIDE; column++) {
      const at = table + ((<usize>(row * SUN_MAP_SIDE + column)) << 4);
      if (load<f32>(at) == UNKNOWN) trace(at, column, row);
    }
}

/** Finds the least and largest height among a texel and its neighbours: between them nothing is sure. */
function surround(at: usize, column: i32, row: i32): void {
  let lowest = UNKNOWN,
    highest: f32 = -1e30;
  for (let j = row - 1; j <= row + 1; j++) {
    if (j < 0 || j >= SUN_MAP_SIDE) continue;
    for (let i = column - 1; i <= column + 1; i++) {
      if (i < 0 || i >= SUN_MAP_SIDE) continue;
      const there = map + ((<usize>(j * SUN_MAP_SIDE + i)) << 4);
      let h = load<f32>(there);
      if (h == UNKNOWN) h = trace(there, i, j);
      if (h < lowest) lowest = h;
      if (h > highest) highest = h;
    }
  }
  store<f32>(at, lowest, 8);
  store<f32>(at, highest, 4);
}

// the ray in the map: place and change a metre, and the same of the height towards the sun
let ra: f64 = 0.0,
  rb: f64 = 0.0,
  rh: f64 = 0.0,
  da: f64 = 0.0,
  db: f64 = 0.0,
  dh: f64 = 0.0;
/** Set by look(): what is left of sunlight at a point of the ray after the map, and whether its neighbourhood agrees. */
let vR: f64 = 0.0,
  vG: f64 = 0.0,
  vB: f64 = 0.0;
let sure: bool = true;

// @ts-ignore: decorator
@inline
function look(t: f64): void {
  const a = ra + t * da,
    b = rb + t * db;
  vR = 1.0;
  vG = 1.0;
  vB = 1.0;
  sure = true;
  // past the map no geometry throws a shadow
  if (!(a >= 0.0 && b >= 0.0 && a < <f64>SUN_MAP_SIDE && b < <f64>SUN_MAP_SIDE)) return;
  const at = map + ((<usize>(<i32>b * SUN_MAP_SIDE + <i32>a)) << 4);
  if (load<f32>(at, 4) == UNKNOWN) surround(at, <i32>a, <i32>b);
  const h = rh + t * dh;
  if (h <= <f64>load<f32>(at)) {
    vR = 0.0;
    vG = 0.0;
    vB = 0.0;
    sure = h <= <f64>load<f32>(at, 8);
    return;
  }
  sure = h > <f64>load<f32>(at, 4);
  const tint = load<u32>(at, 12);
  if (tint == 0xffffff) return;
  vR = <f64>(tint & 255) / 255.0;
  vG = <f64>((tint >> 8) & 255) / 255.0;
  vB = <f64>(tint >> 16) / 255.0;
}

let oftenR: f64 = 0.0,
  oftenG: f64 = 0.0,
  oftenB: f64 = 0.0;
let oftenEven: bool = true,
  oftenSame: bool = true;

/** Looks along a cell that crosses many texels, from the last look on; sets often…: what is left on the way, and how even it is. */
function lookOften(from: f64, cell: f64, looks: i32): void {
  let r = 0.0,
    g = 0.0,
    b = 0.0;
  oftenEven = true;
  oftenSame = true;
  for (let j = 1; j <= looks; j++) {
    const wasSure = sure,
      wR = vR,
      wG = vG,
      wB = vB;
    look(from + (<f64>j * cell) / <f64>looks);
    r += wR + vR;
    g += wG + vG;
    b += wB + vB;
    oftenEven = oftenEven && wasSure && sure;
    oftenSame = oftenSame && wG == vG && wR == vR && wB == vB;
  }
  const mean = 0.5 / <f64>looks;
  oftenR = mean * r;
  oftenG = mean * g;
  oftenB = mean * b;
}

/** Whether all of the ray between two distances lies to one side of the map. */
function beside(from: f64, to: f64): bool {
  const a0 = ra + from * da,
    a1 = ra + to * da,
    b0 = rb + from * db,
    b1 = rb + to * db;
  const side = <f64>SUN_MAP_SIDE;
  return (a0 < 0.0 && a1 < 0.0) || (b0 < 0.0 && b1 < 0.0) || (a0 >= side && a1 >= side) || (b0 >= side && b1 >= side);
}

// light that segment i sends towards the lens from a point of the ray in the sun, per metre
let fR: f64 = 0.0,
  fG: f64 = 0.0,
  fB: f64 = 0.0;

function unshadowed(i: i32, t: f64, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, ray: i32): void {
  fR = 0.0;
  fG = 0.0;
  fB = 0.0;
  if (!scattererOfSegment(i, t)) return;
  phaseAt(dx * sun0 + dy * sun1 + dz * sun2, mediaMask(SUN));
  const k = param(P_SUN_AIR);
  const a = phR * k * param(P_SUN_E),
    b = phG * k * param(P_SUN_E + 1),
    c = phB * k * param(P_SUN_E + 2);
  if (forcedSegments() == 1) transmitAlone(t);
  else transmitClosed(ox, oy, oz, dx, dy, dz, t, ray);
  const lR = a * tr,
    lG = b * tg,
    lB = c * tb;
  transmitClosed(ox + t * dx, oy + t * dy, oz + t * dz, sun0, sun1, sun2, Infinity, RAY_SHADOW);
  fR = lR * tr;
  fG = lG * tg;
  fB = lB * tb;
}

/** Estimates the sun's light by way of the ray last prepared for drawing; sets sun…, estimated and drawnShare. */
export function estimateSunVariate(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, ray: i32): void {
  hasSunVariate = false;
  residualShare = 1.0;
  if (map == 0 || (ablation & 2) != 0) return;
  rows = 0;
  ra = ox * mapU0 + oy * mapU1 + oz * mapU2 - mapA;
  rb = ox * mapV0 + oy * mapV1 + oz * mapV2 - mapB;
  rh = ox * sun0 + oy * sun1 + oz * sun2;
  da = dx * mapU0 + dy * mapU1 + dz * mapU2;
  db = dx * mapV0 + dy * mapV1 + dz * mapV2;
  dh = dx * sun0 + dy * sun1 + dz * sun2;
  const unsure = lookAlong();
  if (rows == 0) return;
  residualShare = leftOf(litShare);
  // an unlit ray has no noise to take away, one in even light little
  if (unsure > MAX_BORDERS || litShare < EVEN || (litShare > 1.0 - EVEN && !sunVaries(ox, oy, oz, dx, dy, dz))) return;
  hasSunVariate = true;
  sumUp(ox, oy, oz, dx, dy, dz, ray);
}

/** What is left to draw of a ray of whose estimated part a share is. */
// @ts-ignore: decorator
@inline
function leftOf(share: f64): f64 {
  return 1.0 - covered * (0.9 - 0.9 * share);
}

/** Whether the air leaves more of sunlight at one end of the ray's stretches than at the other. */
function sunVaries(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64): bool {
  const last = scratch + SCRATCH_SUN_ROWS + <usize>(rows - 1) * SUN_ROW_BYTES;
  const a = load<f64>(scratch + SCRATCH_SUN_ROWS),
    b = load<f64>(last) + load<f64>(last, 8);
  transmitClosed(ox + a * dx, oy + a * dy, oz + a * dz, sun0, sun1, sun2, Infinity, RAY_SHADOW);
  const first = tg;
  transmitClosed(ox + b * dx, oy + b * dy, oz + b * dz, sun0, sun1, sun2, Infinity, RAY_SHADOW);
  return Math.max(first, tg) > UNEVEN * Math.min(first, tg);
}

/** Cuts the ray into stretches and looks their cells up. @returns share of the light, by distance alone, that lies near borders */
function lookAlong(): f64 {
  let all = 0.0,
    unsure = 0.0,
    bright = 0.0;
  const n = forcedSegments();
  // behind air that has no closed form, nothing has: what light it leaves is not known
  let end = Infinity;
  for (let i = 0; i < n; i++) if (!forcedClosed(i)) end = Math.min(end, forcedBegin(i));
  let left = 0.0;
  for (let i = 0; i < n; i++) {
    const pick = forcedPick(i);
    if (pick <= 0.0) continue;
    if (!forcedClosed(i)) {
      left += pick;
      continue;
    }
    const cuts = <i32>Math.ceil(<f64>STRETCHES * pick - 0.01);
    if (rows + cuts > MAX_SUN_ROWS) break;
    let from = forcedAt(i, 0.0);
    for (let c = 1; c <= cuts; c++) {
      if (from >= end) {
        left += pick * (<f64>(cuts - c + 1) / <f64>cuts);
        break;
      }
      const whole = forcedAt(i, (0.998 * <f64>c) / <f64>cuts);
      const to = Math.min(end, whole);
      const length = to - from;
      if (!(length > 0.0 && length < ENDLESS)) break;
      const row = scratch + SCRATCH_SUN_ROWS + <usize>rows * SUN_ROW_BYTES;
      store<f64>(row, from);
      store<f64>(row, length, 8);
      store<i32>(row, i, OF);
      const part = to < whole ? (to - from) / (whole - from) : 1.0;
      const mass = (part * pick) / <f64>cuts / <f64>EACH;
      left += ((1.0 - part) * pick) / <f64>cuts;
      let count = 0,
        r = 0.0,
        g = 0.0,
        b = 0.0;
      if (c == 1) look(from);
      // a look knows its texel and those about it: a cell across more of them is looked at as often as that takes
      const cell = length / <f64>EACH;
      const looks = max(1, min(MAX_LOOKS, <i32>Math.ceil((cell * Math.max(Math.abs(da), Math.abs(db))) / TEXELS)));
      for (let k = 0; k < EACH; k++) {
        const begin = from + <f64>k * cell;
        const wasSure = sure,
          wR = vR,
          wG = vG,
          wB = vB;
        let even: bool, same: bool, cR: f64, cG: f64, cB: f64;
        if (looks == 1 || beside(begin, begin + cell)) {
          look(begin + cell);
          even = wasSure && sure;
          same = wG == vG && wR == vR && wB == vB;
          cR = 0.5 * (wR + vR);
          cG = 0.5 * (wG + vG);
          cB = 0.5 * (wB + vB);
        } else {
          lookOften(begin, cell, looks);
          even = oftenEven;
          same = oftenSame;
          cR = oftenR;
          cG = oftenG;
          cB = oftenB;
        }
        const at = row + CELLS + <usize>(k * 24);
        store<f64>(at, cR);
        store<f64>(at, cG, 8);
        store<f64>(at, cB, 16);
        // 0 even, 1 among borders, 2 a border between places that are sure
        store<f64>(row + SUMS + <usize>(k << 3), even ? (same ? 0.0 : 2.0) : 1.0);
        all += mass;
        bright += mass * cG;
        if (even) continue;
        unsure += mass;
        count++;
        r += cR;
        g += cG;
        b += cB;
      }
      // near borders cells take what such cells of the stretch have on average
      if (count > 0) {
        const k = 1.0 / <f64>count;
        for (let j = 0; j < EACH; j++) {
          if (load<f64>(row + SUMS + <usize>(j << 3)) != 1.0) continue;
          const at = row + CELLS + <usize>(j * 24);
          store<f64>(at, k * r);
          store<f64>(at, k * g, 8);
          store<f64>(at, k * b, 16);
        }
      }
      rows++;
      from = to;
    }
  }
  litShare = all > 0.0 ? bright / all : 1.0;
  covered = all > 0.0 ? all / (all + left) : 0.0;
  return all > 0.0 ? unsure / all : 1.0;
}

/** Mean of exp(l x) over [0, 1], where e = exp(l) is known. */
// @ts-ignore: decorator
@inline
function meanOf(e: f64, l: f64): f64 {
  return Math.abs(l) < SERIES ? 1.0 + l * (0.5 + l * (1.0 / 6.0 + l / 24.0)) : (e - 1.0) / l;
}

/** Sets how a band's light changes along a stretch: as an exponential does, exact where air and sun are even. */
function straight(row: usize, band: usize, first: f64, last: f64): void {
  const known = first > 0.0 && last > 0.0;
  store<f64>(row + band, known ? first : 0.0, 16);
  store<f64>(row + band, known ? Math.log(last / first) : 0.0, 40);
  store<f64>(row + band, 0.0, BEND);
}

/** The same with a logarithm that is a parabola through the middle too (straight within a cell): air may thin out a long way up. */
function bend(row: usize, band: usize, first: f64, middle: f64, last: f64): void {
  const known = first > 0.0 && middle > 0.0 && last > 0.0;
  const m = known ? Math.log(middle / first) : 0.0,
    l = known ? Math.log(last / first) : 0.0;
  store<f64>(row + band, known ? first : 0.0, 16);
  store<f64>(row + band, 4.0 * m - l, 40);
  store<f64>(row + band, 2.0 * l - 4.0 * m, BEND);
}

/** Logarithm of the light at a share u of a stretch over that at its start. */
// @ts-ignore: decorator
@inline
function logAt(row: usize, band: usize, u: f64): f64 {
  return u * (load<f64>(row + band, 40) + u * load<f64>(row + band, BEND));
}

/** Logarithm of what light changes by across cell k. */
// @ts-ignore: decorator
@inline
function slopeOf(row: usize, band: usize, k: i32): f64 {
  return (load<f64>(row + band, 40) + load<f64>(row + band, BEND) * <f64>(2 * k + 1) * (1.0 / <f64>EACH)) * (1.0 / <f64>EACH);
}

/** Sums the light of the stretches, and of the cells near borders as weights to draw by. */
function sumUp(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, ray: i32): void {
  sunR = 0.0;
  sunG = 0.0;
  sunB = 0.0;
  borders = 0.0;
  let all = 0.0;
  let segment = -1;
  for (let i = 0; i < rows; i++) {
    const row = scratch + SCRATCH_SUN_ROWS + <usize>i * SUN_ROW_BYTES;
    const from = load<f64>(row),
      length = load<f64>(row, 8);
    const now = load<i32>(row, OF);
    if (now != segment) unshadowed(now, from, ox, oy, oz, dx, dy, dz, ray);
    segment = now;
    const bR = fR,
      bG = fG,
      bB = fB;
    unshadowed(now, from + length, ox, oy, oz, dx, dy, dz, ray);
    const eR = fR,
      eG = fG,
      eB = fB;
    // the last stretch of a medium is the longest: its middle is asked for where much changes
    const long = (i == rows - 1 || load<i32>(row + SUN_ROW_BYTES, OF) != now) && Math.max(bG, eG) > MUCH * Math.min(bG, eG);
    if (long) {
      unshadowed(now, from + 0.5 * length, ox, oy, oz, dx, dy, dz, ray);
      bend(row, 0, bR, fR, eR);
      bend(row, 8, bG, fG, eG);
      bend(row, 16, bB, fB, eB);
    } else {
      straight(row, 0, bR, eR);
      straight(row, 8, bG, eG);
      straight(row, 16, bB, eB);
    }
    // a curve that is far off the light (thin air over a sharp layer) would take what rare samples have to give back: none then
    if (Math.max(fG, Math.max(bG, eG)) > CHECKED * Math.min(bG, eG)) {
      const u = long ? 0.75 : 0.5;
      unshadowed(now, from + u * length, ox, oy, oz, dx, dy, dz, ray);
      const guess = load<f64>(row, 24) * Math.exp(logAt(row, 8, u));
      const quarter = load<f64>(row, 24) * Math.exp(logAt(row, 8, 0.25));
      if (!(guess <= WILD * fG) || !(quarter <= WILD * Math.max(bG, Math.max(fG, eG)))) {
        hasSunVariate = false;
        residualShare = 1.0;
        return;
      }
    }
    // where the next stretch of the same medium begins
    fR = eR;
    fG = eG;
    fB = eB;
    const cell = length / <f64>EACH;
    // what a cell changes light by changes itself by the same factor from each to the next
    let gR = load<f64>(row, 16),
      gG = load<f64>(row, 24),
      gB = load<f64>(row, 32);
    let sR = slopeOf(row, 0, 0),
      sG = slopeOf(row, 8, 0),
      sB = slopeOf(row, 16, 0);
    let xR = Math.exp(sR),
      xG = sG == sR ? xR : Math.exp(sG),
      xB = sB == sG ? xG : Math.exp(sB);
    let tR = 0.0,
      tG = 0.0,
      tB = 0.0,
      qR = 1.0,
      qG = 1.0,
      qB = 1.0;
    if (long) {
      tR = slopeOf(row, 0, 1) - sR;
      tG = slopeOf(row, 8, 1) - sG;
      tB = slopeOf(row, 16, 1) - sB;
      qR = Math.exp(tR);
      qG = tG == tR ? qR : Math.exp(tG);
      qB = tB == tG ? qG : Math.exp(tB);
    }
    // ∫ over a cell, of light 1 at its start
    let wholeR = cell * meanOf(xR, sR),
      wholeG = cell * meanOf(xG, sG),
      wholeB = cell * meanOf(xB, sB);
    for (let k = 0; k < EACH; k++) {
      const at = row + CELLS + <usize>(k * 24);
      const cR = load<f64>(at),
        cG = load<f64>(at, 8),
        cB = load<f64>(at, 16);
      const r = gR * wholeR,
        g = gG * wholeG,
        b = gB * wholeB;
      gR *= xR;
      gG *= xG;
      gB *= xB;
      if (long) {
        xR *= qR;
        xG *= qG;
        xB *= qB;
        sR += tR;
        sG += tG;
        sB += tB;
        wholeR = cell * meanOf(xR, sR);
        wholeG = cell * meanOf(xG, sG);
        wholeB = cell * meanOf(xB, sB);
      }
      sunR += r * cR;
      sunG += g * cG;
      sunB += b * cB;
      all += r + g + b;
      const sum = row + SUMS + <usize>(k << 3);
      // by how much what is drawn there may differ: the spread of a thing that is there with chance c
      if (load<f64>(sum) != 0.0) borders += (r + g + b) * Math.max(0.25, 2.0 * Math.sqrt(Math.max(0.0, cG * (1.0 - cG))));
      store<f64>(sum, borders);
    }
  }
  residualShare = leftOf(all > 0.0 ? Math.min(1.0, borders / all) : 1.0);
}

/** Whether there are borders to draw from. */
export function hasBorders(): bool {
  return borders > 0.0;
}

/** Distance drawn from the cells that hold borders of shadows, by their light. @param u in [0, 1) */
export function borderDistance(u: f64): f64 {
  u *= borders;
  let i = 0;
  while (i < rows - 1 && load<f64>(scratch + SCRATCH_SUN_ROWS + <usize>i * SUN_ROW_BYTES, SUMS + LAST) <= u) i++;
  const row = scratch + SCRATCH_SUN_ROWS + <usize>i * SUN_ROW_BYTES;
  let before = i > 0 ? load<f64>(row - SUN_ROW_BYTES, SUMS + LAST) : 0.0;
  let k = 0;
  for (; k < EACH - 1; k++) {
    const end = load<f64>(row + SUMS + <usize>(k << 3));
    if (u < end) break;
    before = end;
  }
  const width = load<f64>(row + SUMS + <usize>(k << 3)) - before;
  const f = width > 0.0 ? Math.max(0.0, Math.min(0.9999999, (u - before) / width)) : 0.5;
  return load<f64>(row) + ((<f64>k + f) * load<f64>(row, 8)) / <f64>EACH;
}

/** Set by estimateAt(): the estimate's light per metre, and the density (1/m) of borderDistance(). */
export let atR: f64 = 0.0;
export let atG: f64 = 0.0;
export let atB: f64 = 0.0;
export let borderPdf: f64 = 0.0;

/** The light of the sun known beforehand at distance `t` (m), by band, and the density (1/m) of the border, left in atR … borderPdf. */
export function sunVariateAt(t: f64): void {
  atR = 0.0;
  atG = 0.0;
  atB = 0.0;
  borderPdf = 0.0;
  let before = 0.0;
  for (let i = 0; i < rows; i++) {
    const row = scratch + SCRATCH_SUN_ROWS + <usize>i * SUN_ROW_BYTES;
    const length = load<f64>(row, 8);
    const along = t - load<f64>(row);
    if (along >= 0.0 && along < length) {
      const f = along / length;
      const i = min(EACH - 1, <i32>(f * <f64>EACH));
      const k = <usize>i;
      const cell = row + CELLS + k * 24;
      const within = f * <f64>EACH - <f64>i;
      const u = <f64>i * (1.0 / <f64>EACH);
      const lR = logAt(row, 0, u) + within * slopeOf(row, 0, i),
        lG = logAt(row, 8, u) + within * slopeOf(row, 8, i);
      const lB = logAt(row, 16, u) + within * slopeOf(row, 16, i);
      const eR = Math.exp(lR),
        eG = lG == lR ? eR : Math.exp(lG),
        eB = lB == lG ? eG : Math.exp(lB);
      atR += load<f64>(cell) * load<f64>(row, 16) * eR;
      atG += load<f64>(cell, 8) * load<f64>(row, 24) * eG;
      atB += load<f64>(cell, 16) * load<f64>(row, 32) * eB;
      const w = load<f64>(row + SUMS + (k << 3)) - (k > 0 ? load<f64>(row + SUMS + ((k - 1) << 3)) : before);
      borderPdf += (w * <f64>EACH) / length;
    }
    before = load<f64>(row, SUMS + LAST);
  }
  if (borders > 0.0) borderPdf /= borders;
}
