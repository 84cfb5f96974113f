/**
 * Rays against the 4-wide BVH, four boxes and four triangles at a time.
 * Triangles by Möller and Trumbore 1997; slabs with the far side widened by two ulps so that a ray
 * through a shared face is never lost.
 */
import {
  P_NODES, P_LEAVES, P_ROOT, NODE_CHILDREN, BLOCK_SIZE, BLOCK_INDEX, LOOK_AT,
} from "../../scene/layout";
import { param, scratch, countRay } from "./state";
import { isHole, passShadow } from "./look";

export let hitT: f32 = 0.0;
export let hitU: f32 = 0.0;
export let hitV: f32 = 0.0;
export let hitTriangle: i32 = -1;
/** Address of the hit's leaf block and its lane, for the geometric normal. */
export let hitBlock: usize = 0;
export let hitLane: i32 = 0;

const TINY: f32 = 1e-18;
const FAR_SLACK: f32 = 1.0000003;

// @ts-ignore: decorator
@inline
function awayFromZero(x: f32): f32 {
  return Mathf.abs(x) < TINY ? (x < 0 ? -TINY : TINY) : x;
}

// @ts-ignore: decorator
@inline
function swap2(a: usize, b: usize): void {
  const x = load<u64>(a);
  const y = load<u64>(b);
  const less = x < y;
  store<u64>(a, select<u64>(y, x, less));
  store<u64>(b, select<u64>(x, y, less));
}

/**
 * Closest hit in (0, tmax). Sets hitT, hitU, hitV, hitTriangle, hitBlock, hitLane.
 * @returns whether anything was hit
 */
