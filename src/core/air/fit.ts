/** Bounded least squares by damped Gauss–Newton steps (Levenberg 1944, Marquardt 1963) with numerical derivatives. */

export interface Parameter {
  start: number;
  min: number;
  max: number;
  /** Moves by factors rather than by steps. */
  logarithmic: boolean;
  /** Change (in its own measure, or in logarithms) that counts as large: sets the derivatives' steps and the pull back to the start. */
  scale: number;
}

/** Pull towards where a parameter began, against a residual of 1: decides what the residuals leave open. */
const PULL = 0.003;
const STEPS = 40;

/**
 * Parameters that make `residuals` small in the sense of least squares.
 * @param residuals as many numbers for any parameters; not finite ones count as large
 */
export function fit(parameters: readonly Parameter[], residuals: (values: number[]) => number[]): number[] {
  const inward = (p: Parameter, v: number): number => (p.logarithmic ? Math.log(Math.max(v, 1e-300)) : v) / p.scale;
  const outward = (p: Parameter, u: number): number => {
    const v = p.logarithmic ? Math.exp(u * p.scale) : u * p.scale;
    return Math.max(p.min, Math.min(p.max, v));
  };
  const begin = parameters.map((p) => inward(p, Math.max(p.min, Math.min(p.max, p.start))));
  const all = (u: readonly number[]): number[] => [
    ...residuals(parameters.map((p, i) => outward(p, u[i]!))).map((r) => (Number.isFinite(r) ? r : 1e3)),
    ...u.map((x, i) => PULL * (x - begin[i]!)),
  ];
  const cost = (r: readonly number[]): number => r.reduce((a, v) => a + v * v, 0);
  let u = [...begin];
  let r = all(u);
  let damping = 1e-2;
  const n = parameters.length;
  for (let step = 0; step < STEPS; step++) {
    const h = 1e-3;
    const jacobian = u.map((_, i) => {
      const forward = all(u.map((x, k) => (k === i ? x + h : x)));
      const back = all(u.map((x, k) => (k === i ? x - h : x)));
      return forward.map((v, k) => (v - back[k]!) / (2 * h));
    });
    const a = Array.from({ length: n }, (_, i) =>
      Array.from({ length: n }, (__, j) => jacobian[i]!.reduce((s, v, k) => s + v * jacobian[j]![k]!, 0)),
    );
    const g = jacobian.map((row) => row.reduce((s, v, k) => s + v * r[k]!, 0));
    let better = false;
    for (let tries = 0; tries < 8 && !better; tries++) {
      const d = solve(
        a.map((row, i) => row.map((v, j) => (i === j ? v * (1 + damping) + 1e-12 : v))),
        g.map((v) => -v),
      );
      // clamped here too, so that a bound that is met does not hide further progress of the others
      const next = u.map((x, i) => inward(parameters[i]!, outward(parameters[i]!, x + Math.max(-2, Math.min(2, d[i]!)))));
      const tried = all(next);
      if (cost(tried) < cost(r)) {
        better = cost(r) - cost(tried) > 1e-12 * cost(r);
        u = next;
        r = tried;
        damping = Math.max(1e-9, damping / 5);
        if (!better) return parameters.map((p, i) => outward(p, u[i]!));
      } else damping *= 6;
    }
    if (!better) break;
  }
  return parameters.map((p, i) => outward(p, u[i]!));
}

/** Gauss elimination with pivots; zeros where the matrix has no inverse. */
function solve(a: number[][], b: number[]): number[] {
  const n = b.length;
  for (let i = 0; i < n; i++) {
    let pivot = i;
    for (let k = i + 1; k < n; k++) if (Math.abs(a[k]![i]!) > Math.abs(a[pivot]![i]!)) pivot = k;
    [a[i], a[pivot]] = [a[pivot]!, a[i]!];
    [b[i], b[pivot]] = [b[pivot]!, b[i]!];
    if (Math.abs(a[i]![i]!) < 1e-300) return new Array<number>(n).fill(0);
    for (let k = i + 1; k < n; k++) {
      const f = a[k]![i]! / a[i]![i]!;
      for (let j = i; j < n; j++) a[k]![j]! -= f * a[i]![j]!;
      b[k]! -= f * b[i]!;
    }
  }
  const x = new Array<number>(n).fill(0);
  for (let i = n - 1; i >= 0; i--) x[i] = (b[i]! - a[i]!.slice(i + 1).reduce((s, v, k) => s + v * x[i + 1 + k]!, 0)) / a[i]![i]!;
  return x;
}
