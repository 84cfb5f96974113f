/**
 * What a place can see of the lights, by cells of a grid about them: which nodes of the light tree are worth weighing there, and from what share
 * of the cell's places a light of each is seen; the same of the sun and the sky. Cells are looked at when first asked for, the same
 * from any worker: what they say depends on where they lie alone. They only say where to look: no light is ever left out.
 */
import { FAR, SHADOW_REACH } from "./precision";
import {
  LC_NODES,
  LC_SIDES,
  LIGHT_SIDE_BYTES,
  LS_GUIDES_SKY,
  LS_LISTED,
  LS_NODES,
  LS_SKY,
  LS_SKY_TABLE,
  LS_SUN,
  LIGHT_CELL_BYTES,
  LIGHT_CELL_COLUMNS,
  LIGHT_CELL_LISTED,
  LIGHT_CELL_NODES,
  LIGHT_CELL_ROWS,
  LT_CENTRE,
  LT_FIRST,
  LT_POWER,
  LT_RADIUS,
  LT_SECOND,
  P_LIGHT_CELLS,
  P_LIGHT_CELLS_COUNT,
  P_LIGHT_CELLS_LOW,
  P_LIGHT_CELLS_SCALE,
  P_LIGHT_COUNT,
  P_LISTED_COUNT,
} from "../../layout/layout";
import {
  MAX_OPEN_NODES,
  SCRATCH_LIGHT_NODES,
  SCRATCH_LIGHT_PLACES,
  SCRATCH_LIGHT_SIDE,
  SCRATCH_LIGHT_SKY,
  SCRATCH_OPEN_NODES,
} from "../../layout/scratch";
import { countRays, param, paramAddress, paramInt, raysTraced, scratch, word, wordInt } from "./state";
import { beginStream, endStream, hashed, randomState } from "./random";
import { anyHit, closestHit, giveHitBack, hitEdges, hitInstance, hitT, keepHit, passR, passG, passB } from "./bvh";
import { lightFrom, sampleSun, lB, lDistance, lG, lR, lx, ly, lz } from "./lights";
import { environmentPdf, ex, ey, ez, hasEnvironment, sampleEnvironment, sky, skyB, skyG, skyR } from "./sky";
import { lightBelow, nodeAt, tree } from "./light-tree";

/** Places of a cell from which lights are looked at. */
const PLACES: i32 = 6;
const ROWS: i32 = LIGHT_CELL_ROWS;
const COLUMNS: i32 = LIGHT_CELL_COLUMNS;
/** The table of the sky: bins of equal solid angle, from LOW (sine of the elevation) to the zenith. */
const BINS: i32 = ROWS * COLUMNS;
const LOW: f64 = -0.1;
const BIN_ANGLE: f64 = (6.283185307179586 * (1.0 - LOW)) / <f64>BINS;
/** Part of the sky that is seen, from which directions drawn from surfaces and phase functions find it well enough. */
const OPEN: f32 = 0.5;
/** Shares of the table that are spread evenly, and over each bin's neighbours. */
const EVENLY: f32 = 0.1;
const BESIDE: f32 = 0.3;
/** Rays that look for a side's places at most. */
const TRIES: i32 = 40;
/** Looks at each bin. */
const LOOKS: i32 = 4;
/** Share that a light which no place sees counts with: it may be seen all the same. */
const LEAST: f32 = 0.12;
/** The same of the sun and the sky, which are asked by themselves. */
const LEAST_FAR: f32 = 0.01;
const UNKNOWN: f32 = -1.0;
const TOO_MANY: f32 = -2.0;

/** A node is opened within this many of its radii (squared), as for a point; a third less where there would be too many. */
const OPENED: f64 = 4.0;

/** Arrays of a cell. */
const ROW: usize = 4 * LIGHT_CELL_NODES;
const Y: usize = ROW;
const Z: usize = 2 * ROW;
const RADIUS2: usize = 3 * ROW;
const POWER: usize = 4 * ROW;
const NODE: usize = 5 * ROW;

