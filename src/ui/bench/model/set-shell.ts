/** The set as the drawings of space take it: triangles in colours, the largest of each shape first. */
import { encode } from "#core/film/finish";
import { ownTriangles, type SceneGeometry } from "#core/data/geometry";
import { largestFirst } from "./by-area";

/** Triangles of a shape, and how many of them there are in each class of area. */
export interface ShellPart {
  first: number;
  count: number;
  classes: number[];
}

export interface SetShell {
  /** Corners in the scene, m, 9 numbers a triangle, and a colour for each corner. */
  positions: Float32Array;
  colours: Uint8Array;
  objects: (ShellPart & { index: number })[];
  /** Triangles in several places: for each object that has some, a column-major 4×4 matrix a place. */
  shared: (ShellPart & { places: { object: number; matrices: Float32Array }[] })[];
}

/** How much longer a length is where a shape stands, by the volume of what its 3×4 matrix makes of a cube. */
function scaleOf(m: ArrayLike<number>): number {
  const [a, b, c, , d, e, f, , g, h, i] = Array.from(m) as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  return Math.cbrt(Math.abs(a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g)));
}

/** @param assembled put in another order on the way */
export function shellOf(assembled: SceneGeometry): SetShell {
  const { positions, object, material, materials } = assembled;
  const shown = materials.map((m) => {
    // as sRGB, glass pale and what shines bright
    const most = Math.max(...m.emission);
    const c = most > 0 ? m.emission.map((e) => e / most) : m.transmission > 0 ? [0.75, 0.8, 0.8] : m.baseColor;
    return c.map((v) => Math.round(255 * encode(Math.max(0, Math.min(1, v)))));
  });
  const colours = new Uint8Array(9 * material.length);
  for (let i = 0; i < material.length; i++) for (let c = 0; c < 3; c++) colours.set(shown[material[i]!]!, 9 * i + 3 * c);
  const part = (first: number, count: number, scale = 1): ShellPart => {
    const [from, to] = [9 * first, 9 * (first + count)];
    const sorted = largestFirst(positions.slice(from, to), colours.slice(from, to), scale);
    positions.set(sorted.positions, from);
    colours.set(sorted.colours, from);
    return { first, count, classes: sorted.classes };
  };
  const objects: SetShell["objects"] = [];
  for (let from = 0; from < ownTriangles(assembled);) {
    let to = from;
    while (to < ownTriangles(assembled) && object[to] === object[from]) to++;
    objects.push({ index: object[from]!, ...part(from, to - from) });
    from = to;
  }
  const shared = (assembled.shared ?? []).map(({ first, count, places }) => {
    const by = new Map<number, number[]>();
    for (const { matrix: m, object: o } of places) {
      const columns = by.get(o) ?? [];
      if (columns.length === 0) by.set(o, columns);
      for (let c = 0; c < 4; c++) columns.push(m[c]!, m[4 + c]!, m[8 + c]!, c === 3 ? 1 : 0);
    }
    return {
      ...part(first, count, places.length > 0 ? scaleOf(places[0]!.matrix) : 1),
      places: [...by].map(([o, columns]) => ({ object: o, matrices: new Float32Array(columns) })),
    };
  });
  return { positions, colours, objects, shared };
}
