/** What a film takes before anything of its scene is read. */
import { AIR_EVERY } from "../document/air-size";
import { keepsLightGroups } from "../document/balance";
import type { SceneDocument } from "../document/schema";
import { pixelFloats } from "./film";

/** Light groups that a document's film keeps apart, at most: its lights, and what else lights a scene. */
export const groupsOf = ({ film, lights }: Pick<SceneDocument, "film" | "lights">): number =>
  keepsLightGroups(film) ? 4 + lights.length : 0;

/** Bytes of a pixel of a document's film, at most. */
export function pixelBytes(doc: Pick<SceneDocument, "film" | "lights" | "render">): number {
  const { film, render } = doc;
  return (
    4 *
    pixelFloats({
      lights: Array.from({ length: groupsOf(doc) }, String),
      mattes: film.mattes ? { object: [], material: [], medium: [] } : null,
      ...(render.airSize === "full" ? {} : { airEvery: AIR_EVERY[render.airSize] }),
    })
  );
}
