/** Row-major 3×3 matrices. */

/** Determinant. */
export function determinant3(m: readonly number[]): number {
  const [a, b, c, d, e, f, g, h, i] = m as unknown as Nine;
  return a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
}

/** Transposed matrix of cofactors: the inverse times the determinant, where that is 0 too. */
export function adjugate3(m: readonly number[]): number[] {
  const [a, b, c, d, e, f, g, h, i] = m as unknown as Nine;
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
export function inverse3(m: readonly number[]): number[] {
  const det = determinant3(m);
  return adjugate3(m).map((v) => v / det);
}

type Nine = [number, number, number, number, number, number, number, number, number];
