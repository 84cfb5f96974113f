/** Where documents are validated: small ones at once, large ones in a thread of its own. */
import { existsSync } from "node:fs";
import { join } from "node:path";
import { Worker } from "node:worker_threads";
import { InputError } from "#core/errors";
import { check, type Body, type Bringing, type CheckedDocument, type Work } from "./bodies";
import type { Asked, Told } from "./body-worker";
import { root } from "./root";

/** Characters or bytes up to which the time does not matter (some 10 ms). */
const SMALL = 100_000;
/** Seconds after which a document is given up. */
const PATIENCE = 30;

interface Waiting {
  resolve(value: unknown): void;
  reject(error: Error): void;
  timer: ReturnType<typeof setTimeout>;
}

class CheckingThread {
  private worker: Worker | null = null;
  private readonly waiting = new Map<number, Waiting>();
  private next = 1;

  ask(work: Work): Promise<unknown> {
    return new Promise((resolve, reject) => {
      const id = this.next++;
      const timer = setTimeout(() => this.end(new InputError(`document: not validated within ${PATIENCE} seconds`)), 1000 * PATIENCE);
      this.waiting.set(id, { resolve, reject, timer });
      this.worker ??= this.start();
      this.worker.ref();
      this.worker.postMessage({ id, work } satisfies Asked);
    });
  }

  private start(): Worker {
    const worker = new Worker(join(root(), "build", "bodies.mjs"), { resourceLimits: { maxOldGenerationSizeMb: 1024 } });
    worker.on("message", (told: Told) => {
      const w = this.waiting.get(told.id);
      if (!w) return;
      this.waiting.delete(told.id);
      clearTimeout(w.timer);
      if (this.waiting.size === 0) worker.unref();
      if ("value" in told) w.resolve(told.value);
      else w.reject(told.error.problems ? new InputError(told.error.message, [...told.error.problems]) : new Error(told.error.message));
    });
    worker.on("error", (error) => this.end(error));
    return worker;
  }

  /** Gives all up that is under way; what comes next gets a new thread. */
  private end(error: Error): void {
    void this.worker?.terminate();
    this.worker = null;
    for (const { reject, timer } of this.waiting.values()) {
      clearTimeout(timer);
      reject(error);
    }
    this.waiting.clear();
  }
}

const thread = new CheckingThread();
async function checkAnywhere(work: Work, size: number): Promise<unknown> {
  if (size <= SMALL || !existsSync(join(root(), "build", "bodies.mjs"))) return check(work);
  return await thread.ask(work);
}

/** A body that brings a document. @throws InputError */
export const checkBody = async <K extends Bringing>(kind: K, bytes: Uint8Array): Promise<Body<K>> =>
  (await checkAnywhere({ kind, bytes }, bytes.length)) as Body<K>;

/** A document as it was kept, as one of the present version. @param title in place of its own @throws InputError */
export const checkStored = async (text: string, what: string, title: string | null = null): Promise<CheckedDocument> =>
  (await checkAnywhere({ kind: "stored", text, what, title }, text.length)) as CheckedDocument;
