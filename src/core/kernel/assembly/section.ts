/**
 * What the drawings of air are made of: the media in a plane, the set where a plane cuts it, how bright lights make its air,
 * and the fate of light along one ray of the lens. Without randomness but for points on emitters and of the sky.
 */
import { FAR, MIN_LEFT, SHADOW_REACH } from "./precision";
import { SCRATCH_LIST_A, SEGMENT_BYTES } from "../../layout/scratch";
import {
  BLOCK_INDEX,
  BLOCK_SIZE,
  LEAF_BLOCKS,
  LEAF_FIRST,
  LEAF_LANES,
  M_SIGMA_S,
  M_SIGMA_T,
  NODE_CHILDREN,
  NODE_GROUP,
  NODE_UNIT,
  P_LEAVES,
  P_LIGHT_COUNT,
  P_NODES,
  P_ROOT,
  P_SEED,
  RAY_CAMERA,
  RAY_SHADOW,
  RAY_SKY,
} from "../../layout/layout";
import { tintAt, tintR, tintG, tintB } from "./tint";
import { paramAddress, paramInt, scratch, word } from "./state";
import { pair, ru, rv, startSample, subSample } from "./random";
import { anyHit, passR, passG, passB } from "./bvh";
import { transmit, tr, tg, tb } from "./transmit";
import { densityAt } from "./density";
import { collect, CLOSED, profileDepth, S_A, S_B, S_SHARE, S_TYPE } from "./segments";
import { beginForced, scatterersAt, mediumEmissionR, mediumEmissionG, mediumEmissionB } from "./forced";
import { sampleLight, selectionPdf } from "./light-sampling";
import { directInMedium } from "./direct";
import { airShare, lightFrom, lDistance, lR, lG, lB, lx, ly, lz, sampleSun, SUN } from "./lights";
import { beginBranch, forgetGroups, outR, outG, outB } from "./accumulate";

// @ts-ignore: decorator
@inline
function add(at: usize, v: f64): void {
  store<f32>(at, load<f32>(at) + <f32>v);
}

/**
 * Adds to nx × ny cells of four f32 (σs per band, mean σt; 1/m) what the media hold at their middles. Columns rise from
 * (px, py, pz) + i · u by steps of v; both are the full steps from cell to cell, m.
 */
export function sectionField(
  px: f64,
  py: f64,
  pz: f64,
  ux: f64,
  uy: f64,
  uz: f64,
  vx: f64,
  vy: f64,
  vz: f64,
  nx: i32,
  ny: i32,
  to: usize,
): void {
  const step = Math.sqrt(vx * vx + vy * vy + vz * vz);
  const dx = vx / step,
    dy = vy / step,
    dz = vz / step;
  for (let i = 0; i < nx; i++) {
    // the column's foot, half a cell below its lowest middle
    const ox = px + <f64>i * ux - 0.5 * vx,
      oy = py + <f64>i * uy - 0.5 * vy,
      oz = pz + <f64>i * uz - 0.5 * vz;
    const list = scratch + SCRATCH_LIST_A;
    const n = collect(list, ox, oy, oz, dx, dy, dz, step * <f64>ny, RAY_CAMERA);
    for (let k = 0; k < n; k++) {
      const s = list + <usize>k * SEGMENT_BYTES;
      const p = <usize>load<u32>(s);
      const share = load<f64>(s, S_SHARE);
      const mean = (word(p, M_SIGMA_T) + word(p, M_SIGMA_T + 1) + word(p, M_SIGMA_T + 2)) / 3.0;
      const first = <i32>Math.max(0.0, Math.ceil(load<f64>(s, S_A) / step - 0.5));
      const last = <i32>Math.min(<f64>(ny - 1), Math.ceil(load<f64>(s, S_B) / step - 0.5) - 1.0);
      for (let j = first; j <= last; j++) {
        const t = (<f64>j + 0.5) * step;
        const d = share * densityAt(p, ox + t * dx, oy + t * dy, oz + t * dz);
        if (!(d > 0.0)) continue;
        const at = to + ((<usize>(j * nx + i)) << 4);
        tintAt(p, ox + t * dx, oy + t * dy, oz + t * dz);
        add(at, d * word(p, M_SIGMA_S) * tintR);
        add(at + 4, d * word(p, M_SIGMA_S + 1) * tintG);
        add(at + 8, d * word(p, M_SIGMA_S + 2) * tintB);
        add(at + 12, d * mean);
      }
    }
  }
}

