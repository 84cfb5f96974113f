/** What the host calls: render a tile of a run, and single computations for tests and benchmarks. */
import { FULL_SUM } from "./precision";
import { CAMERA_ORTHOGRAPHIC, FILTER_TENT, LEVEL_VEIL } from "../../layout/kinds";
import {
  P_WIDTH,
  P_FRAME_WIDTH,
  P_FRAME_HEIGHT,
  P_FRAME_X,
  P_FRAME_Y,
  P_ORIGIN,
  P_FILM,
  P_SEED,
  P_CAM_ORIGIN,
  P_CAM_RIGHT,
  P_CAM_UP,
  P_CAM_FORWARD,
  P_CAM_KIND,
  P_CAM_HALF_X,
  P_CAM_HALF_Y,
  PASS_AIR,
  PASS_SURFACES,
  PASS_CLEAR,
  P_STRIDE,
  F_AIR,
  F_SURFACES,
  F_TRANSMITTANCE,
  F_DEPTH,
  F_HITS,
  F_LUMINANCE2,
  F_COUNT,
  F_CLEAR,
  F_CLEAR_COUNT,
  F_DISTANCE,
  F_POSITION,
  F_NORMAL,
  F_ALBEDO,
  F_EMISSION,
  F_AIR_LUMINANCE2,
  F_RAYS,
  F_AIR_ODD,
  F_SURFACES_ODD,
  F_SEEN,
  F_CLEAR_ODD,
  F_CLEAR_SEEN,
  F_SURFACES_LUMINANCE2,
  AIR_EVERY_SHIFT,
  P_CAM_RADIUS,
  P_CAM_FOCUS,
  P_FILTER,
  P_NOISE_THRESHOLD,
  SETTLED_SHIFT,
  P_MIN_SAMPLES,
  P_DARK,
  P_FIREFLY_CLAMP,
  P_LEVEL,
  P_PLATE_OBJECT,
  P_PLATE_MATERIAL,
  P_PLATE_MATTES,
  P_PLATE_WHITE,
  RAY_CAMERA,
  RAY_SKY,
  RAY_SHADOW,
  RAY_INDIRECT,
} from "../../layout/layout";
import { afterLight, atPart, atPasses, atPixel } from "./activity";
import { PART_FILM, PART_LENS, PART_NONE } from "../../layout/scratch";
import { beginRun, bindWorker, cancelled, densityLookups, param, paramAddress, paramInt, raysTraced, setAblation } from "./state";
import { startSample, pair, random, ru, rv, sequencePoint } from "./random";
import { closestHit, anyHit, hitT, hitTriangle, hitInstance } from "./bvh";
import { prepareMedia } from "./segments";
import { mediumAt, densityAt } from "./density";
import { transmit, tr, tg, tb } from "./transmit";
import { majorantAt } from "./majorants";
import { sampleCollision, colT, colR, colG, colB } from "./collision";
import { prepareLights, lightFrom, lR, lG, lB, lx, ly, lz } from "./lights";
import { askLightCells } from "./light-cells";
import { prepareLightSampling } from "./light-sampling";
import { sky, skyR, skyG, skyB, sampleEnvironment, environmentPdf, ex, ey, ez } from "./sky";
import { phaseOf, sampleCosine } from "./phase";
import {
  preparePaths,
  cameraHit,
  airBranch,
  surfaceBranch,
  camR,
  camG,
  camB,
  camFound,
  camPlate,
  camT,
  seenR,
  seenG,
  seenB,
  emissionSumR,
  emissionSumG,
  emissionSumB,
} from "./path";
import { beginBranch, prepareGroups, storeGroups, forgetGroups, carryGroups, storeMattes, outR, outG, outB } from "./accumulate";
import { carryAir, joinPixels, storeSampled } from "./join";
import { storeMediumShares } from "./medium-shares";
import { veil } from "./veil";
import { nx, ny, nz } from "./hit-frame";
import { materialNumber, objectOf } from "./parts";
import { aimPlate, hasPlate, plateLight, plateMatte, plateNormal, preparePlate } from "./plate";
import { codeX, codeY, codeZ } from "./normal-code";
import { albedoR, albedoG, albedoB } from "./bsdf";
import { prepareFilter } from "./any-hit-filter";
import { noiseFactor } from "./noise";

