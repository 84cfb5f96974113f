/** Messages between the engine and its workers. */
import type { Stage } from "./schedule";

export interface Work {
  kind: "work";
  run: number;
  stage: Stage;
  crop: readonly [number, number, number, number];
  /** How many tiles are to be taken. */
  tiles: number;
  columns: number;
  /** Which tiles, in which order; null: all of them, one after the other. Shared memory only. */
  order: Uint32Array | null;
  /** Blocks of each tile that get no more samples; null where the kernel judges them itself. */
  settled: Uint32Array | null;
}

/** Several stages of one tile, one after another. Shared memory only. */
export interface TileWork {
  kind: "tile";
  run: number;
  stages: readonly Stage[];
  crop: readonly [number, number, number, number];
  columns: number;
  tile: number;
  /** Blocks of it that get no more samples; 0 where the kernel judges them itself. */
  settled: number;
}

export type ToWorker =
  | { kind: "init"; wasm: ArrayBuffer; memory: WebAssembly.Memory | null; index: number; workers: number }
  /** Plain memory only: bytes to place in the worker's own memory, which grows to `end`. */
  | { kind: "write"; at: number; bytes: ArrayBuffer; end: number }
  /** Bytes of the film to clear: in plain memory all of them, in shared memory this worker's share, which it says is done. */
  | { kind: "clear"; run: number; at: number; bytes: number; end: number }
  | { kind: "begin"; run: number }
  | Work
  | TileWork
  | { kind: "stop"; run: number };

export interface Finished {
  kind: "finished";
  run: number;
  /** Work done since the run began, by this worker. */
  rays: number;
  lookups: number;
  invalid: number;
  /** Milliseconds that it was at tiles of the frame with its media, and rays traced in them. */
  medium: number;
  mediumRays: number;
  /** Plain memory only: film of the tiles this worker owns, one after the other in tile order. */
  film: ArrayBuffer | null;
}

/** What a worker spent on a tile that was taken by itself, and counted in it. */
export interface TileTaken {
  kind: "taken";
  run: number;
  tile: number;
  rays: number;
  lookups: number;
  invalid: number;
  seconds: number;
}

export type FromWorker = { kind: "ready" } | { kind: "cleared"; run: number } | Finished | TileTaken | { kind: "failed"; message: string };

/** One end of a channel to a worker, the same for browser workers and Node worker threads. */
export interface WorkerPort {
  post(message: ToWorker, transfer?: ArrayBuffer[]): void;
  listen(on: (message: FromWorker) => void, fail: (error: Error) => void): void;
  terminate(): void;
}

/** Where an engine runs. */
export interface EngineHost {
  workers: number;
  /** Whether one memory can be shared between workers. */
  shared: boolean;
  wasm: ArrayBuffer;
  spawn(): WorkerPort;
}
