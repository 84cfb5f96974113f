/** From rows of the film to planes: halves of one side of the light, what modulates it, and what pixels are compared by. */
import {
  F_AIR,
  F_AIR_ODD,
  F_ALBEDO,
  F_CLEAR,
  F_CLEAR_COUNT,
  F_CLEAR_ODD,
  F_CLEAR_SEEN,
  F_COUNT,
  F_DISTANCE,
  F_HITS,
  F_NORMAL,
  F_SEEN,
  F_SURFACES,
  F_SURFACES_ODD,
  F_TRANSMITTANCE,
  PIXEL_FLOATS,
} from "../../layout/layout";
import { FEATURES, HALF_A, HALF_B, MODULATION, SEEN, SHARE_B, at, margin, step, width } from "./planes";

/** Sides of the light. */
export const SIDE_AIR: i32 = 0;
const SIDE_SURFACES: i32 = 1;
const SIDE_CLEAR: i32 = 2;

/** Least that light is divided by: below it noise would be pulled up. */
const LEAST_TRANSMITTANCE: f32 = 1e-3;
const LEAST_ALBEDO: f32 = 0.02;
/** Distance of the background, m. */
const BACKGROUND: f32 = 1e4;
/** Light past which a film is taken to be broken. */
const MOST: f32 = 1e30;

// differences of features that count as much as noise of one standard error
const NORMAL_TOLERANCE: f32 = 0.21;
const ALBEDO_TOLERANCE: f32 = 0.0945;
export const SURFACE_DISTANCE: f32 = 0.15;
export const AIR_DISTANCE: f32 = 0.28;
const TRANSMITTANCE_TOLERANCE: f32 = 0.2;

/** Features of a side. */
export function featuresOf(side: i32): i32 {
  return side == SIDE_AIR ? 4 : 7;
}
/** Of surfaces, which is the luminance of the albedo: enough for the quick filter. */
export const ALBEDO_LUMINANCE: i32 = 7;
/** Of them, how many belong together from the first on: a difference is that of a vector. */
export const VECTOR: i32 = 3;

let byAir: bool = true;
/** Whether surfaces are divided by the transmittance before them, or by their colours alone. */
export function divideByAir(yes: bool): void {
  byAir = yes;
}

/** Of a film pixel, what planes are made from. */
const TAKEN_BYTES: usize = (<usize>PIXEL_FLOATS) << 2;
/** A film pixel that stands for four. */
const four = memory.data(256, 16);

/** Numbers that a film can hold; 0 for others. */
// @ts-ignore: decorator
@inline
function finite(v: v128): v128 {
  return v128.and(v, f32x4.lt(f32x4.abs(v), f32x4.splat(MOST)));
}

/** A number that grows as the logarithm of x does, within 6 % of it: what is compared needs no more. */
// @ts-ignore: decorator
@inline
function logarithm(x: f32): f32 {
  return <f32>(reinterpret<i32>(x) - 0x3f800000) * <f32>(0.6931472 / 8388608.0);
}

/** Stores the first three of a vector to three planes. */
// @ts-ignore: decorator
@inline
function spread(to: usize, plane: usize, v: v128): void {
  v128.store_lane<f32>(to, v, 0);
  v128.store_lane<f32>(to + plane, v, 1);
  v128.store_lane<f32>(to + 2 * plane, v, 2);
}

// @ts-ignore: decorator
@inline
function clamped(column: i32, columns: i32): i32 {
  return column < 0 ? 0 : column >= columns ? columns - 1 : column;
}

/**
 * Fills row y of the planes, margin included, from staged pixels of the film: `columns` of them from the picture's column
 * `first` on (counted from the tile's left edge), repeated past their ends.
 * @param size bytes of a film pixel @param every pixels from one that is taken to the next
 */
export function gatherRow(side: i32, y: i32, from: usize, size: usize, every: i32, first: i32, columns: i32): void {
  for (let x = -margin; x < width + margin; x++) gatherPixel(side, x, y, from + <usize>(clamped(x - first, columns) * every) * size, 0.0);
}

/**
 * Fills row y of the planes of a tile of half the size: each pixel from four of the film, two of either staged row. Those on one diagonal are the
 * first half of its samples, the others the second, so that one sample a pixel has two halves.
 * @param below the second staged row @param columns pixels of the film in a row; `first` counts in pixels of the tile
 */
