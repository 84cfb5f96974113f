/**
 * The binary tree behind the kernel's BVH, by binned surface-area heuristic (Wald 2007) whose costs count packed
 * blocks of four pairs of triangles. A module of its own: scene/bvh.ts packs what it makes.
 *
 * References are 32 bytes: f32 least x, y, z, i32 pair; f32 -most x, y, z, spare: minima of both grow boxes. They are
 * sorted in place, so that each pass over a node's references reads memory in order; a node's boxes are found while its parent is
 * parted. Nodes are 80 bytes: its box (2 × 16), that of the references' middles (doubled, to save the halving), then i32 left
 * (-1 marks a leaf), right, first reference, how many.
 */
const BINS: i32 = 24;
/** Blocks a leaf may hold: a child code has three bits for it. */
const MAX_BLOCKS: i32 = 7;
const TRAVERSAL_COST: f64 = 1.0;
const BLOCK_COST: f64 = 1.6;
const REF: usize = 32;
const NODE: usize = 80;
/** A bin: box (2 × 16), how many. */
const BIN: usize = 48;

const bins: usize = memory.data(3 * 24 * 48, 16);
const suffixArea: usize = memory.data(24 * 8, 16);
const suffixCount: usize = memory.data(24 * 4, 16);

let refs: usize = 0;
let nodes: usize = 0;
let used: i32 = 0;
let bestCost: f64 = 0.0;
let bestAxis: i32 = -1;
let bestBin: i32 = 0;

// @ts-ignore: decorator
@inline
function node(id: i32): usize {
  return nodes + <usize>id * NODE;
}

function make(first: i32, size: i32): i32 {
  const p = node(used);
  const far = f32x4.splat(f32.MAX_VALUE);
  v128.store(p, far);
  v128.store(p, far, 16);
  v128.store(p, far, 32);
  v128.store(p, far, 48);
  store<i32>(p, -1, 64);
  store<i32>(p, -1, 68);
  store<i32>(p, first, 72);
  store<i32>(p, size, 76);
  return used++;
}

// @ts-ignore: decorator
@inline
function grow(p: usize, a: v128, b: v128): void {
  const middle = f32x4.sub(a, b);
  v128.store(p, f32x4.pmin(v128.load(p), a));
  v128.store(p, f32x4.pmin(v128.load(p, 16), b), 16);
  v128.store(p, f32x4.pmin(v128.load(p, 32), middle), 32);
  v128.store(p, f32x4.pmin(v128.load(p, 48), f32x4.neg(middle)), 48);
}

/** Half the area of the box whose least corner and negated most corner are given. */
// @ts-ignore: decorator
@inline
function area(a: v128, b: v128): f64 {
  const e = f32x4.neg(f32x4.add(a, b));
  const x = <f64>f32x4.extract_lane(e, 0),
    y = <f64>f32x4.extract_lane(e, 1),
    z = <f64>f32x4.extract_lane(e, 2);
  return x * y + y * z + z * x;
}

/** Bins of a reference along the three axes. */
// @ts-ignore: decorator
@inline
function binOf(a: v128, b: v128, from: v128, scale: v128, last: v128): v128 {
  return i32x4.min_s(last, i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(f32x4.sub(a, b), from), scale)));
}

// @ts-ignore: decorator
@inline
function put(o: usize, a: v128, b: v128): void {
  v128.store(o, f32x4.pmin(v128.load(o), a));
  v128.store(o, f32x4.pmin(v128.load(o, 16), b), 16);
  store<i32>(o, load<i32>(o, 32) + 1, 32);
}

function fill(first: i32, size: i32, binned: i32, from: v128, scale: v128): void {
  const far = f32x4.splat(f32.MAX_VALUE);
  for (let axis = 0; axis < 3; axis++) {
    let o = bins + <usize>(axis * BINS) * BIN;
    for (let i = 0; i < binned; i++) {
      v128.store(o, far);
      v128.store(o, far, 16);
      store<i32>(o, 0, 32);
      o += BIN;
    }
  }
  const last = i32x4.splat(binned - 1);
  let r = refs + <usize>first * REF;
  const end = r + <usize>size * REF;
  while (r < end) {
    const a = v128.load(r),
      b = v128.load(r, 16);
    const at = binOf(a, b, from, scale, last);
    put(bins + <usize>i32x4.extract_lane(at, 0) * BIN, a, b);
    put(bins + <usize>(BINS + i32x4.extract_lane(at, 1)) * BIN, a, b);
    put(bins + <usize>(2 * BINS + i32x4.extract_lane(at, 2)) * BIN, a, b);
    r += REF;
  }
}

