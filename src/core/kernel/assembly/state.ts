/** Access to the parameter block and the per-instance scratch of this worker. */
import { SCRATCH_LEAD } from "../../layout/scratch";
import { PARAMS, P_LIGHTS, LIGHT_WORDS, CONTROL, CTL_RUN, SCRATCH, SCRATCH_STRIDE } from "../../layout/layout";

/** Start of this worker's scratch block. */
export let scratch: usize = <usize>(SCRATCH + SCRATCH_LEAD);
/** The run this call belongs to. */
let run: i32 = 0;

export let raysTraced: f64 = 0.0;
export let densityLookups: f64 = 0.0;

/**
 * Ways of working switched off, for benchmarks that measure what they gain: 1 lights are chosen evenly, 2 distances
 * follow transmittance alone, 4 broken air has one bound for all of it.
 */
export let ablation: i32 = 0;
/** Switches estimators off by bit, see ablation; for tests. */
export function setAblation(bits: i32): void {
  ablation = bits;
}

/** Gives this instance its own scratch. */
export function bindWorker(index: i32): void {
  scratch = <usize>(SCRATCH + SCRATCH_LEAD + index * SCRATCH_STRIDE);
}

/** Begins a run: its number, and counts from nought. */
export function beginRun(id: i32): void {
  run = id;
  raysTraced = 0.0;
  densityLookups = 0.0;
}

/** Counts a ray. */
// @ts-ignore: decorator
@inline
export function countRay(): void {
  raysTraced += 1.0;
}

/** Adds to the count of rays, or takes back what is nobody's own. */
export function countRays(n: f64): void {
  raysTraced += n;
}

/** Counts a lookup of density. */
// @ts-ignore: decorator
@inline
export function countLookup(): void {
  densityLookups += 1.0;
}

/** True once another run has been announced in the control block. */
export function cancelled(): bool {
  return load<i32>(<usize>CONTROL + ((<usize>CTL_RUN) << 2)) != run;
}

/** Parameter as a number. */
// @ts-ignore: decorator
@inline
export function param(index: i32): f64 {
  return load<f64>(<usize>PARAMS + ((<usize>index) << 3));
}

/** An integer parameter: see layout/integers.ts. */
// @ts-ignore: decorator
@inline
export function paramInt(index: i32): i32 {
  return load<i32>(<usize>PARAMS + ((<usize>index) << 3));
}
/** Parameter as an address. */
// @ts-ignore: decorator
@inline
export function paramAddress(index: i32): usize {
  return <usize>load<u32>(<usize>PARAMS + ((<usize>index) << 3));
}

/** One number of a record at address `p`. */
// @ts-ignore: decorator
@inline
export function word(p: usize, index: i32): f64 {
  return load<f64>(p + ((<usize>index) << 3));
}

/** An integer of a record. */
// @ts-ignore: decorator
@inline
export function wordInt(p: usize, index: i32): i32 {
  return load<i32>(p + ((<usize>index) << 3));
}
/** Word of a record as an address. */
// @ts-ignore: decorator
@inline
export function wordAddress(p: usize, index: i32): usize {
  return <usize>load<u32>(p + ((<usize>index) << 3));
}

/** Row of a 3×4 transform in a record, applied to a point. */
// @ts-ignore: decorator
@inline
export function row(p: usize, at: i32, x: f64, y: f64, z: f64): f64 {
  return x * word(p, at) + y * word(p, at + 1) + z * word(p, at + 2) + word(p, at + 3);
}

/** Word of a light as a number. */
// @ts-ignore: decorator
@inline
export function lightParam(light: i32, index: i32): f64 {
  return load<f64>(paramAddress(P_LIGHTS) + ((<usize>(light * LIGHT_WORDS + index)) << 3));
}
/** Word of a light as an integer. */
// @ts-ignore: decorator
@inline
export function lightParamInt(light: i32, index: i32): i32 {
  return load<i32>(paramAddress(P_LIGHTS) + ((<usize>(light * LIGHT_WORDS + index)) << 3));
}
/** Word of a light as an address. */
// @ts-ignore: decorator
@inline
export function lightParamAddress(light: i32, index: i32): usize {
  return <usize>load<u32>(paramAddress(P_LIGHTS) + ((<usize>(light * LIGHT_WORDS + index)) << 3));
}