/** Where the cells lie; 0 where there are none, or for now none are asked. */
let cells: usize = 0;
let planned: usize = 0;
let lowX: f64 = 0.0,
  lowY: f64 = 0.0,
  lowZ: f64 = 0.0,
  scale: f64 = 0.0;
let countX: i32 = 0,
  countY: i32 = 0,
  countZ: i32 = 0;

/** Reads from the parameters where the cells lie. */
export function prepareLightCells(): void {
  planned = paramAddress(P_LIGHT_CELLS);
  cells = planned;
  lowX = param(P_LIGHT_CELLS_LOW);
  lowY = param(P_LIGHT_CELLS_LOW + 1);
  lowZ = param(P_LIGHT_CELLS_LOW + 2);
  scale = param(P_LIGHT_CELLS_SCALE);
  countX = paramInt(P_LIGHT_CELLS_COUNT);
  countY = paramInt(P_LIGHT_CELLS_COUNT + 1);
  countZ = paramInt(P_LIGHT_CELLS_COUNT + 2);
}

/**
 * Whether cells are asked for the sample that begins. The first of a pixel does without: a picture that is drawn anew while a lamp or the
 * sun is dragged must not wait for thousands of them, and which samples ask may depend on nothing else.
 */
export function askLightCells(on: bool): void {
  cells = on ? planned : 0;
}

/** The side of a cell that a surface with this normal is looked at from; 0 is its air. */
// @ts-ignore: decorator
@inline
export function sideOf(x: f64, y: f64, z: f64): i32 {
  const a = Math.abs(x),
    b = Math.abs(y),
    c = Math.abs(z);
  if (a > b && a > c) return x > 0.0 ? 1 : 2;
  if (b > c) return y > 0.0 ? 3 : 4;
  return z > 0.0 ? 5 : 6;
}

/** The cell that cellAt() found last. */
let found: usize = 0;

/** Address of what is known of a side of the cell about a point; 0 where there is none. */
export function cellAt(x: f64, y: f64, z: f64, side: i32): usize {
  if (cells == 0) return 0;
  const a = (x - lowX) * scale,
    b = (y - lowY) * scale,
    c = (z - lowZ) * scale;
  if (!(a >= 0.0 && b >= 0.0 && c >= 0.0 && a < <f64>countX && b < <f64>countY && c < <f64>countZ)) return 0;
  const index = (<i32>c * countY + <i32>b) * countX + <i32>a;
  found = cells + <usize>index * LIGHT_CELL_BYTES;
  const seen = found + LC_SIDES + <usize>side * LIGHT_SIDE_BYTES;
  if (load<f32>(seen) == UNKNOWN) look(found, seen, index, side);
  return seen;
}

/** Factor on the weight of a light that is weighed by itself. */
// @ts-ignore: decorator
@inline
export function listedSeen(cell: usize, light: i32): f64 {
  return cell == 0 || light >= LIGHT_CELL_LISTED ? 1.0 : <f64>load<f32>(cell + ((<usize>light) << 2), LS_LISTED);
}
/** Share of a cell's places that see the sun. */
// @ts-ignore: decorator
@inline
export function sunSeen(cell: usize): f64 {
  return cell == 0 ? 1.0 : <f64>load<f32>(cell, LS_SUN);
}
/** Share of the sky that a cell's places see. */
// @ts-ignore: decorator
@inline
export function skySeen(cell: usize): f64 {
  return cell == 0 ? 1.0 : <f64>load<f32>(cell, LS_SKY);
}
/** Whether any of a cell's places is known to see the sun. */
export function seesSun(cell: usize): bool {
  return cell != 0 && load<f32>(cell, LS_SUN) > LEAST_FAR;
}
/** Whether any of a cell's places is known to see the sky. */
export function seesSky(cell: usize): bool {
  return cell != 0 && load<f32>(cell, LS_SKY) > LEAST_FAR;
}
/** Whether the sky is drawn by what a cell sees of it. */
// @ts-ignore: decorator
@inline
export function guides(cell: usize): bool {
  return cell != 0 && load<f32>(cell, LS_GUIDES_SKY) > 0.0;
}
/** Whether a cell knows the nodes to weigh in it. */
// @ts-ignore: decorator
@inline
export function knowsNodes(cell: usize): bool {
  return cell != 0 && load<f32>(found) >= 0.0;
}

