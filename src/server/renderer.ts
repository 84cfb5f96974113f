/**
 * The process that renders finals, beside the web server and at a lower priority: takes what waits, in order, and tells of it by the
 * database and files. It ends by itself when the server does; what it has come to is kept.
 */
import { randomUUID } from "node:crypto";
import { readdir, rename, rm, statfs, writeFile } from "node:fs/promises";
import { constants, setPriority } from "node:os";
import { basename, join } from "node:path";
import { and, asc, eq, isNull } from "drizzle-orm";
import { encode } from "fast-png";
import { keptOrder, type ForecastSaid, type RenderNow, type RenderOrder } from "#api/contract";
import { parseDocument } from "#core/document/parse";
import { bytesText } from "#core/document/quantities";
import type { SceneDocument } from "#core/document/schema";
import { InputError } from "#core/errors";
import { develop } from "#core/film/develop";
import type { Film } from "#core/film/film";
import { smallFilm } from "#core/film/small";
import { readLut, readResources } from "#core/scene/assets";
import { assetOf } from "#core/document/assets";
import { checkpointSeconds, Ended, FrameRenderer, type FrameResult } from "#finals/frame";
import { filesOf, isFinished, writeFrame } from "#finals/file";
import { Remaining } from "#finals/remaining";
import { BlobStore } from "./blobs";
import { paidFinals, renderedFrames, renders } from "./db/schema";
import { openDatabase } from "./db/open";
import { giveBack, SILENCE, take } from "./lease";
import { Projects } from "./projects";
import { fileName, framesIn, orderedDocument } from "./render-order";
import { NOW_FILE, PICTURE_FILE, Renders } from "./renders";
import { root } from "./root";
import { storageCause } from "./storage";
import { Store } from "./store";

/** Milliseconds between looks at the database where nobody tells of a change. */
const LOOK = 1000;
/** Milliseconds between pictures of a growing frame, and pixels across one. */
const PICTURES = 10_000;
const ACROSS = 480;
/** Milliseconds without work after which the process ends: the server starts another. */
const IDLE = 20_000;

type Row = typeof renders.$inferSelect;

const data = process.env.FUMARIUM_DATA ?? join(root(), "var");
const owner = process.env.FUMARIUM_RENDERER ?? randomUUID();
let beside = false;
let gone = false;
let wake: () => void = () => undefined;
const rest = (ms: number): Promise<void> =>
  new Promise((done) => {
    const timer = setTimeout(done, ms);
    wake = () => {
      clearTimeout(timer);
      done();
    };
  });

async function main(): Promise<void> {
  setPriority(0, constants.priority.PRIORITY_LOW);
  const database = await openDatabase(data, join(root(), "src/server/db/migrations"));
  const store = new Store(database);
  const blobs = new BlobStore(join(data, "assets"));
  const finals = new Renders(store, new Projects(store, blobs), join(data, "renders"));
  process.on("message", (m: { beside?: boolean }) => {
    if (m.beside !== undefined) beside = m.beside;
    wake();
  });
  const leave = (): void => {
    gone = true;
    wake();
  };
  process.on("disconnect", leave);
  process.on("SIGTERM", leave);
  process.on("SIGINT", leave);

  let worker: RenderProcess | null = null;
  let since = Date.now();
  const beating = setInterval(() => void take(store, owner).catch(() => undefined), SILENCE / 3);
  try {
    while (!gone) {
      if (!(await take(store, owner))) {
        await rest(LOOK);
        continue;
      }
      const row = await nextOf(store, finals);
      if (row) {
        worker ??= await RenderProcess.create(store, finals, blobs);
        await worker.render(row);
        since = Date.now();
      } else if (Date.now() - since > IDLE) break;
      else await rest(LOOK);
    }
  } finally {
    clearInterval(beating);
    worker?.dispose();
    await giveBack(store, owner).catch(() => undefined);
  }
}

/** The first that waits and has room; those that another process was at are taken up again. */
async function nextOf(store: Store, finals: Renders): Promise<Row | null> {
  const { database } = store;
  const rows = await database.select().from(renders).where(isNull(renders.deletedAt)).orderBy(asc(renders.place));
  for (const row of rows) {
    if (row.state !== "waiting" && row.state !== "rendering" && row.state !== "ending") continue;
    const lacks = await lacking(finals.folder, Math.min(1e9, (JSON.parse(row.needs) as { disk: number }).disk));
    if (lacks === null) return row;
    if (row.message !== lacks)
      await told(store, row.id, row.state, { state: row.state === "ending" ? "ending" : "waiting", message: lacks });
  }
  return null;
}

/** What to say where the disk has no room; null where it has. */
async function lacking(folder: string, bytes: number): Promise<string | null> {
  const { bavail, bsize } = await statfs(folder).catch(() => ({ bavail: Infinity, bsize: 1 }));
  return bavail * bsize < bytes
    ? `Waits for room on the disk: ${bytesText(bytes)} are needed, ${bytesText(bavail * bsize)} are free.`
    : null;
}

