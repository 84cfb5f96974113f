/**
 * Rays against the 8-wide BVH, four boxes and four pairs of triangles at a time.
 * Triangles by Möller and Trumbore 1997, as triple products so that the two of a pair share what belongs to their common edge (and
 * agree about it); slabs with the far side widened by two ulps so that a ray
 * through a shared face is never lost.
 */
import { MIN_AREA, MIN_COMPONENT, SLAB_MARGIN } from "./precision";
import {
  P_NODES,
  P_LEAVES,
  P_ROOT,
  NODE_CHILDREN,
  NODE_GROUP,
  NODE_UNIT,
  BLOCK_SIZE,
  BLOCK_INDEX,
  BLOCK_PARTNER,
  NEEDS_FILTER,
  LEAF_BLOCKS,
  LEAF_FIRST,
  LEAF_LANES,
  TRIANGLE_BITS,
  TURN_BIT,
  P_INSTANCES,
  INSTANCE_SIZE,
  INSTANCE_FORWARD,
  INSTANCE_ROOT,
} from "../../layout/layout";
import { countRay, paramAddress, paramInt, scratch } from "./state";
import { isCutout, filterShadow, filteredR, filteredG, filteredB } from "./any-hit-filter";

export let hitT: f32 = 0.0;
export let hitU: f32 = 0.0;
export let hitV: f32 = 0.0;
export let hitTriangle: i32 = -1;
/** Address of the two edges that span the hit triangle, for the geometric normal: f32 x, y, z 16 bytes apart, the second 48 on. */
export let hitEdges: usize = 0;
/** Corner of the hit triangle from which they go. */
export let hitTurn: i32 = 0;
/** Record of the instance that the hit triangle belongs to, with edges in its own frame; 0 for one that stands where it is. */
export let hitInstance: usize = 0;

// set by enter(): a ray in the frame of an instance, its direction as long as keeps distances
let inX: f32 = 0.0,
  inY: f32 = 0.0,
  inZ: f32 = 0.0,
  inDx: f32 = 0.0,
  inDy: f32 = 0.0,
  inDz: f32 = 0.0;
/** Brings a ray into the frame of a place. @returns its record */
function enter(index: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32): usize {
  const p = paramAddress(P_INSTANCES) + <usize>index * INSTANCE_SIZE;
  // from the instance's own origin: what lies far from the scene's loses nothing to rounding
  const x = <f64>ox - <f64>load<f32>(p, INSTANCE_FORWARD + 12),
    y = <f64>oy - <f64>load<f32>(p, INSTANCE_FORWARD + 28),
    z = <f64>oz - <f64>load<f32>(p, INSTANCE_FORWARD + 44);
  const u = <f64>dx,
    v = <f64>dy,
    w = <f64>dz;
  const a = <f64>load<f32>(p),
    b = <f64>load<f32>(p, 4),
    c = <f64>load<f32>(p, 8);
  const d = <f64>load<f32>(p, 16),
    e = <f64>load<f32>(p, 20),
    f = <f64>load<f32>(p, 24);
  const g = <f64>load<f32>(p, 32),
    h = <f64>load<f32>(p, 36),
    i = <f64>load<f32>(p, 40);
  inX = <f32>(a * x + b * y + c * z);
  inY = <f32>(d * x + e * y + f * z);
  inZ = <f32>(g * x + h * y + i * z);
  inDx = <f32>(a * u + b * v + c * w);
  inDy = <f32>(d * u + e * v + f * w);
  inDz = <f32>(g * u + h * v + i * w);
  return p;
}
/** Room between the stack of the scene's tree and an instance's: what a block test leaves, and entries that are never read. */
const STACK_GAP: usize = 192;

// @ts-ignore: decorator
@inline
function awayFromZero(x: f32): f32 {
  return Mathf.abs(x) < MIN_COMPONENT ? (x < 0 ? -MIN_COMPONENT : MIN_COMPONENT) : x;
}

/**
 * For each order in which a ray's octant meets the four children of a group, and each set of them that is hit: the shuffle that brings those
 * hit together, the farthest first. A table lookup in place of branches that would be mispredicted.
 */
const ROWS: usize = memory.data(4 * 16 * 16, 16);
fillRows();
function fillRows(): void {
  for (let order = 0; order < 4; order++)
    for (let mask = 0; mask < 16; mask++) {
      const row = ROWS + <usize>((order << 8) | (mask << 4));
      let to = row;
      for (let k = 3; k >= 0; k--) {
        const child = k ^ order;
        if (((mask >> child) & 1) != 0) for (let b = 0; b < 4; b++) store<u8>(to++, <u8>(4 * child + b));
      }
      // lanes past the last are never read
      while (to < row + 16) store<u8>(to++, 0);
    }
}

/** What a block test leaves below the stack: t, u, v of the first triangles, then of their partners. */
const FOUND: usize = 112;

