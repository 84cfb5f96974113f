/** Triangles in order of size, for drawings that have no time for all. */

/** Classes of area, the largest first; each holds triangles of half the area of the one before. */
export const CLASSES = 48;
/** Area of the first class, m². */
const LARGEST = 4096;

/** Triangles with the larger ones first, and how many there are in each class of area. */
export interface Sorted {
  positions: Float32Array;
  colours: Uint8Array;
  classes: number[];
}

const sum = (of: readonly number[]): number => of.reduce((a, n) => a + n, 0);

function areaOf(p: Float32Array, at: number): number {
  const side = (corner: number, k: number): number => p[at + 3 * corner + k]! - p[at + k]!;
  const cross = (a: number, b: number): number => side(1, a) * side(2, b) - side(1, b) * side(2, a);
  return Math.hypot(cross(1, 2), cross(2, 0), cross(0, 1)) / 2;
}

/** A step through `count` things that comes to each once, far from the last. */
function strideOf(count: number): number {
  const common = (a: number, b: number): number => (b === 0 ? a : common(b, a % b));
  let step = Math.max(1, Math.round(count * 0.618));
  while (common(count, step) !== 1) step++;
  return step;
}

/**
 * Triangles in classes of area, so that any number of the first are the largest; inside a class spread over the shape.
 * @param positions 9 floats a triangle @param colours 9 bytes a triangle @param scale of the shape where it stands
 */
export function largestFirst(positions: Float32Array, colours: Uint8Array, scale = 1): Sorted {
  const count = positions.length / 9;
  const classes = new Array<number>(CLASSES).fill(0);
  const classOf = Uint8Array.from({ length: count }, (_, i) => {
    const area = areaOf(positions, 9 * i) * scale * scale;
    return Math.max(0, Math.min(CLASSES - 1, Math.floor(Math.log2(LARGEST / area))));
  });
  for (const c of classOf) classes[c]!++;
  const next = classes.map((_, c) => sum(classes.slice(0, c)));
  const out = { positions: new Float32Array(9 * count), colours: new Uint8Array(9 * count), classes };
  const step = count > 0 ? strideOf(count) : 0;
  for (let n = 0, i = 0; n < count; n++, i = (i + step) % count) {
    const to = 9 * next[classOf[i]!]!++;
    out.positions.set(positions.subarray(9 * i, 9 * i + 9), to);
    out.colours.set(colours.subarray(9 * i, 9 * i + 9), to);
  }
  return out;
}

/** The classes of a shape of which `keep` triangles are left, spread evenly over it. */
export function classesLeft(classes: readonly number[], keep: number): number[] {
  const all = sum(classes);
  if (keep >= all) return [...classes];
  const upTo = (n: number): number => Math.round((n * keep) / all);
  let before = 0;
  return classes.map((n) => upTo((before += n)) - upTo(before - n));
}
