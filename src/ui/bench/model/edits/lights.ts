/** Edits of lights as changes of the document. */
import { map3 } from "#core/math/vectors";
import type { LightKind } from "#core/document/kinds";
import { LIGHT_OPTIONS, optionsOf } from "../kind-options";
import { freeName } from "#core/document/place";
import { LIMITS, lightSchema, type Light, type SceneDocument } from "#core/document/schema";
import { cameraFrame } from "#core/document/camera";

/** Kinds that need no file. */
export type PlainKind = Exclude<LightKind, "profile">;
export const LIGHT_KINDS = optionsOf(LIGHT_OPTIONS, ["profile"]);

type V3 = [number, number, number];

/** A new light above and beside the line of sight, aimed at what the lens looks at, of a strength that shows. */
export function newLight(doc: SceneDocument, kind: PlainKind): Light {
  const { right, up, forward } = cameraFrame(doc.camera);
  const gap = Math.hypot(...doc.camera.target.map((v, i) => v - doc.camera.position[i]!));
  const place = (a: number, b: number, c: number): V3 =>
    map3(doc.camera.position, (v, i) => Number((v + gap * (a * right[i] + b * up[i] + c * forward[i])).toPrecision(4)));
  const size = Number((gap * 0.06).toPrecision(2));
  // candela that light a white wall at a third of the way to middle grey and more
  const intensity = Number((2000 * 2 ** (doc.film.exposure - 10) * Math.max(1, (gap / 10) ** 2)).toPrecision(3));
  const aimed = { target: place(0.05, -0.1, 0.7) };
  return lightSchema.parse({
    kind,
    name: freeName(
      kind,
      doc.lights.map((l) => l.name),
    ),
    position: place(-0.25, 0.3, 0.3),
    intensity: kind === "spot" ? intensity * 10 : intensity,
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
export const unitText = (unit: Light["unit"]): string => ({ cd: "cd", lm: "lm", lux: "lx", W: "W", "cd/m2": "cd/m²" })[unit];
