/**
 * Collisions of random walks. Each medium is an independent field of particles: its collisions are computed by themselves, and a
 * ray through several takes the nearest.
 */
import { SCRATCH_LIST_B, SEGMENT_BYTES } from "../../layout/scratch";
import { M_SIGMA_S, M_SIGMA_T, M_STEP_SIZE } from "../../layout/layout";
import { afterMedium, atMedium } from "./activity";
import { scratch, word } from "./state";
import { random, randomState, setRandomState } from "./random";
import { factorAt, densityAt } from "./density";
import { cellA, cellB, cellMajorant, startCells, nextCell } from "./majorants";
import {
  mediumCount,
  stepping,
  maxSteps,
  chromatic,
  S_TYPE,
  S_A,
  S_B,
  S_SHARE,
  S_TOTAL,
  S_BAND,
  S_NORM,
  S_CELL,
  CLOSED,
  GRIDDED,
  rx,
  ry,
  rz,
  ux,
  uy,
  uz,
  collect,
  MAX_EVENTS,
  usefulEnd,
  profileDepth,
  profileDistance,
} from "./segments";
import { tintAt, tintR, tintG, tintB } from "./tint";
import { clearScatterers, addScatterer } from "./scatterers";

/** Set by sampleCollision(): distance, medium, and spectral weights (f / pdf) per band. */
export let colT: f64 = 0.0;
let colMedium: usize = 0;
export let colR: f64 = 0.0;
export let colG: f64 = 0.0;
export let colB: f64 = 0.0;

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
    const n = Math.max(1.0, Math.min(maxSteps, Math.ceil(length / word(p, M_STEP_SIZE))));
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
      const m = cellMajorant;
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
        if (random() * m < densityAt(p, rx + t * ux, ry + t * uy, rz + t * uz) || nulls > <f64>MAX_EVENTS) return t;
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
    if (random() < factorAt(p, rx + t * ux, ry + t * uy, rz + t * uz) || nulls > <f64>MAX_EVENTS) return t;
    nulls += 1.0;
  }
  bounded = total;
  return Infinity;
}

// logarithms of each band's density of the events of a path
let logR: f64 = 0.0,
  logG: f64 = 0.0,
  logB: f64 = 0.0;

/** Adds a segment's null collisions and bound depth to the bands' densities. */
function account(s: usize, p: usize): void {
  const er = word(p, M_SIGMA_T),
    eg = word(p, M_SIGMA_T + 1),
    eb = word(p, M_SIGMA_T + 2);
  const highest = Math.max(er, Math.max(eg, eb));
  const k = bounded * load<f64>(s, S_SHARE);
  if (k > 0.0) {
    if (er > 0.0) logR -= er * k;
    if (eg > 0.0) logG -= eg * k;
    if (eb > 0.0) logB -= eb * k;
  }
  if (nulls > 0.0) {
    logR += nulls * Math.log(er / highest);
    logG += nulls * Math.log(eg / highest);
    logB += nulls * Math.log(eb / highest);
  }
}

/**
 * Draws a collision on [0, tmax] for a path of throughput (br, bg, bb): one band leads, all bands are
 * weighted by the balance heuristic over which band might have led. Sets colT, colMedium and the weights.
 * @returns true for a scattering at colT, false where the ray passes
 */
export function sampleCollision(
  ox: f64,
  oy: f64,
  oz: f64,
  dx: f64,
  dy: f64,
  dz: f64,
  tmax: f64,
  br: f64,
  bg: f64,
  bb: f64,
  ray: i32,
): bool {
  colR = 1.0;
  colG = 1.0;
  colB = 1.0;
  if (mediumCount == 0) return false;
  const list = scratch + SCRATCH_LIST_B;
  const n = collect(list, ox, oy, oz, dx, dy, dz, tmax, ray);
  if (n == 0) return false;
  const sum = br + bg + bb;
  if (!(sum > 0.0)) return false;
  const qr = br / sum,
    qg = bg / sum,
    qb = bb / sum;
  const pick = random();
  const lead = pick < qr ? 0 : pick < qr + qg ? 1 : 2;
  let best = Infinity;
  let winner: usize = 0;
  for (let i = 0; i < n; i++) {
    const s = list + <usize>i * SEGMENT_BYTES;
    if (load<f64>(s, S_A) >= best) continue;
    // where a nearer collision turns up later, the walk up to it can be repeated from here
    store<u32>(s, randomState(), S_CELL);
    const medium = <usize>load<u32>(s);
    atMedium(medium);
    const t = firstCollision(s, medium, lead, Math.min(best, tmax));
    store<f64>(s, nulls, S_BAND);
    store<f64>(s, bounded, S_NORM);
    store<f64>(s, Math.min(t, Math.min(best, tmax)), S_TOTAL);
    if (t < best) {
      best = t;
      winner = s;
    }
  }
  afterMedium();
  logR = 0.0;
  logG = 0.0;
  logB = 0.0;
  if (chromatic) {
    const after = randomState();
    for (let i = 0; i < n; i++) {
      const s = list + <usize>i * SEGMENT_BYTES;
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
    const highest = Math.max(logR, Math.max(logG, logB));
    logR = Math.exp(logR - highest);
    logG = Math.exp(logG - highest);
    logB = Math.exp(logB - highest);
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
    tintAt(p, rx + best * ux, ry + best * uy, rz + best * uz);
    colR = (tintR * word(p, M_SIGMA_S) * logR) / w;
    colG = (tintG * word(p, M_SIGMA_S + 1) * logG) / w;
    colB = (tintB * word(p, M_SIGMA_S + 2) * logB) / w;
    return true;
  }
  const w = 1.0 / (qr * logR + qg * logG + qb * logB);
  colR = logR * w;
  colG = logG * w;
  colB = logB * w;
  return false;
}

/** Makes the medium of the last collision the only scatterer, with weight 1: its coefficient is in the path's weight already. */
export function scattererOfCollision(): void {
  clearScatterers();
  addScatterer(colMedium, 1.0, 1.0, 1.0);
}
