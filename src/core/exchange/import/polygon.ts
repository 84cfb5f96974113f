/** Faces of many corners as triangles. */
import earcut from "earcut";
import { AXES, type V3 } from "../../math/vectors";

/**
 * Cuts a face into triangles that turn about as it does. One that bulges everywhere is cut as a fan, any other by ear clipping in the
 * plane it is closest to.
 * @param positions 3 numbers a corner @param face numbers of its corners, in order
 * @returns places in the face, three a triangle; at most two triangles less than it has corners
 */
export function cutPolygon(positions: readonly number[], face: readonly number[]): number[] {
  const n = face.length;
  const fan = (): number[] => Array.from({ length: n - 2 }, (_, i) => [0, i + 1, i + 2]).flat();
  if (n === 3) return [0, 1, 2];
  const at = (i: number): V3 => AXES.map((k) => positions[3 * face[i % n]! + k]!) as V3;
  // Newell's normal: right for hollow faces and those that are not quite flat
  const normal: V3 = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    const [a, b] = [at(i), at(i + 1)];
    normal[0] += (a[1] - b[1]) * (a[2] + b[2]);
    normal[1] += (a[2] - b[2]) * (a[0] + b[0]);
    normal[2] += (a[0] - b[0]) * (a[1] + b[1]);
  }
  const axis = normal.map(Math.abs).indexOf(Math.max(...normal.map(Math.abs))) as 0 | 1 | 2;
  if (!(Math.abs(normal[axis]) > 0)) return fan();
  // seen against that axis, so that the face turns counterclockwise
  const [u, v] = normal[axis] > 0 ? [(axis + 1) % 3, (axis + 2) % 3] : [(axis + 2) % 3, (axis + 1) % 3];
  const flat: number[] = [];
  for (let i = 0; i < n; i++) {
    const p = at(i);
    flat.push(p[u]!, p[v]!);
  }
  const turn = (i: number, j: number, k: number): number =>
    (flat[2 * j]! - flat[2 * i]!) * (flat[2 * k + 1]! - flat[2 * i + 1]!) -
    (flat[2 * j + 1]! - flat[2 * i + 1]!) * (flat[2 * k]! - flat[2 * i]!);
  let bulges = true;
  // of a fan every triangle must turn the face's way
  for (let i = 1; i + 1 < n && bulges; i++) bulges = turn(0, i, i + 1) > 0 && turn(i - 1, i, i + 1) > 0;
  if (bulges && turn(n - 2, n - 1, 0) > 0 && turn(n - 1, 0, 1) > 0) return fan();
  const cut = earcut(flat);
  // corners on a line or on each other make fewer: those that have no area may go where they like
  if (cut.length === 0) return fan();
  for (let i = 0; i < cut.length; i += 3) {
    const [a, b, c] = [cut[i]!, cut[i + 1]!, cut[i + 2]!];
    if (turn(a, b, c) < 0) cut.splice(i, 3, a, c, b);
  }
  return cut;
}
