/**
 * One sample of one pixel: the camera ray splits into light scattered towards the lens by the air
 * before the first surface, and light from that surface (or the background) as the air attenuates it.
 * Both go on as random walks with one light asked at every vertex (null-collision path integral,
 * Miller et al. 2019).
 */
import {
  P_EPSILON, P_SUN_DIR, P_LEVEL, P_AIR_BOUNCES, P_SURFACE_BOUNCES, P_AIR_SAMPLES, P_G, SCRATCH_STRIDE,
} from "../../scene/layout";
import { henyeyGreenstein, sampleHenyeyGreenstein } from "../../optics/phase";
import { equiangularSample, equiangularPdf } from "../../optics/equiangular";
import { param, scratch } from "./state";
import { pair, subSample, random, ru, rv } from "./random";
import { closestHit, anyHit, hitT } from "./bvh";
import {
  enter, beginForced, forcedDistance, forcedPdf, forcedReach, densityAt, transmit, sampleCollision,
  segA, segB, tr, tg, tb, colT, colR, colG, colB, scatterR, scatterG, scatterB,
} from "./medium";
import {
  SUN, SKY, NONE, sky, background, sampleSun, lightFrom, approach, nearT, nearGap, chooseForAir, chooseForPoint,
  chosenChance, lR, lG, lB, lx, ly, lz, lDistance,
} from "./lights";
import {
  readSurface, isBlack, bsdf, sampleBsdf, emR, emG, emB, fR, fG, fB, sx, sy, sz, wR, wG, wB, gx, gy, gz,
} from "./surface";

/** Radiance gathered by the branch last computed. */
export let outR: f64 = 0.0;
export let outG: f64 = 0.0;
export let outB: f64 = 0.0;
/** Transmittance of the camera ray, set by surfaceBranch(). */
export let camR: f64 = 1.0;
export let camG: f64 = 1.0;
export let camB: f64 = 1.0;

let g: f64 = 0.0;
let full: bool = false;
let airLimit: i32 = 1;
let surfaceLimit: i32 = 0;
let airSamples: i32 = 1;
let weightBase: usize = 0;

// direction drawn from the phase function
let px: f64 = 0.0, py: f64 = 0.0, pz: f64 = 0.0;
// point moved off a surface
let qx: f64 = 0.0, qy: f64 = 0.0, qz: f64 = 0.0;

export function preparePaths(): void {
  g = param(P_G);
  full = param(P_LEVEL) != 0.0;
  airLimit = full ? <i32>param(P_AIR_BOUNCES) : 0;
  surfaceLimit = <i32>param(P_SURFACE_BOUNCES);
  airSamples = <i32>param(P_AIR_SAMPLES);
  weightBase = scratch + SCRATCH_STRIDE - 1024;
}

// @ts-ignore: decorator
@inline
function visible(x: f64, y: f64, z: f64, dx: f64, dy: f64, dz: f64, distance: f64): bool {
  // stops a hair short of the light, so that a light on a surface is not shadowed by it
  const far: f32 = distance < 1e30 ? <f32>(distance * 0.99999) : <f32>1e30;
  return !anyHit(<f32>x, <f32>y, <f32>z, <f32>dx, <f32>dy, <f32>dz, far);
}

/** Direction (px, py, pz) around the travel direction w by the phase function. */
function samplePhase(wx: f64, wy: f64, wz: f64, u: f64, v: f64): void {
  const c = sampleHenyeyGreenstein(g, u);
  const s = Math.sqrt(Math.max(0.0, 1.0 - c * c));
  const phi = 6.283185307179586 * v;
  const a = s * Math.cos(phi), b = s * Math.sin(phi);
  const sign = wz >= 0.0 ? 1.0 : -1.0;
  const k = -1.0 / (sign + wz);
  const m = wx * wy * k;
  px = a * (1.0 + sign * wx * wx * k) + b * m + c * wx;
  py = a * (sign * m) + b * (sign + wy * wy * k) + c * wy;
  pz = a * (-sign * wx) - b * wy + c * wz;
}

/** Moves the surface point to the side on which direction d leaves it. */
function leave(x: f64, y: f64, z: f64, dx: f64, dy: f64, dz: f64): void {
  const most = Math.max(Math.abs(x), Math.max(Math.abs(y), Math.abs(z)));
  const e = param(P_EPSILON) + most * 1e-6;
  const k = dx * gx + dy * gy + dz * gz >= 0.0 ? e : -e;
  qx = x + k * gx;
  qy = y + k * gy;
  qz = z + k * gz;
}

