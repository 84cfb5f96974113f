/**
 * The medium along a ray: where it lies, its optical depth, its transmittance, and distances drawn
 * from it. Relative density is height × break-up and scales all bands alike, so an optical depth is
 * a coefficient times one scalar ∫ρ dt; the height part alone has closed forms and serves as the
 * majorant of the product (break-up is at most 1).
 */
import {
  P_MEDIUM, P_SIGMA_S, P_SIGMA_A, P_BOX_CENTRE, P_BOX_ROWS, P_BOX_HALF, P_HEIGHT_ON, P_HEIGHT_LEVEL,
  P_HEIGHT_SCALE, P_NOISE_ON, P_ESTIMATOR, P_STEP, P_MAX_STEPS,
} from "../../scene/layout";
import { heightDensity, heightIntegral, heightInverse } from "../../optics/height";
import { param } from "./state";
import { random } from "./random";
import { breakUp } from "./noise";

/** Transmittance per band, set by transmit(). */
export let tr: f64 = 1.0;
export let tg: f64 = 1.0;
export let tb: f64 = 1.0;

/** The part of the ray inside the medium, set by enter(). */
export let segA: f64 = 0.0;
export let segB: f64 = 0.0;

/** Set by sampleCollision(): distance and spectral weights (f / pdf) per band. */
export let colT: f64 = 0.0;
export let colR: f64 = 0.0;
export let colG: f64 = 0.0;
export let colB: f64 = 0.0;

// the medium of this run, copied from the parameters once a run
let kind: i32 = 0;
let sr: f64 = 0.0, sg: f64 = 0.0, sb: f64 = 0.0; // scattering
let er: f64 = 0.0, eg: f64 = 0.0, eb: f64 = 0.0; // extinction
let emax: f64 = 0.0;
let heightOn: bool = false;
let level: f64 = 0.0;
let scale: f64 = 1.0;
let noiseOn: bool = false;
let stepping: bool = false;
let stepSize: f64 = 1.0;
let maxSteps: f64 = 1024.0;

export function prepareMedium(on: bool): void {
  kind = on ? <i32>param(P_MEDIUM) : 0;
  sr = param(P_SIGMA_S);
  sg = param(P_SIGMA_S + 1);
  sb = param(P_SIGMA_S + 2);
  er = sr + param(P_SIGMA_A);
  eg = sg + param(P_SIGMA_A + 1);
  eb = sb + param(P_SIGMA_A + 2);
  emax = Math.max(er, Math.max(eg, eb));
  if (emax <= 0.0) kind = 0;
  heightOn = param(P_HEIGHT_ON) != 0.0;
  level = param(P_HEIGHT_LEVEL);
  scale = param(P_HEIGHT_SCALE);
  noiseOn = param(P_NOISE_ON) != 0.0;
  stepping = param(P_ESTIMATOR) != 0.0;
  stepSize = param(P_STEP);
  maxSteps = param(P_MAX_STEPS);
}

// @ts-ignore: decorator
@inline
export function scatterR(): f64 { return sr; }
// @ts-ignore: decorator
@inline
export function scatterG(): f64 { return sg; }
// @ts-ignore: decorator
@inline
export function scatterB(): f64 { return sb; }
export function hasMedium(): bool { return kind != 0; }
export function meanExtinction(): f64 { return (er + eg + eb) / 3.0; }

/** Clips [0, tmax] of a ray to the medium; sets segA, segB. @returns whether anything is left */
export function enter(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64): bool {
  if (kind == 0) return false;
  segA = 0.0;
  segB = tmax;
  if (kind == 2) {
    const px = ox - param(P_BOX_CENTRE), py = oy - param(P_BOX_CENTRE + 1), pz = oz - param(P_BOX_CENTRE + 2);
    for (let axis = 0; axis < 3; axis++) {
      const rx = param(P_BOX_ROWS + 3 * axis), ry = param(P_BOX_ROWS + 3 * axis + 1), rz = param(P_BOX_ROWS + 3 * axis + 2);
      const o = px * rx + py * ry + pz * rz;
      const d = dx * rx + dy * ry + dz * rz;
      const h = param(P_BOX_HALF + axis);
      if (Math.abs(d) < 1e-12) {
        if (o < -h || o > h) return false;
        continue;
      }
      const a = (-h - o) / d, b = (h - o) / d;
      segA = Math.max(segA, Math.min(a, b));
      segB = Math.min(segB, Math.max(a, b));
    }
  }
  return segB > segA;
}

/** ∫ of the majorant density (m) over `length` from a height above the level. */
// @ts-ignore: decorator
@inline
function majorantIntegral(y: f64, slope: f64, length: f64): f64 {
  return heightOn ? heightIntegral(y, slope, scale, length) : length;
}

// @ts-ignore: decorator
@inline
function majorantInverse(y: f64, slope: f64, depth: f64): f64 {
  return heightOn ? heightInverse(y, slope, scale, depth) : depth;
}