/**
 * Adds to nx × ny f32 the illuminance (lux) of one light at their middles, as the set shadows and the air dims it; laid out
 * as in sectionField(). @param sample which point of the emitter
 */
export function sectionLit(
  light: i32,
  px: f64,
  py: f64,
  pz: f64,
  ux: f64,
  uy: f64,
  uz: f64,
  vx: f64,
  vy: f64,
  vz: f64,
  nx: i32,
  ny: i32,
  sample: i32,
  to: usize,
): void {
  const share = airShare(light);
  if (share <= 0.0) return;
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx; i++) {
      const x = px + <f64>i * ux + <f64>j * vx,
        y = py + <f64>i * uy + <f64>j * vy,
        z = pz + <f64>i * uz + <f64>j * vz;
      startSample(<u32>paramInt(P_SEED), <u32>i, <u32>j, <u32>sample);
      pair(0);
      if (light == SUN) sampleSun(ru, rv, x, y, z);
      else lightFrom(light, x, y, z, ru, rv);
      const e = share * (0.2126 * lR + 0.7152 * lG + 0.0722 * lB);
      if (!(e > 0.0)) continue;
      const far: f32 = lDistance < FAR ? <f32>(lDistance * SHADOW_REACH) : <f32>FAR;
      if (anyHit(<f32>x, <f32>y, <f32>z, <f32>lx, <f32>ly, <f32>lz, far)) continue;
      const open = 0.2126 * passR + 0.7152 * passG + 0.0722 * passB;
      transmit(x, y, z, lx, ly, lz, lDistance, RAY_SHADOW);
      add(to + ((<usize>(j * nx + i)) << 2), e * open * (0.2126 * tr + 0.7152 * tg + 0.0722 * tb));
    }
}

/** Places within a piece of the ray at which media without a closed form are looked up. */
const SUB: i32 = 6;

/**
 * Optical depth per band at the ends of n even pieces of [0, far] of a camera ray: 3 (n + 1) f64, from 0 on.
 * @param open whether the ray ends in the background
 */
export function sectionDepths(ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, far: f64, n: i32, open: bool, to: usize): void {
  memory.fill(to, 0, <usize>(n + 1) * 24);
  const list = scratch + SCRATCH_LIST_A;
  const count = collect(list, ox, oy, oz, dx, dy, dz, far, open ? RAY_SKY : RAY_CAMERA);
  const step = far / <f64>n;
  for (let k = 0; k < count; k++) {
    const s = list + <usize>k * SEGMENT_BYTES;
    const p = <usize>load<u32>(s);
    const share = load<f64>(s, S_SHARE);
    const a = load<f64>(s, S_A),
      b = load<f64>(s, S_B);
    const closed = load<i32>(s, S_TYPE) == CLOSED;
    let depth = 0.0;
    for (let i = 0; i < n; i++) {
      const from = Math.max(a, <f64>i * step),
        end = Math.min(b, <f64>(i + 1) * step);
      if (end > from) {
        if (closed) depth = profileDepth(s, p, end - a);
        else {
          const h = (end - from) / <f64>SUB;
          for (let q = 0; q < SUB; q++) {
            const t = from + (<f64>q + 0.5) * h;
            depth += h * densityAt(p, ox + t * dx, oy + t * dy, oz + t * dz);
          }
        }
      }
      const at = to + <usize>(i + 1) * 24;
      for (let c = 0; c < 3; c++)
        store<f64>(at + ((<usize>c) << 3), load<f64>(at + ((<usize>c) << 3)) + share * depth * word(p, M_SIGMA_T + c));
    }
  }
}

/** Mean of exp(-depth) over a piece at whose ends the depths are a and b. */
// @ts-ignore: decorator
@inline
function meanLeft(a: f64, b: f64): f64 {
  const d = b - a;
  return Math.exp(-a) * (d > 1e-6 ? -Math.expm1(-d) / d : 1.0 - 0.5 * d);
}

/**
 * Luminance (cd/m²) per band that one light adds to a camera ray within each of the n pieces whose depths sectionDepths() wrote:
 * adds 3 n f64. Light scattered once; `samples` places and points of the emitter a piece. Light -7 is what the media emit, -5 all
 * lamps and emissive surfaces, -6 the surfaces alone.
 */
