/** What one chosen light gives by way of a point in the air or on a surface. */
import { FAR, MIN_LENGTH, POSITION_ERROR, SHADOW_REACH } from "./precision";
import { REGION_EVERYWHERE, REGION_LAYER, REGION_MESH } from "../../layout/kinds";
import { RAY_SHADOW, M_SIGMA_T, M_EMISSION, M_REGION, M_CENTRE, M_ROWS, M_HALF } from "../../layout/layout";
import { word, wordInt } from "./state";
import { random } from "./random";
import { anyHit, passR, passG, passB } from "./bvh";
import { transmit, tr, tg, tb } from "./transmit";
import { densityAt, mediumAt } from "./density";
import { mediumCount } from "./segments";
import { clip, clipA, clipB, insideMesh } from "./region";
import { phaseAt, phR, phG, phB, samplePhase, chooseScatterer, chR, chG, chB, px, py, pz, mixture } from "./phase";
import {
  SUN,
  SKY,
  MEDIUM_EMISSION,
  sampleSun,
  lightFrom,
  airShare,
  surfaceShare,
  mediaMask,
  lR,
  lG,
  lB,
  lx,
  ly,
  lz,
  lDistance,
  lPdf,
  lBeside,
  lightError,
} from "./lights";
import { sky, hasEnvironment, skyR, skyG, skyB } from "./sky";
import { sampleSky, sideOf, skyCellAt, skyPdf, toX, toY, toZ } from "./light-cells";
import { afterLight, atLight } from "./activity";
import { countLightRay, accumulate, groupOf, lightGroupOf } from "./accumulate";
import { temperatureAt, temperatureR, temperatureG, temperatureB } from "./temperature";
import { gx, gy, gz, positionError } from "./hit-frame";
import { bsdf, bsdfPdf, sampleBsdf, DELTA_PDF, fR, fG, fB, sx, sy, sz, wR, wG, wB } from "./bsdf";

// point moved off a surface
export let qx: f64 = 0.0;
export let qy: f64 = 0.0;
export let qz: f64 = 0.0;
/** Whether the sky is bright in places: then it is drawn from by itself, and weighed against what meets it by chance. */
export let environment: bool = false;

/** Reads from the parameters whether the sky is an environment map. */
export function prepareDirect(): void {
  environment = hasEnvironment();
}

// @ts-ignore: decorator
@inline
function visible(x: f64, y: f64, z: f64, dx: f64, dy: f64, dz: f64, distance: f64): bool {
  // stops a hair short of the light, so that a light on a surface, or one that is a surface, is not shadowed by it
  const far: f32 = distance < FAR ? <f32>(distance * SHADOW_REACH - POSITION_ERROR * (farthest(x, y, z) + distance) - iSlack) : <f32>FAR;
  return !anyHit(<f32>x, <f32>y, <f32>z, <f32>dx, <f32>dy, <f32>dz, far);
}

// @ts-ignore: decorator
@inline
function farthest(x: f64, y: f64, z: f64): f64 {
  return Math.max(Math.abs(x), Math.max(Math.abs(y), Math.abs(z)));
}

/** Moves the surface point to the side on which direction d leaves it. */
export function offsetRayOrigin(x: f64, y: f64, z: f64, dx: f64, dy: f64, dz: f64): void {
  const e = positionError + POSITION_ERROR * farthest(x, y, z);
  const k = dx * gx + dy * gy + dz * gz >= 0.0 ? e : -e;
  qx = x + k * gx;
  qy = y + k * gy;
  qz = z + k * gz;
}

// what arrives from a point of glowing air or of the sky
let iR: f64 = 0.0,
  iG: f64 = 0.0,
  iB: f64 = 0.0;
let iGroup: i32 = 0;
// how far it may lie off the surface that shines
let iSlack: f64 = 0.0;
// direction to it and distance
let idx: f64 = 0.0,
  idy: f64 = 0.0,
  idz: f64 = 0.0,
  iDistance: f64 = 0.0;

