/** Coarse grids of upper bounds of density, filled when first asked for and walked cell by cell. */
import { MIN_LENGTH } from "./precision";
import { NOISE_NONE, REGION_MESH } from "../../layout/kinds";
import {
  M_REGION,
  M_EDGE,
  M_HEIGHT,
  M_HEIGHT_SCALE,
  M_NOISE,
  M_START,
  M_VOLUME,
  M_VOLUME_ROWS,
  M_VOLUME_LOW,
  M_VOLUME_SCALE,
  M_VOLUME_CURVE,
  M_PROXIMITY,
  M_MAJORANT,
  M_MAJORANT_CELLS,
  M_MAJORANT_LOW,
  M_MAJORANT_SCALE,
  M_MAJORANT_LOCAL,
  M_CENTRE,
  M_ROWS,
} from "../../layout/layout";
import { profileDensity } from "../../optics/profile";
import { row, word, wordAddress, wordInt } from "./state";
import { rawNoise, threshold, noiseMargin } from "./noise";
import { rangeWithin, rangeMin, rangeMax } from "./volume";
import { maxOfCurve, proximityMajorant } from "./proximity";
import { depthInside } from "./region";
import { heightOf, smooth, distanceFromLens, startFactor } from "./density";

/** Upper bound of gridDensity() within a box of half sizes (hx, hy, hz), turned or not, about a point. */
function gridBound(p: usize, local: bool, x: f64, y: f64, z: f64, hx: f64, hy: f64, hz: f64): f64 {
  let low0 = 0.0,
    low1 = 0.0,
    low2 = 0.0,
    high0 = 0.0,
    high1 = 0.0,
    high2 = 0.0;
  for (let axis = 0; axis < 3; axis++) {
    const at = M_VOLUME_ROWS + 4 * axis;
    const c = row(p, at, x, y, z);
    let r = 0.0;
    for (let k = 0; k < 3; k++) {
      const a = local
        ? word(p, at) * word(p, M_ROWS + 3 * k) +
          word(p, at + 1) * word(p, M_ROWS + 3 * k + 1) +
          word(p, at + 2) * word(p, M_ROWS + 3 * k + 2)
        : word(p, at + k);
      r += Math.abs(a) * (k == 0 ? hx : k == 1 ? hy : hz);
    }
    // a hair more, against rounding
    r = r * 1.000001 + 1e-9;
    if (axis == 0) {
      low0 = c - r;
      high0 = c + r;
    } else if (axis == 1) {
      low1 = c - r;
      high1 = c + r;
    } else {
      low2 = c - r;
      high2 = c + r;
    }
  }
  rangeWithin(wordAddress(p, M_VOLUME), low0, low1, low2, high0, high1, high2);
  const scale = word(p, M_VOLUME_SCALE),
    zero = word(p, M_VOLUME_LOW);
  const highest = Math.max(0.0, Math.min(1.0, ((scale >= 0.0 ? rangeMax : rangeMin) - zero) * scale));
  const n = wordAddress(p, M_VOLUME_CURVE);
  if (n == 0) return highest;
  const lowest = Math.max(0.0, Math.min(1.0, ((scale >= 0.0 ? rangeMin : rangeMax) - zero) * scale));
  return maxOfCurve(n, lowest, highest);
}

let gp: usize = 0,
  gAddress: usize = 0;
let gx: i32 = 0,
  gy: i32 = 0,
  gz: i32 = 0,
  gnx: i32 = 0,
  gny: i32 = 0,
  gnz: i32 = 0;
let gsx: i32 = 0,
  gsy: i32 = 0,
  gsz: i32 = 0;
let gtx: f64 = 0.0,
  gty: f64 = 0.0,
  gtz: f64 = 0.0,
  gdx: f64 = 0.0,
  gdy: f64 = 0.0,
  gdz: f64 = 0.0;
let gAt: f64 = 0.0,
  gEnd: f64 = 0.0;
/** Set by nextCell(): the cell's part of the ray and its bound. */
export let cellA: f64 = 0.0;
export let cellB: f64 = 0.0;
export let cellMajorant: f64 = 0.0;

