/**
 * Which light to ask: one of sun, sky, glowing media and lights, by what each is estimated to give. Few lights
 * are weighed one by one. Many lie in a tree: near the place, where a node's size would blur what its lights give,
 * it is opened (after Conty Estevez and Kulla 2018); one of the nodes of that cut is drawn by weight, and walked
 * down by the weight and nearness of its halves.
 */
import { ENDLESS, MIN_GAP2, MIN_LENGTH, MIN_SINE2 } from "./precision";
import {
  CHOICE_IDS,
  CUT_BYTES,
  MAX_CHOICES,
  SCRATCH_AIR_CHOICES,
  SCRATCH_CUT,
  SCRATCH_OPEN_NODES,
  SCRATCH_POINT_CHOICES,
} from "../../layout/scratch";
import { LIGHT_SPOT, REGION_EVERYWHERE, REGION_LAYER } from "../../layout/kinds";
import {
  L_KIND,
  L_POSITION,
  L_POWER,
  L_RADIUS,
  L_AIR,
  L_SURFACES,
  L_AXIS,
  L_COS_OUTER,
  P_SUN_E,
  P_SUN_AIR,
  P_SUN_SURFACES,
  P_SKY_ZENITH,
  P_SKY_GROUND,
  P_SKY_GROUND_HIGH,
  P_SKY_HORIZON,
  P_SKY_AIR,
  P_SKY_SURFACES,
  P_LIGHT_COUNT,
  P_DISTANT_COUNT,
  P_LISTED_COUNT,
  P_SUN_AIR_SAMPLES,
  L_AIR_SAMPLES,
  P_ENV,
  P_ENV_POWER,
  LT_CENTRE,
  LT_RADIUS,
  LT_POWER,
  LT_FIRST,
  LT_SECOND,
  LT_PARENT,
  E_LEAF,
  M_EMISSION,
  P_EMITTING_MEDIA,
  M_REGION,
  M_CENTRE,
  M_HALF,
} from "../../layout/layout";
import { lightParam, lightParamInt, param, paramInt, ablation, scratch, word, wordInt } from "./state";
import { coneInterval, coneA, coneB } from "./closest-approach";
import { gx, gy, gz } from "./hit-frame";
import { hasEnvironment } from "./sky";
import {
  cellAt,
  guides,
  knowsNodes,
  listedSeen,
  prepareLightCells,
  seesSky,
  seesSun,
  sideOf,
  skySeen,
  sunSeen,
  weighCell,
} from "./light-cells";
import { nodeAt, prepareLightTree, tree } from "./light-tree";
import { SUN, SKY, NONE, MEDIUM_EMISSION, emissiveRecord } from "./lights";
import { mediumCount } from "./segments";
import { mediumAt } from "./density";

const INV_4PI: f64 = 0.07957747154594767;

let sunPower: f64 = 0.0;
let skyPower: f64 = 0.0;
let emissionPower: f64 = 0.0;
let localCount: i32 = 0;
let distantCount: i32 = 0;
let listedCount: i32 = 0;

/** Reads from the parameters what lights there are, and how bright the sun and the sky are against them. */
export function prepareLightSampling(): void {
  sunPower = param(P_SUN_E) + param(P_SUN_E + 1) + param(P_SUN_E + 2);
  skyPower = 0.0;
  if (paramInt(P_ENV) != 0) skyPower = param(P_ENV_POWER);
  else {
    const grounded = param(P_SKY_GROUND_HIGH) > -1.0;
    for (let i = 0; i < 3; i++) {
      const above = 0.5 * (param(P_SKY_ZENITH + i) + param(P_SKY_HORIZON + i));
      skyPower += grounded ? 0.5 * (above + param(P_SKY_GROUND + i)) : above;
    }
  }
  localCount = paramInt(P_LIGHT_COUNT);
  distantCount = paramInt(P_DISTANT_COUNT);
  listedCount = paramInt(P_LISTED_COUNT);
  prepareLightTree();
  prepareLightCells();
  emissionPower = 0.0;
  if (paramInt(P_EMITTING_MEDIA) > 0)
    for (let m = 0; m < mediumCount; m++) {
      const p = mediumAt(m);
      emissionPower += word(p, M_EMISSION) + word(p, M_EMISSION + 1) + word(p, M_EMISSION + 2);
    }
}