export { bindWorker, setAblation, sequencePoint };
export { sectionField, sectionLit, sectionDepths, sectionGains, sectionCut } from "./section";
export { sectionSunMap } from "./sun-variate";

let invalid: f64 = 0.0;

/** Starts run `id`: later calls work with the parameters as they are now. */
export function begin(id: i32): void {
  beginRun(id);
  invalid = 0.0;
  prepareMedia(true);
  prepareLights();
  prepareLightSampling();
  preparePlate();
  preparePaths();
  prepareGroups();
  prepareFilter();
}

/** Offset within two pixels whose density falls from the middle: drawn so, it filters without weights. */
// @ts-ignore: decorator
@inline
function tent(u: f64): f64 {
  return u < 0.5 ? Math.sqrt(2.0 * u) - 1.0 : 1.0 - Math.sqrt(2.0 - 2.0 * u);
}

/** Rays traced since begin(). */
export function rays(): f64 {
  return raysTraced;
}
/** Break-up lookups since begin(). */
export function lookups(): f64 {
  return densityLookups;
}
/** Samples dropped since begin() because they were not finite (0 unless something is wrong). */
export function invalidSamples(): f64 {
  return invalid;
}

/** End of the static data. */
export function staticEnd(): i32 {
  return <i32>__heap_base;
}

let rox: f64 = 0.0,
  roy: f64 = 0.0,
  roz: f64 = 0.0,
  rdx: f64 = 0.0,
  rdy: f64 = 0.0,
  rdz: f64 = 0.0;

function cameraRay(x: f64, y: f64): void {
  const sx = ((2.0 * x) / <f64>paramInt(P_FRAME_WIDTH) - 1.0) * param(P_CAM_HALF_X);
  const sy = (1.0 - (2.0 * y) / <f64>paramInt(P_FRAME_HEIGHT)) * param(P_CAM_HALF_Y);
  rox = param(P_CAM_ORIGIN);
  roy = param(P_CAM_ORIGIN + 1);
  roz = param(P_CAM_ORIGIN + 2);
  const ax = sx * param(P_CAM_RIGHT) + sy * param(P_CAM_UP);
  const ay = sx * param(P_CAM_RIGHT + 1) + sy * param(P_CAM_UP + 1);
  const az = sx * param(P_CAM_RIGHT + 2) + sy * param(P_CAM_UP + 2);
  const fx = param(P_CAM_FORWARD),
    fy = param(P_CAM_FORWARD + 1),
    fz = param(P_CAM_FORWARD + 2);
  if (paramInt(P_CAM_KIND) == CAMERA_ORTHOGRAPHIC) {
    rox += ax;
    roy += ay;
    roz += az;
    rdx = fx;
    rdy = fy;
    rdz = fz;
    return;
  }
  rdx = fx + ax;
  rdy = fy + ay;
  rdz = fz + az;
  const l = 1.0 / Math.sqrt(rdx * rdx + rdy * rdy + rdz * rdz);
  rdx *= l;
  rdy *= l;
  rdz *= l;
}

/** Moves the ray to a point of the lens opening, still through its point of the plane in focus. */
function throughLens(): void {
  pair(8);
  const r = param(P_CAM_RADIUS) * Math.sqrt(ru),
    phi = 6.283185307179586 * rv;
  const a = r * Math.cos(phi),
    b = r * Math.sin(phi);
  const axis = rdx * param(P_CAM_FORWARD) + rdy * param(P_CAM_FORWARD + 1) + rdz * param(P_CAM_FORWARD + 2);
  const t = param(P_CAM_FOCUS) / axis;
  const lx = a * param(P_CAM_RIGHT) + b * param(P_CAM_UP);
  const ly = a * param(P_CAM_RIGHT + 1) + b * param(P_CAM_UP + 1);
  const lz = a * param(P_CAM_RIGHT + 2) + b * param(P_CAM_UP + 2);
  rdx = rdx * t - lx;
  rdy = rdy * t - ly;
  rdz = rdz * t - lz;
  rox += lx;
  roy += ly;
  roz += lz;
  const l = 1.0 / Math.sqrt(rdx * rdx + rdy * rdy + rdz * rdz);
  rdx *= l;
  rdy *= l;
  rdz *= l;
}