/** Barycentric weights of a triangle's second and third corner, from those of the pair's, whose first corner it has at `turn`. */
let turnedU: f32 = 0.0;
let turnedV: f32 = 0.0;
// @ts-ignore: decorator
@inline
function turned(index: i32, u: f32, v: f32): void {
  const turn = (index >> TURN_BIT) & 3;
  const w = <f32>1.0 - u - v;
  turnedU = turn == 0 ? u : turn == 1 ? w : v;
  turnedV = turn == 0 ? v : turn == 1 ? u : w;
}

/** A traversal that met an instance has stopped there: the top of its stack, to go on from. */
let pausedAt: usize = 0;
/** What a traversal says that is over, and one that found something in the way of light. */
const OVER: i32 = -1;
const STOPPED: i32 = -2;
/** In place of a code: go on with what lies on the stack. */
const RESUME: i32 = i32.MIN_VALUE;

/**
 * Closest hit in (0, tmax). Sets hitT, hitU, hitV, hitTriangle, hitEdges, hitInstance. Instances are entered one after the other, with a
 * stack of their own behind the scene's: nothing calls itself.
 * @returns whether anything was hit
 */
export function closestHit(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tmax: f32): bool {
  countRay();
  hitTriangle = -1;
  hitT = tmax;
  let met = closestOf(paramInt(P_ROOT), ox, oy, oz, dx, dy, dz, scratch, scratch, 0);
  while (met != OVER) {
    const at = pausedAt;
    const instance = enter(met, ox, oy, oz, dx, dy, dz);
    const base = (at + STACK_GAP) & ~15;
    closestOf(load<i32>(instance, INSTANCE_ROOT), inX, inY, inZ, inDx, inDy, inDz, base, base, instance);
    met = closestOf(RESUME, ox, oy, oz, dx, dy, dz, scratch, at, 0);
  }
  return hitTriangle >= 0;
}

/**
 * Closest hit of a tree, nearer than hitT. Two traversals and not one: here the nearest child goes first and every hit shortens the ray;
 * in anyOf() order does not matter, and filters multiply what passes. A test holds that both meet the same triangles (bvh.test.ts).
 * @param root code to begin with, or RESUME
 * @param base where its stack begins, @param from how far it is filled
 * @param instance record of the instance whose triangles it holds, 0 for the scene's own
 * @returns the instance it has met and stopped at (pausedAt), or OVER
 */