export function closestHit(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tmax: f32): bool {
  countRay();
  const nodes = <usize>param(P_NODES);
  const leaves = <usize>param(P_LEAVES);
  dx = awayFromZero(dx);
  dy = awayFromZero(dy);
  dz = awayFromZero(dz);
  const ix: f32 = <f32>1.0 / dx, iy: f32 = <f32>1.0 / dy, iz: f32 = <f32>1.0 / dz;
  const vix = f32x4.splat(ix), viy = f32x4.splat(iy), viz = f32x4.splat(iz);
  const vox = f32x4.splat(ox), voy = f32x4.splat(oy), voz = f32x4.splat(oz);
  const rox = f32x4.splat(ox * ix), roy = f32x4.splat(oy * iy), roz = f32x4.splat(oz * iz);
  const vdx = f32x4.splat(dx), vdy = f32x4.splat(dy), vdz = f32x4.splat(dz);
  const slack = f32x4.splat(FAR_SLACK);
  const nx: usize = dx >= 0 ? 0 : 48, fx: usize = 48 - nx;
  const ny: usize = dy >= 0 ? 16 : 64, fy: usize = 80 - ny;
  const nz: usize = dz >= 0 ? 32 : 80, fz: usize = 112 - nz;
  const zero = f32x4.splat(0.0), one = f32x4.splat(1.0);
  const base = scratch;
  let sp = base;
  let best: f32 = tmax;
  let vbest = f32x4.splat(best);
  hitTriangle = -1;
  let code = <i32>param(P_ROOT);
  while (true) {
    if (code >= 0) {
      const node = nodes + (<usize>code << 7);
      const t0 = f32x4.pmax(
        f32x4.pmax(
          f32x4.sub(f32x4.mul(v128.load(node + nx), vix), rox),
          f32x4.sub(f32x4.mul(v128.load(node + ny), viy), roy),
        ),
        f32x4.pmax(f32x4.sub(f32x4.mul(v128.load(node + nz), viz), roz), zero),
      );
      const t1 = f32x4.mul(
        f32x4.pmin(
          f32x4.pmin(
            f32x4.sub(f32x4.mul(v128.load(node + fx), vix), rox),
            f32x4.sub(f32x4.mul(v128.load(node + fy), viy), roy),
          ),
          f32x4.sub(f32x4.mul(v128.load(node + fz), viz), roz),
        ),
        slack,
      );
      const mask = <usize>i32x4.bitmask(v128.and(f32x4.le(t0, t1), f32x4.lt(t0, vbest)));
      if (mask != 0) {
        // keys (distance bits << 32 | child) compare as integers, since distances are >= 0. All four are
        // written, the pointer moves past those that are hit: no branch to mispredict
        const children = v128.load(node, NODE_CHILDREN);
        const low = v128.shuffle<i32>(children, t0, 0, 4, 1, 5);
        const high = v128.shuffle<i32>(children, t0, 2, 6, 3, 7);
        const start = sp;
        v128.store64_lane(sp, low, 0);
        sp += (mask & 1) << 3;
        v128.store64_lane(sp, low, 1);
        sp += (mask & 2) << 2;
        v128.store64_lane(sp, high, 0);
        sp += (mask & 4) << 1;
        v128.store64_lane(sp, high, 1);
        sp += mask & 8;
        const n = sp - start;
        if (n > 8) {
          swap2(start, start + 8);
          if (n > 16) {
            if (n == 24) {
              swap2(start + 8, start + 16);
              swap2(start, start + 8);
            } else {
              swap2(start + 16, start + 24);
              swap2(start, start + 16);
              swap2(start + 8, start + 24);
              swap2(start + 8, start + 16);
            }
          }
        }
        sp -= 8;
        code = <i32>load<u64>(sp);
        continue;
      }
    } else {
      const leaf = ~code;
      let block = leaves + <usize>(leaf >> 3) * BLOCK_SIZE;
      const end = block + <usize>(leaf & 7) * BLOCK_SIZE;
      do {
        const e1x = v128.load(block, 48), e1y = v128.load(block, 64), e1z = v128.load(block, 80);
        const e2x = v128.load(block, 96), e2y = v128.load(block, 112), e2z = v128.load(block, 128);
        const px = f32x4.sub(f32x4.mul(vdy, e2z), f32x4.mul(vdz, e2y));
        const py = f32x4.sub(f32x4.mul(vdz, e2x), f32x4.mul(vdx, e2z));
        const pz = f32x4.sub(f32x4.mul(vdx, e2y), f32x4.mul(vdy, e2x));
        const det = f32x4.add(f32x4.add(f32x4.mul(e1x, px), f32x4.mul(e1y, py)), f32x4.mul(e1z, pz));
        const inv = f32x4.div(one, det);
        const sx = f32x4.sub(vox, v128.load(block)), sy = f32x4.sub(voy, v128.load(block, 16)), sz = f32x4.sub(voz, v128.load(block, 32));
        const u = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(sx, px), f32x4.mul(sy, py)), f32x4.mul(sz, pz)), inv);
        const qx = f32x4.sub(f32x4.mul(sy, e1z), f32x4.mul(sz, e1y));
        const qy = f32x4.sub(f32x4.mul(sz, e1x), f32x4.mul(sx, e1z));
        const qz = f32x4.sub(f32x4.mul(sx, e1y), f32x4.mul(sy, e1x));
        const v = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(vdx, qx), f32x4.mul(vdy, qy)), f32x4.mul(vdz, qz)), inv);
        const t = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(e2x, qx), f32x4.mul(e2y, qy)), f32x4.mul(e2z, qz)), inv);
        let mask = i32x4.bitmask(
          v128.and(
            v128.and(v128.and(f32x4.ge(u, zero), f32x4.ge(v, zero)), f32x4.le(f32x4.add(u, v), one)),
            v128.and(f32x4.gt(t, zero), f32x4.lt(t, vbest)),
          ),
        );
        if (mask != 0) {
          v128.store(base - 16, t);
          v128.store(base - 32, u);
          v128.store(base - 48, v);
          do {
            const lane = ctz(mask);
            mask &= mask - 1;
            const at = <usize>lane << 2;
            const d = load<f32>(base - 16 + at);
            if (d < best) {
              const index = load<i32>(block + at, BLOCK_INDEX);
              if ((index & LOOK_AT) != 0 && isHole(index & ~LOOK_AT, load<f32>(base - 32 + at), load<f32>(base - 48 + at))) continue;
              best = d;
              hitU = load<f32>(base - 32 + at);
              hitV = load<f32>(base - 48 + at);
              hitTriangle = index & ~LOOK_AT;
              hitBlock = block;
              hitLane = lane;
            }
          } while (mask != 0);
          vbest = f32x4.splat(best);
        }
        block += BLOCK_SIZE;
      } while (block < end);
    }
    // next entry that is still nearer than the best hit
    while (true) {
      if (sp == base) {
        hitT = best;
        return hitTriangle >= 0;
      }
      sp -= 8;
      if (reinterpret<f32>(load<u32>(sp + 4)) < best) break;
    }
    code = load<i32>(sp);
  }
}