// @ts-ignore: decorator
@inline
function add(pixel: usize, channel: i32, value: f64): void {
  const at = pixel + ((<usize>channel) << 2);
  store<f32>(at, load<f32>(at) + <f32>value);
}

// @ts-ignore: decorator
@inline
function addColour(pixel: usize, channel: i32, r: f64, g: f64, b: f64): void {
  add(pixel, channel, r);
  add(pixel, channel + 1, g);
  add(pixel, channel + 2, b);
}

/** Whether the sample under way is the second, fourth … of its pixel, by the sum that counts them. */
// @ts-ignore: decorator
@inline
function isOdd(pixel: usize, counter: i32): bool {
  return ((<i32>load<f32>(pixel + ((<usize>counter) << 2))) & 1) != 0;
}

/** Adds the square of a value to a sum that stays finite: lights may be so strong that it is full. */
function addSquare(pixel: usize, channel: i32, value: f64): void {
  const at = pixel + ((<usize>channel) << 2);
  store<f32>(at, <f32>Math.min(FULL_SUM, <f64>load<f32>(at) + value * value));
}

/** Adds to a sum of n samples: of what is the same in each it is n times that, rounded once, so that their mean is it again. */
function addSame(pixel: usize, channel: i32, n: f64, r: f64, g: f64, b: f64): void {
  addOneSame(pixel, channel, n, r);
  addOneSame(pixel, channel + 1, n, g);
  addOneSame(pixel, channel + 2, n, b);
}

/** The same of one band. */
function addOneSame(pixel: usize, channel: i32, n: f64, v: f64): void {
  const at = pixel + ((<usize>channel) << 2);
  const had = load<f32>(at);
  store<f32>(at, had == <f32>(n * v) ? <f32>((n + 1.0) * v) : had + <f32>v);
}

/** Counts a sample that met the plate as one of a matte of its file, or else of its surface. */
function storePlateMatte(pixel: usize): void {
  const matte = plateMatte();
  const surface = matte >= 0 ? paramInt(P_PLATE_MATTES) + matte : paramInt(P_PLATE_OBJECT);
  if (surface >= 0) storeMattes(pixel, surface, paramInt(P_PLATE_MATERIAL));
}

let emittedR: f64 = 0.0,
  emittedG: f64 = 0.0,
  emittedB: f64 = 0.0;