export function sectionGains(
  light: i32,
  ox: f64,
  oy: f64,
  oz: f64,
  dx: f64,
  dy: f64,
  dz: f64,
  far: f64,
  n: i32,
  open: bool,
  samples: i32,
  depths: usize,
  to: usize,
): void {
  if (!beginForced(ox, oy, oz, dx, dy, dz, far, open ? RAY_SKY : RAY_CAMERA)) return;
  const step = far / <f64>n;
  const weight = step / <f64>samples;
  for (let i = 0; i < n; i++) {
    const at = depths + <usize>i * 24;
    const leftR = meanLeft(load<f64>(at), load<f64>(at, 24));
    const leftG = meanLeft(load<f64>(at, 8), load<f64>(at, 32));
    const leftB = meanLeft(load<f64>(at, 16), load<f64>(at, 40));
    if (!(leftR + leftG + leftB > MIN_LEFT)) return;
    let r = 0.0,
      g = 0.0,
      b = 0.0;
    startSample(<u32>paramInt(P_SEED), <u32>i, <u32>(light + 8), 0);
    for (let k = 0; k < samples; k++) {
      const t = (<f64>i + (<f64>k + 0.5) / <f64>samples) * step;
      const some = scatterersAt(t);
      if (light == EMITTED) {
        r += mediumEmissionR;
        g += mediumEmissionG;
        b += mediumEmissionB;
        continue;
      }
      if (!some) continue;
      subSample(<u32>k, <u32>samples);
      pair(1);
      beginBranch(true);
      let asked = light;
      let share = 1.0;
      if (light <= ANY_LAMP) {
        asked = sampleLight(ox + t * dx, oy + t * dy, oz + t * dz, false, true, ru);
        share = selectionPdf;
        if (asked < (light == ANY_LAMP ? 0 : paramInt(P_LIGHT_COUNT))) continue;
        pair(2);
      }
      directInMedium(asked, share, ox + t * dx, oy + t * dy, oz + t * dz, dx, dy, dz, 1.0, 1.0, 1.0, ru, rv, false);
      r += outR;
      g += outG;
      b += outB;
    }
    subSample(0, 1);
    const sum = to + <usize>i * 24;
    store<f64>(sum, load<f64>(sum) + weight * leftR * r);
    store<f64>(sum, load<f64>(sum, 8) + weight * leftG * g, 8);
    store<f64>(sum, load<f64>(sum, 16) + weight * leftB * b, 16);
  }
  forgetGroups();
}
const EMITTED: i32 = -7;
/** One of all lamps and emissive triangles, by weight; -6 of the triangles alone. */
const ANY_LAMP: i32 = -5;

/**
 * The set where the plane through (px, py, pz) with unit axes u and v cuts it: segments of four f32 (along u, along v, twice)
 * inside 0 ≤ along u ≤ width, 0 ≤ along v ≤ height, m. @returns how many, `most` at most
 */