/** Changes a render's state, where that is still the one it had. @returns whether it was */
async function told(store: Store, id: string, from: Row["state"], to: Partial<Pick<Row, "state" | "message">>): Promise<boolean> {
  const { rowsAffected } = await store.serializeWrites(() =>
    store.database
      .update(renders)
      .set({ ...to, updatedAt: store.now() })
      .where(and(eq(renders.id, id), eq(renders.state, from))),
  );
  return rowsAffected > 0;
}

class RenderProcess {
  private constructor(
    private readonly store: Store,
    private readonly finals: Renders,
    private readonly blobs: BlobStore,
    private readonly frames: FrameRenderer,
  ) {}

  static async create(store: Store, finals: Renders, blobs: BlobStore): Promise<RenderProcess> {
    return new RenderProcess(store, finals, blobs, await FrameRenderer.create(join(root(), "build")));
  }

  dispose(): void {
    this.frames.dispose();
  }

  /** Renders what is left of an order, unless it is paused or cancelled meanwhile. */
  async render(row: Row): Promise<void> {
    const { id } = row;
    const begun = row.state === "ending" ? "ending" : "rendering";
    if (!(await told(this.store, id, row.state, { state: begun, message: null }))) return;
    const folder = this.finals.folderOf(id);
    try {
      const document = parseDocument(JSON.parse(row.document), row.title);
      const order = keptOrder(row.order);
      const there = new Set((await this.finals.files(id)).map((f) => f.frame));
      for (const frame of framesIn(order)) {
        if (there.has(frame)) continue;
        if (!(await this.frame(row, document, order, frame))) return;
        if ((await this.stateOf(id)) === "ending") break;
      }
      await rm(join(folder, NOW_FILE), { force: true });
      await this.toldGoing(id, { state: "done", message: null });
    } catch (error) {
      await this.failed(id, error as Error);
    }
  }

  /** Changes the state of the render in hand, unless a person has. */
  private async toldGoing(id: string, to: Partial<Pick<Row, "state" | "message">>): Promise<void> {
    if (!(await told(this.store, id, "rendering", to))) await told(this.store, id, "ending", to);
  }

  private async stateOf(id: string): Promise<Row["state"] | null> {
    const [row] = await this.store.database.select({ state: renders.state }).from(renders).where(eq(renders.id, id));
    return row?.state ?? null;
  }

  /** A full disk is waited for; all else is told. */
  private async failed(id: string, error: Error): Promise<void> {
    const cause = storageCause(error);
    if (cause === "the disk is full") {
      await this.toldGoing(id, { state: "waiting", message: "Waits for room on the disk: it is full." });
      await rest(LOOK * 10);
      return;
    }
    if (!(error instanceof InputError)) console.error(error);
    await this.toldGoing(id, { state: "failed", message: cause ? `It could not be written: ${cause}.` : error.message });
  }

  /** @returns whether the frame is done; else it was ended */
  private async frame(row: Row, given: SceneDocument, order: RenderOrder, frame: number | null): Promise<boolean> {
    const { id } = row;
    const folder = this.finals.folderOf(id);
    const document = orderedDocument(given, order, frame);
    const strengths = order.clean ? document.film.cleanUp : null;
    const now: RenderNow = { frame, share: 0, seconds: 0, left: null, leftError: null, says: null };
    const remaining = new Remaining();
    let writing = Promise.resolve();
    const tell = (changed: Partial<RenderNow>): void => {
      Object.assign(now, changed);
      const text = JSON.stringify(now);
      writing = writing.then(() => writeBeside(folder, NOW_FILE, text)).catch(() => undefined);
    };
    let shown = 0;
    const name = fileName(order, frame);
    let trouble: Error | null = null;
    const watch = this.watch(id, () => trouble !== null);
    try {
      const done = await this.frames.render(
        { document, passes: order.passes, strengths, ...(order.seconds !== null ? { timeLimit: order.seconds } : {}) },
        {
          resources: async (doc) => readResources(doc, this.assetsOf(doc)),
          checkpoint: { path: join(folder, `.${name}.checkpoint`), every: checkpointSeconds() },
          unkept: (error) => (trouble = error),
          says: (says) => tell({ says }),
          progress: (share, seconds) => {
            const left = remaining.after(share, seconds);
            tell({ share, seconds, left: left?.left ?? null, leftError: left?.error ?? null, says: null });
          },
          grows: (film) => {
            if (Date.now() - shown < PICTURES) return;
            shown = Date.now();
            writing = writing.then(() => writeBeside(folder, PICTURE_FILE, small(film, document))).catch(() => undefined);
          },
        },
      );
      watch.stop();
      tell({ share: 1, left: 0, leftError: 0, says: "writing" });
      const files = await this.written(folder, frame, done, document, order).catch(async (error: unknown) => {
        await done.release(false);
        throw error;
      });
      // after one that may be under way
      await (writing = writing.then(() => writeBeside(folder, PICTURE_FILE, small(done.film, document))));
      const { samples, clearSamples, noise, cleanedNoise } = done.facts;
      await this.store.serializeWrites(() =>
        this.store.database
          .insert(renderedFrames)
          .values({
            renderId: id,
            frame: frame ?? 0,
            file: files[0].file,
            bytes: files.reduce((n, f) => n + f.bytes, 0),
            files: files.length > 1 ? JSON.stringify(files) : null,
            seconds: done.seconds + done.cleanSeconds,
            samples: order.passes.some((p) => p !== "clear") ? samples : clearSamples,
            noise,
            cleanedNoise,
          })
          .onConflictDoNothing(),
      );
      await this.record(row, frame, document, done).catch(console.error);
      await done.release(true);
      return true;
    } catch (error) {
      if (!(error instanceof Ended)) throw error;
      if (trouble) throw trouble as Error;
      return false;
    } finally {
      watch.stop();
      await writing;
    }
  }

