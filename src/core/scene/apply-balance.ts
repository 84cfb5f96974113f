/** The balance of light groups as strengths of the lights themselves: what was balanced after the render is then rendered so. */
import { EVEN, gainOf, type Gain } from "../document/balance";
import { documentSchema, type SceneDocument } from "../document/schema";
import { lightGroups, OTHER_LIGHTS } from "./light-groups";

/** Shares of a light that go to the air and to surfaces. */
interface Given {
  air: number;
  surfaces: number;
}

/** Gains of a group as a light can have them: a factor of its strength, a filter, and shares of the sides; null where the sides have filters of their own. */
interface Strength extends Given {
  factor: number;
  filter: readonly [number, number, number];
}

/** A filter and what it is scaled by. */
function split(gain: Gain): { most: number; filter: [number, number, number] } {
  const most = Math.max(...gain);
  return { most, filter: most > 0 ? [gain[0] / most, gain[1] / most, gain[2] / most] : [1, 1, 1] };
}

const alike = (a: readonly number[], b: readonly number[]): boolean => a.every((v, k) => Math.abs(v - b[k]!) < 1e-9);

function strengthOf(air: Gain, surfaces: Gain, given: Given): Strength | null {
  const [a, s] = [split(air), split(surfaces)];
  if (a.most > 0 && s.most > 0 && !alike(a.filter, s.filter)) return null;
  const [toAir, toSurfaces] = [a.most * given.air, s.most * given.surfaces];
  // both alike: shares stay
  const factor = a.most === s.most ? a.most : Math.max(toAir, toSurfaces);
  const filter = a.most > 0 ? a.filter : s.filter;
  if (a.most === s.most || factor === 0) return { ...given, factor, filter };
  return { air: toAir / factor, surfaces: toSurfaces / factor, factor, filter };
}

const filtered = (c: readonly [number, number, number], by: readonly number[]): [number, number, number] => [
  c[0] * by[0]!,
  c[1] * by[1]!,
  c[2] * by[2]!,
];

/** A filter of a light, at most 1, with the part of it that goes to the strength. */
function tinted(tint: readonly [number, number, number], by: readonly number[]): { tint: [number, number, number]; factor: number } {
  const { most, filter } = split(filtered(tint, by));
  return most > 0 ? { tint: filter, factor: most } : { tint: [...tint], factor: 0 };
}

/** What may emit. */
interface Emissive {
  name?: string;
  emission: readonly number[];
}

export interface Applied {
  document: SceneDocument;
  /** Groups that stay balanced, and why. */
  left: { group: string; why: string }[];
}

/**
 * Turns the balance into strengths, shares and filters of the lights. The picture stays the same but for light that goes from a side
 * over to the other (off the air onto surfaces, off surfaces into the air) where a group's sides differ. Groups whose lights cannot have what it
 * asks for stay balanced.
 * @param materials of the compiled scene, those of its models among them
 */
export function applyBalance(given: SceneDocument, materials: readonly Emissive[]): Applied {
  let doc = given;
  const groups = lightGroups(given, materials);
  const left: Applied["left"] = [];
  const balance = { ...given.film.balance };
  for (const [index, group] of groups.names.entries()) {
    const [air, surfaces] = [gainOf(given.film.balance, group, "air"), gainOf(given.film.balance, group, "surfaces")];
    if (alike(air, [1, 1, 1]) && alike(surfaces, [1, 1, 1])) continue;
    const next = withGroup(doc, groups, index, air, surfaces, materials);
    const read = typeof next === "string" ? null : documentSchema.safeParse(next);
    if (read?.success) {
      doc = read.data;
      delete balance[group];
    } else {
      left.push({ group, why: typeof next === "string" ? next : "its lights would be stronger or weaker than lights can be" });
      // what was silenced by another's solo stays so by itself
      const own = balance[group] ?? EVEN;
      balance[group] = { ...own, solo: false, muted: own.muted || Math.max(...air, ...surfaces) === 0 };
    }
  }
  // what changed nothing is gone, soloed groups and those of lights that are off among it
  const kept = Object.fromEntries(left.map(({ group }) => [group, balance[group]!]));
  return { document: { ...doc, film: { ...doc.film, balance: kept } }, left };
}