/** Volume of the box about a medium's region; 0 where it has none. */
function boxVolume(p: usize): f64 {
  const kind = wordInt(p, M_REGION);
  if (kind == REGION_EVERYWHERE || kind == REGION_LAYER) return 0.0;
  return 8.0 * word(p, M_HALF) * word(p, M_HALF + 1) * word(p, M_HALF + 2);
}

/** One of the media that glow; they are few. @returns its record; `glowChance` its chance */
let glowChance: f64 = 0.0;
function chooseGlow(): usize {
  let sum = 0.0;
  for (let m = 0; m < mediumCount; m++) {
    const p = mediumAt(m);
    sum += Math.min(1.0, word(p, M_EMISSION) + word(p, M_EMISSION + 1) + word(p, M_EMISSION + 2));
  }
  let u = random() * sum;
  let chosen: usize = 0;
  for (let m = 0; m < mediumCount; m++) {
    const p = mediumAt(m);
    const e = Math.min(1.0, word(p, M_EMISSION) + word(p, M_EMISSION + 1) + word(p, M_EMISSION + 2));
    if (e <= 0.0) continue;
    chosen = p;
    glowChance = e / sum;
    if (u < e) break;
    u -= e;
  }
  return chosen;
}

/**
 * A point of glowing medium p seen from x: by the given direction (drawn with density `pdf`) and uniformly
 * along it, or uniformly in the box about the region; each weighed against the other. Sets i…: luminance
 * gained × density⁻¹ still without phase or BSDF. @returns whether there is anything
 */
function glowAlong(p: usize, x: f64, y: f64, z: f64, dx: f64, dy: f64, dz: f64, pdf: f64, u: f64): bool {
  if (!(pdf > 0.0) || !clip(p, x, y, z, dx, dy, dz, 1e9)) return false;
  const length = clipB - clipA;
  const volume = boxVolume(p);
  idx = dx;
  idy = dy;
  idz = dz;
  let t: f64, along: f64;
  if (volume > 0.0) {
    t = clipA + u * length;
    along = 1.0 / length;
  } else {
    // without an end near, by what the medium itself lets through
    const rate = Math.max(1e-6, (word(p, M_SIGMA_T) + word(p, M_SIGMA_T + 1) + word(p, M_SIGMA_T + 2)) / 3.0);
    const norm = -Math.expm1(-rate * length);
    t = clipA - Math.log1p(-u * norm) / rate;
    along = (rate * Math.exp(-rate * (t - clipA))) / norm;
  }
  iDistance = t;
  // the densities times t²: per metre of the ray and steradian
  const density = volume > 0.0 ? 0.5 * pdf * along + (0.5 * t * t) / volume : pdf * along;
  return glowAt(p, x + t * dx, y + t * dy, z + t * dz, 1.0 / density);
}

function glowAt(p: usize, x: f64, y: f64, z: f64, k: f64): bool {
  k *= densityAt(p, x, y, z);
  if (!(k > 0.0) || (wordInt(p, M_REGION) == REGION_MESH && !insideMesh(p, x, y, z))) return false;
  temperatureAt(p, x, y, z);
  iR = k * word(p, M_EMISSION) * temperatureR;
  iG = k * word(p, M_EMISSION + 1) * temperatureG;
  iB = k * word(p, M_EMISSION + 2) * temperatureB;
  return true;
}

/** A point drawn in the box about medium p's region; sets the direction to it. @returns false where it lies outside */
function glowPoint(p: usize, x: f64, y: f64, z: f64): bool {
  const a = (2.0 * random() - 1.0) * word(p, M_HALF);
  const b = (2.0 * random() - 1.0) * word(p, M_HALF + 1);
  const c = (2.0 * random() - 1.0) * word(p, M_HALF + 2);
  const yx = word(p, M_CENTRE) + a * word(p, M_ROWS) + b * word(p, M_ROWS + 3) + c * word(p, M_ROWS + 6);
  const yy = word(p, M_CENTRE + 1) + a * word(p, M_ROWS + 1) + b * word(p, M_ROWS + 4) + c * word(p, M_ROWS + 7);
  const yz = word(p, M_CENTRE + 2) + a * word(p, M_ROWS + 2) + b * word(p, M_ROWS + 5) + c * word(p, M_ROWS + 8);
  idx = yx - x;
  idy = yy - y;
  idz = yz - z;
  iDistance = Math.sqrt(idx * idx + idy * idy + idz * idz);
  if (!(iDistance > MIN_LENGTH)) return false;
  idx /= iDistance;
  idy /= iDistance;
  idz /= iDistance;
  return clip(p, x, y, z, idx, idy, idz, 1e9) && iDistance >= clipA && iDistance <= clipB;
}

