/**
 * Level veil: the air between lens and surface without shadows in it, by quadrature over closed forms, without
 * randomness. Once scattered light is exact for uniform and height media; light scattered more often is that of a
 * plane layer (optics/eddington) as deep as the air above and below each point. Break-up and soft edges are left out.
 */
import { LIGHT_SPOT } from "../../layout/kinds";
import { PHASE_DROPLETS, PHASE_HENYEY_GREENSTEIN, PHASE_RAYLEIGH, PHASE_TWO_LOBE } from "../../layout/kinds";
import {
  P_LIGHT_COUNT,
  P_DISTANT_COUNT,
  P_SUN_DIR,
  P_SUN_E,
  P_SUN_AIR,
  P_SKY_AIR,
  P_AIR_BOUNCES,
  P_GROUND,
  P_SKY_MEAN,
  M_SIGMA_S,
  M_SIGMA_T,
  M_PHASE,
  M_PHASE_1,
  M_PHASE_2,
  M_PHASE_3,
  M_PHASE_4,
  RAY_CAMERA,
  RAY_SKY,
  RAY_SHADOW,
  L_AXIS,
  L_INTENSITY,
  L_AIR,
  L_KIND,
  L_COS_INNER,
  L_COS_OUTER,
} from "../../layout/layout";
import { beamLeft, diffuseG, diffuseMean, diffuseSlope, eddington } from "../../optics/eddington";
import { lightParam, lightParamInt, param, paramInt, word, wordInt } from "./state";
import {
  beginForced,
  forcedAt,
  forcedSegments,
  forcedSlope,
  scatterersAt,
  scattererOfSegment,
  mediumEmissionR,
  mediumEmissionG,
  mediumEmissionB,
  segA,
  segB,
} from "./forced";
import { opticalDepth, depthR, depthG, depthB, transmit, tr, tg, tb } from "./transmit";
import { scatterer, scattererWeight, scattererCount } from "./scatterers";
import { phaseAt, phR, phG, phB } from "./phase";
import { lightFromMiddle, mediaMask, SUN, SKY, MEDIUM_EMISSION, lR, lG, lB, lx, ly, lz, lDistance } from "./lights";
import { accumulate, groupOf, keepsGroups } from "./accumulate";
import { closestApproach, approachT, approachGap, conePart, coneA, coneB } from "./closest-approach";

/** Part of what veil() gathered that the media emit themselves. */
export let veilEmissionR: f64 = 0.0;
export let veilEmissionG: f64 = 0.0;
export let veilEmissionB: f64 = 0.0;

/** Gauss–Legendre nodes and weights of twelve points on [-1, 1], half of them (Abramowitz and Stegun, table 25.4). */
const NODES: StaticArray<f64> = [
  0.1252334085114689, 0.3678314989981802, 0.5873179542866175, 0.7699026741943047, 0.9041172563704749, 0.9815606342467192,
];
const WEIGHTS: StaticArray<f64> = [
  0.2491470458134028, 0.2334925365383548, 0.2031674267230659, 0.1600783285433462, 0.1069393259953184, 0.0471753363865118,
];

// @ts-ignore: decorator
@inline
function node(i: i32): f64 {
  return i < 6 ? 0.5 - 0.5 * NODES[i] : 0.5 + 0.5 * NODES[i - 6];
}
// @ts-ignore: decorator
@inline
function weight(i: i32): f64 {
  return 0.5 * WEIGHTS[i < 6 ? i : i - 6];
}

