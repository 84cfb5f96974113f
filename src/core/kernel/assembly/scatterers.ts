/** The media that scatter at a point, in the worker's scratch. */
import { SCATTERER_BYTES, SCRATCH_SCATTERERS } from "../../layout/scratch";
import { scratch } from "./state";

/** Media that scatter at the point last looked at. */
export let scattererCount: i32 = 0;

/** Forgets the media that scatter at a point. */
export function clearScatterers(): void {
  scattererCount = 0;
}

/** Adds a medium to those that scatter at a point, by its weights; one without any is left out. */
// @ts-ignore: decorator
@inline
export function addScatterer(p: usize, r: f64, g: f64, b: f64): void {
  if (!(r + g + b > 0.0)) return;
  const at = scratch + SCRATCH_SCATTERERS + <usize>scattererCount * SCATTERER_BYTES;
  store<u32>(at, <u32>p);
  store<f64>(at, r, 8);
  store<f64>(at, g, 16);
  store<f64>(at, b, 24);
  scattererCount++;
}

/** Address of the medium of scatterer `i`. */
// @ts-ignore: decorator
@inline
export function scatterer(i: i32): usize {
  return <usize>load<u32>(scratch + SCRATCH_SCATTERERS + <usize>i * SCATTERER_BYTES);
}
/** Weight of scatterer `i` in a band. */
// @ts-ignore: decorator
@inline
export function scattererWeight(i: i32, band: i32): f64 {
  return load<f64>(scratch + SCRATCH_SCATTERERS + <usize>i * SCATTERER_BYTES + ((<usize>band) << 3), 8);
}
