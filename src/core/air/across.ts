/** How dense a medium must be to leave a stated share of light across the view. */
import type { SceneDocument } from "../document/schema";
import { luminance, type Rgb } from "../optics/colour";
import type { Asked } from "./facts";
import { withoutLights } from "../section/probe";

const [ACROSS, DOWN] = [9, 6];
/** Rays that must cross the medium for the view to say anything of it. */
const MIN_CROSSING = 5;
/** Bisections of the factor's logarithm. */
const STEPS = 60;

/**
 * The density with which a medium by itself leaves `share` of light (luminance) along the middle one of the view's rays that cross it,
 * each up to what it meets. Optical depth goes with density, so one look at the frame is enough.
 * @param reach distance (m) that background rays are followed to
 * @returns null where the view hardly meets the medium
 */
export function densityAcross(
  doc: SceneDocument,
  index: number,
  share: number,
  ask: Pick<Asked, "distanceAt" | "depth">,
  reach: number,
): number | null {
  const medium = doc.air[index]!;
  if (!(medium.density > 0)) return null;
  const air = { ...withoutLights(doc), air: doc.air.map((m, i) => ({ ...m, on: i === index })) };
  const left = (depths: Rgb, factor: number): number => luminance(...(depths.map((t) => Math.exp(-t * factor)) as Rgb));
  const rays = Array.from({ length: ACROSS * DOWN }, (_, i) => {
    const [x, y] = [((i % ACROSS) + 0.5) / ACROSS, (Math.floor(i / ACROSS) + 0.5) / DOWN];
    const depths: Rgb = [...ask.depth(air, x, y, ask.distanceAt(air, x, y) ?? reach)];
    return { depths, left: left(depths, 1) };
  });
  const crossing = rays.filter(({ depths }) => Math.max(...depths) > 0).sort((a, b) => a.left - b.left);
  if (crossing.length < MIN_CROSSING) return null;
  const { depths } = crossing[crossing.length >> 1]!;
  let [low, high] = [-40, 40];
  for (let i = 0; i < STEPS; i++) {
    const middle = (low + high) / 2;
    if (left(depths, Math.exp(middle)) > share) low = middle;
    else high = middle;
  }
  return Number((medium.density * Math.exp((low + high) / 2)).toPrecision(3));
}