/** Chance of the light last chosen. */
export let selectionPdf: f64 = 0.0;

// choices being prepared: lights as they are numbered, nodes of the tree behind them
let base: usize = 0;
let choices: i32 = 0;
let choiceSum: f64 = 0.0;
const NODE: i32 = 0x20000000;

// @ts-ignore: decorator
@inline
function put(id: i32, w: f64): void {
  store<f64>(base + ((<usize>choices) << 3), w);
  store<i32>(base + CHOICE_IDS + ((<usize>choices) << 2), id);
  choices++;
  choiceSum += w;
}

// the point or the ray part that weights are for
let wx: f64 = 0.0,
  wy: f64 = 0.0,
  wz: f64 = 0.0,
  wdx: f64 = 0.0,
  wdy: f64 = 0.0,
  wdz: f64 = 0.0,
  wa: f64 = 0.0,
  wb: f64 = 0.0;
/** Where the ray's air begins. */
let wstart: f64 = 0.0;
let alongRay: bool = false;
let thinning: f64 = 0.0;

/** Irradiance (times a constant) from something of weight w (cd) within r of c: along a ray, about its integral. */
// @ts-ignore: decorator
@inline
function proximity(cx: f64, cy: f64, cz: f64, r: f64, w: f64): f64 {
  const px = cx - wx,
    py = cy - wy,
    pz = cz - wz;
  const d2 = px * px + py * py + pz * pz;
  if (!alongRay) return w / Math.max(d2, r * r + MIN_SINE2);
  const t = px * wdx + py * wdy + pz * wdz;
  const at = Math.max(wa, Math.min(wb, t));
  const gap2 = Math.max(Math.max(d2 - t * t, r * r), MIN_GAP2);
  const gap = Math.sqrt(gap2);
  // sines in place of the angles: as good for weighing, and far cheaper
  const b = wb - t,
    a = wa - t;
  const sb = b < ENDLESS ? b / Math.sqrt(gap2 + b * b) : 1.0;
  const thin = 1.0 + thinning * Math.max(0.0, at - wstart);
  return (w * INV_4PI * (sb - a / Math.sqrt(gap2 + a * a))) / (gap * thin * thin);
}

// @ts-ignore: decorator
@inline
function nodeWeight(i: i32): f64 {
  const p = nodeAt(i);
  return proximity(word(p, LT_CENTRE), word(p, LT_CENTRE + 1), word(p, LT_CENTRE + 2), word(p, LT_RADIUS), word(p, LT_POWER));
}

/** Weight of one light; spots count for little where they do not shine, never for nothing. */
function lightWeight(i: i32, share: i32): f64 {
  const k = lightParam(i, share);
  // along a camera ray those with samples of their own are not drawn among the others
  if (k <= 0.0 || (alongRay && lightParamInt(i, L_AIR_SAMPLES) != 0)) return 0.0;
  if (i < distantCount) return k * lightParam(i, L_POWER) * (alongRay ? reachNow * INV_4PI : 1.0);
  // of a spot counts the part of the ray inside its cone
  const cone = alongRay && coneInterval(i, wx, wy, wz, wdx, wdy, wdz, wa, wb);
  const from = wa,
    to = wb;
  if (cone && coneB > coneA) {
    wa = coneA;
    wb = coneB;
  }
  const w =
    k *
    proximity(
      lightParam(i, L_POSITION),
      lightParam(i, L_POSITION + 1),
      lightParam(i, L_POSITION + 2),
      lightParam(i, L_RADIUS),
      lightParam(i, L_POWER),
    );
  wa = from;
  wb = to;
  if (cone && coneB <= coneA) return 1e-3 * w;
  if (alongRay || lightParamInt(i, L_KIND) != LIGHT_SPOT) return w;
  const px = wx - lightParam(i, L_POSITION),
    py = wy - lightParam(i, L_POSITION + 1),
    pz = wz - lightParam(i, L_POSITION + 2);
  const d = Math.sqrt(px * px + py * py + pz * pz);
  const c = px * lightParam(i, L_AXIS) + py * lightParam(i, L_AXIS + 1) + pz * lightParam(i, L_AXIS + 2);
  return c < d * lightParam(i, L_COS_OUTER) - lightParam(i, L_RADIUS) ? 1e-3 * w : w;
}
let reachNow: f64 = 0.0;