function closestOf(root: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, base: usize, from: usize, instance: usize): i32 {
  const nodes = paramAddress(P_NODES);
  const leaves = paramAddress(P_LEAVES);
  dx = awayFromZero(dx);
  dy = awayFromZero(dy);
  dz = awayFromZero(dz);
  const ix: f32 = <f32>1.0 / dx,
    iy: f32 = <f32>1.0 / dy,
    iz: f32 = <f32>1.0 / dz;
  const vix = f32x4.splat(ix),
    viy = f32x4.splat(iy),
    viz = f32x4.splat(iz);
  const vox = f32x4.splat(ox),
    voy = f32x4.splat(oy),
    voz = f32x4.splat(oz);
  const rox = f32x4.splat(ox * ix),
    roy = f32x4.splat(oy * iy),
    roz = f32x4.splat(oz * iz);
  const vdx = f32x4.splat(dx),
    vdy = f32x4.splat(dy),
    vdz = f32x4.splat(dz);
  const margin = f32x4.splat(SLAB_MARGIN);
  const nx: usize = dx >= 0 ? 0 : 48,
    fx: usize = 48 - nx;
  const ny: usize = dy >= 0 ? 16 : 64,
    fy: usize = 80 - ny;
  const nz: usize = dz >= 0 ? 32 : 80,
    fz: usize = 112 - nz;
  const rows = ROWS + ((dx >= 0 ? 0 : 256) | (dy >= 0 ? 0 : 512));
  const near: usize = dz >= 0 ? 0 : NODE_GROUP,
    far: usize = <usize>NODE_GROUP - near;
  const sign = i32x4.splat(0x80000000);
  const zero = f32x4.splat(0.0),
    one = f32x4.splat(1.0);
  // two that are farther than all, below the first
  store<u64>(base - 16, 0x7f800000_00000000);
  store<u64>(base - 8, 0x7f800000_00000000);
  let sp = from;
  let best: f32 = hitT;
  let vbest = f32x4.splat(best);
  let code = root;
  if (root == RESUME) {
    do {
      if (sp == base) return OVER;
      sp -= 8;
    } while (!(load<f32>(sp, 4) < best));
    code = load<i32>(sp);
  }
  while (true) {
    if (code >= 0) {
      const node = nodes + <usize>code * NODE_UNIT;
      const farther = node + far,
        nearer = node + near;
      const t0 = f32x4.pmax(
        f32x4.pmax(f32x4.sub(f32x4.mul(v128.load(farther + nx), vix), rox), f32x4.sub(f32x4.mul(v128.load(farther + ny), viy), roy)),
        f32x4.pmax(f32x4.sub(f32x4.mul(v128.load(farther + nz), viz), roz), zero),
      );
      const e0 = f32x4.mul(
        f32x4.pmin(
          f32x4.pmin(f32x4.sub(f32x4.mul(v128.load(farther + fx), vix), rox), f32x4.sub(f32x4.mul(v128.load(farther + fy), viy), roy)),
          f32x4.sub(f32x4.mul(v128.load(farther + fz), viz), roz),
        ),
        margin,
      );
      const m0 = <usize>i32x4.bitmask(v128.and(f32x4.le(t0, e0), f32x4.lt(t0, vbest)));
      const t1 = f32x4.pmax(
        f32x4.pmax(f32x4.sub(f32x4.mul(v128.load(nearer + nx), vix), rox), f32x4.sub(f32x4.mul(v128.load(nearer + ny), viy), roy)),
        f32x4.pmax(f32x4.sub(f32x4.mul(v128.load(nearer + nz), viz), roz), zero),
      );
      const e1 = f32x4.mul(
        f32x4.pmin(
          f32x4.pmin(f32x4.sub(f32x4.mul(v128.load(nearer + fx), vix), rox), f32x4.sub(f32x4.mul(v128.load(nearer + fy), viy), roy)),
          f32x4.sub(f32x4.mul(v128.load(nearer + fz), viz), roz),
        ),
        margin,
      );
      const m1 = <usize>i32x4.bitmask(v128.and(f32x4.le(t1, e1), f32x4.lt(t1, vbest)));
      const hit = <i32>(m0 | (m1 << 4));
      // one child, as often as not: no way over the stack
      if (popcnt(hit) == 1) {
        code = load<i32>((m0 != 0 ? farther : nearer) + ((<usize>(ctz(hit) & 3)) << 2), NODE_CHILDREN);
        continue;
      }
      if (hit != 0) {
        // keys (distance bits << 32 | child) compare as integers, since distances are >= 0
        const row0 = v128.load(rows + (m0 << 4)),
          row1 = v128.load(rows + (m1 << 4));
        const c0 = i8x16.swizzle(v128.load(farther, NODE_CHILDREN), row0),
          d0 = i8x16.swizzle(t0, row0);
        v128.store(sp, v128.shuffle<i32>(c0, d0, 0, 4, 1, 5));
        v128.store(sp, v128.shuffle<i32>(c0, d0, 2, 6, 3, 7), 16);
        sp += popcnt(m0) << 3;
        const c1 = i8x16.swizzle(v128.load(nearer, NODE_CHILDREN), row1),
          d1 = i8x16.swizzle(t1, row1);
        v128.store(sp, v128.shuffle<i32>(c1, d1, 0, 4, 1, 5));
        v128.store(sp, v128.shuffle<i32>(c1, d1, 2, 6, 3, 7), 16);
        sp += popcnt(m1) << 3;
        // the nearest of the last three goes first: octants order them well but for this
        const a = load<u64>(sp - 24),
          b = load<u64>(sp - 16),
          c = load<u64>(sp - 8);
        const ab = a < b;
        const low = select<u64>(a, b, ab);
        const first = low < c;
        code = <i32>select<u64>(low, c, first);
        store<u64>(sp - 16, select<u64>(c, low, first));
        store<u64>(sp - 24, select<u64>(b, a, ab));
        sp -= 8;
        continue;
      }
    } else {
      const leaf = ~code;
      let block = leaves + (<usize>leaf / LEAF_FIRST) * BLOCK_SIZE;
      const end = block + <usize>(leaf & LEAF_BLOCKS) * BLOCK_SIZE;
      if (block == end) {
        pausedAt = sp;
        hitT = best;
        return leaf / LEAF_FIRST;
      }
      do {
        const e1x = v128.load(block, 48),
          e1y = v128.load(block, 64),
          e1z = v128.load(block, 80);
        const e2x = v128.load(block, 96),
          e2y = v128.load(block, 112),
          e2z = v128.load(block, 128);
        const e3x = v128.load(block, 144),
          e3y = v128.load(block, 160),
          e3z = v128.load(block, 176);
        const cx = f32x4.sub(v128.load(block), vox),
          cy = f32x4.sub(v128.load(block, 16), voy),
          cz = f32x4.sub(v128.load(block, 32), voz);
        const rx = f32x4.sub(f32x4.mul(cy, vdz), f32x4.mul(cz, vdy));
        const ry = f32x4.sub(f32x4.mul(cz, vdx), f32x4.mul(cx, vdz));
        const rz = f32x4.sub(f32x4.mul(cx, vdy), f32x4.mul(cy, vdx));
        const a1 = f32x4.add(f32x4.add(f32x4.mul(e1x, rx), f32x4.mul(e1y, ry)), f32x4.mul(e1z, rz));
        const a2 = f32x4.add(f32x4.add(f32x4.mul(e2x, rx), f32x4.mul(e2y, ry)), f32x4.mul(e2z, rz));
        const a3 = f32x4.add(f32x4.add(f32x4.mul(e3x, rx), f32x4.mul(e3y, ry)), f32x4.mul(e3z, rz));
        const mx = f32x4.sub(f32x4.mul(e1y, e2z), f32x4.mul(e1z, e2y));
        const my = f32x4.sub(f32x4.mul(e1z, e2x), f32x4.mul(e1x, e2z));
        const mz = f32x4.sub(f32x4.mul(e1x, e2y), f32x4.mul(e1y, e2x));
        const det1 = f32x4.add(f32x4.add(f32x4.mul(vdx, mx), f32x4.mul(vdy, my)), f32x4.mul(vdz, mz));
        const lx = f32x4.sub(f32x4.mul(e2y, e3z), f32x4.mul(e2z, e3y));
        const ly = f32x4.sub(f32x4.mul(e2z, e3x), f32x4.mul(e2x, e3z));
        const lz = f32x4.sub(f32x4.mul(e2x, e3y), f32x4.mul(e2y, e3x));
        const det2 = f32x4.add(f32x4.add(f32x4.mul(vdx, lx), f32x4.mul(vdy, ly)), f32x4.mul(vdz, lz));
        // inside or not, before any division: most blocks are missed
        const s1 = v128.and(det1, sign),
          s2 = v128.and(det2, sign);
        const u1 = v128.xor(a2, s1),
          v1 = v128.xor(f32x4.neg(a1), s1),
          size1 = f32x4.abs(det1);
        const u2 = v128.xor(a3, s2),
          v2 = v128.xor(f32x4.neg(a2), s2),
          size2 = f32x4.abs(det2);
        const in1 = v128.and(
          v128.and(f32x4.ge(u1, zero), f32x4.ge(v1, zero)),
          v128.and(f32x4.le(f32x4.add(u1, v1), size1), f32x4.gt(size1, zero)),
        );
        const in2 = v128.and(
          v128.and(f32x4.ge(u2, zero), f32x4.ge(v2, zero)),
          v128.and(f32x4.le(f32x4.add(u2, v2), size2), f32x4.gt(size2, zero)),
        );
        if (v128.any_true(v128.or(in1, in2))) {
          const k1 = f32x4.div(one, size1),
            k2 = f32x4.div(one, size2);
          const t1 = f32x4.mul(v128.xor(f32x4.add(f32x4.add(f32x4.mul(cx, mx), f32x4.mul(cy, my)), f32x4.mul(cz, mz)), s1), k1);
          const t2 = f32x4.mul(v128.xor(f32x4.add(f32x4.add(f32x4.mul(cx, lx), f32x4.mul(cy, ly)), f32x4.mul(cz, lz)), s2), k2);
          let mask =
            i32x4.bitmask(v128.and(in1, v128.and(f32x4.gt(t1, zero), f32x4.lt(t1, vbest)))) |
            (i32x4.bitmask(v128.and(in2, v128.and(f32x4.gt(t2, zero), f32x4.lt(t2, vbest)))) << 4);
          if (mask != 0) {
            v128.store(base - FOUND, t1);
            v128.store(base - FOUND, f32x4.mul(u1, k1), 16);
            v128.store(base - FOUND, f32x4.mul(v1, k1), 32);
            v128.store(base - FOUND, t2, 48);
            v128.store(base - FOUND, f32x4.mul(u2, k2), 64);
            v128.store(base - FOUND, f32x4.mul(v2, k2), 80);
            do {
              const lane = ctz(mask);
              mask &= mask - 1;
              const at = (<usize>(lane & 3)) << 2,
                partner = <usize>(lane >> 2);
              const found = base - FOUND + at + partner * 48;
              const d = load<f32>(found);
              if (d < best) {
                const index = load<i32>(block + at + (partner << 4), BLOCK_INDEX);
                turned(index, load<f32>(found, 16), load<f32>(found, 32));
                // what belongs to another leaf is looked at there, once: a blended one is passed by chance
                if (
                  (index & NEEDS_FILTER) != 0 &&
                  ((((leaf / LEAF_LANES) >> (lane & 3)) & 1) == 0 || isCutout(index & TRIANGLE_BITS, turnedU, turnedV))
                )
                  continue;
                best = d;
                hitU = turnedU;
                hitV = turnedV;
                hitTriangle = index & TRIANGLE_BITS;
                hitTurn = (index >> TURN_BIT) & 3;
                hitEdges = block + at + 48 + partner * 48;
                hitInstance = instance;
              }
            } while (mask != 0);
            vbest = f32x4.splat(best);
          }
        }
        block += BLOCK_SIZE;
      } while (block < end);
    }
    // next entry that is still nearer than the best hit
    while (true) {
      if (sp == base) {
        hitT = best;
        return OVER;
      }
      sp -= 8;
      if (load<f32>(sp, 4) < best) break;
    }
    code = load<i32>(sp);
  }
}