/** Light left by the panes and cut-outs of the last anyHit() that returned false, per band. */
export let passR: f64 = 1.0;
export let passG: f64 = 1.0;
export let passB: f64 = 1.0;

/** Looks at the lanes that were hit. @returns whether one of them stops light; what panes let through multiplies pass… */
function stops(block: usize, mask: i32, u: v128, v: v128, dx: f32, dy: f32, dz: f32): bool {
  const indices = v128.load(block, BLOCK_INDEX);
  // lanes without the flag are solid
  if ((mask & ~i32x4.bitmask(i32x4.shl(indices, 1))) != 0) return true;
  const at = scratch - 48;
  v128.store(at, u);
  v128.store(at + 16, v);
  do {
    const lane = <usize>ctz(mask);
    mask &= mask - 1;
    const b = block + (lane << 2);
    const e1x = <f64>load<f32>(b, 48), e1y = <f64>load<f32>(b, 64), e1z = <f64>load<f32>(b, 80);
    const e2x = <f64>load<f32>(b, 96), e2y = <f64>load<f32>(b, 112), e2z = <f64>load<f32>(b, 128);
    const nx = e1y * e2z - e1z * e2y, ny = e1z * e2x - e1x * e2z, nz = e1x * e2y - e1y * e2x;
    const l = Math.sqrt(nx * nx + ny * ny + nz * nz);
    const cos = Math.abs(nx * <f64>dx + ny * <f64>dy + nz * <f64>dz) / Math.max(l, 1e-30);
    const triangle = load<i32>(b, BLOCK_INDEX) & ~LOOK_AT;
    const c = passShadow(triangle, load<f32>(at + (lane << 2)), load<f32>(at + 16 + (lane << 2)), cos);
    if (c == 0) return true;
    passR *= <f64>load<f32>(c);
    passG *= <f64>load<f32>(c, 4);
    passB *= <f64>load<f32>(c, 8);
    if (!(passR + passG + passB > 0.0)) return true;
  } while (mask != 0);
  return false;
}

