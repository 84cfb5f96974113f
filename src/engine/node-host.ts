/** The engine on Node worker threads. */
import { readFileSync } from "node:fs";
import { availableParallelism } from "node:os";
import { join, resolve } from "node:path";
import { Worker } from "node:worker_threads";
import type { EngineHost, FromWorker } from "./protocol";

/**
 * Host over worker threads. @param buildDirectory folder with `kernel/` and `worker.mjs` (made by the build)
 * @param workers threads; all cores by default
 */
export function nodeHost(buildDirectory: string, workers = availableParallelism(), shared = true): EngineHost {
  const bytes = readFileSync(join(buildDirectory, "kernel", `kernel.${shared ? "shared" : "plain"}.wasm`));
  return {
    workers,
    shared,
    wasm: bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength),
    spawn() {
      const worker = new Worker(resolve(buildDirectory, "worker.mjs"));
      return {
        post: (m, transfer) => worker.postMessage(m, transfer),
        listen(on, fail) {
          worker.on("message", (m: FromWorker) => on(m));
          worker.on("error", fail);
        },
        terminate: () => void worker.terminate(),
      };
    },
  };
}
