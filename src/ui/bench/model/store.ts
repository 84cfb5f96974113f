/** The project's document under work, with undo and redo. */
import { withFollowers } from "#core/document/follow";
import { withMotion } from "#core/document/motion";
import type { Medium, SceneDocument } from "#core/document/schema";
import { createUndoStore } from "../../shared/undo-store";

export const createBenchStore = (initial: SceneDocument) =>
  createUndoStore<SceneDocument>(initial, (before, next) => withFollowers(before, withMotion(before, next)));

export type BenchStore = ReturnType<typeof createBenchStore>;

/** The document with one of its media changed; the others stay as they are. */
export function withMedium(doc: SceneDocument, index: number, change: Partial<Medium>): SceneDocument {
  return { ...doc, air: doc.air.map((m, i) => (i === index ? { ...m, ...change } : m)) };
}

/** The document without one of its media; lights that named it light the others they named. */
export function withoutMedium(doc: SceneDocument, index: number): SceneDocument {
  const gone = doc.air[index]!.name;
  const air = doc.air.filter((_, i) => i !== index);
  if (air.some((m) => m.name === gone)) return { ...doc, air };
  const reached = <T extends { media: string[] | null }>(light: T): T =>
    light.media?.includes(gone) ? { ...light, media: light.media.filter((n) => n !== gone) } : light;
  return { ...doc, air, sun: reached(doc.sun), moon: reached(doc.moon), lights: doc.lights.map(reached) };
}
