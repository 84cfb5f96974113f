/** Affine transforms, row-major 3×4. */
import type { V3 } from "../math/vectors";
import { adjugate3, determinant3, inverse3, transposed3, type Matrix3 } from "./matrix";

/** Row-major 3×4 affine transform. */
export type Affine = [number, number, number, number, number, number, number, number, number, number, number, number];

/** Placement from position (m), rotation (degrees about x, then y, then z) and uniform scale. */
export function placementMatrix(position: Readonly<V3>, rotation: Readonly<V3>, scale = 1): Affine {
  const [a, b, c] = rotation.map((d) => (d * Math.PI) / 180) as V3;
  const [ca, sa, cb, sb, cc, sc] = [Math.cos(a), Math.sin(a), Math.cos(b), Math.sin(b), Math.cos(c), Math.sin(c)];
  const s = scale;
  return [
    s * cc * cb,
    s * (cc * sb * sa - sc * ca),
    s * (cc * sb * ca + sc * sa),
    position[0],
    s * sc * cb,
    s * (sc * sb * sa + cc * ca),
    s * (sc * sb * ca - cc * sa),
    position[1],
    s * -sb,
    s * cb * sa,
    s * cb * ca,
    position[2],
  ];
}

/** Its 3×3 linear part. */
export const linearPart = (m: Readonly<Affine>): Matrix3 => [m[0], m[1], m[2], m[4], m[5], m[6], m[8], m[9], m[10]];

/** Its columns: where the unit vectors go, and the origin. */
export const columnsOf = (m: Readonly<Affine>): [V3, V3, V3, V3] => [
  [m[0], m[4], m[8]],
  [m[1], m[5], m[9]],
  [m[2], m[6], m[10]],
  [m[3], m[7], m[11]],
];

/** Where a point goes. */
export const transformPoint = (m: Readonly<Affine>, [x, y, z]: Readonly<V3>): V3 => [
  m[0] * x + m[1] * y + m[2] * z + m[3],
  m[4] * x + m[5] * y + m[6] * z + m[7],
  m[8] * x + m[9] * y + m[10] * z + m[11],
];

/** Determinant of the linear part: negative where it mirrors. */
export const determinant = (m: Readonly<Affine>): number => determinant3(linearPart(m));

/** Row-major cofactors of the linear part: what normals go by. */
export const cofactors = (m: Readonly<Affine>): Matrix3 => transposed3(adjugate3(linearPart(m)));

/** Inverse of an affine transform. @throws RangeError where it has none */
export function inverseAffine(m: Readonly<Affine>): Affine {
  const linear = linearPart(m);
  if (!(Math.abs(determinant3(linear)) > 1e-300)) throw new RangeError("the transform flattens space");
  const [x, y, z] = [m[3], m[7], m[11]];
  const r = inverse3(linear);
  const row = (a: number, b: number, c: number): [number, number, number, number] => [a, b, c, -(a * x + b * y + c * z)];
  return [...row(r[0], r[1], r[2]), ...row(r[3], r[4], r[5]), ...row(r[6], r[7], r[8])];
}

/** a after b: first b, then a. */
export function composeAffine(a: Readonly<Affine>, b: Readonly<Affine>): Affine {
  const row = (x: number, y: number, z: number, w: number): [number, number, number, number] => [
    // + 0: no negative zeros, whose inverse would point the other way
    x * b[0] + y * b[4] + z * b[8] + 0,
    x * b[1] + y * b[5] + z * b[9] + 0,
    x * b[2] + y * b[6] + z * b[10] + 0,
    x * b[3] + y * b[7] + z * b[11] + w,
  ];
  return [...row(a[0], a[1], a[2], a[3]), ...row(a[4], a[5], a[6], a[7]), ...row(a[8], a[9], a[10], a[11])];
}
