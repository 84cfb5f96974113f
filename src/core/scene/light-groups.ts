/** Lights kept apart on the film: which group each belongs to. A pass of a group is balanced after the render. */
import type { SceneDocument } from "../document/schema";
import { MAX_GROUPS } from "../layout/layout";

/** Groups of a document by number, and the group of each light. */
export interface LightGroups {
  names: readonly string[];
  sun: number;
  moon: number;
  sky: number;
  /** Media that emit, and emissive surfaces. */
  mediumEmission: number;
  surfaceEmission: number;
  /** The picture of a plate. */
  plate: number;
  /** By place in the document's list of lights. */
  lights: readonly number[];
}

/** Name of the group that takes what no longer fits. */
export const OTHER_LIGHTS = "other lights";

/**
 * Groups of the document's lights: by the group a light names, else each light its own by its name; lights of one name
 * share a group; so do media that emit, and the scene's `materials` that do. Past MAX_GROUPS the remaining lights share one. Lights that are off have none of their own.
 */
export function lightGroups(doc: SceneDocument, materials: readonly { emission: readonly number[] }[]): LightGroups {
  const names: string[] = [];
  const of = (name: string): number => {
    const at = names.indexOf(name);
    if (at >= 0) return at;
    if (names.length >= MAX_GROUPS - 1) return names.includes(OTHER_LIGHTS) ? names.indexOf(OTHER_LIGHTS) : names.push(OTHER_LIGHTS) - 1;
    return names.push(name) - 1;
  };
  const sky = doc.sky.on || doc.sky.stars ? of(doc.sky.group ?? "sky") : 0;
  const sun = doc.sun.on ? of(doc.sun.group ?? "sun") : 0;
  const moon = doc.moon.on ? of(doc.moon.group ?? "moon") : 0;
  const mediumEmission = doc.air.some((m) => m.on && m.emission) ? of("air emission") : 0;
  const surfaceEmission = materials.some((m) => Math.max(...m.emission) > 0) ? of("emissive surfaces") : 0;
  const plate = doc.plate ? of("plate") : 0;
  const lights = doc.lights.map((l) => (l.on ? of(l.group ?? l.name) : 0));
  return { names, sun, moon, sky, mediumEmission, surfaceEmission, plate, lights };
}