/** Estimated light of media that glow. */
function emissionWeight(): f64 {
  let sum = 0.0;
  for (let m = 0; m < mediumCount; m++) {
    const p = mediumAt(m);
    const e = word(p, M_EMISSION) + word(p, M_EMISSION + 1) + word(p, M_EMISSION + 2);
    if (e <= 0.0) continue;
    const kind = wordInt(p, M_REGION);
    if (kind == REGION_EVERYWHERE || kind == REGION_LAYER) {
      sum += e * (alongRay ? reachNow : 10.0);
      continue;
    }
    const hx = word(p, M_HALF),
      hy = word(p, M_HALF + 1),
      hz = word(p, M_HALF + 2);
    sum += proximity(
      word(p, M_CENTRE),
      word(p, M_CENTRE + 1),
      word(p, M_CENTRE + 2),
      Math.max(hx, Math.max(hy, hz)),
      8.0 * e * hx * hy * hz,
    );
  }
  return sum;
}

let sunNow: f64 = 0.0,
  emissionNow: f64 = 0.0,
  skyNow: f64 = 0.0;

/** Lists what can be chosen at the place the weights are for. */
function prepare(at: usize, cell: usize, sun: f64, skyShare: f64, glow: f64, share: i32): void {
  base = at;
  choices = 0;
  choiceSum = 0.0;
  sunNow = sun;
  skyNow = skyShare;
  emissionNow = glow;
  const few = tree != 0 ? listedCount : localCount;
  for (let i = 0; i < few; i++) put(i, lightWeight(i, share) * listedSeen(cell, i));
  if (tree == 0) return;
  if (!knowsNodes(cell)) {
    open(0);
    return;
  }
  const n = choices + weighCell(cell, wx, wy, wz, base + ((<usize>choices) << 3), base + CHOICE_IDS + ((<usize>choices) << 2), NODE);
  for (let i = choices; i < n; i++) choiceSum += load<f64>(base + ((<usize>i) << 3));
  choices = n;
}

/**
 * Sun and sky are weighed as if nothing hid them. Indoors most points see neither, and lamps asked once in thousands of times
 * would be salt: lamps that give anything to speak of get a fair share of the questions.
 */
function reserveForLamps(): void {
  const distant = sunNow + skyNow;
  if (!(choiceSum > 0.0) || !(distant > choiceSum)) return;
  const r = choiceSum / distant;
  const share = (FAIR * r) / (r + TELLING);
  if (share <= r / (1.0 + r)) return;
  const k = (r * (1.0 - share)) / share;
  sunNow *= k;
  skyNow *= k;
}
/** Share that lamps get however strong sun and sky are, and the part of those they must give for half of it. */
const FAIR: f64 = 0.3;
const TELLING: f64 = 1e-4;

/**
 * Puts the nodes of a cut through the tree: what is large for its distance is opened, its first half before its second. Nodes are
 * weighed when all are known, two at a time.
 */
function open(root: i32): void {
  const stack = scratch + SCRATCH_OPEN_NODES;
  const cut = scratch + SCRATCH_CUT;
  store<i32>(stack, root);
  let depth = 1;
  const begin = choices;
  let n = begin;
  while (depth > 0) {
    depth--;
    const node = load<i32>(stack + ((<usize>depth) << 2));
    const p = nodeAt(node);
    const px = word(p, LT_CENTRE) - wx,
      py = word(p, LT_CENTRE + 1) - wy,
      pz = word(p, LT_CENTRE + 2) - wz;
    const d2 = px * px + py * py + pz * pz;
    const r = word(p, LT_RADIUS),
      r2 = r * r;
    let away = d2,
      t = 0.0,
      at = 0.0;
    if (alongRay) {
      t = px * wdx + py * wdy + pz * wdz;
      at = Math.max(wa, Math.min(wb, t));
      away = Math.max(0.0, d2 - t * t) + (t - at) * (t - at);
    }
    const first = wordInt(p, LT_FIRST);
    if (first >= 0 && n < MAX_CHOICES && away <= OPENED * r2) {
      store<i32>(stack + ((<usize>depth) << 2), wordInt(p, LT_SECOND));
      store<i32>(stack + ((<usize>depth) << 2), first, 4);
      depth += 2;
      continue;
    }
    const i = cut + ((<usize>n) << 3);
    store<i32>(base + CHOICE_IDS + ((<usize>n) << 2), node | NODE);
    store<f64>(base + ((<usize>n) << 3), word(p, LT_POWER));
    store<f64>(i, alongRay ? Math.max(Math.max(d2 - t * t, r2), MIN_GAP2) : Math.max(d2, r2 + MIN_SINE2));
    if (alongRay) {
      store<f64>(i, t, CUT_BYTES);
      store<f64>(i, at, 2 * CUT_BYTES);
    }
    n++;
  }
  choices = n;
  // the last may lie beside one that is none: there is room for it, and it is not added
  for (let k = begin; k < n; k += 2) {
    const to = base + ((<usize>k) << 3);
    const from = cut + ((<usize>k) << 3);
    const power = v128.load(to);
    const weight = alongRay
      ? weightsAlong(power, v128.load(from), v128.load(from, CUT_BYTES), v128.load(from, 2 * CUT_BYTES))
      : f64x2.div(power, v128.load(from));
    v128.store(to, weight);
    choiceSum += f64x2.extract_lane(weight, 0);
    if (k + 1 < n) choiceSum += f64x2.extract_lane(weight, 1);
  }
}