/** @param sampled where air is joined, the pixel of the cell whose air is sampled; 0: each pixel has its own */
function sample(pixel: usize, x: i32, y: i32, index: u32, passes: i32, sampled: usize): void {
  startSample(<u32>paramInt(P_SEED), <u32>x, <u32>y, index);
  askLightCells(index > 0);
  pair(0);
  const tents = paramInt(P_FILTER) == FILTER_TENT;
  const fx = <f64>x + (tents ? 0.5 + tent(ru) : ru),
    fy = <f64>y + (tents ? 0.5 + tent(rv) : rv);
  cameraRay(fx, fy);
  if (hasPlate) aimPlate(x, y, fx, fy, ru, rv);
  if (param(P_CAM_RADIUS) > 0.0) throughLens();
  const raysBefore = raysTraced;
  const ox = rox,
    oy = roy,
    oz = roz,
    dx = rdx,
    dy = rdy,
    dz = rdz;
  atPart(PART_LENS);
  cameraHit(ox, oy, oz, dx, dy, dz);
  const found = camFound,
    t = camT;
  const plate = camPlate;
  let sx = nx,
    sy = ny,
    sz = nz,
    cr = 0.0,
    cg = 0.0,
    cb = 0.0;
  if (plate) {
    plateNormal();
    sx = codeX;
    sy = codeY;
    sz = codeZ;
    const k = 1.0 / param(P_PLATE_WHITE);
    cr = k * plateLight(0);
    cg = k * plateLight(1);
    cb = k * plateLight(2);
  } else {
    cr = albedoR();
    cg = albedoG();
    cb = albedoB();
  }
  const met = hitTriangle,
    metInstance = hitInstance;
  if ((passes & PASS_CLEAR) != 0) {
    surfaceBranch(ox, oy, oz, dx, dy, dz);
    if (isFinite(outR + outG + outB)) {
      if (plate) {
        addSame(pixel, F_CLEAR, <f64>load<f32>(pixel, F_CLEAR_COUNT * 4), outR, outG, outB);
      } else addColour(pixel, F_CLEAR, outR, outG, outB);
      addColour(pixel, F_CLEAR_SEEN, seenR, seenG, seenB);
      if (isOdd(pixel, F_CLEAR_COUNT)) addColour(pixel, F_CLEAR_ODD, outR - seenR, outG - seenG, outB - seenB);
    } else invalid += 1.0;
    add(pixel, F_CLEAR_COUNT, 1.0);
    forgetGroups();
    return;
  }
  let sr = 0.0,
    sg = 0.0,
    sb = 0.0;
  let Tr = 1.0,
    Tg = 1.0,
    Tb = 1.0;
  let er = 0.0,
    eg = 0.0,
    eb = 0.0;
  if ((passes & PASS_SURFACES) != 0) {
    surfaceBranch(ox, oy, oz, dx, dy, dz);
    er = seenR;
    eg = seenG;
    eb = seenB;
    sr = outR;
    sg = outG;
    sb = outB;
    Tr = camR;
    Tg = camG;
    Tb = camB;
  }
  let ar = 0.0,
    ag = 0.0,
    ab = 0.0;
  emittedR = 0.0;
  emittedG = 0.0;
  emittedB = 0.0;
  const had = <f64>load<f32>(pixel, F_COUNT * 4);
  if ((passes & PASS_AIR) != 0 && paramInt(P_LEVEL) == LEVEL_VEIL && had >= 4.0 && sampled == 0) {
    // a veil has no noise but from the place in the pixel: four places are enough, later samples repeat their mean
    ar = <f64>load<f32>(pixel, F_AIR * 4) / had;
    ag = <f64>load<f32>(pixel, F_AIR * 4 + 4) / had;
    ab = <f64>load<f32>(pixel, F_AIR * 4 + 8) / had;
    emittedR = <f64>load<f32>(pixel, F_EMISSION * 4) / had;
    emittedG = <f64>load<f32>(pixel, F_EMISSION * 4 + 4) / had;
    emittedB = <f64>load<f32>(pixel, F_EMISSION * 4 + 8) / had;
    carryGroups(pixel, 1.0 + 1.0 / had);
  } else if ((passes & PASS_AIR) != 0) {
    airBranch(ox, oy, oz, dx, dy, dz);
    ar = outR;
    ag = outG;
    ab = outB;
    emittedR = emissionSumR;
    emittedG = emissionSumG;
    emittedB = emissionSumB;
  }
  atPart(PART_FILM);
  if (!isFinite(ar + ag + ab + sr + sg + sb)) {
    invalid += 1.0;
    ar = 0.0;
    ag = 0.0;
    ab = 0.0;
    sr = 0.0;
    sg = 0.0;
    sb = 0.0;
    er = 0.0;
    eg = 0.0;
    eb = 0.0;
    emittedR = 0.0;
    emittedG = 0.0;
    emittedB = 0.0;
    forgetGroups();
  }
  let left = 1.0;
  const limit = param(P_FIREFLY_CLAMP);
  if (limit > 0.0) {
    const l = 0.2126 * (ar + sr) + 0.7152 * (ag + sg) + 0.0722 * (ab + sb);
    if (l > limit) {
      const k = limit / l;
      left = k;
      ar *= k;
      ag *= k;
      ab *= k;
      sr *= k;
      sg *= k;
      sb *= k;
      er *= k;
      eg *= k;
      eb *= k;
      emittedR *= k;
      emittedG *= k;
      emittedB *= k;
    }
  }
  storeGroups(pixel, left, sampled != 0);
  let carried = 0.0;
  if (sampled != 0) {
    if ((passes & PASS_AIR) != 0) storeSampled(pixel, ar, ag, ab, emittedR, emittedG, emittedB, isOdd(pixel, F_COUNT));
    carried = carryAir(pixel, sampled);
    ar = 0.0;
    ag = 0.0;
    ab = 0.0;
  } else {
    addColour(pixel, F_EMISSION, emittedR, emittedG, emittedB);
    addColour(pixel, F_AIR, ar, ag, ab);
  }
  if (plate) {
    addSame(pixel, F_SURFACES, had, sr, sg, sb);
  } else addColour(pixel, F_SURFACES, sr, sg, sb);
  addColour(pixel, F_SEEN, er, eg, eb);
  if (isOdd(pixel, F_COUNT)) {
    addColour(pixel, F_AIR_ODD, ar, ag, ab);
    addColour(pixel, F_SURFACES_ODD, sr - er, sg - eg, sb - eb);
  }
  addColour(pixel, F_TRANSMITTANCE, Tr, Tg, Tb);
  if (found) {
    const axis = dx * param(P_CAM_FORWARD) + dy * param(P_CAM_FORWARD + 1) + dz * param(P_CAM_FORWARD + 2);
    add(pixel, F_DEPTH, t * axis);
    add(pixel, F_HITS, 1.0);
    add(pixel, F_DISTANCE, t);
    addColour(pixel, F_POSITION, param(P_ORIGIN) + ox + t * dx, param(P_ORIGIN + 1) + oy + t * dy, param(P_ORIGIN + 2) + oz + t * dz);
    addColour(pixel, F_NORMAL, sx, sy, sz);
    addColour(pixel, F_ALBEDO, cr, cg, cb);
    if (plate) storePlateMatte(pixel);
    else storeMattes(pixel, objectOf(met, metInstance), materialNumber(met));
  }
  // last, so that what is kept apart changes no number drawn before
  storeMediumShares(pixel, ox, oy, oz, dx, dy, dz, t, found ? RAY_CAMERA : RAY_SKY);
  const air = 0.2126 * ar + 0.7152 * ag + 0.0722 * ab;
  if (sampled == 0) addSquare(pixel, F_AIR_LUMINANCE2, air);
  else addSquare(pixel, F_SURFACES_LUMINANCE2, 0.2126 * sr + 0.7152 * sg + 0.0722 * sb);
  add(pixel, F_RAYS, raysTraced - raysBefore);
  const luminance = carried + 0.2126 * (ar + sr) + 0.7152 * (ag + sg) + 0.0722 * (ab + sb);
  addSquare(pixel, F_LUMINANCE2, luminance);
  add(pixel, F_COUNT, 1.0);
}

