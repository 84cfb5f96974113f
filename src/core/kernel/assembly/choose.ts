/**
 * Which light to ask: one of sun, sky, glowing media and lights, by what each is estimated to give. Few lights
 * are weighed one by one; many lie in a tree that is walked down by the weight and nearness of its halves.
 */
import {
  L_KIND, L_POSITION, L_WEIGHT, L_REACH, L_AIR, L_SURFACES, L_AXIS, L_COS_OUTER, P_SUN_E, P_SUN_AIR, P_SUN_SURFACES,
  P_SKY_ZENITH, P_SKY_HORIZON, P_SKY_AIR, P_SKY_SURFACES, P_LIGHT_COUNT, P_DISTANT_COUNT, P_TREE, P_ENV, P_ENV_POWER,
  T_CENTRE, T_RADIUS, T_WEIGHT, T_FIRST, T_SECOND, T_PARENT, TREE_WORDS, P_GLOW_COUNT, G_LEAF, M_EMISSION,
  P_GLOWING_MEDIA, M_REGION, M_CENTRE, M_HALF,
} from "../../scene/layout";
import { param, lightParam, word, scratch, plain } from "./state";
import { SUN, SKY, NONE, GLOW, glowRecord } from "./lights";
import { mediaCount, mediumAt } from "./medium";

const INV_4PI: f64 = 0.07957747154594767;
const WEIGHTS: usize = 32768;

let sunPower: f64 = 0.0;
let skyPower: f64 = 0.0;
let glowPower: f64 = 0.0;
let localCount: i32 = 0;
let distantCount: i32 = 0;
let tree: usize = 0;

export function prepareChoice(): void {
  sunPower = param(P_SUN_E) + param(P_SUN_E + 1) + param(P_SUN_E + 2);
  skyPower = 0.0;
  if (param(P_ENV) != 0.0) skyPower = param(P_ENV_POWER);
  else for (let i = 0; i < 3; i++) skyPower += 0.5 * (param(P_SKY_ZENITH + i) + param(P_SKY_HORIZON + i));
  localCount = <i32>param(P_LIGHT_COUNT);
  distantCount = <i32>param(P_DISTANT_COUNT);
  tree = <usize>param(P_TREE);
  glowPower = 0.0;
  if (param(P_GLOWING_MEDIA) > 0.0)
    for (let m = 0; m < mediaCount(); m++) {
      const p = mediumAt(m);
      glowPower += word(p, M_EMISSION) + word(p, M_EMISSION + 1) + word(p, M_EMISSION + 2);
    }
}

/** Chance of the light last chosen. */
export let chance: f64 = 0.0;
/** Sum of all weights at the last choice, and those of the sky and of the tree. */
export let allWeight: f64 = 0.0;
export let skyWeight: f64 = 0.0;
let treeWeight: f64 = 0.0;

// @ts-ignore: decorator
@inline
function slot(i: i32): usize { return scratch + WEIGHTS + (<usize>i << 3); }
// @ts-ignore: decorator
@inline
function nodeAt(i: i32): usize { return tree + <usize>(i * TREE_WORDS * 8); }

// the point or the ray part that weights are for
let wx: f64 = 0.0, wy: f64 = 0.0, wz: f64 = 0.0, wdx: f64 = 0.0, wdy: f64 = 0.0, wdz: f64 = 0.0, wa: f64 = 0.0, wb: f64 = 0.0;
let alongRay: bool = false;

/** Irradiance (times a constant) from something of weight w (cd) within r of c. */
// @ts-ignore: decorator
@inline
function nearness(cx: f64, cy: f64, cz: f64, r: f64, w: f64): f64 {
  const px = cx - wx, py = cy - wy, pz = cz - wz;
  if (!alongRay) return w / Math.max(px * px + py * py + pz * pz, r * r + 1e-12);
  const t = px * wdx + py * wdy + pz * wdz;
  const qx = px - t * wdx, qy = py - t * wdy, qz = pz - t * wdz;
  const gap = Math.max(Math.max(r, 1e-5), Math.sqrt(qx * qx + qy * qy + qz * qz));
  return (w * INV_4PI * (Math.atan((wb - t) / gap) - Math.atan((wa - t) / gap))) / gap;
}

