/** Sun, sky and local lights: what arrives at a point from where, and which light to ask. */
import {
  L_KIND, L_POSITION, L_AXIS, L_INTENSITY, L_COS_INNER, L_COS_OUTER, P_SUN_E, P_SUN_DIR,
  P_SUN_COS, P_SUN_DISK, P_SKY_ZENITH, P_SKY_HORIZON, P_LIGHT_COUNT,
} from "../../scene/layout";
import { param, lightParam } from "./state";

/** Set by sky() and by lightFrom(): radiance, or irradiance on a plane facing the light, per band. */
export let lR: f64 = 0.0;
export let lG: f64 = 0.0;
export let lB: f64 = 0.0;
/** Set by sampleSun() and lightFrom(): unit direction to the light, and its distance. */
export let lx: f64 = 0.0;
export let ly: f64 = 0.0;
export let lz: f64 = 0.0;
export let lDistance: f64 = 0.0;

export const SUN: i32 = -1;
export const SKY: i32 = -2;
export const NONE: i32 = -3;

let sunPower: f64 = 0.0;
let skyPower: f64 = 0.0;
let localCount: i32 = 0;

const INV_4PI: f64 = 0.07957747154594767;

export function prepareLights(): void {
  sunPower = param(P_SUN_E) + param(P_SUN_E + 1) + param(P_SUN_E + 2);
  skyPower = 0.0;
  for (let i = 0; i < 3; i++) skyPower += 0.5 * (param(P_SKY_ZENITH + i) + param(P_SKY_HORIZON + i));
  localCount = <i32>param(P_LIGHT_COUNT);
}

/** Sky radiance along a direction: from horizon to zenith with the sine of the elevation. */
export function sky(dy: f64): void {
  const t = Math.max(0.0, Math.min(1.0, dy));
  lR = param(P_SKY_HORIZON) + (param(P_SKY_ZENITH) - param(P_SKY_HORIZON)) * t;
  lG = param(P_SKY_HORIZON + 1) + (param(P_SKY_ZENITH + 1) - param(P_SKY_HORIZON + 1)) * t;
  lB = param(P_SKY_HORIZON + 2) + (param(P_SKY_ZENITH + 2) - param(P_SKY_HORIZON + 2)) * t;
}

/** Sky and, where the document shows it, the sun's disk, as the lens sees them. */
export function background(dx: f64, dy: f64, dz: f64): void {
  sky(dy);
  if (param(P_SUN_DISK) == 0.0) return;
  const c = dx * param(P_SUN_DIR) + dy * param(P_SUN_DIR + 1) + dz * param(P_SUN_DIR + 2);
  const edge = param(P_SUN_COS);
  if (c < edge) return;
  const perSteradian = 1.0 / (6.283185307179586 * (1.0 - edge));
  lR += param(P_SUN_E) * perSteradian;
  lG += param(P_SUN_E + 1) * perSteradian;
  lB += param(P_SUN_E + 2) * perSteradian;
}

/** Direction uniform in the sun's disk; sets lx, ly, lz, lDistance and the irradiance. */
export function sampleSun(u: f64, v: f64): void {
  const sx = param(P_SUN_DIR), sy = param(P_SUN_DIR + 1), sz = param(P_SUN_DIR + 2);
  const c = 1.0 - u * (1.0 - param(P_SUN_COS));
  const s = Math.sqrt(Math.max(0.0, 1.0 - c * c));
  const phi = 6.283185307179586 * v;
  const a = s * Math.cos(phi), b = s * Math.sin(phi);
  const sign = sz >= 0.0 ? 1.0 : -1.0;
  const k = -1.0 / (sign + sz);
  const m = sx * sy * k;
  lx = a * (1.0 + sign * sx * sx * k) + b * m + c * sx;
  ly = a * (sign * m) + b * (sign + sy * sy * k) + c * sy;
  lz = a * (-sign * sx) + b * -sy + c * sz;
  lDistance = Infinity;
  lR = param(P_SUN_E);
  lG = param(P_SUN_E + 1);
  lB = param(P_SUN_E + 2);
}

