/**
 * What a place can see of the lights, by cells of a grid about them: which nodes of the light tree are worth weighing there, and from what share
 * of the cell's places a light of each is seen; the same of the sun and the sky. Cells are looked at when first asked for, the same
 * from any worker: what they say depends on where they lie alone. They only say where to look: no light is ever left out.
 */
import { FAR, SHADOW_REACH } from "./precision";
import {
  LC_GUIDES_PATHS,
  LC_GUIDES_SKY,
  LC_LISTED,
  LC_NODES,
  LC_SKY,
  LC_SUN,
  LC_PATH_TABLE,
  LC_SKY_TABLE,
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
  P_SUN_DIR,
  P_SUN_E,
  MT_BASE,
  MT_DIFFUSE_TRANSMISSION,
  MT_SOLID,
  MT_TRANSMISSION,
} from "../../layout/layout";
import { MAX_OPEN_NODES, SCRATCH_LIGHT_CELL, SCRATCH_OPEN_NODES } from "../../layout/scratch";
import { countRays, param, paramAddress, paramInt, raysTraced, scratch, word, wordInt } from "./state";
import { beginStream, endStream, hashed, randomState } from "./random";
import { anyHit, closestHit, giveHitBack, hitEdges, hitInstance, hitT, hitTriangle, keepHit, passR, passG, passB } from "./bvh";
import { material, materialOf } from "./any-hit-filter";
import { lightFrom, sampleSun, lB, lDistance, lG, lR, lx, ly, lz } from "./lights";
import { environmentPdf, ex, ey, ez, hasEnvironment, sampleEnvironment, sky, skyB, skyG, skyR } from "./sky";
import { lightBelow, nodeAt, tree } from "./light-tree";

/** Places of a cell from which lights are looked at. */
const PLACES: i32 = 8;
/** Bins of equal solid angle of the tables of directions. */
export const BINS: i32 = LIGHT_CELL_ROWS * LIGHT_CELL_COLUMNS;
export const BIN_ANGLE: f64 = 12.566370614359172 / <f64>BINS;
/** Part of the sky that is seen, from which directions drawn from surfaces and phase functions find it well enough. */
const OPEN: f32 = 0.5;
/** Shares of a table that are spread evenly, and over each bin's neighbours. */
const EVENLY: f32 = 0.1;
const BESIDE: f32 = 0.3;
/** Looks at each bin, and panes that one goes through at most. */
const LOOKS: i32 = 6;
const THROUGH: i32 = 4;
/** Times that the light of a table's bins is more uneven than even light, from which it is worth drawing by. */
const UNEVEN: f64 = 1.6;
/** Share that a light which no place sees counts with: it may be seen all the same. */
const LEAST: f32 = 0.06;
const LEAST_SUN: f32 = 0.01;
const UNKNOWN: f32 = -1.0;
const TOO_MANY: f32 = -2.0;

/** Arrays of a cell. */
const ROW: usize = 4 * LIGHT_CELL_NODES;
const Y: usize = ROW;
const Z: usize = 2 * ROW;
const RADIUS2: usize = 3 * ROW;
const POWER: usize = 4 * ROW;
const NODE: usize = 5 * ROW;

/** Middles of the bins, by axis (f32). */
export const CENTRES: usize = memory.data(12 * 128, 16);

let cells: usize = 0;
let lowX: f64 = 0.0,
  lowY: f64 = 0.0,
  lowZ: f64 = 0.0,
  scale: f64 = 0.0;
let countX: i32 = 0,
  countY: i32 = 0,
  countZ: i32 = 0;

/** Reads from the parameters where the cells lie. */
export function prepareLightCells(): void {
  for (let bin = 0; bin < BINS; bin++) {
    const at = CENTRES + ((<usize>bin) << 2);
    direction(bin, 0.5, 0.5);
    store<f32>(at, <f32>bx);
    store<f32>(at, <f32>by, 4 * BINS);
    store<f32>(at, <f32>bz, 8 * BINS);
  }
  cells = paramAddress(P_LIGHT_CELLS);
  lowX = param(P_LIGHT_CELLS_LOW);
  lowY = param(P_LIGHT_CELLS_LOW + 1);
  lowZ = param(P_LIGHT_CELLS_LOW + 2);
  scale = param(P_LIGHT_CELLS_SCALE);
  countX = paramInt(P_LIGHT_CELLS_COUNT);
  countY = paramInt(P_LIGHT_CELLS_COUNT + 1);
  countZ = paramInt(P_LIGHT_CELLS_COUNT + 2);
}