// @ts-ignore: decorator
@inline
function nodeWeight(i: i32): f64 {
  const p = nodeAt(i);
  return nearness(word(p, T_CENTRE), word(p, T_CENTRE + 1), word(p, T_CENTRE + 2), word(p, T_RADIUS), word(p, T_WEIGHT));
}

/** Weight of one light; spots count for little where they do not shine, never for nothing. */
function lightWeight(i: i32, share: i32): f64 {
  const k = lightParam(i, share);
  if (k <= 0.0) return 0.0;
  if (i < distantCount) return k * lightParam(i, L_WEIGHT) * (alongRay ? reachNow * INV_4PI : 1.0);
  const w = k * nearness(lightParam(i, L_POSITION), lightParam(i, L_POSITION + 1), lightParam(i, L_POSITION + 2), lightParam(i, L_REACH), lightParam(i, L_WEIGHT));
  if (alongRay || lightParam(i, L_KIND) != 1.0) return w;
  const px = wx - lightParam(i, L_POSITION), py = wy - lightParam(i, L_POSITION + 1), pz = wz - lightParam(i, L_POSITION + 2);
  const d = Math.sqrt(px * px + py * py + pz * pz);
  const c = px * lightParam(i, L_AXIS) + py * lightParam(i, L_AXIS + 1) + pz * lightParam(i, L_AXIS + 2);
  return c < d * lightParam(i, L_COS_OUTER) - lightParam(i, L_REACH) ? 1e-3 * w : w;
}
let reachNow: f64 = 0.0;

/** Estimated light of media that glow. */
function glowWeight(): f64 {
  let sum = 0.0;
  for (let m = 0; m < mediaCount(); m++) {
    const p = mediumAt(m);
    const e = word(p, M_EMISSION) + word(p, M_EMISSION + 1) + word(p, M_EMISSION + 2);
    if (e <= 0.0) continue;
    const kind = <i32>word(p, M_REGION);
    if (kind < 1 || kind == 5) {
      sum += e * (alongRay ? reachNow : 10.0);
      continue;
    }
    const hx = word(p, M_HALF), hy = word(p, M_HALF + 1), hz = word(p, M_HALF + 2);
    sum += nearness(word(p, M_CENTRE), word(p, M_CENTRE + 1), word(p, M_CENTRE + 2), Math.max(hx, Math.max(hy, hz)), 8.0 * e * hx * hy * hz);
  }
  return sum;
}

/** Any of the lights there are, with the same chance: what benchmarks compare with. */
function chooseEvenly(sun: f64, skyShare: f64, glow: f64, u: f64): i32 {
  const n = <f64>localCount + (sun > 0.0 ? 1.0 : 0.0) + (skyShare > 0.0 ? 1.0 : 0.0) + (glow > 0.0 ? 1.0 : 0.0);
  allWeight = n;
  if (n <= 0.0) return NONE;
  chance = 1.0 / n;
  let i = <i32>Math.floor(u * n);
  if (i < localCount) return i;
  i -= localCount;
  if (sun > 0.0) {
    if (i == 0) return SUN;
    i--;
  }
  if (skyShare > 0.0 && i == 0) return SKY;
  return glow > 0.0 ? GLOW : sun > 0.0 ? SUN : NONE;
}