/**
 * Weighs the nodes of the cell last found for a point of it, four at a time: weights (f64) to `weights`, which nodes they are (i32, with `mark`) to
 * `ids`. @returns how many
 */
export function weighCell(cell: usize, x: f64, y: f64, z: f64, weights: usize, ids: usize, mark: i32): i32 {
  const n = <i32>load<f32>(found);
  const vx = f32x4.splat(<f32>x),
    vy = f32x4.splat(<f32>y),
    vz = f32x4.splat(<f32>z);
  const marks = i32x4.splat(mark);
  for (let i = 0; i < n; i += 4) {
    const p = found + LC_NODES + ((<usize>i) << 2);
    const a = f32x4.sub(v128.load(p), vx),
      b = f32x4.sub(v128.load(p, Y), vy),
      c = f32x4.sub(v128.load(p, Z), vz);
    const d2 = f32x4.add(f32x4.add(f32x4.mul(a, a), f32x4.mul(b, b)), f32x4.mul(c, c));
    const power = f32x4.mul(v128.load(p, POWER), v128.load(cell + ((<usize>i) << 2), LS_NODES));
    const w = f32x4.div(power, f32x4.pmax(d2, v128.load(p, RADIUS2)));
    const to = weights + ((<usize>i) << 3);
    v128.store(to, f64x2.promote_low_f32x4(w));
    v128.store(to, f64x2.promote_low_f32x4(i8x16.shuffle(w, w, 8, 9, 10, 11, 12, 13, 14, 15, 8, 9, 10, 11, 12, 13, 14, 15)), 16);
    v128.store(ids + ((<usize>i) << 2), v128.or(v128.load(p, NODE), marks));
  }
  return n;
}

/** Lists the nodes worth weighing in a cell about (x, y, z): those that are not large for their distance from any place of it. @returns how many; negative where they do not fit */
function list(cell: usize, x: f64, y: f64, z: f64, half: f64, opened: f64): i32 {
  const stack = scratch + SCRATCH_OPEN_NODES;
  store<i32>(stack, 0);
  let depth = 1,
    n = 0;
  while (depth > 0) {
    depth--;
    const node = load<i32>(stack + ((<usize>depth) << 2));
    const p = nodeAt(node);
    const a = word(p, LT_CENTRE) - x,
      b = word(p, LT_CENTRE + 1) - y,
      c = word(p, LT_CENTRE + 2) - z;
    const r = word(p, LT_RADIUS);
    const away = Math.max(0.0, Math.sqrt(a * a + b * b + c * c) - half);
    const first = wordInt(p, LT_FIRST);
    if (first >= 0 && depth < MAX_OPEN_NODES - 2 && away * away <= opened * r * r) {
      store<i32>(stack + ((<usize>depth) << 2), wordInt(p, LT_SECOND));
      store<i32>(stack + ((<usize>depth) << 2), first, 4);
      depth += 2;
      continue;
    }
    if (n >= LIGHT_CELL_NODES) return -1;
    const to = cell + LC_NODES + ((<usize>n) << 2);
    store<f32>(to, <f32>word(p, LT_CENTRE));
    store<f32>(to, <f32>word(p, LT_CENTRE + 1), Y);
    store<f32>(to, <f32>word(p, LT_CENTRE + 2), Z);
    store<f32>(to, <f32>(r * r + 1e-12), RADIUS2);
    store<f32>(to, <f32>word(p, LT_POWER), POWER);
    store<i32>(to, node, NODE);
    n++;
  }
  return n;
}

/** Whether light i shines on a point: what it gives there, and whether anything is in the way. */
function sees(i: i32, x: f64, y: f64, z: f64, u: f64, v: f64): bool {
  lightFrom(i, x, y, z, u, v);
  if (!(lR + lG + lB > 0.0) || lx * placeNx + ly * placeNy + lz * placeNz < 0.0) return false;
  const far: f32 = lDistance < FAR ? <f32>(lDistance * SHADOW_REACH) : <f32>FAR;
  return !anyHit(<f32>x, <f32>y, <f32>z, <f32>lx, <f32>ly, <f32>lz, far);
}

