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
  // the nearest point is a + u (b − a) + v (c − a)
  let u = 0,
    v = 0;
  if (d1 > 0 || d2 > 0) {
    const ab2 = abx * abx + aby * aby + abz * abz,
      ac2 = acx * acx + acy * acy + acz * acz,
      dot = abx * acx + aby * acy + abz * acz;
    const d3 = d1 - ab2,
      d4 = d2 - dot,
      d5 = d1 - dot,
      d6 = d2 - ac2;
    const vc = d1 * d4 - d3 * d2,
      vb = d5 * d2 - d1 * d6,
      va = d3 * d6 - d5 * d4;
    if (d3 >= 0 && d4 <= d3) u = 1;
    // a triangle whose first two corners are one has no first edge
    else if (vc <= 0 && d1 >= 0 && d3 <= 0 && ab2 > 0) u = d1 - d3 > 0 ? d1 / (d1 - d3) : 0;
    else if (d6 >= 0 && d5 <= d6) v = 1;
    else if (vb <= 0 && d2 >= 0 && d6 <= 0) v = d2 - d6 > 0 ? d2 / (d2 - d6) : 0;
    else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
      v = d4 - d3 + (d5 - d6) > 0 ? (d4 - d3) / (d4 - d3 + (d5 - d6)) : 0;
      u = 1 - v;
    } else if (va + vb + vc > 0) {
      u = vb / (va + vb + vc);
      v = vc / (va + vb + vc);
    }
  }
  const x = apx - u * abx - v * acx,
    y = apy - u * aby - v * acy,
    z = apz - u * abz - v * acz;
  return x * x + y * y + z * z;
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
  // sweep in which each cell took its triangle: what a neighbour had at the last look along the same way is no news
  const since = new Uint8Array(nx * ny * nz);
  const looked = [-1, -1, -1, -1, -1, -1];
  for (let sweep = 1; sweep <= 16; sweep++) {
    const way = (sweep - 1) % 8;
    const [sx, sy, sz] = [way & 1 ? -1 : 1, way & 2 ? -1 : 1, way & 4 ? -1 : 1];
    const [ax, ay, az] = [sx, sy * nx, sz * nx * ny];
    const [lx, ly, lz] = [sx, sy, sz].map((s, k) => looked[2 * k + (s > 0 ? 1 : 0)]!) as [number, number, number];
    for (let k = 0; k < nz; k++) {
      const z = sz > 0 ? k : nz - 1 - k;
      for (let j = 0; j < ny; j++) {
        const y = sy > 0 ? j : ny - 1 - j;
        for (let i = 0; i < nx; i++) {
          const x = sx > 0 ? i : nx - 1 - i;
          const cell = (z * ny + y) * nx + x;
          const had = nearest[cell]!;
          if (i > 0 && since[cell - ax]! > lx && nearest[cell - ax]! >= 0 && nearest[cell - ax] !== nearest[cell])
            offer(cell, nearest[cell - ax]!, x, y, z);
          if (j > 0 && since[cell - ay]! > ly && nearest[cell - ay]! >= 0 && nearest[cell - ay] !== nearest[cell])
            offer(cell, nearest[cell - ay]!, x, y, z);
          if (k > 0 && since[cell - az]! > lz && nearest[cell - az]! >= 0 && nearest[cell - az] !== nearest[cell])
            offer(cell, nearest[cell - az]!, x, y, z);
          if (nearest[cell] !== had) since[cell] = sweep;
        }
      }
    }
    for (const [k, s] of [sx, sy, sz].entries()) looked[2 * k + (s > 0 ? 1 : 0)] = sweep;
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