/** Whether anything in (0, tmax) stops light; where not, pass… says what panes on the way leave of it. */
export function anyHit(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, tmax: f32): bool {
  countRay();
  passR = 1.0;
  passG = 1.0;
  passB = 1.0;
  const nodes = <usize>param(P_NODES);
  const leaves = <usize>param(P_LEAVES);
  dx = awayFromZero(dx);
  dy = awayFromZero(dy);
  dz = awayFromZero(dz);
  const ix: f32 = <f32>1.0 / dx, iy: f32 = <f32>1.0 / dy, iz: f32 = <f32>1.0 / dz;
  const vix = f32x4.splat(ix), viy = f32x4.splat(iy), viz = f32x4.splat(iz);
  const vox = f32x4.splat(ox), voy = f32x4.splat(oy), voz = f32x4.splat(oz);
  const rox = f32x4.splat(ox * ix), roy = f32x4.splat(oy * iy), roz = f32x4.splat(oz * iz);
  const vdx = f32x4.splat(dx), vdy = f32x4.splat(dy), vdz = f32x4.splat(dz);
  const slack = f32x4.splat(FAR_SLACK);
  const nx: usize = dx >= 0 ? 0 : 48, fx: usize = 48 - nx;
  const ny: usize = dy >= 0 ? 16 : 64, fy: usize = 80 - ny;
  const nz: usize = dz >= 0 ? 32 : 80, fz: usize = 112 - nz;
  const zero = f32x4.splat(0.0), one = f32x4.splat(1.0);
  const far = f32x4.splat(tmax);
  const base = scratch;
  let sp = base;
  let code = <i32>param(P_ROOT);
  while (true) {
    if (code >= 0) {
      const node = nodes + (<usize>code << 7);
      const t0 = f32x4.pmax(
        f32x4.pmax(
          f32x4.sub(f32x4.mul(v128.load(node + nx), vix), rox),
          f32x4.sub(f32x4.mul(v128.load(node + ny), viy), roy),
        ),
        f32x4.pmax(f32x4.sub(f32x4.mul(v128.load(node + nz), viz), roz), zero),
      );
      const t1 = f32x4.mul(
        f32x4.pmin(
          f32x4.pmin(
            f32x4.sub(f32x4.mul(v128.load(node + fx), vix), rox),
            f32x4.sub(f32x4.mul(v128.load(node + fy), viy), roy),
          ),
          f32x4.sub(f32x4.mul(v128.load(node + fz), viz), roz),
        ),
        slack,
      );
      const mask = <usize>i32x4.bitmask(v128.and(f32x4.le(t0, t1), f32x4.lt(t0, far)));
      if (mask != 0) {
        const children = v128.load(node, NODE_CHILDREN);
        v128.store32_lane(sp, children, 0);
        sp += (mask & 1) << 2;
        v128.store32_lane(sp, children, 1);
        sp += (mask & 2) << 1;
        v128.store32_lane(sp, children, 2);
        sp += mask & 4;
        v128.store32_lane(sp, children, 3);
        sp += (mask & 8) >> 1;
        sp -= 4;
        code = load<i32>(sp);
        continue;
      }
    } else {
      const leaf = ~code;
      let block = leaves + <usize>(leaf >> 3) * BLOCK_SIZE;
      const end = block + <usize>(leaf & 7) * BLOCK_SIZE;
      do {
        const e1x = v128.load(block, 48), e1y = v128.load(block, 64), e1z = v128.load(block, 80);
        const e2x = v128.load(block, 96), e2y = v128.load(block, 112), e2z = v128.load(block, 128);
        const px = f32x4.sub(f32x4.mul(vdy, e2z), f32x4.mul(vdz, e2y));
        const py = f32x4.sub(f32x4.mul(vdz, e2x), f32x4.mul(vdx, e2z));
        const pz = f32x4.sub(f32x4.mul(vdx, e2y), f32x4.mul(vdy, e2x));
        const det = f32x4.add(f32x4.add(f32x4.mul(e1x, px), f32x4.mul(e1y, py)), f32x4.mul(e1z, pz));
        const inv = f32x4.div(one, det);
        const sx = f32x4.sub(vox, v128.load(block)), sy = f32x4.sub(voy, v128.load(block, 16)), sz = f32x4.sub(voz, v128.load(block, 32));
        const u = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(sx, px), f32x4.mul(sy, py)), f32x4.mul(sz, pz)), inv);
        const qx = f32x4.sub(f32x4.mul(sy, e1z), f32x4.mul(sz, e1y));
        const qy = f32x4.sub(f32x4.mul(sz, e1x), f32x4.mul(sx, e1z));
        const qz = f32x4.sub(f32x4.mul(sx, e1y), f32x4.mul(sy, e1x));
        const v = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(vdx, qx), f32x4.mul(vdy, qy)), f32x4.mul(vdz, qz)), inv);
        const t = f32x4.mul(f32x4.add(f32x4.add(f32x4.mul(e2x, qx), f32x4.mul(e2y, qy)), f32x4.mul(e2z, qz)), inv);
        const mask = i32x4.bitmask(
          v128.and(
            v128.and(v128.and(f32x4.ge(u, zero), f32x4.ge(v, zero)), f32x4.le(f32x4.add(u, v), one)),
            v128.and(f32x4.gt(t, zero), f32x4.lt(t, far)),
          ),
        );
        if (mask != 0 && stops(block, mask, u, v, dx, dy, dz)) return true;
        block += BLOCK_SIZE;
      } while (block < end);
    }
    if (sp == base) return false;
    sp -= 4;
    code = load<i32>(sp);
  }
}

