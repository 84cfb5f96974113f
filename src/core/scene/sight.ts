/** Where new things appear: on the surface that is looked at, lamps above it and inside the room, shapes on the ground, regions about the view. */
import { type Box } from "../math/box";
import { AXES, map3, MOST, vector, type V3 } from "../math/vectors";
import type { SceneDocument } from "../document/schema";
import { sampledNear, type Film } from "../film/film";
import { F_HITS, F_NORMAL } from "../layout/layout";
import { pickPoint, rayOf } from "./pick";

/** What is known of what one looks at. Lengths in metres. */
export interface Sight {
  /** The surface in the middle of the frame; null where it shows the background, or nothing yet. */
  middle: V3 | null;
  /** The ground nearest to it in the frame: the surface itself where that faces up, else what does below it; null where none is in sight. */
  ground: V3 | null;
  /** The inside of the room that the lens stands in, if it stands in one. */
  room: Readonly<Box> | null;
  /** About the set; null for an empty one. */
  bounds: Readonly<Box> | null;
}

/** From this share of the way up on, a surface can be stood upon. */
const UPRIGHT = 0.7;
/** Places down the middle of the frame where ground is looked for. */
const LOOKS = 24;
/** Share of a room's or set's size that lamps keep away from its borders. */
const CLEAR = 0.12;

/** What a film of a document shows in its middle. @param film null before anything is rendered */
export function sightOf(doc: SceneDocument, film: Film | null, around: Pick<Sight, "room" | "bounds">): Sight {
  const at = (y: number): V3 | null => (film ? (pickPoint(doc, film, 0.5, y)?.point ?? null) : null);
  const facesUp = (y: number): boolean => {
    const pixel = film ? sampledNear(film, 0.5, y) : null;
    if (pixel === null) return false;
    const hits = film!.data[pixel + F_HITS]!;
    return hits > 0 && film!.data[pixel + F_NORMAL + 1]! / hits >= UPRIGHT;
  };
  let ground: V3 | null = null;
  for (let i = 0; i <= LOOKS && !ground; i++) {
    const y = 0.5 + (0.49 * i) / LOOKS;
    if (facesUp(y)) ground = at(y);
  }
  return { middle: at(0.5), ground, ...around };
}

const clamp = (v: number, least: number, most: number): number => Math.max(least, Math.min(most, v));
/** A point rounded to a thousandth of the distance it is seen from, wherever it lies. */
const tidy = (p: Readonly<V3>, reach: number): V3 => {
  const decimals = clamp(3 - Math.floor(Math.log10(Math.max(reach, 1e-6))), 0, 9);
  return map3(p, (v) => Number(v.toFixed(decimals)));
};

/** The point that is looked at: the surface in the middle, else the lens's target, kept in the room or set. */
function lookedAt(doc: SceneDocument, sight: Sight): V3 {
  if (sight.middle) return sight.middle;
  const within = sight.room ?? sight.bounds;
  return within ? map3(doc.camera.target, (v, k) => clamp(v, within[k], within[MOST[k]])) : doc.camera.target;
}

/** Half of the frame's height at a distance, m. */
function halfHeight({ camera }: SceneDocument, distance: number): number {
  return camera.kind === "perspective" ? distance * Math.tan((camera.fieldOfView * Math.PI) / 360) : camera.height / 2;
}

export interface LampPlace {
  position: V3;
  target: V3;
  /** From the lens to what it looks at, m. */
  reach: number;
}

/**
 * Where a new lamp hangs: before and above what is looked at, in the upper half of the frame, below the ceiling and inside the room; out
 * of doors above the ground, over the set; aimed at what is looked at.
 */
export function lampPlace(doc: SceneDocument, sight: Sight): LampPlace {
  const target = lookedAt(doc, sight);
  const { origin } = rayOf(doc, 0.5, 0.5);
  const reach = Math.max(0.01, Math.hypot(...map3(target, (v, k) => v - origin[k])));
  const before = map3(target, (v, k) => v + 0.25 * (origin[k] - v));
  const wanted: V3 = [before[0], before[1] + 0.5 * halfHeight(doc, 0.75 * reach), before[2]];
  const within = sight.room ?? sight.bounds;
  // out of doors nothing is above: only the ground bounds how low it hangs
  const floor = (sight.ground?.[1] ?? sight.bounds?.[1] ?? -Infinity) + 0.1 * reach;
  const position = map3(wanted, (v, k) => {
    if (k === 1 && !sight.room) return Math.max(v, floor);
    if (!within) return v;
    const gap = CLEAR * (within[MOST[k]] - within[k]);
    return clamp(v, within[k] + gap, within[MOST[k]] - gap);
  });
  return { position: tidy(position, reach), target: tidy(target, reach), reach };
}

/** Where a new shape stands, the middle of its underside, and about how large it is, m: a quarter of the frame's height there. */
export function shapePlace(doc: SceneDocument, sight: Sight): { at: V3; size: number } {
  const { origin } = rayOf(doc, 0.5, 0.5);
  const looked = lookedAt(doc, sight);
  const at: V3 = sight.ground ?? [looked[0], sight.room?.[1] ?? sight.bounds?.[1] ?? 0, looked[2]];
  const reach = Math.hypot(...map3(at, (v, k) => v - origin[k]));
  const most = sight.room ? 0.4 * Math.min(...AXES.map((k) => sight.room![MOST[k]] - sight.room![k])) : Infinity;
  return { at: tidy(at, reach), size: Math.max(1e-3, Math.min(most, 0.5 * halfHeight(doc, reach))) };
}

/** What a new region fills: the room; in the open, the ground from the lens to what is looked at and as far beyond its middle to both sides. */
export function regionBox(doc: SceneDocument, sight: Sight): Box {
  if (sight.room) return [...sight.room];
  const target = lookedAt(doc, sight);
  const { origin } = rayOf(doc, 0.5, 0.5);
  const floor = sight.ground?.[1] ?? sight.bounds?.[1] ?? Math.min(0, origin[1]);
  const across = Math.max(0.1, Math.hypot(target[0] - origin[0], target[2] - origin[2]));
  const height = Math.max(0.1, across / 3, 1.2 * (origin[1] - floor));
  const middle = vector((k) => (target[k] + origin[k]) / 2);
  return [middle[0] - across / 2, floor, middle[2] - across / 2, middle[0] + across / 2, floor + height, middle[2] + across / 2];
}
