/** What of a document can be taken hold of in a section: places, what they are called, and what dragging them does. */
import type { Medium, SceneDocument } from "#core/document/schema";
import type { SectionFrame } from "#core/section/frame";
import { middleOf, withMiddleAt } from "#core/section/sides";
import { sub } from "#core/math/vectors";
import { placeIn, pointOf, regionCut, stretched, type Place, type Plane } from "#core/section/region";
import { withMedium } from "./store";

export interface Mark {
  key: string;
  /** Readout by assistive technology and on hovering. */
  name: string;
  at: Place;
  shape: "line" | "dot" | "ring" | "side" | "lamp" | "aim";
  /** Which way it goes: freely, or along one axis of the drawing. */
  along: "s" | "t" | "both";
  /** Metres off the plane. */
  away: number;
  /** What is said beside it. */
  words?: string;
  move(doc: SceneDocument, to: Place): SceneDocument;
}

export interface Seen {
  doc: SceneDocument;
  frame: SectionFrame;
  plane: Plane;
  /** Which medium is open in the sheet, and which lights are chosen. */
  medium: number;
  lights: readonly unknown[];
}

const tidy = (v: number): number => Number(v.toPrecision(4));
const upright = (up: readonly number[]): boolean => up[1]! > 0.999 * Math.hypot(...up);

const change = (doc: SceneDocument, index: number, what: (m: Medium) => Partial<Medium>): SceneDocument =>
  withMedium(doc, index, what(doc.air[index]!));

/** The levels of a medium that lies on one: only in the upright drawing, where they are heights. */
function levels({ doc, plane, medium }: Seen): Mark[] {
  const m = doc.air[medium];
  if (!m || plane.kind !== "upright") return [];
  const out: Mark[] = [];
  const { height, region } = m;
  if (height && upright(height.up)) {
    out.push({
      key: "level",
      name: `Level of ${m.name}`,
      at: [0, height.level],
      shape: "line",
      along: "t",
      away: 0,
      words: "constant below",
      move: (d, [, t]) => change(d, medium, (x) => ({ height: { ...x.height!, level: tidy(t) } })),
    });
    const ends = height.shape === "linear" || height.shape === "quadratic";
    out.push({
      key: "scale",
      name: `${ends ? "Top" : "Scale height"} of ${m.name}`,
      at: [0, height.level + height.scale],
      shape: "line",
      along: "t",
      away: 0,
      words: ends ? "top" : height.shape === "exponential" ? "37 % density" : "25 % density",
      move: (d, [, t]) => change(d, medium, (x) => ({ height: { ...x.height!, scale: tidy(Math.max(0.01, t - x.height!.level)) } })),
    });
  }
  if (region.kind === "layer" && upright(region.up))
    out.push({
      key: "layer",
      name: `Top of ${m.name}`,
      at: [0, region.level],
      shape: "line",
      along: "t",
      away: 0,
      words: "ends here",
      move: (d, [, t]) => change(d, medium, (x) => (x.region.kind === "layer" ? { region: { ...x.region, level: tidy(t) } } : {})),
    });
  return out;
}

/** Where a medium that keeps away from the lens begins, and where it is whole. */
function starts({ doc, frame, medium }: Seen): Mark[] {
  const m = doc.air[medium];
  if (!m?.start) return [];
  const { distance, fade } = m.start;
  const place = (r: number): Place => [r, frame.origin[1]];
  return [
    {
      key: "start",
      name: `Start of ${m.name}`,
      at: place(distance),
      shape: "dot",
      along: "s",
      away: 0,
      words: "starts",
      move: (d, [s]) => change(d, medium, (x) => ({ start: { ...x.start!, distance: tidy(Math.max(0, s)) } })),
    },
    {
      key: "fade",
      name: `End of the fade of ${m.name}`,
      at: place(distance + fade),
      shape: "dot",
      along: "s",
      away: 0,
      words: "whole",
      move: (d, [s]) => change(d, medium, (x) => ({ start: { ...x.start!, fade: tidy(Math.max(0, s - x.start!.distance)) } })),
    },
  ];
}