let keptT: f32 = 0.0,
  keptU: f32 = 0.0,
  keptV: f32 = 0.0;
let keptTriangle: i32 = -1,
  keptTurn: i32 = 0;
let keptEdges: usize = 0,
  keptInstance: usize = 0;
/** Keeps the record of the last hit, for rays that are no part of the path. */
export function keepHit(): void {
  keptT = hitT;
  keptU = hitU;
  keptV = hitV;
  keptTriangle = hitTriangle;
  keptTurn = hitTurn;
  keptEdges = hitEdges;
  keptInstance = hitInstance;
}
/** Goes back to the record kept. */
export function giveHitBack(): void {
  hitT = keptT;
  hitU = keptU;
  hitV = keptV;
  hitTriangle = keptTriangle;
  hitTurn = keptTurn;
  hitEdges = keptEdges;
  hitInstance = keptInstance;
}

/** Light left by the panes and cut-outs of the last anyHit() that returned false, per band. */
export let passR: f64 = 1.0;
export let passG: f64 = 1.0;
export let passB: f64 = 1.0;

/**
 * What the product of a face's normal n with a direction, both in the frame of an instance, is divided by to be the cosine in the scene: the normal's length
 * there, by the determinant (the direction has a length of 1 in the scene).
 */
function instanceNormalLength(instance: usize, nx: f64, ny: f64, nz: f64): f64 {
  // normals go by the inverse transposed
  const x = <f64>load<f32>(instance) * nx + <f64>load<f32>(instance, 16) * ny + <f64>load<f32>(instance, 32) * nz;
  const y = <f64>load<f32>(instance, 4) * nx + <f64>load<f32>(instance, 20) * ny + <f64>load<f32>(instance, 36) * nz;
  const z = <f64>load<f32>(instance, 8) * nx + <f64>load<f32>(instance, 24) * ny + <f64>load<f32>(instance, 40) * nz;
  return Math.sqrt(x * x + y * y + z * z);
}

