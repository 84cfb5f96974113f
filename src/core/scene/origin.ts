/**
 * Where a scene is rendered about. Triangles, rays and film are kept in single precision, whose steps grow with the
 * distance from zero: 8 mm at 100 km. So a set that lies far from zero is rendered about a place near its middle, and
 * what leaves the renderer is in the document's coordinates again.
 */
import type { Medium, SceneDocument, SceneObject } from "../document/schema";
import { boundsOf, ownTriangles, unionOf, type SceneGeometry } from "../data/geometry";
import { dot, map3, add, sub, unit, type V3 } from "../math/vectors";
import { leastOf, middleOf, mostOf, type Box } from "../math/box";

/** Metres from zero within which a set's middle leaves it where it is: steps of 0.1 mm, as far as a large set reaches anyway. */
const NEAR = 2048;
/** Places to render about lie so many metres apart, so that most edits keep the one there is. */
const STEP = 64;

/** Place (m) to render a geometry about: zero for one that is near it. */
export function originOf(geometry: SceneGeometry): V3 {
  const own = ownTriangles(geometry);
  const boxes: Box[] = own > 0 ? [boundsOf(geometry.positions.subarray(0, 9 * own))] : [];
  for (const { places } of geometry.shared ?? []) for (const { matrix: m } of places) boxes.push([m[3], m[7], m[11], m[3], m[7], m[11]]);
  if (boxes.length === 0) return [0, 0, 0];
  const middle = middleOf(unionOf(boxes));
  if (!(Math.hypot(...middle) > NEAR)) return [0, 0, 0];
  return map3(middle, (m) => STEP * Math.round(m / STEP));
}

/** Bounds in the document's coordinates, of what is kept about an origin. */
export const boundsInWorld = (box: Readonly<Box>, origin: Readonly<V3>): Box => [...add(leastOf(box), origin), ...add(mostOf(box), origin)];

/** A document moved so that an origin comes to lie at zero. Noise fixed to the world moves along: its record takes the origin into account. */
export function aboutOrigin(doc: SceneDocument, origin: Readonly<V3>): SceneDocument {
  if (origin.every((c) => c === 0)) return doc;
  const at = (p: Readonly<V3>): V3 => sub(p, origin);
  return {
    ...doc,
    objects: doc.objects.map((o): SceneObject => ({ ...o, position: at(o.position) })),
    camera: { ...doc.camera, position: at(doc.camera.position), target: at(doc.camera.target) },
    lights: doc.lights.map((l) =>
      "target" in l ? { ...l, position: at(l.position), target: at(l.target) } : { ...l, position: at(l.position) },
    ),
    air: doc.air.map((m) => mediumAbout(m, origin)),
  };
}

function mediumAbout(m: Medium, origin: Readonly<V3>): Medium {
  const r = m.region;
  const level = (up: Readonly<V3>, height: number): number => height - dot(unit(up), origin);
  return {
    ...m,
    region: "centre" in r ? { ...r, centre: sub(r.centre, origin) } : r.kind === "layer" ? { ...r, level: level(r.up, r.level) } : r,
    height: m.height && { ...m.height, level: level(m.height.up, m.height.level) },
    grid: m.grid && { ...m.grid, position: sub(m.grid.position, origin) },
  };
}