/** The middle and the four sides of the region of the open medium where the plane cuts it. */
function borders({ doc, frame, plane, medium }: Seen): Mark[] {
  const m = doc.air[medium];
  const middle = m ? middleOf(m) : null;
  if (!m || !middle) return [];
  const { at, away } = placeIn(frame, plane, middle);
  const out: Mark[] = [
    {
      key: "centre",
      name: `Middle of ${m.name}`,
      at,
      shape: "ring",
      along: "both",
      away,
      move: (d, to) => change(d, medium, (x) => withMiddleAt(x, pointOf(frame, plane, to, away).map(tidy) as [number, number, number])),
    },
  ];
  const cut = regionCut(frame, plane, m.region);
  if (cut.length === 0) return out;
  const side = (key: string, axis: 0 | 1, sign: 1 | -1, name: string): void => {
    const end = cut.reduce((best, p) => (sign * p[axis] > sign * best[axis] ? p : best));
    // the direction of the drawing in the scene
    const [a, b] = [pointOf(frame, plane, [0, 0]), pointOf(frame, plane, axis === 0 ? [sign, 0] : [0, sign])];
    const d = sub(b, a);
    const middle = cut.reduce((sum, p) => sum + p[1 - axis]! / cut.length, 0);
    out.push({
      key,
      name: `${name} of ${m.name}`,
      at: axis === 0 ? [end[0], middle] : [middle, end[1]],
      shape: "side",
      along: axis === 0 ? "s" : "t",
      away: 0,
      move: (doc2, to) =>
        change(doc2, medium, (x) => {
          const now = regionCut(frame, plane, x.region);
          if (now.length === 0) return {};
          const present = now.reduce((best, p) => Math.max(best, sign * p[axis]), -Infinity);
          return { region: stretched(x.region, d, sign * to[axis] - present) };
        }),
    });
  };
  side("near", 0, -1, "Near side");
  side("far", 0, 1, "Far side");
  side("low", 1, -1, plane.kind === "upright" ? "Bottom" : "Left side");
  side("high", 1, 1, plane.kind === "upright" ? "Top" : "Right side");
  return out;
}

/** Lamps, and where the chosen ones are aimed. */
function lamps({ doc, frame, plane, lights }: Seen, max: number): Mark[] {
  const out: Mark[] = [];
  const put = (i: number, what: "position" | "target"): void => {
    const l = doc.lights[i]!;
    const p = what === "position" ? l.position : "target" in l ? l.target : null;
    if (!p) return;
    const { at, away } = placeIn(frame, plane, p);
    out.push({
      key: `${what} ${i}`,
      name: what === "position" ? l.name : `Aim of ${l.name}`,
      at,
      shape: what === "position" ? "lamp" : "aim",
      along: "both",
      away,
      move: (d, to) => ({
        ...d,
        lights: d.lights.map((x, k) => {
          if (k !== i) return x;
          const next = { ...x, [what]: pointOf(frame, plane, to, away).map(tidy) };
          // a lamp that stands on its aim points nowhere
          return "target" in next && Math.hypot(...next.position.map((v, j) => v - next.target[j]!)) < 1e-6 ? x : next;
        }),
      }),
    });
  };
  // the chosen ones, then those nearest to the plane
  const order = doc.lights
    .map((l, i) => ({ i, away: Math.abs(placeIn(frame, plane, l.position).away), chosen: lights.includes(i) }))
    .sort((a, b) => Number(b.chosen) - Number(a.chosen) || a.away - b.away)
    .slice(0, max);
  for (const { i, chosen } of order) {
    put(i, "position");
    if (chosen) put(i, "target");
  }
  return out;
}

/** Lamps shown at most. */
const MAX_LAMPS = 60;

/** Everything that can be dragged. */
export function marksOf(seen: Seen): Mark[] {
  return [...levels(seen), ...starts(seen), ...borders(seen), ...lamps(seen, MAX_LAMPS)];
}
