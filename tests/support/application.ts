/** The built application on a port of its own, with a data folder of its own, and Debian's Chromium to drive it. */
import { spawn, type ChildProcess } from "node:child_process";
import { existsSync, mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium, type Browser } from "playwright-core";
import { freePort } from "./free-port";

const root = process.cwd();

export class Application {
  private child: ChildProcess | null = null;
  readonly data = mkdtempSync(join(tmpdir(), "fumarium-data-"));
  private constructor(
    readonly port: number,
    private readonly environment: Record<string, string>,
  ) {}

  static async start(environment: Record<string, string> = {}): Promise<Application> {
    const app = new Application(await freePort(), environment);
    await app.run();
    return app;
  }
  get url(): string {
    return `http://127.0.0.1:${this.port}`;
  }
  /** Starts the server and waits until it says that it is ready. @param user number of the user it runs as @returns what it said until then */
  async run(user?: number): Promise<string> {
    const child = spawn(process.execPath, [join(root, "scripts/start.mjs")], {
      env: { ...process.env, PORT: String(this.port), FUMARIUM_DATA: this.data, NODE_ENV: "production", ...this.environment },
      ...(user === undefined ? {} : { uid: user, gid: user }),
    });
    this.child = child;
    let said = "";
    await new Promise<void>((ready, fail) => {
      child.stdout.on("data", (d) => {
        said += d;
        if (said.includes("is ready at")) ready();
      });
      child.stderr.on("data", (d) => (said += d));
      child.on("exit", () => fail(new Error(`the server ended: ${said}`)));
    });
    return said;
  }
  /** Ends the server at once, as a crash would. */
  async kill(): Promise<void> {
    const child = this.child;
    this.child = null;
    if (!child || child.exitCode !== null) return;
    await new Promise((done) => {
      child.removeAllListeners("exit");
      child.on("exit", done);
      child.kill("SIGKILL");
    });
  }
}

/** Debian's Chromium, the one without windows first: it makes none of their parts for every page, which took a quarter of the tests' time. */
const CHROMIUMS = ["/usr/bin/chromium-headless-shell", "/usr/bin/chromium"];

/** @param composed has the page put together as with a graphics processor, so that WebGL is not read back for every picture */
export async function openBrowser(more: readonly string[] = [], composed = false): Promise<Browser> {
  const executablePath = process.env.CHROMIUM ?? CHROMIUMS.find(existsSync);
  if (!executablePath || !existsSync(executablePath))
    throw new Error("Chromium is missing: apt-get install chromium-headless-shell, or name one in CHROMIUM");
  return chromium.launch({
    executablePath,
    args: [
      "--no-sandbox",
      ...(composed ? [] : ["--disable-gpu"]),
      "--disable-quic",
      "--no-first-run",
      "--disable-background-networking",
      "--disable-component-update",
      "--disable-sync",
      ...more,
    ],
  });
}