/**
 * All crossings of a ray with the tree at `root`, unsorted: 16 bytes each at `to`, distance (f64) and sign
 * (f64: +1 where the ray leaves the side the triangle's corners turn about, -1 where it enters).
 * @returns how many, at most `most`
 */
export function crossings(root: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, to: usize, most: i32): i32 {
  countRay();
  const nodes = <usize>param(P_NODES);
  const leaves = <usize>param(P_LEAVES);
  dx = awayFromZero(dx);
  dy = awayFromZero(dy);
  dz = awayFromZero(dz);
  const ix: f32 = <f32>1.0 / dx, iy: f32 = <f32>1.0 / dy, iz: f32 = <f32>1.0 / dz;
  const base = scratch;
  let sp = base;
  let n = 0;
  let code = root;
  while (true) {
    if (code >= 0) {
      const node = nodes + (<usize>code << 7);
      for (let i: usize = 0; i < 4; i++) {
        const at = node + (i << 2);
        if (load<f32>(at) > load<f32>(at, 48)) continue;
        const ax = (load<f32>(at) - ox) * ix, bx = (load<f32>(at, 48) - ox) * ix;
        const ay = (load<f32>(at, 16) - oy) * iy, by = (load<f32>(at, 64) - oy) * iy;
        const az = (load<f32>(at, 32) - oz) * iz, bz = (load<f32>(at, 80) - oz) * iz;
        const near = Mathf.max(Mathf.max(Mathf.min(ax, bx), Mathf.min(ay, by)), Mathf.max(Mathf.min(az, bz), 0.0));
        const far = Mathf.min(Mathf.min(Mathf.max(ax, bx), Mathf.max(ay, by)), Mathf.max(az, bz)) * FAR_SLACK;
        if (near <= far) {
          store<i32>(sp, load<i32>(at, NODE_CHILDREN));
          sp += 4;
        }
      }
    } else {
      const leaf = ~code;
      let block = leaves + <usize>(leaf >> 3) * BLOCK_SIZE;
      const end = block + <usize>(leaf & 7) * BLOCK_SIZE;
      for (; block < end; block += BLOCK_SIZE)
        for (let lane: usize = 0; lane < 4; lane++) {
          const b = block + (lane << 2);
          if (load<i32>(b, BLOCK_INDEX) < 0) continue;
          const e1x = <f64>load<f32>(b, 48), e1y = <f64>load<f32>(b, 64), e1z = <f64>load<f32>(b, 80);
          const e2x = <f64>load<f32>(b, 96), e2y = <f64>load<f32>(b, 112), e2z = <f64>load<f32>(b, 128);
          const px = <f64>dy * e2z - <f64>dz * e2y, py = <f64>dz * e2x - <f64>dx * e2z, pz = <f64>dx * e2y - <f64>dy * e2x;
          const det = e1x * px + e1y * py + e1z * pz;
          if (det == 0.0) continue;
          const inv = 1.0 / det;
          const sx = <f64>ox - <f64>load<f32>(b), sy = <f64>oy - <f64>load<f32>(b, 16), sz = <f64>oz - <f64>load<f32>(b, 32);
          const u = (sx * px + sy * py + sz * pz) * inv;
          if (u < 0.0 || u > 1.0) continue;
          const qx = sy * e1z - sz * e1y, qy = sz * e1x - sx * e1z, qz = sx * e1y - sy * e1x;
          const v = (<f64>dx * qx + <f64>dy * qy + <f64>dz * qz) * inv;
          if (v < 0.0 || u + v > 1.0) continue;
          const t = (e2x * qx + e2y * qy + e2z * qz) * inv;
          if (t <= 0.0 || n >= most) continue;
          store<f64>(to + (<usize>n << 4), t);
          // det > 0: the ray comes from the side the corners turn about counter-clockwise, and enters
          store<f64>(to + (<usize>n << 4), det > 0.0 ? -1.0 : 1.0, 8);
          n++;
        }
    }
    if (sp == base) return n;
    sp -= 4;
    code = load<i32>(sp);
  }
}
