/** Entry of a browser worker of the clean-up. */
import type { CleanWork } from "./clean-protocol";
import { cleanWorkerMain } from "./clean-worker";

const scope = self as unknown as {
  postMessage(m: unknown, transfer: ArrayBuffer[]): void;
  onmessage: ((e: MessageEvent<CleanWork>) => void) | null;
};
const handle = cleanWorkerMain((m, transfer) => scope.postMessage(m, transfer));
scope.onmessage = (e) => handle(e.data);