/**
 * Looks at the triangles that were hit (bits: the pairs' first ones, then their partners).
 * @returns whether one of them stops light; what panes of this leaf let through multiplies pass…
 */
function stops(
  block: usize,
  mask: i32,
  leaf: i32,
  instance: usize,
  base: usize,
  u1: v128,
  v1: v128,
  u2: v128,
  v2: v128,
  dx: f32,
  dy: f32,
  dz: f32,
): bool {
  // those without the flag are solid
  const solid = ~(
    i32x4.bitmask(i32x4.shl(v128.load(block, BLOCK_INDEX), 1)) |
    (i32x4.bitmask(i32x4.shl(v128.load(block, BLOCK_PARTNER), 1)) << 4)
  );
  if ((mask & solid) != 0) return true;
  // what belongs to another leaf is looked at there
  mask &= ((leaf / LEAF_LANES) & 15) * 17;
  base -= FOUND;
  v128.store(base, u1, 16);
  v128.store(base, v1, 32);
  v128.store(base, u2, 64);
  v128.store(base, v2, 80);
  while (mask != 0) {
    const lane = ctz(mask);
    mask &= mask - 1;
    const at = (<usize>(lane & 3)) << 2,
      partner = <usize>(lane >> 2);
    const b = block + at + 48 + partner * 48;
    const e1x = <f64>load<f32>(b),
      e1y = <f64>load<f32>(b, 16),
      e1z = <f64>load<f32>(b, 32);
    const e2x = <f64>load<f32>(b, 48),
      e2y = <f64>load<f32>(b, 64),
      e2z = <f64>load<f32>(b, 80);
    const nx = e1y * e2z - e1z * e2y,
      ny = e1z * e2x - e1x * e2z,
      nz = e1x * e2y - e1y * e2x;
    const l = instance == 0 ? Math.sqrt(nx * nx + ny * ny + nz * nz) : instanceNormalLength(instance, nx, ny, nz);
    const cos = Math.abs(nx * <f64>dx + ny * <f64>dy + nz * <f64>dz) / Math.max(l, MIN_AREA);
    const index = load<i32>(block + at + (partner << 4), BLOCK_INDEX);
    const found = base + at + partner * 48;
    turned(index, load<f32>(found, 16), load<f32>(found, 32));
    if (!filterShadow(index & TRIANGLE_BITS, turnedU, turnedV, cos)) return true;
    passR *= filteredR;
    passG *= filteredG;
    passB *= filteredB;
    if (!(passR + passG + passB > 0.0)) return true;
  }
  return false;
}

