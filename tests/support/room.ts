/** A room of our own as an OBJ file in centimetres: thick walls, two tall windows in one of them, nothing else. */

type Corner = readonly [number, number, number];

/** Inner size of the room, cm; its windows lie in the wall at the far end of x. */
export const ROOM = { size: [820, 340, 560], wall: 35, windows: [[90, 190], [370, 470]], sill: 70, lintel: 300 } as const; // prettier-ignore

/** The twelve triangles of a box, as quads. */
function box(a: Corner, b: Corner, at: number): string[] {
  const corners = Array.from({ length: 8 }, (_, i) => [i & 1 ? b[0] : a[0], i & 2 ? b[1] : a[1], i & 4 ? b[2] : a[2]].join(" "));
  const faces = [[1, 3, 4, 2], [5, 6, 8, 7], [1, 2, 6, 5], [3, 7, 8, 4], [1, 5, 7, 3], [2, 4, 8, 6]]; // prettier-ignore
  return [...corners.map((c) => `v ${c}`), ...faces.map((f) => `f ${f.map((i) => i + at).join(" ")}`)];
}

/** The room as the text of an OBJ file, about the origin, its floor at 0. */
export function roomObj(): string {
  const [x, y, z] = ROOM.size;
  const w = ROOM.wall;
  const [[a, b], [c, d]] = ROOM.windows;
  const boxes: [Corner, Corner][] = [
    [[-w, -w, -w], [x + w, 0, z + w]],
    [[-w, y, -w], [x + w, y + w, z + w]],
    [[-w, 0, -w], [0, y, z + w]],
    [[0, 0, -w], [x + w, y, 0]],
    [[0, 0, z], [x + w, y, z + w]],
    [[x, 0, 0], [x + w, ROOM.sill, z]],
    [[x, ROOM.lintel, 0], [x + w, y, z]],
    [[x, ROOM.sill, 0], [x + w, ROOM.lintel, a]],
    [[x, ROOM.sill, b], [x + w, ROOM.lintel, c]],
    [[x, ROOM.sill, d], [x + w, ROOM.lintel, z]],
  ]; // prettier-ignore
  const half: Corner = [x / 2, 0, z / 2];
  const placed = (p: Corner): Corner => [p[0] - half[0], p[1], p[2] - half[2]];
  return ["o room", ...boxes.flatMap(([p, q], i) => box(placed(p), placed(q), 8 * i))].join("\n") + "\n";
}
