/**
 * What one sample gathers: the sum over all lights, and the part of each light group where a document keeps
 * them apart. The parts add up to the sum to rounding, in the air and on surfaces alike.
 */
import { GROUP_BYTES, SCRATCH_GROUPS } from "../../layout/scratch";
import {
  GROUP_FLOATS,
  G_AIR,
  G_RAYS,
  G_SEEN,
  G_SURFACES,
  L_GROUP,
  MATTE_FLOATS,
  MATTE_SLOTS,
  PIXEL_FLOATS,
  P_MEDIUM_EMISSION_GROUP,
  P_GROUP_COUNT,
  P_LIGHT_COUNT,
  P_MATTES,
  P_SURFACE_EMISSION_GROUP,
  P_SKY_GROUP,
  P_SUN_GROUP,
  R_GROUPS,
  SAMPLED_GROUP_FLOATS,
} from "../../layout/layout";
import { lightParamInt, paramInt, scratch } from "./state";
import { MEDIUM_EMISSION, SKY, SUN } from "./lights";

/** Luminance gathered by the branch begun last. */
export let outR: f64 = 0.0;
export let outG: f64 = 0.0;
export let outB: f64 = 0.0;

let groups: i32 = 0;
/** Bits of the groups that the present sample lit, and where in a group the present branch adds. */
let touched: u64 = 0;
let side: usize = 0;
let scale: f64 = 1.0;
let groupsAt: usize = 0;
let mattesAt: usize = 0;

/** Reads from the parameters which light groups and mattes a run keeps, and where they lie in a pixel. */
export function prepareGroups(): void {
  groups = paramInt(P_GROUP_COUNT);
  mattesAt = paramInt(P_MATTES) != 0 ? (<usize>PIXEL_FLOATS) << 2 : 0;
  groupsAt = (<usize>(PIXEL_FLOATS + (mattesAt != 0 ? MATTE_FLOATS : 0))) << 2;
  touched = 0;
}

/** Whether groups are kept apart. */
export function keepsGroups(): bool {
  return groups > 0;
}

/** Begins to gather light of surfaces, or of the air. */
export function beginBranch(air: bool): void {
  outR = 0.0;
  outG = 0.0;
  outB = 0.0;
  side = (<usize>(air ? G_AIR : G_SURFACES)) << 3;
  scale = 1.0;
}
/** What is gathered from here on counts k times. */
export function scaleBranch(k: f64): void {
  scale = k;
}

/** Group that the film keeps a light in, or an emissive triangle (numbered after the lights); 0 where it keeps none apart. */
export function groupOf(light: i32): i32 {
  return groups == 0 ? 0 : lightGroupOf(light);
}

/** Group of a light, whether the film keeps it apart or not. */
export function lightGroupOf(light: i32): i32 {
  if (light == SUN) return paramInt(P_SUN_GROUP);
  if (light == SKY) return paramInt(P_SKY_GROUP);
  if (light == MEDIUM_EMISSION) return paramInt(P_MEDIUM_EMISSION_GROUP);
  return light >= paramInt(P_LIGHT_COUNT) ? paramInt(P_SURFACE_EMISSION_GROUP) : lightParamInt(light, L_GROUP);
}

/** Adds light of a group to what the branch gathers. */
// @ts-ignore: decorator
@inline
export function accumulate(group: i32, r: f64, g: f64, b: f64): void {
  r *= scale;
  g *= scale;
  b *= scale;
  outR += r;
  outG += g;
  outB += b;
  if (groups > 0) accumulateGroup(group, r, g, b);
}

/** Sums of a group, zero at its first use in a sample. */
// @ts-ignore: decorator
@inline
function sumsOf(group: i32): usize {
  const at = scratch + SCRATCH_GROUPS + <usize>(group * GROUP_BYTES);
  const bit = (<u64>1) << (<u64>group);
  if ((touched & bit) == 0) {
    touched |= bit;
    memory.fill(at, 0, GROUP_BYTES);
  }
  return at;
}

/** Counts a ray sent towards a light of a group. */
// @ts-ignore: decorator
@inline
export function countLightRay(group: i32): void {
  if (groups == 0) return;
  const at = sumsOf(group);
  store<f64>(at, load<f64>(at, G_RAYS << 3) + 1.0, G_RAYS << 3);
}

