/** The lens that a file says it was made with: by its scene document, by matrices, or by focal length and sensor (attributes of OpenEXR). */
import { documentOf, type Frame } from "../formats/layers";
import { cross, dot, sub, sunAngles, unit, type V3 } from "../math/vectors";
import { inverse3, times3, type Matrix3 } from "../math/matrix";

/** How a lens stands in the world (y up), degrees and m, as a plate has it. */
export interface FoundLens {
  fieldOfView: number;
  /** Null where the file says the angle alone. */
  stand: { position: V3; heading: number; tilt: number; roll: number } | null;
  by: "document" | "matrix" | "focal length";
}

const DEGREES = 180 / Math.PI;
const tidy = (v: number): number => Number(v.toFixed(6)) + 0;

/** Heading, tilt and roll of a lens by the directions ahead and up. */
export function heldInWorld(position: Readonly<V3>, ahead: Readonly<V3>, up: Readonly<V3>): NonNullable<FoundLens["stand"]> {
  const { azimuth, elevation } = sunAngles([...ahead]);
  // roll: from the upright that a level lens would have
  const level = unit(cross(ahead, Math.abs(ahead[1]) > 0.99999 ? [0, 0, -1] : [0, 1, 0]));
  const upright = cross(level, ahead);
  const roll = Math.atan2(-dot(up, level), dot(up, upright)) * DEGREES;
  return { position: position.map(tidy) as V3, heading: tidy(azimuth), tilt: tidy(elevation), roll: tidy(roll) };
}

/** The lens of a picture, as far as its file says it. */
export function lensOfFile(frame: Frame): FoundLens | null {
  const camera = documentOf(frame)?.camera;
  if (camera?.kind === "perspective") {
    const ahead = unit(sub(camera.target, camera.position));
    const { azimuth, elevation } = sunAngles(ahead);
    return {
      fieldOfView: camera.fieldOfView,
      stand: { position: [...camera.position], heading: tidy(azimuth), tilt: tidy(elevation), roll: camera.roll },
      by: "document",
    };
  }
  const numbers = frame.numbers ?? {};
  return byMatrix(numbers["worldToNDC"]) ?? byFocalLength(numbers, frame);
}

/**
 * A matrix for row vectors to the frame: columns 0, 1 and 3 give x, y and depth. The lens is where all three vanish; it looks along where
 * depth grows. Frames from 0 to 1 have the axis at ½, those from −1 to 1 at 0.
 */
function byMatrix(m: readonly number[] | undefined): FoundLens | null {
  if (m?.length !== 16) return null;
  const column = (k: number): V3 => [m[k]!, m[4 + k]!, m[8 + k]!];
  const [x, y, w] = [column(0), column(1), column(3)];
  const size = Math.hypot(...w);
  if (!(size > 1e-9) || !m.every(Number.isFinite)) return null;
  const rows: Matrix3 = [...x, ...y, ...w];
  if (!(Math.abs(dot(x, cross(y, w))) > 1e-12)) return null;
  const position = times3(inverse3(rows), [-m[12]!, -m[13]!, -m[15]!]);
  const ahead = unit(w);
  const aside = (v: V3): V3 => sub(v, ahead.map((a) => a * dot(v, ahead)) as V3);
  const right = unit(aside(x));
  const middle = dot(y, ahead) / size;
  const half = Math.abs(middle - 0.5) < 0.25 || Math.abs(middle + 0.5) < 0.25 ? 0.5 : 1;
  const tangent = (half * size) / Math.hypot(...aside(y));
  const fieldOfView = tidy(2 * Math.atan(tangent) * DEGREES);
  if (!(fieldOfView >= 0.1 && fieldOfView <= 170)) return null;
  return { fieldOfView, stand: heldInWorld(position, ahead, cross(right, ahead)), by: "matrix" };
}

/** Attributes that give a focal length, mm, the exact ones first. */
const FOCAL = ["pinholeFocalLength", "effectiveFocalLength", "nominalFocalLength"] as const;

function byFocalLength(numbers: Readonly<Record<string, readonly number[]>>, { width, height }: Frame): FoundLens | null {
  const focal = FOCAL.map((name) => numbers[name]?.[0]).find((v) => v !== undefined && v > 0);
  const across = numbers["sensorOverallDimensions"]?.[0];
  if (focal === undefined || !(across !== undefined && across > 0)) return null;
  const fieldOfView = tidy(2 * Math.atan((across * height) / (2 * focal * width)) * DEGREES);
  return fieldOfView >= 0.1 && fieldOfView <= 170 ? { fieldOfView, stand: null, by: "focal length" } : null;
}
