/** Entry of a browser worker. */
import type { ToWorker } from "./protocol";
import { workerMain } from "./worker";

const scope = self as unknown as {
  postMessage(m: unknown, transfer: ArrayBuffer[]): void;
  onmessage: ((e: MessageEvent<ToWorker>) => void) | null;
};
// a message to oneself is delivered after those already waiting, without the delay of a timer
const channel = new MessageChannel();
const handle = workerMain(
  (m, transfer) => scope.postMessage(m, transfer ?? []),
  () =>
    new Promise((go) => {
      channel.port1.onmessage = () => go();
      channel.port2.postMessage(0);
    }),
);
scope.onmessage = (e) => handle(e.data);
