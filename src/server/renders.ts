/** Finals as the server keeps them: ordered, listed, steered. What renders them is another process (renderer.ts). */
import { randomUUID } from "node:crypto";
import { existsSync } from "node:fs";
import { mkdir, readFile, rm, stat, statfs } from "node:fs/promises";
import { availableParallelism, totalmem } from "node:os";
import { join } from "node:path";
import { and, asc, desc, eq, inArray, isNull, sql } from "drizzle-orm";
import {
  keptOrder,
  type AnswerOf,
  type API,
  type BodyOf,
  type ForecastSaid,
  type Render,
  type RenderedFile,
  type RenderNow,
  type RenderOrder,
  type RenderState,
  type RenderThreads,
} from "#api/contract";
import { parseDocument } from "#core/document/parse";
import { bytesText } from "#core/document/quantities";
import { InputError } from "#core/errors";
import type { CheckedDocument } from "./bodies";
import { renderedFrames, renders, settings } from "./db/schema";
import { NOW_FILE } from "./now-file";
import { framesIn, needsOf } from "./render-order";
import type { Projects } from "./projects";
import { NotFound, type Store } from "./store";

/** The picture of what is in hand as it grows. */
export const PICTURE_FILE = "picture.png";

/** Files of a frame that is kept. */
const filesOfFrame = (files: string | null, { file, bytes }: { file: string; bytes: number }): { file: string; bytes: number }[] =>
  files === null ? [{ file, bytes }] : (JSON.parse(files) as { file: string; bytes: number }[]);

/** From which state a person may take a render to which. */
const STEPS: Record<"waiting" | "ending" | "paused" | "cancelled", readonly RenderState[]> = {
  waiting: ["paused", "failed", "cancelled"],
  ending: ["rendering"],
  paused: ["waiting", "rendering"],
  cancelled: ["waiting", "rendering", "ending", "paused", "failed"],
};
const GOING: readonly RenderState[] = ["rendering", "ending", "waiting"];

/** Bytes below which a disk counts as full. */
const NO_ROOM = 1_000_000;

export class Renders {
  /** Told that there is something for the renderer to look at. */
  onChange: () => void = () => undefined;

  constructor(
    private readonly store: Store,
    private readonly projects: Projects,
    /** Where each render has a folder of its own. */
    readonly folder: string,
  ) {}

  folderOf(id: string): string {
    if (!/^[0-9a-f-]{36}$/.test(id)) throw new NotFound("There is no such render.");
    return join(this.folder, id);
  }

  /** @throws InputError where it cannot be rendered, or this machine has not the room */
  async order(
    projectId: string,
    { document, order, forecast = null }: { document: CheckedDocument; order: RenderOrder; forecast?: ForecastSaid | null },
  ): Promise<AnswerOf<typeof API.orderRender>> {
    await this.projects.exists(projectId);
    const needs = needsOf(parseDocument(JSON.parse(document.text)), order);
    if (needs.memory > totalmem())
      throw new InputError(
        `render: needs ${bytesText(needs.memory)} of memory, and this machine has ${bytesText(totalmem())}; a smaller size needs less`,
      );
    const free = await this.free();
    if (needs.disk > free)
      throw new InputError(`render: needs up to ${bytesText(needs.disk)} on the disk, of which ${bytesText(free)} are free`);
    const id = randomUUID();
    await mkdir(this.folderOf(id), { recursive: true });
    const now = this.store.now();
    await this.store.serializeWrites(() =>
      this.store.database.insert(renders).values({
        id,
        projectId,
        title: document.title,
        document: document.text,
        order: JSON.stringify(order),
        needs: JSON.stringify(needs),
        forecast: forecast && JSON.stringify(forecast),
        state: "waiting",
        place: now,
        createdAt: now,
        updatedAt: now,
      }),
    );
    this.onChange();
    return { id, needs };
  }

  async list(): Promise<Render[]> {
    const { database } = this.store;
    const rows = await database
      .select({
        id: renders.id,
        projectId: renders.projectId,
        title: renders.title,
        order: renders.order,
        needs: renders.needs,
        forecast: renders.forecast,
        state: renders.state,
        message: renders.message,
        priority: renders.priority,
        place: renders.place,
        createdAt: renders.createdAt,
        updatedAt: renders.updatedAt,
      })
      .from(renders)
      .where(isNull(renders.deletedAt))
      .orderBy(desc(renders.priority), asc(renders.place));
    const sums = await database
      .select({
        id: renderedFrames.renderId,
        done: sql<number>`count(*)`,
        seconds: sql<number>`sum(${renderedFrames.seconds})`,
        bytes: sql<number>`sum(${renderedFrames.bytes})`,
        samples: sql<number | null>`avg(${renderedFrames.samples})`,
        noise: sql<number | null>`avg(${renderedFrames.noise})`,
        cleanedNoise: sql<number | null>`avg(${renderedFrames.cleanedNoise})`,
      })
      .from(renderedFrames)
      .groupBy(renderedFrames.renderId);
    // where the database lies on a full disk, the renderer cannot say so there
    const full = (await this.free().catch(() => Infinity)) < NO_ROOM;
    const all = await Promise.all(
      rows.map(async (row): Promise<Render> => {
        const {
          done = 0,
          seconds = 0,
          bytes = 0,
          samples = null,
          noise = null,
          cleanedNoise = null,
        } = sums.find((s) => s.id === row.id) ?? {};
        const order = keptOrder(row.order);
        const ended = row.state === "done" || row.state === "cancelled";
        return {
          ...row,
          message: row.message ?? (full && GOING.includes(row.state) ? "The disk is full: it goes on when there is room." : null),
          ...{ order, done, seconds, bytes, samples, noise, cleanedNoise },
          needs: JSON.parse(row.needs) as Render["needs"],
          forecast: row.forecast === null ? null : (JSON.parse(row.forecast) as ForecastSaid),
          frames: framesIn(order).length,
          now: ended ? null : await this.now(row.id),
          picture: (await stat(join(this.folderOf(row.id), PICTURE_FILE)).catch(() => null))?.mtimeMs ?? null,
        };
      }),
    );
    const later = (r: Render): number => (r.state === "done" || r.state === "cancelled" ? 1 : 0);
    return all.sort((a, b) => later(a) - later(b) || (later(a) ? b.updatedAt - a.updatedAt : b.priority - a.priority || a.place - b.place));
  }

