/**
 * Light scattered many times in a plane layer, in closed form: the delta-Eddington approximation (Joseph, Wiscombe
 * and Weinman 1976) of Shettle and Weinman 1970. Depths are measured downwards from the top of the layer.
 * Portable subset: compiled into the kernel too.
 */

/** Set by eddington(): mean luminance of diffuse light, and its slope with the cosine downwards. */
export let diffuseMean: f64 = 0.0;
export let diffuseSlope: f64 = 0.0;
/** Asymmetry that belongs to the slope. */
export let diffuseG: f64 = 0.0;

/**
 * Diffuse light at depth `tau` of a layer `total` deep.
 * @param omega single-scattering albedo @param g mean cosine of the phase function
 * @param mu0 cosine of the sun's zenith angle; 0 or less for no sun @param sun its illuminance on a plane facing it
 * @param sky luminance of an even sky above @param ground albedo of the ground below
 */
export function eddington(tau: f64, total: f64, omega: f64, g: f64, mu0: f64, sun: f64, sky: f64, ground: f64): void {
  // the forward peak counts as not scattered
  const f = g * g;
  const scaled = 1.0 - omega * f;
  const w = Math.min(0.99999, ((1.0 - f) * omega) / scaled);
  const a = g / (1.0 + g);
  const t = tau * scaled;
  const end = Math.min(total * scaled, 200.0);
  const at = Math.min(t, end);
  const k = Math.sqrt(3.0 * (1.0 - w) * (1.0 - w * a));
  const p = Math.sqrt((3.0 * (1.0 - w)) / (1.0 - w * a));
  let alpha = 0.0,
    beta = 0.0,
    m = 1.0,
    flux = 0.0;
  if (mu0 > 1e-3 && sun > 0.0) {
    m = mu0;
    // the particular solution has a pole where k μ0 = 1, which a hair's breadth avoids
    if (Math.abs(1.0 - k * m) < 1e-4) m *= 1.0002;
    flux = sun / 3.141592653589793;
    const d = 1.0 - k * k * m * m;
    alpha = (0.75 * w * flux * m * m * (1.0 + a * (1.0 - w))) / d;
    beta = (0.75 * w * flux * m * (1.0 + 3.0 * a * (1.0 - w) * m * m)) / d;
  }
  // above, what comes down is the sky; below, what goes up is what the ground sends back. The growing solution is
  // taken from the bottom, so that nothing overflows
  const e = Math.exp(-k * end);
  const beam = flux > 0.0 ? Math.exp(-end / m) : 0.0;
  const h = 2.0 / 3.0;
  const a11 = 1.0 + h * p,
    a12 = (1.0 - h * p) * e;
  const b1 = sky + alpha + h * beta;
  const r = ground;
  const a21 = (1.0 - h * p - r * (1.0 + h * p)) * e;
  const a22 = 1.0 + h * p - r * (1.0 - h * p);
  const b2 = beam * ((1.0 - r) * alpha - (1.0 + r) * h * beta + r * m * flux);
  const det = a11 * a22 - a12 * a21;
  const c1 = (b1 * a22 - a12 * b2) / det;
  const c2 = (a11 * b2 - a21 * b1) / det;
  const down = c1 * Math.exp(-k * at),
    up = c2 * Math.exp(-k * (end - at));
  const here = flux > 0.0 ? Math.exp(-at / m) : 0.0;
  diffuseMean = Math.max(0.0, down + up - alpha * here);
  diffuseSlope = p * (down - up) - beta * here;
  diffuseG = a;
}

/** Share of the sun's beam left at optical depth `depth` along it, the forward peak counted as not scattered. */
export function beamLeft(depth: f64, omega: f64, g: f64): f64 {
  return Math.exp(-depth * (1.0 - omega * g * g));
}
