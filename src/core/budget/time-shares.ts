/** Where the time of a frame goes, from many looks at what its workers are at. */
import type { SceneDocument } from "../document/schema";
import { MEDIA, MEDIUM_WORDS, PASS_CLEAR } from "../layout/layout";
import {
  A_LIGHT,
  A_MEDIUM,
  A_PART,
  A_PASSES,
  A_PIXEL,
  ACTIVITY_BYTES,
  CHOOSING_LIGHTS,
  NO_LIGHT,
  PART_AIR,
  PART_AIR_SHIFT,
  PART_FILM,
  PART_LENS,
  PART_MASK,
  PART_NONE,
  PART_SURFACE_SHIFT,
  PART_SURFACES,
  PART_WALK,
} from "../layout/scratch";
import { activeMedia } from "../scene/media";
import { lightGroups } from "../scene/light-groups";

/** How often workers were seen at what; rests and the clear frame are left out. */
export interface Looks {
  all: number;
  parts: Map<number, number>;
  lights: Map<number, number>;
  media: Map<number, number>;
  /** Lights and media by place of the frame: PLACES_ACROSS × PLACES_DOWN of them, by rows. */
  places: readonly Pick<Looks, "lights" | "media">[];
}

/** Places of the frame that looks are told apart by. */
export const PLACES_ACROSS = 16,
  PLACES_DOWN = 9;

export const noLooks = (): Looks => ({
  ...{ all: 0, parts: new Map(), lights: new Map(), media: new Map() },
  places: Array.from({ length: PLACES_ACROSS * PLACES_DOWN }, () => ({ lights: new Map(), media: new Map() })),
});

/** Words that a worker notes. */
const WORDS = ACTIVITY_BYTES / 4;

/** Adds one look at all workers. @param activity words of each worker (RenderEngine.activity) @param width, height of their film in pixels */
export function addLook(looks: Looks, activity: Int32Array, width: number, height: number): void {
  for (let at = 0; at < activity.length; at += WORDS) {
    const part = activity[at + A_PART]!;
    if (part === PART_NONE || (activity[at + A_PASSES]! & PASS_CLEAR) !== 0) continue;
    looks.all++;
    count(looks.parts, part);
    const light = activity[at + A_LIGHT]!,
      address = activity[at + A_MEDIUM]! >>> 0;
    const medium = address < MEDIA ? -1 : Math.floor((address - MEDIA) / (8 * MEDIUM_WORDS));
    const pixel = activity[at + A_PIXEL]!;
    const place = looks.places[placeAt((pixel & 0xffff) / width, (pixel >>> 16) / height)]!;
    for (const of of [looks, place]) {
      count(of.lights, light);
      count(of.media, medium);
    }
  }
}
/** Number of the place of a point of the frame, from 0 to 1 across and down. */
function placeAt(x: number, y: number): number {
  const at = (v: number, n: number): number => Math.max(0, Math.min(n - 1, Math.floor(v * n)));
  return at(y, PLACES_DOWN) * PLACES_ACROSS + at(x, PLACES_ACROSS);
}
function count(into: Map<number, number>, key: number, n = 1): void {
  into.set(key, (into.get(key) ?? 0) + n);
}

/** A share of the time, and its standard error. */
export interface TimeRow {
  words: string;
  tooltip: string;
  share: number;
  error: number;
}
/** The same time parted in three ways: each adds up to all of it. */
export interface TimeShares {
  looks: number;
  parts: TimeRow[];
  lights: TimeRow[];
  media: TimeRow[];
}

/** Shares of the time by what is traced, by the light that is asked, and by the medium that light goes through. @param materials of the compiled scene */
export function timeShares(looks: Looks, doc: SceneDocument, materials: Materials): TimeShares {
  return { looks: looks.all, parts: rowsOf(looks.parts, partWords), ...lightsAndMedia(looks, doc, materials) };
}

/** Rows of the time that no light, and no medium, takes. */
export const UNLIT = "no light",
  NO_MEDIUM = "no medium";

/** Fewest looks that a place is told by: the ones around it are taken along until there are as many. */
const TOLD = 60;
/** How far around a place is looked. */
const AROUND = 2;

