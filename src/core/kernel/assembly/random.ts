/**
 * Random numbers as a pure function of (seed, pixel, sample, dimension). The first dimensions of a
 * path come from a two-dimensional (0, 2)-sequence, Owen-scrambled and shuffled by hashing (Burley
 * 2020), the same for all pixels but for a digital shift by a dither mask: neighbours err in opposite ways, and at low counts
 * what is left looks fine-grained (after Georgiev and Fajardo 2016). What follows, of unbounded length, comes from a
 * counter-based hash (PCG output function).
 */
import { SCRATCH_SEQUENCE, SEQUENCE_GROUP_BYTES } from "../../layout/scratch";
import { MASK } from "./mask";
import { scratch } from "./state";

export let ru: f64 = 0.0;
export let rv: f64 = 0.0;

let pixelSeed: u32 = 0;
let runSeed: u32 = 0;
let pixelX: u32 = 0;
let pixelY: u32 = 0;
let sampleIndex: u32 = 0;
let sequenceIndex: u32 = 0;
let counter: u32 = 0;
let streamSeed: u32 = 0;

const UNIT: f64 = 2.3283064365386963e-10;

// @ts-ignore: decorator
@inline
function mix(x: u32): u32 {
  x ^= x >> 16;
  x *= 0x7feb352d;
  x ^= x >> 15;
  x *= 0x846ca68b;
  x ^= x >> 16;
  return x;
}

function reverseBits(x: u32): u32 {
  x = ((x >> 1) & 0x55555555) | ((x & 0x55555555) << 1);
  x = ((x >> 2) & 0x33333333) | ((x & 0x33333333) << 2);
  x = ((x >> 4) & 0x0f0f0f0f) | ((x & 0x0f0f0f0f) << 4);
  x = ((x >> 8) & 0x00ff00ff) | ((x & 0x00ff00ff) << 8);
  return (x >> 16) | (x << 16);
}

/** Laine–Karras permutation: an Owen scramble of a bit-reversed value (constants of Burley 2020). */
function laineKarras(x: u32, seed: u32): u32 {
  x += seed;
  x ^= x * 0x6c50b47c;
  x ^= x * 0xb82f1e52;
  x ^= x * 0xc7afe638;
  x ^= x * 0x8d22f6e6;
  return x;
}

/** Second dimension of the (0, 2)-sequence, bit-reversed: Pascal's matrix mod 2 in five steps. */
// @ts-ignore: decorator
@inline
function pascal(x: u32): u32 {
  x ^= (x >> 1) & 0x55555555;
  x ^= (x >> 2) & 0x33333333;
  x ^= (x >> 4) & 0x0f0f0f0f;
  x ^= (x >> 8) & 0x00ff00ff;
  x ^= (x >> 16) & 0x0000ffff;
  return x;
}

/** Begins the random numbers of a sample of a pixel; the same four numbers give the same sample. */
export function startSample(seed: u32, x: u32, y: u32, index: u32): void {
  const own = mix(mix(mix(seed + 0x9e3779b9) ^ (x * 0x8da6b343)) ^ (y * 0xd8163841));
  const run = mix(seed + 0x9e3779b9);
  if (!runKnown || run != runSeed) prepareRun(run);
  else if (own != pixelSeed || x != pixelX || y != pixelY) forgetPixel();
  pixelSeed = own;
  pixelX = x;
  pixelY = y;
  sampleIndex = index;
  sequenceIndex = index;
  streamSeed = mix(pixelSeed ^ mix(index + 0x68bc21eb));
  counter = 0;
}

/** Makes later pairs those of part `i` of `count` of the present sample; (0, 1) goes back to the sample itself. */
export function subSample(i: u32, count: u32): void {
  sequenceIndex = sampleIndex * count + i;
}

/** Bit-reversed values of the first four samples, the same for all pixels: for each slot and axis, by their first two digits. */
const FIRST: usize = memory.data(16 * 2 * 4 * 4, 16);
let runKnown: bool = false;

/**
 * Pairs are made four dimensions at a time, one in each lane: those that are asked for together lie in a group. A group's record holds
 * what the run gives (seed of the dimension, seeds of the axes, place in the mask), what the pixel gives (its scramble, what that makes
 * of nought, its digital shifts), the coordinates, then the sample that they are of and whether the pixel's part and they are known.
 */
const GROUP: usize = SEQUENCE_GROUP_BYTES;
const SEED_X: usize = 16;
const SEED_Y: usize = 32;
const PLACE: usize = 48;
const OWN: usize = 64;
const NOUGHT: usize = 80;
const SHIFT_X: usize = 96;
const SHIFT_Y: usize = 112;
const AT_X: usize = 128;
const AT_Y: usize = 144;
const OF: usize = 160;
const PIXEL_KNOWN: usize = 164;
const KNOWN: usize = 168;

/** Place of a dimension: 1 to 4 are asked for together along a ray of air, the next with the first at surfaces. */
// @ts-ignore: decorator
@inline
function slotOf(dimension: u32): u32 {
  return dimension == 0 ? 7 : dimension < 8 ? dimension - 1 : dimension;
}

