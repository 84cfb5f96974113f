/** What a click into the picture does with the point it hits. */
import type { Pin } from "#core/document/air";
import { LIMITS } from "#core/document/schema";
import { VISIBILITY_THRESHOLD } from "#core/document/medium";
import { colourAt, survivingIn, exposureFor, neutralWhite } from "#core/film/meter";
import type { Film } from "#core/film/film";
import type { Box } from "#core/math/box";
import { map3 } from "#core/math/vectors";
import { cameraFrame } from "#core/document/camera";
import { pickPoint } from "#core/scene/pick";
import type { BenchStore } from "./store";
import { openingAt, shone } from "./shine";
import { moved } from "./space-handles";
import { MAX_PROBES, type Grip, type ViewState, type ViewStore } from "./view";

const TOOLS = ["measure", "person", "expose", "white", "focus", "pin", "limit", "aim", "look", "shine", "probe"] as const;
export type PointTool = (typeof TOOLS)[number];
export const isPointTool = (tool: ViewState["tool"]): tool is PointTool => (TOOLS as readonly string[]).includes(tool);

/** Aims the foremost chosen light, or the lens, at a point (m), as one step. */
export function aimAt(tool: "aim" | "look", store: BenchStore, view: ViewStore, point: readonly number[]): void {
  const light = view.getState().lights.at(-1);
  const grip: Grip | null = tool === "look" ? { kind: "aim" } : typeof light === "number" ? { kind: "target", index: light } : null;
  if (grip) store.getState().set((d) => moved(d, grip, point));
  view.setState({ tool: "none" });
}

interface Click {
  store: BenchStore;
  view: ViewStore;
  film: Film;
  x: number;
  y: number;
  /** Makes the open medium so dense that this point keeps its share. @param set whether its pin was set just now */
  limit(pin: Pin, set: boolean): void;
  /** The room that the lens stands in, m. */
  room: Readonly<Box> | null;
}

const tidy = (v: number): number => Number(v.toPrecision(8));

/** Uses a point of the live picture; a click on what the tool cannot use changes nothing. */
export function takePoint(tool: PointTool, { store, view, film, x, y, limit, room }: Click): void {
  const doc = store.getState().document;
  if (tool === "shine") {
    const { shineFrom } = view.getState();
    if (!shineFrom) {
      const from = openingAt(doc, film, x, y, room);
      view.setState(from ? { shineFrom: from, said: null } : { said: "Nothing of the set is in sight to tell how far away that is." });
      return;
    }
    const to = pickPoint(doc, film, x, y)?.point;
    if (!to) return view.setState({ said: "Only background is there. Click a surface that the light should land on." });
    const next = shone(doc, view.getState().lights.at(-1) ?? "sun", shineFrom, to);
    if (typeof next === "string") return view.setState({ said: next });
    store.getState().set(() => next);
    return view.setState({ tool: "none" });
  }
  if (tool === "probe") {
    if (!view.probe(x, y)) view.setState({ said: `There are ${MAX_PROBES} probes already. Take one away first.` });
    return;
  }
  if (tool === "expose" || tool === "white") {
    const colour = colourAt(film, x, y, doc.film.balance);
    if (!colour) return;
    const ev = tool === "expose" ? exposureFor(colour) : null;
    const white = tool === "white" ? neutralWhite(colour) : null;
    if (ev !== null) store.getState().set((d) => ({ ...d, film: { ...d.film, exposure: Number(ev.toFixed(2)) } }));
    if (white) store.getState().set((d) => ({ ...d, film: { ...d.film, whiteBalance: white.kelvin, tint: white.tint } }));
    view.setState({ tool: "none" });
    return;
  }
  /** Sets a pin, where there is room for one more. @returns whether there was */
  const pin = (one: Pin): boolean => {
    if (doc.pins.length >= LIMITS.pins) return false;
    store.getState().set((d) => ({ ...d, pins: [...d.pins, one] }));
    return true;
  };
  const picked = pickPoint(doc, film, x, y);
  const point = picked?.point;
  if (!point) {
    if (picked) view.setState({ said: "Only background is there, without a distance. Click something of the set." });
    return;
  }
  view.setState({ said: null });
  if (tool === "pin") {
    const share = Math.max(0.001, Number((survivingIn(film, x, y) ?? 0.5).toFixed(2)));
    pin({ point: map3(point, tidy), share });
    view.unfold("pins");
    return;
  }
  if (tool === "limit") {
    view.setState({ tool: "none" });
    const end = { point: map3(point, tidy), share: VISIBILITY_THRESHOLD };
    const set = pin(end);
    view.unfold("pins");
    limit(end, set);
    return;
  }
  if (tool === "aim" || tool === "look") return aimAt(tool, store, view, point);
  if (tool === "measure") {
    view.measure(point);
  } else if (tool === "person") view.setState({ person: point, tool: "none" });
  else {
    const { forward } = cameraFrame(doc.camera);
    const focus = point.reduce((s, v, k) => s + (v - doc.camera.position[k]!) * forward[k]!, 0);
    if (focus > 1e-6) store.getState().set((d) => ({ ...d, camera: { ...d.camera, focus: Number(focus.toPrecision(5)) } }));
    view.setState({ tool: "none" });
  }
}