/** Adds br × i × transmittance where nothing is in the way. */
function gather(x: f64, y: f64, z: f64, br: f64, bg: f64, bb: f64): void {
  countLightRay(iGroup);
  if (!visible(x, y, z, idx, idy, idz, iDistance)) return;
  const r = br * iR * passR,
    g = bg * iG * passG,
    b = bb * iB * passB;
  transmit(x, y, z, idx, idy, idz, iDistance, RAY_SHADOW);
  accumulate(iGroup, r * tr, g * tg, b * tb);
}

/** Adds light of weight (r, g, b) that a light sends along a direction from a point moved off a surface, where nothing is in the way. */
export function gatherFrom(light: i32, x: f64, y: f64, z: f64, dx: f64, dy: f64, dz: f64, distance: f64, r: f64, g: f64, b: f64): void {
  iGroup = groupOf(light);
  iSlack = 0.0;
  idx = dx;
  idy = dy;
  idz = dz;
  iDistance = distance;
  iR = 1.0;
  iG = 1.0;
  iB = 1.0;
  gather(x, y, z, r, g, b);
}

/**
 * Light that one chosen light sends by way of a point in the air whose scatterers are listed.
 * @param goesOn whether the path goes on from here by itself and may meet the sky
 */
export function directInMedium(
  light: i32,
  chanceOf: f64,
  x: f64,
  y: f64,
  z: f64,
  wx: f64,
  wy: f64,
  wz: f64,
  br: f64,
  bg: f64,
  bb: f64,
  u: f64,
  v: f64,
  goesOn: bool,
): void {
  const p = airShare(light) / chanceOf;
  if (p <= 0.0) return;
  iGroup = groupOf(light);
  atLight(lightGroupOf(light));
  lightMedium(light, p, chanceOf, x, y, z, wx, wy, wz, br, bg, bb, u, v, goesOn);
  afterLight();
}

/** The same of a light that lights the air. @param p its share by its chance */
function lightMedium(
  light: i32,
  p: f64,
  chanceOf: f64,
  x: f64,
  y: f64,
  z: f64,
  wx: f64,
  wy: f64,
  wz: f64,
  br: f64,
  bg: f64,
  bb: f64,
  u: f64,
  v: f64,
  goesOn: bool,
): void {
  iSlack = 0.0;
  br *= p;
  bg *= p;
  bb *= p;
  if (light == SKY) {
    lightAirFromSky(chanceOf, x, y, z, wx, wy, wz, br, bg, bb, u, v, goesOn);
    return;
  }
  if (light == MEDIUM_EMISSION) {
    const m = chooseGlow();
    const volume = boxVolume(m);
    const k = 1.0 / glowChance;
    if (volume > 0.0 && random() < 0.5) {
      if (!glowPoint(m, x, y, z)) return;
      const t = iDistance,
        length = clipB - clipA;
      phaseAt(wx * idx + wy * idy + wz * idz, 0xffffffff);
      const q = mixture(wx * idx + wy * idy + wz * idz);
      if (!glowAt(m, x + t * idx, y + t * idy, z + t * idz, k / ((0.5 * q) / length + (0.5 * t * t) / volume))) return;
      gather(x, y, z, br * phR, bg * phG, bb * phB);
      return;
    }
    samplePhase(chooseScatterer(), wx, wy, wz, u, v);
    const c = wx * px + wy * py + wz * pz;
    if (!glowAlong(m, x, y, z, px, py, pz, mixture(c), random())) return;
    phaseAt(c, 0xffffffff);
    gather(x, y, z, k * br * phR, k * bg * phG, k * bb * phB);
    return;
  }
  if (light == SUN) sampleSun(u, v, x, y, z);
  else lightFrom(light, x, y, z, u, v);
  if (lR + lG + lB <= 0.0) return;
  phaseAt(wx * lx + wy * ly + wz * lz, mediaMask(light));
  if (!(phR + phG + phB > 0.0)) return;
  iR = lR;
  iG = lG;
  iB = lB;
  idx = lx;
  idy = ly;
  idz = lz;
  iDistance = lDistance;
  iSlack = lightError;
  gather(x, y, z, br * phR, bg * phG, bb * phB);
}

