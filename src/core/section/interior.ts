/**
 * The inside of a set: the room that a point lies in, found by flooding a coarse grid from it. A place is inside where most
 * directions meet the set, so that the flood stops at windows, doors and arcades by itself.
 */
import { middleOf, sizeOf, type Box } from "../math/box";
import { AXES, along, dot, map3, MOST, sub, unit, vector, type Axis, type V3 } from "../math/vectors";

/** Distances (m) at which rays from a point along unit directions meet the set; Infinity where they meet nothing. */
export type Look = (from: Readonly<V3>, directions: readonly Readonly<V3>[]) => ArrayLike<number>;

export interface Interior {
  /** Up to the walls; recesses that the flood fills, as of windows in thick walls, are in it. */
  box: Box;
  /** Middle of the openings in the side that most light can come in by, and which way out that is; null where all is closed. */
  opening: { at: V3; out: V3 } | null;
  /** Places that were found to be inside, m: middles of the grid's cells. */
  places: V3[];
}

/** The 26 directions to a cell's neighbours, those along the axes first: -x, +x, -y, +y, -z, +z. */
export const AROUND: readonly V3[] = (() => {
  const all: V3[] = [];
  for (let x = -1; x <= 1; x++)
    for (let y = -1; y <= 1; y++) for (let z = -1; z <= 1; z++) if (x !== 0 || y !== 0 || z !== 0) all.push(unit([x, y, z]));
  const aligned = (v: V3): boolean => v.filter((c) => c === 0).length === 2;
  return [...AXES.flatMap((k) => [-1, 1].map((s) => vector((i) => (i === k ? s : 0)))), ...all.filter((v) => !aligned(v))];
})();
const UP = 3;
/** Share of directions that must meet the set under a ceiling, and under an opening in it. In a corner outside it is 0.73, without one. */
const ENCLOSED = 0.7;
const ENCLOSED_BELOW_SKY = 0.8;
/** Cells across the narrowest way through the room, and along the widest, at the beginning. */
const [ACROSS, ALONG] = [7, 40];
/** Cells after which the room is flooded anew with coarser ones, and how often. */
const MAX_CELLS = 5000;
const TRIES = 4;
/** Fewer are a gap, not a room. */
const MIN_CELLS = 12;
/** Directions in which openings are looked for, from so many places. */
const DIRECTIONS = 160;
const WATCHERS = 24;
/** Rays that must leave by a side for it to have an opening. */
const MIN_LEAVING = 4;

function enclosed(distances: ArrayLike<number>): boolean {
  let met = 0;
  for (let i = 0; i < AROUND.length; i++) if (distances[i]! < Infinity) met++;
  return met >= (distances[UP]! < Infinity ? ENCLOSED : ENCLOSED_BELOW_SKY) * AROUND.length;
}

/** The room that a point lies in; null where it lies in none. @param from m */
export function findInterior(look: Look, from: Readonly<V3>): Interior | null {
  const first = look(from, AROUND);
  if (!enclosed(first)) return null;
  const finite = Array.from(first).filter((d) => d < Infinity).sort((a, b) => a - b); // prettier-ignore
  const usual = finite[finite.length >> 1]!;
  const across = AXES.map((k) => [first[2 * k]!, first[2 * k + 1]!].reduce((sum, d) => sum + (d < Infinity ? d : usual), 0));
  let cell = Math.max(Math.min(...across) / ACROSS, Math.max(...across) / ALONG);
  if (!(cell > 1e-4)) return null;
  for (let i = 0; i < TRIES; i++, cell *= 1.6) {
    const found = flood(look, from, cell);
    if (found) return found.places.length < MIN_CELLS ? null : { ...found, opening: openingOf(look, found.box, found.places) };
  }
  return null;
}

/** Null where the room has more cells than are looked at. */
function flood(look: Look, from: Readonly<V3>, cell: number): { box: Box; places: V3[] } | null {
  const key = (c: readonly number[]): string => c.join();
  const seen = new Set(["0,0,0"]);
  const waiting: V3[] = [[0, 0, 0]];
  const places: V3[] = [];
  const box: Box = [...from, ...from] as Box;
  while (waiting.length > 0) {
    const c = waiting.pop()!;
    const at = map3(from, (v, k) => v + cell * c[k]);
    const distances = look(at, AROUND);
    if (!enclosed(distances)) continue;
    places.push(at);
    if (places.length > MAX_CELLS) return null;
    for (const k of AXES) {
      for (const s of [0, 1] as const) {
        const d = distances[2 * k + s]!;
        // up to the wall where it is near; no farther than the place itself before an opening
        const reach = d < 1.5 * cell ? d : 0;
        if (s === 0) box[k] = Math.min(box[k], at[k] - reach);
        else box[MOST[k]] = Math.max(box[MOST[k]], at[k] + reach);
        if (d <= cell) continue;
        const next = map3(c, (v, i) => (i === k ? v + (s === 0 ? -1 : 1) : v));
        if (seen.has(key(next))) continue;
        seen.add(key(next));
        waiting.push(next);
      }
    }
  }
  return { box, places };
}

/** Directions spread evenly over the sphere (Vogel's spiral). */
export function spread(count: number): V3[] {
  const golden = Math.PI * (3 - Math.sqrt(5));
  return Array.from({ length: count }, (_, i) => {
    const y = 1 - (2 * i + 1) / count;
    const r = Math.sqrt(1 - y * y);
    return [r * Math.cos(golden * i), y, r * Math.sin(golden * i)];
  });
}

