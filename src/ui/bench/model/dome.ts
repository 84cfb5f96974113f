/** The sky unrolled on a disk: the zenith in its middle, the horizon as a ring, what the lens looks at above it. */
import { sunAngles, sunDirection, type V3 } from "#core/math/vectors";
import { cameraFrame, rayThrough } from "#core/document/camera";
import type { SceneDocument } from "#core/document/schema";

/** Lowest elevation that it shows, degrees. */
export const LOWEST = -12;
/** Radius of the horizon, where that of the disk is 1. */
export const HORIZON = 90 / (90 - LOWEST);
/** Columns and rows that the hidden part is looked at in. */
export const DOME_SIDE = 56;

export interface Angles {
  /** degrees, from -z towards +x */
  azimuth: number;
  /** degrees above the horizon */
  elevation: number;
}

/** Azimuth (degrees) that lies upwards on the disk: that of the lens; of what is above it where it looks straight up or down. */
export function headingOf(doc: SceneDocument): number {
  const { forward, up } = cameraFrame(doc.camera);
  const flat = Math.hypot(forward[0], forward[2]) > 1e-3 ? forward : up;
  return sunAngles([flat[0], 0, flat[2]]).azimuth;
}

/** Place on the disk, from -1 to 1 to the right and downwards; what is lower than it shows lies on its rim. */
export function placeOnDome({ azimuth, elevation }: Angles, heading: number): [number, number] {
  const r = Math.min(1, (90 - elevation) / (90 - LOWEST));
  const a = ((azimuth - heading) * Math.PI) / 180;
  return [r * Math.sin(a), -r * Math.cos(a)];
}

/** Angles of a place on the disk, azimuth from -180 to 180; beyond its rim those of the rim. */
export function anglesOnDome([x, y]: readonly [number, number], heading: number): Angles {
  const r = Math.min(1, Math.hypot(x, y));
  const azimuth = heading + (Math.atan2(x, -y) * 180) / Math.PI;
  return { azimuth: azimuth - 360 * Math.round(azimuth / 360), elevation: 90 - r * (90 - LOWEST) };
}

/** Directions of the disk's squares, row by row; null outside its horizon. */
export function domeDirections(heading: number): (V3 | null)[] {
  return Array.from({ length: DOME_SIDE ** 2 }, (_, i) => {
    const at = (k: number): number => (2 * (k + 0.5)) / DOME_SIDE - 1;
    const [x, y] = [at(i % DOME_SIDE), at(Math.floor(i / DOME_SIDE))];
    if (Math.hypot(x, y) > HORIZON) return null;
    const { azimuth, elevation } = anglesOnDome([x, y], heading);
    return sunDirection(azimuth, elevation);
  });
}

/** Points along each side of the frame's border. */
const STEPS = 12;
/** The border of the frame on the disk, closed. */
export function frameOnDome(doc: SceneDocument, heading: number): [number, number][] {
  const sides = [[0, 0, 1, 0], [1, 0, 0, 1], [1, 1, -1, 0], [0, 1, 0, -1]] as const; // prettier-ignore
  return sides.flatMap(([x, y, dx, dy]) =>
    Array.from({ length: STEPS }, (_, i) => placeOnDome(sunAngles(rayThrough(doc, x + (dx * i) / STEPS, y + (dy * i) / STEPS)), heading)),
  );
}
