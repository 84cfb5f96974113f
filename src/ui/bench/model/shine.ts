/** Light that is made to come in at one place and to land on another: both are clicked in the picture. */
import type { SceneDocument } from "#core/document/schema";
import type { Film } from "#core/film/film";
import { along, sub, sunAngles, type V3 } from "#core/math/vectors";
import { distanceNear, pickPoint, rayOf } from "#core/scene/pick";
import { exitOf, inBox } from "#core/section/interior";
import type { Box } from "#core/math/box";
import type { LightId } from "./session";

const tidy = (v: number): number => Number(v.toPrecision(6));
/** A lamp stands at least so far behind the opening, as a share of the way from there to where its light lands. */
const BEHIND = 0.1;

/**
 * The place in the set that a click means as an opening. From within a room that is the place where the ray leaves the room, whatever
 * is seen beyond; elsewhere it is what the ray meets, or at the distance of what is seen nearest to it in the frame.
 * @param room that the lens stands in, m; null where it stands in none
 */
export function openingAt(doc: SceneDocument, film: Film, x: number, y: number, room: Readonly<Box> | null): V3 | null {
  const picked = pickPoint(doc, film, x, y);
  const { origin, direction } = rayOf(doc, x, y);
  if (room && inBox(room, origin)) {
    const exit = exitOf(room, origin, direction)[1];
    if (picked && picked.distance > exit) return along(origin, direction, exit);
  }
  if (picked?.point) return picked.point;
  const distance = distanceNear(film, x, y);
  return distance === null ? null : along(origin, direction, distance);
}

/** What becomes of a document whose sun, or lamp, shines from one point through another, m; or why it cannot. */
export function shone(doc: SceneDocument, light: LightId, from: Readonly<V3>, to: Readonly<V3>): SceneDocument | string {
  const way = sub(from, to);
  const length = Math.hypot(...way);
  if (!(length > 1e-6)) return "Both clicks hit the same place. Click where the light should land.";
  if (typeof light === "number") {
    const lamp = doc.lights[light];
    if (!lamp) return "There is no such light any more.";
    const distance = Math.max((1 + BEHIND) * length, Math.hypot(...sub(lamp.position, to)));
    const position = along(to, way, distance / length).map(tidy) as V3;
    const moved = { ...lamp, on: true, position, ...("target" in lamp ? { target: to.map(tidy) as V3 } : {}) };
    return { ...doc, lights: doc.lights.map((l, i) => (i === light ? moved : l)) };
  }
  const { azimuth, elevation } = sunAngles(way);
  if (elevation <= 0) return "From there it would shine upwards. Click a place that lies lower than the opening.";
  const angles = { on: true, azimuth: Number(azimuth.toFixed(2)), elevation: Number(elevation.toFixed(2)) };
  return light === "moon" ? { ...doc, moon: { ...doc.moon, ...angles } } : { ...doc, sun: { ...doc.sun, ...angles } };
}
