/** Directions of lens and sun, and where they appear in the frame. */
import type { SceneDocument } from "../document/schema";

export type V3 = [number, number, number];
export const sub = (a: V3, b: V3): V3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const cross = (a: V3, b: V3): V3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
export const unit = (a: readonly number[]): V3 => {
  const l = Math.hypot(...a);
  return [a[0]! / l, a[1]! / l, a[2]! / l];
};

/** Two unit vectors across a unit axis, turned about it by degrees. The first is level; along a vertical axis the second is towards -z. */
export function across(axis: V3, turn = 0): [V3, V3] {
  const reference: V3 = Math.abs(axis[1]) > 0.99999 ? [0, 0, -1] : [0, 1, 0];
  const u0 = unit(cross(axis, reference));
  const v0 = cross(u0, axis);
  const a = (turn * Math.PI) / 180;
  const [c, s] = [Math.cos(a), Math.sin(a)];
  const u = u0.map((x, i) => c * x + s * v0[i]!) as V3;
  return [u, cross(u, axis)];
}

/** Lens frame: unit right, up and forward vectors of a camera. */
export function cameraFrame(camera: SceneDocument["camera"]): { right: V3; up: V3; forward: V3 } {
  const forward = unit(sub(camera.target, camera.position));
  const [right, up] = across(forward, camera.roll);
  return { right, up, forward };
}

/** Unit vector towards the sun. Azimuth 0 looks along -z, 90 along +x. */
export function sunDirection(azimuth: number, elevation: number): V3 {
  const [a, e] = [(azimuth * Math.PI) / 180, (elevation * Math.PI) / 180];
  return [Math.cos(e) * Math.sin(a), Math.sin(e), -Math.cos(e) * Math.cos(a)];
}

/** Azimuth and elevation (degrees) of a direction; inverse of {@link sunDirection}. */
export function sunAngles([x, y, z]: V3): { azimuth: number; elevation: number } {
  const l = Math.hypot(x, y, z);
  return { azimuth: (Math.atan2(x, -z) * 180) / Math.PI, elevation: (Math.asin(Math.max(-1, Math.min(1, y / l))) * 180) / Math.PI };
}

/** Unit ray direction through a point of the frame (shares of width and height from the upper left); perspective. */
export function rayThrough(doc: SceneDocument, x: number, y: number): V3 {
  const { right, up, forward } = cameraFrame(doc.camera);
  if (doc.camera.kind === "orthographic") return forward;
  const hy = Math.tan((doc.camera.fieldOfView * Math.PI) / 360);
  const hx = (hy * doc.film.size[0]) / doc.film.size[1];
  const [a, b] = [(2 * x - 1) * hx, (1 - 2 * y) * hy];
  return unit([0, 1, 2].map((i) => forward[i]! + a * right[i]! + b * up[i]!) as V3);
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
