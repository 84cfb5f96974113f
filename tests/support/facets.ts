/**
 * An own account of microfacets for tests: GGX with height-correlated Smith shadowing, integrated over outgoing directions (the code
 * under test draws visible facets instead).
 */

/** What facets give back in one bounce by their reflectance at v·h: the integral of D G F / 4 cos(v) over the hemisphere of directions. */
export function facetIntegral(alpha: number, cos: number, reflectance: (vh: number) => number, steps = 240): number {
  const sin = Math.sqrt(1 - cos * cos);
  const lambda = (c: number): number => (Math.sqrt(1 + alpha ** 2 * (1 / (c * c) - 1)) - 1) / 2;
  let sum = 0;
  for (let i = 0; i < steps; i++) {
    // cosines as squares: the grazing end is where shadowing changes fastest
    const u = (i + 0.5) / steps;
    const c = u * u;
    const s = Math.sqrt(1 - c * c);
    for (let j = 0; j < steps; j++) {
      const phi = (Math.PI * (j + 0.5)) / steps;
      const [x, y, z] = [sin + s * Math.cos(phi), s * Math.sin(phi), cos + c];
      const l = Math.hypot(x, y, z);
      const h = z / l;
      const d = alpha ** 2 / (Math.PI * (h * h * (alpha ** 2 - 1) + 1) ** 2);
      const vh = (sin * x + cos * z) / l;
      sum += ((d * reflectance(vh)) / (4 * cos * (1 + lambda(cos) + lambda(c)))) * 2 * u;
    }
  }
  return (sum * 2 * Math.PI) / (steps * steps);
}

/** Cosine-weighted mean over the hemisphere. */
export function overHemisphere(f: (cos: number) => number, steps = 60): number {
  let sum = 0;
  for (let i = 0; i < steps; i++) {
    const c = (i + 0.5) / steps;
    sum += (2 * c * f(c)) / steps;
  }
  return sum;
}
