/** Messages between the clean-up's pool and its workers. */
import type { Gains } from "#core/clean/balanced";
import type { Area, Groups, Pixels, Strengths } from "#core/clean/cleaner";
import { CLEANED_FLOATS, type Side } from "#core/film/cleaned";

interface Common {
  id: number;
  pixels: Pixels;
  area: Area;
  strengths: Strengths;
  /** Shared memory that the worker puts the cleaned pixels into; null where they are sent back. */
  into: Places | null;
}
export type CleanWork = Common &
  (
    | { kind: "finish"; side: Side; groups: Groups }
    /** Gives back what a side's cleaned light misses; where it lies in shared memory alone. */
    | { kind: "missed"; side: Side; groups: Groups }
    /** Joins cleaned air of sampled pixels, then that of each light group, to all; where it lies in shared memory alone. */
    | { kind: "join"; every: number; from: readonly Float32Array[] }
    | { kind: "live"; side: "surfaces" | "clear"; air: boolean; every: number; gains: Gains | null }
  );

/** Cleaned pixels of an area. */
export interface Patch {
  light: Float32Array;
  air: Float32Array | null;
  groups: Float32Array[];
}

/** Cleaned pixels of a whole crop, and which area of it is meant. */
export interface Places extends Patch {
  /** Pixels of a row of the crop. */
  across: number;
  area: Area;
}

export type CleanDone = { kind: "cleaned"; id: number; patch: Patch | null } | { kind: "failed"; id: number; message: string };

/** Puts an area's cleaned pixels into those of the crop. */
export function place(into: Places, from: Patch): void {
  const { across, area } = into;
  const put = (to: Float32Array, pixels: Float32Array): void => {
    const [x0, y0, x1, y1] = area;
    const row = CLEANED_FLOATS * (x1 - x0);
    for (let y = y0; y < y1; y++) to.set(pixels.subarray((y - y0) * row, (y - y0 + 1) * row), CLEANED_FLOATS * (y * across + x0));
  };
  put(into.light, from.light);
  if (into.air && from.air) put(into.air, from.air);
  into.groups.forEach((group, i) => put(group, from.groups[i]!));
}

/** One end of a channel to a worker, the same for browser workers and Node worker threads. */
export interface CleanPort {
  post(work: CleanWork, transfer: ArrayBuffer[]): void;
  listen(on: (done: CleanDone) => void, fail: (error: Error) => void): void;
  terminate(): void;
}

/** Where a pool runs. */
export interface CleanHost {
  workers: number;
  spawn(): CleanPort;
}
