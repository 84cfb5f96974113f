/**
 * One sample of one pixel: the camera ray splits into light scattered towards the lens by the air
 * before the first surface, and light from that surface (or the background) as the air attenuates it.
 * Both go on as random walks with one light asked at every vertex (null-collision path integral,
 * Miller et al. 2019).
 */
import {
  P_EPSILON, P_SUN_DIR, P_LEVEL, P_AIR_BOUNCES, P_SURFACE_BOUNCES, P_AIR_SAMPLES, RAY_CAMERA, RAY_SKY, RAY_INDIRECT,
  RAY_SHADOW, M_SIGMA_T, M_EMISSION, M_REGION, M_CENTRE, M_ROWS, M_HALF, P_GLOWING_MEDIA,
  P_GLOW_GROUP, P_SHINE_GROUP, P_STARS, P_SUN_DISK, P_DISTANT_COUNT,
} from "../../scene/layout";
import { equiangularSample, equiangularPdf } from "../../optics/equiangular";
import { param, word, plain } from "./state";
import { pair, subSample, random, ru, rv } from "./random";
import { closestHit, anyHit, hitT, hitTriangle, passR, passG, passB } from "./bvh";
import {
  beginForced, forcedDistance, forcedPdf, reach, segA, segB, scatterersAt, scattererOfCollision, transmit,
  sampleCollision, densityAt, mediaCount, mediumAt, tr, tg, tb, colT, colR, colG, colB, glowR, glowG, glowB,
} from "./medium";
import { clip, clipA, clipB, insideMesh, BOX, LAYER, MESH } from "./region";
import { phaseAt, phR, phG, phB, samplePhase, chooseScatterer, chR, chG, chB, px, py, pz, phaseOf, mixture, firstPhase } from "./scatter";
import {
  SUN, SKY, NONE, GLOW, sampleSun, lightFrom, airShare, surfaceShare, mediaMask, lR, lG, lB, lx, ly, lz, lDistance, lPdf,
} from "./lights";
import { sky, stars, sunDisk, moonDisk, sampleEnvironment, environmentPdf, hasEnvironment, skyR, skyG, skyB, ex, ey, ez } from "./sky";
import { prepareAir, chooseForAir, chooseForPoint, chance, allWeight, skyWeight, chanceOfTriangle } from "./choose";
import { veil, veilGlowR, veilGlowG, veilGlowB } from "./veil";
import { beginBranch, scaleBranch, give, groupOf } from "./parts";
import {
  prepareLit, estimateSun, estimated, hasBorders, left, borderDistance, borderPdf, estimateAt, atR, atG, atB, sunR, sunG, sunB,
} from "./lit";
import { heatAt, heatR, heatG, heatB } from "./heat";
import { approach, nearT, nearGap } from "./approach";
import {
  readSurface, isBlack, bsdf, bsdfPdf, sampleBsdf, sampledRay, glowIndex, glowArea, isPane, withoutPassing, paneTintR, paneTintG, paneTintB, paneChance, insideR, insideG, insideB, PASSED, emR, emG, emB, fR, fG, fB, sx, sy, sz, wR, wG, wB, gx, gy, gz,
} from "./surface";

/** Transmittance of the camera ray, set by surfaceBranch(). */
export let camR: f64 = 1.0;
export let camG: f64 = 1.0;
export let camB: f64 = 1.0;

/** Part of the light last gathered by airBranch() that the media emit themselves. */
export let glowSumR: f64 = 0.0;
export let glowSumG: f64 = 0.0;
export let glowSumB: f64 = 0.0;

let full: bool = false;
let veils: bool = false;
let airLimit: i32 = 1;
let surfaceLimit: i32 = 0;
let airSamples: i32 = 1;
let environment: bool = false;
/** Whether the sun's light by way of the present ray is estimated: what is drawn is the difference. */
let sunKnown: bool = false;

/** Panes that one way may pass straight. */
const MOST_PANES: i32 = 16;

// point moved off a surface
let qx: f64 = 0.0, qy: f64 = 0.0, qz: f64 = 0.0;

