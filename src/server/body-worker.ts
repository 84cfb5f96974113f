/** The thread that validates large documents, so that requests beside them are answered. */
import { parentPort } from "node:worker_threads";
import { InputError } from "#core/errors";
import { check, type Work } from "./bodies";

export interface Asked {
  id: number;
  work: Work;
}
export type Told = { id: number; value: unknown } | { id: number; error: { message: string; problems: readonly string[] | null } };

const port = parentPort;
if (!port) throw new Error("this module is a thread's");
port.on("message", ({ id, work }: Asked) => {
  const tell = (told: Told): void => port.postMessage(told);
  try {
    tell({ id, value: check(work) });
  } catch (error) {
    const known = error instanceof InputError;
    tell({
      id,
      error: {
        // problems are put behind it again where it arrives
        message: known ? error.message.replace(/\n[^]*/, "") : String(error),
        problems: known ? error.problems : null,
      },
    });
  }
});
