/** Lights of a document by the group that a film keeps them in. */
import type { SceneDocument } from "../document/schema";
import { lightGroups } from "../scene/light-groups";

/** What is changed of the lights of a group. */
interface LightChange {
  air?: number;
  on?: boolean;
}

/** Which lights of a document are of a group. */
function membersOf(doc: SceneDocument, group: string): { sun: boolean; moon: boolean; sky: boolean; lights: boolean[] } {
  const groups = lightGroups(doc, []);
  const at = groups.names.indexOf(group);
  return {
    sun: doc.sun.on && groups.sun === at,
    moon: doc.moon.on && groups.moon === at,
    sky: (doc.sky.on || doc.sky.stars !== null) && groups.sky === at,
    lights: doc.lights.map((l, i) => l.on && groups.lights[i] === at),
  };
}

/**
 * What changes all lights of a group; null for groups that are no lights: what emits by itself, and the rest of very many. Applied to a
 * document that has changed meanwhile, it is the group's lights of that one.
 */
export function shareOfLights(doc: SceneDocument, group: string): ((doc: SceneDocument, change: LightChange) => SceneDocument) | null {
  const { sun, moon, sky, lights } = membersOf(doc, group);
  if (!sun && !moon && !sky && !lights.includes(true)) return null;
  return (d, change) => {
    const of = membersOf(d, group);
    const skyChange = { ...change, ...(change.on === false ? { stars: null } : {}) };
    return {
      ...d,
      ...(of.sun ? { sun: { ...d.sun, ...change } } : {}),
      ...(of.moon ? { moon: { ...d.moon, ...change } } : {}),
      ...(of.sky ? { sky: { ...d.sky, ...skyChange } } : {}),
      lights: d.lights.map((l, i) => (of.lights[i] ? { ...l, ...change } : l)),
    };
  };
}