/** Upper bound of relative density in a cell, computed when first asked for; the same from any worker. */
function majorantOf(p: usize, ix: i32, iy: i32, iz: i32): f64 {
  const at = gAddress + ((<usize>((iz * gny + iy) * gnx + ix)) << 2);
  const known = load<f32>(at);
  if (known >= 0.0) return <f64>known;
  const wx = 1.0 / word(p, M_MAJORANT_SCALE),
    wy = 1.0 / word(p, M_MAJORANT_SCALE + 1),
    wz = 1.0 / word(p, M_MAJORANT_SCALE + 2);
  const lx = word(p, M_MAJORANT_LOW) + (<f64>ix + 0.5) * wx;
  const ly = word(p, M_MAJORANT_LOW + 1) + (<f64>iy + 0.5) * wy;
  const lz = word(p, M_MAJORANT_LOW + 2) + (<f64>iz + 0.5) * wz;
  const local = wordInt(p, M_MAJORANT_LOCAL) != 0;
  const half = 0.5 * Math.sqrt(wx * wx + wy * wy + wz * wz);
  const cx = worldOf(p, local, 0, lx, ly, lz),
    cy = worldOf(p, local, 1, lx, ly, lz),
    cz = worldOf(p, local, 2, lx, ly, lz);
  let majorant = profileDensity(wordInt(p, M_HEIGHT), heightOf(p, cx, cy, cz) - half, word(p, M_HEIGHT_SCALE));
  const edge = word(p, M_EDGE);
  // the distance grid of a mesh is steeper than distance itself where it is interpolated
  if (edge > 0.0) majorant *= smooth((depthInside(p, cx, cy, cz) + (wordInt(p, M_REGION) == REGION_MESH ? 1.7321 * half : half)) / edge);
  if (wordInt(p, M_START) != 0) majorant *= startFactor(p, distanceFromLens(p, cx, cy, cz) + half);
  if (majorant > 0.0 && wordInt(p, M_PROXIMITY) != 0) majorant *= proximityMajorant(p, cx, cy, cz, half);
  if (majorant > 0.0 && wordInt(p, M_VOLUME) != 0) majorant *= gridBound(p, local, cx, cy, cz, 0.5 * wx, 0.5 * wy, 0.5 * wz);
  if (majorant > 0.0 && wordInt(p, M_NOISE) != NOISE_NONE) {
    let lowest = 1e9,
      highest = -1e9;
    for (let i = 0; i < 4; i++)
      for (let j = 0; j < 4; j++)
        for (let k = 0; k < 4; k++) {
          const a = lx + (<f64>i * 0.25 - 0.375) * wx,
            b = ly + (<f64>j * 0.25 - 0.375) * wy,
            c = lz + (<f64>k * 0.25 - 0.375) * wz;
          const v = rawNoise(p, worldOf(p, local, 0, a, b, c), worldOf(p, local, 1, a, b, c), worldOf(p, local, 2, a, b, c));
          lowest = Math.min(lowest, v);
          highest = Math.max(highest, v);
        }
    const margin = noiseMargin(p, half / 4.0);
    majorant *= Math.max(threshold(p, highest + margin), threshold(p, lowest - margin));
  }
  // rounded up, so that the single-precision bound still bounds
  store<f32>(at, <f32>(majorant * 1.000001));
  return <f64>load<f32>(at);
}

// @ts-ignore: decorator
@inline
function worldOf(p: usize, local: bool, axis: i32, x: f64, y: f64, z: f64): f64 {
  if (!local) return axis == 0 ? x : axis == 1 ? y : z;
  return word(p, M_CENTRE + axis) + x * word(p, M_ROWS + axis) + y * word(p, M_ROWS + 3 + axis) + z * word(p, M_ROWS + 6 + axis);
}