// @ts-ignore: decorator
@inline
function majorantDensity(y: f64): f64 {
  return heightOn ? heightDensity(y - level, scale) : 1.0;
}

/** Relative density at a point inside the medium. */
export function densityAt(x: f64, y: f64, z: f64): f64 {
  const h = majorantDensity(y);
  return noiseOn ? h * breakUp(x, y, z) : h;
}

/** Extinction of the thinnest band that has any, 1/m. */
function leastExtinction(): f64 {
  let least = emax;
  if (er > 0.0) least = Math.min(least, er);
  if (eg > 0.0) least = Math.min(least, eg);
  if (eb > 0.0) least = Math.min(least, eb);
  return least;
}

/** Length after which at most e^-60 of any band that is attenuated at all would be left. */
function effectiveLength(y: f64, slope: f64, length: f64): f64 {
  if (length < Infinity) return length;
  const total = majorantIntegral(y, slope, length);
  return majorantInverse(y, slope, Math.min(60.0 / leastExtinction(), total * 0.9999999));
}

/** ∫ρ dt by the jittered rectangle rule: steps of at most the step size, one common offset. */
function steppedIntegral(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, a: f64, length: f64): f64 {
  const n = Math.max(1.0, Math.min(maxSteps, Math.ceil(length / stepSize)));
  const step = length / n;
  let t = a + step * random();
  let sum = 0.0;
  // past e^-20 in the thinnest band that is attenuated at all, further steps cannot be told from none
  const enough = 20.0 / (leastExtinction() * step);
  for (let i = 0.0; i < n; i += 1.0) {
    sum += densityAt(ox + t * dx, oy + t * dy, oz + t * dz);
    if (sum > enough) break;
    t += step;
  }
  return sum * step;
}

/**
 * Transmittance of [0, tmax] of a ray; sets tr, tg, tb. Closed form without break-up; with it,
 * ratio tracking under the height majorant, or stepping.
 */
export function transmit(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64): void {
  tr = 1.0;
  tg = 1.0;
  tb = 1.0;
  if (!enter(ox, oy, oz, dx, dy, dz, tmax)) return;
  const a = segA;
  let length = segB - a;
  const y = oy + a * dy - level;
  if (!noiseOn && !stepping) {
    const depth = majorantIntegral(y, dy, length);
    // a band without extinction keeps everything even over an infinite depth
    tr = er > 0.0 ? Math.exp(-er * depth) : 1.0;
    tg = eg > 0.0 ? (eg == er ? tr : Math.exp(-eg * depth)) : 1.0;
    tb = eb > 0.0 ? (eb == eg ? tg : Math.exp(-eb * depth)) : 1.0;
    return;
  }
  length = effectiveLength(y, dy, length);
  if (stepping) {
    const depth = steppedIntegral(ox, oy, oz, dx, dy, dz, a, length);
    tr = Math.exp(-er * depth);
    tg = Math.exp(-eg * depth);
    tb = Math.exp(-eb * depth);
    return;
  }
  const total = majorantIntegral(y, dy, length);
  const qr = er / emax, qg = eg / emax, qb = eb / emax;
  let depth = 0.0;
  while (true) {
    depth -= Math.log(1.0 - random()) / emax;
    if (depth >= total) return;
    const t = a + majorantInverse(y, dy, depth);
    const n = breakUp(ox + t * dx, oy + t * dy, oz + t * dz);
    tr *= 1.0 - n * qr;
    tg *= 1.0 - n * qg;
    tb *= 1.0 - n * qb;
    const most = Math.max(tr, Math.max(tg, tb));
    if (most < 0.01) {
      // roulette keeps the estimate unbiased where little is left
      if (most <= 0.0 || random() >= 0.25) {
        tr = 0.0;
        tg = 0.0;
        tb = 0.0;
        return;
      }
      tr *= 4.0;
      tg *= 4.0;
      tb *= 4.0;
    }
  }
}

// --- forced sampling of one segment, for single scattering

let forceA: f64 = 0.0;
let forceY: f64 = 0.0;
let forceSlope: f64 = 0.0;
let forceTotal: f64 = 0.0;
let wr: f64 = 0.0, wg: f64 = 0.0, wb: f64 = 0.0; // share of each band in the mixture
let nr: f64 = 0.0, ng: f64 = 0.0, nb: f64 = 0.0; // 1 - exp(-σt · total)

/** Prepares forced sampling on the segment last entered. @returns false where nothing scatters */
export function beginForced(oy: f64, dy: f64): bool {
  const sum = sr + sg + sb;
  if (sum <= 0.0) return false;
  forceA = segA;
  forceY = oy + segA * dy - level;
  forceSlope = dy;
  forceTotal = majorantIntegral(forceY, dy, segB - segA);
  if (forceTotal <= 0.0) return false;
  wr = sr / sum;
  wg = sg / sum;
  wb = sb / sum;
  // only bands that scatter are drawn from; the others may have no extinction over an endless segment
  nr = sr > 0.0 ? -Math.expm1(-er * forceTotal) : 1.0;
  ng = sg > 0.0 ? -Math.expm1(-eg * forceTotal) : 1.0;
  nb = sb > 0.0 ? -Math.expm1(-eb * forceTotal) : 1.0;
  return true;
}

