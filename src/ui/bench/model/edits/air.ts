/** Edits of the stack of media as changes of the document. */
import { freeName } from "#core/document/place";
import { LIMITS, type Medium, type SceneDocument } from "#core/document/schema";
import { withMedium } from "../store";

const names = (doc: SceneDocument): string[] => doc.air.map((m) => m.name);

/** Adds a medium under a name of its own. */
export function addMedium(doc: SceneDocument, medium: Medium): SceneDocument {
  if (doc.air.length >= LIMITS.media) return doc;
  return { ...doc, air: [...doc.air, { ...medium, name: freeName(medium.name, names(doc)) }] };
}

export function duplicateMedium(doc: SceneDocument, index: number): SceneDocument {
  if (doc.air.length >= LIMITS.media) return doc;
  const m = doc.air[index]!;
  const copy = { ...m, name: freeName(m.name, names(doc)) };
  const air = [...doc.air.slice(0, index + 1), copy, ...doc.air.slice(index + 1)];
  // what lights the one lights the other
  const reached = <T extends { media: string[] | null }>(light: T): T =>
    light.media?.includes(m.name) ? { ...light, media: [...light.media, copy.name] } : light;
  return { ...doc, air, sun: reached(doc.sun), moon: reached(doc.moon), lights: doc.lights.map(reached) };
}

/** Renames a medium; lights that name it follow. */
export function renameMedium(doc: SceneDocument, index: number, wanted: string): SceneDocument {
  const before = doc.air[index]!.name;
  const name = freeName(wanted, names(doc).filter((_, i) => i !== index)); // prettier-ignore
  const shared = doc.air.some((m, i) => i !== index && m.name === before);
  const next = withMedium(doc, index, { name });
  if (shared) return next;
  const reached = <T extends { media: string[] | null }>(light: T): T =>
    light.media?.includes(before) ? { ...light, media: light.media.map((n) => (n === before ? name : n)) } : light;
  return { ...next, sun: reached(doc.sun), moon: reached(doc.moon), lights: doc.lights.map(reached) };
}

/** Moves a medium up (-1) or down (1) the list; the order is for reading alone. */
export function moveMedium(doc: SceneDocument, index: number, by: -1 | 1): SceneDocument {
  const to = index + by;
  if (to < 0 || to >= doc.air.length) return doc;
  const air = [...doc.air];
  [air[index], air[to]] = [air[to]!, air[index]!];
  return { ...doc, air };
}

type Reaching = "sun" | "moon" | number;

/** Whether a light lights a medium. */
export function lightsMedium(light: { media: string[] | null }, name: string): boolean {
  return light.media === null || light.media.includes(name);
}

/** Makes a light reach a medium, or not. */
export function reach(doc: SceneDocument, light: Reaching, name: string, on: boolean): SceneDocument {
  const all = [...new Set(names(doc))];
  const changed = <T extends { media: string[] | null }>(l: T): T => {
    const media = all.filter((n) => (n === name ? on : lightsMedium(l, n)));
    return { ...l, media: media.length === all.length ? null : media };
  };
  if (light === "sun") return { ...doc, sun: changed(doc.sun) };
  if (light === "moon") return { ...doc, moon: changed(doc.moon) };
  return { ...doc, lights: doc.lights.map((l, i) => (i === light ? changed(l) : l)) };
}
