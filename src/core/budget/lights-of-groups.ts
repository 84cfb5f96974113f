/** Lights of a document by the group that a film keeps them in. */
import type { SceneDocument } from "../document/schema";
import { lightGroups } from "../scene/light-groups";

/** What is changed of the lights of a group. */
interface LightChange {
  air?: number;
  on?: boolean;
}

/** What changes all lights of a group; null for groups that are no lights: what emits by itself, and the rest of very many. */
export function shareOfLights(doc: SceneDocument, group: string): ((doc: SceneDocument, change: LightChange) => SceneDocument) | null {
  const groups = lightGroups(doc, []);
  const at = groups.names.indexOf(group);
  if (at < 0) return null;
  const sun = doc.sun.on && groups.sun === at,
    moon = doc.moon.on && groups.moon === at,
    sky = (doc.sky.on || doc.sky.stars !== null) && groups.sky === at;
  const lights = doc.lights.map((l, i) => l.on && groups.lights[i] === at);
  if (!sun && !moon && !sky && !lights.includes(true)) return null;
  const skyChange = ({ on, ...rest }: LightChange): object => ({ ...rest, ...(on === false ? { on, stars: null } : {}) });
  return (d, change) => ({
    ...d,
    ...(sun ? { sun: { ...d.sun, ...change } } : {}),
    ...(moon ? { moon: { ...d.moon, ...change } } : {}),
    ...(sky ? { sky: { ...d.sky, ...skyChange(change) } } : {}),
    lights: d.lights.map((l, i) => (lights[i] ? { ...l, ...change } : l)),
  });
}
