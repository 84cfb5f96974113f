/** The ground of a picture with depth: the plane that most of its lower half lies in, by random samples of three (RANSAC, Fischler and Bolles 1981). */
import { cross, dot, sub, unit, type V3 } from "../math/vectors";
import { axisDirection, type PlateLens } from "./lens";

export interface Ground {
  /** Up in lens space, unit. */
  up: V3;
  /** How high the lens is over it, m. */
  height: number;
  /** Share of the points looked at that lie in it, and what those are off by, as a share of their distance (root mean square). */
  share: number;
  off: number;
}

/** Points looked at, and planes tried. */
const POINTS = 3000,
  TRIES = 400;
/** Share of its distance by which a point in the plane may be off while planes are tried, and after. */
const NEAR = 0.01,
  NEARER = 0.006;
/** Least cosine of up in lens space: the ground lies below. */
const UPRIGHT = 0.5;
/** Fewest points that tell a plane. */
const FEW = 50;

/** Random numbers from 0 to 1, the same each time (Park and Miller 1988). */
function random(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 16807) % 2147483647) / 2147483647;
}

/** Points of the lower half in lens space, m. @param distance along the ray */
function pointsOf(distance: Float32Array, lens: PlateLens, next: () => number): V3[] {
  const { width, height } = lens;
  const out: V3[] = [];
  for (let k = 0; k < 4 * POINTS && out.length < POINTS; k++) {
    const x = Math.floor(next() * width),
      y = Math.min(height - 1, Math.floor((0.5 + 0.5 * next()) * height));
    const d = distance[y * width + x]!;
    if (!(d > 0) || d === Infinity) continue;
    const [a, b, c] = unit(axisDirection(lens, (x + 0.5) / width, (y + 0.5) / height));
    out.push([d * a, d * b, d * c]);
  }
  return out;
}

/** The ground; null where there is none to tell. */
export function groundOf(distance: Float32Array, lens: PlateLens): Ground | null {
  const next = random(7);
  const points = pointsOf(distance, lens, next);
  if (points.length < FEW) return null;
  const within = (up: V3, height: number, share: number): V3[] =>
    points.filter((p) => Math.abs(dot(up, p) + height) < share * Math.hypot(...p));
  let best: { up: V3; height: number; count: number } | null = null;
  for (let k = 0; k < TRIES; k++) {
    const [a, b, c] = [0, 1, 2].map(() => points[Math.floor(next() * points.length)]!) as [V3, V3, V3];
    const n = cross(sub(b, a), sub(c, a));
    if (Math.hypot(...n) < 1e-12) continue;
    const turned = unit(n);
    const up: V3 = turned[1] < 0 ? [-turned[0], -turned[1], -turned[2]] : turned;
    const height = -dot(up, a);
    if (up[1] < UPRIGHT || height <= 0) continue;
    const { length: count } = within(up, height, NEAR);
    if (count > (best?.count ?? 0)) best = { up, height, count };
  }
  if (!best || best.count < FEW) return null;
  let plane = { up: best.up, height: best.height };
  for (const share of [NEAR, NEARER]) plane = fitted(within(plane.up, plane.height, share)) ?? plane;
  const inside = within(plane.up, plane.height, NEARER);
  const squares = inside.reduce((sum, p) => sum + ((dot(plane.up, p) + plane.height) / Math.hypot(...p)) ** 2, 0);
  return { ...plane, share: inside.length / points.length, off: Math.sqrt(squares / Math.max(1, inside.length)) };
}

/** The plane up·p = −height of some points, each weighed by one over its distance: the farther, the less sure. */
function fitted(points: readonly V3[]): { up: V3; height: number } | null {
  // of u·p = −1 with u = up / height, by the normal equations
  const m = [0, 0, 0, 0, 0, 0, 0, 0, 0],
    r = [0, 0, 0];
  for (const p of points) {
    const w = 1 / dot(p, p);
    for (let i = 0; i < 3; i++) {
      r[i]! -= w * p[i]!;
      for (let j = 0; j < 3; j++) m[3 * i + j]! += w * p[i]! * p[j]!;
    }
  }
  const u = solved3(m, r);
  if (!u) return null;
  const length = Math.hypot(...u);
  return length > 0 ? { up: [u[0] / length, u[1] / length, u[2] / length], height: 1 / length } : null;
}

/** m x = r by Cramer's rule; null where there is no one answer. */
function solved3(m: readonly number[], r: readonly number[]): V3 | null {
  const columns: V3[] = [0, 1, 2].map((j) => [m[j]!, m[3 + j]!, m[6 + j]!]);
  const right = r as V3;
  const whole = dot(columns[0]!, cross(columns[1]!, columns[2]!));
  if (!(Math.abs(whole) > 1e-30)) return null;
  return [
    dot(right, cross(columns[1]!, columns[2]!)) / whole,
    dot(columns[0]!, cross(right, columns[2]!)) / whole,
    dot(columns[0]!, cross(columns[1]!, right)) / whole,
  ];
}
