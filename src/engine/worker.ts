/** The worker's side: takes tiles of the current stage until none is left or the run is over. */
import { growMemory, instantiateKernel, kernelMemory, type KernelExports } from "#core/kernel/kernel";
import { integerParameter } from "#core/layout/integers";
import {
  CONTROL,
  CONTROL_COUNT,
  CTL_NEXT,
  CTL_PAUSE,
  CTL_RUN,
  P_FILM,
  P_STRIDE,
  P_WIDTH,
  PASS_CLEAR,
  PASS_JOIN,
  SCENE,
} from "#core/layout/layout";
import type { FromWorker, TileWork, ToWorker, Work } from "./protocol";
import { airEveryOf, TILE, type Stage } from "./schedule";

/** Longest a worker with plain memory works before it looks for messages, ms. */
const SLICE = 12;

/**
 * Handles messages to one worker. @param post sends to the engine
 * @param breathe resolves after pending messages were delivered
 */
export function workerMain(post: (m: FromWorker, transfer?: ArrayBuffer[]) => void, breathe: () => Promise<void>): (m: ToWorker) => void {
  let kernel: KernelExports;
  let memory: WebAssembly.Memory;
  let control: Int32Array;
  let shared = false;
  let index = 0,
    workers = 1;
  let run = 0;
  let spent = { medium: 0, mediumRays: 0 };

  const room = (end: number): void => {
    growMemory(memory, end);
    control = new Int32Array(memory.buffer, CONTROL, CONTROL_COUNT);
  };

  const tile = (work: Work, i: number): void => {
    const [since, rays] = [performance.now(), kernel.rays()];
    take(work, work.stage, i, work.settled?.[i] ?? 0);
    if (work.stage.passes & PASS_CLEAR) return;
    spent.medium += performance.now() - since;
    spent.mediumRays += kernel.rays() - rays;
  };

  const take = ({ crop, columns }: Pick<Work, "crop" | "columns">, s: Stage, i: number, settled: number): void => {
    const [x0, y0, x1, y1] = crop;
    const x = x0 + (i % columns) * TILE,
      y = y0 + Math.floor(i / columns) * TILE;
    const right = Math.min(x1, x + TILE),
      bottom = Math.min(y1, y + TILE);
    if (s.passes & PASS_JOIN) {
      kernel.joinTile(x, y, right, bottom, x0, y0, x1, y1, airEveryOf(s));
      return;
    }
    kernel.renderTile(x, y, right, bottom, x0, y0, s.stride, s.done, s.first, s.end, s.passes, settled);
  };

  /** A tile by itself: all that is asked of it. */
  const takeAlone = (work: TileWork): void => {
    const since = performance.now();
    const before = { rays: kernel.rays(), lookups: kernel.lookups(), invalid: kernel.invalidSamples() };
    for (const stage of work.stages) take(work, stage, work.tile, stage.passes & (PASS_CLEAR | PASS_JOIN) ? 0 : work.settled);
    post({
      kind: "taken",
      run: work.run,
      tile: work.tile,
      rays: kernel.rays() - before.rays,
      lookups: kernel.lookups() - before.lookups,
      invalid: kernel.invalidSamples() - before.invalid,
      seconds: (performance.now() - since) / 1000,
    });
  };

  /** Film of the tiles this worker owns (every workers-th), packed. */
  const packTiles = (work: Work): ArrayBuffer => {
    const width = integerParameter(memory.buffer, P_WIDTH);
    const stride = integerParameter(memory.buffer, P_STRIDE) / 4;
    const film = new Float32Array(memory.buffer, integerParameter(memory.buffer, P_FILM));
    const rows: Float32Array[] = [];
    let length = 0;
    forTiles(work, index, workers, (x, y, w, h) => {
      for (let row = y; row < y + h; row++) {
        const at = (row * width + x) * stride;
        rows.push(film.subarray(at, at + w * stride));
        length += w * stride;
      }
    });
    const out = new Float32Array(length);
    let to = 0;
    for (const row of rows) {
      out.set(row, to);
      to += row.length;
    }
    return out.buffer;
  };

  const finish = (work: Work): void => {
    const film = shared ? null : packTiles(work);
    const counts = { rays: kernel.rays(), lookups: kernel.lookups(), invalid: kernel.invalidSamples() };
    post({ kind: "finished", run: work.run, ...counts, ...spent, film }, film ? [film] : undefined);
  };

  const workShared = (work: Work): void => {
    while (Atomics.load(control, CTL_RUN) === work.run && Atomics.load(control, CTL_PAUSE) === 0) {
      const i = Atomics.add(control, CTL_NEXT, 1);
      if (i >= work.tiles) break;
      tile(work, work.order ? work.order[i]! : i);
    }
    finish(work);
  };

  const workPlain = async (work: Work): Promise<void> => {
    let since = performance.now();
    for (let i = index; i < work.tiles; i += workers) {
      if (run !== work.run) return;
      tile(work, i);
      if (performance.now() - since > SLICE) {
        await breathe();
        since = performance.now();
      }
    }
    if (run === work.run) finish(work);
  };

  const handle = async (m: ToWorker): Promise<void> => {
    switch (m.kind) {
      case "init":
        index = m.index;
        workers = m.workers;
        shared = m.memory !== null;
        memory = m.memory ?? kernelMemory(SCENE, false);
        kernel = await instantiateKernel(new WebAssembly.Module(m.wasm), memory, shared ? index : 0);
        room(0);
        post({ kind: "ready" });
        break;
      case "write":
        room(m.end);
        new Uint8Array(memory.buffer).set(new Uint8Array(m.bytes), m.at);
        break;
      case "clear":
        // another thread may have made shared memory grow: this one is told of it at the latest now
        if (shared) memory.grow(0);
        else room(m.end);
        new Uint8Array(memory.buffer, m.at, m.bytes).fill(0);
        if (shared) post({ kind: "cleared", run: m.run });
        break;
      case "begin":
        run = m.run;
        spent = { medium: 0, mediumRays: 0 };
        // a run that clears nothing tells of grown memory here
        if (shared) memory.grow(0);
        else control[CTL_RUN] = run;
        kernel.begin(run);
        break;
      case "work":
        if (shared) workShared(m);
        else await workPlain(m);
        break;
      case "tile":
        takeAlone(m);
        break;
      case "stop":
        run = -1;
        break;
    }
  };
  return (m) => {
    handle(m).catch((error: unknown) => post({ kind: "failed", message: error instanceof Error ? error.message : String(error) }));
  };
}

/** Calls `each` with every tile that worker `index` of `workers` owns: x, y, width, height. */
export function forTiles(
  work: Pick<Work, "crop" | "tiles" | "columns">,
  index: number,
  workers: number,
  each: (x: number, y: number, w: number, h: number) => void,
): void {
  const [x0, y0, x1, y1] = work.crop;
  for (let i = index; i < work.tiles; i += workers) {
    const x = x0 + (i % work.columns) * TILE,
      y = y0 + Math.floor(i / work.columns) * TILE;
    each(x, y, Math.min(x1, x + TILE) - x, Math.min(y1, y + TILE) - y);
  }
}
