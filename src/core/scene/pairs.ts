/**
 * Triangles two by two: those that share an edge and lie near each other in the mesh become one primitive of the tree, with four
 * corners instead of six. The two triangles of a quad have almost the same box, so a tree over pairs is half as large, its boxes
 * overlap less, and a block of four of them tests eight triangles that share most of their arithmetic.
 */

export interface Pairs {
  /** Two triangles a pair; the second is -1 where the first stands alone. */
  triangles: Int32Array;
  /** Of each triangle: which of its corners is the first of the pair's (0, 1, 2). */
  first: Uint8Array;
  count: number;
}

/** Triangles after one that are looked through for its partner: meshes keep neighbours near each other. */
const WINDOW = 8;
/** Largest half area of the common box, as a multiple of the two boxes' together. */
const MAX_WASTE = 1.05;
/** Common box of two that fill it like the halves of a rectangle, as a multiple of theirs together. */
const QUAD = 0.5001;

/**
 * Pairs triangles (9 floats each). The corners of a pair are a, b, c, d: its first triangle a b c, its second a c d.
 * Triangles that turn about their common edge the same way, or whose common box is wasteful, are not paired.
 */
export function pairTriangles(positions: Float32Array): Pairs {
  const n = positions.length / 9;
  const triangles = new Int32Array(2 * n);
  const first = new Uint8Array(n);
  const taken = new Uint8Array(n);
  let count = 0;
  for (let i = 0; i < n; i++) {
    if (taken[i]) continue;
    taken[i] = 1;
    let partner = -1,
      best = MAX_WASTE,
      how = 0;
    let own = -1;
    for (let j = i + 1; j < Math.min(n, i + 1 + WINDOW); j++) {
      if (taken[j]) continue;
      const shared = sharedEdge(positions, 9 * i, 9 * j);
      if (shared < 0) continue;
      if (own < 0) own = boxArea(positions, i, i);
      const apart = own + boxArea(positions, j, j);
      const waste = apart > 0 ? boxArea(positions, i, j) / apart : 0;
      if (waste >= best) continue;
      best = waste;
      partner = j;
      how = shared;
      // the two of a quad: none will be better
      if (waste <= QUAD) break;
    }
    triangles[2 * count] = i;
    triangles[2 * count + 1] = partner;
    count++;
    if (partner < 0) continue;
    taken[partner] = 1;
    // the corner off the edge comes second in the first triangle, last in the second one
    first[i] = (Math.floor(how / 3) + 2) % 3;
    first[partner] = ((how % 3) + 1) % 3;
  }
  return { triangles: triangles.subarray(0, 2 * count), first, count };
}

/** 3 × (corner of a off a common edge) + (corner of b off it), where both turn about it in opposite ways; else -1. */
function sharedEdge(p: Float32Array, a: number, b: number): number {
  for (let i = 0; i < 3; i++) {
    const from = a + 3 * ((i + 1) % 3),
      to = a + 3 * ((i + 2) % 3);
    for (let j = 0; j < 3; j++) if (same(p, from, b + 3 * ((j + 2) % 3)) && same(p, to, b + 3 * ((j + 1) % 3))) return 3 * i + j;
  }
  return -1;
}

function same(p: Float32Array, a: number, b: number): boolean {
  return p[a] === p[b] && p[a + 1] === p[b + 1] && p[a + 2] === p[b + 2];
}

/** Half the area of the box around triangles i and j. */
function boxArea(p: Float32Array, i: number, j: number): number {
  const x = side(p, 9 * i, 9 * j),
    y = side(p, 9 * i + 1, 9 * j + 1),
    z = side(p, 9 * i + 2, 9 * j + 2);
  return x * y + y * z + z * x;
}

/** Extent along an axis of two triangles whose first coordinates along it are at a and b. */
function side(p: Float32Array, a: number, b: number): number {
  let low = p[a]!,
    high = low;
  for (let k = 0; k < 9; k += 3) {
    const u = p[a + k]!,
      v = p[b + k]!;
    if (u < low) low = u;
    if (v < low) low = v;
    if (u > high) high = u;
    if (v > high) high = v;
  }
  return high - low;
}
