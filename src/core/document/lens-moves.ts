/** Moves of a lens about the set. Each gives another camera; angles in degrees, lengths in metres. */
import { add, along, cross, dot, map3, sub, unit, type V3 } from "../math/vectors";
import { cameraFrame } from "./camera";
import type { Camera } from "./schema";

/** Steepest line of sight above or below the level, degrees: at the zenith no horizon tells where up is. */
const STEEPEST = 89;
/** Shortest distance between lens and target, m. */
const MIN_REACH = 1e-3;

const radians = (degrees: number): number => (degrees * Math.PI) / 180;

/** A vector turned about a unit axis (Rodrigues). */
function turned(v: Readonly<V3>, axis: Readonly<V3>, angle: number): V3 {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const across = cross(axis, v);
  const k = dot(axis, v) * (1 - c);
  return map3(v, (x, i) => c * x + s * across[i] + k * axis[i]);
}

/** A turn of the line of sight, about the vertical and about the level line across it, that stays off the zenith. */
function turnOf(camera: Camera, aside: number, upwards: number): (v: Readonly<V3>) => V3 {
  const forward = unit(sub(camera.target, camera.position));
  const elevation = (Math.asin(Math.max(-1, Math.min(1, forward[1]))) * 180) / Math.PI;
  const tilt = Math.max(-STEEPEST, Math.min(STEEPEST, elevation + upwards)) - elevation;
  const { right } = cameraFrame({ ...camera, roll: 0 });
  return (v) => turned(turned(v, right, radians(tilt)), [0, 1, 0], radians(-aside));
}

/** Looks round from where it stands. @param aside to the right @param upwards */
export function lookRound(camera: Camera, aside: number, upwards: number): Camera {
  const turn = turnOf(camera, aside, upwards);
  return { ...camera, target: add(camera.position, turn(sub(camera.target, camera.position))) };
}

/** Goes round a point, which stays where it is in the frame. @param aside to the right @param upwards */
export function orbit(camera: Camera, pivot: Readonly<V3>, aside: number, upwards: number): Camera {
  const turn = turnOf(camera, -aside, -upwards);
  const about = (p: Readonly<V3>): V3 => add(pivot, turn(sub(p, pivot)));
  return { ...camera, position: about(camera.position), target: about(camera.target) };
}

/** Comes nearer to a point, which stays where it is in the frame. @param factor on the distance to it; of what an orthographic lens shows */
export function dolly(camera: Camera, pivot: Readonly<V3>, factor: number): Camera {
  const way = sub(camera.target, camera.position);
  const l = Math.hypot(...way);
  if (camera.kind === "orthographic") {
    // the pivot keeps its place as the frame shrinks about it
    const aside = sub(pivot, along(camera.position, unit(way), dot(sub(pivot, camera.position), unit(way))));
    const move = map3(aside, (v) => v * (1 - factor));
    const height = Math.max(1e-6, Math.min(1e6, camera.height * factor));
    return { ...camera, height, position: add(camera.position, move), target: add(camera.target, move) };
  }
  const position = map3(pivot, (p, k) => p + factor * (camera.position[k] - p));
  const reach = Math.max(MIN_REACH, l * factor);
  return { ...camera, position, target: map3(position, (p, k) => p + (reach * way[k]) / l) };
}

/** Moves lens and target alike along the frame. @param right @param up */
export function pan(camera: Camera, right: number, up: number): Camera {
  const frame = cameraFrame(camera);
  const move = map3(frame.right, (r, k) => right * r + up * frame.up[k]);
  return { ...camera, position: add(camera.position, move), target: add(camera.target, move) };
}

/** Walks on level ground, whichever way it looks. @param ahead @param right @param up */
export function walk(camera: Camera, ahead: number, right: number, up: number): Camera {
  const frame = cameraFrame({ ...camera, roll: 0 });
  // across the level line and the vertical lies the way ahead, also where the lens looks straight down
  const level = cross([0, 1, 0], frame.right);
  const move = map3(level, (l, k) => ahead * l + right * frame.right[k] + (k === 1 ? up : 0));
  return { ...camera, position: add(camera.position, move), target: add(camera.target, move) };
}

/** Rounded to what a document keeps: micrometres, and seven figures of what is large. */
export function tidyLens(camera: Camera): Camera {
  const tidy = (v: number): number => Number(Number(v.toFixed(6)).toPrecision(9));
  return {
    ...camera,
    position: map3(camera.position, tidy),
    target: map3(camera.target, tidy),
    height: Number(camera.height.toPrecision(7)),
  };
}