/** Mean cosine of a medium's phase function. */
function meanCosine(p: usize): f64 {
  const model = wordInt(p, M_PHASE);
  if (model == PHASE_HENYEY_GREENSTEIN) return word(p, M_PHASE_1);
  if (model == PHASE_TWO_LOBE) return word(p, M_PHASE_1) + word(p, M_PHASE_3) * (word(p, M_PHASE_2) - word(p, M_PHASE_1));
  if (model == PHASE_RAYLEIGH) return 0.0;
  if (model != PHASE_DROPLETS) unreachable();
  const g = word(p, M_PHASE_2),
    a = word(p, M_PHASE_3),
    s = word(p, M_PHASE_4);
  // mean cosine of Draine's function
  const d = (g * (1.0 + (a * (3.0 + 2.0 * g * g)) / 5.0)) / (1.0 + (a * (1.0 + 2.0 * g * g)) / 3.0);
  return (1.0 - s) * word(p, M_PHASE_1) + s * d;
}

// of the scatterers at a point: albedo per band and mean cosine
let alR: f64 = 0.0,
  alG: f64 = 0.0,
  alB: f64 = 0.0,
  mean: f64 = 0.0;
let wR: f64 = 0.0,
  wG: f64 = 0.0,
  wB: f64 = 0.0;

function mixture(): void {
  wR = 0.0;
  wG = 0.0;
  wB = 0.0;
  let tR = 0.0,
    tG = 0.0,
    tB = 0.0,
    g = 0.0,
    all = 0.0;
  for (let i = 0; i < scattererCount; i++) {
    const p = scatterer(i);
    const a = scattererWeight(i, 0),
      b = scattererWeight(i, 1),
      c = scattererWeight(i, 2);
    wR += a;
    wG += b;
    wB += c;
    tR += ratio(p, 0, a);
    tG += ratio(p, 1, b);
    tB += ratio(p, 2, c);
    g += (a + b + c) * meanCosine(p);
    all += a + b + c;
  }
  alR = tR > 0.0 ? wR / tR : 0.0;
  alG = tG > 0.0 ? wG / tG : 0.0;
  alB = tB > 0.0 ? wB / tB : 0.0;
  mean = all > 0.0 ? g / all : 0.0;
}
// @ts-ignore: decorator
@inline
function ratio(p: usize, band: i32, w: f64): f64 {
  const s = word(p, M_SIGMA_S + band);
  return s > 0.0 ? (w * word(p, M_SIGMA_T + band)) / s : 0.0;
}

/** Light of one band scattered more than once, of the sun and of the sky (weights 0 or 1), at a point whose air above and below is known. */
// @ts-ignore: decorator
@inline
function many(above: f64, below: f64, along: f64, omega: f64, band: i32, mu0: f64, dy: f64, withSun: f64, withSky: f64): f64 {
  if (omega <= 0.0) return 0.0;
  const sun = withSun * param(P_SUN_E + band) * param(P_SUN_AIR);
  // the sun's own depth says how deep the layer is for it, where the air is no plane layer
  const m = mu0 > 0.02 && along > 0.0 && above > 1e-9 ? Math.min(1.0, Math.max(0.02, above / along)) : Math.max(mu0, 0.02);
  eddington(above, above + below, omega, mean, mu0 > 0.0 ? m : 0.0, sun, withSky * param(P_SKY_MEAN + band) * param(P_SKY_AIR), 0.25);
  // light that travels along -d reaches the lens: its cosine downwards is that of d upwards
  return Math.max(0.0, diffuseMean + diffuseG * dy * diffuseSlope);
}

