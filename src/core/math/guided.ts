/** The guided filter: a plane softened over a window, but along the edges of another. */

/** Means over squares of 2 radius + 1 pixels, cut at the borders; in time that does not grow with them. */
export function boxMean(plane: Float32Array, width: number, height: number, radius: number): Float32Array {
  const rows = new Float32Array(plane.length),
    out = new Float32Array(plane.length);
  const [across, down] = [counts(width, radius), counts(height, radius)];
  for (let y = 0; y < height; y++) {
    const at = y * width;
    let sum = 0;
    for (let x = 0; x < Math.min(radius, width); x++) sum += plane[at + x]!;
    for (let x = 0; x < width; x++) {
      if (x + radius < width) sum += plane[at + x + radius]!;
      if (x > radius) sum -= plane[at + x - radius - 1]!;
      rows[at + x] = sum * across[x]!;
    }
  }
  const sums = new Float64Array(width);
  for (let y = 0; y < Math.min(radius, height); y++) for (let x = 0; x < width; x++) sums[x]! += rows[y * width + x]!;
  for (let y = 0; y < height; y++) {
    const comes = (y + radius) * width,
      goes = (y - radius - 1) * width,
      to = y * width;
    if (y + radius < height) for (let x = 0; x < width; x++) sums[x]! += rows[comes + x]!;
    if (y > radius) for (let x = 0; x < width; x++) sums[x]! -= rows[goes + x]!;
    const share = down[y]!;
    for (let x = 0; x < width; x++) out[to + x] = sums[x]! * share;
  }
  return out;
}

/** One over how many of n places lie within a radius of each. */
const counts = (n: number, radius: number): Float64Array =>
  Float64Array.from({ length: n }, (_, i) => 1 / (Math.min(n - 1, i + radius) - Math.max(0, i - radius) + 1));

/** A guide with its means and variances, which are the same for all that it guides. */
export interface Guide {
  values: Float32Array;
  mean: Float32Array;
  variance: Float32Array;
  width: number;
  height: number;
  radius: number;
}

export function guideOf(values: Float32Array, width: number, height: number, radius: number): Guide {
  const mean = boxMean(values, width, height, radius);
  const squares = new Float32Array(values.length);
  for (let i = 0; i < values.length; i++) squares[i] = values[i]! * values[i]!;
  const variance = boxMean(squares, width, height, radius);
  for (let i = 0; i < variance.length; i++) variance[i] = Math.max(0, variance[i]! - mean[i]! * mean[i]!);
  return { values, mean, variance, width, height, radius };
}

/**
 * Softens a plane as a local line of its guide (He, Sun and Tang 2013, eq. 5, 6 and 8).
 * @param evenness variance of the guide below which it counts as even
 */
export function guidedFilter(plane: Float32Array, guide: Guide, evenness: number): Float32Array {
  const { values, mean, variance, width, height, radius } = guide;
  const n = plane.length;
  const products = new Float32Array(n);
  for (let i = 0; i < n; i++) products[i] = values[i]! * plane[i]!;
  // in their places: slope and intercept of each window
  const slopes = boxMean(products, width, height, radius),
    others = boxMean(plane, width, height, radius);
  for (let i = 0; i < n; i++) {
    const slope = (slopes[i]! - mean[i]! * others[i]!) / (variance[i]! + evenness);
    slopes[i] = slope;
    others[i]! -= slope * mean[i]!;
  }
  const [a, b] = [boxMean(slopes, width, height, radius), boxMean(others, width, height, radius)];
  for (let i = 0; i < n; i++) b[i]! += a[i]! * values[i]!;
  return b;
}

/** Softens a plane evenly, by two means one after the other. */
export const softened = (plane: Float32Array, width: number, height: number, radius: number): Float32Array =>
  boxMean(boxMean(plane, width, height, radius), width, height, radius);