function prepareRun(run: u32): void {
  runSeed = run;
  runKnown = true;
  for (let d: u32 = 0; d < 16; d++) {
    const seed = dimensionSeed(d),
      seedX = mix(seed ^ 0x51633e2d),
      seedY = mix(seed ^ 0x68bc21eb);
    const slot = slotOf(d);
    const at = scratch + SCRATCH_SEQUENCE + <usize>(slot >> 2) * GROUP + <usize>((slot & 3) << 2);
    store<u32>(at, seed);
    store<u32>(at, seedX, SEED_X);
    store<u32>(at, seedY, SEED_Y);
    store<u32>(at, mix(seed ^ 0x2545f491), PLACE);
    for (let i: u32 = 0; i < 4; i++) {
      const index = reverseBits(laineKarras(reverseBits(i), seed));
      const x = laineKarras(index, seedX),
        y = laineKarras(pascal(index), seedY);
      store<u32>(FIRST + <usize>((slot << 5) | ((x & 3) << 2)), x);
      store<u32>(FIRST + <usize>((slot << 5) | 16 | ((y & 3) << 2)), y);
    }
  }
  forgetPixel();
}

// @ts-ignore: decorator
@inline
function forgetPixel(): void {
  const groups = scratch + SCRATCH_SEQUENCE;
  for (let g = groups; g < groups + 4 * GROUP; g += GROUP) store<u64>(g, 0, PIXEL_KNOWN);
}

// @ts-ignore: decorator
@inline
function dimensionSeed(dimension: u32): u32 {
  return mix(runSeed ^ (dimension * 0x9e3779b9 + 0x7f4a7c15));
}

/** mix() of four. */
// @ts-ignore: decorator
@inline
function mix4(x: v128): v128 {
  x = v128.xor(x, i32x4.shr_u(x, 16));
  x = i32x4.mul(x, i32x4.splat(0x7feb352d));
  x = v128.xor(x, i32x4.shr_u(x, 15));
  x = i32x4.mul(x, i32x4.splat(0x846ca68b));
  return v128.xor(x, i32x4.shr_u(x, 16));
}

/** reverseBits() of four. */
// @ts-ignore: decorator
@inline
function reverseBits4(x: v128): v128 {
  const nibble = i8x16.splat(15);
  const low = i8x16.swizzle(i8x16(0, -128, 64, -64, 32, -96, 96, -32, 16, -112, 80, -48, 48, -80, 112, -16), v128.and(x, nibble));
  const high = i8x16.swizzle(i8x16(0, 8, 4, 12, 2, 10, 6, 14, 1, 9, 5, 13, 3, 11, 7, 15), i8x16.shr_u(x, 4));
  const turned = v128.or(low, high);
  return i8x16.shuffle(turned, turned, 3, 2, 1, 0, 7, 6, 5, 4, 11, 10, 9, 8, 15, 14, 13, 12);
}

/** laineKarras() of four. */
// @ts-ignore: decorator
@inline
function laineKarras4(x: v128, seed: v128): v128 {
  x = i32x4.add(x, seed);
  x = v128.xor(x, i32x4.mul(x, i32x4.splat(0x6c50b47c)));
  x = v128.xor(x, i32x4.mul(x, i32x4.splat(0xb82f1e52)));
  x = v128.xor(x, i32x4.mul(x, i32x4.splat(0xc7afe638)));
  return v128.xor(x, i32x4.mul(x, i32x4.splat(0x8d22f6e6)));
}

/** pascal() of four. */
// @ts-ignore: decorator
@inline
function pascal4(x: v128): v128 {
  x = v128.xor(x, v128.and(i32x4.shr_u(x, 1), i32x4.splat(0x55555555)));
  x = v128.xor(x, v128.and(i32x4.shr_u(x, 2), i32x4.splat(0x33333333)));
  x = v128.xor(x, v128.and(i32x4.shr_u(x, 4), i32x4.splat(0x0f0f0f0f)));
  x = v128.xor(x, v128.and(i32x4.shr_u(x, 8), i32x4.splat(0x00ff00ff)));
  return v128.xor(x, v128.and(i32x4.shr_u(x, 16), i32x4.splat(0x0000ffff)));
}

/** Values of the first four samples that share the first two digits of each lane. */
// @ts-ignore: decorator
@inline
function keptOf(quarter: v128, first: usize): v128 {
  let kept = i32x4.splat(load<u32>(first + ((<usize>i32x4.extract_lane(quarter, 0)) << 2)));
  kept = i32x4.replace_lane(kept, 1, load<u32>(first + ((<usize>i32x4.extract_lane(quarter, 1)) << 2), 32));
  kept = i32x4.replace_lane(kept, 2, load<u32>(first + ((<usize>i32x4.extract_lane(quarter, 2)) << 2), 64));
  return i32x4.replace_lane(kept, 3, load<u32>(first + ((<usize>i32x4.extract_lane(quarter, 3)) << 2), 96));
}

/**
 * Scrambles bit-reversed values anew below their first two digits, for each pixel in its own way, but so that the first four
 * samples stay where all pixels have them.
 */
