/**
 * One sample of one pixel: the camera ray splits into light scattered towards the lens by the air
 * before the first surface, and light from that surface (or the background) as the air attenuates it.
 * Both go on as random walks with one light asked at every vertex (null-collision path integral,
 * Miller et al. 2019).
 */
import { FAR } from "./precision";
import { MAX_PANES, PANE_BYTES, SCRATCH_PANES } from "../../layout/scratch";
import { LEVEL_VEIL } from "../../layout/kinds";
import {
  P_SUN_DIR,
  P_LEVEL,
  P_AIR_SAMPLES,
  RAY_CAMERA,
  RAY_SKY,
  RAY_INDIRECT,
  P_EMITTING_MEDIA,
  P_INDIRECT_ROUGHNESS,
  P_MEDIUM_EMISSION_GROUP,
  P_SURFACE_EMISSION_GROUP,
  P_STARS,
  P_SUN_DISK,
  P_DISTANT_COUNT,
  P_SUN_AIR_SAMPLES,
  P_OWN_COUNT,
  L_AIR_SAMPLES,
} from "../../layout/layout";
import { equiangularSample, equiangularPdf } from "../../optics/equiangular";
import { lightParamInt, param, paramInt, ablation, scratch } from "./state";
import { beginPhaseEquiangular, phaseEquiangularPdf, samplePhaseEquiangular } from "./phase-equiangular";
import { pair, subSample, random, ru, rv } from "./random";
import { closestHit, hitT } from "./bvh";
import {
  beginForced,
  forcedDistance,
  forcedPdf,
  phaseOfRay,
  reach,
  segA,
  segB,
  scatterersAt,
  mediumEmissionR,
  mediumEmissionG,
  mediumEmissionB,
} from "./forced";
import { transmit, tr, tg, tb } from "./transmit";
import { samplePhase, chooseScatterer, chR, chG, chB, px, py, pz, mixture } from "./phase";
import { SUN, SKY, NONE, airShare } from "./lights";
import { sky, stars, sunDisk, moonDisk, skyR, skyG, skyB } from "./sky";
import {
  chancePerWeight,
  chooseLights,
  asksSky,
  asksSun,
  otherChance,
  otherLight,
  prepareAirLights,
  sampleLightForAir,
  selectionPdf,
  skyChance,
  sunChance,
  skyOfOne,
} from "./light-sampling";
import { veil, veilEmissionR, veilEmissionG, veilEmissionB } from "./veil";
import { beginBranch, scaleBranch, accumulate, groupOf } from "./accumulate";
import {
  prepareSunVariate,
  estimateSunVariate,
  hasSunVariate,
  hasBorders,
  residualShare,
  borderDistance,
  borderPdf,
  sunVariateAt,
  atR,
  atG,
  atB,
  sunR,
  sunG,
  sunB,
} from "./sun-variate";
import { closestApproach, approachT, approachGap, coneInterval, coneA, coneB } from "./closest-approach";
import { emitterAt, emitterB, emitterG, emitterR, meetEmitters, nextSeen, prepareEmitters, seesAny } from "./emitters";
import {
  DELTA_PDF,
  isBlack,
  isGlossy,
  bsdfPdf,
  sampleBsdf,
  sampledRay,
  setLeastRoughness,
  isPane,
  withoutDelta,
  paneTintR,
  paneTintG,
  paneTintB,
  paneChance,
  sx,
  sy,
  sz,
  wR,
  wG,
  wB,
} from "./bsdf";
import { readSurface, holdout, insideR, insideG, insideB, emR, emG, emB } from "./surface";
import { qx, qy, qz, environment, prepareDirect, offsetRayOrigin, directInMedium, directOnSurface } from "./direct";
import { full, surfaceLimit, prepareWalks, storePreviousVertex, walk } from "./walk";

/** Transmittance of the camera ray, set by surfaceBranch(). */
export let camR: f64 = 1.0;
export let camG: f64 = 1.0;
export let camB: f64 = 1.0;

/** Part of the light last gathered by surfaceBranch() that the lens sees directly: stars, disks, surfaces that emit. */
export let seenR: f64 = 0.0;
export let seenG: f64 = 0.0;
export let seenB: f64 = 0.0;

