/** Transmittance of rays: closed forms in one exponential, ratio tracking or stepping for the rest. */
import { MAX_COLUMN } from "./precision";
import { SCRATCH_LIST_A, SCRATCH_LIST_B, SEGMENT_BYTES } from "../../layout/scratch";
import { M_SIGMA_T, M_STEP_SIZE, RAY_SHADOW } from "../../layout/layout";
import { scratch, word } from "./state";
import { random } from "./random";
import { afterMedium, atMedium } from "./activity";
import { factorAt, densityAt } from "./density";
import { cellA, cellB, cellMajorant, startCells, nextCell } from "./majorants";
import {
  mediumCount,
  stepping,
  maxSteps,
  S_TYPE,
  S_A,
  S_B,
  S_SHARE,
  CLOSED,
  GRIDDED,
  rx,
  ry,
  rz,
  ux,
  uy,
  uz,
  collect,
  minExtinction,
  MAX_EVENTS,
  usefulEnd,
  profileDepth,
  profileDistance,
} from "./segments";

/** Transmittance per band, set by transmit(). */
export let tr: f64 = 1.0;
export let tg: f64 = 1.0;
export let tb: f64 = 1.0;

/** ∫ρ dt by the jittered rectangle rule: steps of at most the step size, one common offset. */
function steppedDepth(s: usize, p: usize): f64 {
  const a = load<f64>(s, S_A);
  const length = usefulEnd(s, p, Infinity) - a;
  const n = Math.max(1.0, Math.min(maxSteps, Math.ceil(length / word(p, M_STEP_SIZE))));
  const step = length / n;
  let t = a + step * random();
  let sum = 0.0;
  // past e^-20 in the thinnest band that is attenuated at all, further steps cannot be told from none
  const enough = 20.0 / (minExtinction(p) * load<f64>(s, S_SHARE) * step);
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
  const highest = Math.max(tr, Math.max(tg, tb));
  if (highest >= 0.01) return true;
  // roulette keeps the estimate unbiased
  if (highest <= 0.0 || random() >= 0.25) {
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
  const er = word(p, M_SIGMA_T),
    eg = word(p, M_SIGMA_T + 1),
    eb = word(p, M_SIGMA_T + 2);
  const highest = Math.max(er, Math.max(eg, eb));
  const rate = highest * share;
  if (!(rate > 0.0)) return true;
  const qr = er / highest,
    qg = eg / highest,
    qb = eb / highest;
  const a = load<f64>(s, S_A);
  let events = 0;
  if (load<i32>(s, S_TYPE) == GRIDDED) {
    startCells(p, rx, ry, rz, ux, uy, uz, a, load<f64>(s, S_B));
    let left = -Math.log(1.0 - random());
    while (nextCell()) {
      const m = cellMajorant;
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
        if (++events > MAX_EVENTS) return opaque();
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
    if (++events > MAX_EVENTS) return opaque();
    if (!dim(factorAt(p, rx + t * ux, ry + t * uy, rz + t * uz), qr, qg, qb)) return false;
  }
}

/**
 * Transmittance of [0, tmax] of a ray of the given kind; sets tr, tg, tb. Closed forms in one exponential,
 * ratio tracking or stepping for the rest.
 */
export function transmit(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64, ray: i32): void {
  attenuate(ox, oy, oz, dx, dy, dz, tmax, ray, false);
}

/** The same as if there were no media but those that have closed forms. */
export function transmitClosed(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64, ray: i32): void {
  attenuate(ox, oy, oz, dx, dy, dz, tmax, ray, true);
}

// @ts-ignore: decorator
@inline
function attenuate(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64, ray: i32, closed: bool): void {
  tr = 1.0;
  tg = 1.0;
  tb = 1.0;
  if (mediumCount == 0) return;
  const list = scratch + SCRATCH_LIST_B;
  const n = collect(list, ox, oy, oz, dx, dy, dz, tmax, ray);
  if (n == 0) return;
  let r = 0.0,
    g = 0.0,
    b = 0.0;
  let tracked = false;
  for (let i = 0; i < n; i++) {
    const s = list + <usize>i * SEGMENT_BYTES;
    const p = <usize>load<u32>(s);
    atMedium(p);
    let depth = 0.0;
    if (load<i32>(s, S_TYPE) == CLOSED) depth = profileDepth(s, p, load<f64>(s, S_B) - load<f64>(s, S_A));
    else if (closed) continue;
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
  if (tracked && tr + tg + tb > 0.0)
    for (let i = 0; i < n; i++) {
      const s = list + <usize>i * SEGMENT_BYTES;
      if (load<i32>(s, S_TYPE) == CLOSED) continue;
      const p = <usize>load<u32>(s);
      atMedium(p);
      if (!ratioTrack(s, p)) break;
    }
  afterMedium();
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
  const list = scratch + SCRATCH_LIST_B;
  const n = collect(list, ox, oy, oz, dx, dy, dz, tmax, RAY_SHADOW);
  for (let i = 0; i < n; i++) {
    const s = list + <usize>i * SEGMENT_BYTES;
    const p = <usize>load<u32>(s);
    const k = Math.min(MAX_COLUMN, profileDepth(s, p, load<f64>(s, S_B) - load<f64>(s, S_A))) * load<f64>(s, S_SHARE);
    depthR += k * word(p, M_SIGMA_T);
    depthG += k * word(p, M_SIGMA_T + 1);
    depthB += k * word(p, M_SIGMA_T + 2);
  }
}

/** Transmittance of [0, t] of a ray that has one segment alone, in closed form; sets tr, tg, tb. */
export function transmitAlone(t: f64): void {
  const s = scratch + SCRATCH_LIST_A;
  const p = <usize>load<u32>(s);
  const k = profileDepth(s, p, Math.max(0.0, t - load<f64>(s, S_A))) * load<f64>(s, S_SHARE);
  const r = word(p, M_SIGMA_T),
    g = word(p, M_SIGMA_T + 1),
    b = word(p, M_SIGMA_T + 2);
  tr = Math.exp(-r * k);
  tg = g == r ? tr : Math.exp(-g * k);
  tb = b == g ? tg : Math.exp(-b * k);
}