/** Distance from the ray origin with the mixture of the bands' majorant transmittance densities. */
export function forcedDistance(u: f64, pick: f64): f64 {
  let e = eb, n = nb;
  if (pick < wr) {
    e = er;
    n = nr;
  } else if (pick < wr + wg) {
    e = eg;
    n = ng;
  }
  const depth = -Math.log1p(-u * n) / e;
  return forceA + majorantInverse(forceY, forceSlope, Math.min(depth, forceTotal * 0.9999999999));
}

/** Density (1/m) of forcedDistance at distance t from the ray origin. */
export function forcedPdf(t: f64): f64 {
  const along = t - forceA;
  const depth = majorantIntegral(forceY, forceSlope, along);
  const h = majorantDensity(forceY + level + forceSlope * along);
  let p = 0.0;
  if (wr > 0.0) p += (wr * er * Math.exp(-er * depth)) / nr;
  if (wg > 0.0) p += (wg * eg * Math.exp(-eg * depth)) / ng;
  if (wb > 0.0) p += (wb * eb * Math.exp(-eb * depth)) / nb;
  return h * p;
}

/** Length over which the segment last prepared scatters appreciably, metres. */
export function forcedReach(): f64 {
  return Math.min(forceTotal, 1.0 / Math.max(meanExtinction(), 1e-12));
}

// --- analog sampling for random walks

/**
 * Draws a collision on [0, tmax] for a path of throughput (br, bg, bb): one band leads, all bands are
 * weighted by the balance heuristic over which band might have led. Sets colT and the weights.
 * @returns true for a scattering at colT, false where the ray passes
 */
export function sampleCollision(
  ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64, br: f64, bg: f64, bb: f64,
): bool {
  colR = 1.0;
  colG = 1.0;
  colB = 1.0;
  if (!enter(ox, oy, oz, dx, dy, dz, tmax)) return false;
  const sum = br + bg + bb;
  if (!(sum > 0.0)) return false;
  const qr = br / sum, qg = bg / sum, qb = bb / sum;
  const pick = random();
  const lead = pick < qr ? er : pick < qr + qg ? eg : eb;
  const a = segA;
  let length = segB - a;
  const y = oy + a * dy - level;
  // null collisions cancel between bands, but each real or null event leaves one factor σt per band
  let kr = 1.0, kg = 1.0, kb = 1.0;
  let depth = 0.0;
  if (noiseOn || stepping) length = effectiveLength(y, dy, length);
  const total = majorantIntegral(y, dy, length);
  let hit = false;
  if (stepping) {
    const n = Math.max(1.0, Math.min(maxSteps, Math.ceil(length / stepSize)));
    const step = length / n;
    const target = lead > 0.0 ? -Math.log(1.0 - random()) / lead : Infinity;
    const offset = random();
    for (let i = 0.0; i < n; i += 1.0) {
      const t = a + (i + offset) * step;
      const rho = densityAt(ox + t * dx, oy + t * dy, oz + t * dz);
      if (depth + rho * step >= target) {
        colT = a + (i + (target - depth) / (rho * step)) * step;
        depth = target;
        hit = true;
        break;
      }
      depth += rho * step;
    }
  } else if (lead > 0.0) {
    while (true) {
      const next = depth - Math.log(1.0 - random()) / lead;
      if (next >= total) break;
      depth = next;
      const t = a + majorantInverse(y, dy, depth);
      colT = t;
      if (!noiseOn || random() < breakUp(ox + t * dx, oy + t * dy, oz + t * dz)) {
        hit = true;
        break;
      }
      kr *= er / emax;
      kg *= eg / emax;
      kb *= eb / emax;
    }
    if (!hit) depth = total;
  } else {
    depth = total;
  }
  // exponents relative to the thinnest band, so that deep media do not underflow
  const least = Math.min(er, Math.min(eg, eb));
  const fr = er > least ? kr * Math.exp(-(er - least) * depth) : kr;
  const fg = eg > least ? kg * Math.exp(-(eg - least) * depth) : kg;
  const fb = eb > least ? kb * Math.exp(-(eb - least) * depth) : kb;
  if (hit) {
    const p = 1.0 / (qr * er * fr + qg * eg * fg + qb * eb * fb);
    colR = sr * fr * p;
    colG = sg * fg * p;
    colB = sb * fb * p;
  } else {
    const p = 1.0 / (qr * fr + qg * fg + qb * fb);
    colR = fr * p;
    colG = fg * p;
    colB = fb * p;
  }
  return hit;
}
