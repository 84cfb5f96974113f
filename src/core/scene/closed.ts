/** Whether a mesh is closed, so that inside and outside mean something. */
import { AXES } from "../math/vectors";
import { InputError } from "../errors";

/**
 * Checks that every edge is shared by two triangles that turn about it in opposite ways. Corners within a
 * ten-thousandth of the mesh's size count as one.
 * @param positions 9 floats a triangle, m
 * @throws InputError that says how many edges are open and where the first lies
 */
export function checkClosed(positions: Float32Array, what: string): void {
  const n = positions.length / 9;
  if (n === 0) throw new InputError(`${what}: has no triangles and bounds nothing`);
  let size = 0;
  for (const v of positions) size = Math.max(size, Math.abs(v));
  const grain = Math.max(size * 1e-6, 1e-9);
  const ids = new Map<string, number>();
  const corner = (at: number): number => {
    const key = `${Math.round(positions[at]! / grain)},${Math.round(positions[at + 1]! / grain)},${Math.round(positions[at + 2]! / grain)}`;
    let id = ids.get(key);
    if (id === undefined) ids.set(key, (id = ids.size));
    return id;
  };
  // edges counted up one way and down the other: all must come out even
  const edges = new Map<number, { sum: number; at: number }>();
  const edge = (a: number, b: number, at: number): void => {
    if (a === b) return;
    const [low, high] = a < b ? [a, b] : [b, a];
    const key = low * 67108864 + high;
    const known = edges.get(key);
    if (known) known.sum += a < b ? 1 : -1;
    else edges.set(key, { sum: a < b ? 1 : -1, at });
  };
  for (let i = 0; i < n; i++) {
    const [a, b, c] = [corner(9 * i), corner(9 * i + 3), corner(9 * i + 6)];
    // a triangle without an area has no inside
    if (a === b || b === c || c === a) continue;
    edge(a, b, 9 * i);
    edge(b, c, 9 * i + 3);
    edge(c, a, 9 * i + 6);
  }
  const open = [...edges.values()].filter((e) => e.sum !== 0);
  if (!open.length) return;
  const at = open[0]!.at;
  const place = AXES.map((k) => positions[at + k]!.toPrecision(4)).join(", ");
  throw new InputError(
    `${what}: its surface is open at ${open.length} edges (the first near ${place} m), so it has no inside; ` +
      "close the holes and turn all faces outwards, or bound the medium by a box, sphere, cylinder or cone",
  );
}