/** Whether anything in (0, tmax) stops light; where not, pass… says what panes on the way leave of it. */
export function anyHit(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tmax: f32): bool {
  countRay();
  passR = 1.0;
  passG = 1.0;
  passB = 1.0;
  let met = anyOf(paramInt(P_ROOT), ox, oy, oz, dx, dy, dz, tmax, scratch, scratch, 0);
  while (met >= 0) {
    const at = pausedAt;
    const instance = enter(met, ox, oy, oz, dx, dy, dz);
    const base = (at + STACK_GAP) & ~15;
    if (anyOf(load<i32>(instance, INSTANCE_ROOT), inX, inY, inZ, inDx, inDy, inDz, tmax, base, base, instance) == STOPPED) return true;
    met = anyOf(RESUME, ox, oy, oz, dx, dy, dz, tmax, scratch, at, 0);
  }
  return met == STOPPED;
}

/** Whether a triangle of a tree stops light: STOPPED, OVER, or the instance it has met. See closestOf(). */
function anyOf(root: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tmax: f32, base: usize, from: usize, instance: usize): i32 {
  const nodes = paramAddress(P_NODES);
  const leaves = paramAddress(P_LEAVES);
  dx = awayFromZero(dx);
  dy = awayFromZero(dy);
  dz = awayFromZero(dz);
  const ix: f32 = <f32>1.0 / dx,
    iy: f32 = <f32>1.0 / dy,
    iz: f32 = <f32>1.0 / dz;
  const vix = f32x4.splat(ix),
    viy = f32x4.splat(iy),
    viz = f32x4.splat(iz);
  const vox = f32x4.splat(ox),
    voy = f32x4.splat(oy),
    voz = f32x4.splat(oz);
  const rox = f32x4.splat(ox * ix),
    roy = f32x4.splat(oy * iy),
    roz = f32x4.splat(oz * iz);
  const vdx = f32x4.splat(dx),
    vdy = f32x4.splat(dy),
    vdz = f32x4.splat(dz);
  const margin = f32x4.splat(SLAB_MARGIN);
  const nx: usize = dx >= 0 ? 0 : 48,
    fx: usize = 48 - nx;
  const ny: usize = dy >= 0 ? 16 : 64,
    fy: usize = 80 - ny;
  const nz: usize = dz >= 0 ? 32 : 80,
    fz: usize = 112 - nz;
  const rows = ROWS + ((dx >= 0 ? 0 : 256) | (dy >= 0 ? 0 : 512));
  const near: usize = dz >= 0 ? 0 : NODE_GROUP,
    far: usize = <usize>NODE_GROUP - near;
  const sign = i32x4.splat(0x80000000);
  const zero = f32x4.splat(0.0),
    one = f32x4.splat(1.0);
  const end = f32x4.splat(tmax);
  let sp = from;
  let code = root;
  if (root == RESUME) {
    if (sp == base) return OVER;
    sp -= 4;
    code = load<i32>(sp);
  }
  while (true) {
    if (code >= 0) {
      const node = nodes + <usize>code * NODE_UNIT;
      const farther = node + far,
        nearer = node + near;
      const t0 = f32x4.pmax(
        f32x4.pmax(f32x4.sub(f32x4.mul(v128.load(farther + nx), vix), rox), f32x4.sub(f32x4.mul(v128.load(farther + ny), viy), roy)),
        f32x4.pmax(f32x4.sub(f32x4.mul(v128.load(farther + nz), viz), roz), zero),
      );
      const e0 = f32x4.mul(
        f32x4.pmin(
          f32x4.pmin(f32x4.sub(f32x4.mul(v128.load(farther + fx), vix), rox), f32x4.sub(f32x4.mul(v128.load(farther + fy), viy), roy)),
          f32x4.sub(f32x4.mul(v128.load(farther + fz), viz), roz),
        ),
        margin,
      );
      const m0 = <usize>i32x4.bitmask(v128.and(f32x4.le(t0, e0), f32x4.lt(t0, end)));
      const t1 = f32x4.pmax(
        f32x4.pmax(f32x4.sub(f32x4.mul(v128.load(nearer + nx), vix), rox), f32x4.sub(f32x4.mul(v128.load(nearer + ny), viy), roy)),
        f32x4.pmax(f32x4.sub(f32x4.mul(v128.load(nearer + nz), viz), roz), zero),
      );
      const e1 = f32x4.mul(
        f32x4.pmin(
          f32x4.pmin(f32x4.sub(f32x4.mul(v128.load(nearer + fx), vix), rox), f32x4.sub(f32x4.mul(v128.load(nearer + fy), viy), roy)),
          f32x4.sub(f32x4.mul(v128.load(nearer + fz), viz), roz),
        ),
        margin,
      );
      const m1 = <usize>i32x4.bitmask(v128.and(f32x4.le(t1, e1), f32x4.lt(t1, end)));
      v128.store(sp, i8x16.swizzle(v128.load(farther, NODE_CHILDREN), v128.load(rows + (m0 << 4))));
      sp += popcnt(m0) << 2;
      v128.store(sp, i8x16.swizzle(v128.load(nearer, NODE_CHILDREN), v128.load(rows + (m1 << 4))));
      sp += popcnt(m1) << 2;
    } else {
      const leaf = ~code;
      let block = leaves + (<usize>leaf / LEAF_FIRST) * BLOCK_SIZE;
      const last = block + <usize>(leaf & LEAF_BLOCKS) * BLOCK_SIZE;
      if (block == last) {
        pausedAt = sp;
        return leaf / LEAF_FIRST;
      }
      do {
        const e1x = v128.load(block, 48),
          e1y = v128.load(block, 64),
          e1z = v128.load(block, 80);
        const e2x = v128.load(block, 96),
          e2y = v128.load(block, 112),
          e2z = v128.load(block, 128);
        const e3x = v128.load(block, 144),
          e3y = v128.load(block, 160),
          e3z = v128.load(block, 176);
        const cx = f32x4.sub(v128.load(block), vox),
          cy = f32x4.sub(v128.load(block, 16), voy),
          cz = f32x4.sub(v128.load(block, 32), voz);
        const rx = f32x4.sub(f32x4.mul(cy, vdz), f32x4.mul(cz, vdy));
        const ry = f32x4.sub(f32x4.mul(cz, vdx), f32x4.mul(cx, vdz));
        const rz = f32x4.sub(f32x4.mul(cx, vdy), f32x4.mul(cy, vdx));
        const a1 = f32x4.add(f32x4.add(f32x4.mul(e1x, rx), f32x4.mul(e1y, ry)), f32x4.mul(e1z, rz));
        const a2 = f32x4.add(f32x4.add(f32x4.mul(e2x, rx), f32x4.mul(e2y, ry)), f32x4.mul(e2z, rz));
        const a3 = f32x4.add(f32x4.add(f32x4.mul(e3x, rx), f32x4.mul(e3y, ry)), f32x4.mul(e3z, rz));
        const mx = f32x4.sub(f32x4.mul(e1y, e2z), f32x4.mul(e1z, e2y));
        const my = f32x4.sub(f32x4.mul(e1z, e2x), f32x4.mul(e1x, e2z));
        const mz = f32x4.sub(f32x4.mul(e1x, e2y), f32x4.mul(e1y, e2x));
        const det1 = f32x4.add(f32x4.add(f32x4.mul(vdx, mx), f32x4.mul(vdy, my)), f32x4.mul(vdz, mz));
        const lx = f32x4.sub(f32x4.mul(e2y, e3z), f32x4.mul(e2z, e3y));
        const ly = f32x4.sub(f32x4.mul(e2z, e3x), f32x4.mul(e2x, e3z));
        const lz = f32x4.sub(f32x4.mul(e2x, e3y), f32x4.mul(e2y, e3x));
        const det2 = f32x4.add(f32x4.add(f32x4.mul(vdx, lx), f32x4.mul(vdy, ly)), f32x4.mul(vdz, lz));
        // inside or not, before any division: most blocks are missed
        const s1 = v128.and(det1, sign),
          s2 = v128.and(det2, sign);
        const u1 = v128.xor(a2, s1),
          v1 = v128.xor(f32x4.neg(a1), s1),
          size1 = f32x4.abs(det1);
        const u2 = v128.xor(a3, s2),
          v2 = v128.xor(f32x4.neg(a2), s2),
          size2 = f32x4.abs(det2);
        const in1 = v128.and(
          v128.and(f32x4.ge(u1, zero), f32x4.ge(v1, zero)),
          v128.and(f32x4.le(f32x4.add(u1, v1), size1), f32x4.gt(size1, zero)),
        );
        const in2 = v128.and(
          v128.and(f32x4.ge(u2, zero), f32x4.ge(v2, zero)),
          v128.and(f32x4.le(f32x4.add(u2, v2), size2), f32x4.gt(size2, zero)),
        );
        if (v128.any_true(v128.or(in1, in2))) {
          const k1 = f32x4.div(one, size1),
            k2 = f32x4.div(one, size2);
          const t1 = f32x4.mul(v128.xor(f32x4.add(f32x4.add(f32x4.mul(cx, mx), f32x4.mul(cy, my)), f32x4.mul(cz, mz)), s1), k1);
          const t2 = f32x4.mul(v128.xor(f32x4.add(f32x4.add(f32x4.mul(cx, lx), f32x4.mul(cy, ly)), f32x4.mul(cz, lz)), s2), k2);
          const mask =
            i32x4.bitmask(v128.and(in1, v128.and(f32x4.gt(t1, zero), f32x4.lt(t1, end)))) |
            (i32x4.bitmask(v128.and(in2, v128.and(f32x4.gt(t2, zero), f32x4.lt(t2, end)))) << 4);
          if (
            mask != 0 &&
            stops(block, mask, leaf, instance, base, f32x4.mul(u1, k1), f32x4.mul(v1, k1), f32x4.mul(u2, k2), f32x4.mul(v2, k2), dx, dy, dz)
          )
            return STOPPED;
        }
        block += BLOCK_SIZE;
      } while (block < last);
    }
    if (sp == base) return OVER;
    sp -= 4;
    code = load<i32>(sp);
  }
}

