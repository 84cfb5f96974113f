/** Whether a mesh is closed, so that inside and outside mean something. */
import { AXES } from "../math/vectors";
import { InputError } from "../errors";

/** Numbers for the corners of triangles: those within a millionth of the mesh's size have one. @param positions 9 floats a triangle */
export function cornerNumbers(positions: Float32Array): (at: number) => number {
  let size = 0;
  for (const v of positions) size = Math.max(size, Math.abs(v));
  const grain = Math.max(size * 1e-6, 1e-9);
  const ids = new Map<string, number>();
  return (at) => {
    const key = `${Math.round(positions[at]! / grain)},${Math.round(positions[at + 1]! / grain)},${Math.round(positions[at + 2]! / grain)}`;
    let id = ids.get(key);
    if (id === undefined) ids.set(key, (id = ids.size));
    return id;
  };
}

/** A number for the edge between two corners, whichever way it runs. */
export const edgeNumber = (a: number, b: number): number => Math.min(a, b) * 67108864 + Math.max(a, b);

/**
 * Edges that are not shared by two triangles which turn about them in opposite ways. Corners within a millionth of the mesh's size
 * count as one.
 * @param positions 9 floats a triangle, m
 * @returns 6 floats an edge, m: none of a closed surface
 */
export function openEdges(positions: Float32Array): number[] {
  const n = positions.length / 9;
  const corner = cornerNumbers(positions);
  // edges counted up one way and down the other: all must come out even
  const edges = new Map<number, { sum: number; at: number; to: number }>();
  const edge = (a: number, b: number, at: number, to: number): void => {
    if (a === b) return;
    const key = edgeNumber(a, b);
    const known = edges.get(key);
    if (known) known.sum += a < b ? 1 : -1;
    else edges.set(key, { sum: a < b ? 1 : -1, at, to });
  };
  for (let i = 0; i < n; i++) {
    const [a, b, c] = [corner(9 * i), corner(9 * i + 3), corner(9 * i + 6)];
    // a triangle without an area has no inside
    if (a === b || b === c || c === a) continue;
    edge(a, b, 9 * i, 9 * i + 3);
    edge(b, c, 9 * i + 3, 9 * i + 6);
    edge(c, a, 9 * i + 6, 9 * i);
  }
  return [...edges.values()].flatMap((e) => (e.sum === 0 ? [] : [e.at, e.to].flatMap((at) => AXES.map((k) => positions[at + k]!))));
}

/** Checks that a surface is closed. @param positions 9 floats a triangle, m @throws InputError that says how many edges are open, and where one lies */
export function checkClosed(positions: Float32Array, what: string): void {
  if (positions.length === 0) throw new InputError(`${what}: has no triangles and bounds nothing`);
  const open = openEdges(positions);
  if (open.length === 0) return;
  const place = open.slice(0, 3).map((v) => v.toPrecision(4)).join(", "); // prettier-ignore
  throw new InputError(
    `${what}: its surface is open at ${open.length / 6} edges (the first near ${place} m), so it has no inside; ` +
      "close the holes and turn all faces outwards, or bound the medium by a box, sphere, cylinder or cone",
  );
}