function choose(sun: f64, skyShare: f64, glow: f64, share: i32, u: f64): i32 {
  skyWeight = skyShare;
  if ((plain & 1) != 0) return chooseEvenly(sun, skyShare, glow, u);
  let distant = 0.0;
  for (let i = 0; i < distantCount; i++) {
    const w = lightWeight(i, share);
    store<f64>(slot(i), w);
    distant += w;
  }
  let local = 0.0;
  if (tree != 0) {
    treeWeight = nodeWeight(0);
    local = treeWeight;
  } else {
    for (let i = distantCount; i < localCount; i++) {
      const w = lightWeight(i, share);
      store<f64>(slot(i), w);
      local += w;
    }
  }
  const total = sun + skyShare + glow + distant + local;
  allWeight = total;
  if (!(total > 0.0)) return NONE;
  u *= total;
  if (u < sun) {
    chance = sun / total;
    return SUN;
  }
  u -= sun;
  if (u < skyShare) {
    chance = skyShare / total;
    return SKY;
  }
  u -= skyShare;
  if (u < glow) {
    chance = glow / total;
    return GLOW;
  }
  u -= glow;
  const few = tree != 0 ? distantCount : localCount;
  let last = NONE;
  let weight = 0.0;
  for (let i = 0; i < few; i++) {
    const w = load<f64>(slot(i));
    if (w <= 0.0) continue;
    last = i;
    weight = w;
    if (u < w) {
      chance = w / total;
      return i;
    }
    u -= w;
  }
  if (tree == 0 || local <= 0.0) {
    // rounding at the upper end
    if (last != NONE) {
      chance = weight / total;
      return last;
    }
    if (sun > 0.0) {
      chance = sun / total;
      return SUN;
    }
    chance = skyShare / total;
    return skyShare > 0.0 ? SKY : NONE;
  }
  chance = local / total;
  u = Math.min(0.9999999999, u / local);
  let node = 0;
  while (true) {
    const p = nodeAt(node);
    const first = <i32>word(p, T_FIRST);
    if (first < 0) return <i32>word(p, T_SECOND);
    const second = <i32>word(p, T_SECOND);
    const c = half(first, second);
    if (u < c) {
      node = first;
      chance *= c;
      u /= c;
    } else {
      node = second;
      chance *= 1.0 - c;
      u = (u - c) / (1.0 - c);
    }
  }
}

/** Chance of the first of two siblings; neither is ever left out. */
// @ts-ignore: decorator
@inline
function half(first: i32, second: i32): f64 {
  const a = nodeWeight(first), b = nodeWeight(second);
  return a + b > 0.0 ? Math.max(0.001, Math.min(0.999, a / (a + b))) : 0.5;
}

/** One light for the part [a, b] of a ray in air that scatters over `reach` metres. */
export function chooseForAir(
  ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, a: f64, b: f64, reach: f64, sunPhase: f64, withSky: bool, u: f64,
): i32 {
  wx = ox; wy = oy; wz = oz;
  wdx = dx; wdy = dy; wdz = dz;
  wa = a; wb = b;
  alongRay = true;
  reachNow = reach;
  const sun = sunPower * param(P_SUN_AIR) * reach * (0.5 * sunPhase + 0.5 * INV_4PI);
  return choose(sun, withSky ? skyPower * param(P_SKY_AIR) * reach : 0.0, glowPower > 0.0 ? glowWeight() : 0.0, L_AIR, u);
}

/** One light for a point, by irradiance. @param air whether the point lies in the air or on a surface */
export function chooseForPoint(x: f64, y: f64, z: f64, withSky: bool, air: bool, u: f64): i32 {
  wx = x; wy = y; wz = z;
  alongRay = false;
  const sun = sunPower * param(air ? P_SUN_AIR : P_SUN_SURFACES);
  const skyShare = withSky ? skyPower * param(air ? P_SKY_AIR : P_SKY_SURFACES) * 3.141592653589793 : 0.0;
  return choose(sun, skyShare, glowPower > 0.0 ? glowWeight() : 0.0, air ? L_AIR : L_SURFACES, u);
}

/**
 * Chance that chooseForPoint() at point x, whose weights summed to `total`, takes emissive triangle `i`:
 * for weighing a triangle that a ray met by itself.
 */
export function chanceOfTriangle(i: i32, x: f64, y: f64, z: f64, total: f64): f64 {
  if (!(total > 0.0) || tree == 0) return 0.0;
  wx = x; wy = y; wz = z;
  alongRay = false;
  let node = <i32>word(glowRecord(i), G_LEAF);
  let c = 1.0;
  while (node != 0) {
    const parent = <i32>word(nodeAt(node), T_PARENT);
    const p = nodeAt(parent);
    const first = <i32>word(p, T_FIRST);
    const h = half(first, <i32>word(p, T_SECOND));
    c *= node == first ? h : 1.0 - h;
    node = parent;
  }
  return (c * nodeWeight(0)) / total;
}

export function hasGlowingTriangles(): bool { return param(P_GLOW_COUNT) > 0.0; }