/** Part of the light last gathered by airBranch() that the media emit themselves. */
export let emissionSumR: f64 = 0.0;
export let emissionSumG: f64 = 0.0;
export let emissionSumB: f64 = 0.0;

let veils: bool = false;
let airSamples: i32 = 1;
let indirectRoughness: f64 = 0.0;
/** Whether the sun's light by way of the present ray is estimated: what is drawn is the difference. */
let hasVariate: bool = false;

/** Reads from the parameters how paths are traced in this run. */
export function preparePaths(): void {
  veils = paramInt(P_LEVEL) == LEVEL_VEIL;
  airSamples = paramInt(P_AIR_SAMPLES);
  indirectRoughness = param(P_INDIRECT_ROUGHNESS);
  setLeastRoughness(0.0);
  prepareDirect();
  prepareWalks();
  prepareSunVariate();
  prepareEmitters();
}

/** Set by cameraHit(): whether and where the ray ends, and its weight there. */
export let camFound: bool = false;
export let camT: f64 = 0.0;
let camWeightR: f64 = 1.0,
  camWeightG: f64 = 1.0,
  camWeightB: f64 = 1.0;
/** Weight of what is not straight where the ray ends at a pane. */
let camRest: f64 = 1.0;
let camPanes: i32 = 0;

/** Traces a camera ray to its end: it passes panes by chance, weighted. The hit's record is that of the end. */
export function cameraHit(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64): void {
  camWeightR = 1.0;
  camWeightG = 1.0;
  camWeightB = 1.0;
  camRest = 1.0;
  camPanes = 0;
  let x = ox,
    y = oy,
    z = oz;
  camT = 0.0;
  while (true) {
    camFound = closestHit(<f32>x, <f32>y, <f32>z, <f32>dx, <f32>dy, <f32>dz, <f32>FAR);
    if (!camFound) {
      camT = Infinity;
      return;
    }
    const t = <f64>hitT;
    camT += t;
    readSurface(dx, dy, dz);
    if (holdout || !isPane()) return;
    if (camPanes >= MAX_PANES || random() >= paneChance) {
      camRest = 1.0 / (1.0 - paneChance);
      withoutDelta();
      return;
    }
    const k = 1.0 / paneChance;
    camWeightR *= k * paneTintR;
    camWeightG *= k * paneTintG;
    camWeightB *= k * paneTintB;
    const at = scratch + SCRATCH_PANES + <usize>camPanes * PANE_BYTES;
    store<f64>(at, camT);
    store<f64>(at, camWeightR, 8);
    store<f64>(at, camWeightG, 16);
    store<f64>(at, camWeightB, 24);
    camPanes++;
    x += t * dx;
    y += t * dy;
    z += t * dz;
    offsetRayOrigin(x, y, z, dx, dy, dz);
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
  emissionSumR = 0.0;
  emissionSumG = 0.0;
  emissionSumB = 0.0;
  const tHit = camT;
  if (veils) {
    veil(ox, oy, oz, dx, dy, dz, tHit);
    emissionSumR = veilEmissionR;
    emissionSumG = veilEmissionG;
    emissionSumB = veilEmissionB;
    return;
  }
  if (!beginForced(ox, oy, oz, dx, dy, dz, tHit, tHit < Infinity ? RAY_CAMERA : RAY_SKY)) return;
  const sunPhase = phaseOfRay(dx * param(P_SUN_DIR) + dy * param(P_SUN_DIR + 1) + dz * param(P_SUN_DIR + 2));
  // behind panes the light of the ray is tinted by part
  const estimates = camPanes == 0;
  if (estimates) estimateSunVariate(ox, oy, oz, dx, dy, dz, tHit < Infinity ? RAY_CAMERA : RAY_SKY);
  hasVariate = estimates && hasSunVariate;
  if (hasVariate) accumulate(groupOf(SUN), sunR, sunG, sunB);
  // what is left of a sun mostly known is asked for seldom, but never left out
  const sunShare = estimates ? residualShare : 1.0;
  prepareAirLights(ox, oy, oz, dx, dy, dz, segA, segB, reach, sunShare * sunPhase, sunShare, !full || environment);
  const count = airSamples;
  scaleBranch(1.0 / <f64>count);
  for (let i = 0; i < count; i++) {
    subSample(<u32>i, <u32>count);
    airSample(ox, oy, oz, dx, dy, dz, tHit);
  }
  subSample(0, 1);
  const scale = 1.0 / <f64>count;
  emissionSumR *= scale;
  emissionSumG *= scale;
  emissionSumB *= scale;
  sampleOwnLight(SUN, paramInt(P_SUN_AIR_SAMPLES), 8, ox, oy, oz, dx, dy, dz, tHit);
  const own = paramInt(P_OWN_COUNT);
  // lights share the dimensions of the sequence from the fourth on
  for (let i = 0; i < own; i++)
    sampleOwnLight(i, lightParamInt(i, L_AIR_SAMPLES), 8 + 2 * ((<u32>(i + 1)) & 3), ox, oy, oz, dx, dy, dz, tHit);
}

// where the last draw fell, its density (1/m), and the weight of light sent towards the lens from there
let drawnT: f64 = 0.0,
  drawnPdf: f64 = 0.0;
let atWeightR: f64 = 0.0,
  atWeightG: f64 = 0.0,
  atWeightB: f64 = 0.0;

/** Draws a distance for a light by (u, pick); takes the sun's estimate away where it is known. Sets drawnT, drawnPdf. */
function drawDistance(light: i32, selection: f64, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, u: f64, pick: f64): void {
  if (light >= 0 && (ablation & 2) == 0 && closestApproach(light, ox, oy, oz, dx, dy, dz)) {
    // thin air: nearly all by the light's nearness, which bounds what a sample gives; thick air: by what survives
    const q = approachT < 2.0 * reach ? 0.9 : 0.5;
    // a narrow beam: mostly where it crosses the ray, but never only there, since walks and glow go on from the same places
    const cone = coneInterval(light, ox, oy, oz, dx, dy, dz, segA, segB) && coneB > coneA && (coneA > segA || coneB < segB);
    const c = cone ? 0.9 * q : 0.0;
    if (cone) beginPhaseEquiangular(approachT, approachGap, coneA, coneB, reach);
    else beginPhaseEquiangular(approachT, approachGap, segA, segB, reach);
    if (pick < c) drawnT = samplePhaseEquiangular(u);
    else {
      const rest = (pick - c) / (1.0 - c);
      if (rest >= q) drawnT = forcedDistance(u, (rest - q) / (1.0 - q));
      else drawnT = cone ? equiangularSample(approachT, approachGap, segA, segB, u) : samplePhaseEquiangular(u);
    }
    if (cone) {
      drawnPdf = (1.0 - c) * (q * equiangularPdf(approachT, approachGap, segA, segB, drawnT) + (1.0 - q) * forcedPdf(drawnT));
      if (drawnT >= coneA && drawnT <= coneB) drawnPdf += c * phaseEquiangularPdf(drawnT);
    } else drawnPdf = q * phaseEquiangularPdf(drawnT) + (1.0 - q) * forcedPdf(drawnT);
  } else if (light == SUN && hasVariate) {
    // walks go on from the same places: they are to be spread as the air is
    const q = hasBorders() ? (full ? 0.2 : 0.5) : 0.0;
    if (pick < q) drawnT = borderDistance(u);
    else drawnT = forcedDistance(u, (pick - q) / (1.0 - q));
    sunVariateAt(drawnT);
    drawnPdf = q * borderPdf + (1.0 - q) * forcedPdf(drawnT);
    if (drawnPdf > 0.0) {
      const k = -1.0 / (drawnPdf * selection);
      accumulate(groupOf(SUN), k * atR, k * atG, k * atB);
    }
  } else {
    drawnT = forcedDistance(u, pick);
    drawnPdf = forcedPdf(drawnT);
  }
}

/** Weight of light sent towards the lens from drawnT: what the air and the panes before it leave, by the density. */
function weighDrawn(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tHit: f64): void {
  weigh(drawnT, 1.0 / drawnPdf, ox, oy, oz, dx, dy, dz, tHit);
}

/** Sets atWeight to k times what the air and the panes before distance t leave. */
function weigh(t: f64, k: f64, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tHit: f64): void {
  transmit(ox, oy, oz, dx, dy, dz, t, tHit < Infinity ? RAY_CAMERA : RAY_SKY);
  atWeightR = k * tr;
  atWeightG = k * tg;
  atWeightB = k * tb;
  for (let i = camPanes - 1; i >= 0; i--) {
    const at = scratch + SCRATCH_PANES + <usize>i * PANE_BYTES;
    if (t <= load<f64>(at)) continue;
    atWeightR *= load<f64>(at, 8);
    atWeightG *= load<f64>(at, 16);
    atWeightB *= load<f64>(at, 24);
    return;
  }
}

/** Points of the camera ray's air at which one light is asked by itself. @param dimension first of the two that spread them */
function sampleOwnLight(light: i32, count: i32, dimension: u32, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tHit: f64): void {
  if (count <= 0 || airShare(light) <= 0.0) return;
  scaleBranch(1.0 / <f64>count);
  for (let i = 0; i < count; i++) {
    subSample(<u32>i, <u32>count);
    pair(dimension);
    drawDistance(light, 1.0, ox, oy, oz, dx, dy, dz, ru, rv);
    if (!(drawnPdf > 0.0) || !(drawnT < Infinity) || !scatterersAt(drawnT)) continue;
    weighDrawn(ox, oy, oz, dx, dy, dz, tHit);
    if (!(atWeightR + atWeightG + atWeightB > 0.0)) continue;
    pair(dimension + 1);
    directInMedium(
      light,
      1.0,
      ox + drawnT * dx,
      oy + drawnT * dy,
      oz + drawnT * dz,
      dx,
      dy,
      dz,
      atWeightR,
      atWeightG,
      atWeightB,
      ru,
      rv,
      false,
    );
  }
  subSample(0, 1);
}

/** One point of the camera ray's part in the media: the light it sends towards the lens. */
function airSample(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tHit: f64): void {
  const emits = paramInt(P_EMITTING_MEDIA) > 0;
  pair(1);
  const u = ru;
  const light = sampleLightForAir(rv);
  const selection = selectionPdf;
  const skyOf = skyOfOne;
  if (light == NONE && !full && !emits) return;
  pair(2);
  drawDistance(light, selection, ox, oy, oz, dx, dy, dz, u, ru);
  if (!(drawnPdf > 0.0) || !(drawnT < Infinity)) return;
  const scatters = scatterersAt(drawnT);
  if (!scatters && !emits) return;
  const x = ox + drawnT * dx,
    y = oy + drawnT * dy,
    z = oz + drawnT * dz;
  const gR = mediumEmissionR,
    gG = mediumEmissionG,
    gB = mediumEmissionB;
  weighDrawn(ox, oy, oz, dx, dy, dz, tHit);
  const br = atWeightR,
    bg = atWeightG,
    bb = atWeightB;
  if (emits) accumulate(paramInt(P_MEDIUM_EMISSION_GROUP), br * gR, bg * gG, bb * gB);
  emissionSumR += br * gR;
  emissionSumG += bg * gG;
  emissionSumB += bb * gB;
  if (!scatters || !(br + bg + bb > 0.0)) return;
  pair(3);
  if (light != NONE) directInMedium(light, selection, x, y, z, dx, dy, dz, br, bg, bb, ru, rv, full);
  if (!full) return;
  pair(4);
  const p = chooseScatterer();
  const cR = chR,
    cG = chG,
    cB = chB;
  samplePhase(p, dx, dy, dz, ru, rv);
  storePreviousVertex(x, y, z, mixture(dx * px + dy * py + dz * pz), 0.0, skyOf, true);
  setLeastRoughness(indirectRoughness);
  walk(x, y, z, px, py, pz, br * cR, bg * cG, bb * cB, 1, 0, RAY_INDIRECT);
  setLeastRoughness(0.0);
}

/** Lights that the lens sees as what they are, before the ray's end. */
function seeEmitters(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tHit: f64): void {
  let i = nextSeen(0, ox, oy, oz, dx, dy, dz, tHit);
  while (i >= 0) {
    const r = emitterR,
      g = emitterG,
      b = emitterB;
    weigh(emitterAt, 1.0, ox, oy, oz, dx, dy, dz, tHit);
    accumulateSeen(groupOf(i), atWeightR * r, atWeightG * g, atWeightB * b);
    i = nextSeen(i + 1, ox, oy, oz, dx, dy, dz, tHit);
  }
}

/** Gathers light that the lens sees directly. */
function accumulateSeen(group: i32, r: f64, g: f64, b: f64): void {
  seenR += r;
  seenG += g;
  seenB += b;
  accumulate(group, r, g, b);
}

/** Sky, stars and the visible disks, as the lens sees them with weight (br, bg, bb). */
function background(dx: f64, dy: f64, dz: f64, br: f64, bg: f64, bb: f64): void {
  const distant = paramInt(P_DISTANT_COUNT);
  let hidden = false;
  for (let i = 0; i < distant; i++) {
    if (!moonDisk(i, dx, dy, dz)) continue;
    accumulateSeen(groupOf(i), br * skyR, bg * skyG, bb * skyB);
    hidden = true;
  }
  // the moon hides the stars behind it, and the sun
  if (!hidden && paramInt(P_SUN_DISK) != 0 && sunDisk(dx, dy, dz)) accumulateSeen(groupOf(SUN), br * skyR, bg * skyG, bb * skyB);
  sky(dx, dy, dz);
  const r = skyR,
    g = skyG,
    b = skyB;
  accumulate(groupOf(SKY), br * r, bg * g, bb * b);
  if (hidden || paramInt(P_STARS) == 0) return;
  stars(dx, dy, dz);
  accumulateSeen(groupOf(SKY), br * (skyR - r), bg * (skyG - g), bb * (skyB - b));
}

/** Light where the camera ray ends as the media and panes before it attenuate it; sets out and cam. Follows cameraHit() at once. */
export function surfaceBranch(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64): void {
  beginBranch(false);
  seenR = 0.0;
  seenG = 0.0;
  seenB = 0.0;
  const tHit = camT;
  transmit(ox, oy, oz, dx, dy, dz, tHit, camFound ? RAY_CAMERA : RAY_SKY);
  camR = tr;
  camG = tg;
  camB = tb;
  let br = tr * camWeightR,
    bg = tg * camWeightG,
    bb = tb * camWeightB;
  if (seesAny) seeEmitters(ox, oy, oz, dx, dy, dz, tHit);
  if (!camFound) {
    background(dx, dy, dz, br, bg, bb);
    return;
  }
  if (holdout) return;
  br *= camRest;
  bg *= camRest;
  bb *= camRest;
  if (insideR + insideG + insideB > 0.0) {
    br *= Math.exp(-insideR * tHit);
    bg *= Math.exp(-insideG * tHit);
    bb *= Math.exp(-insideB * tHit);
  }
  if (emR + emG + emB > 0.0) accumulateSeen(paramInt(P_SURFACE_EMISSION_GROUP), br * emR, bg * emG, bb * emB);
  if (isBlack() || br + bg + bb <= 0.0) return;
  const x = ox + tHit * dx,
    y = oy + tHit * dy,
    z = oz + tHit * dz;
  const last = surfaceLimit == 0;
  pair(5);
  chooseLights(x, y, z, last, false, ru, rv);
  const perWeight = chancePerWeight,
    skyOf = skyChance,
    meets = !last || isGlossy();
  pair(6);
  if (asksSun) directOnSurface(SUN, sunChance, x, y, z, br, bg, bb, ru, rv, !last, meets);
  pair(3);
  if (asksSky) directOnSurface(SKY, skyOf, x, y, z, br, bg, bb, ru, rv, !last, meets);
  pair(4);
  if (otherLight != NONE) directOnSurface(otherLight, otherChance, x, y, z, br, bg, bb, ru, rv, !last, meets);
  if (last && !meets) return;
  pair(7);
  if (!sampleBsdf(ru, rv)) return;
  if (bsdfPdf < DELTA_PDF) meetEmitters(x, y, z, br, bg, bb);
  if (last) return;
  storePreviousVertex(x, y, z, bsdfPdf, perWeight, skyOf, false);
  const nextX = sx,
    nextY = sy,
    nextZ = sz;
  const ray = sampledRay;
  offsetRayOrigin(x, y, z, nextX, nextY, nextZ);
  setLeastRoughness(indirectRoughness);
  walk(qx, qy, qz, nextX, nextY, nextZ, br * wR, bg * wG, bb * wB, 0, 1, ray);
  setLeastRoughness(0.0);
}