/** Irradiance of local light `i` at a point; sets direction and distance. */
export function lightFrom(i: i32, x: f64, y: f64, z: f64): void {
  const px = lightParam(i, L_POSITION) - x, py = lightParam(i, L_POSITION + 1) - y, pz = lightParam(i, L_POSITION + 2) - z;
  const d2 = Math.max(px * px + py * py + pz * pz, 1e-12);
  lDistance = Math.sqrt(d2);
  const inv = 1.0 / lDistance;
  lx = px * inv;
  ly = py * inv;
  lz = pz * inv;
  let k = 1.0 / d2;
  if (lightParam(i, L_KIND) == 1.0) {
    const c = -(lx * lightParam(i, L_AXIS) + ly * lightParam(i, L_AXIS + 1) + lz * lightParam(i, L_AXIS + 2));
    const inner = lightParam(i, L_COS_INNER), outer = lightParam(i, L_COS_OUTER);
    const t = Math.max(0.0, Math.min(1.0, (c - outer) / Math.max(inner - outer, 1e-9)));
    k *= t * t * (3.0 - 2.0 * t);
  }
  lR = k * lightParam(i, L_INTENSITY);
  lG = k * lightParam(i, L_INTENSITY + 1);
  lB = k * lightParam(i, L_INTENSITY + 2);
}

/** Nearest approach of a ray to light i, and the gap there. */
export let nearT: f64 = 0.0;
export let nearGap: f64 = 0.0;
export function approach(i: i32, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64): void {
  const px = lightParam(i, L_POSITION) - ox, py = lightParam(i, L_POSITION + 1) - oy, pz = lightParam(i, L_POSITION + 2) - oz;
  nearT = px * dx + py * dy + pz * dz;
  const qx = px - nearT * dx, qy = py - nearT * dy, qz = pz - nearT * dz;
  nearGap = Math.max(1e-5, Math.sqrt(qx * qx + qy * qy + qz * qz));
}

/** Chance of the light returned by the last choose…(). */
export let chosenChance: f64 = 0.0;

const weights: usize = memory.data(512); // MAX_LIGHTS f64, rewritten before each use by one instance only in its own stack of calls

function pick(sun: f64, skyWeight: f64, localSum: f64, weightBase: usize, u: f64): i32 {
  const total = sun + skyWeight + localSum;
  if (!(total > 0.0)) return NONE;
  u *= total;
  if (u < sun) {
    chosenChance = sun / total;
    return SUN;
  }
  u -= sun;
  if (u < skyWeight) {
    chosenChance = skyWeight / total;
    return SKY;
  }
  u -= skyWeight;
  let last = NONE;
  let lastWeight = 0.0;
  for (let i = 0; i < localCount; i++) {
    const w = load<f64>(weightBase + (<usize>i << 3));
    if (w <= 0.0) continue;
    last = i;
    lastWeight = w;
    if (u < w) break;
    u -= w;
  }
  if (last == NONE) {
    // rounding at the upper end
    if (sun > 0.0) {
      chosenChance = sun / total;
      return SUN;
    }
    chosenChance = skyWeight / total;
    return skyWeight > 0.0 ? SKY : NONE;
  }
  chosenChance = lastWeight / total;
  return last;
}

/**
 * One light for a segment of air, by estimated contribution: irradiance × phase × reach for sun and
 * sky, the integral of the inverse square along the segment for local lights.
 */
export function chooseForAir(
  ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, a: f64, b: f64, reach: f64, sunPhase: f64,
  withSky: bool, weightBase: usize, u: f64,
): i32 {
  const sun = sunPower * reach * (0.5 * sunPhase + 0.5 * INV_4PI);
  const skyWeight = withSky ? skyPower * reach : 0.0;
  let sum = 0.0;
  for (let i = 0; i < localCount; i++) {
    approach(i, ox, oy, oz, dx, dy, dz);
    const angle = Math.atan((b - nearT) / nearGap) - Math.atan((a - nearT) / nearGap);
    const power = lightParam(i, L_INTENSITY) + lightParam(i, L_INTENSITY + 1) + lightParam(i, L_INTENSITY + 2);
    // reach shortens what distant parts of a long segment give
    const w = (power * INV_4PI * angle) / nearGap;
    store<f64>(weightBase + (<usize>i << 3), w);
    sum += w;
  }
  return pick(sun, skyWeight, sum, weightBase, u);
}

/** One light for a point (in the air or on a surface), by irradiance. */
export function chooseForPoint(x: f64, y: f64, z: f64, withSky: bool, weightBase: usize, u: f64): i32 {
  const skyWeight = withSky ? skyPower * 3.141592653589793 : 0.0;
  let sum = 0.0;
  for (let i = 0; i < localCount; i++) {
    lightFrom(i, x, y, z);
    const w = lR + lG + lB;
    store<f64>(weightBase + (<usize>i << 3), w);
    sum += w;
  }
  return pick(sunPower, skyWeight, sum, weightBase, u);
}