/** Address of the cell about a point; 0 where there is none. */
export function cellAt(x: f64, y: f64, z: f64): usize {
  if (cells == 0) return 0;
  const a = (x - lowX) * scale,
    b = (y - lowY) * scale,
    c = (z - lowZ) * scale;
  if (!(a >= 0.0 && b >= 0.0 && c >= 0.0 && a < <f64>countX && b < <f64>countY && c < <f64>countZ)) return 0;
  const index = (<i32>c * countY + <i32>b) * countX + <i32>a;
  const cell = cells + <usize>index * LIGHT_CELL_BYTES;
  if (load<f32>(cell) == UNKNOWN) look(cell, index);
  return cell;
}

/** Factor on the weight of a light that is weighed by itself. */
// @ts-ignore: decorator
@inline
export function listedSeen(cell: usize, light: i32): f64 {
  return cell == 0 || light >= LIGHT_CELL_LISTED ? 1.0 : <f64>load<f32>(cell + ((<usize>light) << 2), LC_LISTED);
}
/** Share of a cell's places that see the sun. */
// @ts-ignore: decorator
@inline
export function sunSeen(cell: usize): f64 {
  return cell == 0 ? 1.0 : <f64>load<f32>(cell, LC_SUN);
}
/** Share of the sky that a cell's places see. */
// @ts-ignore: decorator
@inline
export function skySeen(cell: usize): f64 {
  return cell == 0 ? 1.0 : <f64>load<f32>(cell, LC_SKY);
}
/** Whether the sky is drawn by what a cell sees of it. */
// @ts-ignore: decorator
@inline
export function guides(cell: usize): bool {
  return cell != 0 && load<f32>(cell, LC_GUIDES_SKY) > 0.0;
}
/** Whether a cell knows the nodes to weigh in it. */
// @ts-ignore: decorator
@inline
export function knowsNodes(cell: usize): bool {
  return cell != 0 && load<f32>(cell) >= 0.0;
}

/**
 * Weighs the nodes of a cell for a point of it, four at a time: weights (f64) to `weights`, which nodes they are (i32, with `mark`) to
 * `ids`. @returns how many
 */