/** The document with a group's lights as they are balanced, or why they cannot be. */
function withGroup(
  doc: SceneDocument,
  groups: ReturnType<typeof lightGroups>,
  index: number,
  air: Gain,
  surfaces: Gain,
  materials: readonly Emissive[],
): SceneDocument | string {
  const colours = "its air and its surfaces have colours of their own, and a light has one";
  let next = doc;
  const of = (light: Given): Strength | null => strengthOf(air, surfaces, light);
  if (groups.names[index] === OTHER_LIGHTS) return "it holds what is past 60 light groups";
  if (doc.sun.on && groups.sun === index) {
    const s = of(doc.sun);
    if (!s) return colours;
    const { tint, factor } = tinted(doc.sun.tint, s.filter);
    const illuminance = doc.sun.illuminance * s.factor * factor;
    next = { ...next, sun: { ...doc.sun, air: s.air, surfaces: s.surfaces, tint, illuminance, on: illuminance > 0 } };
  }
  if (doc.moon.on && groups.moon === index) {
    const s = of(doc.moon);
    if (!s) return colours;
    const { tint, factor } = tinted(doc.moon.tint, s.filter);
    const illuminance = doc.moon.illuminance * s.factor * factor;
    next = { ...next, moon: { ...doc.moon, air: s.air, surfaces: s.surfaces, tint, illuminance, on: illuminance > 0 } };
  }
  if ((doc.sky.on || doc.sky.stars) && groups.sky === index) {
    const s = of(doc.sky);
    if (!s) return colours;
    const sky = skyWith(doc.sky, s);
    if (typeof sky === "string") return sky;
    next = { ...next, sky };
  }
  const lights: SceneDocument["lights"] = [];
  for (const [i, light] of doc.lights.entries()) {
    if (!light.on || groups.lights[i] !== index) {
      lights.push(light);
      continue;
    }
    const s = of(light);
    if (!s) return colours;
    const { tint, factor } = tinted(light.tint, s.filter);
    const k = s.factor * factor;
    lights.push({ ...light, air: s.air, surfaces: s.surfaces, tint, ...(k > 0 ? { stops: light.stops + Math.log2(k) } : { on: false }) });
  }
  next = { ...next, lights };
  const emits = doc.air.some((m) => m.on && m.emission) && groups.mediumEmission === index;
  const shines = materials.some((m) => Math.max(...m.emission) > 0) && groups.surfaceEmission === index;
  if ((emits || shines) && !alike(air, surfaces)) return "what emits has one strength, for the air and for surfaces";
  if (emits) {
    const { most, filter } = split(air);
    next = {
      ...next,
      air: doc.air.map((m) =>
        m.emission
          ? {
              ...m,
              emission:
                most > 0 ? { ...m.emission, strength: m.emission.strength * most, colour: filtered(m.emission.colour, filter) } : null,
            }
          : m,
      ),
    };
  }
  if (shines) {
    const ofDocument = (m: Emissive): boolean => {
      const own = m.name !== undefined && Object.hasOwn(doc.materials, m.name) ? doc.materials[m.name] : undefined;
      return own !== undefined && alike(own.emission, m.emission);
    };
    if (materials.some((m) => Math.max(...m.emission) > 0 && !ofDocument(m))) return "materials of models emit, and belong to their files";
    next = {
      ...next,
      materials: Object.fromEntries(
        Object.entries(doc.materials).map(([name, m]) => [name, { ...m, emission: filtered(m.emission, air) }]),
      ),
    };
  }
  return next;
}

/** A sky with another strength and filter, or why it cannot have them. */
function skyWith(sky: SceneDocument["sky"], s: Strength): SceneDocument["sky"] | string {
  const neutral = alike(s.filter, [1, 1, 1]);
  if (!neutral && (sky.model !== "gradient" || sky.stars)) return "this sky takes no colour";
  if (s.factor === 0) return { ...sky, on: false, stars: null };
  const strength =
    sky.model === "gradient" || sky.model === "overcast" ? { luminance: sky.luminance * s.factor } : { strength: sky.strength * s.factor };
  return {
    ...sky,
    ...strength,
    air: s.air,
    surfaces: s.surfaces,
    stars: sky.stars && { ...sky.stars, brightness: sky.stars.brightness * s.factor },
    zenith: filtered(sky.zenith, s.filter),
    horizon: filtered(sky.horizon, s.filter),
    ground: sky.ground && filtered(sky.ground, s.filter),
  };
}