/** Begins a walk through the majorant cells of a medium, along the ray from `a` to `b` (m). */
export function startCells(p: usize, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, a: f64, b: f64): void {
  gp = p;
  gAddress = wordAddress(p, M_MAJORANT);
  gnx = wordInt(p, M_MAJORANT_CELLS);
  gny = wordInt(p, M_MAJORANT_CELLS + 1);
  gnz = wordInt(p, M_MAJORANT_CELLS + 2);
  let x = ox,
    y = oy,
    z = oz,
    vx = dx,
    vy = dy,
    vz = dz;
  if (wordInt(p, M_MAJORANT_LOCAL) != 0) {
    const qx = ox - word(p, M_CENTRE),
      qy = oy - word(p, M_CENTRE + 1),
      qz = oz - word(p, M_CENTRE + 2);
    x = qx * word(p, M_ROWS) + qy * word(p, M_ROWS + 1) + qz * word(p, M_ROWS + 2);
    y = qx * word(p, M_ROWS + 3) + qy * word(p, M_ROWS + 4) + qz * word(p, M_ROWS + 5);
    z = qx * word(p, M_ROWS + 6) + qy * word(p, M_ROWS + 7) + qz * word(p, M_ROWS + 8);
    vx = dx * word(p, M_ROWS) + dy * word(p, M_ROWS + 1) + dz * word(p, M_ROWS + 2);
    vy = dx * word(p, M_ROWS + 3) + dy * word(p, M_ROWS + 4) + dz * word(p, M_ROWS + 5);
    vz = dx * word(p, M_ROWS + 6) + dy * word(p, M_ROWS + 7) + dz * word(p, M_ROWS + 8);
  }
  x = (x - word(p, M_MAJORANT_LOW)) * word(p, M_MAJORANT_SCALE);
  y = (y - word(p, M_MAJORANT_LOW + 1)) * word(p, M_MAJORANT_SCALE + 1);
  z = (z - word(p, M_MAJORANT_LOW + 2)) * word(p, M_MAJORANT_SCALE + 2);
  vx *= word(p, M_MAJORANT_SCALE);
  vy *= word(p, M_MAJORANT_SCALE + 1);
  vz *= word(p, M_MAJORANT_SCALE + 2);
  gx = <i32>Math.max(0.0, Math.min(<f64>(gnx - 1), Math.floor(x + vx * a)));
  gy = <i32>Math.max(0.0, Math.min(<f64>(gny - 1), Math.floor(y + vy * a)));
  gz = <i32>Math.max(0.0, Math.min(<f64>(gnz - 1), Math.floor(z + vz * a)));
  gsx = vx > 0.0 ? 1 : -1;
  gsy = vy > 0.0 ? 1 : -1;
  gsz = vz > 0.0 ? 1 : -1;
  gtx = vx == 0.0 ? Infinity : (<f64>(gx + (vx > 0.0 ? 1 : 0)) - x) / vx;
  gty = vy == 0.0 ? Infinity : (<f64>(gy + (vy > 0.0 ? 1 : 0)) - y) / vy;
  gtz = vz == 0.0 ? Infinity : (<f64>(gz + (vz > 0.0 ? 1 : 0)) - z) / vz;
  gdx = vx == 0.0 ? Infinity : Math.abs(1.0 / vx);
  gdy = vy == 0.0 ? Infinity : Math.abs(1.0 / vy);
  gdz = vz == 0.0 ? Infinity : Math.abs(1.0 / vz);
  gAt = a;
  gEnd = b;
}

/** Steps to the next cell; sets cellA, cellB, cellBound. @returns false past the end */
export function nextCell(): bool {
  while (gAt < gEnd) {
    const majorant = majorantOf(gp, gx, gy, gz);
    const t = Math.min(gtx, Math.min(gty, gtz));
    cellA = gAt;
    cellB = Math.min(gEnd, Math.max(t, gAt));
    if (t < gEnd) {
      // a ray that leaves the grid by rounding stays in its last cell
      if (t == gtx) {
        gx += gsx;
        gtx = gx < 0 || gx >= gnx ? Infinity : gtx + gdx;
        gx = gx < 0 ? 0 : gx >= gnx ? gnx - 1 : gx;
      } else if (t == gty) {
        gy += gsy;
        gty = gy < 0 || gy >= gny ? Infinity : gty + gdy;
        gy = gy < 0 ? 0 : gy >= gny ? gny - 1 : gy;
      } else {
        gz += gsz;
        gtz = gz < 0 || gz >= gnz ? Infinity : gtz + gdz;
        gz = gz < 0 ? 0 : gz >= gnz ? gnz - 1 : gz;
      }
    }
    gAt = cellB;
    if (cellB > cellA) {
      cellMajorant = majorant;
      return true;
    }
  }
  return false;
}

/** Bound that a test may hold against the density: that of the cell of a point; 1 without a grid. */
export function majorantAt(p: usize, x: f64, y: f64, z: f64): f64 {
  if (wordInt(p, M_MAJORANT) == 0) return 1.0;
  startCells(p, x, y, z, 1.0, 0.0, 0.0, 0.0, MIN_LENGTH);
  return majorantOf(p, gx, gy, gz);
}
