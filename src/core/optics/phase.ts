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

/** Rayleigh's phase function of small molecules (1/sr). */
export function rayleigh(cos: f64): f64 {
  return 0.05968310365946075 * (1.0 + cos * cos);
}

/** Cosine drawn from Rayleigh's phase function: the real root of c³ + 3c = 8u - 4, by Cardano. */
export function sampleRayleigh(u: f64): f64 {
  const q = 4.0 * u - 2.0;
  const d = Math.sqrt(1.0 + q * q);
  return Math.max(-1.0, Math.min(1.0, Math.cbrt(q + d) - Math.cbrt(d - q)));
}

/** Draine's phase function (1/sr; Draine 2003): Henyey–Greenstein times 1 + α cos², normalised. */
export function draine(cos: f64, g: f64, alpha: f64): f64 {
  return (henyeyGreenstein(cos, g) * (1.0 + alpha * cos * cos)) / (1.0 + (alpha * (1.0 + 2.0 * g * g)) / 3.0);
}

/*
 * Water droplets by diameter d (µm, 5 to 50): one Henyey–Greenstein and one Draine lobe, parameters by the fit
 * of Jendersie and d'Eon 2023, "An Approximate Mie Scattering Function for Fog and Cloud Rendering".
 */
export function dropletForward(d: f64): f64 {
  return Math.exp(-0.0990567 / (d - 1.67154));
}
export function dropletDraineG(d: f64): f64 {
  return Math.exp(-2.20679 / (d + 3.91029) - 0.428934);
}
export function dropletDraineAlpha(d: f64): f64 {
  return Math.exp(3.62489 - 8.29288 / (d + 5.52825));
}
export function dropletDraineShare(d: f64): f64 {
  return Math.exp(-0.599085 / (d - 0.641583) - 0.665888);
}