/** Lights and media that the time of a place of the frame goes to; null where it was looked at too seldom. @param x, y from 0 to 1 */
export function timeSharesAt(
  looks: Looks,
  x: number,
  y: number,
  doc: SceneDocument,
  materials: Materials,
): Omit<TimeShares, "parts"> | null {
  for (let around = 0; around <= AROUND; around++) {
    const found = { lights: new Map<number, number>(), media: new Map<number, number>() };
    const seen = new Set<number>();
    for (let dy = -around; dy <= around; dy++)
      for (let dx = -around; dx <= around; dx++) seen.add(placeAt(x + dx / PLACES_ACROSS, y + dy / PLACES_DOWN));
    for (const place of seen)
      for (const of of ["lights", "media"] as const) for (const [key, n] of looks.places[place]![of]) count(found[of], key, n);
    const all = sum(found.lights);
    if (all >= TOLD) return { looks: all, ...lightsAndMedia(found, doc, materials) };
  }
  return null;
}

type Materials = readonly { emission: readonly number[] }[];
const sum = (of: ReadonlyMap<number, number>): number => [...of.values()].reduce((a, b) => a + b, 0);

function lightsAndMedia(
  looks: Pick<Looks, "lights" | "media">,
  doc: SceneDocument,
  materials: Materials,
): Pick<TimeShares, "lights" | "media"> {
  const names = lightGroups(doc, materials).names;
  const media = activeMedia(doc);
  return {
    lights: rowsOf(looks.lights, (key) => lightWords(key, names)),
    media: rowsOf(looks.media, (key) => [
      key < 0 ? NO_MEDIUM : (media[key]?.name ?? "medium"),
      key < 0
        ? "Finding what rays meet, choosing lights, materials, and all that is the same without air."
        : "How dense it is and what it lets through, along all rays.",
    ]),
  };
}

function rowsOf(of: ReadonlyMap<number, number>, words: (key: number) => readonly [string, string]): TimeRow[] {
  const all = sum(of);
  const merged = new Map<string, { tooltip: string; n: number }>();
  for (const [key, n] of of) {
    const [said, tooltip] = words(key);
    merged.set(said, { tooltip, n: (merged.get(said)?.n ?? 0) + n });
  }
  return [...merged]
    .map(([said, { tooltip, n }]): TimeRow => {
      const share = n / all;
      return { words: said, tooltip, share, error: Math.sqrt((share * (1 - share)) / all) };
    })
    .sort((a, b) => b.share - a.share);
}

function partWords(part: number): readonly [string, string] {
  const air = (part >> PART_AIR_SHIFT) & ((1 << (PART_SURFACE_SHIFT - PART_AIR_SHIFT)) - 1),
    surfaces = part >> PART_SURFACE_SHIFT;
  switch (part & PART_MASK) {
    case PART_LENS:
      return ["Lens rays", "What each sample of a pixel meets first."];
    case PART_AIR:
      return ["Air, once", "Light that the air sends to the lens straight from a light."];
    case PART_SURFACES:
      return ["Surfaces, direct", "Light of what the lens sees, straight from a light, and the air before it."];
    case PART_FILM:
      return ["Film", "Adding each sample to the film, and mattes of media."];
    case PART_WALK:
      if (surfaces === 0) return [`Air, ${order(air + 1)} times`, "Light that goes on in the air before it comes to the lens."];
      if (air === 0) return [`Surfaces, bounce ${order(surfaces)}`, "Light from surface to surface before it comes to the lens."];
      return ["Air and surfaces", "Light that is scattered by both before it comes to the lens."];
    default:
      return ["Other work", ""];
  }
}
/** Orders past which they are not told apart. */
const ORDERS = 6;
const order = (n: number): string => (n < ORDERS ? String(n) : `${ORDERS} and more`);

function lightWords(key: number, names: readonly string[]): readonly [string, string] {
  if (key === NO_LIGHT) return [UNLIT, "Lens rays, ways from one place to the next, and the air along them."];
  if (key === CHOOSING_LIGHTS) return ["choosing lights", "Which light is asked at each place."];
  return [names[key] ?? "other lights", "Rays towards it, its shadows, and the air on the way."];
}