export function gatherHalfRow(side: i32, y: i32, from: usize, below: usize, size: usize, every: i32, first: i32, columns: i32): void {
  const light = sumOf(side),
    odd = oddOf(side),
    counter = counterOf(side),
    seen = seenOf(side);
  for (let x = -margin; x < width + margin; x++) {
    const left = clamped(2 * (x - first), columns),
      right = clamped(2 * (x - first) + 1, columns);
    const a = from + <usize>(left * every) * size,
      b = from + <usize>(right * every) * size,
      c = below + <usize>(left * every) * size,
      d = below + <usize>(right * every) * size;
    for (let o: usize = 0; o < TAKEN_BYTES; o += 16)
      v128.store(four + o, f32x4.add(f32x4.add(v128.load(a + o), v128.load(b + o)), f32x4.add(v128.load(c + o), v128.load(d + o))));
    let second = f32x4.add(v128.load(b + light), v128.load(c + light));
    if (side != SIDE_AIR) second = f32x4.sub(second, f32x4.add(v128.load(b + seen), v128.load(c + seen)));
    v128.store_lane<f32>(four + odd, second, 0);
    v128.store_lane<f32>(four + odd + 4, second, 1);
    v128.store_lane<f32>(four + odd + 8, second, 2);
    gatherPixel(side, x, y, four, load<f32>(b + counter) + load<f32>(c + counter));
  }
}

// @ts-ignore: decorator
@inline
function sumOf(side: i32): usize {
  return (<usize>(side == SIDE_AIR ? F_AIR : side == SIDE_SURFACES ? F_SURFACES : F_CLEAR)) << 2;
}
// @ts-ignore: decorator
@inline
function oddOf(side: i32): usize {
  return (<usize>(side == SIDE_AIR ? F_AIR_ODD : side == SIDE_SURFACES ? F_SURFACES_ODD : F_CLEAR_ODD)) << 2;
}
// @ts-ignore: decorator
@inline
function seenOf(side: i32): usize {
  return (<usize>(side == SIDE_CLEAR ? F_CLEAR_SEEN : F_SEEN)) << 2;
}
// @ts-ignore: decorator
@inline
function counterOf(side: i32): usize {
  return (<usize>(side == SIDE_CLEAR ? F_CLEAR_COUNT : F_COUNT)) << 2;
}

/**
 * Fills row y of three planes with one light group's part of what gatherRow() filled the halves with, limited as they were, and of three others with what
 * of it is seen directly. @param group bytes to its sums of the side in a film pixel @param direct bytes to what is seen of it
 */
export function gatherGroupRow(
  side: i32,
  y: i32,
  reach: i32,
  from: usize,
  size: usize,
  first: i32,
  columns: i32,
  group: usize,
  direct: usize,
  into: i32,
  intoSeen: i32,
): void {
  const plane = step();
  const light = sumOf(side),
    seen = seenOf(side),
    counter = counterOf(side);
  const none = f32x4.splat(0.0),
    one = f32x4.splat(1.0);
  for (let x = -reach; x < width + reach; x++) {
    const p = from + <usize>clamped(x - first, columns) * size;
    const to = at(0, x, y);
    const n = load<f32>(p + counter);
    const per = f32x4.splat(n > 0.0 ? <f32>1.0 / n : <f32>0.0);
    let whole = v128.load(p + light),
      part = v128.load(p + group),
      own = none;
    if (side != SIDE_AIR) {
      whole = f32x4.sub(whole, v128.load(p + seen));
      own = v128.load(p + direct);
      part = f32x4.sub(part, own);
    }
    const modulation = collect(to + <usize>MODULATION * plane, plane);
    const a = collect(to + <usize>HALF_A * plane, plane),
      b = collect(to + <usize>HALF_B * plane, plane);
    const kept = f32x4.add(a, f32x4.mul(f32x4.splat(load<f32>(to + <usize>SHARE_B * plane)), f32x4.sub(b, a)));
    whole = f32x4.div(f32x4.mul(finite(whole), per), modulation);
    // what limits took of the sum they take of its parts
    let left = f32x4.div(kept, whole);
    left = v128.bitselect(left, one, v128.and(f32x4.ne(whole, none), f32x4.lt(f32x4.abs(left), f32x4.splat(MOST))));
    spread(to + <usize>into * plane, plane, f32x4.mul(left, f32x4.div(f32x4.mul(finite(part), per), modulation)));
    spread(to + <usize>intoSeen * plane, plane, f32x4.mul(finite(own), per));
  }
}

/** One vector of the numbers of three planes. */
// @ts-ignore: decorator
@inline
function collect(from: usize, plane: usize): v128 {
  return f32x4(load<f32>(from), load<f32>(from + plane), load<f32>(from + 2 * plane), 1.0);
}

