/** Air set by what is seen: points of the frame that shall keep a share of their light, and one medium solved to match. */
import type { Pin } from "../document/air";
import type { Medium, SceneDocument } from "../document/schema";
import { sub } from "../math/vectors";
import { projectPoint, rayOf } from "../scene/pick";
import { luminance } from "../optics/colour";
import { fit, type Parameter } from "./fit";
import type { LengthWords } from "../document/units";

/** A pin as the lens sees it. */
export interface SeenPin {
  /** Point of the frame, shares from the upper left, and its distance from the lens, m. */
  x: number;
  y: number;
  distance: number;
  /** Transmittance wanted to it. */
  share: number;
}

/** Where the lens of a document sees a pin, within the frame or beside it; null behind the lens. */
export function seenPin(doc: SceneDocument, { point, share }: Pin): SeenPin | null {
  const place = projectPoint(doc, point);
  if (!place || place.depth <= 0) return null;
  const { x, y } = place;
  const { origin } = rayOf(doc, x, y);
  return { x, y, distance: Math.hypot(...sub(point, origin)), share };
}

/** What of a medium may be changed to match. */
export type Solved = "density" | "start" | "level" | "scale";

export interface Solution {
  medium: Medium;
  /** Transmittance to each pin now. */
  met: number[];
}

/** A pin counts as met within this share. */
export const MET = 0.02;

/** Which numbers of a medium can be solved for: those it has. */
export function solvable(m: Medium): Solved[] {
  return ["density", ...(m.start ? ["start" as const] : []), ...(m.height ? ["level" as const, "scale" as const] : [])];
}

/** Transmittances to pins by the optical depths per band to them. */
export function survivingAt(
  depth: (doc: SceneDocument, pin: SeenPin) => readonly [number, number, number],
  doc: SceneDocument,
  pins: readonly SeenPin[],
): number[] {
  return pins.map((p) => luminance(...(depth(doc, p).map((t) => Math.exp(-t)) as [number, number, number])));
}

/**
 * Solves numbers of one medium so that pins keep their shares: least squares in log transmittance, within bounds; what the
 * pins leave open stays where it is. @param depth optical depth per band to a pin in a document
 */
export function solvePins(
  doc: SceneDocument,
  index: number,
  pins: readonly SeenPin[],
  wanted: readonly Solved[],
  depth: (doc: SceneDocument, pin: SeenPin) => readonly [number, number, number],
): Solution {
  const m = doc.air[index]!;
  const far = Math.max(...pins.map((p) => p.distance), 1e-3);
  const which = solvable(m).filter((s) => wanted.includes(s));
  const parameter = (s: Solved): Parameter => {
    switch (s) {
      case "density":
        // from air that takes a thousandth of the light to air that ends within a hundredth of the way
        return { start: m.density > 0 ? m.density : 1 / far, min: 1e-3 / far, max: 500 / far, logarithmic: true, scale: 1 };
      case "start":
        return { start: m.start!.distance, min: 0, max: far, logarithmic: false, scale: far / 2 };
      case "level":
        return { start: m.height!.level, min: m.height!.level - far, max: m.height!.level + far, logarithmic: false, scale: far / 4 };
      case "scale":
        return { start: m.height!.scale, min: far / 2000, max: 20 * far, logarithmic: true, scale: 1 };
    }
  };
  const put = (values: readonly number[]): Medium => {
    let out = m;
    which.forEach((s, i) => {
      const v = Number(values[i]!.toPrecision(5));
      if (s === "density") out = { ...out, density: v };
      else if (s === "start") out = { ...out, start: { ...out.start!, distance: v } };
      else out = { ...out, height: { ...out.height!, [s]: v } };
    });
    return out;
  };
  const withIt = (medium: Medium): SceneDocument => ({ ...doc, air: doc.air.map((x, i) => (i === index ? medium : x)) });
  const values = fit(which.map(parameter), (v) => {
    const left = survivingAt(depth, withIt(put(v)), pins);
    return pins.map((p, i) => Math.log(Math.max(left[i]!, 1e-12)) - Math.log(Math.max(p.share, 1e-6)));
  });
  const medium = put(values);
  return { medium, met: survivingAt(depth, withIt(medium), pins) };
}

/** The numbers that were solved, in a medium as it is by now: what was edited meanwhile stays. */
export function withSolved(now: Medium, solved: Medium, which: readonly Solved[]): Medium {
  let out = now;
  if (which.includes("density")) out = { ...out, density: solved.density };
  if (which.includes("start") && out.start && solved.start) out = { ...out, start: { ...out.start, distance: solved.start.distance } };
  for (const key of ["level", "scale"] as const)
    if (which.includes(key) && out.height && solved.height) out = { ...out, height: { ...out.height, [key]: solved.height[key] } };
  return out;
}

/** What the pins leave unmet, in words; null where all are met. */
export function contradiction(pins: readonly SeenPin[], met: readonly number[], lengths: LengthWords): string | null {
  const missed = pins.flatMap((p, i) => (Math.abs(met[i]! - p.share) > MET ? [i] : []));
  if (missed.length === 0) return null;
  // a farther pin that shall keep more than a nearer one
  for (const a of pins)
    for (const b of pins)
      if (a.distance > 1.01 * b.distance && a.share > b.share + MET && missed.some((i) => pins[i] === a || pins[i] === b))
        return `The pin ${lengths.exact(a.distance, 3)} away should keep more than the one at ${lengths.exact(b.distance, 3)}. Only height, a region or a start farther off can part them.`;
  const i = missed.reduce((w, k) => (Math.abs(met[k]! - pins[k]!.share) > Math.abs(met[w]! - pins[w]!.share) ? k : w));
  return `The pin ${lengths.exact(pins[i]!.distance, 3)} away keeps ${Math.round(100 * met[i]!)} % instead of ${Math.round(100 * pins[i]!.share)} %: the numbers that may change cannot meet all pins.`;
}