/** Sides of the blocks that are sampled or left together: one pixel's own estimate would stop where it is low by chance. */
const BLOCK: i32 = 1 << SETTLED_SHIFT;
let settled: u32 = 0;

/** Marks the blocks of a row of them, by column, whose noise is below the threshold. */
function settle(film: usize, stride: usize, width: i32, x0: i32, x1: i32, y: i32, y1: i32): void {
  settled = 0;
  const end = y + BLOCK < y1 ? y + BLOCK : y1;
  for (let x = x0; x < x1; x += BLOCK) {
    const right = x + BLOCK < x1 ? x + BLOCK : x1;
    let variance = 0.0,
      mean = 0.0;
    for (let j = y; j < end; j++)
      for (let i = x; i < right; i++) {
        const p = film + <usize>(j * width + i) * stride;
        const n = <f64>load<f32>(p, F_COUNT * 4);
        if (n < 2.0) continue;
        const r = <f64>load<f32>(p, F_AIR * 4) + <f64>load<f32>(p, F_SURFACES * 4);
        const g = <f64>load<f32>(p, F_AIR * 4 + 4) + <f64>load<f32>(p, F_SURFACES * 4 + 4);
        const b = <f64>load<f32>(p, F_AIR * 4 + 8) + <f64>load<f32>(p, F_SURFACES * 4 + 8);
        const m = (0.2126 * r + 0.7152 * g + 0.0722 * b) / n;
        mean += m;
        const squares = <f64>load<f32>(p, F_LUMINANCE2 * 4);
        variance += squares >= FULL_SUM ? m * m : Math.max(0.0, squares / n - m * m) / (n - 1.0);
      }
    const count = <f64>((end - y) * (right - x));
    mean /= count;
    const error = Math.sqrt(variance / count);
    const block = <u32>((x - x0) >> SETTLED_SHIFT);
    if (error <= param(P_NOISE_THRESHOLD) * Math.max(mean, param(P_DARK))) settled |= 1 << block;
  }
}

