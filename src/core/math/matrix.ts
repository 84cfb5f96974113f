/** Row-major 3×3 matrices. */
import type { V3 } from "./vectors";

export type Matrix3 = [number, number, number, number, number, number, number, number, number];

/** Determinant. */
export function determinant3(m: Readonly<Matrix3>): number {
  const [a, b, c, d, e, f, g, h, i] = m;
  return a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
}

/** Transposed matrix of cofactors: the inverse times the determinant, where that is 0 too. */
export function adjugate3(m: Readonly<Matrix3>): Matrix3 {
  const [a, b, c, d, e, f, g, h, i] = m;
  return [
    e * i - f * h,
    c * h - b * i,
    b * f - c * e,
    f * g - d * i,
    a * i - c * g,
    c * d - a * f,
    d * h - e * g,
    b * g - a * h,
    a * e - b * d,
  ];
}

/** Inverse; not finite where the matrix has none. */
export function inverse3(m: Readonly<Matrix3>): Matrix3 {
  const det = determinant3(m);
  return adjugate3(m).map((v) => v / det) as Matrix3;
}

/** Its rows as columns. */
export const transposed3 = ([a, b, c, d, e, f, g, h, i]: Readonly<Matrix3>): Matrix3 => [a, d, g, b, e, h, c, f, i];

/** Its columns: the axes that a rotation turns x, y and z to. */
export const columns3 = ([a, b, c, d, e, f, g, h, i]: Readonly<Matrix3>): [V3, V3, V3] => [
  [a, d, g],
  [b, e, h],
  [c, f, i],
];

/** The vector that a matrix makes of one. */
export const times3 = (m: Readonly<Matrix3>, [x, y, z]: Readonly<V3>): V3 => [
  m[0] * x + m[1] * y + m[2] * z,
  m[3] * x + m[4] * y + m[5] * z,
  m[6] * x + m[7] * y + m[8] * z,
];

/** a after b: first b, then a. */
export function product3(a: Readonly<Matrix3>, b: Readonly<Matrix3>): Matrix3 {
  const [x, y, z] = [times3(a, [b[0], b[3], b[6]]), times3(a, [b[1], b[4], b[7]]), times3(a, [b[2], b[5], b[8]])];
  return [x[0], y[0], z[0], x[1], y[1], z[1], x[2], y[2], z[2]];
}
