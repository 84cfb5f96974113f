/** A Redis server of a test's own; null where this machine has none. */
import { spawn, spawnSync, type ChildProcess } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { freePort } from "./free-port";

/** Why tests that need Redis are left out; null where they are not. */
export const NO_REDIS =
  spawnSync("redis-server", ["--version"], { stdio: "ignore" }).status === 0
    ? null
    : "left out: this machine has no redis-server (Debian's package of that name)";

export class OwnRedis {
  private child: ChildProcess | null = null;
  private readonly folder = mkdtempSync(join(tmpdir(), "fumarium-redis-"));

  private constructor(
    readonly port: number,
    private readonly options: readonly string[],
  ) {}

  /** @param options as on its command line; without any it keeps nothing on disk */
  static async start(options: readonly string[] = ["--save", "", "--appendonly", "no"]): Promise<OwnRedis> {
    const redis = new OwnRedis(await freePort(), options);
    await redis.begin();
    return redis;
  }

  get url(): string {
    return `redis://127.0.0.1:${this.port}`;
  }

  async begin(): Promise<void> {
    const child = spawn("redis-server", ["--port", String(this.port), "--bind", "127.0.0.1", "--dir", this.folder, ...this.options], {
      stdio: ["ignore", "pipe", "inherit"],
    });
    this.child = child;
    await new Promise<void>((ready, fail) => {
      child.stdout.on("data", (d: Buffer) => {
        if (String(d).includes("Ready to accept connections")) ready();
      });
      child.once("exit", () => fail(new Error("redis-server ended")));
    });
  }

  /** Ends it at once. */
  async kill(): Promise<void> {
    const { child } = this;
    this.child = null;
    if (!child) return;
    const ended = new Promise((done) => child.once("exit", done));
    child.kill("SIGKILL");
    await ended;
  }

  async stop(): Promise<void> {
    await this.kill();
    rmSync(this.folder, { recursive: true, force: true });
  }
}
