/** The built command, run in a folder of its own. */
import { spawn } from "node:child_process";
import { join } from "node:path";
import { fileURLToPath } from "node:url";

const root = fileURLToPath(new URL("../..", import.meta.url));

/** The command as Node is told it. */
export const COMMAND = join(root, "bin/fumarium.mjs");

export interface Ran {
  code: number | null;
  out: string;
  err: string;
}

/** @returns what runs the command in that folder */
export const shellIn =
  (folder: string) =>
  (...args: string[]): Promise<Ran> =>
    new Promise((resolve) => {
      const child = spawn(process.execPath, [COMMAND, ...args], { cwd: folder });
      let [out, err] = ["", ""];
      child.stdout.on("data", (d) => (out += d));
      child.stderr.on("data", (d) => (err += d));
      child.on("close", (code) => resolve({ code, out, err }));
    });
