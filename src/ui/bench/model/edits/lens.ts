/** A lens set on what is chosen. */
import { boundsOfRegion } from "#core/document/regions";
import { frameAround, type Bounds } from "#core/document/framing";
import type { SceneDocument } from "#core/document/schema";
import type { SessionState } from "../session";
import type { ViewState } from "../view";

/** Bounds (m) of what is chosen where the sheet is open: an object, a light, a medium; of the whole set where nothing is. */
export function chosenBounds(
  doc: SceneDocument,
  view: Pick<ViewState, "open" | "chosen" | "lights" | "medium">,
  session: Pick<SessionState, "bounds" | "objectBounds">,
): Bounds | null {
  if (view.open === "set" && view.chosen) return session.objectBounds[view.chosen.object] ?? session.bounds;
  const light = view.open === "lights" ? view.lights.at(-1) : undefined;
  if (typeof light === "number" && doc.lights[light]) {
    const { position } = doc.lights[light];
    // a lamp and a room's corner about it
    return [...position.map((v) => v - 1), ...position.map((v) => v + 1)] as Bounds;
  }
  const medium = view.open === "air" ? doc.air[view.medium] : undefined;
  return (medium && boundsOfRegion(medium.region)) ?? session.bounds;
}

/** The document with its lens moved back, or nearer, along its line of sight until what is chosen fills the frame. */
export function framed(
  doc: SceneDocument,
  view: Pick<ViewState, "open" | "chosen" | "lights" | "medium">,
  session: Pick<SessionState, "bounds" | "objectBounds">,
): SceneDocument {
  const bounds = chosenBounds(doc, view, session);
  return bounds ? { ...doc, camera: frameAround(bounds, doc.film.size[0] / doc.film.size[1], doc.camera, true) } : doc;
}