function openingOf(look: Look, box: Readonly<Box>, places: readonly V3[]): Interior["opening"] {
  const directions = spread(DIRECTIONS);
  const sides = Array.from({ length: 6 }, () => ({ count: 0, sum: [0, 0, 0] as V3 }));
  const step = Math.max(1, Math.floor(places.length / WATCHERS));
  for (let i = 0; i < places.length; i += step) {
    const at = places[i]!;
    const distances = look(at, directions);
    directions.forEach((d, j) => {
      if (distances[j]! < Infinity) return;
      const [side, t] = exitOf(box, at, d);
      // what leaves by the floor leaves by a gap of the model
      if (side === 2) return;
      sides[side]!.count++;
      sides[side]!.sum = map3(sides[side]!.sum, (v, k) => v + at[k] + t * d[k]);
    });
  }
  const most = sides.reduce((best, s, i) => (s.count > sides[best]!.count ? i : best), 0);
  const { count, sum } = sides[most]!;
  return count < MIN_LEAVING ? null : { at: map3(sum, (v) => v / count), out: [...AROUND[most]!] };
}

/** By which side (as {@link AROUND} begins) and after which distance (m) a ray leaves a box. */
export function exitOf(box: Readonly<Box>, from: Readonly<V3>, d: Readonly<V3>): [side: number, distance: number] {
  let [side, nearest] = [0, Infinity];
  for (const k of AXES) {
    if (d[k] === 0) continue;
    const t = ((d[k] > 0 ? box[MOST[k]] : box[k]) - from[k]) / d[k];
    if (t < nearest) [side, nearest] = [2 * k + (d[k] > 0 ? 1 : 0), Math.max(0, t)];
  }
  return [side, nearest];
}

/** Whether a point lies in a box. */
export function inBox(box: Readonly<Box>, p: Readonly<V3>): boolean {
  return AXES.every((k) => p[k] >= box[k] && p[k] <= box[MOST[k]]);
}

/** The first room that one of some points lies in; null where none does. */
export function findRoom(look: Look, points: readonly Readonly<V3>[]): Interior | null {
  for (const p of points) {
    const found = findInterior(look, p);
    if (found) return found;
  }
  return null;
}

/** Points of a set where a room would be: the middle of it, and a grid at the height of an eye and of half of it. @param bounds m */
export function likelyPlaces(bounds: Readonly<Box>): V3[] {
  const size = sizeOf(bounds);
  const at = (x: number, y: number, z: number): V3 => [bounds[0] + x * size[0], y, bounds[2] + z * size[2]];
  const half = bounds[1] + 0.5 * size[1];
  const heights = size[1] > 2 * EYE ? [bounds[1] + EYE, half] : [half];
  const shares = [0.5, 0.3, 0.7, 0.15, 0.85];
  return heights.flatMap((y) => shares.flatMap((x) => shares.map((z) => at(x, y, z))));
}

/** Whether a place belongs to a room that is known already: one of the room's places is seen from it, near by. */
export function liesIn(look: Look, room: Interior, at: Readonly<V3>): boolean {
  if (!inBox(room.box, at)) return false;
  const distance = (p: Readonly<V3>): number => Math.hypot(...sub(p, at));
  const nearest = room.places.reduce((best, p) => (distance(p) < distance(best) ? p : best), room.places[0]!);
  const d = distance(nearest);
  return d < 1e-6 || look(at, [unit(sub(nearest, at))])[0]! > d;
}

/** Share of a room's places that nothing hides from a direction, of the sun. */
export function shareLit(look: Look, room: Interior, towards: Readonly<V3>): number {
  const step = Math.max(1, Math.floor(room.places.length / MAX_LIT));
  const some = room.places.filter((_, i) => i % step === 0);
  return some.filter((p) => look(p, [towards])[0] === Infinity).length / some.length;
}
const MAX_LIT = 600;

/** Height of an eye above the floor, m, and the share of a low room's height that it has at most. */
const EYE = 1.6;
const LOW = 0.55;

/**
 * Where a lens stands that looks at a room's opening from its far end, at eye height; along the room where nothing is open.
 * @returns position and target, m
 */
export function standInside(look: Look, { box, opening, places }: Interior): { position: V3; target: V3 } {
  const size = sizeOf(box);
  const eye = box[1] + Math.min(EYE, LOW * size[1]);
  const longer: Axis = size[0] >= size[2] ? 0 : 2;
  const side = opening !== null && opening.out[1] === 0 ? opening.out : null;
  const out = side ?? vector((k) => (k === longer ? 1 : 0));
  const middle = middleOf(box);
  const towards = side ? opening!.at : along(middle, out, 0.5 * size[longer]);
  const target: V3 = [towards[0], (eye + towards[1]) / 2, towards[2]];
  const level = places.reduce((near, p) => Math.min(near, Math.abs(p[1] - eye)), Infinity);
  let best: V3 = [middle[0], eye, middle[2]];
  let most = -Infinity;
  for (const p of places) {
    if (Math.abs(p[1] - eye) > level + 1e-9) continue;
    const at: V3 = [p[0], eye, p[2]];
    const way = sub(target, at);
    const length = Math.hypot(...way);
    if (!(length > 0)) continue;
    const back = -dot(way, out);
    const aside = Math.hypot(...map3(way, (v, k) => (k === 1 ? 0 : v + back * out[k])));
    const free = look(at, [unit(way)])[0]!;
    // off the middle counts, and what stands before the opening counts for more
    const worth = -back - 0.7 * aside - (free < 0.9 * length ? 2 * (length - free) : 0);
    if (worth > most) [most, best] = [worth, at];
  }
  return { position: best, target };
}
