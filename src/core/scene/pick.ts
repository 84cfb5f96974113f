/** From places in the frame to places in the scene and back. */
import type { SceneDocument } from "../document/schema";
import { placeOnFilm, sampledNear, scalarAt, type Film } from "../film/film";
import { F_COUNT, F_HITS } from "../layout/layout";
import { cameraFrame, rayThrough } from "../document/camera";
import { along, dot, map3, sub, type V3 } from "../math/vectors";

/** The lens's ray through a point of the frame (shares from the upper left): origin (m) and unit direction. */
export function rayOf(doc: SceneDocument, x: number, y: number): { origin: V3; direction: V3 } {
  const { camera, film } = doc;
  if (camera.kind === "perspective") return { origin: [...camera.position], direction: rayThrough(doc, x, y) };
  const { right, up, forward } = cameraFrame(camera);
  const hy = camera.height / 2,
    hx = (hy * film.size[0]) / film.size[1];
  const [a, b] = [(2 * x - 1) * hx, (1 - 2 * y) * hy];
  return { origin: map3(camera.position, (p, k) => p + a * right[k] + b * up[k]), direction: forward };
}

/** Where a point appears in the frame (shares) and its depth along the lens axis (m); null behind a perspective lens. */
export function projectPoint(doc: SceneDocument, p: Readonly<V3>): { x: number; y: number; depth: number } | null {
  const { camera, film } = doc;
  const { right, up, forward } = cameraFrame(camera);
  const d = sub(p, camera.position);
  const depth = dot(d, forward);
  const perspective = camera.kind === "perspective";
  if (perspective && depth <= 1e-6) return null;
  const hy = perspective ? Math.tan((camera.fieldOfView * Math.PI) / 360) * depth : camera.height / 2;
  const hx = (hy * film.size[0]) / film.size[1];
  return { x: 0.5 + dot(d, right) / hx / 2, y: 0.5 - dot(d, up) / hy / 2, depth };
}

export interface Picked {
  /** Metres along the ray; Infinity for the background. */
  distance: number;
  /** Null for the background. */
  point: V3 | null;
}

/** What the film saw at a place of the frame; null where it saw nothing yet. */
export function pickPoint(doc: SceneDocument, film: Film, x: number, y: number): Picked | null {
  const best = sampledNear(film, x, y);
  if (best === null) return null;
  // a border pixel saw both: its mean distance is on neither, so that few hits count as background
  const hits = film.data[best + F_HITS]! / film.data[best + F_COUNT]!;
  const distance = hits < 0.5 ? Infinity : scalarAt(film.data, best, "distance");
  if (!Number.isFinite(distance)) return { distance: Infinity, point: null };
  const { origin, direction } = rayOf(doc, x, y);
  return { distance, point: along(origin, direction, distance) };
}

/** Distance (m) of the thing that is seen nearest to a place of the frame (shares); null where the frame shows none. */
export function distanceNear(film: Film, x: number, y: number): number | null {
  const [px, py] = placeOnFilm(film, x, y);
  let best: number | null = null;
  let nearest = Infinity;
  for (let j = 0; j < film.height; j++)
    for (let i = 0; i < film.width; i++) {
      const d = (i + 0.5 - px) ** 2 + (j + 0.5 - py) ** 2;
      const at = (j * film.width + i) * film.stride;
      if (d >= nearest || film.data[at + F_HITS]! < 0.5 * film.data[at + F_COUNT]! || film.data[at + F_HITS]! <= 0) continue;
      nearest = d;
      best = scalarAt(film.data, at, "distance");
    }
  return best;
}

/**
 * Distances (m) along the ray in the middle of the frame, of the farthest thing in sight, and of what half of the frame's things
 * are nearer than; null where nothing is there or seen.
 */
export function reachOf(film: Film): { subject: number | null; farthest: number | null; median: number | null } {
  const [x0, y0, x1, y1] = film.crop;
  let farthest = 0;
  const some: number[] = [];
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const at = (y * film.width + x) * film.stride;
      if (film.data[at + F_HITS]! <= 0) continue;
      const distance = scalarAt(film.data, at, "distance");
      farthest = Math.max(farthest, distance);
      if ((x & 3) === 0 && (y & 3) === 0) some.push(distance);
    }
  some.sort((a, b) => a - b);
  const [cx, cy] = placeOnFilm(film, 0.5, 0.5).map(Math.floor) as [number, number];
  const middle = cx >= 0 && cy >= 0 && cx < film.width && cy < film.height ? (cy * film.width + cx) * film.stride : null;
  const subject = middle !== null && film.data[middle + F_HITS]! > 0 ? scalarAt(film.data, middle, "distance") : null;
  return { subject, farthest: farthest > 0 ? farthest : null, median: some[some.length >> 1] ?? null };
}

/**
 * How far (m) from a point along a unit direction lies what is nearest to the lens's ray through a place of the frame (shares);
 * null where the direction runs towards the lens, so that a place says nothing about it.
 */
export function alongAxis(doc: SceneDocument, x: number, y: number, at: Readonly<V3>, direction: Readonly<V3>): number | null {
  const ray = rayOf(doc, x, y);
  const w = sub(at, ray.origin);
  const b = dot(direction, ray.direction);
  if (1 - b * b < 0.003) return null;
  return (b * dot(ray.direction, w) - dot(direction, w)) / (1 - b * b);
}

/** Where the lens's ray through a place of the frame (shares) crosses the plane across the lens axis that a point (m) lies in. */
export function acrossFrame(doc: SceneDocument, x: number, y: number, point: Readonly<V3>): V3 | null {
  const { forward } = cameraFrame(doc.camera);
  const { origin, direction } = rayOf(doc, x, y);
  const depth = dot(forward, sub(point, origin));
  const speed = dot(forward, direction);
  if (depth <= 1e-6 || speed <= 1e-6) return null;
  return map3(origin, (o, k) => o + (direction[k] * depth) / speed);
}