export function sectionCut(
  px: f64,
  py: f64,
  pz: f64,
  ux: f64,
  uy: f64,
  uz: f64,
  vx: f64,
  vy: f64,
  vz: f64,
  width: f64,
  height: f64,
  to: usize,
  highest: i32,
): i32 {
  const nx = uy * vz - uz * vy,
    ny = uz * vx - ux * vz,
    nz = ux * vy - uy * vx;
  const nodes = paramAddress(P_NODES),
    leaves = paramAddress(P_LEAVES);
  let count = 0;
  let sp = scratch;
  store<i32>(sp, paramInt(P_ROOT));
  sp += 4;
  while (sp > scratch) {
    sp -= 4;
    const code = load<i32>(sp);
    if (code >= 0) {
      const node = nodes + <usize>code * NODE_UNIT;
      for (let k: usize = 0; k < 8; k++) {
        const at = node + (k >> 2) * NODE_GROUP + ((k & 3) << 2);
        const x0 = <f64>load<f32>(at),
          y0 = <f64>load<f32>(at, 16),
          z0 = <f64>load<f32>(at, 32);
        const x1 = <f64>load<f32>(at, 48),
          y1 = <f64>load<f32>(at, 64),
          z1 = <f64>load<f32>(at, 80);
        if (!(x0 <= x1 && y0 <= y1 && z0 <= z1)) continue;
        const cx = 0.5 * (x0 + x1) - px,
          cy = 0.5 * (y0 + y1) - py,
          cz = 0.5 * (z0 + z1) - pz;
        const hx = 0.5 * (x1 - x0),
          hy = 0.5 * (y1 - y0),
          hz = 0.5 * (z1 - z0);
        if (Math.abs(cx * nx + cy * ny + cz * nz) > Math.abs(hx * nx) + Math.abs(hy * ny) + Math.abs(hz * nz)) continue;
        const a = cx * ux + cy * uy + cz * uz,
          ra = Math.abs(hx * ux) + Math.abs(hy * uy) + Math.abs(hz * uz);
        if (a + ra < 0.0 || a - ra > width) continue;
        const b = cx * vx + cy * vy + cz * vz,
          rb = Math.abs(hx * vx) + Math.abs(hy * vy) + Math.abs(hz * vz);
        if (b + rb < 0.0 || b - rb > height) continue;
        store<i32>(sp, load<i32>(at, NODE_CHILDREN));
        sp += 4;
      }
      continue;
    }
    const leaf = ~code;
    let block = leaves + (<usize>leaf / LEAF_FIRST) * BLOCK_SIZE;
    const end = block + <usize>(leaf & LEAF_BLOCKS) * BLOCK_SIZE;
    const lanes = (leaf / LEAF_LANES) & 15;
    do {
      for (let i: usize = 0; i < 8; i++) {
        if (count >= highest) return count;
        // a lane of another leaf, or that holds no triangle
        if (((lanes >> (<i32>(i & 3))) & 1) == 0 || load<i32>(block + (i << 2), BLOCK_INDEX) == -1) continue;
        const b = block + ((i & 3) << 2),
          e = b + 48 + (i >> 2) * 48;
        const ax = <f64>load<f32>(b) - px,
          ay = <f64>load<f32>(b, 16) - py,
          az = <f64>load<f32>(b, 32) - pz;
        const bx = ax + <f64>load<f32>(e),
          by = ay + <f64>load<f32>(e, 16),
          bz = az + <f64>load<f32>(e, 32);
        const cx = ax + <f64>load<f32>(e, 48),
          cy = ay + <f64>load<f32>(e, 64),
          cz = az + <f64>load<f32>(e, 80);
        const da = ax * nx + ay * ny + az * nz,
          db = bx * nx + by * ny + bz * nz,
          dc = cx * nx + cy * ny + cz * nz;
        if (da > 0.0 == db > 0.0 && da > 0.0 == dc > 0.0) continue;
        ends = 0;
        if (da > 0.0 != db > 0.0) end2(ax, ay, az, bx, by, bz, da / (da - db), ux, uy, uz, vx, vy, vz);
        if (da > 0.0 != dc > 0.0) end2(ax, ay, az, cx, cy, cz, da / (da - dc), ux, uy, uz, vx, vy, vz);
        if (db > 0.0 != dc > 0.0) end2(bx, by, bz, cx, cy, cz, db / (db - dc), ux, uy, uz, vx, vy, vz);
        if (Math.max(e0, e2) < 0.0 || Math.min(e0, e2) > width || Math.max(e1, e3) < 0.0 || Math.min(e1, e3) > height) continue;
        const o = to + ((<usize>count) << 4);
        store<f32>(o, <f32>e0);
        store<f32>(o, <f32>e1, 4);
        store<f32>(o, <f32>e2, 8);
        store<f32>(o, <f32>e3, 12);
        count++;
      }
      block += BLOCK_SIZE;
    } while (block < end);
  }
  return count;
}

let ends: i32 = 0;
let e0: f64 = 0.0,
  e1: f64 = 0.0,
  e2: f64 = 0.0,
  e3: f64 = 0.0;

/** Takes the place at share f of an edge as the segment's next end. */
function end2(ax: f64, ay: f64, az: f64, bx: f64, by: f64, bz: f64, f: f64, ux: f64, uy: f64, uz: f64, vx: f64, vy: f64, vz: f64): void {
  const x = ax + f * (bx - ax),
    y = ay + f * (by - ay),
    z = az + f * (bz - az);
  const s = x * ux + y * uy + z * uz,
    t = x * vx + y * vy + z * vz;
  if (ends == 0) {
    e0 = s;
    e1 = t;
  } else {
    e2 = s;
    e3 = t;
  }
  ends++;
}