// @ts-ignore: decorator
@inline
function finer(x: v128, first: usize, own: v128): v128 {
  const quarter = v128.and(x, i32x4.splat(3));
  const kept = i32x4.shr_u(keptOf(quarter, first), 2);
  const key = i32x4.add(own, i32x4.mul(quarter, i32x4.splat(0x9e3779b9)));
  const below = v128.xor(v128.xor(laineKarras4(i32x4.shr_u(x, 2), key), laineKarras4(kept, key)), kept);
  return v128.or(quarter, i32x4.shl(below, 2));
}

/** The pixel's digital shift: twelve bits of the mask, laid elsewhere for each dimension, then bits of its own. */
// @ts-ignore: decorator
@inline
function shift(place: u32, own: u32): u32 {
  const x = (pixelX + (place & 63)) & 63,
    y = (pixelY + ((place >> 6) & 63)) & 63;
  return ((<u32>load<u16>(MASK + ((<usize>((y << 6) + x)) << 1))) << 20) | (own >> 12);
}

/** What the pixel gives to a group. */
function preparePixel(g: usize): void {
  const own = mix4(v128.xor(v128.load(g), i32x4.splat(pixelSeed)));
  v128.store(g, own, OWN);
  v128.store(g, laineKarras4(i32x4.splat(0), own), NOUGHT);
  for (let at = g; at < g + 16; at += 4) {
    const low = load<u32>(at, OWN);
    store<u32>(at, shift(load<u32>(at), low), SHIFT_X);
    store<u32>(at, shift(load<u32>(at, PLACE), low * 0x9e3779b9), SHIFT_Y);
  }
  store<u32>(g, 1, PIXEL_KNOWN);
}

/** Makes the coordinates of a group. */
function prepareGroup(g: usize, first: usize): void {
  if (!load<u32>(g, PIXEL_KNOWN)) preparePixel(g);
  const own = v128.load(g, OWN);
  // each pixel pairs its dimensions in an order of its own, so that no pairing is bad for all; the first stays the first
  const order = v128.xor(laineKarras4(i32x4.splat(reverseBits(sequenceIndex)), own), v128.load(g, NOUGHT));
  const index = reverseBits4(laineKarras4(order, v128.load(g)));
  // the first coordinate is the index's bit reversal, and scrambling works on bit-reversed values: on the index itself
  const x = finer(laineKarras4(index, v128.load(g, SEED_X)), first, own);
  const y = finer(laineKarras4(pascal4(index), v128.load(g, SEED_Y)), first + 16, v128.xor(own, i32x4.splat(0x68bc21eb)));
  v128.store(g, v128.xor(reverseBits4(x), v128.load(g, SHIFT_X)), AT_X);
  v128.store(g, v128.xor(reverseBits4(y), v128.load(g, SHIFT_Y)), AT_Y);
  store<u32>(g, sequenceIndex, OF);
  store<u32>(g, 1, KNOWN);
}

/** Sets ru, rv in [0, 1): a well-spread pair for the given dimension (0 … 15, each used once a path). */
export function pair(dimension: u32): void {
  const slot = slotOf(dimension);
  const g = scratch + SCRATCH_SEQUENCE + <usize>(slot >> 2) * GROUP;
  if (!load<u32>(g, KNOWN) || load<u32>(g, OF) != sequenceIndex) prepareGroup(g, FIRST + <usize>((slot >> 2) << 7));
  const at = g + <usize>((slot & 3) << 2);
  ru = <f64>load<u32>(at, AT_X) * UNIT;
  rv = <f64>load<u32>(at, AT_Y) * UNIT;
}

/** One independent number in [0, 1). */
export function random(): f64 {
  const state = streamSeed + counter * 0x2c9277b5;
  counter++;
  const a = mix(state);
  return <f64>mix(a ^ (counter * 0x27d4eb2f)) * UNIT;
}

/** Puts independent numbers that depend on `key` alone in place of the path's. @returns what endStream() needs */
export function beginStream(key: u32): u32 {
  const was = streamSeed;
  streamSeed = mix(key + 0x3c6ef372);
  counter = 0;
  return was;
}
/** Goes back to the path's own numbers. */
export function endStream(stream: u32, state: u32): void {
  streamSeed = stream;
  counter = state;
}

/** A number in [0, 1) that two others give, the same in any pixel. */
export function hashed(a: u32, b: u32): f64 {
  return <f64>mix(mix(a + 0x9e3779b9) ^ (b * 0x85ebca6b)) * UNIT;
}

/** Where the stream of independent numbers stands, to repeat a part of it. */
export function randomState(): u32 {
  return counter;
}
/** Goes on from a place in the random numbers of a sample. */
export function setRandomState(state: u32): void {
  counter = state;
}

/** Exposed for tests: coordinate of the scrambled sequence. */
export function sequencePoint(seed: u32, x: u32, y: u32, index: u32, dimension: u32, axis: i32): f64 {
  startSample(seed, x, y, index);
  pair(dimension);
  return axis == 0 ? ru : rv;
}