/** Light of sun, moon and sky, and glow, by way of the air of segment s at distance t. */
function addPoint(s: i32, t: f64, k: f64, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, ray: i32): void {
  const scatters = scattererOfSegment(s, t);
  const gR = mediumEmissionR,
    gG = mediumEmissionG,
    gB = mediumEmissionB;
  transmit(ox, oy, oz, dx, dy, dz, t, ray);
  const cR = k * tr,
    cG = k * tg,
    cB = k * tb;
  veilEmissionR += cR * gR;
  veilEmissionG += cG * gG;
  veilEmissionB += cB * gB;
  if (gR + gG + gB > 0.0) accumulate(groupOf(MEDIUM_EMISSION), cR * gR, cG * gG, cB * gB);
  if (!scatters) return;
  mixture();
  const x = ox + t * dx,
    y = oy + t * dy,
    z = oz + t * dz;
  const sx = param(P_SUN_DIR),
    sy = param(P_SUN_DIR + 1),
    sz = param(P_SUN_DIR + 2);
  const multiple = paramInt(P_AIR_BOUNCES) > 1;
  opticalDepth(x, y, z, sx, sy, sz, Infinity);
  const aR = depthR,
    aG = depthG,
    aB = depthB;
  phaseAt(dx * sx + dy * sy + dz * sz, mediaMask(SUN));
  const share = param(P_SUN_AIR);
  const bR = multiple ? beamLeft(aR, alR, mean) : Math.exp(-aR);
  const bG = multiple ? beamLeft(aG, alG, mean) : Math.exp(-aG);
  const bB = multiple ? beamLeft(aB, alB, mean) : Math.exp(-aB);
  accumulate(
    groupOf(SUN),
    cR * phR * param(P_SUN_E) * share * bR,
    cG * phG * param(P_SUN_E + 1) * share * bG,
    cB * phB * param(P_SUN_E + 2) * share * bB,
  );
  const distant = paramInt(P_DISTANT_COUNT);
  for (let i = 0; i < distant; i++) {
    const mx = lightParam(i, L_AXIS),
      my = lightParam(i, L_AXIS + 1),
      mz = lightParam(i, L_AXIS + 2);
    opticalDepth(x, y, z, mx, my, mz, Infinity);
    phaseAt(dx * mx + dy * my + dz * mz, mediaMask(i));
    const q = lightParam(i, L_AIR);
    accumulate(
      groupOf(i),
      cR * phR * q * lightParam(i, L_INTENSITY) * Math.exp(-depthR),
      cG * phG * q * lightParam(i, L_INTENSITY + 1) * Math.exp(-depthG),
      cB * phB * q * lightParam(i, L_INTENSITY + 2) * Math.exp(-depthB),
    );
  }
  opticalDepth(x, y, z, 0.0, 1.0, 0.0, Infinity);
  const uR = depthR,
    uG = depthG,
    uB = depthB;
  if (!multiple) {
    // the sky once scattered: even, seen through the air above
    const m = 1.66,
      q = param(P_SKY_AIR);
    accumulate(
      groupOf(SKY),
      cR * wR * param(P_SKY_MEAN) * q * Math.exp(-m * uR),
      cG * wG * param(P_SKY_MEAN + 1) * q * Math.exp(-m * uG),
      cB * wB * param(P_SKY_MEAN + 2) * q * Math.exp(-m * uB),
    );
    return;
  }
  opticalDepth(x, y, z, 0.0, -1.0, 0.0, Math.max(1e-3, y - param(P_GROUND)));
  const dR = depthR,
    dG = depthG,
    dB = depthB;
  if (!keepsGroups()) {
    accumulate(
      0,
      cR * wR * many(uR, dR, aR, alR, 0, sy, dy, 1.0, 1.0),
      cG * wG * many(uG, dG, aG, alG, 1, sy, dy, 1.0, 1.0),
      cB * wB * many(uB, dB, aB, alB, 2, sy, dy, 1.0, 1.0),
    );
    return;
  }
  accumulate(
    groupOf(SUN),
    cR * wR * many(uR, dR, aR, alR, 0, sy, dy, 1.0, 0.0),
    cG * wG * many(uG, dG, aG, alG, 1, sy, dy, 1.0, 0.0),
    cB * wB * many(uB, dB, aB, alB, 2, sy, dy, 1.0, 0.0),
  );
  accumulate(
    groupOf(SKY),
    cR * wR * many(uR, dR, aR, alR, 0, sy, dy, 0.0, 1.0),
    cG * wG * many(uG, dG, aG, alG, 1, sy, dy, 0.0, 1.0),
    cB * wB * many(uB, dB, aB, alB, 2, sy, dy, 0.0, 1.0),
  );
}

