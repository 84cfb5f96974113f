/** Entry of a Node worker thread of the clean-up. */
import { parentPort } from "node:worker_threads";
import { cleanWorkerMain } from "./clean-worker";

const port = parentPort!;
const handle = cleanWorkerMain((m, transfer) => port.postMessage(m, transfer));
port.on("message", handle);
