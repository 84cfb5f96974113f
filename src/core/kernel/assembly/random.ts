/**
 * Random numbers as a pure function of (seed, pixel, sample, dimension). The first dimensions of a
 * path come from a two-dimensional (0, 2)-sequence, Owen-scrambled and shuffled by hashing (Burley
 * 2020); what follows, of unbounded length, from a counter-based hash (PCG output function).
 */
export let ru: f64 = 0.0;
export let rv: f64 = 0.0;

let pixelSeed: u32 = 0;
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

export function startSample(seed: u32, x: u32, y: u32, index: u32): void {
  pixelSeed = mix(mix(mix(seed + 0x9e3779b9) ^ (x * 0x8da6b343)) ^ (y * 0xd8163841));
  sampleIndex = index;
  sequenceIndex = index;
  streamSeed = mix(pixelSeed ^ mix(index + 0x68bc21eb));
  counter = 0;
}

/** Makes later pairs those of part `i` of `count` of the present sample; (0, 1) goes back to the sample itself. */
export function subSample(i: u32, count: u32): void {
  sequenceIndex = sampleIndex * count + i;
}

/** Sets ru, rv in [0, 1): a well-spread pair for the given dimension (0 … 15, each used once a path). */
export function pair(dimension: u32): void {
  const seed = mix(pixelSeed ^ (dimension * 0x9e3779b9 + 0x7f4a7c15));
  const index = reverseBits(laineKarras(reverseBits(sequenceIndex), seed));
  // the first coordinate is the index's bit reversal, and scrambling works on bit-reversed values: on the index itself
  ru = <f64>reverseBits(laineKarras(index, mix(seed ^ 0x51633e2d))) * UNIT;
  rv = <f64>reverseBits(laineKarras(pascal(index), mix(seed ^ 0x68bc21eb))) * UNIT;
}

/** One independent number in [0, 1). */
export function random(): f64 {
  const state = streamSeed + counter * 0x2c9277b5;
  counter++;
  const a = mix(state);
  return <f64>mix(a ^ (counter * 0x27d4eb2f)) * UNIT;
}

/** Where the stream of independent numbers stands, to repeat a part of it. */
export function randomState(): u32 { return counter; }
export function setRandomState(state: u32): void { counter = state; }

/** Exposed for tests: coordinate of the scrambled sequence. */
export function sequencePoint(seed: u32, x: u32, y: u32, index: u32, dimension: u32, axis: i32): f64 {
  startSample(seed, x, y, index);
  pair(dimension);
  return axis == 0 ? ru : rv;
}
