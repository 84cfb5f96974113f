/** The media that scatter at a point, in the worker's scratch. */
import { scratch } from "./state";

const POINTS: usize = 28672;
const POINT: usize = 32;
/** Media that scatter at the point last looked at. */
export let pointCount: i32 = 0;

export function clearPoints(): void { pointCount = 0; }

// @ts-ignore: decorator
@inline
export function addScatterer(p: usize, r: f64, g: f64, b: f64): void {
  if (!(r + g + b > 0.0)) return;
  const at = scratch + POINTS + <usize>pointCount * POINT;
  store<u32>(at, <u32>p);
  store<f64>(at, r, 8);
  store<f64>(at, g, 16);
  store<f64>(at, b, 24);
  pointCount++;
}

// @ts-ignore: decorator
@inline
export function scatterer(i: i32): usize { return <usize>load<u32>(scratch + POINTS + <usize>i * POINT); }
// @ts-ignore: decorator
@inline
export function scattererWeight(i: i32, band: i32): f64 { return load<f64>(scratch + POINTS + <usize>i * POINT + (<usize>band << 3), 8); }
