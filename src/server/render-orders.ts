/** Renders orders frame by frame, on this machine or on many, and tells of it by the database and files. */
import { readdir, rm } from "node:fs/promises";
import { basename, join } from "node:path";
import { totalmem } from "node:os";
import { setTimeout as wait } from "node:timers/promises";
import { and, eq } from "drizzle-orm";
import { encode } from "fast-png";
import { keptOrder, type ForecastSaid, type RenderNeeds, type RenderOrder } from "#api/contract";
import { assetOf } from "#core/document/assets";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import { InputError } from "#core/errors";
import { develop } from "#core/film/develop";
import type { Film } from "#core/film/film";
import { smallFilm } from "#core/film/small";
import { readLut, readResources } from "#core/scene/assets";
import { filesOf, isFinished, writeFrame } from "#finals/file";
import { checkpointSeconds, Ended, FrameRenderer, type FrameResult } from "#finals/frame";
import type { Workshop } from "#finals/workshop";
import { BeginAnew, type Spread } from "#machines/spread";
import type { BlobStore } from "./blobs";
import { paidFinals, renderedFrames, renders } from "./db/schema";
import type { MachinesHost } from "./machines-host";
import { NowFile, writeBeside } from "./now-file";
import { fileName, framesIn, orderedDocument } from "./render-order";
import { PICTURE_FILE, type Renders } from "./renders";
import { storageCause } from "./storage";
import type { Store } from "./store";

/** Milliseconds between looks at the database where nobody tells of a change. */
export const LOOK = 1000;
/** Milliseconds between pictures of a growing frame, and pixels across one. */
const PICTURES = 10_000;
const ACROSS = 480;
/** Frames that are open at once at most, where many machines render, and the share of this one's memory that they may take. */
const OPEN = 8;
const MEMORY = 0.5;
/** Milliseconds between looks whether machines want another frame. */
const HUNGER = 250;

export type Row = typeof renders.$inferSelect;

/** What the process around this knows. */
export interface Around {
  /** Whether it is to end. */
  gone(): boolean;
  /** Whether a bench is open. */
  beside(): boolean;
  /** Waits, or until there is something to look at. */
  rest(ms: number): Promise<void>;
}

/** Changes a render's state, where that is still the one it had. @returns whether it was */
export async function told(store: Store, id: string, from: Row["state"], to: Partial<Pick<Row, "state" | "message">>): Promise<boolean> {
  const { rowsAffected } = await store.serializeWrites(() =>
    store.database
      .update(renders)
      .set({ ...to, updatedAt: store.now() })
      .where(and(eq(renders.id, id), eq(renders.state, from))),
  );
  return rowsAffected > 0;
}

export class OrderRenderer {
  /** Bytes of memory that frames which are open take, about. */
  private memory = 0;
  private open = 0;

  /** @param machines that take the samples; null: this one does */
  constructor(
    private readonly store: Store,
    private readonly finals: Renders,
    private readonly blobs: BlobStore,
    private readonly workshop: Workshop,
    private readonly machines: MachinesHost | null,
    private readonly around: Around,
  ) {}

  /** Renders what is left of an order, unless it is paused or cancelled meanwhile. */
  async render(row: Row): Promise<void> {
    const { id } = row;
    const begun = row.state === "ending" ? "ending" : "rendering";
    if (!(await told(this.store, id, row.state, { state: begun, message: null }))) return;
    try {
      const document = parseDocument(JSON.parse(row.document), row.title);
      const order = keptOrder(row.order);
      const there = new Set((await this.finals.files(id)).map((f) => f.frame));
      const frames = framesIn(order).filter((frame) => !there.has(frame));
      const run = new OrderRun(row, document, order, frames.length);
      const now = new NowFile(this.finals.folderOf(id));
      const all = this.machines ? await this.spread(run, frames, now) : await this.oneByOne(run, frames, now);
      if (!all) return;
      await now.remove();
      await this.toldGoing(id, { state: "done", message: null });
    } catch (error) {
      await this.failed(id, error as Error);
    }
  }

  /** @returns whether the order is done */
  private async oneByOne(run: OrderRun, frames: readonly (number | null)[], now: NowFile): Promise<boolean> {
    for (const frame of frames) {
      if (!(await this.frame(run, frame, now))) return false;
      if ((await this.standing(run.id))?.state === "ending") break;
    }
    return true;
  }

