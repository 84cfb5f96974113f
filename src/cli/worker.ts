/** fumarium worker: takes part in what a server renders. */
import { existsSync, readFileSync } from "node:fs";
import { homedir, hostname } from "node:os";
import { join } from "node:path";
import { InputError } from "#core/errors";
import { tokenOf } from "#machines/door";
import { runWorker } from "#machines/worker/run";

export interface WorkerCommand {
  redis: string | undefined;
  name: string | undefined;
  threads: number;
  /** File that has the token; else it is in the environment. */
  tokenFile: string | undefined;
  cache: string | undefined;
  buildDirectory: string;
}

/** Where fetched files are kept. */
const cacheFolder = (): string => join(process.env.XDG_CACHE_HOME ?? join(homedir(), ".cache"), "fumarium");

/** Runs until it is told to end; Ctrl C lets it finish its units, a second one ends it at once. @throws InputError */
export async function workerCommand(o: WorkerCommand, say: (line: string) => void): Promise<void> {
  const redis = o.redis ?? process.env.FUMARIUM_REDIS;
  if (!redis) throw new InputError("worker: say where Redis is with --redis redis://HOST:PORT");
  if (o.tokenFile !== undefined && !existsSync(o.tokenFile)) throw new InputError(`--token-file ${o.tokenFile}: no such file`);
  const token = tokenOf(o.tokenFile === undefined ? process.env.FUMARIUM_TOKEN : readFileSync(o.tokenFile, "utf8").trim(), "worker");
  const [drain, leave] = [new AbortController(), new AbortController()];
  const interrupted = (): void => (drain.signal.aborted ? leave : drain).abort();
  process.on("SIGINT", interrupted);
  process.on("SIGTERM", () => leave.abort());
  const name =
    o.name ??
    hostname()
      .replace(/[^\w.-]/g, "-")
      .slice(0, 40);
  const words = await runWorker(
    { redis, name, threads: o.threads, token, cache: o.cache ?? cacheFolder(), buildDirectory: o.buildDirectory },
    { say: (line) => say(`${name}: ${line}`), ending: { drain: drain.signal, leave: leave.signal } },
  );
  say(`${name}: ${words}`);
}
