/** How lens and lamps stand to the set: in a room or in a solid, before it or cut off from it. */
import { dot, sub, unit, type V3 } from "../math/vectors";
import type { Light, SceneDocument } from "../document/schema";
import { AROUND, inBox, spread, type Interior, type Look } from "../section/interior";

export interface RoomFacts {
  /** The room that the lens stands in. */
  room: Interior | null;
  /** Whether the lens is closed in, by a solid or by single sheets, and no lamp with it. */
  inSolid: boolean;
  /** Lamps that shine from outside the lens's room and reach no place in it; those that meet neither surface nor air. */
  outside: number[];
  onNothing: number[];
}

/** Lamps that are looked at. One takes some 160 rays at most, one that seems to shine on nothing four thousand. */
const MAX_LAMPS = 200;
/** Places of the room that a lamp is looked from. */
const PLACES = 96;
/** Directions of a lamp; those in which one that meets nothing is looked at more closely; and those along which air is looked for. */
const [DIRECTIONS, CLOSELY, IN_AIR] = [64, 4096, 12];
/**
 * Crossings that are counted along a ray, and share of directions that must have an odd number of them inside a solid: where solids
 * touch, two of them count as one.
 */
const [MAX_CROSSINGS, ODD] = [24, 0.6];

const isLit = (l: Light): boolean => l.on && l.intensity > 0;
const axisOf = (l: Light): V3 | null => ("target" in l ? unit(sub(l.target, l.position)) : null);

/** Directions in which a lamp gives light. */
function shiningTowards(l: Light, count: number): V3[] {
  const all = spread(count);
  const axis = axisOf(l);
  if (!axis) return all;
  if ("bothSides" in l && l.bothSides) return all;
  const edge = l.kind === "spot" ? Math.cos((l.cone * Math.PI) / 360) : 0;
  return [axis, ...all.filter((d) => dot(d, axis) > edge)];
}

function meetsNothing(l: Light, look: Look, airTowards: (from: Readonly<V3>, direction: Readonly<V3>) => number): boolean {
  const nothing = (directions: readonly V3[]): boolean =>
    Array.prototype.every.call(look(l.position, directions), (t: number) => t === Infinity);
  const some = shiningTowards(l, DIRECTIONS);
  if (!nothing(some) || some.slice(0, IN_AIR).some((d) => airTowards(l.position, d) < 1)) return false;
  return nothing(shiningTowards(l, CLOSELY));
}

/** Whether a point lies within a solid: most rays from it cross surfaces an odd number of times. */
function inSolid(look: Look, from: Readonly<V3>, size: number): boolean {
  const nudge = 1e-5 * size;
  let odd = 0;
  for (const d of AROUND) {
    let at = from;
    let crossings = 0;
    for (; crossings < MAX_CROSSINGS; crossings++) {
      const t = look(at, [d])[0]!;
      if (t === Infinity) break;
      at = [at[0] + (t + nudge) * d[0], at[1] + (t + nudge) * d[1], at[2] + (t + nudge) * d[2]];
    }
    if (crossings % 2 === 1) odd++;
  }
  return odd >= ODD * AROUND.length;
}

/**
 * @param look into the document's set @param room that the lens stands in @param airTowards share of light that the air leaves from a
 * point in a direction @param size of the set, m
 */
export function roomFacts(
  doc: SceneDocument,
  look: Look,
  room: Interior | null,
  airTowards: (from: Readonly<V3>, direction: Readonly<V3>) => number,
  size: number,
): RoomFacts {
  const lens = doc.camera.position;
  const [outside, onNothing]: [number[], number[]] = [[], []];
  const lamps = doc.lights.slice(0, MAX_LAMPS);
  const sees = (from: Readonly<V3>, to: Readonly<V3>): boolean => {
    const way = sub(to, from);
    const length = Math.hypot(...way);
    return length < 1e-9 || look(from, [unit(way)])[0]! > 0.999 * length;
  };
  const step = room ? Math.max(1, Math.floor(room.places.length / PLACES)) : 1;
  const places = room ? room.places.filter((_, i) => i % step === 0) : [];
  lamps.forEach((l, i) => {
    if (!isLit(l)) return;
    // within the box a lamp may hang in a bulb or a shade, which hides it from every place: only what lies outside is doubted
    if (room && !inBox(room.box, l.position) && !places.some((p) => sees(p, l.position))) outside.push(i);
    else if (meetsNothing(l, look, airTowards)) onNothing.push(i);
  });
  const lit = lamps.some((l) => isLit(l) && sees(lens, l.position));
  return { room, inSolid: !lit && inSolid(look, lens, Math.max(size, 1e-3)), outside, onNothing };
}
