/** Distance to a mesh as a grid, for density that depends on nearness and for the soft edges of meshes. */
import { AXES } from "../math/vectors";
import { VolumeBuilder, type Volume } from "../data/volume";

/** Cells that a distance grid may have, about. */
const CELLS = 300_000;

/** Squared distance of point p to triangle a b c (9 numbers at `at`). @source Ericson, Real-Time Collision Detection, 5.1.5 */
export function squaredDistance(t: Float32Array, at: number, px: number, py: number, pz: number): number {
  const ax = t[at]!,
    ay = t[at + 1]!,
    az = t[at + 2]!;
  const abx = t[at + 3]! - ax,
    aby = t[at + 4]! - ay,
    abz = t[at + 5]! - az;
  const acx = t[at + 6]! - ax,
    acy = t[at + 7]! - ay,
    acz = t[at + 8]! - az;
  const apx = px - ax,
    apy = py - ay,
    apz = pz - az;
  const d1 = abx * apx + aby * apy + abz * apz,
    d2 = acx * apx + acy * apy + acz * apz;
  if (d1 <= 0 && d2 <= 0) return apx * apx + apy * apy + apz * apz;
  const away = (u: number, v: number): number => {
    const x = apx - u * abx - v * acx,
      y = apy - u * aby - v * acy,
      z = apz - u * abz - v * acz;
    return x * x + y * y + z * z;
  };
  const ab2 = abx * abx + aby * aby + abz * abz,
    ac2 = acx * acx + acy * acy + acz * acz,
    dot = abx * acx + aby * acy + abz * acz;
  const d3 = d1 - ab2,
    d4 = d2 - dot;
  if (d3 >= 0 && d4 <= d3) return away(1, 0);
  const vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return away(d1 - d3 > 0 ? d1 / (d1 - d3) : 0, 0);
  const d5 = d1 - dot,
    d6 = d2 - ac2;
  if (d6 >= 0 && d5 <= d6) return away(0, 1);
  const vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return away(0, d2 - d6 > 0 ? d2 / (d2 - d6) : 0);
  const va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
    const w = d4 - d3 + (d5 - d6) > 0 ? (d4 - d3) / (d4 - d3 + (d5 - d6)) : 0;
    return away(1 - w, w);
  }
  const sum = va + vb + vc;
  return sum > 0 ? away(vb / sum, vc / sum) : away(0, 0);
}

/**
 * Distance (m) to the nearest triangle, over the mesh's box and `reach` metres about it. Each cell keeps its nearest triangle:
 * cells that triangles pass find theirs exactly, others take the best of their neighbours' (swept in all eight directions).
 * Beyond the grid all is `reach` away.
 * @param positions 9 floats a triangle, m
 */
export function distanceVolume(positions: Float32Array, bounds: readonly number[], reach: number): Volume {
  const span = AXES.map((k) => bounds[3 + k]! - bounds[k]! + 2 * reach);
  const size = Math.max(
    1e-6,
    Math.max(...span) * 1e-3,
    Math.cbrt(span.reduce((a, s) => a * Math.max(s, Math.max(...span) * 1e-2), 1) / CELLS),
  );
  const n = span.map((s) => Math.min(1000, Math.ceil(s / size) + 2)) as [number, number, number];
  const low = AXES.map((k) => bounds[k]! - reach - size / 2) as [number, number, number];
  const [nx, ny, nz] = n;
  const nearest = new Int32Array(nx * ny * nz).fill(-1);
  const squared = new Float32Array(nx * ny * nz).fill(Infinity);
  const offer = (cell: number, triangle: number, x: number, y: number, z: number): void => {
    const d = squaredDistance(positions, 9 * triangle, low[0] + x * size, low[1] + y * size, low[2] + z * size);
    if (d < squared[cell]!) {
      squared[cell] = d;
      nearest[cell] = triangle;
    }
  };
  for (let t = 0; t < positions.length / 9; t++) {
    const from = AXES.map((k) => {
      const least = Math.min(positions[9 * t + k]!, positions[9 * t + 3 + k]!, positions[9 * t + 6 + k]!);
      return Math.max(0, Math.floor((least - low[k]) / size));
    });
    const to = AXES.map((k) => {
      const most = Math.max(positions[9 * t + k]!, positions[9 * t + 3 + k]!, positions[9 * t + 6 + k]!);
      return Math.min(n[k] - 1, Math.floor((most - low[k]) / size) + 1);
    });
    for (let z = from[2]!; z <= to[2]!; z++)
      for (let y = from[1]!; y <= to[1]!; y++) for (let x = from[0]!; x <= to[0]!; x++) offer((z * ny + y) * nx + x, t, x, y, z);
  }
  for (let pass = 0; pass < 2; pass++)
    for (let way = 0; way < 8; way++) {
      const [sx, sy, sz] = [way & 1 ? -1 : 1, way & 2 ? -1 : 1, way & 4 ? -1 : 1];
      for (let k = 0; k < nz; k++) {
        const z = sz > 0 ? k : nz - 1 - k;
        for (let j = 0; j < ny; j++) {
          const y = sy > 0 ? j : ny - 1 - j;
          for (let i = 0; i < nx; i++) {
            const x = sx > 0 ? i : nx - 1 - i;
            const cell = (z * ny + y) * nx + x;
            if (i > 0 && nearest[cell - sx]! >= 0 && nearest[cell - sx] !== nearest[cell]) offer(cell, nearest[cell - sx]!, x, y, z);
            if (j > 0 && nearest[cell - sy * nx]! >= 0 && nearest[cell - sy * nx] !== nearest[cell])
              offer(cell, nearest[cell - sy * nx]!, x, y, z);
            if (k > 0 && nearest[cell - sz * nx * ny]! >= 0 && nearest[cell - sz * nx * ny] !== nearest[cell])
              offer(cell, nearest[cell - sz * nx * ny]!, x, y, z);
          }
        }
      }
    }
  const builder = new VolumeBuilder(reach);
  for (let z = 0; z < nz; z++)
    for (let y = 0; y < ny; y++)
      for (let a = 0; 8 * a < nx; a++) {
        const brick = builder.brick(a, y >> 3, z >> 3);
        for (let x = 8 * a; x < Math.min(nx, 8 * a + 8); x++) {
          const d = Math.sqrt(squared[(z * ny + y) * nx + x]!);
          brick[((z & 7) << 6) | ((y & 7) << 3) | (x & 7)] = d;
          builder.count(d);
        }
      }
  return builder.build([size, 0, 0, low[0], 0, size, 0, low[1], 0, 0, size, low[2]]);
}