  /** For a badge: how many go on, and how far the one in hand is. */
  async going(): Promise<AnswerOf<typeof API.rendersNow>> {
    const rows = await this.store.database
      .select({ id: renders.id, state: renders.state })
      .from(renders)
      .where(and(isNull(renders.deletedAt), inArray(renders.state, [...GOING, "failed"])));
    const rendering = rows.find((r) => r.state === "rendering" || r.state === "ending");
    return {
      going: rows.filter((r) => GOING.includes(r.state)).length,
      failed: rows.filter((r) => r.state === "failed").length,
      share: rendering ? ((await this.now(rendering.id))?.share ?? null) : null,
    };
  }

  async files(id: string): Promise<RenderedFile[]> {
    const order = await this.orderOf(id);
    const rows = await this.store.database
      .select()
      .from(renderedFrames)
      .where(eq(renderedFrames.renderId, id))
      .orderBy(asc(renderedFrames.frame));
    return rows.flatMap(({ renderId: _, frame, files, ...rest }) =>
      filesOfFrame(files, rest).map((file) => ({ ...rest, ...file, frame: order.frames === null ? null : frame })),
    );
  }

  /** The file of a finished frame. @throws NotFound */
  async file(id: string, name: string): Promise<string> {
    const files = await this.files(id);
    const path = join(this.folderOf(id), name);
    if (!files.some((f) => f.file === name) || !existsSync(path)) throw new NotFound("There is no such file.");
    return path;
  }

  /** @throws NotFound, InputError where it cannot come to that state */
  async change(id: string, { state, place, priority, deleted }: BodyOf<typeof API.changeRender>): Promise<void> {
    await this.store.serializeWrites(() =>
      this.store.database.transaction(async (t) => {
        const [row] = await t.select({ state: renders.state }).from(renders).where(eq(renders.id, id));
        if (!row) throw new NotFound("There is no such render.");
        if (state && row.state !== state && !STEPS[state].includes(row.state))
          throw new InputError(`render: one that is ${row.state} cannot become ${state}`);
        if (deleted && GOING.includes(row.state)) throw new InputError("render: cancel it before it is removed");
        await t
          .update(renders)
          .set({
            ...(state && row.state !== state ? { state, message: null } : {}),
            ...(place !== undefined ? { place } : {}),
            ...(priority !== undefined ? { priority } : {}),
            ...(deleted !== undefined ? { deletedAt: deleted ? this.store.now() : null } : {}),
            updatedAt: this.store.now(),
          })
          .where(eq(renders.id, id));
      }),
    );
    this.onChange();
  }

  /** Files of renders that were removed some time ago go. */
  async sweep(grace: number): Promise<void> {
    const rows = await this.store.database
      .select({ id: renders.id })
      .from(renders)
      .where(sql`${renders.deletedAt} < ${this.store.now() - grace}`);
    for (const { id } of rows) {
      await rm(this.folderOf(id), { recursive: true, force: true });
      await this.store.serializeWrites(() => this.store.database.delete(renders).where(eq(renders.id, id)));
    }
  }

  async free(): Promise<number> {
    await mkdir(this.folder, { recursive: true });
    const { bavail, bsize } = await statfs(this.folder);
    return bavail * bsize;
  }

  async threads(): Promise<RenderThreads> {
    const [row] = await this.store.database.select().from(settings).where(eq(settings.name, "renderThreads"));
    const all = availableParallelism();
    return row ? (JSON.parse(row.value) as RenderThreads) : { alone: all, beside: Math.max(1, all >> 1) };
  }

  async setThreads(threads: RenderThreads): Promise<void> {
    const value = JSON.stringify(threads);
    await this.store.serializeWrites(() =>
      this.store.database
        .insert(settings)
        .values({ name: "renderThreads", value })
        .onConflictDoUpdate({ target: settings.name, set: { value } }),
    );
    this.onChange();
  }

  private async orderOf(id: string): Promise<RenderOrder> {
    const [row] = await this.store.database.select({ order: renders.order }).from(renders).where(eq(renders.id, id));
    if (!row) throw new NotFound("There is no such render.");
    return keptOrder(row.order);
  }

  private async now(id: string): Promise<RenderNow | null> {
    const text = await readFile(join(this.folderOf(id), NOW_FILE), "utf8").catch(() => null);
    try {
      // one of an earlier version has one frame in hand
      return text === null ? null : { hand: 1, ...(JSON.parse(text) as Omit<RenderNow, "hand">) };
    } catch {
      // it is being written
      return null;
    }
  }
}
