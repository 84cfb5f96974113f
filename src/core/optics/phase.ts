/** Phase functions. Portable subset: compiled into the kernel too. */

/**
 * Henyey–Greenstein phase function (1/sr); `cos` is between the directions of travel, so g > 0
 * throws light forward. Henyey and Greenstein 1941.
 */
export function henyeyGreenstein(cos: f64, g: f64): f64 {
  const d = 1.0 + g * g - 2.0 * g * cos;
  return (0.07957747154594767 * (1.0 - g * g)) / (d * Math.sqrt(d));
}

/** Cosine drawn from Henyey–Greenstein by inversion of its distribution; `u` in [0, 1). */
export function sampleHenyeyGreenstein(g: f64, u: f64): f64 {
  if (Math.abs(g) < 1e-3) {
    // the inverse loses digits as g → 0: first-order expansion of it, error O(g²)
    const c = 1.0 - 2.0 * u;
    return Math.max(-1.0, Math.min(1.0, -c + 1.5 * g * (1.0 - c * c)));
  }
  const s = (1.0 - g * g) / (1.0 - g + 2.0 * g * u);
  return Math.max(-1.0, Math.min(1.0, (1.0 + g * g - s * s) / (2.0 * g)));
}