  /** Several frames beside each other, as many as machines need to be busy. @returns whether the order is done */
  private async spread(run: OrderRun, frames: readonly (number | null)[], now: NowFile): Promise<boolean> {
    const { memory } = JSON.parse(run.row.needs) as RenderNeeds;
    const going = new Set<Promise<void>>();
    let trouble: Error | null = null,
      whole = true,
      ending = false;
    for (const frame of frames) {
      while (going.size > 0 && !this.mayOpen(memory) && !trouble && whole) await Promise.race([wait(HUNGER), ...going]);
      ending ||= (await this.standing(run.id))?.state === "ending" && going.size + run.done > 0;
      if (trouble || !whole || ending) break;
      this.memory += memory;
      this.open++;
      const own: Promise<void> = this.frame(run, frame, now)
        .then(
          (done) => {
            if (!done) whole = false;
          },
          (error: unknown) => {
            trouble ??= error as Error;
          },
        )
        .finally(() => {
          this.memory -= memory;
          this.open--;
          run.done++;
          going.delete(own);
        });
      going.add(own);
      run.begun++;
    }
    await Promise.all(going);
    if (trouble) throw trouble as Error;
    return whole;
  }

  private mayOpen(memory: number): boolean {
    return (this.machines?.low() ?? false) && this.open < OPEN && this.memory + memory < MEMORY * totalmem();
  }

  /** Whether another order may begin beside those that are at work. */
  hasRoom(row: Row): boolean {
    const { memory } = JSON.parse(row.needs) as RenderNeeds;
    return this.open === 0 || (this.open < OPEN && this.memory + memory < MEMORY * totalmem());
  }

  /** Changes the state of the render in hand, unless a person has. */
  private async toldGoing(id: string, to: Partial<Pick<Row, "state" | "message">>): Promise<void> {
    if (!(await told(this.store, id, "rendering", to))) await told(this.store, id, "ending", to);
  }

  private async standing(id: string): Promise<Pick<Row, "state" | "priority"> | null> {
    const { state, priority } = renders;
    const [row] = await this.store.database.select({ state, priority }).from(renders).where(eq(renders.id, id));
    return row ?? null;
  }

  /** A full disk is waited for; all else is told. */
  private async failed(id: string, error: Error): Promise<void> {
    const cause = storageCause(error);
    if (cause === "the disk is full") {
      await this.toldGoing(id, { state: "waiting", message: "Waits for room on the disk: it is full." });
      await this.around.rest(LOOK * 10);
      return;
    }
    if (!(error instanceof InputError)) console.error(error);
    await this.toldGoing(id, { state: "failed", message: cause ? `It could not be written: ${cause}.` : error.message });
  }

  /** @returns whether the frame is done; else it was ended */
  private async frame(run: OrderRun, frame: number | null, now: NowFile): Promise<boolean> {
    for (;;) {
      try {
        return await this.attempt(run, frame, now);
      } catch (error) {
        if (!(error instanceof BeginAnew)) throw error;
        console.error(`${run.row.title}: ${error.message}`);
        await rm(this.checkpointOf(run, frame), { force: true });
      }
    }
  }

  private checkpointOf({ id, order }: OrderRun, frame: number | null): string {
    return join(this.finals.folderOf(id), `.${fileName(order, frame)}.checkpoint`);
  }

  private async attempt(run: OrderRun, frame: number | null, now: NowFile): Promise<boolean> {
    const { id, order } = run;
    const folder = this.finals.folderOf(id);
    const document = orderedDocument(run.document, order, frame);
    const strengths = order.clean ? document.film.cleanUp : null;
    let shown = 0;
    let trouble: Error | null = null;
    const spread = this.runnerOf(run, frame);
    const frames = new FrameRenderer(this.workshop, spread ?? undefined);
    const line = now.begin(frame);
    const watch = this.watch(run, frames, () => trouble !== null);
    try {
      const done = await frames.render(
        { document, passes: order.passes, strengths, ...(order.seconds !== null ? { timeLimit: order.seconds } : {}) },
        {
          resources: async (doc) => readResources(doc, this.assetsOf(doc)),
          checkpoint: { path: this.checkpointOf(run, frame), every: checkpointSeconds() },
          unkept: (error) => (trouble = error),
          says: (says) => line.says(says),
          progress: (share, seconds) => {
            const idle = spread ? (this.machines?.idleWords() ?? null) : null;
            line.progress(share, seconds);
            if (idle) line.says(idle);
          },
          grows: (film) => {
            if (Date.now() - shown < PICTURES) return;
            shown = Date.now();
            void now.after(() => writeBeside(folder, PICTURE_FILE, small(film, document)));
          },
        },
      );
      watch.stop();
      line.progress(1, done.seconds);
      line.says("writing");
      if (spread) run.expected = spread.found();
      const files = await this.written(folder, frame, done, document, order).catch(async (error: unknown) => {
        await done.release(false);
        throw error;
      });
      // after one that may be under way
      await now.after(() => writeBeside(folder, PICTURE_FILE, small(done.film, document)));
      await this.enter(run, frame, done, files);
      if (!spread) await this.record(run.row, frame, document, done).catch(console.error);
      await done.release(true);
      return true;
    } catch (error) {
      if (!(error instanceof Ended)) throw error;
      if (trouble) throw trouble as Error;
      return false;
    } finally {
      watch.stop();
      line.end();
      await now.after(async () => Promise.resolve());
    }
  }