/** Light that one chosen light sends by way of a point in the air. */
function lightAir(
  light: i32, chance: f64, x: f64, y: f64, z: f64, wx: f64, wy: f64, wz: f64, br: f64, bg: f64, bb: f64, u: f64, v: f64,
): void {
  let p = 1.0 / chance;
  if (light == SKY) {
    samplePhase(wx, wy, wz, u, v);
    if (!visible(x, y, z, px, py, pz, Infinity)) return;
    transmit(x, y, z, px, py, pz, Infinity);
    sky(py);
  } else {
    if (light == SUN) sampleSun(u, v);
    else lightFrom(light, x, y, z);
    if (lR + lG + lB <= 0.0) return;
    p *= henyeyGreenstein(wx * lx + wy * ly + wz * lz, g);
    const dx = lx, dy = ly, dz = lz;
    if (!visible(x, y, z, dx, dy, dz, lDistance)) return;
    transmit(x, y, z, dx, dy, dz, lDistance);
  }
  outR += br * p * lR * tr;
  outG += bg * p * lG * tg;
  outB += bb * p * lB * tb;
}

/** Light that one chosen light sends by way of the surface last read, at point x. */
function lightSurface(
  light: i32, chance: f64, x: f64, y: f64, z: f64, br: f64, bg: f64, bb: f64, u: f64, v: f64,
): void {
  const p = 1.0 / chance;
  if (light == SKY) {
    if (!sampleBsdf(u, v)) return;
    const dx = sx, dy = sy, dz = sz;
    leave(x, y, z, dx, dy, dz);
    if (!visible(qx, qy, qz, dx, dy, dz, Infinity)) return;
    transmit(qx, qy, qz, dx, dy, dz, Infinity);
    sky(dy);
    outR += br * p * wR * lR * tr;
    outG += bg * p * wG * lG * tg;
    outB += bb * p * wB * lB * tb;
    return;
  }
  if (light == SUN) sampleSun(u, v);
  else lightFrom(light, x, y, z);
  if (lR + lG + lB <= 0.0) return;
  bsdf(lx, ly, lz);
  if (fR + fG + fB <= 0.0) return;
  leave(x, y, z, lx, ly, lz);
  if (!visible(qx, qy, qz, lx, ly, lz, lDistance)) return;
  transmit(qx, qy, qz, lx, ly, lz, lDistance);
  outR += br * p * fR * lR * tr;
  outG += bg * p * fG * lG * tg;
  outB += bb * p * fB * lB * tb;
}

/** Random walk from a vertex already lit; adds to out. */
function walk(
  x: f64, y: f64, z: f64, dx: f64, dy: f64, dz: f64, br: f64, bg: f64, bb: f64, airCount: i32, surfaceCount: i32,
): void {
  const start = Math.max(br, Math.max(bg, bb));
  let vertices = 1;
  while (true) {
    const found = closestHit(<f32>x, <f32>y, <f32>z, <f32>dx, <f32>dy, <f32>dz, <f32>1e30);
    const t: f64 = found ? <f64>hitT : Infinity;
    let scattered = false;
    if (airCount < airLimit) {
      scattered = sampleCollision(x, y, z, dx, dy, dz, t, br, bg, bb);
      br *= colR;
      bg *= colG;
      bb *= colB;
    } else {
      transmit(x, y, z, dx, dy, dz, t);
      br *= tr;
      bg *= tg;
      bb *= tb;
    }
    if (!(br + bg + bb > 0.0)) return;
    if (scattered) {
      airCount++;
      x += colT * dx;
      y += colT * dy;
      z += colT * dz;
      const light = chooseForPoint(x, y, z, false, weightBase, random());
      if (light != NONE) lightAir(light, chosenChance, x, y, z, dx, dy, dz, br, bg, bb, random(), random());
      samplePhase(dx, dy, dz, random(), random());
      dx = px;
      dy = py;
      dz = pz;
    } else {
      if (!found) {
        sky(dy);
        outR += br * lR;
        outG += bg * lG;
        outB += bb * lB;
        return;
      }
      readSurface(dx, dy, dz);
      outR += br * emR;
      outG += bg * emG;
      outB += bb * emB;
      if (isBlack()) return;
      x += t * dx;
      y += t * dy;
      z += t * dz;
      const last = surfaceCount >= surfaceLimit;
      const light = chooseForPoint(x, y, z, last, weightBase, random());
      if (light != NONE) lightSurface(light, chosenChance, x, y, z, br, bg, bb, random(), random());
      if (last) return;
      surfaceCount++;
      if (!sampleBsdf(random(), random())) return;
      br *= wR;
      bg *= wG;
      bb *= wB;
      dx = sx;
      dy = sy;
      dz = sz;
      leave(x, y, z, dx, dy, dz);
      x = qx;
      y = qy;
      z = qz;
    }
    vertices++;
    if (vertices > 3) {
      const keep = Math.min(1.0, Math.max(br, Math.max(bg, bb)) / start);
      if (keep < 0.999) {
        if (random() >= keep) return;
        const k = 1.0 / keep;
        br *= k;
        bg *= k;
        bb *= k;
      }
    }
  }
}

