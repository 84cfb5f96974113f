/** A lamp's gobo in space: where it stands, and the knob on the rim of its light by which it is turned. */
import type { Light, SceneDocument } from "#core/document/schema";
import { along, dot, sub, across, sunDirection, unit, type V3 } from "#core/math/vectors";

export interface GoboKnob {
  /** Middle of the gobo itself, on the lamp's axis. */
  middle: V3;
  /** Middle of its light where the lamp is aimed, and half the way across there. */
  end: V3;
  half: number;
  /** Half the way across the gobo itself. */
  own: number;
  /** On the rim of its light, in the direction of the pattern's own right. */
  rim: V3;
  /** Across the axis: the pattern's right and up, as turned. */
  right: V3;
  up: V3;
}

/** Handles of a light's gobo; null where it has none. */
export function goboKnob(light: Light | undefined): GoboKnob | null {
  if (!light || !("gobo" in light) || !light.gobo) return null;
  const g = light.gobo;
  const d = sub(light.target, light.position);
  const axis = unit(d);
  const [right, up] = across(axis, light.roll + g.rotation);
  const spread = light.kind === "spot" ? Math.tan((Math.min(light.cone, 170) * Math.PI) / 360) : null;
  const length = Math.hypot(...d);
  const end = along(light.position, axis, length);
  // an area light throws each of its points' own image, of the gobo's size only beside it
  const half = spread === null ? g.size / 2 : length * spread;
  const own = spread === null ? g.size / 2 : g.distance * spread;
  const middle = along(light.position, axis, g.distance);
  const from = spread === null ? middle : end;
  return { middle, end, half, own, rim: along(from, right, half), right, up };
}

/** Handles of the sun's gobo, which lies everywhere: drawn about what the lens is aimed at. Null where it has none. */
export function sunGoboKnob({ sun, camera }: SceneDocument): GoboKnob | null {
  if (!sun.on || !sun.gobo) return null;
  const [right, up] = across(sunDirection(sun.azimuth, sun.elevation), sun.gobo.rotation);
  const half = sun.gobo.size / 2;
  return { middle: camera.target, end: camera.target, half, own: half, rim: along(camera.target, right, half), right, up };
}

/** The document whose sun's gobo is turned so that its right points towards a point. */
export function sunGoboTurnedTo(doc: SceneDocument, p: Readonly<V3>): SceneDocument {
  const { sun, camera } = doc;
  if (!sun.gobo) return doc;
  const rotation = turnTowards(across(sunDirection(sun.azimuth, sun.elevation)), sub(p, camera.target)); // prettier-ignore
  return rotation === null ? doc : { ...doc, sun: { ...sun, gobo: { ...sun.gobo, rotation } } };
}

/** Degrees from the first of two axes towards a direction; null along neither. */
function turnTowards(axes: readonly [V3, V3], d: Readonly<V3>): number | null {
  const [x, y] = [dot(axes[0], d), dot(axes[1], d)];
  return Math.hypot(x, y) < 1e-6 ? null : Number(((Math.atan2(y, x) * 180) / Math.PI).toFixed(1)) + 0;
}

const MIN = 1e-3;

/** A light whose gobo stands at another distance, or is turned so that its right points towards a point. */
export function goboTurnedTo(light: Light, what: "distance" | "turn", p: Readonly<V3>): Light {
  const knob = goboKnob(light);
  if (!knob || !("gobo" in light) || !light.gobo) return light;
  const axis = unit(sub(light.target, light.position));
  const d = sub(p, light.position);
  if (what === "distance") {
    const distance = Math.max(MIN, Number(dot(d, axis).toPrecision(4)));
    return { ...light, gobo: { ...light.gobo, distance } };
  }
  const rotation = turnTowards(across(axis, light.roll), d);
  return rotation === null ? light : { ...light, gobo: { ...light.gobo, rotation } };
}