/** One pixel of the planes from one of the film. @param inB samples of its second half; 0: every second one */
function gatherPixel(side: i32, x: i32, y: i32, p: usize, inB: f32): void {
  const plane = step();
  const to = at(0, x, y);
  const light = p + sumOf(side),
    odd = p + oddOf(side),
    seen = p + seenOf(side);
  const n = load<f32>(p + counterOf(side));
  const nB = inB > 0.0 ? inB : <f32>Math.floor(0.5 * <f64>n),
    nA = n - nB;
  const hits = load<f32>(p, F_HITS << 2);
  const counted = load<f32>(p, F_COUNT << 2);
  const cover: f32 = counted > 0.0 ? Mathf.min(1.0, hits / counted) : 0.0;
  const perHit: f32 = hits > 0.0 ? 1.0 / hits : 0.0;
  const zero = f32x4.splat(0.0),
    one = f32x4.splat(1.0);
  store<f32>(to + <usize>SHARE_B * plane, n > 0.0 ? nB / n : 0.0);
  const features = to + <usize>FEATURES * plane;
  const t: v128 =
    side != SIDE_CLEAR && counted > 0.0 ? finite(f32x4.mul(v128.load(p, F_TRANSMITTANCE << 2), f32x4.splat(<f32>1.0 / counted))) : one;
  let modulation = one;
  let whole = v128.load(light);
  if (side == SIDE_AIR) {
    spread(to + <usize>SEEN * plane, plane, zero);
    spread(features, plane, f32x4.mul(t, f32x4.splat(1.0 / TRANSMITTANCE_TOLERANCE)));
  } else {
    const covered = f32x4.splat(cover * perHit),
      open = f32x4.splat(<f32>1.0 - cover);
    const colour = f32x4.add(finite(f32x4.mul(v128.load(p, F_ALBEDO << 2), covered)), open);
    modulation = f32x4.pmax(f32x4.splat(LEAST_ALBEDO), colour);
    if (byAir) modulation = f32x4.mul(f32x4.pmax(f32x4.splat(LEAST_TRANSMITTANCE), t), modulation);
    const direct = v128.load(seen);
    whole = f32x4.sub(whole, direct);
    spread(to + <usize>SEEN * plane, plane, f32x4.mul(finite(direct), f32x4.splat(n > 0.0 ? <f32>1.0 / n : <f32>0.0)));
    const normal = finite(f32x4.mul(v128.load(p, F_NORMAL << 2), covered));
    spread(features, plane, f32x4.mul(normal, f32x4.splat(1.0 / NORMAL_TOLERANCE)));
    const compared = f32x4.mul(colour, f32x4.splat(1.0 / ALBEDO_TOLERANCE));
    spread(features + <usize>(VECTOR + 1) * plane, plane, compared);
    store<f32>(
      features + <usize>ALBEDO_LUMINANCE * plane,
      <f32>0.2126 * f32x4.extract_lane(compared, 0) +
        <f32>0.7152 * f32x4.extract_lane(compared, 1) +
        <f32>0.0722 * f32x4.extract_lane(compared, 2),
    );
  }
  const b = v128.load(odd);
  const perB: f32 = nB > 0.0 ? 1.0 / nB : 0.0,
    perA: f32 = nA > 0.0 ? 1.0 / nA : 0.0;
  // the sun's control variate may leave less than nothing: that is kept, since only the mean is right
  const halfA = finite(f32x4.div(f32x4.mul(f32x4.sub(whole, b), f32x4.splat(perA)), modulation));
  const halfB: v128 = nB > 0.0 ? finite(f32x4.div(f32x4.mul(b, f32x4.splat(perB)), modulation)) : halfA;
  spread(to + <usize>HALF_A * plane, plane, halfA);
  spread(to + <usize>HALF_B * plane, plane, halfB);
  spread(to + <usize>MODULATION * plane, plane, modulation);
  const d = load<f32>(p, F_DISTANCE << 2) * perHit;
  const near = logarithm(<f32>1.0 + (d > 0.0 && d < BACKGROUND ? d : d >= BACKGROUND ? BACKGROUND : <f32>0.0));
  const far = cover * near + (<f32>1.0 - cover) * logarithm(<f32>1.0 + BACKGROUND);
  store<f32>(features + <usize>VECTOR * plane, far / (side == SIDE_AIR ? AIR_DISTANCE : SURFACE_DISTANCE));
}