function accumulateGroup(group: i32, r: f64, g: f64, b: f64): void {
  addTo(sumsOf(group) + side, r, g, b);
}

/** Adds light to what the lens sees directly of a group; it is gathered as light of surfaces beside it. */
export function accumulateSeenGroup(group: i32, r: f64, g: f64, b: f64): void {
  if (groups > 0) addTo(sumsOf(group) + ((<usize>G_SEEN) << 3), r, g, b);
}

/** Adds to three sums. */
// @ts-ignore: decorator
@inline
function addTo(at: usize, r: f64, g: f64, b: f64): void {
  store<f64>(at, load<f64>(at) + r);
  store<f64>(at, load<f64>(at, 8) + g, 8);
  store<f64>(at, load<f64>(at, 16) + b, 16);
}

/** Adds the groups of the sample, times k, to a film pixel, and is ready for the next sample. @param apart puts their air with what is sampled */
export function storeGroups(pixel: usize, k: f64, apart: bool): void {
  if (touched == 0) return;
  for (let i = 0; i < groups; i++) {
    if (((touched >> (<u64>i)) & 1) == 0) continue;
    const from = scratch + SCRATCH_GROUPS + <usize>(i * GROUP_BYTES);
    const to = pixel + ((<usize>groupAir(i)) << 2);
    const air = apart ? pixel + ((<usize>sampledGroup(i)) << 2) : to;
    for (let c = 0; c < GROUP_FLOATS; c++) {
      const at = (c < G_SURFACES ? air : to) + ((<usize>c) << 2);
      const v = load<f64>(from + ((<usize>c) << 3)) * (c < G_RAYS ? k : 1.0);
      if (isFinite(v)) store<f32>(at, load<f32>(at) + <f32>v);
    }
  }
  touched = 0;
}
/** Forgets which groups the sample before this one lit. */
export function forgetGroups(): void {
  touched = 0;
}

/** How many groups are kept. */
export function groupsKept(): i32 {
  return groups;
}
/** Where the sums of a group's air lie in a pixel, in floats. */
export function groupAir(group: i32): i32 {
  return <i32>(groupsAt >> 2) + group * GROUP_FLOATS + G_AIR;
}

/** Where what is sampled of the air lies in a pixel, in floats. */
export function sampledAir(): i32 {
  return <i32>(groupsAt >> 2) + groups * GROUP_FLOATS;
}
/** The same of a group's air. */
export function sampledGroup(group: i32): i32 {
  return sampledAir() + R_GROUPS + group * SAMPLED_GROUP_FLOATS;
}

/** Makes the air of every group of a pixel k times as much. */
export function carryGroups(pixel: usize, k: f64): void {
  for (let i = 0; i < groups; i++) {
    const at = pixel + ((<usize>groupAir(i)) << 2);
    for (let c: usize = 0; c < 12; c += 4) store<f32>(at + c, <f32>(<f64>load<f32>(at + c) * k));
  }
}

/** Counts a sample that met an object and a material; a pixel that meets more than its slots hold leaves the last out. */
export function storeMattes(pixel: usize, object: i32, material: i32): void {
  if (mattesAt == 0) return;
  addMatte(pixel + mattesAt, object, 1.0);
  addMatte(pixel + mattesAt + <usize>(MATTE_SLOTS * 8), material, 1.0);
}

/** Whether mattes are kept. */
export function keepsMattes(): bool {
  return mattesAt != 0;
}

/** Adds to what a medium, by its place among them, keeps of a pixel's light. */
export function storeMediumMatte(pixel: usize, medium: i32, share: f64): void {
  addMatte(pixel + mattesAt + <usize>(2 * MATTE_SLOTS * 8), medium, <f32>share);
}

function addMatte(slots: usize, id: i32, share: f32): void {
  const key = <f32>(id + 1);
  for (let i = 0; i < MATTE_SLOTS; i++) {
    const at = slots + ((<usize>i) << 3);
    const n = load<f32>(at, 4);
    if (n > 0.0 && load<f32>(at) != key) continue;
    store<f32>(at, key);
    store<f32>(at, n + share, 4);
    return;
  }
}
