/** How distances run along a section: evenly, or ever closer together so that near and far are both seen. */
export type DistanceScale = "even" | "logarithmic";

/** Share of a section's width (0 … 1) at which a distance s of [s0, s1] lies, and the other way. */
export interface Along {
  share(s: number): number;
  distance(share: number): number;
}

/** Metres, as a share of the window's width, up to which the stretched scale is about even. */
const NEAR = 0.01;

export function along(s0: number, s1: number, scale: DistanceScale): Along {
  const width = s1 - s0;
  if (scale === "even") return { share: (s) => (s - s0) / width, distance: (f) => s0 + f * width };
  // asinh: even about the lens, logarithmic far from it on either side
  const k = NEAR * width;
  const [a, b] = [Math.asinh(s0 / k), Math.asinh(s1 / k)];
  return { share: (s) => (Math.asinh(s / k) - a) / (b - a), distance: (f) => k * Math.sinh(a + f * (b - a)) };
}
