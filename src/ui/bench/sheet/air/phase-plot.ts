/** Radii of the polar picture of a phase function. */

export type LobeScale = "roots" | "decades";

/** Factors of ten that the scale by decades shows below the peak. */
export const DECADES = 4;

/**
 * Distance from the middle, 0 to 1, of a direction that gets `value` where the strongest gets `peak` (1/sr both): by the cube root, which keeps
 * side light in sight beside a strong peak, or a ring for each factor of ten below the peak, the fourth of them in the middle.
 */
export function lobeRadius(value: number, peak: number, scale: LobeScale): number {
  if (!(value > 0) || !(peak > 0)) return 0;
  const share = Math.min(1, value / peak);
  return scale === "roots" ? Math.cbrt(share) : Math.max(0, 1 + Math.log10(share) / DECADES);
}
