/**
 * Splits the bounding boxes of pairs of triangles that fill them badly (long, thin, slanting ones: bars, blades)
 * before a BVH is built, so that boxes overlap less (after Karras and Aila 2013, early splitting).
 */
import type { Pairs } from "./pairs";

/** References to pairs: 6 floats of bounds each (min, max), and the pair they belong to. */
export interface References {
  bounds: Float32Array;
  pair: Int32Array;
}

/** Most references, as a multiple of the number of pairs. */
const BUDGET = 1.3;
/** Most pieces of one pair. */
const MAX_PIECES = 64;

/**
 * Splits pairs of triangles (9 floats each) into references.
 * @param allowed whether to split at all
 * @param whole 1 for triangles that shall stand in one reference
 */
export function splitReferences(positions: Float32Array, pairs: Pairs, allowed = true, whole: Uint8Array | null = null): References {
  const n = pairs.count;
  const boxes = new Float32Array(6 * Math.max(1, n));
  const priority = new Float32Array(n);
  let total = 0;
  for (let i = 0; i < n; i++) {
    const one = pairs.triangles[2 * i]!,
      two = pairs.triangles[2 * i + 1]!;
    for (let k = 0; k < 3; k++) {
      const a = 9 * one + k,
        b = 9 * (two < 0 ? one : two) + k;
      const p = positions;
      boxes[6 * i + k] = Math.min(p[a]!, p[a + 3]!, p[a + 6]!, p[b]!, p[b + 3]!, p[b + 6]!);
      boxes[6 * i + 3 + k] = Math.max(p[a]!, p[a + 3]!, p[a + 6]!, p[b]!, p[b + 3]!, p[b + 6]!);
    }
    const x = boxes[6 * i + 3]! - boxes[6 * i]!,
      y = boxes[6 * i + 4]! - boxes[6 * i + 1]!,
      z = boxes[6 * i + 5]! - boxes[6 * i + 2]!;
    // area of the box that no split can save: that of the triangles seen along the axes
    const excess = x * y + y * z + z * x - seenArea(positions, 9 * one) - (two < 0 ? 0 : seenArea(positions, 9 * two));
    priority[i] = excess > 0 && !whole?.[one] && !(two >= 0 && whole?.[two]) ? Math.cbrt(excess) : 0;
    total += priority[i]!;
  }
  const scale = !allowed ? 0 : fitScale(priority, total > 0 ? n / total : 0, (BUDGET - 1) * n);
  const bounds: Float32Array = new Float32Array(6 * Math.max(1, Math.ceil(n * BUDGET)));
  const pair = new Int32Array(Math.max(1, Math.ceil(n * BUDGET)));
  let used = 0;
  const emit = (id: number, polygons: number[][], pieces: number): void => {
    const b = boundsOfPolygons(polygons);
    if (pieces >= 2) {
      let axis = 0;
      for (let k = 1; k < 3; k++) if (b[k + 3]! - b[k]! > b[axis + 3]! - b[axis]!) axis = k;
      const at = (b[axis]! + b[axis + 3]!) / 2;
      const part = (side: 1 | -1): number[][] => polygons.map((p) => clip(p, axis, at, side)).filter((p) => p.length >= 9);
      const low = part(1),
        high = part(-1);
      if (low.length && high.length) {
        emit(id, low, pieces >> 1);
        emit(id, high, pieces - (pieces >> 1));
        return;
      }
    }
    bounds.set(b, 6 * used);
    pair[used++] = id;
  };
  for (let i = 0; i < n; i++) {
    // what is left of the budget, one for each pair still to come
    const room = pair.length - used - (n - 1 - i);
    const pieces = Math.min(MAX_PIECES, room, 1 + Math.floor(priority[i]! * scale));
    if (pieces < 2) {
      bounds.set(boxes.subarray(6 * i, 6 * i + 6), 6 * used);
      pair[used++] = i;
    } else {
      const polygons = [pairs.triangles[2 * i]!, pairs.triangles[2 * i + 1]!].filter((t) => t >= 0);
      emit(
        i,
        polygons.map((t) => Array.from(positions.subarray(9 * t, 9 * t + 9))),
        pieces,
      );
    }
  }
  return { bounds: bounds.subarray(0, 6 * used), pair: pair.subarray(0, used) };
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
    for (let i = 0; i < priority.length; i += step) spent += Math.min(MAX_PIECES - 1, Math.floor(priority[i]! * middle));
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

/** Bounds of convex polygons, widened to the next 32-bit floats. */
function boundsOfPolygons(polygons: readonly number[][]): number[] {
  const b = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (const p of polygons)
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
