/**
 * Lorenz–Mie scattering of a sphere by the series of Bohren and Huffman 1983 (chapter 4), with the logarithmic
 * derivative by downward recurrence: written for these tests alone, to judge fits by.
 */
type Complex = [number, number];
const mul = (a: Complex, b: Complex): Complex => [a[0] * b[0] - a[1] * b[1], a[0] * b[1] + a[1] * b[0]];
const div = (a: Complex, b: Complex): Complex => {
  const d = b[0] * b[0] + b[1] * b[1];
  return [(a[0] * b[0] + a[1] * b[1]) / d, (a[1] * b[0] - a[0] * b[1]) / d];
};

export interface Mie {
  /** Efficiency of scattering. */
  qsca: number;
  /** Mean cosine. */
  g: number;
  /** Phase function (1/sr). */
  phase(cos: number): number;
}

/** A sphere of size parameter x = π d / λ and real refractive index m. */
export function mie(x: number, m: number): Mie {
  const terms = Math.ceil(x + 4.05 * Math.cbrt(x) + 2);
  const mx = m * x;
  const far = Math.max(terms, Math.ceil(mx)) + 16;
  const D = new Float64Array(far + 1);
  for (let n = far; n > 0; n--) D[n - 1] = n / mx - 1 / (D[n]! + n / mx);
  const a: Complex[] = [],
    b: Complex[] = [];
  let psi0 = Math.cos(x),
    psi1 = Math.sin(x),
    chi0 = -Math.sin(x),
    chi1 = Math.cos(x);
  let qsca = 0;
  for (let n = 1; n <= terms; n++) {
    const psi = ((2 * n - 1) / x) * psi1 - psi0;
    const chi = ((2 * n - 1) / x) * chi1 - chi0;
    const xi: Complex = [psi, -chi],
      xi1: Complex = [psi1, -chi1];
    const coefficient = (t: number): Complex => div([t * psi - psi1, 0], [t * xi[0] - xi1[0], t * xi[1] - xi1[1]]);
    a.push(coefficient(D[n]! / m + n / x));
    b.push(coefficient(m * D[n]! + n / x));
    const [p, q] = [a[n - 1]!, b[n - 1]!];
    qsca += (2 * n + 1) * (p[0] ** 2 + p[1] ** 2 + q[0] ** 2 + q[1] ** 2);
    psi0 = psi1;
    psi1 = psi;
    chi0 = chi1;
    chi1 = chi;
  }
  qsca *= 2 / (x * x);
  let g = 0;
  for (let n = 1; n < terms; n++) {
    const conj = (z: Complex): Complex => [z[0], -z[1]];
    const [a0, b0, a1, b1] = [a[n - 1]!, b[n - 1]!, a[n]!, b[n]!];
    g += ((n * (n + 2)) / (n + 1)) * (mul(a0, conj(a1))[0] + mul(b0, conj(b1))[0]) + ((2 * n + 1) / (n * (n + 1))) * mul(a0, conj(b0))[0];
  }
  g *= 4 / (x * x * qsca);
  const phase = (cos: number): number => {
    let pi0 = 0,
      pi1 = 1;
    let s1: Complex = [0, 0],
      s2: Complex = [0, 0];
    for (let n = 1; n <= terms; n++) {
      const tau = n * cos * pi1 - (n + 1) * pi0;
      const k = (2 * n + 1) / (n * (n + 1));
      const [p, q] = [a[n - 1]!, b[n - 1]!];
      s1 = [s1[0] + k * (p[0] * pi1 + q[0] * tau), s1[1] + k * (p[1] * pi1 + q[1] * tau)];
      s2 = [s2[0] + k * (p[0] * tau + q[0] * pi1), s2[1] + k * (p[1] * tau + q[1] * pi1)];
      const next = ((2 * n + 1) / n) * cos * pi1 - ((n + 1) / n) * pi0;
      pi0 = pi1;
      pi1 = next;
    }
    // ∫ (|S1|² + |S2|²)/2 dω = π x² Q
    return (s1[0] ** 2 + s1[1] ** 2 + s2[0] ** 2 + s2[1] ** 2) / (2 * Math.PI * x * x * qsca);
  };
  return { qsca, g, phase };
}
