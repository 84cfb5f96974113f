/** Vectors of three numbers, and directions of the sky. */

export type V3 = [number, number, number];
/** One of the axes of space, as an index that needs no check. */
export type Axis = 0 | 1 | 2;
/** The axes of space. */
export const AXES = [0, 1, 2] as const;
/** Where a box of six numbers (least x, y, z, then most) keeps the most of each axis. */
export const MOST = [3, 4, 5] as const;

/** Made axis by axis. */
export const vector = (f: (axis: Axis) => number): V3 => [f(0), f(1), f(2)];
/** Each of its three numbers by a function of it and its axis. */
export const map3 = (v: Readonly<V3>, f: (value: number, axis: Axis) => number): V3 => [f(v[0], 0), f(v[1], 1), f(v[2], 2)];
export const dot = (a: Readonly<V3>, b: Readonly<V3>): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
/** A point moved along a direction: o + t × d. */
export const along = (o: Readonly<V3>, d: Readonly<V3>, t: number): V3 => [o[0] + t * d[0], o[1] + t * d[1], o[2] + t * d[2]];

export const add = (a: Readonly<V3>, b: Readonly<V3>): V3 => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const sub = (a: Readonly<V3>, b: Readonly<V3>): V3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const cross = (a: Readonly<V3>, b: Readonly<V3>): V3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
export const unit = (a: Readonly<V3>): V3 => {
  const l = Math.hypot(...a);
  return [a[0] / l, a[1] / l, a[2] / l];
};

/** Two unit vectors across a unit axis, turned about it by degrees. The first is level; along a vertical axis the second is towards -z. */
export function across(axis: V3, turn = 0): [V3, V3] {
  const reference: V3 = Math.abs(axis[1]) > 0.99999 ? [0, 0, -1] : [0, 1, 0];
  const u0 = unit(cross(axis, reference));
  const v0 = cross(u0, axis);
  const a = (turn * Math.PI) / 180;
  const [c, s] = [Math.cos(a), Math.sin(a)];
  const u = map3(u0, (x, i) => c * x + s * v0[i]);
  return [u, cross(u, axis)];
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
