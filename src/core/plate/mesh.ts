/** A surface through the depth of a picture, cut where something near ends before something far. */
import { unit } from "../math/vectors";
import { axisDirection, type PlateLens } from "./lens";

export interface DepthMesh {
  /** Corners in lens space, m: three numbers each, a corner a pixel that is part of a triangle. */
  positions: Float32Array;
  /** Pixel of each corner. */
  pixels: Uint32Array;
  triangles: Uint32Array;
}

/**
 * How many times as steep as on both sides of it a step may be before it is a jump: pixels tell depth somewhere within them, so that one step is up
 * to twice the mean one. And the least share of depth that is a jump.
 */
const STEEPER = 4,
  LEAST = 0.01;
/** Pixels over which the steepness beside a step is taken. */
const BESIDE = 3;

/**
 * One over depth along the axis is linear along planes in a picture, however steeply they are seen: where it steps more than beside it, a surface
 * ends. @param distance along the ray, m; Infinity is no surface
 */
export function depthMesh(distance: Float32Array, lens: PlateLens): DepthMesh {
  const { width, height } = lens;
  const inverse = new Float32Array(distance.length);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const d = distance[i]!;
      // cosine to the axis
      const cos = -unit(axisDirection(lens, (x + 0.5) / width, (y + 0.5) / height))[2];
      inverse[i] = d > 0 && d < Infinity ? 1 / (d * cos) : 0;
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
  /** Whether the surface goes on from the pixel at (x, y) to the next of its row (by 1) or its column (by the width). */
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
  const along = new Uint8Array(distance.length),
    down = new Uint8Array(distance.length);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      if (x + 1 < width) along[i] = Number(joined(x, y, 1));
      if (y + 1 < height) down[i] = Number(joined(x, y, width));
    }
  const corner = new Int32Array(distance.length).fill(-1);
  const pixels: number[] = [],
    triangles: number[] = [];
  const place = (i: number): number => {
    if (corner[i]! < 0) {
      corner[i] = pixels.length;
      pixels.push(i);
    }
    return corner[i]!;
  };
  for (let y = 0; y + 1 < height; y++)
    for (let x = 0; x + 1 < width; x++) {
      const i = y * width + x;
      const [top, bottom, left, right] = [along[i], along[i + width], down[i], down[i + 1]];
      // each half of a square where two of its sides go on
      if (top && left) triangles.push(place(i), place(i + width), place(i + 1));
      if (bottom && right) triangles.push(place(i + 1), place(i + width), place(i + width + 1));
      if (!(top && left) && !(bottom && right)) {
        if (top && right) triangles.push(place(i), place(i + width + 1), place(i + 1));
        else if (bottom && left) triangles.push(place(i), place(i + width), place(i + width + 1));
      }
    }
  const positions = new Float32Array(3 * pixels.length);
  pixels.forEach((i, k) => {
    const [a, b, c] = unit(axisDirection(lens, ((i % width) + 0.5) / width, (Math.floor(i / width) + 0.5) / height));
    positions.set([distance[i]! * a, distance[i]! * b, distance[i]! * c], 3 * k);
  });
  return { positions, pixels: Uint32Array.from(pixels), triangles: Uint32Array.from(triangles) };
}