/** proximity() of two along a ray, by power, squared gap, and where the nearest approach lies, on the ray and on the part of it. */
// @ts-ignore: decorator
@inline
function weightsAlong(power: v128, gap2: v128, t: v128, at: v128): v128 {
  const a = f64x2.sub(f64x2.splat(wa), t);
  const before = f64x2.div(a, f64x2.sqrt(f64x2.add(gap2, f64x2.mul(a, a))));
  let behind = f64x2.splat(1.0);
  if (wb < 0.5 * ENDLESS) {
    const b = f64x2.sub(f64x2.splat(wb), t);
    behind = f64x2.div(b, f64x2.sqrt(f64x2.add(gap2, f64x2.mul(b, b))));
  }
  const along = f64x2.pmax(f64x2.splat(0.0), f64x2.sub(at, f64x2.splat(wstart)));
  const thin = f64x2.add(f64x2.splat(1.0), f64x2.mul(f64x2.splat(thinning), along));
  const k = f64x2.mul(f64x2.mul(power, f64x2.splat(INV_4PI)), f64x2.sub(behind, before));
  return f64x2.div(k, f64x2.mul(f64x2.sqrt(gap2), f64x2.mul(thin, thin)));
}

/** A node is opened within this many of its radii (squared). */
const OPENED: f64 = 4.0;

/** Draws from what was prepared; sets the chance. @param u in [0, 1) */
function draw(u: f64): i32 {
  const total = sunNow + skyNow + emissionNow + choiceSum;
  if (!(total > 0.0)) return NONE;
  if ((ablation & 1) != 0) return drawEvenly(u);
  u *= total;
  if (u < sunNow) {
    selectionPdf = sunNow / total;
    return SUN;
  }
  u -= sunNow;
  if (u < skyNow) {
    selectionPdf = skyNow / total;
    return SKY;
  }
  u -= skyNow;
  if (u < emissionNow) {
    selectionPdf = emissionNow / total;
    return MEDIUM_EMISSION;
  }
  u -= emissionNow;
  let last = -1;
  let w = 0.0;
  for (let i = 0; i < choices; i++) {
    const c = load<f64>(base + ((<usize>i) << 3));
    if (c <= 0.0) continue;
    last = i;
    w = c;
    if (u < c) break;
    u -= c;
  }
  if (last < 0) {
    // rounding at the upper end
    selectionPdf = Math.max(sunNow, skyNow) / total;
    return sunNow >= skyNow ? SUN : SKY;
  }
  selectionPdf = w / total;
  const id = load<i32>(base + CHOICE_IDS + ((<usize>last) << 2));
  if ((id & NODE) == 0) return id;
  u = Math.max(0.0, Math.min(0.9999999999, u / w));
  let node = id & ~NODE;
  while (true) {
    const p = nodeAt(node);
    const first = wordInt(p, LT_FIRST);
    if (first < 0) return wordInt(p, LT_SECOND);
    const second = wordInt(p, LT_SECOND);
    const c = half(first, second);
    if (u < c) {
      node = first;
      selectionPdf *= c;
      u /= c;
    } else {
      node = second;
      selectionPdf *= 1.0 - c;
      u = (u - c) / (1.0 - c);
    }
  }
}

