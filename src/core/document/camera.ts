/** The lens's frame, and where directions appear in the picture. */
import { map3, across, sub, unit, type V3 } from "../math/vectors";
import type { SceneDocument } from "./schema";

/** Lens frame: unit right, up and forward vectors of a camera. */
export function cameraFrame(camera: SceneDocument["camera"]): { right: V3; up: V3; forward: V3 } {
  const forward = unit(sub(camera.target, camera.position));
  const [right, up] = across(forward, camera.roll);
  return { right, up, forward };
}

/** Unit ray direction through a point of the frame (shares of width and height from the upper left); perspective. */
export function rayThrough(doc: SceneDocument, x: number, y: number): V3 {
  const { right, up, forward } = cameraFrame(doc.camera);
  if (doc.camera.kind === "orthographic") return forward;
  const hy = Math.tan((doc.camera.fieldOfView * Math.PI) / 360);
  const hx = (hy * doc.film.size[0]) / doc.film.size[1];
  const [a, b] = [(2 * x - 1) * hx, (1 - 2 * y) * hy];
  return unit(map3(forward, (f, i) => f + a * right[i] + b * up[i]));
}

/** Where a direction at infinity appears in the frame (shares), or null when it is behind the lens or the lens is orthographic. */
export function frameOf(doc: SceneDocument, d: V3): { x: number; y: number } | null {
  if (doc.camera.kind === "orthographic") return null;
  const { right, up, forward } = cameraFrame(doc.camera);
  const dot = (a: V3): number => a[0] * d[0] + a[1] * d[1] + a[2] * d[2];
  const z = dot(forward);
  if (z <= 1e-6) return null;
  const hy = Math.tan((doc.camera.fieldOfView * Math.PI) / 360);
  const hx = (hy * doc.film.size[0]) / doc.film.size[1];
  return { x: 0.5 + dot(right) / z / hx / 2, y: 0.5 - dot(up) / z / hy / 2 };
}
