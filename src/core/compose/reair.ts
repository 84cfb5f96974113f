/**
 * Air of a finished picture made thicker or thinner. Surfaces through optical depth L are carried to kL exactly: × T^(k−1). The air's light is
 * taken as that of evenly lit air, whose share of what it would be at endless depth is 1 − T: × (1 − T^k) / (1 − T). Light that would be
 * scattered more often, and shadows that would deepen, are not known: an approximation, exact at k = 1.
 */
import { monotoneCurve } from "../math/monotone";
import type { Stack } from "./stack";

/** Transmittance below which nothing is left that could be brought back. */
export const DARKEST = 1e-4;
/** Optical depth below which a series is taken in place of differences that would cancel. */
export const THIN = 0.02;

/** Factor of light of surfaces that comes through transmittance t, at k times the optical depth. */
export const surfacesFactor = (t: number, k: number): number => Math.pow(Math.max(DARKEST, Math.min(1, t)), k - 1);

/** Factor of the air's light where transmittance t is left behind it. */
export function airFactor(t: number, k: number): number {
  const depth = -Math.log(Math.max(DARKEST, Math.min(1, t)));
  if (depth < THIN) {
    const kd = k * depth;
    return (k * (1 - kd / 2 + (kd * kd) / 6)) / (1 - depth / 2 + (depth * depth) / 6);
  }
  return (1 - Math.exp(-k * depth)) / (1 - Math.exp(-depth));
}

/** Whether a stack's air is as it was rendered. */
export const isAsRendered = ({ air }: Pick<Stack, "air">): boolean => air.density === 1 && air.by.length === 0;

/** Factor of the optical depth by pixel. @param distance m; null where none is known: the far end counts */
export function depthFactors({ density, by }: Stack["air"], distance: Float32Array | null, pixels: number): Float32Array {
  if (by.length === 0) return new Float32Array(pixels).fill(density);
  const curve = monotoneCurve(by);
  const last = density * by.at(-1)![1];
  return Float32Array.from({ length: pixels }, (_, i) => {
    const d = distance ? distance[i]! : Infinity;
    return d < Infinity ? density * curve(d) : last;
  });
}