/**
 * Adds samples first … end-1 to the pixels of [x0, x1) × [y0, y1) whose column and row are multiples
 * of `stride`, leaving out those that are multiples of `done` (0: none left out). Columns and rows
 * count from (originX, originY).
 * @param given 0, or SETTLED_GIVEN with a bit for each block of the tile that gets no more samples, by rows of four
 * @returns pixels completed; fewer than asked when another run was announced meanwhile
 */
export function renderTile(
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
  originX: i32,
  originY: i32,
  stride: i32,
  done: i32,
  first: i32,
  end: i32,
  passes: i32,
  given: i32,
): i32 {
  const film = paramAddress(P_FILM);
  const size = paramAddress(P_STRIDE);
  const width = paramInt(P_WIDTH);
  const clear = (passes & PASS_CLEAR) != 0;
  atPasses(passes);
  afterLight();
  prepareMedia(!clear);
  prepareLightSampling();
  const left = paramInt(P_FRAME_X),
    top = paramInt(P_FRAME_Y);
  let pixels = 0;
  const every = passes >> AIR_EVERY_SHIFT;
  const adapts = !clear && (stride == 1 || stride == every) && param(P_NOISE_THRESHOLD) > 0.0 && first >= paramInt(P_MIN_SAMPLES);
  for (let y = y0; y < y1; y++) {
    if (adapts && ((y - y0) & (BLOCK - 1)) == 0) {
      if (given != 0) settled = ((<u32>given) >> (<u32>(((y - y0) >> SETTLED_SHIFT) << 2))) & 15;
      else settle(film, size, width, x0, x1, y, y1);
    }
    if ((y - originY) % stride != 0) continue;
    if (cancelled()) break;
    for (let x = x0; x < x1; x++) {
      if ((x - originX) % stride != 0) continue;
      if (done > 0 && (x - originX) % done == 0 && (y - originY) % done == 0) continue;
      if (adapts && ((settled >> (<u32>((x - x0) >> SETTLED_SHIFT))) & 1) != 0) continue;
      const pixel = film + <usize>(y * width + x) * size;
      atPixel(x, y);
      const sampled = every > 0 ? film + <usize>((y - ((y - originY) % every)) * width + x - ((x - originX) % every)) * size : 0;
      for (let s = first; s < end; s++) sample(pixel, left + x, top + y, <u32>s, passes, sampled);
      pixels++;
    }
  }
  atPart(PART_NONE);
  return pixels;
}

/**
 * Joins the air of the pixels of [x0, x1) × [y0, y1) to their surfaces, where it is sampled at every few pixels of the crop [left, right) ×
 * [top, bottom) alone.
 */
export function joinTile(x0: i32, y0: i32, x1: i32, y1: i32, left: i32, top: i32, right: i32, bottom: i32, every: i32): void {
  joinPixels(paramAddress(P_FILM), paramAddress(P_STRIDE), paramInt(P_WIDTH), x0, y0, x1, y1, left, top, right, bottom, every);
}

/**
 * Traces `count` rays of 8 f32 (origin, tmax, direction, spare) at `from`; writes 2 words each at `to`:
 * distance (f32, tmax when nothing is hit; 0 or 1 for any hit) and triangle (i32). For tests and benchmarks.
 */
export function traceRays(from: usize, to: usize, count: i32, any: bool): void {
  for (let i = 0; i < count; i++) {
    const r = from + ((<usize>i) << 5);
    const far = load<f32>(r, 12);
    if (any) {
      const hit = anyHit(load<f32>(r), load<f32>(r, 4), load<f32>(r, 8), load<f32>(r, 16), load<f32>(r, 20), load<f32>(r, 24), far);
      store<f32>(to + ((<usize>i) << 3), hit ? 1.0 : 0.0);
    } else {
      const hit = closestHit(load<f32>(r), load<f32>(r, 4), load<f32>(r, 8), load<f32>(r, 16), load<f32>(r, 20), load<f32>(r, 24), far);
      store<f32>(to + ((<usize>i) << 3), hit ? hitT : far);
      store<i32>(to + ((<usize>i) << 3), hit ? hitTriangle : -1, 4);
    }
  }
}

