/** Rotations as degrees about x, then y, then z, and as row-major 3×3 matrices. */
import { placementMatrix } from "./affine";
import type { Matrix3 } from "./matrix";
import type { V3 } from "./vectors";

/** Degrees of a rotation: inverse of {@link rotationOf}. */
export function anglesOf(m: Readonly<Matrix3>): V3 {
  const y = Math.asin(Math.max(-1, Math.min(1, -m[6])));
  const level = Math.abs(m[6]) < 0.999999;
  const x = level ? Math.atan2(m[7], m[8]) : Math.atan2(-m[5], m[4]);
  const z = level ? Math.atan2(m[3], m[0]) : 0;
  return [x, y, z].map((a) => (a * 180) / Math.PI) as V3;
}

/** Matrix of a rotation in degrees. */
export function rotationOf(angles: Readonly<V3>): Matrix3 {
  const m = placementMatrix([0, 0, 0], angles);
  return [m[0], m[1], m[2], m[4], m[5], m[6], m[8], m[9], m[10]];
}
