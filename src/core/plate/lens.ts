/** The lens of a picture that was made elsewhere: its angle, and how it stands over the ground. Lens space: x right, y up, −z forward. */
import { dot, unit, type V3 } from "../math/vectors";

/** A lens without a place: what directions its pixels look in. */
export interface PlateLens {
  /** Vertical, radians. */
  fieldOfView: number;
  width: number;
  height: number;
}

/** Vertical field of view of a sensor and a focal length (both mm), of a frame of so many pixels. @param across of the sensor */
export function fieldOfViewOf(across: number, focal: number, width: number, height: number): number {
  return 2 * Math.atan((across * height) / (2 * focal * width));
}

/** Direction through a point of the frame (shares from the upper left), of length 1 along the axis: (x, y, −1). */
export function axisDirection({ fieldOfView, width, height }: PlateLens, x: number, y: number): V3 {
  const hy = Math.tan(fieldOfView / 2);
  return [((2 * x - 1) * hy * width) / height, (1 - 2 * y) * hy, -1];
}

/** How long a ray is for a metre along the axis, by pixel. */
export function perAxis({ fieldOfView, width, height }: PlateLens): (x: number, y: number) => number {
  const hy = Math.tan(fieldOfView / 2),
    hx = (hy * width) / height;
  return (x, y) => {
    const a = ((2 * (x + 0.5)) / width - 1) * hx,
      b = (1 - (2 * (y + 0.5)) / height) * hy;
    return Math.sqrt(1 + a * a + b * b);
  };
}

/** How a lens is held, of the direction that is up in its space: radians that it looks up by, and that it leans to its right by. */
export function heldBy(up: V3): { tilt: number; roll: number } {
  const [x, y, z] = unit(up);
  return { tilt: Math.asin(Math.max(-1, Math.min(1, -z))), roll: Math.atan2(-x, y) };
}

/** Up in the space of a lens that is held so: the other way about. */
export function upOf({ tilt, roll }: { tilt: number; roll: number }): V3 {
  return [-Math.sin(roll) * Math.cos(tilt), Math.cos(roll) * Math.cos(tilt), -Math.sin(tilt)];
}

/** Where the horizon lies at the left and the right end of the frame, shares from the top; null where it is not upright enough to say. */
export function horizonOf(lens: PlateLens, up: V3): { left: number; right: number } | null {
  if (Math.abs(up[1]) < 1e-3) return null;
  const hy = Math.tan(lens.fieldOfView / 2);
  const at = (x: number): number => {
    const [dx] = axisDirection(lens, x, 0.5);
    // x·ux + y·uy − uz = 0
    const y = (up[2] - dx * up[0]) / up[1];
    return (1 - y / hy) / 2;
  };
  return { left: at(0), right: at(1) };
}

/** Up of a lens whose horizon goes through two points of the frame (shares). @throws RangeError where they are the same */
export function upByHorizon(lens: PlateLens, a: readonly [number, number], b: readonly [number, number]): V3 {
  const [p, q] = [axisDirection(lens, ...a), axisDirection(lens, ...b)];
  const n: V3 = [p[1] * q[2] - p[2] * q[1], p[2] * q[0] - p[0] * q[2], p[0] * q[1] - p[1] * q[0]];
  if (Math.hypot(...n) < 1e-9) throw new RangeError("the horizon needs two points");
  const up = unit(n);
  // the side that is up in the picture
  return dot(up, [0, 1, 0]) < 0 ? [-up[0], -up[1], -up[2]] : up;
}
