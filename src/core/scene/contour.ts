/** The outline of a mesh as an eye sees it: where its surface turns away, ends, or bends sharply. */
import { cross, dot, sub, type V3 } from "../math/vectors";
import { cornerNumbers, edgeNumber } from "./closed";

/** Cosine of the angle between two faces from which on their edge is drawn (40°). */
const SHARP = Math.cos((40 * Math.PI) / 180);
/** Segments at most; of more the longest are kept. */
const MOST = 4000;

/** Where a mesh is looked at from: a point, or along a direction. */
export type Eye = { from: Readonly<V3> } | { along: Readonly<V3> };

interface Edge {
  at: number;
  to: number;
  /** Unit normal of the first face, and what it is turned to. */
  normal: V3;
  front: number;
  faces: number;
  drawn: boolean;
}

/** Sides that a normal is turned to, a bit each. */
function turnedTo(normal: Readonly<V3>, towards: readonly Readonly<V3>[]): number {
  return towards.reduce((bits, t, i) => bits | (dot(normal, t) > 0 ? 1 << i : 0), 0);
}
const AXES_SEEN: readonly V3[] = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

/**
 * Outline of a mesh. Without an eye as it is seen along the three axes together.
 * @param positions 9 floats a triangle, m
 * @returns 6 floats a segment, m
 */
export function contourOf(positions: Float32Array, eye: Eye | null): number[] {
  const corner = cornerNumbers(positions);
  const point = (at: number): V3 => [positions[at]!, positions[at + 1]!, positions[at + 2]!];
  const edges = new Map<number, Edge>();
  for (let t = 0; t < positions.length; t += 9) {
    const [a, b, c] = [point(t), point(t + 3), point(t + 6)];
    const n = cross(sub(b, a), sub(c, a));
    const size = Math.hypot(...n);
    const ids = [corner(t), corner(t + 3), corner(t + 6)] as const;
    // one without an area turns nowhere
    if (!(size > 0) || ids[0] === ids[1] || ids[1] === ids[2] || ids[2] === ids[0]) continue;
    const normal = n.map((v) => v / size) as V3;
    const front = turnedTo(normal, eye ? ["from" in eye ? sub(eye.from, a) : sub([0, 0, 0], eye.along)] : AXES_SEEN);
    for (const k of [0, 1, 2] as const) {
      const [at, to] = [t + 3 * k, t + 3 * ((k + 1) % 3)];
      const key = edgeNumber(ids[k], ids[(k + 1) % 3]!);
      const known = edges.get(key);
      if (!known) edges.set(key, { at, to, normal, front, faces: 1, drawn: false });
      else {
        known.faces++;
        known.drawn ||= front !== known.front || dot(normal, known.normal) < SHARP;
      }
    }
  }
  const drawn = [...edges.values()]
    .filter((e) => e.drawn || e.faces === 1)
    .map((e) => {
      const [p, q] = [point(e.at), point(e.to)];
      return { line: [...p, ...q], length: Math.hypot(...sub(p, q)) };
    });
  if (drawn.length > MOST) drawn.sort((x, y) => y.length - x.length).length = MOST;
  return drawn.flatMap((d) => d.line);
}