export function weighCell(cell: usize, x: f64, y: f64, z: f64, weights: usize, ids: usize, mark: i32): i32 {
  const n = <i32>load<f32>(cell);
  const vx = f32x4.splat(<f32>x),
    vy = f32x4.splat(<f32>y),
    vz = f32x4.splat(<f32>z);
  const marks = i32x4.splat(mark);
  for (let i = 0; i < n; i += 4) {
    const p = cell + LC_NODES + ((<usize>i) << 2);
    const a = f32x4.sub(v128.load(p), vx),
      b = f32x4.sub(v128.load(p, Y), vy),
      c = f32x4.sub(v128.load(p, Z), vz);
    const d2 = f32x4.add(f32x4.add(f32x4.mul(a, a), f32x4.mul(b, b)), f32x4.mul(c, c));
    const w = f32x4.div(v128.load(p, POWER), f32x4.pmax(d2, v128.load(p, RADIUS2)));
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
  if (!(lR + lG + lB > 0.0)) return false;
  const far: f32 = lDistance < FAR ? <f32>(lDistance * SHADOW_REACH) : <f32>FAR;
  return !anyHit(<f32>x, <f32>y, <f32>z, <f32>lx, <f32>ly, <f32>lz, far);
}

// a direction of a bin
let bx: f64 = 0.0,
  by: f64 = 0.0,
  bz: f64 = 0.0;
/** Direction at (u, v) of a bin. */
function direction(bin: i32, u: f64, v: f64): void {
  by = (2.0 * (<f64>(bin / LIGHT_CELL_COLUMNS) + v)) / <f64>LIGHT_CELL_ROWS - 1.0;
  const turn = ((<f64>(bin % LIGHT_CELL_COLUMNS) + u) * 6.283185307179586) / <f64>LIGHT_CELL_COLUMNS;
  const flat = Math.sqrt(Math.max(0.0, 1.0 - by * by));
  bx = flat * Math.cos(turn);
  bz = flat * Math.sin(turn);
}

/** Bin of a direction. */
// @ts-ignore: decorator
@inline
export function binOf(dx: f64, dy: f64, dz: f64): i32 {
  const row = max(0, min(LIGHT_CELL_ROWS - 1, <i32>((dy + 1.0) * (0.5 * <f64>LIGHT_CELL_ROWS))));
  let turn = Math.atan2(dz, dx) * (1.0 / 6.283185307179586);
  if (turn < 0.0) turn += 1.0;
  return row * LIGHT_CELL_COLUMNS + min(LIGHT_CELL_COLUMNS - 1, <i32>(turn * <f64>LIGHT_CELL_COLUMNS));
}

/** Set by meet(): light of the sky, and light of the sun that a surface throws back, as they arrive along a ray. */
let fromSky: f64 = 0.0,
  fromSurface: f64 = 0.0;

/** Looks along a ray: what of the sky it sees, or how bright the sun makes what it meets. @returns share of light that panes leave of the sky; 0 where it meets a surface */
function meet(x: f64, y: f64, z: f64, step: f64): f64 {
  fromSky = 0.0;
  fromSurface = 0.0;
  let pass = 1.0;
  for (let i = 0; i < THROUGH; i++) {
    if (!closestHit(<f32>x, <f32>y, <f32>z, <f32>bx, <f32>by, <f32>bz, <f32>FAR)) {
      sky(bx, by, bz);
      fromSky = pass * (skyR + skyG + skyB);
      return pass;
    }
    const t = <f64>hitT;
    x += t * bx;
    y += t * by;
    z += t * bz;
    const m = materialOf(hitTriangle);
    const albedo = (material(m, MT_BASE) + material(m, MT_BASE + 1) + material(m, MT_BASE + 2)) / 3.0;
    if (material(m, MT_TRANSMISSION) > 0.5 && material(m, MT_SOLID) == 0.0) {
      pass *= albedo;
      x += step * bx;
      y += step * by;
      z += step * bz;
      continue;
    }
    facing(bx, by, bz);
    const through = material(m, MT_DIFFUSE_TRANSMISSION);
    const cos = faceX * sunX + faceY * sunY + faceZ * sunZ;
    const back = pass * albedo * (cos > 0.0 ? (1.0 - through) * cos : through * -cos);
    if (!(back > 0.0)) return 0.0;
    const side = cos > 0.0 ? step : -step;
    if (!anyHit(<f32>(x + side * faceX), <f32>(y + side * faceY), <f32>(z + side * faceZ), <f32>sunX, <f32>sunY, <f32>sunZ, <f32>FAR))
      fromSurface = back * (passR + passG + passB);
    return 0.0;
  }
  return 0.0;
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
let sunX: f64 = 0.0,
  sunY: f64 = 0.0,
  sunZ: f64 = 0.0;

/** Spreads a raw table over its neighbours and a little evenly: as shares to `table`. @returns how uneven it is; 0 where it is empty */
function spread(raw: usize, table: usize): f64 {
  let total = 0.0;
  for (let bin = 0; bin < BINS; bin++) {
    const row = bin / LIGHT_CELL_COLUMNS,
      column = bin % LIGHT_CELL_COLUMNS;
    const left = row * LIGHT_CELL_COLUMNS + ((column + LIGHT_CELL_COLUMNS - 1) % LIGHT_CELL_COLUMNS),
      right = row * LIGHT_CELL_COLUMNS + ((column + 1) % LIGHT_CELL_COLUMNS);
    const above = min(row + 1, LIGHT_CELL_ROWS - 1) * LIGHT_CELL_COLUMNS + column,
      below = max(row - 1, 0) * LIGHT_CELL_COLUMNS + column;
    const beside =
      load<f32>(raw + ((<usize>left) << 2)) +
      load<f32>(raw + ((<usize>right) << 2)) +
      load<f32>(raw + ((<usize>above) << 2)) +
      load<f32>(raw + ((<usize>below) << 2));
    const x = (<f32>1.0 - BESIDE) * load<f32>(raw + ((<usize>bin) << 2)) + <f32>0.25 * BESIDE * beside;
    store<f32>(table + ((<usize>bin) << 2), x);
    total += <f64>x;
  }
  if (!(total > 0.0)) return 0.0;
  let squares = 0.0;
  for (let bin = 0; bin < BINS; bin++) {
    const at = table + ((<usize>bin) << 2);
    const x = <f64>load<f32>(at) / total;
    squares += x * x;
    store<f32>(at, (<f32>1.0 - EVENLY) * <f32>x + EVENLY / <f32>BINS);
  }
  return squares * <f64>BINS;
}

/**
 * Fills a cell's tables of directions: what its places see of the sky, and of sunlight that surfaces throw back. Where they see most
 * of the sky, or nothing of it, it is not drawn by the table. @returns places that see any of the sky
 */
function lookAround(cell: usize, index: i32, cx: f64, cy: f64, cz: f64, edge: f64): i32 {
  const ofSky = scratch + SCRATCH_LIGHT_CELL,
    ofSurfaces = ofSky + 4 * BINS;
  const sunny = param(P_SUN_E) + param(P_SUN_E + 1) + param(P_SUN_E + 2) > 0.0;
  sunX = sunny ? param(P_SUN_DIR) : 0.0;
  sunY = sunny ? param(P_SUN_DIR + 1) : 0.0;
  sunZ = sunny ? param(P_SUN_DIR + 2) : 0.0;
  let seen = 0.0,
    from: u32 = 0;
  for (let bin = 0; bin < BINS; bin++) {
    let sum = 0.0,
      back = 0.0;
    for (let k = 0; k < LOOKS; k++) {
      const key = (<u32>(index * LOOKS + k)) ^ 0x5bd1e995;
      direction(bin, hashed(key, 3 + 2 * bin), hashed(key, 4 + 2 * bin));
      const pass = meet(
        cx + edge * (hashed(key, 0) - 0.5),
        cy + edge * (hashed(key, 1) - 0.5),
        cz + edge * (hashed(key, 2) - 0.5),
        1e-4 * edge,
      );
      sum += fromSky;
      back += fromSurface;
      // what lies below the horizon is no sky to speak of
      if (pass > 0.0 && by > 0.0) seen += pass;
      if (pass > 0.0) from |= 1 << k;
    }
    store<f32>(ofSky + ((<usize>bin) << 2), <f32>sum);
    store<f32>(ofSurfaces + ((<usize>bin) << 2), <f32>back);
  }
  // of places in something solid none sees the sky: shares are of those that do
  const places = <i32>popcnt(from);
  const share: f32 = places > 0 ? <f32>(seen / <f64>((BINS / 2) * places)) : 0.0;
  store<f32>(cell, Mathf.max(LEAST_SUN, share), LC_SKY);
  const table = cell + LC_SKY_TABLE;
  const drawn = spread(ofSky, table) > 0.0 && share < OPEN;
  let total: f32 = 0.0;
  for (let bin = 0; bin < BINS; bin++) {
    total += load<f32>(table + ((<usize>bin) << 2));
    store<f32>(table + ((<usize>bin) << 2), total);
  }
  store<f32>(table + 4 * (BINS - 1), 1.0);
  store<f32>(cell, drawn ? 1.0 : 0.0, LC_GUIDES_SKY);
  store<f32>(cell, spread(ofSurfaces, cell + LC_PATH_TABLE) > UNEVEN ? 1.0 : 0.0, LC_GUIDES_PATHS);
  return places;
}

/** Cell about a point whose table of the sky is drawn from; 0 where there is none. */
export function skyCellAt(x: f64, y: f64, z: f64): usize {
  const cell = cellAt(x, y, z);
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
  const table = cell + LC_SKY_TABLE;
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
  const bin = binOf(dx, dy, dz);
  const at = cell + LC_SKY_TABLE + ((<usize>bin) << 2);
  const own = (<f64>load<f32>(at) - (bin > 0 ? <f64>load<f32>(at - 4) : 0.0)) / BIN_ANGLE;
  return hasEnvironment() ? 0.5 * own + 0.5 * environmentPdf(dx, dy, dz) : own;
}

/** Looks at a cell for the first time. */
function look(cell: usize, index: i32): void {
  const rays = raysTraced;
  // what stands of the present path stays as it is, and what the cell finds is the same from any path
  const state = randomState(),
    stream = beginStream(<u32>index);
  keepHit();
  const edge = 1.0 / scale;
  const ix = index % countX,
    iy = (index / countX) % countY,
    iz = index / (countX * countY);
  const cx = lowX + (<f64>ix + 0.5) * edge,
    cy = lowY + (<f64>iy + 0.5) * edge,
    cz = lowZ + (<f64>iz + 0.5) * edge;
  let n = 0;
  if (tree != 0) {
    let opened = 4.0;
    n = -1;
    while (n < 0 && opened > 0.02) {
      n = list(cell, cx, cy, cz, 0.5 * edge * 1.7320508, opened);
      opened *= 0.5;
    }
  }
  const listed = min(LIGHT_CELL_LISTED, tree != 0 ? paramInt(P_LISTED_COUNT) : paramInt(P_LIGHT_COUNT));
  let sun = 0,
    places = 0;
  // counts first, where the factors will stand
  for (let i = 0; i < listed; i++) store<f32>(cell + ((<usize>i) << 2), 0.0, LC_LISTED);
  const seen = scratch + SCRATCH_LIGHT_CELL;
  for (let i = 0; i < n; i++) store<u8>(seen + <usize>i, 0);
  for (let k = 0; k < PLACES; k++) {
    const key = <u32>(index * PLACES + k);
    let at: u32 = 0;
    const x = cx + edge * (hashed(key, at++) - 0.5),
      y = cy + edge * (hashed(key, at++) - 0.5),
      z = cz + edge * (hashed(key, at++) - 0.5);
    let any = false;
    for (let i = 0; i < listed; i++)
      if (sees(i, x, y, z, hashed(key, at++), hashed(key, at++))) {
        const p = cell + ((<usize>i) << 2);
        store<f32>(p, load<f32>(p, LC_LISTED) + <f32>1.0, LC_LISTED);
        any = true;
      }
    for (let i = 0; i < n; i++) {
      const node = load<i32>(cell + LC_NODES + ((<usize>i) << 2), NODE);
      const light = lightBelow(node, x, y, z, hashed(key, at++));
      if (sees(light, x, y, z, hashed(key, at++), hashed(key, at++))) {
        store<u8>(seen + <usize>i, load<u8>(seen + <usize>i) + 1);
        any = true;
      }
    }
    sampleSun(hashed(key, at++), hashed(key, at++), x, y, z);
    if (lR + lG + lB > 0.0 && !anyHit(<f32>x, <f32>y, <f32>z, <f32>lx, <f32>ly, <f32>lz, <f32>FAR)) {
      sun++;
      any = true;
    }
    // a place that sees nothing lies in something solid, or in the dark
    if (any) places++;
  }
  places = max(places, lookAround(cell, index, cx, cy, cz, edge));
  const whole: f32 = places > 0 ? <f32>1.0 / <f32>places : 0.0;
  for (let i = 0; i < listed; i++) {
    const p = cell + ((<usize>i) << 2);
    store<f32>(p, places > 0 ? <f32>Mathf.max(LEAST, load<f32>(p, LC_LISTED) * whole) : <f32>1.0, LC_LISTED);
  }
  for (let i = 0; i < n; i++) {
    const p = cell + LC_NODES + ((<usize>i) << 2);
    if (places > 0) store<f32>(p, load<f32>(p, POWER) * Mathf.max(LEAST, <f32>load<u8>(seen + <usize>i) * whole), POWER);
  }
  // four are weighed at once: what fills up the last four gives nothing
  for (let i = n; i >= 0 && (i & 3) != 0; i++) {
    const p = cell + LC_NODES + ((<usize>i) << 2);
    store<f32>(p, 0.0, POWER);
    store<f32>(p, 1.0, RADIUS2);
  }
  store<f32>(cell, places > 0 ? Mathf.max(LEAST_SUN, <f32>sun * whole) : <f32>1.0, LC_SUN);
  // last, so that another worker that finds it known finds the rest too; who comes first pays, so it is no cost of this pixel
  store<f32>(cell, n < 0 ? TOO_MANY : <f32>n);
  countRays(rays - raysTraced);
  giveHitBack();
  endStream(stream, state);
}