// a direction of a bin
let bx: f64 = 0.0,
  by: f64 = 0.0,
  bz: f64 = 0.0;
/** Direction at (u, v) of a bin. */
function direction(bin: i32, u: f64, v: f64): void {
  by = LOW + ((<f64>(bin / COLUMNS) + v) * (1.0 - LOW)) / <f64>ROWS;
  const turn = ((<f64>(bin % COLUMNS) + u) * 6.283185307179586) / <f64>COLUMNS;
  const flat = Math.sqrt(Math.max(0.0, 1.0 - by * by));
  bx = flat * Math.cos(turn);
  bz = flat * Math.sin(turn);
}

/** Normal of the face last hit, on the side that a ray along d came from. */
let faceX: f64 = 0.0,
  faceY: f64 = 0.0,
  faceZ: f64 = 0.0;
function facing(dx: f64, dy: f64, dz: f64): void {
  const e1x = <f64>load<f32>(hitEdges),
    e1y = <f64>load<f32>(hitEdges, 16),
    e1z = <f64>load<f32>(hitEdges, 32);
  const e2x = <f64>load<f32>(hitEdges, 48),
    e2y = <f64>load<f32>(hitEdges, 64),
    e2z = <f64>load<f32>(hitEdges, 80);
  let x = e1y * e2z - e1z * e2y,
    y = e1z * e2x - e1x * e2z,
    z = e1x * e2y - e1y * e2x;
  if (hitInstance != 0) {
    // normals go by the inverse transposed
    const p = hitInstance,
      a = x,
      b = y,
      c = z;
    x = <f64>load<f32>(p) * a + <f64>load<f32>(p, 16) * b + <f64>load<f32>(p, 32) * c;
    y = <f64>load<f32>(p, 4) * a + <f64>load<f32>(p, 20) * b + <f64>load<f32>(p, 36) * c;
    z = <f64>load<f32>(p, 8) * a + <f64>load<f32>(p, 24) * b + <f64>load<f32>(p, 40) * c;
  }
  const l = 1.0 / Math.max(1e-30, Math.sqrt(x * x + y * y + z * z));
  const k = x * dx + y * dy + z * dz > 0.0 ? -l : l;
  faceX = k * x;
  faceY = k * y;
  faceZ = k * z;
}
/**
 * Fills a side's table of the sky: sums over bins of what its places see in them, spread a little over their neighbours and evenly.
 * Where they see most of the sky, or nothing of it, the table is not drawn from. @returns places that see any of the sky
 */
function lookUp(seen: usize, index: i32, side: i32, places: i32): i32 {
  const raw = scratch + SCRATCH_LIGHT_SKY;
  let open = 0.0,
    from: u32 = 0;
  for (let bin = 0; bin < BINS; bin++) {
    let sum = 0.0;
    for (let k = 0; k < LOOKS; k++) {
      const key = keyOf(index, side, k) ^ 0x5bd1e995;
      direction(bin, hashed(key, 2 * bin), hashed(key, 2 * bin + 1));
      readPlace(k % places);
      // from a surface, what lies before it
      if (side != 0 && bx * placeNx + by * placeNy + bz * placeNz <= 0.0) continue;
      if (anyHit(<f32>placeX, <f32>placeY, <f32>placeZ, <f32>bx, <f32>by, <f32>bz, <f32>FAR)) continue;
      const pass = (passR + passG + passB) / 3.0;
      sky(bx, by, bz);
      sum += pass * (skyR + skyG + skyB);
      open += pass;
      from |= 1 << (k % places);
    }
    store<f32>(raw + ((<usize>bin) << 2), <f32>sum);
  }
  // of places in something solid none sees the sky: shares are of those that do
  const seeing = <i32>popcnt(from);
  const share: f32 = seeing > 0 ? <f32>((open * <f64>min(places, LOOKS)) / <f64>(BINS * LOOKS * seeing)) : 0.0;
  store<f32>(seen, Mathf.max(LEAST_FAR, share), LS_SKY);
  const table = seen + LS_SKY_TABLE;
  let total: f32 = 0.0;
  for (let bin = 0; bin < BINS; bin++) {
    const row = bin / COLUMNS,
      column = bin % COLUMNS;
    const left = row * COLUMNS + ((column + COLUMNS - 1) % COLUMNS),
      right = row * COLUMNS + ((column + 1) % COLUMNS);
    const above = min(row + 1, ROWS - 1) * COLUMNS + column,
      below = max(row - 1, 0) * COLUMNS + column;
    const beside =
      load<f32>(raw + ((<usize>left) << 2)) +
      load<f32>(raw + ((<usize>right) << 2)) +
      load<f32>(raw + ((<usize>above) << 2)) +
      load<f32>(raw + ((<usize>below) << 2));
    total += (<f32>1.0 - BESIDE) * load<f32>(raw + ((<usize>bin) << 2)) + <f32>0.25 * BESIDE * beside;
    store<f32>(table + ((<usize>bin) << 2), total);
  }
  const scale: f32 = total > 0.0 ? (<f32>1.0 - EVENLY) / total : 0.0;
  for (let bin = 0; bin < BINS; bin++) {
    const at = table + ((<usize>bin) << 2);
    store<f32>(at, scale * load<f32>(at) + (EVENLY * <f32>(bin + 1)) / <f32>BINS);
  }
  store<f32>(table + 4 * (BINS - 1), 1.0);
  store<f32>(seen, total > 0.0 && share < OPEN ? 1.0 : 0.0, LS_GUIDES_SKY);
  return seeing;
}

