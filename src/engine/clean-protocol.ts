/** Messages between the clean-up's pool and its workers. */
import type { Area, Groups, Pixels, Strengths } from "#core/clean/cleaner";
import type { Side } from "#core/film/cleaned";

export type CleanWork =
  | { kind: "finish"; id: number; side: Side; pixels: Pixels; area: Area; strengths: Strengths; groups: Groups }
  | { kind: "live"; id: number; side: "surfaces" | "clear"; air: boolean; pixels: Pixels; area: Area; every: number; strengths: Strengths };

export type CleanDone =
  | { kind: "cleaned"; id: number; light: Float32Array; air: Float32Array | null; groups: Float32Array[] }
  | { kind: "failed"; id: number; message: string };

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