function sweep(axis: i32, binned: i32, large: bool): void {
  const first = bins + <usize>(axis * BINS) * BIN;
  const far = f32x4.splat(f32.MAX_VALUE);
  let a = far,
    b = far;
  let total = 0;
  for (let i = binned - 1; i > 0; i--) {
    const o = first + <usize>i * BIN;
    a = f32x4.pmin(a, v128.load(o));
    b = f32x4.pmin(b, v128.load(o, 16));
    total += load<i32>(o, 32);
    store<f64>(suffixArea + ((<usize>i) << 3), total > 0 ? area(a, b) : 0.0);
    store<i32>(suffixCount + ((<usize>i) << 2), total);
  }
  a = far;
  b = far;
  total = 0;
  for (let i = 0; i < binned - 1; i++) {
    const o = first + <usize>i * BIN;
    const here = load<i32>(o, 32);
    // an empty bin parts as the one before it
    if (here == 0) continue;
    a = f32x4.pmin(a, v128.load(o));
    b = f32x4.pmin(b, v128.load(o, 16));
    total += here;
    const rest = load<i32>(suffixCount + ((<usize>(i + 1)) << 2));
    if (rest == 0) break;
    // for many the fraction of a block matters little: keep it, it rewards balance
    const l = large ? <f64>total / 4.0 : <f64>((total + 3) >> 2),
      r = large ? <f64>rest / 4.0 : <f64>((rest + 3) >> 2);
    const cost = area(a, b) * l + load<f64>(suffixArea + ((<usize>(i + 1)) << 3)) * r;
    if (cost < bestCost) {
      bestCost = cost;
      bestAxis = axis;
      bestBin = i;
    }
  }
}

/** Moves the references of the lower side before those of the upper one. @returns where that begins */
function partition(first: i32, size: i32, binned: i32, from: v128, scale: v128, low: usize, high: usize): i32 {
  const last = i32x4.splat(binned - 1);
  let i = first,
    j = first + size - 1;
  while (i <= j) {
    const p = refs + <usize>i * REF;
    const a = v128.load(p),
      b = v128.load(p, 16);
    const at = binOf(a, b, from, scale, last);
    const bin = bestAxis == 0 ? i32x4.extract_lane(at, 0) : bestAxis == 1 ? i32x4.extract_lane(at, 1) : i32x4.extract_lane(at, 2);
    if (bin <= bestBin) {
      grow(low, a, b);
      i++;
      continue;
    }
    grow(high, a, b);
    const q = refs + <usize>j * REF;
    v128.store(p, v128.load(q));
    v128.store(p, v128.load(q, 16), 16);
    v128.store(q, a);
    v128.store(q, b, 16);
    j--;
  }
  return i;
}

/** Parts a node in two. @returns false where it is better left a leaf */
function part(id: i32): bool {
  const p = node(id);
  const first = load<i32>(p, 72),
    size = load<i32>(p, 76);
  const binned = size < 32 ? min(BINS, max(8, size)) : BINS;
  const from = v128.load(p, 32);
  const extent = f32x4.neg(f32x4.add(from, v128.load(p, 48)));
  // an axis along which all middles coincide has no bins
  let scale = f32x4.splat(0.0);
  const ex = f32x4.extract_lane(extent, 0),
    ey = f32x4.extract_lane(extent, 1),
    ez = f32x4.extract_lane(extent, 2);
  if (ex > 0.0) scale = f32x4.replace_lane(scale, 0, <f32>binned / ex);
  if (ey > 0.0) scale = f32x4.replace_lane(scale, 1, <f32>binned / ey);
  if (ez > 0.0) scale = f32x4.replace_lane(scale, 2, <f32>binned / ez);
  fill(first, size, binned, from, scale);
  bestCost = Infinity;
  bestAxis = -1;
  if (ex > 0.0) sweep(0, binned, size > 64);
  if (ey > 0.0) sweep(1, binned, size > 64);
  if (ez > 0.0) sweep(2, binned, size > 64);
  const here = area(v128.load(p), v128.load(p, 16));
  const blocks = (size + 3) >> 2;
  if (blocks <= MAX_BLOCKS && (bestAxis < 0 || (here > 0.0 && BLOCK_COST * <f64>blocks <= TRAVERSAL_COST + (BLOCK_COST * bestCost) / here)))
    return false;
  const left = make(first, 0),
    right = make(first, 0);
  const low = node(left),
    high = node(right);
  let middle: i32;
  if (bestAxis < 0) {
    // all middles coincide
    middle = first + (size >> 1);
    for (let i = first; i < first + size; i++) {
      const r = refs + <usize>i * REF;
      grow(i < middle ? low : high, v128.load(r), v128.load(r, 16));
    }
  } else middle = partition(first, size, binned, from, scale, low, high);
  store<i32>(low, middle - first, 76);
  store<i32>(high, middle, 72);
  store<i32>(high, first + size - middle, 76);
  store<i32>(p, left, 64);
  store<i32>(p, right, 68);
  return true;
}

/**
 * Builds the tree over n references at `refsAt`.
 * @param nodesAt room for 2 n nodes
 * @param stackAt room for 2 n i32
 * @returns nodes used
 */
export function build(refsAt: usize, n: i32, nodesAt: usize, stackAt: usize): i32 {
  refs = refsAt;
  nodes = nodesAt;
  used = 0;
  if (n == 0) return 0;
  make(0, n);
  for (let i = 0; i < n; i++) {
    const r = refs + <usize>i * REF;
    grow(nodes, v128.load(r), v128.load(r, 16));
  }
  let depth = 1;
  store<i32>(stackAt, 0);
  while (depth > 0) {
    const id = load<i32>(stackAt + ((<usize>--depth) << 2));
    const p = node(id);
    if (load<i32>(p, 76) <= 4 || !part(id)) continue;
    store<i32>(stackAt + ((<usize>depth) << 2), load<i32>(p, 64));
    store<i32>(stackAt + ((<usize>(depth + 1)) << 2), load<i32>(p, 68));
    depth += 2;
  }
  return used;
}
