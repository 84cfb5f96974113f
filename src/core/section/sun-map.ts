/** The kernel's map of where sunlight comes (kernel/assembly/sun-variate.ts), copied out for drawings. */
import { integerParameter } from "../layout/integers";
import * as L from "../layout/layout";
import { vector, type V3 } from "../math/vectors";

export interface SunMap {
  /** side × side texels of four: height (m towards the sun) of the lowest point that its light reaches, and what panes leave of it by band. */
  texels: Float32Array;
  side: number;
  /** Texels by metre across the sunlight, in the scene's coordinates, and the texel that the origin would be. */
  across: readonly [V3, V3];
  low: readonly [number, number];
}

/** Copies a map whose texels are all traced out of a kernel memory that has one. */
export function readSunMap(memory: ArrayBufferLike): SunMap {
  const p = new Float64Array(memory, L.PARAMS, L.PARAM_COUNT);
  const side = L.SUN_MAP_SIDE,
    count = side * side,
    at = integerParameter(memory, L.P_SUN_MAP);
  const heights = new Float32Array(memory, at, 4 * count),
    tints = new Uint8Array(memory, at, 16 * count);
  const texels = new Float32Array(4 * count);
  for (let i = 0; i < count; i++) {
    texels[4 * i] = heights[4 * i]!;
    for (let k = 0; k < 3; k++) texels[4 * i + 1 + k] = tints[16 * i + 12 + k]! / 255;
  }
  const k = p[L.P_SUN_MAP_SCALE]!;
  const axis = (first: number): V3 => vector((j) => k * p[first + j]!);
  return {
    texels,
    side,
    across: [axis(L.P_SUN_MAP_U), axis(L.P_SUN_MAP_V)],
    low: [k * p[L.P_SUN_MAP_LOW]!, k * p[L.P_SUN_MAP_LOW + 1]!],
  };
}
