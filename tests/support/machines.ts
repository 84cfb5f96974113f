/** A server's side of many machines, and workers, as tests need them: within this process, or as processes of their own. */
import { spawn, type ChildProcess } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { SceneDocument } from "#core/document/schema";
import type { PassName } from "#core/film/passes";
import { Door, type Files } from "#machines/door";
import { Office } from "#machines/office";
import { Post } from "#machines/post";
import { Spread } from "#machines/spread";
import { Pace } from "#machines/trial";
import { runWorker, type WorkerWays } from "#machines/worker/run";
import { FrameRenderer, type FrameResult, type FrameWays } from "#finals/frame";
import { Workshop } from "#finals/workshop";

export const TOKEN = "a token of the tests";
export const NO_RESOURCES = { models: new Map(), pictures: new Map(), profiles: new Map(), volumes: new Map() };
export interface Strengths {
  fireflies: number;
  air: number;
  surfaces: number;
}

export class Desk {
  readonly folder = mkdtempSync(join(tmpdir(), "fumarium-machines-"));
  private announcing: ReturnType<typeof setInterval> | null = null;
  private readonly leaving: AbortController[] = [];
  private readonly ended: Promise<string>[] = [];
  readonly children: ChildProcess[] = [];

  private constructor(
    readonly redis: string,
    readonly workshop: Workshop,
    readonly office: Office,
    public door: Door,
  ) {}

  /** @param port of its door; 0: any @param kernel another one than is here */
  static async open(
    redis: string,
    { port = 0, files = async () => Promise.resolve(null), kernel }: { port?: number; files?: Files; kernel?: string } = {},
  ): Promise<Desk> {
    const workshop = await Workshop.create("build", 1);
    const office = new Office(new Post(redis), kernel ?? workshop.kernel, await Pace.of(workshop));
    const door = await Door.open(office, TOKEN, files, "127.0.0.1", port);
    const desk = new Desk(redis, workshop, office, door);
    await desk.announce(`http://127.0.0.1:${door.port}`);
    return desk;
  }

  /** Tells workers where they come in. */
  async announce(url: string): Promise<void> {
    if (this.announcing) clearInterval(this.announcing);
    const put = (): Promise<void> => this.office.post.putUp({ url, kernel: this.office.kernel }).catch(() => undefined);
    while (this.office.post.trouble !== null) await new Promise((go) => setTimeout(go, 20));
    await put();
    this.announcing = setInterval(() => void put(), 1000);
  }

  /** A worker within this process. @returns what ends it, at once */
  worker(
    name: string,
    threads = 1,
    more: Partial<WorkerWays> = {},
  ): { leave(): Promise<string>; drain(): Promise<string>; words: string[] } {
    const [drain, leave] = [new AbortController(), new AbortController()];
    const words: string[] = [];
    this.leaving.push(leave);
    const cache = join(this.folder, `cache-${name}`);
    const done = runWorker(
      { redis: this.redis, name, threads, token: TOKEN, cache, buildDirectory: "build" },
      { say: (line) => words.push(line), ending: { drain: drain.signal, leave: leave.signal }, ...more },
    );
    this.ended.push(done);
    return {
      words,
      leave: async () => {
        leave.abort();
        return done;
      },
      drain: async () => {
        drain.abort();
        return done;
      },
    };
  }

  /** A worker that is a process of its own. @param node options of Node for it */
  process(name: string, { threads = 1, redis = this.redis, token = TOKEN, node = [] as string[] } = {}): ChildProcess {
    const child = spawn(
      process.execPath,
      [
        ...node,
        "bin/fumarium.mjs",
        "worker",
        "--redis",
        redis,
        "--name",
        name,
        "--threads",
        String(threads),
        "--cache",
        join(this.folder, "cache"),
      ],
      { env: { ...process.env, FUMARIUM_TOKEN: token }, stdio: ["ignore", "pipe", "pipe"] },
    );
    this.children.push(child);
    return child;
  }

  /** Renders a frame on the machines that there are. */
  async render(
    doc: SceneDocument,
    passes: PassName[],
    more: Partial<FrameWays> & {
      path?: string;
      strengths?: Strengths | null;
      timeLimit?: number;
      job?: { id: string; priority: number };
      /** Told of what renders it. */
      spread?: (s: Spread) => void;
      renderer?: (r: FrameRenderer) => void;
    } = {},
  ): Promise<FrameResult> {
    const { path, spread: told, strengths = null, renderer: also, timeLimit, job = { id: "job", priority: 0 }, ...ways } = more;
    const spread = new Spread(this.office, this.workshop, { job, order: 0, expected: null, more: () => false });
    told?.(spread);
    const renderer = new FrameRenderer(this.workshop, spread);
    also?.(renderer);
    const result = await renderer.render(
      { document: doc, passes, strengths, ...(timeLimit !== undefined ? { timeLimit } : {}) },
      {
        resources: async () => Promise.resolve(NO_RESOURCES as never),
        checkpoint: { path: path ?? join(this.folder, `${Math.random()}.checkpoint`), every: 30 },
        ...ways,
      },
    );
    await result.release(false);
    return result;
  }

  /** What is shut without its machines: as if the server were gone. */
  async shut(): Promise<void> {
    if (this.announcing) clearInterval(this.announcing);
    this.office.close();
    await this.door.close();
    await this.office.post.close();
    this.workshop.dispose();
  }

  async close(): Promise<void> {
    for (const leave of this.leaving) leave.abort();
    for (const child of this.children) child.kill("SIGKILL");
    await Promise.all(this.ended.map((e) => e.catch(() => "")));
    await this.shut();
    rmSync(this.folder, { recursive: true, force: true });
  }
}

export interface Alone {
  data: Float32Array;
  rays: number;
  invalid: number;
}
const known = new Map<string, Promise<Alone>>();

/** What this machine makes of a frame by itself; of the same it is asked once. */
export async function alone(doc: SceneDocument, passes: PassName[], strengths: Strengths | null = null): Promise<Alone> {
  const key = JSON.stringify([doc, passes, strengths]);
  const own = known.get(key) ?? renderAlone(doc, passes, strengths);
  known.set(key, own);
  return own;
}

async function renderAlone(doc: SceneDocument, passes: PassName[], strengths: Strengths | null): Promise<Alone> {
  const renderer = await FrameRenderer.create("build", 2);
  try {
    const ways = { resources: async () => Promise.resolve(NO_RESOURCES as never), checkpoint: null };
    const { film, rays, invalid } = await renderer.render({ document: doc, passes, strengths }, ways);
    return { data: film.data.slice(), rays, invalid };
  } finally {
    renderer.dispose();
  }
}
