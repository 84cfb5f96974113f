/** Edits of lights as changes of the document. */
import { sub } from "#core/math/vectors";
import { lampPlace, type Sight } from "#core/scene/sight";
import type { LightKind } from "#core/document/kinds";
import { LIGHT_OPTIONS, optionsOf } from "../kind-options";
import { freeName } from "#core/document/place";
import { LIMITS, lightSchema, type Light, type SceneDocument } from "#core/document/schema";

/** Kinds that need no file. */
export type PlainKind = Exclude<LightKind, "profile">;
export const LIGHT_KINDS = optionsOf(LIGHT_OPTIONS, ["profile"]);

/** A new light where one looks, aimed at what is looked at, of a strength that shows there. */
export function newLight(doc: SceneDocument, kind: PlainKind, sight: Sight): Light {
  const { position, target, reach } = lampPlace(doc, sight);
  const size = Number((reach * 0.06).toPrecision(2));
  const far = Math.max(size, Math.hypot(...sub(target, position)));
  // candela that light a matt surface of 40 % there to a third of middle grey (1/8 cd/m² at EV 0)
  const intensity = Number((((0.125 * Math.PI) / 0.4 / 3) * 2 ** doc.film.exposure * far ** 2).toPrecision(3));
  const aimed = { target };
  return lightSchema.parse({
    kind,
    name: freeName(
      kind,
      doc.lights.map((l) => l.name),
    ),
    position,
    intensity,
    ...(kind === "spot" ? aimed : {}),
    ...(kind === "rectangle" ? { ...aimed, size: [size * 2, size] } : {}),
    ...(kind === "disk" ? { ...aimed, radius: size } : {}),
    ...(kind === "sphere" ? { radius: size } : {}),
    // lamps are there to be looked at; softboxes are kept out of the picture
    ...(kind === "sphere" || kind === "tube" ? { visible: true } : {}),
    ...(kind === "tube" ? { length: size * 4, radius: size / 10 } : {}),
  });
}

/** Changes several lights, each by what `change` says of it. */
export function changeLights(doc: SceneDocument, which: readonly number[], change: (light: Light) => Partial<Light>): SceneDocument {
  const chosen = new Set(which);
  return { ...doc, lights: doc.lights.map((l, i) => (chosen.has(i) ? ({ ...l, ...change(l) } as Light) : l)) };
}

export function removeLights(doc: SceneDocument, which: readonly number[]): SceneDocument {
  const chosen = new Set(which);
  return { ...doc, lights: doc.lights.filter((_, i) => !chosen.has(i)) };
}

/** Copies of lights, a little aside. @returns the document and where the copies are */
export function duplicateLights(doc: SceneDocument, which: readonly number[]): { doc: SceneDocument; copies: number[] } {
  const room = LIMITS.lights - doc.lights.length;
  const names = doc.lights.map((l) => l.name);
  const added = which.slice(0, room).map((i) => {
    const l = doc.lights[i]!;
    const name = freeName(l.name, names);
    names.push(name);
    return { ...l, name };
  });
  return { doc: { ...doc, lights: [...doc.lights, ...added] }, copies: added.map((_, k) => doc.lights.length + k) };
}

/** Unit names as they are shown. */
/** @param illuminance what illuminance is shown in */
export const unitText = (unit: Light["unit"], illuminance: string): string =>
  ({ cd: "cd", lm: "lm", lux: illuminance, W: "W", "cd/m2": "cd/m²" })[unit];
