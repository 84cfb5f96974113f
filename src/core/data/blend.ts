/** Grids between two others, for times between the frames of a sequence. */
import { AXES, type V3 } from "../math/vectors";
import { composeAffine, inverseAffine, transformPoint } from "../math/affine";
import { cornersOf } from "../math/box";
import { BRICK_VOXELS, indexBounds, volumeAt, VolumeBuilder, voxelAt, type Volume } from "./volume";

/** Voxels that a blend may look at in the second grid where it lies otherwise than the first. */
const MAX_RESAMPLED = 64_000_000;

/**
 * A grid between two: (1 - share) × a + share × b. Voxel by voxel where both have the same transform, which is exact between voxels
 * too; else b is looked up (trilinear) at the voxels of a.
 * @throws RangeError where b would have to be looked up at more voxels than is reasonable
 */
export function blendVolumes(a: Volume, b: Volume, share: number): Volume {
  const background = (1 - share) * a.background + share * b.background;
  const out = new VolumeBuilder(background);
  const same = a.toWorld.every((v, k) => Math.abs(v - b.toWorld[k]!) <= 1e-9 * Math.max(1e-9, Math.abs(v)));
  const bricks = new Set<string>();
  const each = (v: Volume, use: (x: number, y: number, z: number) => void): void => {
    for (let z = 0, at = 0; z < v.bricks[2]; z++)
      for (let y = 0; y < v.bricks[1]; y++)
        for (let x = 0; x < v.bricks[0]; x++, at++) if (v.table[at]! >= 0) use(v.low[0] / 8 + x, v.low[1] / 8 + y, v.low[2] / 8 + z);
  };
  const add = (x: number, y: number, z: number): void => void bricks.add(`${x},${y},${z}`);
  each(a, add);
  // places of b in the voxels of a, and back
  const back = same ? null : composeAffine(inverseAffine(b.toWorld), a.toWorld);
  if (same) each(b, add);
  else {
    const there = composeAffine(inverseAffine(a.toWorld), b.toWorld);
    const bounds = indexBounds(b);
    const low: V3 = [Infinity, Infinity, Infinity], high: V3 = [-Infinity, -Infinity, -Infinity]; // prettier-ignore
    for (const corner of cornersOf(bounds)) {
      const v = transformPoint(there, corner);
      for (const r of AXES) {
        low[r] = Math.min(low[r], Math.floor(v[r] / 8));
        high[r] = Math.max(high[r], Math.floor(v[r] / 8));
      }
    }
    const count = AXES.reduce((n, k) => n * (high[k] - low[k] + 1), BRICK_VOXELS);
    if (!(count <= MAX_RESAMPLED))
      throw new RangeError(`the frames' grids lie so differently that ${count} voxels would have to be looked up`);
    for (let z = low[2]; z <= high[2]; z++) for (let y = low[1]; y <= high[1]; y++) for (let x = low[0]; x <= high[0]; x++) add(x, y, z);
  }
  for (const key of bricks) {
    const [x, y, z] = key.split(",").map(Number) as [number, number, number];
    let brick: Float32Array | null = null;
    for (let n = 0; n < BRICK_VOXELS; n++) {
      const [i, j, k] = [8 * x + (n & 7), 8 * y + ((n >> 3) & 7), 8 * z + (n >> 6)];
      const other = back ? volumeAt(b, ...transformPoint(back, [i, j, k])) : voxelAt(b, i, j, k);
      const value = Math.fround((1 - share) * voxelAt(a, i, j, k) + share * other);
      if (value === Math.fround(background)) continue;
      brick ??= out.brick(x, y, z);
      brick[n] = value;
      out.count(value);
    }
  }
  return out.build(a.toWorld);
}
