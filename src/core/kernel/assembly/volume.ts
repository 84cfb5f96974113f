/**
 * Sparse grids in memory (scene/volume.ts packs them): i32 low corner (3), bricks along each axis (3), offset of the
 * bricks' ranges, offset of the voxels; f64 background at 32; at 64 the table of bricks.
 */
const HEADER: usize = 64;

// @ts-ignore: decorator
@inline
function brickAt(v: usize, a: i32, b: i32, c: i32): i32 {
  const nx = load<i32>(v, 12),
    ny = load<i32>(v, 16);
  if (a < 0 || b < 0 || c < 0 || a >= nx || b >= ny || c >= load<i32>(v, 20)) return -1;
  return load<i32>(v + HEADER + ((<usize>((c * ny + b) * nx + a)) << 2));
}

function voxel(v: usize, x: i32, y: i32, z: i32): f64 {
  const brick = brickAt(v, x >> 3, y >> 3, z >> 3);
  if (brick < 0) return load<f64>(v, 32);
  return <f64>load<f32>(v + <usize>load<i32>(v, 28) + ((<usize>brick) << 11) + ((<usize>(((z & 7) << 6) | ((y & 7) << 3) | (x & 7))) << 2));
}

/** Trilinear value at index coordinates. */
export function volumeAt(v: usize, x: f64, y: f64, z: f64): f64 {
  const fx = Math.floor(x),
    fy = Math.floor(y),
    fz = Math.floor(z);
  const a = x - fx,
    b = y - fy,
    c = z - fz;
  if (!(Math.abs(fx) < 1e9 && Math.abs(fy) < 1e9 && Math.abs(fz) < 1e9)) return load<f64>(v, 32);
  const i = <i32>fx - load<i32>(v),
    j = <i32>fy - load<i32>(v, 4),
    k = <i32>fz - load<i32>(v, 8);
  if ((i & 7) < 7 && (j & 7) < 7 && (k & 7) < 7) {
    const brick = brickAt(v, i >> 3, j >> 3, k >> 3);
    if (brick < 0) return load<f64>(v, 32);
    const p = v + <usize>load<i32>(v, 28) + ((<usize>brick) << 11) + ((<usize>(((k & 7) << 6) | ((j & 7) << 3) | (i & 7))) << 2);
    const x00 = <f64>load<f32>(p) * (1.0 - a) + <f64>load<f32>(p, 4) * a;
    const x10 = <f64>load<f32>(p, 32) * (1.0 - a) + <f64>load<f32>(p, 36) * a;
    const x01 = <f64>load<f32>(p, 256) * (1.0 - a) + <f64>load<f32>(p, 260) * a;
    const x11 = <f64>load<f32>(p, 288) * (1.0 - a) + <f64>load<f32>(p, 292) * a;
    return (x00 * (1.0 - b) + x10 * b) * (1.0 - c) + (x01 * (1.0 - b) + x11 * b) * c;
  }
  const x00 = voxel(v, i, j, k) * (1.0 - a) + voxel(v, i + 1, j, k) * a;
  const x10 = voxel(v, i, j + 1, k) * (1.0 - a) + voxel(v, i + 1, j + 1, k) * a;
  const x01 = voxel(v, i, j, k + 1) * (1.0 - a) + voxel(v, i + 1, j, k + 1) * a;
  const x11 = voxel(v, i, j + 1, k + 1) * (1.0 - a) + voxel(v, i + 1, j + 1, k + 1) * a;
  return (x00 * (1.0 - b) + x10 * b) * (1.0 - c) + (x01 * (1.0 - b) + x11 * b) * c;
}

/** Set by rangeWithin(). */
export let rangeMin: f64 = 0.0;
export let rangeMax: f64 = 0.0;

/** Bounds of the values at index coordinates within a box: of its voxels where they are few, else of its bricks. */
export function rangeWithin(v: usize, x0: f64, y0: f64, z0: f64, x1: f64, y1: f64, z1: f64): void {
  const background = load<f64>(v, 32);
  const lx = load<i32>(v),
    ly = load<i32>(v, 4),
    lz = load<i32>(v, 8);
  const nx = load<i32>(v, 12) << 3,
    ny = load<i32>(v, 16) << 3,
    nz = load<i32>(v, 20) << 3;
  const i0 = <i32>Math.max(-1.0, Math.floor(x0) - <f64>lx),
    i1 = <i32>Math.min(<f64>nx, Math.floor(x1) + 1.0 - <f64>lx);
  const j0 = <i32>Math.max(-1.0, Math.floor(y0) - <f64>ly),
    j1 = <i32>Math.min(<f64>ny, Math.floor(y1) + 1.0 - <f64>ly);
  const k0 = <i32>Math.max(-1.0, Math.floor(z0) - <f64>lz),
    k1 = <i32>Math.min(<f64>nz, Math.floor(z1) + 1.0 - <f64>lz);
  rangeMin = background;
  rangeMax = background;
  if (i1 < i0 || j1 < j0 || k1 < k0) return;
  // what lies outside the table is background
  const inside = i0 >= 0 && j0 >= 0 && k0 >= 0 && i1 < nx && j1 < ny && k1 < nz;
  if (inside) {
    rangeMin = Infinity;
    rangeMax = -Infinity;
  }
  if (<f64>(i1 - i0 + 1) * <f64>(j1 - j0 + 1) * <f64>(k1 - k0 + 1) <= 2000.0) {
    for (let k = k0; k <= k1; k++)
      for (let j = j0; j <= j1; j++)
        for (let i = i0; i <= i1; i++) {
          const x = voxel(v, i, j, k);
          if (x < rangeMin) rangeMin = x;
          if (x > rangeMax) rangeMax = x;
        }
    return;
  }
  const ranges = v + <usize>load<i32>(v, 24);
  for (let k = k0 >> 3; k <= k1 >> 3; k++)
    for (let j = j0 >> 3; j <= j1 >> 3; j++)
      for (let i = i0 >> 3; i <= i1 >> 3; i++) {
        const brick = brickAt(v, i, j, k);
        const lowest = brick < 0 ? background : <f64>load<f32>(ranges + ((<usize>brick) << 3));
        const highest = brick < 0 ? background : <f64>load<f32>(ranges + ((<usize>brick) << 3), 4);
        if (lowest < rangeMin) rangeMin = lowest;
        if (highest > rangeMax) rangeMax = highest;
      }
}
