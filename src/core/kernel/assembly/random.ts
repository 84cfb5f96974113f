/**
 * Random numbers as a pure function of (seed, pixel, sample, dimension). The first dimensions of a
 * path come from a two-dimensional (0, 2)-sequence, Owen-scrambled and shuffled by hashing (Burley
 * 2020), the same for all pixels but for a digital shift by a dither mask: neighbours err in opposite ways, and at low counts
 * what is left looks fine-grained (after Georgiev and Fajardo 2016). What follows, of unbounded length, comes from a
 * counter-based hash (PCG output function).
 */
import { MASK } from "./mask";

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
  pixelSeed = mix(mix(mix(seed + 0x9e3779b9) ^ (x * 0x8da6b343)) ^ (y * 0xd8163841));
  runSeed = mix(seed + 0x9e3779b9);
  if (!firstKnown || firstOf != runSeed) prepareFirst();
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

/** Bit-reversed values of the first four samples, the same for all pixels: for each dimension and axis, by their first two digits. */
const FIRST: usize = memory.data(16 * 2 * 4 * 4, 4);
let firstOf: u32 = 0;
let firstKnown: bool = false;

function prepareFirst(): void {
  firstOf = runSeed;
  firstKnown = true;
  for (let d: u32 = 0; d < 16; d++) {
    const seed = dimensionSeed(d);
    for (let i: u32 = 0; i < 4; i++) {
      const index = reverseBits(laineKarras(reverseBits(i), seed));
      const x = laineKarras(index, mix(seed ^ 0x51633e2d)),
        y = laineKarras(pascal(index), mix(seed ^ 0x68bc21eb));
      store<u32>(FIRST + <usize>((d << 5) | ((x & 3) << 2)), x);
      store<u32>(FIRST + <usize>((d << 5) | 16 | ((y & 3) << 2)), y);
    }
  }
}

// @ts-ignore: decorator
@inline
function dimensionSeed(dimension: u32): u32 {
  return mix(runSeed ^ (dimension * 0x9e3779b9 + 0x7f4a7c15));
}

/**
 * Scrambles a bit-reversed value anew below its first two digits, for each pixel in its own way, but so that the first four
 * samples stay where all pixels have them.
 */
// @ts-ignore: decorator
@inline
function finer(x: u32, first: usize, own: u32): u32 {
  const quarter = x & 3;
  const kept = load<u32>(first + ((<usize>quarter) << 2));
  const key = own + quarter * 0x9e3779b9;
  return quarter | ((laineKarras(x >> 2, key) ^ laineKarras(kept >> 2, key) ^ (kept >> 2)) << 2);
}

/** The pixel's digital shift: twelve bits of the mask, laid elsewhere for each dimension, then bits of its own. */
// @ts-ignore: decorator
@inline
function shift(place: u32, own: u32): u32 {
  const x = (pixelX + (place & 63)) & 63,
    y = (pixelY + ((place >> 6) & 63)) & 63;
  return ((<u32>load<u16>(MASK + ((<usize>((y << 6) + x)) << 1))) << 20) | (own >> 12);
}

/** Sets ru, rv in [0, 1): a well-spread pair for the given dimension (0 … 15, each used once a path). */
export function pair(dimension: u32): void {
  const seed = dimensionSeed(dimension);
  const low = mix(pixelSeed ^ seed);
  // each pixel pairs its dimensions in an order of its own, so that no pairing is bad for all; the first stays the first
  const order = laineKarras(reverseBits(sequenceIndex), low) ^ laineKarras(0, low);
  const index = reverseBits(laineKarras(order, seed));
  const first = FIRST + ((<usize>dimension) << 5);
  // the first coordinate is the index's bit reversal, and scrambling works on bit-reversed values: on the index itself
  ru = <f64>(reverseBits(finer(laineKarras(index, mix(seed ^ 0x51633e2d)), first, low)) ^ shift(seed, low)) * UNIT;
  rv =
    <f64>(
      (reverseBits(finer(laineKarras(pascal(index), mix(seed ^ 0x68bc21eb)), first + 16, low ^ 0x68bc21eb)) ^
        shift(mix(seed ^ 0x2545f491), low * 0x9e3779b9))
    ) * UNIT;
}

/** One independent number in [0, 1). */
export function random(): f64 {
  const state = streamSeed + counter * 0x2c9277b5;
  counter++;
  const a = mix(state);
  return <f64>mix(a ^ (counter * 0x27d4eb2f)) * UNIT;
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