/** A place that is looked from, and the normal where it lies on a surface. */
let placeX: f64 = 0.0,
  placeY: f64 = 0.0,
  placeZ: f64 = 0.0,
  placeNx: f64 = 0.0,
  placeNy: f64 = 0.0,
  placeNz: f64 = 0.0;
function readPlace(i: i32): void {
  const at = scratch + SCRATCH_LIGHT_PLACES + <usize>i * 48;
  placeX = load<f64>(at);
  placeY = load<f64>(at, 8);
  placeZ = load<f64>(at, 16);
  placeNx = load<f64>(at, 24);
  placeNy = load<f64>(at, 32);
  placeNz = load<f64>(at, 40);
}

/** What is drawn at random for try k of a side goes by this. */
// @ts-ignore: decorator
@inline
function keyOf(index: i32, side: i32, k: i32): u32 {
  return <u32>(index * 8 + side) * 64 + <u32>k;
}

/** Finds the places of a side: spread over the cell, or on what faces that way in it. @returns how many */
function findPlaces(index: i32, side: i32, cx: f64, cy: f64, cz: f64, edge: f64): i32 {
  const axis = (side - 1) >> 1;
  const way = side & 1 ? 1.0 : -1.0;
  const tries = side == 0 ? PLACES : TRIES;
  let n = 0;
  for (let k = 0; k < tries && n < PLACES; k++) {
    const key = keyOf(index, side, k) ^ 0x2545f491;
    let x = cx + edge * (hashed(key, 0) - 0.5),
      y = cy + edge * (hashed(key, 1) - 0.5),
      z = cz + edge * (hashed(key, 2) - 0.5);
    faceX = 0.0;
    faceY = 0.0;
    faceZ = 0.0;
    if (side != 0) {
      const dx = axis == 0 ? -way : 0.0,
        dy = axis == 1 ? -way : 0.0,
        dz = axis == 2 ? -way : 0.0;
      if (!closestHit(<f32>x, <f32>y, <f32>z, <f32>dx, <f32>dy, <f32>dz, <f32>edge)) continue;
      facing(dx, dy, dz);
      if (sideOf(faceX, faceY, faceZ) != side) continue;
      x += <f64>hitT * dx + 1e-4 * edge * faceX;
      y += <f64>hitT * dy + 1e-4 * edge * faceY;
      z += <f64>hitT * dz + 1e-4 * edge * faceZ;
      // what lies in the next cell speaks for that
      if (Math.max(Math.abs(x - cx), Math.max(Math.abs(y - cy), Math.abs(z - cz))) > 0.5001 * edge) continue;
    }
    const at = scratch + SCRATCH_LIGHT_PLACES + <usize>n * 48;
    store<f64>(at, x);
    store<f64>(at, y, 8);
    store<f64>(at, z, 16);
    store<f64>(at, faceX, 24);
    store<f64>(at, faceY, 32);
    store<f64>(at, faceZ, 40);
    n++;
  }
  return n;
}

