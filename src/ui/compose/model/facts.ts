/** What distances and heights pictures have: where marks begin, and what a scale runs over. */
import { distanceOf, heightOf } from "#core/compose/sources";
import type { Frame } from "#core/formats/layers";
import { memoizeByObject } from "#core/math/memoize";

/** Distances and heights of a picture that marks begin at. */
interface Facts {
  near: number;
  far: number;
  low: number;
  high: number;
  /** Sorted distances of some pixels, m. */
  distances: Float32Array;
  heights: Float32Array;
}

/** Pixels that distances and heights are looked at by, about. */
const LOOKED = 20_000;
/** Shares of the pixels that marks begin at. */
const [NEAR, FAR] = [0.1, 0.9];

/** @param frames the same object as long as they are the same pictures */
export const factsOf = memoizeByObject((frames: ReadonlyMap<string, Frame>): Facts => {
  const some = (plane: Float32Array | null): Float32Array => {
    if (!plane) return new Float32Array();
    const step = Math.max(1, Math.floor(plane.length / LOOKED));
    return Float32Array.from({ length: Math.floor(plane.length / step) }, (_, i) => plane[i * step]!)
      .filter((v) => Math.abs(v) < 1e7)
      .sort();
  };
  const distances = some(distanceOf(frames.values()));
  const heights = some(heightOf(frames.values()));
  const at = (sorted: Float32Array, share: number, otherwise: number): number =>
    sorted.length === 0 ? otherwise : Number(sorted[Math.floor(share * (sorted.length - 1))]!.toPrecision(3));
  const [near, far] = [at(distances, NEAR, 1), at(distances, FAR, 100)];
  const [low, high] = [at(heights, NEAR, 0), at(heights, FAR, 10)];
  return { near, far: far > near ? far : near + 1, low, high: high > low ? high : low + 1, distances, heights };
});
