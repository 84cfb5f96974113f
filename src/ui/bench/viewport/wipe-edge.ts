/** The edge of a wipe: a line across the picture at any angle, and what lies on its first side. */

export interface WipeEdge {
  /** Place across the picture along the edge's normal, 0 to 1: at 0 nothing lies before it, at 1 all. */
  edge: number;
  /** Degrees by which it is turned from upright, clockwise. */
  angle: number;
}
type Size = readonly [width: number, height: number];
type Point = readonly [x: number, y: number];

/** Its normal, and how far the picture reaches along that from the middle. */
function normalOf(angle: number, [w, h]: Size): { n: Point; reach: number } {
  const a = (angle * Math.PI) / 180;
  const n = [Math.cos(a), Math.sin(a)] as const;
  return { n, reach: (w * Math.abs(n[0]) + h * Math.abs(n[1])) / 2 };
}

/** How far a point (pixels) lies past the edge. */
export function pastEdge({ edge, angle }: WipeEdge, size: Size, [x, y]: Point): number {
  const { n, reach } = normalOf(angle, size);
  return (x - size[0] / 2) * n[0] + (y - size[1] / 2) * n[1] - (2 * edge - 1) * reach;
}

/** The edge, as it is turned, through a point. */
export function edgeThrough(angle: number, size: Size, p: Point): number {
  const { reach } = normalOf(angle, size);
  return Math.max(0, Math.min(1, (pastEdge({ edge: 0.5, angle }, size, p) / reach + 1) / 2));
}

/** The part of the picture before the edge as a CSS polygon. */
export function clipBefore(of: WipeEdge, size: Size): string {
  const [w, h] = size;
  const corners: Point[] = [
    [0, 0],
    [w, 0],
    [w, h],
    [0, h],
  ];
  const kept = corners.flatMap((a, i) => {
    const b = corners[(i + 1) % 4]!;
    const [p, q] = [pastEdge(of, size, a), pastEdge(of, size, b)];
    const out: Point[] = p <= 0 ? [a] : [];
    if (p <= 0 !== q <= 0) out.push([a[0] + (p / (p - q)) * (b[0] - a[0]), a[1] + (p / (p - q)) * (b[1] - a[1])]);
    return out;
  });
  const places = (kept.length > 0 ? kept : [[0, 0] as Point]).map(
    ([x, y]) => `${((100 * x) / w).toFixed(3)}% ${((100 * y) / h).toFixed(3)}%`,
  );
  return `polygon(${places.join(", ")})`;
}

/** The point of the edge that is nearest to the picture's middle (pixels). */
export function middleOf({ edge, angle }: WipeEdge, size: Size): Point {
  const { n, reach } = normalOf(angle, size);
  const t = (2 * edge - 1) * reach;
  return [size[0] / 2 + t * n[0], size[1] / 2 + t * n[1]];
}

/** An angle between −180 and 180 degrees. */
export const tidyAngle = (degrees: number): number => Math.round((((degrees % 360) + 540) % 360) - 180);
