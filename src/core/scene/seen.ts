/** Which object and material a ray meets first. */
import { ownTriangles, type SceneGeometry } from "../data/geometry";
import { determinant, inverseAffine, transformPoint } from "../math/affine";
import { add, sub, type V3 } from "../math/vectors";

export interface Met {
  object: number;
  material: number;
  /** Lengths of the direction. */
  distance: number;
}

/** Determinants below which a ray runs along a triangle, as a share of its edges and of the direction. */
const ALONG = 1e-12;

/** The first triangle on a ray, each side of it (Möller and Trumbore 1997); null for none. */
export function firstMet(g: SceneGeometry, origin: Readonly<V3>, direction: Readonly<V3>): Met | null {
  let best: Met | null = null;
  const meet = (first: number, count: number, o: Readonly<V3>, d: Readonly<V3>, object: number | null): void => {
    const { positions: p } = g;
    for (let t = first, i = 9 * first; t < first + count; t++, i += 9) {
      const ax = p[i]!,
        ay = p[i + 1]!,
        az = p[i + 2]!;
      const ux = p[i + 3]! - ax,
        uy = p[i + 4]! - ay,
        uz = p[i + 5]! - az;
      const vx = p[i + 6]! - ax,
        vy = p[i + 7]! - ay,
        vz = p[i + 8]! - az;
      const hx = d[1] * vz - d[2] * vy,
        hy = d[2] * vx - d[0] * vz,
        hz = d[0] * vy - d[1] * vx;
      const det = ux * hx + uy * hy + uz * hz;
      if (Math.abs(det) <= ALONG * (Math.abs(ux) + Math.abs(uy) + Math.abs(uz)) * (Math.abs(vx) + Math.abs(vy) + Math.abs(vz))) continue;
      const k = 1 / det;
      const sx = o[0] - ax,
        sy = o[1] - ay,
        sz = o[2] - az;
      const u = k * (sx * hx + sy * hy + sz * hz);
      if (u < 0 || u > 1) continue;
      const qx = sy * uz - sz * uy,
        qy = sz * ux - sx * uz,
        qz = sx * uy - sy * ux;
      const v = k * (d[0] * qx + d[1] * qy + d[2] * qz);
      if (v < 0 || u + v > 1) continue;
      const distance = k * (vx * qx + vy * qy + vz * qz);
      if (distance > 0 && (!best || distance < best.distance))
        best = { object: object ?? g.object[t]!, material: g.material[t]!, distance };
    }
  };
  meet(0, ownTriangles(g), origin, direction, null);
  for (const { first, count, places } of g.shared ?? [])
    for (const { matrix, object } of places) {
      if (determinant(matrix) === 0) continue;
      const inverse = inverseAffine(matrix);
      const from = transformPoint(inverse, origin);
      meet(first, count, from, sub(transformPoint(inverse, add(origin, direction)), from), object);
    }
  return best;
}