/** Chance of each kind and light there is, drawn evenly; 0 where there is none. */
function chanceOfEach(): f64 {
  const n = localCount + <i32>(sunNow > 0.0) + <i32>(skyNow > 0.0) + <i32>(emissionNow > 0.0);
  return n > 0 ? 1.0 / <f64>n : 0.0;
}

/** Any of the lights there are, with the same chance: what benchmarks compare with. */
function drawEvenly(u: f64): i32 {
  selectionPdf = chanceOfEach();
  if (!(selectionPdf > 0.0)) return NONE;
  let i = <i32>Math.floor(u / selectionPdf);
  if (i < localCount) return i;
  i -= localCount;
  if (sunNow > 0.0) {
    if (i == 0) return SUN;
    i--;
  }
  if (skyNow > 0.0 && i == 0) return SKY;
  return emissionNow > 0.0 ? MEDIUM_EMISSION : sunNow > 0.0 ? SUN : NONE;
}

/** Chance of the first of two siblings; neither is ever left out. */
// @ts-ignore: decorator
@inline
function half(first: i32, second: i32): f64 {
  const a = nodeWeight(first),
    b = nodeWeight(second);
  return a + b > 0.0 ? Math.max(0.001, Math.min(0.999, a / (a + b))) : 0.5;
}

/** Prepares choices for the part [a, b] of a camera ray in air that scatters over `reach` metres and is asked at about `count` points. */
export function prepareAirLights(
  ox: f64,
  oy: f64,
  oz: f64,
  dx: f64,
  dy: f64,
  dz: f64,
  a: f64,
  b: f64,
  reach: f64,
  sunPhase: f64,
  sunShare: f64,
  withSky: bool,
  count: i32,
): void {
  wx = ox;
  wy = oy;
  wz = oz;
  wdx = dx;
  wdy = dy;
  wdz = dz;
  wa = a;
  wb = b;
  wstart = a;
  alongRay = true;
  reachNow = reach;
  thinning = 0.5 / Math.max(reach, MIN_LENGTH);
  const sun = paramInt(P_SUN_AIR_SAMPLES) != 0 ? 0.0 : sunPower * param(P_SUN_AIR) * reach * (0.5 * sunPhase + 0.5 * sunShare * INV_4PI);
  prepare(
    scratch + SCRATCH_AIR_CHOICES,
    0,
    sun,
    withSky ? skyPower * param(P_SKY_AIR) * reach * skyAlong(ox, oy, oz, dx, dy, dz, a, Math.min(b, a + 2.0 * reach)) : 0.0,
    emissionPower > 0.0 ? emissionWeight() : 0.0,
    L_AIR,
  );
  airChoices = choices;
  airSum = choiceSum;
  airSun = sunNow;
  airSky = skyNow;
  airEmission = emissionNow;
  airX = ox;
  airY = oy;
  airZ = oz;
  const others = airSum + airEmission;
  if ((ablation & 1) != 0) {
    airSunAsked = 0.0;
    airSkyAsked = 0.0;
    airOthersAsked = 1.0;
    airSunTimes = 0;
    airSkyTimes = 0;
    airOtherTimes = count;
    return;
  }
  const most = Math.max(airSun, Math.max(airSky, others));
  airSunAsked = seldom(airSun, most);
  airSkyAsked = seldom(airSky, most);
  airOthersAsked = seldom(others, most);
  const each = most > 0.0 ? <f64>count / (airSun + airSky + others) : 0.0;
  airSunTimes = max(1, <i32>(each * airSun + 0.5));
  airSkyTimes = max(1, <i32>(each * airSky + 0.5));
  airOtherTimes = 1;
  if (!(others > TELLING * most)) return;
  // sky that no place is known to see takes nothing from lamps
  airOthersAsked = 1.0;
  airOtherTimes = max((count + 1) >> 1, <i32>((<f64>count * others) / (others + airSun + (seesSkyAlong ? airSky : 0.0)) + 0.5));
}

/** Chances that the air of the ray last prepared asks the sun, the sky, and some of the others, and at how many points where it does. */
export let airSunAsked: f64 = 0.0;
export let airSkyAsked: f64 = 0.0;
export let airOthersAsked: f64 = 0.0;
export let airSunTimes: i32 = 0;
export let airSkyTimes: i32 = 0;
export let airOtherTimes: i32 = 0;

