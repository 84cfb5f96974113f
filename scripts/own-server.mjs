// What scripts that kill the built server share: one of their own on a free port, over a folder of its own, and chance with a seed.
import { spawn } from "node:child_process";
import { mkdtempSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

export const root = join(dirname(fileURLToPath(import.meta.url)), "..");
export const data = mkdtempSync(join(tmpdir(), "fumarium-crash-"));

let seed = Number(process.env.SEED ?? 1);
export const random = () => (seed = (seed * 1103515245 + 12345) % 2147483648) / 2147483648;

const port = await new Promise((resolve) => {
  const s = createServer().listen(0, "127.0.0.1", () => {
    const { port: free } = s.address();
    s.close(() => resolve(free));
  });
});
export const url = `http://127.0.0.1:${port}`;

let server = null;
/** Starts it; a word of complaint is a failure. */
export async function start(environment = {}) {
  server = spawn(process.execPath, [join(root, "scripts/start.mjs")], {
    env: { ...process.env, PORT: String(port), FUMARIUM_DATA: data, FUMARIUM_EMPTY: "1", NODE_ENV: "production", ...environment },
  });
  let said = "";
  server.stderr.on("data", (d) => (said += d));
  await new Promise((ready, fail) => {
    server.stdout.on("data", (d) => String(d).includes("is ready at") && ready());
    server.once("exit", () => fail(new Error(`the server ended: ${said}`)));
  });
  if (said) throw new Error(`the server complains at its start: ${said}`);
}
/** Ends it at once. */
export async function kill() {
  const ended = new Promise((done) => {
    server.removeAllListeners("exit");
    server.once("exit", done);
  });
  server.kill("SIGKILL");
  await ended;
}