/** Cell about a point whose table of the sky is drawn from; 0 where there is none. */
export function skyCellAt(x: f64, y: f64, z: f64, side: i32): usize {
  const cell = cellAt(x, y, z, side);
  return guides(cell) ? cell : 0;
}

/** Direction drawn by what a cell sees of the sky, or by the sky's own table where there is no cell; sets toX, toY, toZ. */
export function sampleSky(cell: usize, u: f64, v: f64): void {
  if (cell == 0 || (hasEnvironment() && u >= 0.5)) {
    sampleEnvironment(cell == 0 ? u : 2.0 * u - 1.0, v);
    toX = ex;
    toY = ey;
    toZ = ez;
    return;
  }
  if (hasEnvironment()) u *= 2.0;
  const table = cell + LS_SKY_TABLE;
  let low = 0,
    high = BINS - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (<f64>load<f32>(table + ((<usize>middle) << 2)) <= u) low = middle + 1;
    else high = middle;
  }
  const before = low > 0 ? <f64>load<f32>(table + ((<usize>(low - 1)) << 2)) : 0.0;
  const width = <f64>load<f32>(table + ((<usize>low) << 2)) - before;
  direction(low, width > 0.0 ? Math.min(0.9999999, Math.max(0.0, (u - before) / width)) : 0.5, v);
  toX = bx;
  toY = by;
  toZ = bz;
}
/** Set by sampleSky(). */
export let toX: f64 = 0.0;
export let toY: f64 = 0.0;
export let toZ: f64 = 0.0;

/** Density (1/sr) of sampleSky() along a direction. */
export function skyPdf(cell: usize, dx: f64, dy: f64, dz: f64): f64 {
  if (cell == 0) return environmentPdf(dx, dy, dz);
  let own = 0.0;
  if (dy >= LOW) {
    const row = min(ROWS - 1, <i32>(((dy - LOW) * <f64>ROWS) / (1.0 - LOW)));
    let turn = Math.atan2(dz, dx) * (1.0 / 6.283185307179586);
    if (turn < 0.0) turn += 1.0;
    const bin = row * COLUMNS + min(COLUMNS - 1, <i32>(turn * <f64>COLUMNS));
    const at = cell + LS_SKY_TABLE + ((<usize>bin) << 2);
    own = (<f64>load<f32>(at) - (bin > 0 ? <f64>load<f32>(at - 4) : 0.0)) / BIN_ANGLE;
  }
  return hasEnvironment() ? 0.5 * own + 0.5 * environmentPdf(dx, dy, dz) : own;
}