let seesSkyAlong: bool = false;
/** Share of the sky that a part of a ray sees, about; sets whether it is known to see any. */
function skyAlong(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, a: f64, b: f64): f64 {
  let sum = 0.0;
  seesSkyAlong = false;
  for (let i = 0; i < 3; i++) {
    const t = a + ((b - a) * (<f64>i + 0.5)) / 3.0;
    const cell = cellAt(ox + t * dx, oy + t * dy, oz + t * dz, 0);
    sum += skySeen(cell);
    seesSkyAlong = seesSkyAlong || seesSky(cell);
  }
  return sum / 3.0;
}
let airChoices: i32 = 0;
let airSum: f64 = 0.0,
  airSun: f64 = 0.0,
  airSky: f64 = 0.0,
  airEmission: f64 = 0.0;

/** One of the others for the air last prepared: what is neither sun nor sky. */
export function sampleLightForAir(u: f64): i32 {
  base = scratch + SCRATCH_AIR_CHOICES;
  choices = airChoices;
  choiceSum = airSum;
  const all = (ablation & 1) != 0;
  sunNow = all ? airSun : 0.0;
  skyNow = all ? airSky : 0.0;
  emissionNow = airEmission;
  // the halves of nodes are weighed for the ray again
  alongRay = true;
  wx = airX;
  wy = airY;
  wz = airZ;
  return draw(u);
}
let airX: f64 = 0.0,
  airY: f64 = 0.0,
  airZ: f64 = 0.0;

/** One light for a point, by irradiance. @param air whether the point lies in the air or on a surface */
export function sampleLight(x: f64, y: f64, z: f64, withSky: bool, air: bool, u: f64): i32 {
  side = 0;
  preparePoint(x, y, z, withSky, air);
  reserveForLamps();
  return draw(u);
}

/** Side of its cell that the point lies on. */
let side: i32 = 0;

/** Which lights a vertex asks: the sun, the sky, and one of the others as drawn last (NONE where it asks none). */
export let asksSun: bool = false;
export let asksSky: bool = false;
export let otherLight: i32 = NONE;
/**
 * How often each is asked on average, and one of the others for each unit of its weight: for weighing what a path meets by itself too.
 * A light asked more than once is asked with numbers of its own each time.
 */
export let sunChance: f64 = 0.0;
export let skyChance: f64 = 0.0;
export let otherChance: f64 = 0.0;
export let chancePerWeight: f64 = 0.0;

/** Where one kind is estimated to give this many times less than another, it is asked more seldom than always. */
const SELDOM: f64 = 100.0;
/** What the others must give beside the sky to be worth asking more than once. */
const OFTEN: f64 = 0.5;

/**
 * Lights for a point, by irradiance: the sun, the sky and one of the others. None takes another's place, and all are asked but where they
 * are known to give little beside the others. The sky is left to the path that goes on, but where it is drawn by itself. What follows is
 * prepareOthers(), then drawOther().
 * @param last whether no path goes on @param u in [0, 1)
 */
export function chooseLights(x: f64, y: f64, z: f64, last: bool, air: bool, u: f64): void {
  side = air ? 0 : sideOf(gx, gy, gz);
  preparePoint(x, y, z, last || hasEnvironment(), air);
  if ((ablation & 1) != 0) {
    asksSun = false;
    asksSky = false;
    skyChance = skyNow > 0.0 ? chanceOfEach() : 0.0;
    sunChance = sunNow > 0.0 ? chanceOfEach() : 0.0;
    return;
  }
  const others = emissionNow + choiceSum;
  const most = Math.max(sunNow, Math.max(skyNow, others));
  sunChance = seldom(sunNow, most);
  skyChance = seldom(skyNow, most);
  // what hides sun and sky is not known everywhere: lamps are not left out for light that may not come
  chanceOfOthers = seldom(others, Math.max(Math.max(sunKnown, skyKnown), others));
  asksSun = sunNow > 0.0 && u < sunChance;
  // the two are seldom left out at once: the same number serves both, from its other end
  asksSky = skyNow > 0.0 && 1.0 - u <= skyChance;
  sunNow = 0.0;
  skyNow = 0.0;
}
let chanceOfOthers: f64 = 0.0;

/** Whether the others give enough at the point that lights were last chosen for to be asked more than once, if the sun does not come there. */
export function othersTell(): bool {
  return (ablation & 1) == 0 && emissionNow + choiceSum > OFTEN * skyKnown;
}