export function preparePaths(): void {
  full = param(P_LEVEL) == 1.0;
  veils = param(P_LEVEL) == 2.0;
  airLimit = full ? <i32>param(P_AIR_BOUNCES) : 0;
  surfaceLimit = <i32>param(P_SURFACE_BOUNCES);
  airSamples = <i32>param(P_AIR_SAMPLES);
  environment = hasEnvironment();
  prepareLit();
}

// @ts-ignore: decorator
@inline
function visible(x: f64, y: f64, z: f64, dx: f64, dy: f64, dz: f64, distance: f64): bool {
  // stops a hair short of the light, so that a light on a surface is not shadowed by it
  const far: f32 = distance < 1e30 ? <f32>(distance * 0.99999 - param(P_EPSILON)) : <f32>1e30;
  return !anyHit(<f32>x, <f32>y, <f32>z, <f32>dx, <f32>dy, <f32>dz, far);
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

// what arrives from a point of glowing air or of the sky
let iR: f64 = 0.0, iG: f64 = 0.0, iB: f64 = 0.0;
// direction to it, distance, and the density of drawing it, per steradian (sky) or cubic metre (glow)
let iGroup: i32 = 0;
let idx: f64 = 0.0, idy: f64 = 0.0, idz: f64 = 0.0, iDistance: f64 = 0.0;

/** Volume of the box about a medium's region; 0 where it has none. */
function boxVolume(p: usize): f64 {
  const kind = <i32>word(p, M_REGION);
  if (kind < BOX || kind == LAYER) return 0.0;
  return 8.0 * word(p, M_HALF) * word(p, M_HALF + 1) * word(p, M_HALF + 2);
}

/** One of the media that glow; they are few. @returns its record; `glowChance` its chance */
let glowChance: f64 = 0.0;
function chooseGlow(): usize {
  let sum = 0.0;
  for (let m = 0; m < mediaCount(); m++) {
    const p = mediumAt(m);
    sum += Math.min(1.0, word(p, M_EMISSION) + word(p, M_EMISSION + 1) + word(p, M_EMISSION + 2));
  }
  let u = random() * sum;
  let chosen: usize = 0;
  for (let m = 0; m < mediaCount(); m++) {
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
  idx = dx; idy = dy; idz = dz;
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
  if (!(k > 0.0) || (<i32>word(p, M_REGION) == MESH && !insideMesh(p, x, y, z))) return false;
  heatAt(p, x, y, z);
  iR = k * word(p, M_EMISSION) * heatR;
  iG = k * word(p, M_EMISSION + 1) * heatG;
  iB = k * word(p, M_EMISSION + 2) * heatB;
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
  idx = yx - x; idy = yy - y; idz = yz - z;
  iDistance = Math.sqrt(idx * idx + idy * idy + idz * idz);
  if (!(iDistance > 1e-9)) return false;
  idx /= iDistance;
  idy /= iDistance;
  idz /= iDistance;
  return clip(p, x, y, z, idx, idy, idz, 1e9) && iDistance >= clipA && iDistance <= clipB;
}

/** Adds br × i × transmittance where nothing is in the way. */
function gather(x: f64, y: f64, z: f64, br: f64, bg: f64, bb: f64): void {
  if (!visible(x, y, z, idx, idy, idz, iDistance)) return;
  const r = br * iR * passR, g = bg * iG * passG, b = bb * iB * passB;
  transmit(x, y, z, idx, idy, idz, iDistance, RAY_SHADOW);
  give(iGroup, r * tr, g * tg, b * tb);
}

/**
 * Light that one chosen light sends by way of a point in the air whose scatterers are listed.
 * @param goesOn whether the path goes on from here by itself and may meet the sky
 */
function lightAir(
  light: i32, chanceOf: f64, x: f64, y: f64, z: f64, wx: f64, wy: f64, wz: f64, br: f64, bg: f64, bb: f64, u: f64, v: f64, goesOn: bool,
): void {
  const p = airShare(light) / chanceOf;
  if (p <= 0.0) return;
  iGroup = groupOf(light);
  br *= p;
  bg *= p;
  bb *= p;
  if (light == SKY) {
    lightAirFromSky(chanceOf, x, y, z, wx, wy, wz, br, bg, bb, u, v, goesOn);
    return;
  }
  if (light == GLOW) {
    const m = chooseGlow();
    const volume = boxVolume(m);
    const k = 1.0 / glowChance;
    if (volume > 0.0 && random() < 0.5) {
      if (!glowPoint(m, x, y, z)) return;
      const t = iDistance, length = clipB - clipA;
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
  iR = lR; iG = lG; iB = lB;
  idx = lx; idy = ly; idz = lz;
  iDistance = lDistance;
  gather(x, y, z, br * phR, bg * phG, bb * phB);
}

function lightAirFromSky(
  chanceOf: f64, x: f64, y: f64, z: f64, wx: f64, wy: f64, wz: f64, br: f64, bg: f64, bb: f64, u: f64, v: f64, goesOn: bool,
): void {
  iDistance = Infinity;
  if (environment && (goesOn || random() < 0.5)) {
    sampleEnvironment(u, v);
    idx = ex; idy = ey; idz = ez;
    const c = wx * ex + wy * ey + wz * ez;
    const pe = environmentPdf(ex, ey, ez), pd = mixture(c);
    // against the path that goes on and meets the sky, or against the other half of these draws
    const k = goesOn ? 1.0 / (pe + pd / chanceOf) : 1.0 / (0.5 * pe + 0.5 * pd);
    phaseAt(c, 0xffffffff);
    sky(ex, ey, ez);
    iR = k * skyR; iG = k * skyG; iB = k * skyB;
    gather(x, y, z, br * phR, bg * phG, bb * phB);
    return;
  }
  const m = chooseScatterer();
  const cR = chR, cG = chG, cB = chB;
  samplePhase(m, wx, wy, wz, u, v);
  idx = px; idy = py; idz = pz;
  sky(px, py, pz);
  if (!environment) {
    iR = skyR; iG = skyG; iB = skyB;
    gather(x, y, z, br * cR, bg * cG, bb * cB);
    return;
  }
  const c = wx * px + wy * py + wz * pz;
  const k = 1.0 / (0.5 * environmentPdf(px, py, pz) + 0.5 * mixture(c));
  phaseAt(c, 0xffffffff);
  iR = k * skyR; iG = k * skyG; iB = k * skyB;
  gather(x, y, z, br * phR, bg * phG, bb * phB);
}

/** Light that one chosen light sends by way of the surface last read, at point x. */
function lightSurface(
  light: i32, chanceOf: f64, x: f64, y: f64, z: f64, br: f64, bg: f64, bb: f64, u: f64, v: f64, goesOn: bool,
): void {
  const p = surfaceShare(light) / chanceOf;
  if (p <= 0.0) return;
  iGroup = groupOf(light);
  br *= p;
  bg *= p;
  bb *= p;
  if (light == SKY) {
    iDistance = Infinity;
    if (environment && (goesOn || random() < 0.5)) {
      sampleEnvironment(u, v);
      bsdf(ex, ey, ez);
      if (fR + fG + fB <= 0.0) return;
      const pe = environmentPdf(ex, ey, ez);
      const k = goesOn ? 1.0 / (pe + bsdfPdf / chanceOf) : 1.0 / (0.5 * pe + 0.5 * bsdfPdf);
      idx = ex; idy = ey; idz = ez;
      sky(ex, ey, ez);
      iR = k * skyR; iG = k * skyG; iB = k * skyB;
      leave(x, y, z, ex, ey, ez);
      gather(qx, qy, qz, br * fR, bg * fG, bb * fB);
      return;
    }
    if (!sampleBsdf(u, v) || bsdfPdf >= PASSED) return;
    const a = wR, b = wG, c = wB;
    idx = sx; idy = sy; idz = sz;
    sky(sx, sy, sz);
    let k = 1.0;
    if (environment) k = bsdfPdf / (0.5 * environmentPdf(sx, sy, sz) + 0.5 * bsdfPdf);
    iR = k * skyR; iG = k * skyG; iB = k * skyB;
    leave(x, y, z, sx, sy, sz);
    gather(qx, qy, qz, br * a, bg * b, bb * c);
    return;
  }
  if (light == GLOW) {
    const m = chooseGlow();
    const volume = boxVolume(m);
    const k = 1.0 / glowChance;
    if (volume > 0.0 && random() < 0.5) {
      if (!glowPoint(m, x, y, z)) return;
      const t = iDistance, length = clipB - clipA;
      bsdf(idx, idy, idz);
      if (fR + fG + fB <= 0.0) return;
      if (!glowAt(m, x + t * idx, y + t * idy, z + t * idz, k / ((0.5 * bsdfPdf) / length + (0.5 * t * t) / volume))) return;
      leave(x, y, z, idx, idy, idz);
      gather(qx, qy, qz, br * fR, bg * fG, bb * fB);
      return;
    }
    if (!sampleBsdf(u, v) || bsdfPdf >= PASSED) return;
    const a = wR * bsdfPdf, b = wG * bsdfPdf, c = wB * bsdfPdf;
    if (!glowAlong(m, x, y, z, sx, sy, sz, bsdfPdf, random())) return;
    leave(x, y, z, idx, idy, idz);
    gather(qx, qy, qz, k * br * a, k * bg * b, k * bb * c);
    return;
  }
  if (light == SUN) sampleSun(u, v, x, y, z);
  else lightFrom(light, x, y, z, u, v);
  if (lR + lG + lB <= 0.0) return;
  bsdf(lx, ly, lz);
  if (fR + fG + fB <= 0.0) return;
  // an emissive surface may also be met by the path as it goes on
  const k = lPdf > 0.0 && goesOn ? lPdf / (lPdf + bsdfPdf / chanceOf) : 1.0;
  iR = k * lR; iG = k * lG; iB = k * lB;
  idx = lx; idy = ly; idz = lz;
  iDistance = lDistance;
  leave(x, y, z, lx, ly, lz);
  gather(qx, qy, qz, br * fR, bg * fG, bb * fB);
}

// the vertex a walk comes from, as its direct light was asked for: density of the direction taken, chances of lights
let fromPdf: f64 = 0.0, fromSky: f64 = 0.0, fromTotal: f64 = 0.0, fromX: f64 = 0.0, fromY: f64 = 0.0, fromZ: f64 = 0.0;
let fromAir: bool = false;

/** Remembers the vertex at x whose lights were last chosen from and whose next direction has density `pdf`. */
// @ts-ignore: decorator
@inline
function remember(x: f64, y: f64, z: f64, pdf: f64, total: f64, skyOf: f64, air: bool): void {
  fromX = x; fromY = y; fromZ = z;
  fromPdf = pdf;
  fromTotal = total;
  fromSky = total > 0.0 ? skyOf / total : 0.0;
  fromAir = air;
}

/** Random walk from a vertex already lit and remembered; adds to out. */
function walk(
  x: f64, y: f64, z: f64, dx: f64, dy: f64, dz: f64, br: f64, bg: f64, bb: f64, airCount: i32, surfaceCount: i32, ray: i32,
): void {
  const start = Math.max(br, Math.max(bg, bb));
  let vertices = 1;
  let panes = 0;
  // way since the vertex remembered
  let gone = 0.0;
  while (true) {
    const found = closestHit(<f32>x, <f32>y, <f32>z, <f32>dx, <f32>dy, <f32>dz, <f32>1e30);
    const t: f64 = found ? <f64>hitT : Infinity;
    let scattered = false;
    if (airCount < airLimit) {
      scattered = sampleCollision(x, y, z, dx, dy, dz, t, br, bg, bb, ray);
      br *= colR;
      bg *= colG;
      bb *= colB;
    } else {
      transmit(x, y, z, dx, dy, dz, t, ray);
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
      scattererOfCollision();
      const light = chooseForPoint(x, y, z, environment, true, random());
      const total = allWeight, skyOf = skyWeight;
      if (light != NONE) lightAir(light, chance, x, y, z, dx, dy, dz, br, bg, bb, random(), random(), true);
      const p = chooseScatterer();
      samplePhase(p, dx, dy, dz, random(), random());
      remember(x, y, z, phaseOf(p, dx * px + dy * py + dz * pz), total, skyOf, true);
      dx = px;
      dy = py;
      dz = pz;
      ray = RAY_INDIRECT;
      gone = 0.0;
    } else {
      if (!found) {
        sky(dx, dy, dz);
        let k = fromAir ? airShare(SKY) : surfaceShare(SKY);
        if (environment && fromSky > 0.0) {
          const pe = fromSky * environmentPdf(dx, dy, dz);
          k *= fromPdf / (fromPdf + pe);
        }
        give(groupOf(SKY), k * br * skyR, k * bg * skyG, k * bb * skyB);
        return;
      }
      readSurface(dx, dy, dz);
      if (insideR + insideG + insideB > 0.0) {
        br *= Math.exp(-insideR * t);
        bg *= Math.exp(-insideG * t);
        bb *= Math.exp(-insideB * t);
      }
      if (emR + emG + emB > 0.0) {
        let k = 1.0;
        const glow = glowIndex(hitTriangle);
        if (glow >= 0) {
          const cos = Math.abs(dx * gx + dy * gy + dz * gz);
          const area = glowArea(glow);
          const pl = (chanceOfTriangle(glow, fromX, fromY, fromZ, fromTotal) * (gone + t) * (gone + t)) / Math.max(1e-30, cos * area);
          // light scattered by air takes emissive surfaces by choice alone
          k = fromAir ? 0.0 : fromPdf / (fromPdf + pl);
        }
        give(<i32>param(P_SHINE_GROUP), k * br * emR, k * bg * emG, k * bb * emB);
      }
      if (isBlack()) return;
      x += t * dx;
      y += t * dy;
      z += t * dz;
      const last = surfaceCount >= surfaceLimit;
      const light = chooseForPoint(x, y, z, last || environment, false, random());
      const total = allWeight, skyOf = skyWeight;
      if (light != NONE) lightSurface(light, chance, x, y, z, br, bg, bb, random(), random(), !last);
      let passes = false;
      if (last) {
        // light goes on straight through panes even where no bounce is left
        if (!isPane()) return;
        br *= paneTintR;
        bg *= paneTintG;
        bb *= paneTintB;
        passes = true;
      } else {
        if (!sampleBsdf(random(), random())) return;
        br *= wR;
        bg *= wG;
        bb *= wB;
        passes = bsdfPdf >= PASSED;
      }
      if (passes) {
        // no vertex: the one before asked for its lights through the pane
        gone += t;
        panes++;
        if (panes > MOST_PANES) return;
        leave(x, y, z, dx, dy, dz);
        x = qx;
        y = qy;
        z = qz;
        continue;
      }
      surfaceCount++;
      gone = 0.0;
      remember(x, y, z, bsdfPdf, total, skyOf, false);
      dx = sx;
      dy = sy;
      dz = sz;
      ray = sampledRay;
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

// --- the camera ray, which goes straight on through panes

/** Set by cameraHit(): whether and where the ray ends, and its weight there. */
export let camFound: bool = false;
export let camT: f64 = 0.0;
let camWeightR: f64 = 1.0, camWeightG: f64 = 1.0, camWeightB: f64 = 1.0;
/** Weight of what is not straight where the ray ends at a pane. */
let camRest: f64 = 1.0;
let camPanes: i32 = 0;
const paneList: usize = memory.data(512);

/** Traces a camera ray to its end: it passes panes by chance, weighted. The hit's record is that of the end. */
export function cameraHit(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64): void {
  camWeightR = 1.0;
  camWeightG = 1.0;
  camWeightB = 1.0;
  camRest = 1.0;
  camPanes = 0;
  let x = ox, y = oy, z = oz;
  camT = 0.0;
  while (true) {
    camFound = closestHit(<f32>x, <f32>y, <f32>z, <f32>dx, <f32>dy, <f32>dz, <f32>1e30);
    if (!camFound) {
      camT = Infinity;
      return;
    }
    const t = <f64>hitT;
    camT += t;
    readSurface(dx, dy, dz);
    if (!isPane()) return;
    if (camPanes >= MOST_PANES || random() >= paneChance) {
      camRest = 1.0 / (1.0 - paneChance);
      withoutPassing();
      return;
    }
    const k = 1.0 / paneChance;
    camWeightR *= k * paneTintR;
    camWeightG *= k * paneTintG;
    camWeightB *= k * paneTintB;
    const at = paneList + (<usize>camPanes << 5);
    store<f64>(at, camT);
    store<f64>(at, camWeightR, 8);
    store<f64>(at, camWeightG, 16);
    store<f64>(at, camWeightB, 24);
    camPanes++;
    x += t * dx;
    y += t * dy;
    z += t * dz;
    leave(x, y, z, dx, dy, dz);
    // the place moves along the ray alone, so that distances add up
    const e = Math.abs((qx - x) * dx + (qy - y) * dy + (qz - z) * dz);
    camT += e;
    x = ox + camT * dx;
    y = oy + camT * dy;
    z = oz + camT * dz;
  }
}

/** Light scattered or emitted into the camera ray before its end; sets out. Follows cameraHit(). */
export function airBranch(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64): void {
  beginBranch(true);
  glowSumR = 0.0;
  glowSumG = 0.0;
  glowSumB = 0.0;
  const tHit = camT;
  if (veils) {
    veil(ox, oy, oz, dx, dy, dz, tHit);
    glowSumR = veilGlowR;
    glowSumG = veilGlowG;
    glowSumB = veilGlowB;
    return;
  }
  if (!beginForced(ox, oy, oz, dx, dy, dz, tHit, tHit < Infinity ? RAY_CAMERA : RAY_SKY)) return;
  const sunPhase = firstPhase(dx * param(P_SUN_DIR) + dy * param(P_SUN_DIR + 1) + dz * param(P_SUN_DIR + 2));
  // behind panes the light of the ray is tinted by part
  const estimates = camPanes == 0;
  if (estimates) estimateSun(ox, oy, oz, dx, dy, dz, tHit < Infinity ? RAY_CAMERA : RAY_SKY);
  sunKnown = estimates && estimated;
  if (sunKnown) give(groupOf(SUN), sunR, sunG, sunB);
  // what is left of a sun mostly known is asked for seldom, but never left out
  const sunShare = estimates ? left : 1.0;
  prepareAir(ox, oy, oz, dx, dy, dz, segA, segB, reach, sunShare * sunPhase, sunShare, !full || environment);
  const count = airSamples;
  scaleBranch(1.0 / <f64>count);
  for (let i = 0; i < count; i++) {
    subSample(<u32>i, <u32>count);
    airSample(ox, oy, oz, dx, dy, dz, tHit);
  }
  subSample(0, 1);
  const scale = 1.0 / <f64>count;
  glowSumR *= scale;
  glowSumG *= scale;
  glowSumB *= scale;
}

/** One point of the camera ray's part in the media: the light it sends towards the lens. */
function airSample(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tHit: f64): void {
  const glows = param(P_GLOWING_MEDIA) > 0.0;
  pair(1);
  const u = ru;
  const light = chooseForAir(rv);
  const lightChance = chance;
  const total = allWeight, skyOf = skyWeight;
  if (light == NONE && !full && !glows) return;
  pair(2);
  let t: f64, pdf: f64;
  if (light >= 0 && (plain & 2) == 0 && approach(light, ox, oy, oz, dx, dy, dz)) {
    // thin air: nearly all by the light's nearness, which bounds what a sample gives; thick air: by what survives
    const q = nearT < 2.0 * reach ? 0.9 : 0.5;
    if (ru < q) t = equiangularSample(nearT, nearGap, segA, segB, u);
    else t = forcedDistance(u, (ru - q) / (1.0 - q));
    pdf = q * equiangularPdf(nearT, nearGap, segA, segB, t) + (1.0 - q) * forcedPdf(t);
  } else if (light == SUN && sunKnown) {
    // walks go on from the same places: they are to be spread as the air is
    const q = hasBorders() ? (full ? 0.2 : 0.5) : 0.0;
    if (ru < q) t = borderDistance(u);
    else t = forcedDistance(u, (ru - q) / (1.0 - q));
    estimateAt(t);
    pdf = q * borderPdf + (1.0 - q) * forcedPdf(t);
    if (pdf > 0.0) {
      const k = -1.0 / (pdf * lightChance);
      give(groupOf(SUN), k * atR, k * atG, k * atB);
    }
  } else {
    t = forcedDistance(u, ru);
    pdf = forcedPdf(t);
  }
  if (!(pdf > 0.0) || !(t < Infinity)) return;
  const scatters = scatterersAt(t);
  if (!scatters && !glows) return;
  const x = ox + t * dx, y = oy + t * dy, z = oz + t * dz;
  const gR = glowR, gG = glowG, gB = glowB;
  transmit(ox, oy, oz, dx, dy, dz, t, tHit < Infinity ? RAY_CAMERA : RAY_SKY);
  const k = 1.0 / pdf;
  let br = k * tr, bg = k * tg, bb = k * tb;
  // behind panes it is seen through them
  for (let i = camPanes - 1; i >= 0; i--) {
    const at = paneList + (<usize>i << 5);
    if (t <= load<f64>(at)) continue;
    br *= load<f64>(at, 8);
    bg *= load<f64>(at, 16);
    bb *= load<f64>(at, 24);
    break;
  }
  if (glows) give(<i32>param(P_GLOW_GROUP), br * gR, bg * gG, bb * gB);
  glowSumR += br * gR;
  glowSumG += bg * gG;
  glowSumB += bb * gB;
  if (!scatters || !(br + bg + bb > 0.0)) return;
  pair(3);
  if (light != NONE) lightAir(light, lightChance, x, y, z, dx, dy, dz, br, bg, bb, ru, rv, full);
  if (!full) return;
  pair(4);
  const p = chooseScatterer();
  const cR = chR, cG = chG, cB = chB;
  samplePhase(p, dx, dy, dz, ru, rv);
  remember(x, y, z, mixture(dx * px + dy * py + dz * pz), total, skyOf, true);
  walk(x, y, z, px, py, pz, br * cR, bg * cG, bb * cB, 1, 0, RAY_INDIRECT);
}

/** Sky, stars and the visible disks, as the lens sees them with weight (br, bg, bb). */
function background(dx: f64, dy: f64, dz: f64, br: f64, bg: f64, bb: f64): void {
  const distant = <i32>param(P_DISTANT_COUNT);
  let hidden = false;
  for (let i = 0; i < distant; i++) {
    if (!moonDisk(i, dx, dy, dz)) continue;
    give(groupOf(i), br * skyR, bg * skyG, bb * skyB);
    hidden = true;
  }
  // the moon hides the stars behind it, and the sun
  if (!hidden && param(P_SUN_DISK) != 0.0 && sunDisk(dx, dy, dz)) give(groupOf(SUN), br * skyR, bg * skyG, bb * skyB);
  sky(dx, dy, dz);
  if (!hidden && param(P_STARS) > 0.0) stars(dx, dy, dz);
  give(groupOf(SKY), br * skyR, bg * skyG, bb * skyB);
}

/** Light where the camera ray ends as the media and panes before it attenuate it; sets out and cam. Follows cameraHit() at once. */
export function surfaceBranch(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64): void {
  beginBranch(false);
  const tHit = camT;
  transmit(ox, oy, oz, dx, dy, dz, tHit, camFound ? RAY_CAMERA : RAY_SKY);
  camR = tr;
  camG = tg;
  camB = tb;
  let br = tr * camWeightR, bg = tg * camWeightG, bb = tb * camWeightB;
  if (!camFound) {
    background(dx, dy, dz, br, bg, bb);
    return;
  }
  br *= camRest;
  bg *= camRest;
  bb *= camRest;
  if (insideR + insideG + insideB > 0.0) {
    br *= Math.exp(-insideR * tHit);
    bg *= Math.exp(-insideG * tHit);
    bb *= Math.exp(-insideB * tHit);
  }
  if (emR + emG + emB > 0.0) give(<i32>param(P_SHINE_GROUP), br * emR, bg * emG, bb * emB);
  if (isBlack() || br + bg + bb <= 0.0) return;
  const x = ox + tHit * dx, y = oy + tHit * dy, z = oz + tHit * dz;
  const last = surfaceLimit == 0;
  pair(5);
  const light = chooseForPoint(x, y, z, last || environment, false, ru);
  const total = allWeight, skyOf = skyWeight;
  pair(6);
  if (light != NONE) lightSurface(light, chance, x, y, z, br, bg, bb, ru, rv, !last);
  if (last) return;
  pair(7);
  if (!sampleBsdf(ru, rv)) return;
  remember(x, y, z, bsdfPdf, total, skyOf, false);
  const nextX = sx, nextY = sy, nextZ = sz;
  const ray = sampledRay;
  leave(x, y, z, nextX, nextY, nextZ);
  walk(qx, qy, qz, nextX, nextY, nextZ, br * wR, bg * wG, bb * wB, 0, 1, ray);
}
