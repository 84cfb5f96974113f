/** The clean-up on Node worker threads. */
import { availableParallelism } from "node:os";
import { resolve } from "node:path";
import { Worker } from "node:worker_threads";
import type { CleanDone, CleanHost } from "./clean-protocol";

/** Host over worker threads. @param buildDirectory folder with `clean-worker.mjs` (made by the build) @param workers threads; all cores by default */
export function nodeCleanHost(buildDirectory: string, workers = availableParallelism()): CleanHost {
  return {
    workers,
    spawn() {
      const worker = new Worker(resolve(buildDirectory, "clean-worker.mjs"));
      return {
        post: (m, transfer) => worker.postMessage(m, transfer),
        listen(on, fail) {
          worker.on("message", (m: CleanDone) => on(m));
          worker.on("error", fail);
        },
        terminate: () => void worker.terminate(),
      };
    },
  };
}
