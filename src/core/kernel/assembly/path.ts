/**
 * One sample of one pixel: the camera ray splits into light scattered towards the lens by the air
 * before the first surface, and light from that surface (or the background) as the air attenuates it.
 * Both go on as random walks with one light asked at every vertex (null-collision path integral,
 * Miller et al. 2019).
 */
import { FAR } from "./precision";
import { CHOOSING_LIGHTS, MAX_PANES, PANE_BYTES, PART_AIR, PART_SURFACES, SCRATCH_PANES } from "../../layout/scratch";
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
import { afterLight, atLight, atPart } from "./activity";
import { lightParamInt, param, paramInt, ablation, scratch } from "./state";
import { beginPhaseEquiangular, phaseEquiangularPdf, samplePhaseEquiangular } from "./phase-equiangular";
import { pair, subSample, random, ru, rv } from "./random";
import { closestHit, hitInstance, hitT, hitTriangle } from "./bvh";
import { objectOf } from "./parts";
import { hasPlate, isPlateSurface, plateAlone, plateGroup, plateHeld, plateLight, plateOtherT, plateT, plateThrough } from "./plate";
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
  othersTell,
  prepareOthers,
  asksSky,
  asksSun,
  drawOther,
  otherChance,
  otherLight,
  prepareAirLights,
  sampleLightForAir,
  selectionPdf,
  skyChance,
  sunChance,
  airOthersAsked,
  airOtherTimes,
  airSkyAsked,
  airSkyTimes,
  airSunAsked,
  airSunTimes,
} from "./light-sampling";
import { veil, veilEmissionR, veilEmissionG, veilEmissionB } from "./veil";
import { beginBranch, scaleBranch, accumulate, accumulateSeenGroup, groupOf, lightGroupOf, outR, outG, outB } from "./accumulate";
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
/** Whether it ends at the plate, or in its sky. */
export let camPlate: bool = false;
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
  camPlate = false;
  let x = ox,
    y = oy,
    z = oz;
  camT = 0.0;
  while (true) {
    camFound = !(hasPlate && plateAlone) && closestHit(<f32>x, <f32>y, <f32>z, <f32>dx, <f32>dy, <f32>dz, <f32>FAR);
    if (hasPlate && (!camFound || camT + <f64>hitT >= plateT)) {
      camFound = plateT < Infinity;
      camT = plateT;
      camPlate = true;
      return;
    }
    if (!camFound) {
      camT = Infinity;
      return;
    }
    const t = <f64>hitT;
    camT += t;
    if (hasPlate && isPlateSurface(objectOf(hitTriangle, hitInstance))) {
      // a hair on, as single precision has it there
      camT += Math.max(1e-6, 2e-7 * (camT + Math.abs(ox) + Math.abs(oy) + Math.abs(oz)));
      x = ox + camT * dx;
      y = oy + camT * dy;
      z = oz + camT * dz;
      continue;
    }
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
  atPart(PART_AIR);
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
  atLight(lightGroupOf(SUN));
  if (estimates) estimateSunVariate(ox, oy, oz, dx, dy, dz, tHit < Infinity ? RAY_CAMERA : RAY_SKY);
  atLight(CHOOSING_LIGHTS);
  hasVariate = estimates && hasSunVariate;
  if (hasVariate) accumulate(groupOf(SUN), sunR, sunG, sunB);
  // what is left of a sun mostly known is asked for seldom, but never left out
  const sunShare = estimates ? residualShare : 1.0;
  const count = airSamples;
  prepareAirLights(
    ox,
    oy,
    oz,
    dx,
    dy,
    dz,
    segA,
    segB,
    reach,
    sunShare * sunPhase,
    sunShare,
    !full || (environment && (ablation & 1) == 0),
    count,
  );
  afterLight();
  const sky = airSkyAsked > 0.0 && (airSkyAsked >= 1.0 || random() < airSkyAsked) ? airSkyTimes : 0;
  // how often the sky is asked for each walk that may meet it
  const skyOf = (<f64>airSkyTimes * airSkyAsked) / <f64>count;
  if (full || paramInt(P_EMITTING_MEDIA) > 0) sampleAir(count, skyOf, ox, oy, oz, dx, dy, dz, tHit);
  if (airOthersAsked > 0.0 && (airOthersAsked >= 1.0 || random() < airOthersAsked)) sampleOthers(ox, oy, oz, dx, dy, dz, tHit);
  if (sky > 0) sampleOwnLight(SKY, sky, skyOf * <f64>count, 5, ox, oy, oz, dx, dy, dz, tHit);
  if (airSunAsked > 0.0 && (airSunAsked >= 1.0 || random() < airSunAsked))
    sampleOwnLight(SUN, airSunTimes, <f64>airSunTimes * airSunAsked, 8, ox, oy, oz, dx, dy, dz, tHit);
  const asked = paramInt(P_SUN_AIR_SAMPLES);
  sampleOwnLight(SUN, asked, <f64>asked, 8, ox, oy, oz, dx, dy, dz, tHit);
  const own = paramInt(P_OWN_COUNT);
  // lights share the dimensions of the sequence from the fourth on
  for (let i = 0; i < own; i++) {
    const times = lightParamInt(i, L_AIR_SAMPLES);
    sampleOwnLight(i, times, <f64>times, 8 + 2 * ((<u32>(i + 1)) & 3), ox, oy, oz, dx, dy, dz, tHit);
  }
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
    // a narrow beam: mostly where it crosses the ray, but never only there
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
    const q = hasBorders() ? 0.5 : 0.0;
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

/**
 * Points of the camera ray's air at which one light is asked by itself. @param expected how many there are on average over all samples
 * @param dimension first of the two that spread them
 */
function sampleOwnLight(
  light: i32,
  count: i32,
  expected: f64,
  dimension: u32,
  ox: f64,
  oy: f64,
  oz: f64,
  dx: f64,
  dy: f64,
  dz: f64,
  tHit: f64,
): void {
  if (count <= 0 || airShare(light) <= 0.0) return;
  // the sky may be met by each of the ray's walks too
  const walks = light == SKY ? <f64>airSamples : 1.0;
  const chance = expected / walks;
  scaleBranch(1.0 / walks);
  for (let i = 0; i < count; i++) {
    subSample(<u32>i, <u32>count);
    pair(dimension);
    drawDistance(light, expected, ox, oy, oz, dx, dy, dz, ru, rv);
    lightDrawn(light, chance, dimension + 1, ox, oy, oz, dx, dy, dz, tHit);
  }
  subSample(0, 1);
  scaleBranch(1.0);
}

/** Points of the camera ray's air at which one of the lights that are neither sun nor sky is asked. */
function sampleOthers(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tHit: f64): void {
  const count = airOtherTimes;
  const expected = <f64>count * airOthersAsked;
  for (let i = 0; i < count; i++) {
    subSample(<u32>i, <u32>count);
    pair(1);
    const u = ru;
    const light = sampleLightForAir(rv);
    if (light == NONE) break;
    const chance = expected * selectionPdf;
    pair(2);
    drawDistance(light, chance, ox, oy, oz, dx, dy, dz, u, ru);
    lightDrawn(light, chance, 3, ox, oy, oz, dx, dy, dz, tHit);
  }
  subSample(0, 1);
}

/** Asks a light at the point last drawn. @param chance how often it is asked on average @param dimension that spreads it over the light */
function lightDrawn(light: i32, chance: f64, dimension: u32, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tHit: f64): void {
  if (!(drawnPdf > 0.0) || !(drawnT < Infinity) || !scatterersAt(drawnT)) return;
  weighDrawn(ox, oy, oz, dx, dy, dz, tHit);
  if (!(atWeightR + atWeightG + atWeightB > 0.0)) return;
  pair(dimension);
  const x = ox + drawnT * dx,
    y = oy + drawnT * dy,
    z = oz + drawnT * dz;
  directInMedium(light, chance, x, y, z, dx, dy, dz, atWeightR, atWeightG, atWeightB, ru, rv, full);
}

/**
 * Points of the camera ray's air from which walks go on, and whose glow is gathered: drawn as what scatters and glows lies along the ray.
 * @param skyOf how often the sky is asked for each of them
 */
function sampleAir(count: i32, skyOf: f64, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tHit: f64): void {
  const k = 1.0 / <f64>count;
  scaleBranch(k);
  for (let i = 0; i < count; i++) {
    subSample(<u32>i, <u32>count);
    airSample(k, skyOf, ox, oy, oz, dx, dy, dz, tHit);
  }
  subSample(0, 1);
  scaleBranch(1.0);
}

/** One of these points. @param share what its glow counts for */
function airSample(share: f64, skyOf: f64, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tHit: f64): void {
  pair(1);
  const u = ru;
  pair(2);
  drawnT = forcedDistance(u, ru);
  drawnPdf = forcedPdf(drawnT);
  if (!(drawnPdf > 0.0) || !(drawnT < Infinity)) return;
  const scatters = scatterersAt(drawnT);
  const gR = mediumEmissionR,
    gG = mediumEmissionG,
    gB = mediumEmissionB;
  if (!(scatters && full) && !(gR + gG + gB > 0.0)) return;
  weighDrawn(ox, oy, oz, dx, dy, dz, tHit);
  const br = atWeightR,
    bg = atWeightG,
    bb = atWeightB;
  accumulate(paramInt(P_MEDIUM_EMISSION_GROUP), br * gR, bg * gG, bb * gB);
  emissionSumR += share * br * gR;
  emissionSumG += share * bg * gG;
  emissionSumB += share * bb * gB;
  if (!scatters || !full || !(br + bg + bb > 0.0)) return;
  pair(4);
  const p = chooseScatterer();
  const cR = chR,
    cG = chG,
    cB = chB;
  samplePhase(p, dx, dy, dz, ru, rv);
  const x = ox + drawnT * dx,
    y = oy + drawnT * dy,
    z = oz + drawnT * dz;
  storePreviousVertex(x, y, z, mixture(dx * px + dy * py + dz * pz), 0.0, skyOf, true);
  setLeastRoughness(indirectRoughness);
  walk(x, y, z, px, py, pz, br * cR, bg * cG, bb * cB, 1, 0, RAY_INDIRECT);
  atPart(PART_AIR);
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
  accumulateSeenGroup(group, r, g, b);
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

/** The plate's own light, as the air leaves it of what is in front and behind in its pixel. Follows transmit() to where the ray ends. */
function plateSeen(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64): void {
  if (plateOtherT != plateT) {
    transmit(ox, oy, oz, dx, dy, dz, plateOtherT, plateOtherT < Infinity ? RAY_CAMERA : RAY_SKY);
    camR = plateThrough(0, camR, tr);
    camG = plateThrough(1, camG, tg);
    camB = plateThrough(2, camB, tb);
  }
  if (plateHeld && camFound) return;
  accumulate(plateGroup, camR * camWeightR * plateLight(0), camG * camWeightG * plateLight(1), camB * camWeightB * plateLight(2));
}

/** Times that light which gives much is asked where the camera ray ends. */
const TIMES: i32 = 4;

/** Light where the camera ray ends as the media and panes before it attenuate it; sets out and cam. Follows cameraHit() at once. */
export function surfaceBranch(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64): void {
  beginBranch(false);
  atPart(PART_SURFACES);
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
  if (camPlate) {
    plateSeen(ox, oy, oz, dx, dy, dz);
    return;
  }
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
  atLight(CHOOSING_LIGHTS);
  chooseLights(x, y, z, last, false, ru);
  afterLight();
  const skyOf = skyChance,
    meets = !last || isGlossy();
  let times = othersTell() ? TIMES : 1;
  pair(6);
  if (asksSun) {
    const before = outR + outG + outB;
    directOnSurface(SUN, sunChance, x, y, z, br, bg, bb, ru, rv, !last, meets);
    // in the sun other lights are dim
    if (outR + outG + outB > before) times = 1;
  }
  pair(3);
  if (asksSky) directOnSurface(SKY, skyOf, x, y, z, br, bg, bb, ru, rv, !last, meets);
  prepareOthers(times);
  const perWeight = chancePerWeight;
  for (let i = 0; i < times; i++) {
    subSample(<u32>i, <u32>times);
    pair(5);
    drawOther(rv);
    if (otherLight == NONE) continue;
    pair(4);
    directOnSurface(otherLight, otherChance, x, y, z, br, bg, bb, ru, rv, !last, meets);
  }
  subSample(0, 1);
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
