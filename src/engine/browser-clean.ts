/** The clean-up on browser workers. */
import type { CleanDone, CleanHost } from "./clean-protocol";

export function browserCleanHost(workers: number): CleanHost {
  return {
    workers,
    spawn() {
      const worker = new Worker(new URL("./browser-clean-worker.ts", import.meta.url), { type: "module" });
      return {
        post: (m, transfer) => worker.postMessage(m, transfer),
        listen(on, fail) {
          worker.onmessage = (e: MessageEvent<CleanDone>) => on(e.data);
          worker.onerror = (e) => fail(new Error(e.message || "A worker of the clean-up could not start."));
        },
        terminate: () => worker.terminate(),
      };
    },
  };
}
