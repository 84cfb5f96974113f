/** Normals in four bytes. */
import { FLAT_NORMAL } from "../layout/layout";

/**
 * A direction folded from the octahedron (after Meyer et al. 2010): x in the low, y in the high half, off by less than 0.004°.
 * What has no direction is the face's own.
 */
export function normalCode(x: number, y: number, z: number): number {
  const sum = Math.abs(x) + Math.abs(y) + Math.abs(z);
  if (!(sum > 1e-12 && sum < 1e30)) return FLAT_NORMAL;
  let a = x / sum,
    b = y / sum;
  if (z < 0) [a, b] = [(1 - Math.abs(b)) * (a >= 0 ? 1 : -1), (1 - Math.abs(a)) * (b >= 0 ? 1 : -1)];
  return (Math.round(32767 * b) << 16) | (Math.round(32767 * a) & 0xffff);
}

/** Whether a corner's normal (at `at`) is that of its face, to what single precision tells. */
export function isFlat(normals: Float32Array, at: number, face: readonly [number, number, number]): boolean {
  const [x, y, z] = [normals[at]!, normals[at + 1]!, normals[at + 2]!];
  const dot = x * face[0] + y * face[1] + z * face[2];
  return dot * dot > (1 - 2e-7) * (x * x + y * y + z * z) * (face[0] ** 2 + face[1] ** 2 + face[2] ** 2);
}
