/** Where the time of a frame goes, from many looks at what its workers are at. */
import type { SceneDocument } from "../document/schema";
import { MEDIA, MEDIUM_WORDS, PASS_CLEAR } from "../layout/layout";
import {
  A_LIGHT,
  A_MEDIUM,
  A_PART,
  A_PASSES,
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
}

export const noLooks = (): Looks => ({ all: 0, parts: new Map(), lights: new Map(), media: new Map() });

/** Words that a worker notes. */
const WORDS = ACTIVITY_BYTES / 4;

/** Adds one look at all workers. @param activity words of each worker (RenderEngine.activity) */
export function addLook(looks: Looks, activity: Int32Array): void {
  for (let at = 0; at < activity.length; at += WORDS) {
    const part = activity[at + A_PART]!;
    if (part === PART_NONE || (activity[at + A_PASSES]! & PASS_CLEAR) !== 0) continue;
    looks.all++;
    count(looks.parts, part);
    count(looks.lights, activity[at + A_LIGHT]!);
    const address = activity[at + A_MEDIUM]! >>> 0;
    count(looks.media, address < MEDIA ? -1 : Math.floor((address - MEDIA) / (8 * MEDIUM_WORDS)));
  }
}
function count(into: Map<number, number>, key: number): void {
  into.set(key, (into.get(key) ?? 0) + 1);
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
export function timeShares(looks: Looks, doc: SceneDocument, materials: readonly { emission: readonly number[] }[]): TimeShares {
  const names = lightGroups(doc, materials).names;
  const media = activeMedia(doc);
  const rows = (of: ReadonlyMap<number, number>, words: (key: number) => readonly [string, string]): TimeRow[] => {
    const merged = new Map<string, { tooltip: string; n: number }>();
    for (const [key, n] of of) {
      const [said, tooltip] = words(key);
      merged.set(said, { tooltip, n: (merged.get(said)?.n ?? 0) + n });
    }
    return [...merged]
      .map(([said, { tooltip, n }]): TimeRow => {
        const share = n / looks.all;
        return { words: said, tooltip, share, error: Math.sqrt((share * (1 - share)) / looks.all) };
      })
      .sort((a, b) => b.share - a.share);
  };
  return {
    looks: looks.all,
    parts: rows(looks.parts, partWords),
    lights: rows(looks.lights, (key) => lightWords(key, names)),
    media: rows(looks.media, (key) => [
      key < 0 ? "no medium" : (media[key]?.name ?? "medium"),
      key < 0
        ? "Finding what rays meet, choosing lights, materials, and all that is the same without air."
        : "How dense it is and what it lets through, along all rays.",
    ]),
  };
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
  if (key === NO_LIGHT) return ["no light", "Lens rays, ways from one place to the next, and the air along them."];
  if (key === CHOOSING_LIGHTS) return ["choosing lights", "Which light is asked at each place."];
  return [names[key] ?? "other lights", "Rays towards it, its shadows, and the air on the way."];
}
