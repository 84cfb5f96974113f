/** The guided filter: a plane softened over a window, but along the edges of another. */

/** Means over squares of 2 radius + 1 pixels, cut at the borders; in time that does not grow with them. */
export function boxMean(plane: Float32Array, width: number, height: number, radius: number): Float32Array {
  const rows = new Float32Array(plane.length),
    out = new Float32Array(plane.length);
  for (let y = 0; y < height; y++) {
    const at = y * width;
    let sum = 0;
    for (let x = 0; x < Math.min(radius, width); x++) sum += plane[at + x]!;
    for (let x = 0; x < width; x++) {
      if (x + radius < width) sum += plane[at + x + radius]!;
      if (x - radius - 1 >= 0) sum -= plane[at + x - radius - 1]!;
      rows[at + x] = sum / (Math.min(width - 1, x + radius) - Math.max(0, x - radius) + 1);
    }
  }
  const sums = new Float64Array(width);
  for (let y = 0; y < Math.min(radius, height); y++) for (let x = 0; x < width; x++) sums[x]! += rows[y * width + x]!;
  for (let y = 0; y < height; y++) {
    const comes = y + radius < height ? (y + radius) * width : -1,
      goes = y - radius - 1 >= 0 ? (y - radius - 1) * width : -1;
    const count = Math.min(height - 1, y + radius) - Math.max(0, y - radius) + 1;
    for (let x = 0; x < width; x++) {
      if (comes >= 0) sums[x]! += rows[comes + x]!;
      if (goes >= 0) sums[x]! -= rows[goes + x]!;
      out[y * width + x] = sums[x]! / count;
    }
  }
  return out;
}

/**
 * Softens a plane as a local line of its guide (He, Sun and Tang 2013, eq. 5, 6 and 8).
 * @param guide null: softened evenly @param evenness variance of the guide below which it counts as even
 */
export function guidedFilter(
  plane: Float32Array,
  guide: Float32Array | null,
  width: number,
  height: number,
  radius: number,
  evenness: number,
): Float32Array {
  const mean = (p: Float32Array): Float32Array => boxMean(p, width, height, radius);
  if (!guide) return mean(mean(plane));
  const n = plane.length;
  const [meanG, meanP] = [mean(guide), mean(plane)];
  const meanGG = mean(guide.map((g) => g * g)),
    meanGP = mean(guide.map((g, i) => g * plane[i]!));
  const [a, b] = [new Float32Array(n), new Float32Array(n)];
  for (let i = 0; i < n; i++) {
    const g = meanG[i]!,
      variance = Math.max(0, meanGG[i]! - g * g);
    a[i] = (meanGP[i]! - g * meanP[i]!) / (variance + evenness);
    b[i] = meanP[i]! - a[i]! * g;
  }
  const [meanA, meanB] = [mean(a), mean(b)];
  return plane.map((_, i) => meanA[i]! * guide[i]! + meanB[i]!);
}