/** Light of one local light by way of the air at distance t of the ray. */
function addLocal(i: i32, t: f64, k: f64, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, ray: i32): void {
  if (!scatterersAt(t)) return;
  const x = ox + t * dx,
    y = oy + t * dy,
    z = oz + t * dz;
  transmit(ox, oy, oz, dx, dy, dz, t, ray);
  const cR = k * tr,
    cG = k * tg,
    cB = k * tb;
  lightFromMiddle(i, x, y, z);
  if (lR + lG + lB <= 0.0) return;
  const eR = lR,
    eG = lG,
    eB = lB,
    ux = lx,
    uy = ly,
    uz = lz,
    far = lDistance;
  phaseAt(dx * ux + dy * uy + dz * uz, mediaMask(i));
  transmit(x, y, z, ux, uy, uz, far, RAY_SHADOW);
  const q = lightParam(i, L_AIR);
  accumulate(groupOf(i), cR * phR * q * eR * tr, cG * phG * q * eG * tg, cB * phB * q * eB * tb);
}

/** Gathers the veil of [0, tHit] of a camera ray. */
export function veil(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tHit: f64): void {
  veilEmissionR = 0.0;
  veilEmissionG = 0.0;
  veilEmissionB = 0.0;
  const ray = tHit < Infinity ? RAY_CAMERA : RAY_SKY;
  if (!beginForced(ox, oy, oz, dx, dy, dz, tHit, ray)) return;
  // over each medium's own part, by what it lets through, where its light comes from
  const segments = forcedSegments();
  for (let s = 0; s < segments; s++)
    for (let i = 0; i < 12; i++) {
      const t = forcedAt(s, node(i));
      if (!(t >= 0.0) || !(t < Infinity)) continue;
      const p = forcedSlope(s, t);
      if (p > 0.0) addPoint(s, t, weight(i) / p, ox, oy, oz, dx, dy, dz, ray);
    }
  const end = segB < Infinity ? segB : segA + 1e6;
  for (let i = paramInt(P_DISTANT_COUNT); i < paramInt(P_LIGHT_COUNT); i++) {
    if (lightParam(i, L_AIR) <= 0.0 || !closestApproach(i, ox, oy, oz, dx, dy, dz)) continue;
    // where a spot's light begins, is whole and ends, no node may straddle; halves elsewhere, since near lights bend the integrand
    let first = segA,
      last = end,
      parts = 2;
    if (lightParamInt(i, L_KIND) == LIGHT_SPOT) {
      if (conePart(i, lightParam(i, L_COS_OUTER), 0.0, ox, oy, oz, dx, dy, dz, segA, end)) {
        if (coneB <= coneA) continue;
        first = coneA;
        last = coneB;
      }
      if (conePart(i, lightParam(i, L_COS_INNER), 0.0, ox, oy, oz, dx, dy, dz, first, last) && coneB > coneA) parts = 3;
    }
    const from = Math.atan((first - approachT) / approachGap),
      to = Math.atan((last - approachT) / approachGap);
    const one = parts == 3 ? Math.atan((coneA - approachT) / approachGap) : 0.5 * (from + to),
      two = parts == 3 ? Math.atan((coneB - approachT) / approachGap) : to;
    for (let h = 0; h < parts; h++) {
      const low = h == 0 ? from : h == 1 ? one : two,
        high = h == 0 ? one : h == 1 ? two : to;
      if (!(high > low)) continue;
      for (let j = 0; j < 12; j++) {
        const a = low + (high - low) * node(j);
        const c = Math.cos(a);
        const t = Math.max(first, Math.min(last, approachT + approachGap * Math.tan(a)));
        addLocal(i, t, (weight(j) * (high - low) * approachGap) / (c * c), ox, oy, oz, dx, dy, dz, ray);
      }
    }
  }
}