/** Looks at a side of a cell for the first time. */
function look(cell: usize, to: usize, index: i32, side: i32): void {
  // found here and copied when all is known: another worker may be reading what it has found there itself
  const seen = scratch + SCRATCH_LIGHT_SIDE;
  const rays = raysTraced;
  // what stands of the present path stays as it is, and what the cell finds is the same from any path
  const state = randomState(),
    stream = beginStream(<u32>(index * 8 + side));
  keepHit();
  const edge = 1.0 / scale;
  const ix = index % countX,
    iy = (index / countX) % countY,
    iz = index / (countX * countY);
  const cx = lowX + (<f64>ix + 0.5) * edge,
    cy = lowY + (<f64>iy + 0.5) * edge,
    cz = lowZ + (<f64>iz + 0.5) * edge;
  if (load<f32>(cell) == UNKNOWN) listNodes(cell, cx, cy, cz, edge);
  const n = <i32>load<f32>(cell);
  const listed = min(LIGHT_CELL_LISTED, tree != 0 ? paramInt(P_LISTED_COUNT) : paramInt(P_LIGHT_COUNT));
  // counts first, where the factors will stand
  for (let i = 0; i < listed; i++) store<f32>(seen + ((<usize>i) << 2), 0.0, LS_LISTED);
  for (let i = 0; i < n; i++) store<f32>(seen + ((<usize>i) << 2), 0.0, LS_NODES);
  const places = findPlaces(index, side, cx, cy, cz, edge);
  let sun = 0,
    seeing = 0;
  for (let k = 0; k < places; k++) {
    readPlace(k);
    const key = keyOf(index, side, k) ^ 0x68bc21eb;
    let at: u32 = 0;
    let any = false;
    for (let i = 0; i < listed; i++) any = count(i, seen + LS_LISTED + ((<usize>i) << 2), hashed(key, at++), hashed(key, at++)) || any;
    for (let i = 0; i < n; i++) {
      const node = load<i32>(cell + LC_NODES + ((<usize>i) << 2), NODE);
      const light = lightBelow(node, placeX, placeY, placeZ, hashed(key, at++));
      any = count(light, seen + LS_NODES + ((<usize>i) << 2), hashed(key, at++), hashed(key, at++)) || any;
    }
    sampleSun(hashed(key, at++), hashed(key, at++), placeX, placeY, placeZ);
    if (lR + lG + lB > 0.0 && !anyHit(<f32>placeX, <f32>placeY, <f32>placeZ, <f32>lx, <f32>ly, <f32>lz, <f32>FAR)) {
      sun++;
      any = true;
    }
    // a place that sees nothing lies in something solid, or in the dark
    if (any) seeing++;
  }
  if (places > 0) seeing = max(seeing, lookUp(seen, index, side, places));
  else {
    store<f32>(seen, 1.0, LS_SKY);
    store<f32>(seen, 0.0, LS_GUIDES_SKY);
  }
  const whole: f32 = seeing > 0 ? <f32>1.0 / <f32>seeing : 0.0;
  for (let i = 0; i < listed; i++) toFactor(seen + LS_LISTED + ((<usize>i) << 2), whole);
  // four are weighed at once: what fills up the last four gives nothing whatever its factor
  for (let i = 0; i < ((n + 3) & ~3); i++) toFactor(seen + LS_NODES + ((<usize>i) << 2), i < n ? whole : 0.0);
  store<f32>(seen, seeing > 0 ? Mathf.max(LEAST_FAR, <f32>sun * whole) : <f32>1.0, LS_SUN);
  // last, so that another worker that finds it known finds the rest too; who comes first pays, so it is no cost of this pixel
  memory.copy(to + 4, seen + 4, LIGHT_SIDE_BYTES - 4);
  store<f32>(to, 1.0);
  countRays(rays - raysTraced);
  giveHitBack();
  endStream(stream, state);
}

/** Adds one to the number at `to` where the present place sees light i. @returns whether it does */
function count(i: i32, to: usize, u: f64, v: f64): bool {
  if (!sees(i, placeX, placeY, placeZ, u, v)) return false;
  store<f32>(to, load<f32>(to) + <f32>1.0);
  return true;
}

/** Makes a count a factor. */
// @ts-ignore: decorator
@inline
function toFactor(at: usize, whole: f32): void {
  store<f32>(at, whole > 0.0 ? Mathf.max(LEAST, load<f32>(at) * whole) : <f32>1.0);
}

/** Lists the nodes that are worth weighing in a cell; fewer and larger ones where there would be too many. */
function listNodes(cell: usize, cx: f64, cy: f64, cz: f64, edge: f64): void {
  const draft = scratch + SCRATCH_LIGHT_NODES;
  let n = 0;
  if (tree != 0) {
    let opened = OPENED;
    n = -1;
    while (n < 0 && opened > 0.5 * OPENED) {
      n = list(draft, cx, cy, cz, 0.5 * edge * 1.7320508, opened);
      opened *= 0.7;
    }
  }
  for (let i = n; i >= 0 && (i & 3) != 0; i++) {
    const p = draft + LC_NODES + ((<usize>i) << 2);
    store<f32>(p, 0.0, POWER);
    store<f32>(p, 1.0, RADIUS2);
  }
  memory.copy(cell + 4, draft + 4, LC_SIDES - 4);
  store<f32>(cell, n < 0 ? TOO_MANY : <f32>n);
}
