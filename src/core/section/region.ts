/** Regions of media where a plane of a section cuts them, and what dragging their borders there does. */
import { times3, columns3 } from "../math/matrix";
import type { Region } from "../document/air";
import { add, vector, dot, map3, AXES, type V3 } from "../math/vectors";
import { rotationOf } from "../math/rotation";
import { fromSection, toSection, type SectionFrame } from "./frame";

/** Plane of a drawing: the upright one through the ray, or a level one at a height (m). */
export type Plane = { kind: "upright" } | { kind: "level"; height: number };
/** A place in the drawing: along the level from the lens, and height (upright) or aside (level), m. */
export type Place = [s: number, t: number];

/** A point of the scene in the drawing, and how far off its plane it is, m. */
export function placeIn(f: SectionFrame, plane: Plane, p: Readonly<V3>): { at: Place; away: number } {
  const { s, y, away } = toSection(f, p);
  return plane.kind === "upright" ? { at: [s, y], away } : { at: [s, away], away: y - plane.height };
}

/** A place of the drawing in the scene, m. */
export function pointOf(f: SectionFrame, plane: Plane, [s, t]: Place, away = 0): V3 {
  return plane.kind === "upright" ? fromSection(f, s, t, away) : fromSection(f, s, plane.height + away, t);
}

/** Sides that stand for a round one. */
const SIDES = 48;

/** Corners and edges of a region as a body with flat faces; null of those that have none. */
function body(r: Region): { corners: V3[]; edges: [number, number][] } | null {
  if (!("centre" in r) || r.kind === "sphere") return null;
  const m = rotationOf(r.rotation);
  const at = (x: number, y: number, z: number): V3 => add(r.centre, times3(m, [x, y, z])); // prettier-ignore
  if (r.kind === "box") {
    const corners = Array.from({ length: 8 }, (_, i) =>
      at(((i & 1) - 0.5) * r.size[0], (((i >> 1) & 1) - 0.5) * r.size[1], ((i >> 2) - 0.5) * r.size[2]),
    );
    const edges = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((i) => [1, 2, 4].flatMap((bit) => (i & bit ? [] : [[i, i | bit] as [number, number]])));
    return { corners, edges };
  }
  const corners: V3[] = [];
  const edges: [number, number][] = [];
  for (let i = 0; i < SIDES; i++) {
    const a = (2 * Math.PI * i) / SIDES;
    const [x, z] = [r.radius * Math.cos(a), r.radius * Math.sin(a)];
    corners.push(at(x, -r.height / 2, z), r.kind === "cone" ? at(0, r.height / 2, 0) : at(x, r.height / 2, z));
    const next = (2 * (i + 1)) % (2 * SIDES);
    edges.push([2 * i, 2 * i + 1], [2 * i, next]);
    if (r.kind === "cylinder") edges.push([2 * i + 1, next + 1]);
  }
  return { corners, edges };
}

/** Outline of a region in a drawing, in order around it; empty where the plane misses it or it has no border there. */
export function regionCut(f: SectionFrame, plane: Plane, r: Region): Place[] {
  if (r.kind === "sphere") {
    const { at, away } = placeIn(f, plane, r.centre);
    const q = r.radius ** 2 - away ** 2;
    if (q <= 0) return [];
    return Array.from({ length: SIDES }, (_, i): Place => {
      const a = (2 * Math.PI * i) / SIDES;
      return [at[0] + Math.sqrt(q) * Math.cos(a), at[1] + Math.sqrt(q) * Math.sin(a)];
    });
  }
  const b = body(r);
  if (!b) return [];
  const placed = b.corners.map((c) => placeIn(f, plane, c));
  const out: Place[] = [];
  for (const [i, j] of b.edges) {
    const [p, q] = [placed[i]!, placed[j]!];
    if (p.away < 0 === q.away < 0) continue;
    const u = p.away / (p.away - q.away);
    out.push([p.at[0] + u * (q.at[0] - p.at[0]), p.at[1] + u * (q.at[1] - p.at[1])]);
  }
  if (out.length < 3) return [];
  // the cut of a convex body: its corners by their angle about the middle
  const mean = (k: 0 | 1): number => out.reduce((a, p) => a + p[k], 0) / out.length;
  const [s, t] = [mean(0), mean(1)];
  return out.sort((p, q) => Math.atan2(p[1] - t, p[0] - s) - Math.atan2(q[1] - t, q[0] - s));
}

/** Least extent that dragging leaves of a region, m. */
const MIN = 0.01;

/**
 * A region with one side dragged by `by` metres along the unit direction `d` of the scene, which points out of that side.
 * Boxes, cylinders and cones give way along the axis of their own that lies nearest to it, and their other side stays;
 * round ones change their radius about their middle.
 */
export function stretched(r: Region, d: Readonly<V3>, by: number): Region {
  if (!("centre" in r)) return r;
  const tidy = (v: number): number => Number(v.toPrecision(6));
  if (r.kind === "sphere") return { ...r, radius: Math.max(MIN, tidy(r.radius + by)) };
  const m = rotationOf(r.rotation);
  const axes = columns3(m);
  const dots = vector((k) => dot(axes[k], d));
  const k = AXES.reduce((best, i) => (Math.abs(dots[i]) > Math.abs(dots[best]) ? i : best));
  const grow = by * Math.abs(dots[k]);
  const moved = (old: number, now: number): V3 => map3(r.centre, (c, i) => tidy(c + (Math.sign(dots[k]) * axes[k][i] * (now - old)) / 2));
  if (r.kind === "box") {
    const now = Math.max(MIN, tidy(r.size[k] + grow));
    return { ...r, size: map3(r.size, (s, i) => (i === k ? now : s)), centre: moved(r.size[k], now) };
  }
  if (k !== 1) return { ...r, radius: Math.max(MIN, tidy(r.radius + grow)) };
  const now = Math.max(MIN, tidy(r.height + grow));
  return { ...r, height: now, centre: moved(r.height, now) };
}