  /** Keeps what was said of a frame beside what it took, where both are of the same work. */
  private async record(row: Row, frame: number | null, { title, film }: SceneDocument, done: FrameResult): Promise<void> {
    if (row.forecast === null || done.outcome !== "done" || done.resumed > 0) return;
    const { model, said, low, high, samples } = JSON.parse(row.forecast) as ForecastSaid;
    await this.store.serializeWrites(() =>
      this.store.database
        .insert(paidFinals)
        .values({
          ...{ renderId: row.id, frame: frame ?? 0, title, pixels: film.size[0] * film.size[1], model, said, low, high },
          ...{ samplesSaid: samples, samples: done.facts.samples, paid: done.work },
          clean: done.cleanSeconds > 0 ? done.cleanWork : null,
          createdAt: this.store.now(),
        })
        .onConflictDoNothing(),
    );
  }

  /** Writes a frame's files, as filesOf() has them. @returns their names and bytes */
  private async written(
    folder: string,
    frame: number | null,
    { film, facts }: FrameResult,
    document: SceneDocument,
    order: RenderOrder,
  ): Promise<[{ file: string; bytes: number }, ...{ file: string; bytes: number }[]]> {
    const lut = isFinished(order.file) ? await readLut(document, this.assetsOf(document)) : null;
    const told = frame === null ? facts : { ...facts, frame, fps: order.fps };
    const files = await filesOf(film, order.passes, document, told, { ...order.file, halves: false }, lut);
    const [first, ...others] = await writeFrame(files, (layer) => join(folder, fileName(order, frame, layer)));
    const named = ({ path, bytes }: typeof first): { file: string; bytes: number } => ({ file: basename(path), bytes });
    return [named(first), ...others.map(named)];
  }

  /** Looks whether a render is to go on: where it is not, keeps what it has come to and ends it; a cancelled one's is not kept. */
  private watch(id: string, troubled: () => boolean): { stop(): void } {
    let stopped = false;
    void (async () => {
      while (!stopped) {
        const { alone, beside: few } = await this.finals.threads().catch(() => ({ alone: 64, beside: 64 }));
        this.frames.useWorkers(beside ? few : alone);
        // where the database cannot be asked just now, it goes on
        const state = await this.stateOf(id).catch(() => "rendering" as const);
        if (stopped) return;
        if (state === "ending") this.frames.endNow();
        if (gone || troubled() || (state !== "rendering" && state !== "ending")) {
          if (state !== "cancelled") await this.frames.hold();
          await this.frames.end();
          if (state === "cancelled") await forget(this.finals.folderOf(id));
          return;
        }
        await rest(LOOK);
      }
    })().catch(console.error);
    return {
      stop: () => {
        stopped = true;
      },
    };
  }

  private assetsOf(doc: SceneDocument): (name: string) => Promise<Uint8Array> {
    return async (name) => {
      const { sha256 } = assetOf(doc, name);
      if (sha256 === undefined || !this.blobs.has(sha256)) throw new InputError(`Its file ${name} is gone.`);
      return this.blobs.read(sha256);
    };
  }
}

/** What a cancelled render had come to. */
async function forget(folder: string): Promise<void> {
  for (const name of await readdir(folder).catch(() => [])) if (name.endsWith(".checkpoint")) await rm(join(folder, name), { force: true });
}

/** A file that is there whole or as it was. */
async function writeBeside(folder: string, name: string, content: string | Uint8Array): Promise<void> {
  const part = join(folder, `.${name}.part`);
  await writeFile(part, content);
  await rename(part, join(folder, name));
}

/** A small picture of a film as it is developed. */
function small(film: Film, doc: SceneDocument): Uint8Array {
  const { width, height, ...rest } = smallFilm(film, ACROSS);
  const rgba = new Uint8ClampedArray(4 * width * height);
  develop({ width, height, ...rest }, "beauty", doc.film, rgba);
  return encode({ width, height, data: new Uint8Array(rgba.buffer), channels: 4, depth: 8 });
}

main().then(
  () => process.exit(0),
  (error: unknown) => {
    console.error("The renderer of finals ended:", error);
    process.exit(1);
  },
);
