/**
 * Splits the bounding boxes of triangles that fill them badly (long, thin, slanting ones: bars, blades)
 * before a BVH is built, so that boxes overlap less (after Karras and Aila 2013, early splitting).
 */

/** References to triangles: 6 floats of bounds each (min, max), and the triangle they belong to. */
export interface References {
  bounds: Float32Array;
  triangle: Int32Array;
}

/** Most references, as a multiple of the number of triangles. */
const BUDGET = 1.3;
/** Most pieces of one triangle. */
const MOST_PIECES = 64;

/** Splits triangles (9 floats each) into references. */
export function splitReferences(positions: Float32Array, allowed = true, whole: Uint8Array | null = null): References {
  const n = positions.length / 9;
  const boxes = new Float32Array(6 * Math.max(1, n));
  const priority = new Float32Array(n);
  let total = 0;
  for (let i = 0; i < n; i++) {
    for (let k = 0; k < 3; k++) {
      const a = positions[9 * i + k]!,
        b = positions[9 * i + 3 + k]!,
        c = positions[9 * i + 6 + k]!;
      boxes[6 * i + k] = Math.min(a, b, c);
      boxes[6 * i + 3 + k] = Math.max(a, b, c);
    }
    const x = boxes[6 * i + 3]! - boxes[6 * i]!,
      y = boxes[6 * i + 4]! - boxes[6 * i + 1]!,
      z = boxes[6 * i + 5]! - boxes[6 * i + 2]!;
    // area of the box that no split can save: that of the triangle seen along the axes
    const excess = x * y + y * z + z * x - seenArea(positions, 9 * i);
    priority[i] = excess > 0 && !whole?.[i] ? Math.cbrt(excess) : 0;
    total += priority[i]!;
  }
  const scale = !allowed ? 0 : fitScale(priority, total > 0 ? n / total : 0, (BUDGET - 1) * n);
  const bounds: Float32Array = new Float32Array(6 * Math.max(1, Math.ceil(n * BUDGET)));
  const triangle = new Int32Array(Math.max(1, Math.ceil(n * BUDGET)));
  let used = 0;
  const emit = (id: number, polygon: number[], pieces: number): void => {
    const b = boundsOfPolygon(polygon);
    if (pieces >= 2) {
      let axis = 0;
      for (let k = 1; k < 3; k++) if (b[k + 3]! - b[k]! > b[axis + 3]! - b[axis]!) axis = k;
      const at = (b[axis]! + b[axis + 3]!) / 2;
      const low = clip(polygon, axis, at, 1),
        high = clip(polygon, axis, at, -1);
      if (low.length >= 9 && high.length >= 9) {
        emit(id, low, pieces >> 1);
        emit(id, high, pieces - (pieces >> 1));
        return;
      }
    }
    bounds.set(b, 6 * used);
    triangle[used++] = id;
  };
  for (let i = 0; i < n; i++) {
    // what is left of the budget, one for each triangle still to come
    const room = triangle.length - used - (n - 1 - i);
    const pieces = Math.min(MOST_PIECES, room, 1 + Math.floor(priority[i]! * scale));
    if (pieces < 2) {
      bounds.set(boxes.subarray(6 * i, 6 * i + 6), 6 * used);
      triangle[used++] = i;
    } else emit(i, Array.from(positions.subarray(9 * i, 9 * i + 9)), pieces);
  }
  return { bounds: bounds.subarray(0, 6 * used), triangle: triangle.subarray(0, used) };
}

/** The factor on priorities whose whole parts spend the budget of extra references. */
function fitScale(priority: Float32Array, typical: number, budget: number): number {
  let low = 0,
    high = 16 * typical;
  // of very many a part tells enough
  const step = Math.max(1, Math.floor(priority.length / 100_000));
  for (let round = 0; round < 24; round++) {
    const middle = (low + high) / 2;
    let spent = 0;
    for (let i = 0; i < priority.length; i += step) spent += Math.min(MOST_PIECES - 1, Math.floor(priority[i]! * middle));
    if (spent * step > budget) high = middle;
    else low = middle;
  }
  return low;
}

/** Sum of the triangle's areas projected along the three axes. */
function seenArea(p: Float32Array, at: number): number {
  const ax = p[at + 3]! - p[at]!,
    ay = p[at + 4]! - p[at + 1]!,
    az = p[at + 5]! - p[at + 2]!;
  const bx = p[at + 6]! - p[at]!,
    by = p[at + 7]! - p[at + 1]!,
    bz = p[at + 8]! - p[at + 2]!;
  return 0.5 * (Math.abs(ay * bz - az * by) + Math.abs(az * bx - ax * bz) + Math.abs(ax * by - ay * bx));
}

/** Bounds of a convex polygon, widened to the next 32-bit floats. */
function boundsOfPolygon(p: number[]): number[] {
  const b = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (let i = 0; i < p.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const v = p[i + k]!;
      const slack = Math.abs(v) * 1.2e-7 + 1e-12;
      if (v - slack < b[k]!) b[k] = v - slack;
      if (v + slack > b[k + 3]!) b[k + 3] = v + slack;
    }
  return b;
}

/** Part of a convex polygon on one side of an axis plane (side 1: below). */
function clip(p: number[], axis: number, at: number, side: 1 | -1): number[] {
  const out: number[] = [];
  for (let i = 0; i < p.length; i += 3) {
    const j = (i + 3) % p.length;
    const a = side * (at - p[i + axis]!),
      b = side * (at - p[j + axis]!);
    if (a >= 0) out.push(p[i]!, p[i + 1]!, p[i + 2]!);
    if (a > 0 !== b > 0 && a !== b && a !== 0 && b !== 0) {
      const t = a / (a - b);
      for (let k = 0; k < 3; k++) out.push(k === axis ? at : p[i + k]! + t * (p[j + k]! - p[i + k]!));
    }
  }
  return out;
}