  private runnerOf(run: OrderRun, frame: number | null): Spread | null {
    if (!this.machines) return null;
    const { row, order, count } = run;
    return this.machines.runner({
      job: run.job,
      order: frame ?? 0,
      expected: run.expected ?? (row.forecast === null ? null : (JSON.parse(row.forecast) as ForecastSaid).said),
      more: () => order.frames !== null && run.begun < count,
    });
  }

  /** A frame is there. */
  private async enter({ id, order }: OrderRun, frame: number | null, done: FrameResult, files: WrittenFiles): Promise<void> {
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
  ): Promise<WrittenFiles> {
    const lut = isFinished(order.file) ? await readLut(document, this.assetsOf(document)) : null;
    const said = frame === null ? facts : { ...facts, frame, fps: order.fps };
    const files = await filesOf(film, order.passes, document, said, { ...order.file, halves: false }, lut);
    const [first, ...others] = await writeFrame(files, (layer) => join(folder, fileName(order, frame, layer)));
    const named = ({ path, bytes }: typeof first): { file: string; bytes: number } => ({ file: basename(path), bytes });
    return [named(first), ...others.map(named)];
  }

  /** Looks whether a render is to go on: where it is not, keeps what it has come to and ends it; a cancelled one's is not kept. */
  private watch({ id, job }: OrderRun, frames: FrameRenderer, troubled: () => boolean): { stop(): void } {
    let stopped = false;
    void (async () => {
      while (!stopped) {
        const { alone, beside } = await this.finals.threads().catch(() => ({ alone: 64, beside: 64 }));
        frames.useWorkers(this.around.beside() ? beside : alone);
        // where the database cannot be asked just now, it goes on
        const { state, priority } = (await this.standing(id).catch(() => null)) ?? { state: "rendering", priority: job.priority };
        job.priority = priority;
        if (stopped) return;
        if (state === "ending") frames.endNow();
        if (this.around.gone() || troubled() || (state !== "rendering" && state !== "ending")) {
          if (state !== "cancelled") await frames.hold();
          await frames.end();
          if (state === "cancelled") await forget(this.finals.folderOf(id));
          return;
        }
        await this.around.rest(LOOK);
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

type WrittenFiles = [{ file: string; bytes: number }, ...{ file: string; bytes: number }[]];

/** An order that is being rendered. */
class OrderRun {
  readonly id: string;
  /** Frames that were begun, and that have come to an end. */
  begun = 0;
  done = 0;
  /** Thread seconds of each tile of the frame that was done last. */
  expected: Float64Array | null = null;
  /** As machines are shared out: its priority may change while it is rendered. */
  readonly job: { id: string; priority: number };

  constructor(
    readonly row: Row,
    readonly document: SceneDocument,
    readonly order: RenderOrder,
    /** Frames that were to be rendered when it began. */
    readonly count: number,
  ) {
    this.id = row.id;
    this.job = { id: row.id, priority: row.priority };
  }
}

/** What a cancelled render had come to. */
async function forget(folder: string): Promise<void> {
  for (const name of await readdir(folder).catch(() => [])) if (name.endsWith(".checkpoint")) await rm(join(folder, name), { force: true });
}

/** A small picture of a film as it is developed. */
function small(film: Film, doc: SceneDocument): Uint8Array {
  const { width, height, ...rest } = smallFilm(film, ACROSS);
  const rgba = new Uint8ClampedArray(4 * width * height);
  develop({ width, height, ...rest }, "beauty", doc.film, rgba);
  return encode({ width, height, data: new Uint8Array(rgba.buffer), channels: 4, depth: 8 });
}
