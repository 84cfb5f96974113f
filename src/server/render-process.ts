/** Starts the process that renders finals, and starts it again where it dies with work before it. */
import { fork, type ChildProcess } from "node:child_process";
import { randomUUID } from "node:crypto";
import { existsSync } from "node:fs";
import { join } from "node:path";
import { root } from "./root";

/** Milliseconds before a process that died is started again; twice as long each time that it dies at once. */
const AGAIN = 1000;
const LONGEST = 60_000;
/** Milliseconds for which a bench counts as open after it asked. */
const OPEN = 15_000;

export class RenderHost {
  private child: ChildProcess | null = null;
  /** Name of its process. */
  private owner = "";
  private wait = AGAIN;
  private started = 0;
  private beside = false;
  private closing: ReturnType<typeof setTimeout> | null = null;

  /** @param data folder of the database @param hasWork whether anything waits or is rendered */
  constructor(
    private readonly data: string,
    private readonly hasWork: () => Promise<boolean>,
    /** Who renders this folder, by the name that its process has; null for nobody. */
    private readonly holder: () => Promise<string | null>,
  ) {}

  /** Where another server's process renders this folder, words that say so; null where this one's does, or nobody's. */
  async elsewhere(): Promise<string | null> {
    const owner = await this.holder();
    return owner !== null && owner !== this.owner ? "Another server on this folder renders; this one looks on." : null;
  }

  /** There is something to look at. */
  look(): void {
    if (this.child) this.post({});
    else this.start();
  }

  /** A bench is open: fewer threads render for a while. */
  benchAsks(): void {
    if (this.closing) clearTimeout(this.closing);
    this.closing = setTimeout(() => this.tell(false), OPEN);
    this.closing.unref();
    if (!this.beside) this.tell(true);
  }

  /** Lets a machine end once its units are done, or at once. */
  dismiss(name: string, how: "drain" | "remove"): void {
    this.post({ machine: { name, how } });
  }

  private tell(beside: boolean): void {
    this.beside = beside;
    this.post({ beside });
  }

  /** To a process that may be ending just now. */
  private post(message: object): void {
    if (this.child?.connected) this.child.send(message, () => undefined);
  }

  private start(): void {
    const file = join(root(), "build", "renderer.mjs");
    if (!existsSync(file)) return;
    this.started = Date.now();
    this.owner = randomUUID();
    const child = fork(file, [], {
      env: { ...process.env, FUMARIUM_DATA: this.data, FUMARIUM_RENDERER: this.owner },
      execArgv: [],
      stdio: ["ignore", "inherit", "inherit", "ipc"],
    });
    this.child = child;
    // it alone does not keep the server
    child.unref();
    child.channel?.unref();
    this.post({ beside: this.beside });
    child.on("error", () => undefined);
    child.on("exit", (code) => {
      this.child = null;
      // one that had nothing to do has not died
      if (code === 0 || Date.now() - this.started > LONGEST) this.wait = AGAIN;
      const timer = setTimeout(() => {
        void this.hasWork().then((some) => {
          if (some && !this.child) this.start();
        }, console.error);
      }, this.wait);
      timer.unref();
      this.wait = Math.min(LONGEST, 2 * this.wait);
    });
  }
}
