/**
 * Exponential height profile in closed form. Relative density is 1 at and below the level and
 * exp(-y / H) at height y above it. Portable subset: compiled into the kernel too.
 */

/** Relative density at height `y` (m above the level) for scale height `H` (m). */
export function heightDensity(y: f64, H: f64): f64 {
  return y <= 0.0 ? 1.0 : Math.exp(-y / H);
}

/** ∫ exp(-y/H) along `length` metres that stay at or above the level; `low` is the lower end's height. */
function aboveIntegral(low: f64, slope: f64, H: f64, length: f64): f64 {
  const s = Math.abs(slope);
  const base = Math.exp(-low / H);
  if (s === 0.0) return base === 0.0 ? 0.0 : base * length;
  const x = (s * length) / H;
  // Written from the lower end so that nothing overflows; expm1 keeps near-level rays exact.
  if (x < 1e-12) return base * length;
  return ((base * H) / s) * -Math.expm1(-x);
}

/**
 * Density integral ∫ρ dt (m) of a ray that starts at height `y` above the level and climbs
 * `slope` metres per metre, over `length` metres (may be Infinity).
 */
export function heightIntegral(y: f64, slope: f64, H: f64, length: f64): f64 {
  if (length <= 0.0) return 0.0;
  if (y < 0.0) {
    if (slope <= 0.0) return length;
    const cross = -y / slope;
    if (cross >= length) return length;
    return cross + aboveIntegral(0.0, slope, H, length - cross);
  }
  if (slope >= 0.0) return aboveIntegral(y, slope, H, length);
  const cross = y / -slope;
  if (cross >= length) return aboveIntegral(y + slope * length, slope, H, length);
  return aboveIntegral(0.0, slope, H, cross) + (length - cross);
}

/** Inverse of the integral above the level: distance at which ∫ρ reaches `depth`; Infinity if never. */
function aboveInverse(y: f64, slope: f64, H: f64, depth: f64): f64 {
  const r = y / H;
  if (r > 600.0) {
    if (slope >= 0.0) return Infinity;
    // exp(y/H) would overflow: log1p(q) = log(q) here
    return (H / -slope) * (Math.log((depth * -slope) / H) + r);
  }
  const grown = depth * Math.exp(r);
  const q = (grown * slope) / H;
  if (q >= 1.0) return Infinity;
  if (Math.abs(q) < 1e-12) return grown;
  return (-H / slope) * Math.log1p(-q);
}

/** Distance (m) along the ray at which ∫ρ dt reaches `depth` (m); Infinity if it never does. */
export function heightInverse(y: f64, slope: f64, H: f64, depth: f64): f64 {
  if (y < 0.0) {
    if (slope <= 0.0) return depth;
    const cross = -y / slope;
    if (depth <= cross) return depth;
    return cross + aboveInverse(0.0, slope, H, depth - cross);
  }
  if (slope >= 0.0) return aboveInverse(y, slope, H, depth);
  const cross = y / -slope;
  const toLevel = aboveIntegral(0.0, slope, H, cross);
  if (depth <= toLevel) return Math.min(cross, aboveInverse(y, slope, H, depth));
  return cross + (depth - toLevel);
}
