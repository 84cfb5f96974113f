/**
 * Plane layers of scattering matter, solved by adding and doubling (van de Hulst 1963; Hansen 1971): written for
 * these tests alone, without randomness and without the code they judge.
 */

/** Gauss–Legendre nodes and weights on [0, 1]. */
export function gauss(n: number): { x: number[]; w: number[] } {
  const x: number[] = [],
    w: number[] = [];
  for (let i = 0; i < n; i++) {
    let z = Math.cos((Math.PI * (i + 0.75)) / (n + 0.5));
    let slope = 1;
    for (let k = 0; k < 100; k++) {
      let [p, q] = [1, 0];
      for (let j = 0; j < n; j++) [p, q] = [((2 * j + 1) * z * p - j * q) / (j + 1), p];
      slope = (n * (z * p - q)) / (z * z - 1);
      const step = p / slope;
      z -= step;
      if (Math.abs(step) < 1e-15) break;
    }
    x.push(0.5 * (1 + z));
    w.push(1 / ((1 - z * z) * slope * slope));
  }
  return { x, w };
}

type Matrix = number[][];
const multiply = (a: Matrix, b: Matrix): Matrix => a.map((row) => b[0]!.map((_, j) => row.reduce((s, v, k) => s + v * b[k]![j]!, 0)));
const plus = (a: Matrix, b: Matrix): Matrix => a.map((r, i) => r.map((v, j) => v + b[i]![j]!));
function inverse(m: Matrix): Matrix {
  const n = m.length;
  const a = m.map((r, i) => [...r, ...Array.from({ length: n }, (_, j) => (i === j ? 1 : 0))]);
  for (let c = 0; c < n; c++) {
    let best = c;
    for (let r = c + 1; r < n; r++) if (Math.abs(a[r]![c]!) > Math.abs(a[best]![c]!)) best = r;
    [a[c], a[best]] = [a[best]!, a[c]!];
    const p = a[c]![c]!;
    for (let k = 0; k < 2 * n; k++) a[c]![k]! /= p;
    for (let r = 0; r < n; r++) {
      if (r === c) continue;
      const f = a[r]![c]!;
      if (f !== 0) for (let k = 0; k < 2 * n; k++) a[r]![k]! -= f * a[c]![k]!;
    }
  }
  return a.map((r) => r.slice(n));
}

/**
 * Radiance that a layer of optical thickness `tau`, albedo `omega` and Henyey–Greenstein `g` sends back and lets
 * through at the nodes' cosines when radiance 1 falls on it from all of one side.
 */
export function slab(tau: number, omega: number, g: number, n = 16): { mu: number[]; back: number[]; through: number[] } {
  const { x: mu, w } = gauss(n);
  // phase function averaged over azimuth, with ∫ over all cosines = 2
  const averaged = (a: number, b: number): number => {
    let sum = 0;
    const steps = 256;
    for (let k = 0; k < steps; k++) {
      const c = a * b + Math.sqrt((1 - a * a) * (1 - b * b)) * Math.cos((2 * Math.PI * (k + 0.5)) / steps);
      sum += (1 - g * g) / (1 + g * g - 2 * g * c) ** 1.5 / steps;
    }
    return sum;
  };
  const forward = mu.map((a) => mu.map((b) => averaged(a, b))),
    backward = mu.map((a) => mu.map((b) => averaged(-a, b)));
  // the quadrature shall lose no light
  for (let i = 0; i < n; i++) {
    const total = w.reduce((s, wj, j) => s + wj * (forward[i]![j]! + backward[i]![j]!), 0) / 2;
    for (let j = 0; j < n; j++) {
      forward[i]![j]! /= total;
      backward[i]![j]! /= total;
    }
  }
  const doublings = Math.ceil(Math.log2(tau / 1e-7));
  const thin = tau / 2 ** doublings;
  const identity = mu.map((_, i) => mu.map((_, j) => (i === j ? 1 : 0)));
  let R = mu.map((m, i) => mu.map((_, j) => ((omega * thin) / (2 * m)) * backward[i]![j]! * w[j]!));
  let T = mu.map((m, i) => mu.map((_, j) => (i === j ? 1 - thin / m : 0) + ((omega * thin) / (2 * m)) * forward[i]![j]! * w[j]!));
  for (let k = 0; k < doublings; k++) {
    const between = inverse(
      plus(
        identity,
        multiply(R, R).map((r) => r.map((v) => -v)),
      ),
    );
    const TB = multiply(T, between);
    R = plus(R, multiply(multiply(TB, R), T));
    T = multiply(TB, T);
  }
  const sum = (m: Matrix): number[] => m.map((r) => r.reduce((a, b) => a + b, 0));
  return { mu, back: sum(R), through: sum(T) };
}

/** Chandrasekhar's H function of isotropic scattering (Radiative Transfer, 1950, chapter V). */
export function chandrasekharH(omega: number): (mu: number) => number {
  const { x, w } = gauss(64);
  let h = x.map(() => 1);
  const at = (mu: number): number =>
    1 / (Math.sqrt(1 - omega) + (omega / 2) * x.reduce((s, m, j) => s + (w[j]! * m * h[j]!) / (mu + m), 0));
  for (let k = 0; k < 2000; k++) {
    const next = x.map(at);
    const change = Math.max(...next.map((v, i) => Math.abs(v - h[i]!)));
    // halfway steps keep the conservative case from swinging
    h = h.map((v, i) => 0.5 * (v + next[i]!));
    if (change < 1e-13) break;
  }
  return at;
}

/** Decay rate of light deep inside, per mean free path: the root k of (ω / 2k) ln((1 + k)/(1 - k)) = 1 (isotropic scattering). */
export function decayRate(omega: number): number {
  let low = 1e-9,
    high = 1 - 1e-15;
  for (let i = 0; i < 200; i++) {
    const k = (low + high) / 2;
    if ((omega / (2 * k)) * Math.log((1 + k) / (1 - k)) > 1) high = k;
    else low = k;
  }
  return low;
}