/** Numbers of the object and the material that a ray (f32, of unit direction) meets first, two i32 at `to`; −1 where it meets nothing. */
export function partMet(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, to: usize): void {
  const hit = closestHit(ox, oy, oz, dx, dy, dz, 1e30);
  store<i32>(to, hit ? objectOf(hitTriangle, hitInstance) : -1);
  store<i32>(to, hit ? materialNumber(hitTriangle) : -1, 4);
}

/** Transmittance of one band over [0, tmax] of a ray, sample `index` of its estimator. */
export function transmittance(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64, band: i32, index: i32): f64 {
  startSample(<u32>paramInt(P_SEED), 0, 0, <u32>index);
  transmit(ox, oy, oz, dx, dy, dz, tmax, RAY_SHADOW);
  return band == 0 ? tr : band == 1 ? tg : tb;
}

/** Distance of one collision of a walk on [0, tmax] (Infinity: passed); weights by walkWeight(). */
export function walkDistance(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64, index: i32): f64 {
  startSample(<u32>paramInt(P_SEED), 1, 0, <u32>index);
  return sampleCollision(ox, oy, oz, dx, dy, dz, tmax, 1.0, 1.0, 1.0, RAY_INDIRECT) ? colT : Infinity;
}
/** Weight of the walk traced last by band; for tests. */
export function walkWeight(band: i32): f64 {
  return band == 0 ? colR : band == 1 ? colG : colB;
}

/** Relative density of medium `m` at a point of its region, and the bound that tracking uses there. */
export function density(m: i32, x: f64, y: f64, z: f64): f64 {
  return densityAt(mediumAt(m), x, y, z);
}
/** Majorant (1/m) of a medium at a point; for tests. */
export function majorant(m: i32, x: f64, y: f64, z: f64): f64 {
  return majorantAt(mediumAt(m), x, y, z);
}
/** Break-up factor of medium `m` at a point. */
export function noiseAt(m: i32, x: f64, y: f64, z: f64): f64 {
  return noiseFactor(mediumAt(m), x, y, z);
}

/** Phase function (1/sr) of medium `m`, and cosine `index` of its sampling. */
export function phase(m: i32, cos: f64): f64 {
  return phaseOf(mediumAt(m), cos);
}
/** Cosine drawn from the phase function of a medium, by sample; for tests. */
export function phaseSample(m: i32, index: i32): f64 {
  startSample(<u32>paramInt(P_SEED), 2, 0, <u32>index);
  return sampleCosine(mediumAt(m), random());
}

/** Light `i` at a point, sample (u, v): value 0 … 2 irradiance, 3 … 5 direction. */
export function lightAt(i: i32, x: f64, y: f64, z: f64, u: f64, v: f64, value: i32): f64 {
  lightFrom(i, x, y, z, u, v);
  return value == 0 ? lR : value == 1 ? lG : value == 2 ? lB : value == 3 ? lx : value == 4 ? ly : lz;
}

/** One band of the level veil on [0, tHit] of a camera ray. */
export function veilAt(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tHit: f64, band: i32): f64 {
  startSample(<u32>paramInt(P_SEED), 0, 0, 0);
  beginBranch(true);
  veil(ox, oy, oz, dx, dy, dz, tHit);
  return band == 0 ? outR : band == 1 ? outG : outB;
}

/** Sky luminance of one band along a direction. */
export function skyAt(dx: f64, dy: f64, dz: f64, band: i32): f64 {
  sky(dx, dy, dz);
  return band == 0 ? skyR : band == 1 ? skyG : skyB;
}
/** Direction (axis 0 … 2) drawn from a sky table, or its density (axis 3). */
export function skySample(u: f64, v: f64, axis: i32): f64 {
  sampleEnvironment(u, v);
  return axis == 0 ? ex : axis == 1 ? ey : axis == 2 ? ez : environmentPdf(ex, ey, ez);
}

/** Exposed for tests: the kernel's elementary functions by number, in the order of tests/validation/elementary.test.ts. */
export function elementary(which: i32, x: f64, y: f64): f64 {
  if (which == 0) return Math.exp(x);
  if (which == 1) return Math.expm1(x);
  if (which == 2) return Math.log(x);
  if (which == 3) return Math.log1p(x);
  if (which == 4) return Math.sin(x);
  if (which == 5) return Math.cos(x);
  if (which == 6) return Math.tan(x);
  if (which == 7) return Math.atan(x);
  return Math.atan2(y, x);
}