/** Light scattered into the camera ray before distance tHit; sets out. */
export function airBranch(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tHit: f64): void {
  outR = 0.0;
  outG = 0.0;
  outB = 0.0;
  if (!enter(ox, oy, oz, dx, dy, dz, tHit)) return;
  if (!beginForced(oy, dy)) return;
  const a = segA, b = segB;
  const count = airSamples;
  for (let i = 0; i < count; i++) {
    subSample(<u32>i, <u32>count);
    airSample(ox, oy, oz, dx, dy, dz, a, b);
  }
  subSample(0, 1);
  const scale = 1.0 / <f64>count;
  outR *= scale;
  outG *= scale;
  outB *= scale;
}

/** One point of the camera ray's part [a, b] in the medium: the light it scatters towards the lens. */
function airSample(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, a: f64, b: f64): void {
  const sunPhase = henyeyGreenstein(dx * param(P_SUN_DIR) + dy * param(P_SUN_DIR + 1) + dz * param(P_SUN_DIR + 2), g);
  pair(1);
  const u = ru;
  const light = chooseForAir(ox, oy, oz, dx, dy, dz, a, b, forcedReach(), sunPhase, !full, weightBase, rv);
  const chance = chosenChance;
  if (light == NONE && !full) return;
  pair(2);
  let t: f64, pdf: f64;
  if (light >= 0) {
    approach(light, ox, oy, oz, dx, dy, dz);
    if (ru < 0.5) t = equiangularSample(nearT, nearGap, a, b, u);
    else t = forcedDistance(u, 2.0 * ru - 1.0);
    pdf = 0.5 * equiangularPdf(nearT, nearGap, a, b, t) + 0.5 * forcedPdf(t);
  } else {
    t = forcedDistance(u, ru);
    pdf = forcedPdf(t);
  }
  if (!(pdf > 0.0) || !(t < Infinity)) return;
  const x = ox + t * dx, y = oy + t * dy, z = oz + t * dz;
  const k = densityAt(x, y, z) / pdf;
  if (!(k > 0.0)) return;
  transmit(ox, oy, oz, dx, dy, dz, t);
  const br = k * scatterR() * tr, bg = k * scatterG() * tg, bb = k * scatterB() * tb;
  if (!(br + bg + bb > 0.0)) return;
  pair(3);
  if (light != NONE) lightAir(light, chance, x, y, z, dx, dy, dz, br, bg, bb, ru, rv);
  if (!full) return;
  pair(4);
  samplePhase(dx, dy, dz, ru, rv);
  walk(x, y, z, px, py, pz, br, bg, bb, 1, 0);
}

/**
 * Light of the first surface (or the background) as the medium attenuates it; sets out and cam.
 * Must follow the closestHit() of the camera ray at once, since it reads that hit.
 */
export function surfaceBranch(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, found: bool, tHit: f64): void {
  outR = 0.0;
  outG = 0.0;
  outB = 0.0;
  transmit(ox, oy, oz, dx, dy, dz, tHit);
  camR = tr;
  camG = tg;
  camB = tb;
  if (!found) {
    background(dx, dy, dz);
    outR = camR * lR;
    outG = camG * lG;
    outB = camB * lB;
    return;
  }
  readSurface(dx, dy, dz);
  outR = camR * emR;
  outG = camG * emG;
  outB = camB * emB;
  if (isBlack() || camR + camG + camB <= 0.0) return;
  const x = ox + tHit * dx, y = oy + tHit * dy, z = oz + tHit * dz;
  const last = surfaceLimit == 0;
  const br = camR, bg = camG, bb = camB;
  pair(5);
  const light = chooseForPoint(x, y, z, last, weightBase, ru);
  pair(6);
  if (light != NONE) lightSurface(light, chosenChance, x, y, z, br, bg, bb, ru, rv);
  if (last) return;
  pair(7);
  if (!sampleBsdf(ru, rv)) return;
  const nextX = sx, nextY = sy, nextZ = sz;
  leave(x, y, z, nextX, nextY, nextZ);
  walk(qx, qy, qz, nextX, nextY, nextZ, br * wR, bg * wG, bb * wB, 0, 1);
}
