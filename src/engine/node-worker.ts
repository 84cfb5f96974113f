/** Entry of a Node worker thread. */
import { parentPort } from "node:worker_threads";
import { workerMain } from "./worker";

const port = parentPort!;
const handle = workerMain(
  (m, transfer) => port.postMessage(m, transfer),
  () => new Promise((go) => setImmediate(go)),
);
port.on("message", handle);