function lightAirFromSky(
  chanceOf: f64,
  x: f64,
  y: f64,
  z: f64,
  wx: f64,
  wy: f64,
  wz: f64,
  br: f64,
  bg: f64,
  bb: f64,
  u: f64,
  v: f64,
  goesOn: bool,
): void {
  iDistance = Infinity;
  const cell = skyCellAt(x, y, z, 0);
  const drawn = environment || cell != 0;
  if (drawn && (goesOn || random() < 0.5)) {
    sampleSky(cell, u, v);
    const ex = toX,
      ey = toY,
      ez = toZ;
    idx = ex;
    idy = ey;
    idz = ez;
    const c = wx * ex + wy * ey + wz * ez;
    const pe = skyPdf(cell, ex, ey, ez),
      pd = mixture(c);
    // against the path that goes on and meets the sky, or against the other half of these draws
    const k = goesOn ? 1.0 / (pe + pd / chanceOf) : 1.0 / (0.5 * pe + 0.5 * pd);
    phaseAt(c, 0xffffffff);
    sky(ex, ey, ez);
    iR = k * skyR;
    iG = k * skyG;
    iB = k * skyB;
    gather(x, y, z, br * phR, bg * phG, bb * phB);
    return;
  }
  const m = chooseScatterer();
  const cR = chR,
    cG = chG,
    cB = chB;
  samplePhase(m, wx, wy, wz, u, v);
  idx = px;
  idy = py;
  idz = pz;
  sky(px, py, pz);
  if (!drawn) {
    iR = skyR;
    iG = skyG;
    iB = skyB;
    gather(x, y, z, br * cR, bg * cG, bb * cB);
    return;
  }
  const c = wx * px + wy * py + wz * pz;
  const k = 1.0 / (0.5 * skyPdf(cell, px, py, pz) + 0.5 * mixture(c));
  phaseAt(c, 0xffffffff);
  iR = k * skyR;
  iG = k * skyG;
  iB = k * skyB;
  gather(x, y, z, br * phR, bg * phG, bb * phB);
}

/**
 * Light that one chosen light sends by way of the surface last read, at point x.
 * @param goesOn whether the path goes on and may meet what shines @param meets whether what it cannot meet is looked for beside it (emitters.ts)
 */
export function directOnSurface(
  light: i32,
  chanceOf: f64,
  x: f64,
  y: f64,
  z: f64,
  br: f64,
  bg: f64,
  bb: f64,
  u: f64,
  v: f64,
  goesOn: bool,
  meets: bool,
): void {
  const p = surfaceShare(light) / chanceOf;
  if (p <= 0.0) return;
  iGroup = groupOf(light);
  atLight(lightGroupOf(light));
  lightSurface(light, p, chanceOf, x, y, z, br, bg, bb, u, v, goesOn, meets);
  afterLight();
}