/** Settles how often one of the others is asked at the point that lights were last chosen for: so many times, or by chance where they give little. */
export function prepareOthers(times: i32): void {
  const others = emissionNow + choiceSum;
  const even = (ablation & 1) != 0;
  otherTimes = even ? 1.0 : <f64>times;
  chancePerWeight = even || !(others > 0.0) ? 0.0 : (otherTimes * chanceOfOthers) / others;
}
let otherTimes: f64 = 1.0;

/** Draws one of the others for that point; sets otherLight and otherChance. @param v in [0, 1) */
export function drawOther(v: f64): void {
  otherLight = NONE;
  if ((ablation & 1) != 0) {
    otherLight = draw(v);
    otherChance = selectionPdf;
    return;
  }
  if (!(emissionNow + choiceSum > 0.0) || v >= chanceOfOthers) return;
  otherLight = draw(v / chanceOfOthers);
  otherChance = otherTimes * chanceOfOthers * selectionPdf;
}

/** Chance to ask for light of weight a beside light of weight b. */
// @ts-ignore: decorator
@inline
function seldom(a: f64, b: f64): f64 {
  return a * SELDOM >= b ? (a > 0.0 ? 1.0 : 0.0) : Math.sqrt((a * SELDOM) / b);
}

/** What sun and sky give where they are known to be seen at all. */
let sunKnown: f64 = 0.0,
  skyKnown: f64 = 0.0;

function preparePoint(x: f64, y: f64, z: f64, withSky: bool, air: bool): void {
  wx = x;
  wy = y;
  wz = z;
  alongRay = false;
  const cell = cellAt(x, y, z, side);
  const sun = sunPower * param(air ? P_SUN_AIR : P_SUN_SURFACES) * sunSeen(cell);
  sunKnown = seesSun(cell) ? sun : 0.0;
  // where a cell knows what is seen of the sky, it is drawn by that, and by the path that goes on
  const skyShare = withSky || guides(cell) ? skyPower * param(air ? P_SKY_AIR : P_SKY_SURFACES) * 3.141592653589793 * skySeen(cell) : 0.0;
  skyKnown = seesSky(cell) ? skyShare : 0.0;
  prepare(scratch + SCRATCH_POINT_CHOICES, cell, sun, skyShare, emissionPower > 0.0 ? emissionWeight() : 0.0, air ? L_AIR : L_SURFACES);
}

/** Whether lights lie in a tree. */
export function hasLightTree(): bool {
  return tree != 0;
}
/** Address of a node of it. */
export function lightNode(i: i32): usize {
  return nodeAt(i);
}

/** Chance that the last chooseLights() took light i, which is weighed by itself. */
export function chanceOfListed(i: i32): f64 {
  return (ablation & 1) != 0 ? chanceOfEach() : chancePerWeight * load<f64>(base + ((<usize>i) << 3));
}

/** The same of the light in leaf `node` of the tree. */
export function chanceOfLeaf(node: i32): f64 {
  return (ablation & 1) != 0 ? chanceOfEach() : chanceUpwards(node, chancePerWeight);
}

/**
 * Chance that chooseLights() at a surface point takes emissive triangle `i`, by the chance per weight that it had there: for weighing a
 * triangle that a ray met by itself.
 */
export function chanceOfTriangle(i: i32, x: f64, y: f64, z: f64, from: i32, perWeight: f64): f64 {
  if (!(perWeight > 0.0) || tree == 0) return 0.0;
  side = from;
  preparePoint(x, y, z, false, false);
  return chanceUpwards(wordInt(emissiveRecord(i), E_LEAF), perWeight);
}

/** From a leaf up to the node of the cut that it lies under, among the choices last prepared. */
function chanceUpwards(node: i32, perWeight: f64): f64 {
  let c = perWeight;
  while (true) {
    for (let k = 0; k < choices; k++)
      if (load<i32>(base + CHOICE_IDS + ((<usize>k) << 2)) == (node | NODE)) return c * load<f64>(base + ((<usize>k) << 3));
    if (node == 0) return 0.0;
    const parent = wordInt(nodeAt(node), LT_PARENT);
    const p = nodeAt(parent);
    const first = wordInt(p, LT_FIRST);
    const h = half(first, wordInt(p, LT_SECOND));
    c *= node == first ? h : 1.0 - h;
    node = parent;
  }
}
