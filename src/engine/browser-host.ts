/** The engine on browser workers. */
import type { EngineHost, FromWorker } from "./protocol";

/** Host over web workers; one memory is shared where the page is cross-origin isolated. */
export async function browserHost(workers: number, shared: boolean): Promise<EngineHost> {
  const response = await fetch(`/kernel/kernel.${shared ? "shared" : "plain"}.wasm`);
  if (!response.ok) throw new Error(`The render kernel could not be loaded (${response.status}).`);
  return {
    workers,
    shared,
    wasm: await response.arrayBuffer(),
    spawn() {
      const worker = new Worker(new URL("./browser-worker.ts", import.meta.url), { type: "module" });
      return {
        post: (m, transfer) => worker.postMessage(m, transfer ?? []),
        listen(on, fail) {
          worker.onmessage = (e: MessageEvent<FromWorker>) => on(e.data);
          worker.onerror = (e) => fail(new Error(e.message || "A render worker could not start."));
        },
        terminate: () => worker.terminate(),
      };
    },
  };
}