/** The same of a light that lights surfaces. @param p its share by its chance */
function lightSurface(
  light: i32,
  p: f64,
  chanceOf: f64,
  x: f64,
  y: f64,
  z: f64,
  br: f64,
  bg: f64,
  bb: f64,
  u: f64,
  v: f64,
  goesOn: bool,
  meets: bool,
): void {
  iSlack = 0.0;
  br *= p;
  bg *= p;
  bb *= p;
  if (light == SKY) {
    iDistance = Infinity;
    const cell = skyCellAt(x, y, z, sideOf(gx, gy, gz));
    const drawn = environment || cell != 0;
    if (drawn && (goesOn || random() < 0.5)) {
      sampleSky(cell, u, v);
      const ex = toX,
        ey = toY,
        ez = toZ;
      bsdf(ex, ey, ez);
      if (fR + fG + fB <= 0.0) return;
      const pe = skyPdf(cell, ex, ey, ez);
      const k = goesOn ? 1.0 / (pe + bsdfPdf / chanceOf) : 1.0 / (0.5 * pe + 0.5 * bsdfPdf);
      idx = ex;
      idy = ey;
      idz = ez;
      sky(ex, ey, ez);
      iR = k * skyR;
      iG = k * skyG;
      iB = k * skyB;
      offsetRayOrigin(x, y, z, ex, ey, ez);
      gather(qx, qy, qz, br * fR, bg * fG, bb * fB);
      return;
    }
    if (!sampleBsdf(u, v) || bsdfPdf >= DELTA_PDF) return;
    const a = wR,
      b = wG,
      c = wB;
    idx = sx;
    idy = sy;
    idz = sz;
    sky(sx, sy, sz);
    let k = 1.0;
    if (drawn) k = bsdfPdf / (0.5 * skyPdf(cell, sx, sy, sz) + 0.5 * bsdfPdf);
    iR = k * skyR;
    iG = k * skyG;
    iB = k * skyB;
    offsetRayOrigin(x, y, z, sx, sy, sz);
    gather(qx, qy, qz, br * a, bg * b, bb * c);
    return;
  }
  if (light == MEDIUM_EMISSION) {
    const m = chooseGlow();
    const volume = boxVolume(m);
    const k = 1.0 / glowChance;
    if (volume > 0.0 && random() < 0.5) {
      if (!glowPoint(m, x, y, z)) return;
      const t = iDistance,
        length = clipB - clipA;
      bsdf(idx, idy, idz);
      if (fR + fG + fB <= 0.0) return;
      if (!glowAt(m, x + t * idx, y + t * idy, z + t * idz, k / ((0.5 * bsdfPdf) / length + (0.5 * t * t) / volume))) return;
      offsetRayOrigin(x, y, z, idx, idy, idz);
      gather(qx, qy, qz, br * fR, bg * fG, bb * fB);
      return;
    }
    if (!sampleBsdf(u, v) || bsdfPdf >= DELTA_PDF) return;
    const a = wR * bsdfPdf,
      b = wG * bsdfPdf,
      c = wB * bsdfPdf;
    if (!glowAlong(m, x, y, z, sx, sy, sz, bsdfPdf, random())) return;
    offsetRayOrigin(x, y, z, idx, idy, idz);
    gather(qx, qy, qz, k * br * a, k * bg * b, k * bb * c);
    return;
  }
  if (light == SUN) sampleSun(u, v, x, y, z);
  else lightFrom(light, x, y, z, u, v);
  if (lR + lG + lB <= 0.0) return;
  bsdf(lx, ly, lz);
  if (fR + fG + fB <= 0.0) return;
  // it may also be met by a direction drawn from the surface
  const k = lPdf > 0.0 && (lBeside ? meets : goesOn) ? lPdf / (lPdf + bsdfPdf / chanceOf) : 1.0;
  iR = k * lR;
  iG = k * lG;
  iB = k * lB;
  idx = lx;
  idy = ly;
  idz = lz;
  iDistance = lDistance;
  iSlack = lightError;
  offsetRayOrigin(x, y, z, lx, ly, lz);
  // from the point moved off the surface to the same point of the light: a parallel ray would meet an emissive surface before its end
  if (lDistance < FAR) towards(x + lDistance * lx - qx, y + lDistance * ly - qy, z + lDistance * lz - qz);
  gather(qx, qy, qz, br * fR, bg * fG, bb * fB);
}

/** Sets the direction and distance of what arrives. */
function towards(dx: f64, dy: f64, dz: f64): void {
  const d = Math.sqrt(dx * dx + dy * dy + dz * dz);
  if (!(d > 0.0)) return;
  iDistance = d;
  idx = dx / d;
  idy = dy / d;
  idz = dz / d;
}
