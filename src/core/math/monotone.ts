/** Smooth curves through points that never swing past them. */

/**
 * Cubic curve through points that rises where they rise and falls where they fall (Fritsch and Carlson 1980, the tangents of
 * Fritsch and Butland 1984). Level before the first and after the last.
 * @param points with ascending first numbers, one at least
 */
export function monotoneCurve(points: readonly (readonly [number, number])[]): (x: number) => number {
  const n = points.length;
  const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
  const step = Array.from({ length: n - 1 }, (_, i) => xs[i + 1]! - xs[i]!);
  const rise = step.map((h, i) => (ys[i + 1]! - ys[i]!) / h);
  const tangent = xs.map((_, i) => {
    if (i === 0 || i === n - 1) return rise[i === 0 ? 0 : n - 2] ?? 0;
    const [a, b] = [rise[i - 1]!, rise[i]!];
    if (a * b <= 0) return 0;
    const [h, k] = [step[i - 1]!, step[i]!];
    // the harmonic mean, weighed by the lengths of the steps
    return (3 * (h + k)) / ((2 * k + h) / a + (k + 2 * h) / b);
  });
  return (x) => {
    if (!(x > xs[0]!)) return ys[0]!;
    if (x >= xs[n - 1]!) return ys[n - 1]!;
    let i = 0;
    while (x >= xs[i + 1]!) i++;
    const h = step[i]!,
      t = (x - xs[i]!) / h,
      u = 1 - t;
    return u * u * (1 + 2 * t) * ys[i]! + t * u * u * h * tangent[i]! + t * t * (3 - 2 * t) * ys[i + 1]! - t * t * u * h * tangent[i + 1]!;
  };
}
