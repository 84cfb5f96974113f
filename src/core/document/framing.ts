/** Lenses that hold something in the frame. */
import { AXES } from "../math/vectors";
import { cameraSchema, LIMITS, type Camera } from "./schema";

/** [least x, y, z, most x, y, z] in metres. */
export type Bounds = [number, number, number, number, number, number];

const tidy = (v: number): number => Number(v.toPrecision(6));

/** Moves a lens back along its line of sight (or sets it up anew) until a sphere about the bounds fills the frame. */
export function frameAround(b: Bounds, aspect: number, camera: Camera, keepDirection = false): Camera {
  const middle = AXES.map((k) => (b[k] + b[k + 3]!) / 2);
  const radius = Math.max(1e-3, Math.hypot(b[3] - b[0], b[4] - b[1], b[5] - b[2]) / 2);
  let d = camera.target.map((t, k) => t - camera.position[k]!);
  if (!keepDirection) d = [-0.55, -0.22, -0.8];
  const l = Math.hypot(...d);
  const half = (camera.fieldOfView * Math.PI) / 360;
  const narrow = Math.min(half, Math.atan(Math.tan(half) * aspect));
  // most of a set lies well within the sphere about it
  const distance = (0.8 * radius) / Math.sin(narrow);
  return cameraSchema.parse({
    ...camera,
    position: middle.map((m, k) => tidy(m - (d[k]! / l) * distance)),
    target: middle.map(tidy),
    height: tidy(1.6 * radius * Math.max(1, 1 / aspect)),
    focus: tidy(distance),
  });
}

/** A frame of one shape with one of its sides so many pixels long, as near as a frame's limits allow. @param ratio width against height */
export function frameOfShape(ratio: number, side: "width" | "height", pixels: number): [number, number] {
  const wanted = side === "width" ? pixels : pixels * ratio;
  const most = Math.min(LIMITS.side, LIMITS.side * ratio, Math.sqrt(LIMITS.pixels * ratio));
  const width = Math.max(1, Math.floor(Math.min(wanted, most) + 1e-6));
  const exact = side === "height" && wanted <= most ? pixels : Math.round(width / ratio);
  const height = Math.max(1, Math.min(exact, LIMITS.side, Math.floor(LIMITS.pixels / width)));
  return side === "height" && wanted <= most ? [Math.max(1, Math.min(LIMITS.side, Math.round(wanted), Math.floor(LIMITS.pixels / height))), height] : [width, height]; // prettier-ignore
}
