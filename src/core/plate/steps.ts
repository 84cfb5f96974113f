/** Where the depth of a picture goes on from pixel to pixel, and where something near ends before something far. */
import { perAxis, type PlateLens } from "./lens";

/**
 * How many times as steep as on both sides of it a step may be before it is a jump: pixels tell depth somewhere within them, so that one step is up
 * to twice the mean one. And the least share of depth that is a jump.
 */
const STEEPER = 4,
  LEAST = 0.01;
/** Pixels over which the steepness beside a step is taken. */
const BESIDE = 3;

/** Depth as it steps from pixel to pixel. */
export interface DepthSteps {
  /** One over depth along the axis, 1/m; 0 where nothing is there. */
  inverse: Float32Array;
  /** Whether the surface goes on from the pixel at (x, y) to the next of its row (by 1) or its column (by the width). */
  joined(x: number, y: number, by: number): boolean;
}

/**
 * One over depth along the axis is linear along planes in a picture, however steeply they are seen: where it steps more than beside it, a surface
 * ends. @param distance along the ray, m; Infinity is no surface
 */
export function depthSteps(distance: Float32Array, lens: PlateLens): DepthSteps {
  const { width, height } = lens;
  const inverse = new Float32Array(distance.length);
  const axial = perAxis(lens);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const d = distance[i]!;
      inverse[i] = d > 0 && d < Infinity ? axial(x, y) / d : 0;
    }
  const step = (i: number, j: number): number => Math.abs(inverse[i]! - inverse[j]!);
  /** Mean step over the pixels from i on, each `by` further, of which there are so many; Infinity where they are not all there. */
  const steepness = (i: number, by: number, there: number): number => {
    const n = Math.min(BESIDE, there);
    if (n < 1) return Infinity;
    for (let k = 0; k <= n; k++) if (inverse[i + k * by] === 0) return Infinity;
    return step(i, i + n * by) / n;
  };
  /**
   * How steep the surface is at a pixel, away from a step and across it: what a row steps by, pixels that tell depth somewhere within them step by
   * along the row, too. Infinity where nothing tells.
   */
  const steepAt = (i: number, away: number, there: number, across: number, before: number, after: number): number => {
    const [a, b] = [steepness(i, away, there), Math.min(steepness(i, -across, before), steepness(i, across, after))];
    return a === Infinity || b === Infinity ? a : Math.max(a, b);
  };
  const joined = (x: number, y: number, by: number): boolean => {
    const i = y * width + x;
    const [a, b] = [inverse[i]!, inverse[i + by]!];
    if (a === 0 || b === 0) return false;
    const here = step(i, i + by);
    if (here <= LEAST * Math.min(a, b)) return true;
    const row = by === 1;
    const [at, of] = row ? [x, width] : [y, height];
    const [across, before, after] = row ? [width, y, height - 1 - y] : [1, x, width - 1 - x];
    const beside = Math.min(steepAt(i, -by, at, across, before, after), steepAt(i + by, by, of - at - 2, across, before, after));
    // at the end of what is known nothing else tells
    return beside === Infinity ? here <= 10 * LEAST * Math.min(a, b) : here <= STEEPER * beside;
  };
  return { inverse, joined };
}
