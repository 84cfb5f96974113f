/** Affine transforms, row-major 3×4. */
import type { V3 } from "../math/vectors";
import { adjugate3, determinant3, inverse3 } from "./matrix";

/** Row-major 3×4 affine transform. */
export type Affine = [number, number, number, number, number, number, number, number, number, number, number, number];

/** Placement from position (m), rotation (degrees about x, then y, then z) and uniform scale. */
export function placementMatrix(position: Readonly<V3>, rotation: readonly number[], scale = 1): Affine {
  const [a, b, c] = rotation.map((d) => (d * Math.PI) / 180) as [number, number, number];
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
export const linearPart = (m: readonly number[]): number[] => [0, 1, 2].flatMap((k) => m.slice(4 * k, 4 * k + 3));

/** Determinant of the linear part: negative where it mirrors. */
export const determinant = (m: readonly number[]): number => determinant3(linearPart(m));

/** Row-major cofactors of the linear part: what normals go by. */
export function cofactors(m: readonly number[]): readonly number[] {
  const t = adjugate3(linearPart(m));
  return [0, 3, 6, 1, 4, 7, 2, 5, 8].map((i) => t[i]!);
}

/** Inverse of an affine transform. @throws RangeError where it has none */
export function inverseAffine(m: readonly number[]): Affine {
  const linear = linearPart(m);
  if (!(Math.abs(determinant3(linear)) > 1e-300)) throw new RangeError("the transform flattens space");
  const [x, y, z] = [m[3]!, m[7]!, m[11]!];
  const r = inverse3(linear);
  return [0, 1, 2].flatMap((k) => [
    r[3 * k]!,
    r[3 * k + 1]!,
    r[3 * k + 2]!,
    -(r[3 * k]! * x + r[3 * k + 1]! * y + r[3 * k + 2]! * z),
  ]) as Affine;
}

/** a after b: first b, then a. */
export function composeAffine(a: readonly number[], b: readonly number[]): Affine {
  const out: number[] = [];
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 4; c++)
      out.push(a[4 * r]! * b[c]! + a[4 * r + 1]! * b[4 + c]! + a[4 * r + 2]! * b[8 + c]! + (c === 3 ? a[4 * r + 3]! : 0));
  return out as Affine;
}
