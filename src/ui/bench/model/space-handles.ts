/** Where things that can be taken hold of are, and what moving or turning them does to the document. */
import { sub } from "#core/math/vectors";
import type { Light, SceneDocument } from "#core/document/schema";
import { middleOf, regionSides, withMiddleAt, withSideAt } from "#core/section/sides";
import { goboKnob, goboTurnedTo, sunGoboKnob, sunGoboTurnedTo } from "./gobo-handles";
import type { Grip } from "./view";

type V3 = [number, number, number];
const tidy = (v: readonly number[]): V3 => v.map((c) => Number(c.toPrecision(6))) as V3;

/** Place of a grip, m; null where there is none (any more). */
export function placeOf(doc: SceneDocument, grip: Grip): V3 | null {
  switch (grip.kind) {
    case "lens":
      return doc.camera.position;
    case "aim":
      return doc.camera.target;
    case "light":
      return doc.lights[grip.index]?.position ?? null;
    case "target": {
      const light = doc.lights[grip.index];
      return light && "target" in light ? light.target : null;
    }
    case "object":
      return doc.objects[grip.index]?.position ?? null;
    case "medium": {
      const m = doc.air[grip.index];
      return m ? middleOf(m) : null;
    }
    case "gobo":
    case "goboTurn": {
      const knob = goboKnob(doc.lights[grip.index]);
      return knob && (grip.kind === "gobo" ? knob.middle : knob.rim);
    }
    case "sunGobo":
      return sunGoboKnob(doc)?.rim ?? null;
    case "side": {
      const m = doc.air[grip.index];
      return (m && regionSides(m.region, doc.camera.target)[grip.side]?.at) ?? null;
    }
    case "sun":
      return null;
  }
}

/** Degrees about x, y, z of what can be turned; null of what cannot. */
export function turnOf(doc: SceneDocument, grip: Grip): V3 | null {
  if (grip.kind === "object") return doc.objects[grip.index]?.rotation ?? null;
  if (grip.kind === "medium") {
    const m = doc.air[grip.index];
    if (!m) return null;
    return "rotation" in m.region ? m.region.rotation : m.grid && m.region.kind === "everywhere" ? m.grid.rotation : null;
  }
  return null;
}

const isLocked = (doc: SceneDocument, grip: Grip): boolean => grip.kind === "object" && (doc.objects[grip.index]?.locked ?? true);
export const canMove = (doc: SceneDocument, grip: Grip): boolean => placeOf(doc, grip) !== null && !isLocked(doc, grip);

const apart = (a: Readonly<V3>, b: Readonly<V3>): boolean => Math.hypot(...sub(a, b)) > 1e-6;

/** The document with a grip at another place. A place that is not allowed changes nothing. */
export function moved(doc: SceneDocument, grip: Grip, to: readonly number[]): SceneDocument {
  const p = tidy(to);
  if (!p.every((v) => Math.abs(v) < 1e7) || isLocked(doc, grip)) return doc;
  const { camera } = doc;
  const light = (change: (l: Light) => Light): SceneDocument => ({
    ...doc,
    lights: doc.lights.map((l, i) => ("index" in grip && i === grip.index ? change(l) : l)),
  });
  switch (grip.kind) {
    case "lens":
      return apart(p, camera.target) ? { ...doc, camera: { ...camera, position: p } } : doc;
    case "aim":
      return apart(p, camera.position) ? { ...doc, camera: { ...camera, target: p } } : doc;
    case "light":
      return light((l) => ("target" in l && !apart(p, l.target) ? l : { ...l, position: p }));
    case "target":
      return light((l) => ("target" in l && apart(p, l.position) ? { ...l, target: p } : l));
    case "object":
      return { ...doc, objects: doc.objects.map((o, i) => (i === grip.index ? { ...o, position: p } : o)) };
    case "medium":
      return {
        ...doc,
        air: doc.air.map((m, i) => (i === grip.index ? withMiddleAt(m, p) : m)),
      };
    case "side":
      return {
        ...doc,
        air: doc.air.map((m, i) => (i === grip.index ? { ...m, region: withSideAt(m.region, grip.side, p, camera.target) } : m)),
      };
    case "sunGobo":
      return sunGoboTurnedTo(doc, p);
    case "gobo":
    case "goboTurn":
      return light((l) => goboTurnedTo(l, grip.kind === "gobo" ? "distance" : "turn", p));
    case "sun":
      return doc;
  }
}

/** The document with a grip turned. */
export function turned(doc: SceneDocument, grip: Grip, to: readonly number[]): SceneDocument {
  const rotation = tidy(to.map((v) => (Math.abs(v) < 1e-4 ? 0 : v)));
  if (isLocked(doc, grip)) return doc;
  if (grip.kind === "object") return { ...doc, objects: doc.objects.map((o, i) => (i === grip.index ? { ...o, rotation } : o)) };
  if (grip.kind === "medium")
    return {
      ...doc,
      air: doc.air.map((m, i) => {
        if (i !== grip.index) return m;
        if ("rotation" in m.region) return { ...m, region: { ...m.region, rotation } };
        return m.grid && m.region.kind === "everywhere" ? { ...m, grid: { ...m.grid, rotation } } : m;
      }),
    };
  return doc;
}
