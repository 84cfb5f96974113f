/**
 * Equiangular distance sampling towards a point light (Kulla and Fajardo 2012): the density of
 * distance follows the light's inverse square seen from the ray. `closest` is the ray parameter of
 * the nearest approach, `gap` the distance there (> 0), on the segment [a, b] (b may be Infinity).
 * Portable subset: compiled into the kernel too.
 */
export function equiangularSample(closest: f64, gap: f64, a: f64, b: f64, u: f64): f64 {
  const from = Math.atan((a - closest) / gap);
  const to = Math.atan((b - closest) / gap);
  const t = closest + gap * Math.tan(from + u * (to - from));
  return Math.max(a, Math.min(b, t));
}

/** Density (1/m) of {@link equiangularSample} at distance `t`. */
export function equiangularPdf(closest: f64, gap: f64, a: f64, b: f64, t: f64): f64 {
  const from = Math.atan((a - closest) / gap);
  const to = Math.atan((b - closest) / gap);
  const x = t - closest;
  return gap / ((to - from) * (gap * gap + x * x));
}