/**
 * All crossings of a ray with the tree at `root`, unsorted: 16 bytes each at `to`, distance (f64) and sign
 * (f64: +1 where the ray leaves the side the triangle's corners turn about, -1 where it enters).
 * @returns how many, at most `most`
 */
export function crossings(root: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, to: usize, highest: i32): i32 {
  countRay();
  const nodes = paramAddress(P_NODES);
  const leaves = paramAddress(P_LEAVES);
  dx = awayFromZero(dx);
  dy = awayFromZero(dy);
  dz = awayFromZero(dz);
  const ix: f32 = <f32>1.0 / dx,
    iy: f32 = <f32>1.0 / dy,
    iz: f32 = <f32>1.0 / dz;
  const base = scratch;
  let sp = base;
  let n = 0;
  let code = root;
  while (true) {
    if (code >= 0) {
      const node = nodes + <usize>code * NODE_UNIT;
      for (let i: usize = 0; i < 8; i++) {
        const at = node + (i >> 2) * NODE_GROUP + ((i & 3) << 2);
        if (load<f32>(at) > load<f32>(at, 48)) continue;
        const ax = (load<f32>(at) - ox) * ix,
          bx = (load<f32>(at, 48) - ox) * ix;
        const ay = (load<f32>(at, 16) - oy) * iy,
          by = (load<f32>(at, 64) - oy) * iy;
        const az = (load<f32>(at, 32) - oz) * iz,
          bz = (load<f32>(at, 80) - oz) * iz;
        const near = Mathf.max(Mathf.max(Mathf.min(ax, bx), Mathf.min(ay, by)), Mathf.max(Mathf.min(az, bz), 0.0));
        const far = Mathf.min(Mathf.min(Mathf.max(ax, bx), Mathf.max(ay, by)), Mathf.max(az, bz)) * SLAB_MARGIN;
        if (near <= far) {
          store<i32>(sp, load<i32>(at, NODE_CHILDREN));
          sp += 4;
        }
      }
    } else {
      const leaf = ~code;
      let block = leaves + (<usize>leaf / LEAF_FIRST) * BLOCK_SIZE;
      const end = block + <usize>(leaf & LEAF_BLOCKS) * BLOCK_SIZE;
      const lanes = (leaf / LEAF_LANES) & 15;
      for (; block < end; block += BLOCK_SIZE)
        for (let i: usize = 0; i < 8; i++) {
          if (((lanes >> (<i32>(i & 3))) & 1) == 0 || load<i32>(block + (i << 2), BLOCK_INDEX) < 0) continue;
          const b = block + ((i & 3) << 2),
            e = b + 48 + (i >> 2) * 48;
          const e1x = <f64>load<f32>(e),
            e1y = <f64>load<f32>(e, 16),
            e1z = <f64>load<f32>(e, 32);
          const e2x = <f64>load<f32>(e, 48),
            e2y = <f64>load<f32>(e, 64),
            e2z = <f64>load<f32>(e, 80);
          const px = <f64>dy * e2z - <f64>dz * e2y,
            py = <f64>dz * e2x - <f64>dx * e2z,
            pz = <f64>dx * e2y - <f64>dy * e2x;
          const det = e1x * px + e1y * py + e1z * pz;
          if (det == 0.0) continue;
          const inv = 1.0 / det;
          const sx = <f64>ox - <f64>load<f32>(b),
            sy = <f64>oy - <f64>load<f32>(b, 16),
            sz = <f64>oz - <f64>load<f32>(b, 32);
          const u = (sx * px + sy * py + sz * pz) * inv;
          if (u < 0.0 || u > 1.0) continue;
          const qx = sy * e1z - sz * e1y,
            qy = sz * e1x - sx * e1z,
            qz = sx * e1y - sy * e1x;
          const v = (<f64>dx * qx + <f64>dy * qy + <f64>dz * qz) * inv;
          if (v < 0.0 || u + v > 1.0) continue;
          const t = (e2x * qx + e2y * qy + e2z * qz) * inv;
          if (t <= 0.0 || n >= highest) continue;
          store<f64>(to + ((<usize>n) << 4), t);
          // det > 0: the ray comes from the side the corners turn about counter-clockwise, and enters
          store<f64>(to + ((<usize>n) << 4), det > 0.0 ? -1.0 : 1.0, 8);
          n++;
        }
    }
    if (sp == base) return n;
    sp -= 4;
    code = load<i32>(sp);
  }
}
