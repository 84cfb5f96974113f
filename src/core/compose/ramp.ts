/** Ramps between two places of a picture. */

/** Where a point lies between a (0) and b (1), by what is seen of it: right angles are the picture's. */
export function rampPlace(x: number, y: number, a: readonly [number, number], b: readonly [number, number], aspect: number): number {
  const [dx, dy] = [(b[0] - a[0]) * aspect, b[1] - a[1]];
  const length2 = dx * dx + dy * dy;
  if (!(length2 > 0)) return 0;
  return Math.max(0, Math.min(1, ((x - a[0]) * aspect * dx + (y - a[1]) * dy) / length2));
}
