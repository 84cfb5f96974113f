/**
 * Runs the kernel over a pool of workers: one interface for browser and Node. A result depends on the
 * document, the seed and the sample range alone: each pixel's samples are added in order whatever
 * worker takes its tile.
 */
import { AIR_EVERY, wholeAir } from "#core/document/air-size";
import type { SceneDocument } from "#core/document/schema";
import { growMemory, kernelMemory } from "#core/kernel/kernel";
import { cropOf, planMemory, writeGeometry } from "#core/scene/memory";
import type { CompiledGeometry, MemoryPlan } from "#core/scene/compiled";
import { writeParameters } from "#core/scene/parameters";
import {
  CONTROL,
  CONTROL_COUNT,
  CTL_NEXT,
  CTL_PAUSE,
  CTL_RUN,
  MAX_MEDIA,
  MAX_WORKERS,
  MEDIA,
  MEDIUM_WORDS,
  PARAMS,
  PASS_CLEAR,
  PASS_JOIN,
  SCENE,
  SCRATCH,
  SCRATCH_STRIDE,
} from "#core/layout/layout";
import { ACTIVITY_BYTES, SCRATCH_ACTIVITY, SCRATCH_LEAD } from "#core/layout/scratch";
import { emptyFilm, frameOfFilm, type Film, type FrameWindow } from "#core/film/film";
import type { EngineHost, Finished, FromWorker, Work } from "./protocol";
import { forTiles } from "./worker";
import { AHEAD, mayRunAhead, PARTS, tilesAbout, type Place } from "./attention";
import { airEveryOf, costOf, type Stage } from "./schedule";
import type { Judge } from "./settled";
import { tileRun, type TileRun, type TileSlot } from "./tile-run";
import { tilesOf } from "./tiles";
import { TimeLeft } from "./time-left";

/** Milliseconds of the longest timer that there is. */
const LONGEST_TIMER = 2 ** 31 - 1;

export interface RunRequest {
  document: SceneDocument;
  /** Pixels of the film. */
  width: number;
  height: number;
  /** The frame that the film is a window of; without it the film is the whole frame. */
  frame?: FrameWindow | null;
  stages: Stage[];
  /** Seconds after which the run ends with what it has. */
  timeLimit?: number;
  /** Says before each stage of the frame with its media which blocks get no more samples; without it the kernel does. */
  judge?: Judge | null;
  /** After each stage: the film has new samples. */
  onStage?: (progress: Progress) => void;
  /** An earlier run of the same request, gone on with where it was left. */
  resume?: Resumed | null;
  /** Kept now and then, so that little is lost when everything ends. */
  checkpoint?: Checkpoint | null;
}

/** What a run had come to. */
export interface Resumed {
  /** The film's numbers. */
  data: Float32Array;
  /** How many stages each tile of the crop has taken, row by row. */
  taken: Uint16Array;
  /** What was counted until then. */
  counts: Counts;
}

/** What a run counts. */
export interface Counts {
  rays: number;
  lookups: number;
  invalid: number;
  seconds: number;
}

export interface Checkpoint {
  /** Seconds of work from one to the next. */
  every: number;
  /**
   * Takes what it keeps of the film, whose workers wait until then: every tile has all samples of as many stages as it has taken. What comes
   * back is not waited for by the render.
   */
  keep(film: Film, taken: Uint16Array, counts: Counts): void;
}

export interface Progress {
  /** Share of the run's sample work that is done. */
  share: number;
  seconds: number;
  /** By the speed of the later half of the work done so far; null before there is any. */
  secondsLeft: number | null;
  stage: number;
  stages: number;
  work: WorkSpent;
}

/** What all workers together spent on the frame with its media; of runs gone on with, since then. */
export interface WorkSpent {
  seconds: number;
  rays: number;
  /** Lookups of density, of the clear frame too: that has none. */
  lookups: number;
}

export interface RunResult {
  outcome: "done" | "cancelled" | "time";
  film: Film;
  seconds: number;
  rays: number;
  lookups: number;
  /** Samples dropped as not finite; 0 unless something is wrong. */
  invalid: number;
  work: WorkSpent;
}

interface Slot extends TileSlot {
  /** What its kernel has counted in the present run. */
  counted: Finished | null;
  finished: ((m: Finished) => void) | null;
  cleared: ((run: number) => void) | null;
}

export class RenderEngine {
  private memory: WebAssembly.Memory;
  private readonly slots: Slot[] = [];
  private geometry: CompiledGeometry | null = null;
  private written: { geometry: CompiledGeometry; plan: MemoryPlan } | null = null;
  /** Blocks of the tables now in memory that the kernels fill as they go. */
  private filled: ReadonlySet<string> = new Set();
  private run = 0;
  private current: Promise<unknown> = Promise.resolve();
  private stopping: (() => void) | null = null;
  private paused = false;
  /** Since when it is paused, and milliseconds of earlier pauses of the present run. */
  private pausedAt = 0;
  private idle = 0;
  private resumed: (() => void) | null = null;
  private failure: Error | null = null;
  private present: Film | null = null;

  private constructor(private readonly host: EngineHost) {
    // with plain worker memories this one only holds parameters, to be copied out
    this.memory = kernelMemory(SCENE, host.shared);
  }

  /** Starts the workers. @throws Error when one cannot start */
  static async create(host: EngineHost): Promise<RenderEngine> {
    const engine = new RenderEngine(host);
    const count = Math.max(1, Math.min(MAX_WORKERS, host.workers));
    await Promise.all(
      Array.from({ length: count }, (_, index) => {
        const port = host.spawn();
        const slot: Slot = { port, counted: null, finished: null, cleared: null, taken: null };
        engine.slots.push(slot);
        return new Promise<void>((ready, fail) => {
          port.listen(
            (m: FromWorker) => {
              if (m.kind === "ready") ready();
              else if (m.kind === "finished") slot.finished?.(m);
              else if (m.kind === "cleared") slot.cleared?.(m.run);
              else if (m.kind === "taken") slot.taken?.(m);
              else engine.fail(new Error(m.message), fail);
            },
            (error) => engine.fail(error, fail),
          );
          port.post({ kind: "init", wasm: host.wasm, memory: host.shared ? engine.memory : null, index, workers: count });
        });
      }),
    );
    return engine;
  }

  /** The film of the present or last run; its numbers change while the run goes on. */
  film(): Film | null {
    return this.present;
  }

  get workers(): number {
    return this.slots.length;
  }
  /** How many of the workers work from now on; the picture is the same. Without shared memory all do. */
  useWorkers(count: number): void {
    const next = Math.max(1, Math.min(this.slots.length, Math.round(count)));
    if (next === this.active) return;
    this.active = next;
    // those at work hand back what they have, and the stage is given out anew
    if (this.host.shared && !this.paused) {
      this.regrouping = true;
      Atomics.store(this.control(), CTL_PAUSE, 1);
    }
  }
  private active = Infinity;
  private regrouping = false;

  get shared(): boolean {
    return this.host.shared;
  }

  private fail(error: Error, reject: (e: Error) => void): void {
    this.failure = error;
    reject(error);
    this.stopping?.();
  }

  private throwFailure(): void {
    if (this.failure) throw this.failure;
  }

  /** Sets the geometry that later runs render. */
  setGeometry(geometry: CompiledGeometry): void {
    this.geometry = geometry;
  }

  /**
   * Ends the present run, if any, and starts another. Resolves when the new run is done, out of time,
   * or cancelled by cancel() or a later start().
   */
  async start(request: RunRequest): Promise<RunResult> {
    const run = this.announce();
    this.setPaused(false);
    const before = this.current;
    const result = before.then(() => this.execute(run, request));
    this.current = result.catch(() => undefined);
    return result;
  }

  /**
   * Ends the present run, if any, and opens one whose tiles are taken one by one by whoever asks: it ends when it is closed. Its film is
   * not emptied: what a tile has is what is put into it before. Shared memory only.
   */
  async open({ document, width, height }: Pick<RunRequest, "document" | "width" | "height">): Promise<TileRun> {
    const run = this.announce();
    this.setPaused(false);
    const before = this.current;
    let closed = (): void => undefined;
    this.current = new Promise<void>((done) => (closed = done));
    try {
      await before;
      this.throwFailure();
      if (!this.geometry) throw new Error("engine: no geometry set");
      if (!this.host.shared) throw new Error("engine: tiles are taken one by one in shared memory only");
      const film = this.prepare(run, document, this.geometry, { width, height, crop: cropOf(document, width, height), frame: null });
      this.present = film;
      for (const slot of this.slots) slot.port.post({ kind: "begin", run });
      const opened = tileRun({
        ...{ run, film, slots: this.slots },
        going: () => this.run === run && !this.failure,
        closed: () => {
          this.stopping = null;
          closed();
        },
      });
      this.stopping = () => {
        if (this.failure) opened.failed(this.failure);
      };
      return opened.run;
    } catch (error) {
      closed();
      throw error;
    }
  }

  /** Ends the present run; resolves once no worker touches the film any more. */
  async cancel(): Promise<void> {
    this.announce();
    this.setPaused(false);
    await this.current;
  }

  /**
   * Holds the present run after the tiles in hand (without shared memory: after the present stage); resume()
   * goes on. The result is the same as without.
   */
  pause(): void {
    this.setPaused(true);
  }
  resume(): void {
    this.setPaused(false);
  }

  /**
   * Tells which place of the frame is looked at (null: none): there samples come first. The finished picture is the same whatever it is;
   * without shared memory nothing changes.
   */
  attend(place: Place | null): void {
    this.attention = place;
  }
  private attention: Place | null = null;

  /** Ends the present run with what it has, as when its time is up. */
  endNow(): void {
    this.timeIsUp?.();
  }
  private timeIsUp: (() => void) | null = null;

  /** Share of the present run's sample work that is done, tiles in hand too; 1 where none runs. */
  share(): number {
    return this.sharing?.() ?? 1;
  }
  private sharing: (() => number) | null = null;

  /** What each worker is at just now: ACTIVITY_BYTES each, as the kernel notes them (layout/scratch.ts); null where nobody can look: without shared memory. */
  activity(): Int32Array | null {
    if (!this.host.shared) return null;
    const words = ACTIVITY_BYTES / 4;
    const out = new Int32Array(words * this.slots.length);
    for (let i = 0; i < this.slots.length; i++)
      out.set(new Int32Array(this.memory.buffer, SCRATCH + SCRATCH_LEAD + i * SCRATCH_STRIDE + SCRATCH_ACTIVITY, words), words * i);
    return out;
  }

  /** Ends all workers. */
  dispose(): void {
    this.announce();
    for (const slot of this.slots) slot.port.terminate();
  }

  private control(): Int32Array {
    return new Int32Array(this.memory.buffer, CONTROL, CONTROL_COUNT);
  }

  /** Takes a new run number, which makes every worker stop on its present one within a row of a tile. */
  private announce(): number {
    const run = ++this.run;
    Atomics.store(this.control(), CTL_RUN, run);
    if (!this.host.shared) for (const slot of this.slots) slot.port.post({ kind: "stop", run });
    this.stopping?.();
    return run;
  }

  private setPaused(paused: boolean): void {
    if (paused && !this.paused) this.pausedAt = performance.now();
    if (!paused && this.paused) this.idle += performance.now() - this.pausedAt;
    this.paused = paused;
    Atomics.store(this.control(), CTL_PAUSE, paused ? 1 : 0);
    if (!paused) {
      this.resumed?.();
      this.resumed = null;
    }
  }

  private async execute(run: number, request: RunRequest): Promise<RunResult> {
    const { width, height, stages } = request;
    // stages that sample all of the air need no film that keeps it apart
    const every = Math.max(1, ...stages.map(airEveryOf));
    const doc = every === 1 ? wholeAir(request.document) : request.document;
    if (AIR_EVERY[doc.render.airSize] !== every || (every > 1 && !this.host.shared)) throw new Error("engine: another film was asked for");
    const frame = request.frame ?? null;
    const crop = cropOf(doc, width, height, frame ?? undefined);
    this.throwFailure();
    if (!this.geometry) throw new Error("engine: no geometry set");
    const empty: Film = { ...emptyFilm(0, 0), width, height, crop, frame };
    if (run !== this.run) return { outcome: "cancelled", film: empty, seconds: 0, rays: 0, lookups: 0, invalid: 0, work: this.workSpent() };
    const started = performance.now();
    const film = this.prepare(run, doc, this.geometry, { width, height, crop, frame });
    if (this.host.shared) await this.clear(run, film);
    this.throwFailure();
    this.present = film;
    this.idle = 0;
    this.pausedAt = started;
    // a pause is not time that the picture takes
    const worked = (): number => (performance.now() - started - this.idle) / 1000;
    for (const slot of this.slots) {
      slot.counted = null;
      slot.port.post({ kind: "begin", run });
    }

    const { columns, tiles } = tilesOf(crop);
    const cost = stages.map(costOf);
    const total = cost.reduce((a, b) => a + b, 0);
    const left = new TimeLeft();
    let outcome: RunResult["outcome"] = "done";
    // how many stages each tile has taken
    const taken = new Uint16Array(tiles);
    const { resume, checkpoint } = request;
    const before = resume?.counts ?? { rays: 0, lookups: 0, invalid: 0, seconds: 0 };
    let totals = { rays: before.rays, lookups: before.lookups, invalid: before.invalid };
    if (resume) {
      if (!this.host.shared) throw new Error("engine: runs are gone on with in shared memory only");
      if (resume.data.length !== film.data.length || resume.taken.length !== tiles) throw new Error("engine: another film was kept");
      film.data.set(resume.data);
      taken.set(resume.taken);
    }
    /** Cost of the stages that all tiles have taken, of those that are yet to come as well. */
    const spentOn = (): number => {
      const upTo = [0, ...cost];
      for (let k = 1; k < upTo.length; k++) upTo[k]! += upTo[k - 1]!;
      return taken.reduce((sum, n) => sum + upTo[n]!, 0) / tiles;
    };
    const begunWith = spentOn();
    let spent = begunWith;
    const counts = (): Counts => ({ ...totals, seconds: before.seconds + worked() });
    let kept = worked();
    const due = (): boolean => checkpoint != null && worked() - kept >= checkpoint.every;
    const keep = (): void => {
      checkpoint?.keep(film, taken, counts());
      kept = worked();
    };
    let timer: ReturnType<typeof setTimeout> | undefined;
    let timeUp = false;
    this.timeIsUp = () => {
      timeUp = true;
      if (this.run === run) this.announceEnd();
    };
    if (request.timeLimit !== undefined) timer = setTimeout(this.timeIsUp, Math.min(LONGEST_TIMER, 1000 * request.timeLimit));
    try {
      for (const [i, stage] of stages.entries()) {
        const settled =
          request.judge && (stage.passes & (PASS_CLEAR | PASS_JOIN)) === 0 ? await this.judge(run, request.judge, film, stage) : null;
        const take = async (of: number, order: Uint32Array | null): Promise<boolean> => {
          const count = order?.length ?? tiles;
          const work: Work = { kind: "work", run, stage: stages[of]!, crop, tiles: count, columns, settled, order };
          Atomics.store(this.control(), CTL_NEXT, 0);
          let marked = 0;
          const sofar = spentOn();
          this.sharing = () =>
            total > 0 ? (sofar + (cost[of]! * Math.min(count, Atomics.load(this.control(), CTL_NEXT))) / tiles) / total : 1;
          /** What was taken up to now has its samples: all but tiles that workers hold, and they hold none. */
          const mark = (): void => {
            const next = Math.min(count, Atomics.load(this.control(), CTL_NEXT));
            for (; marked < next; marked++) taken[order ? order[marked]! : marked] = of + 1;
          };
          // a paused stage is posted again: the shared counter remembers how far it came
          do {
            if (checkpoint && (this.paused || due())) keep();
            await this.whileResumed();
            const rest =
              checkpoint && this.host.shared && checkpoint.every < Infinity
                ? this.restAfter(checkpoint.every - (worked() - kept), run)
                : null;
            const done = await this.sweep(work, film);
            rest?.();
            if (this.regrouping) {
              this.regrouping = false;
              if (!this.paused) Atomics.store(this.control(), CTL_PAUSE, 0);
            }
            if (done)
              totals = { rays: before.rays + done.rays, lookups: before.lookups + done.lookups, invalid: before.invalid + done.invalid };
            if (this.host.shared && this.run === run && !timeUp) mark();
          } while (this.host.shared && this.run === run && !timeUp && Atomics.load(this.control(), CTL_NEXT) < count);
          this.throwFailure();
          return !timeUp && this.run === run;
        };
        const judged = request.judge !== undefined && request.judge !== null;
        if (!(await this.stage(i, stages, { film, tiles, columns, taken, judged }, take))) {
          outcome = timeUp ? "time" : "cancelled";
          break;
        }
        spent = this.host.shared ? spentOn() : spent + cost[i]!;
        const seconds = worked();
        request.onStage?.({
          share: total > 0 ? spent / total : 1,
          seconds: before.seconds + seconds,
          secondsLeft: left.after(seconds, spent - begunWith, total - begunWith),
          stage: i + 1,
          stages: stages.length,
          work: this.workSpent(),
        });
      }
      const join = outcome === "time" ? stages.find(({ passes }) => passes & PASS_JOIN) : undefined;
      // it was left before the air of its last samples was joined
      if (join && this.host.shared && this.run === run) {
        Atomics.store(this.control(), CTL_RUN, run);
        Atomics.store(this.control(), CTL_NEXT, 0);
        await this.sweep({ kind: "work", run, stage: join, crop, tiles, columns, settled: null, order: null }, film);
      }
    } finally {
      clearTimeout(timer);
      this.timeIsUp = null;
      this.sharing = null;
    }
    return { outcome, film, ...counts(), work: this.workSpent() };
  }

  /** Of all workers since the run began, those that rest too. */
  private workSpent(): WorkSpent {
    const sum = (key: "medium" | "mediumRays" | "lookups"): number =>
      this.slots.reduce((all, { counted }) => all + (counted?.[key] ?? 0), 0);
    return { seconds: sum("medium") / 1000, rays: sum("mediumRays"), lookups: sum("lookups") };
  }

  /** Holds the workers after some seconds, unless that is taken back, so that a film can be kept. */
  private restAfter(seconds: number, run: number): () => void {
    const held = { by: false };
    const timer = setTimeout(
      () => {
        if (this.run !== run || this.paused) return;
        held.by = true;
        Atomics.store(this.control(), CTL_PAUSE, 1);
      },
      // longer ones than timers can be never come: the run is over by then
      Math.min(LONGEST_TIMER, Math.max(0, 1000 * seconds)),
    );
    return () => {
      clearTimeout(timer);
      if (held.by && !this.paused) Atomics.store(this.control(), CTL_PAUSE, 0);
    };
  }

  /**
   * One stage of every tile, those about the place that is looked at first, which then go ahead by some stages. Each tile takes its
   * stages in their order whatever the others do. @param take takes one stage of some tiles (null: all) @returns false where the run ended
   */
  private async stage(
    index: number,
    stages: readonly Stage[],
    { film, tiles, columns, taken, judged }: { film: Film; tiles: number; columns: number; taken: Uint16Array; judged: boolean },
    take: (of: number, order: Uint32Array | null) => Promise<boolean>,
  ): Promise<boolean> {
    if (!this.host.shared) return take(index, null);
    for (;;) {
      const place = this.attention;
      const { order, near } = place ? tilesAbout(film, tiles, columns, place) : { order: null, near: 0 };
      // a judge looks at pixels of other tiles: all of them have to be as far
      for (let of = index; order && !judged && of <= Math.min(index + AHEAD, stages.length - 1); of++) {
        if (!mayRunAhead(stages[of]!)) break;
        const first = order.subarray(0, near).filter((tile) => taken[tile] === of);
        if (first.length > 0 && !(await take(of, first))) return false;
        for (const tile of first) taken[tile] = of + 1;
      }
      const waiting = (order ?? Uint32Array.from({ length: tiles }, (_, i) => i)).filter((tile) => taken[tile] === index);
      if (waiting.length === 0) return true;
      const part = place ? waiting.subarray(0, Math.max(8 * this.workers, Math.ceil(tiles / PARTS))) : waiting;
      if (!(await take(index, part.length === tiles && !order ? null : part))) return false;
      for (const tile of part) taken[tile] = index + 1;
      if (part.length === waiting.length) return true;
    }
  }

  /** Stops the workers of the present run because its time is up. */
  private announceEnd(): void {
    Atomics.store(this.control(), CTL_RUN, -1);
    if (!this.host.shared) for (const slot of this.slots) slot.port.post({ kind: "stop", run: -1 });
    this.stopping?.();
    this.setPaused(false);
  }

  private async whileResumed(): Promise<void> {
    while (this.paused) await new Promise<void>((go) => (this.resumed = go));
  }

  /** What a run's judge says; null where the run ends meanwhile. */
  private async judge(run: number, judge: Judge, film: Film, stage: Stage): Promise<Uint32Array | null> {
    if (run !== this.run) return null;
    const ending = new AbortController();
    this.stopping = () => ending.abort();
    try {
      return await judge(film, stage, ending.signal);
    } catch (error) {
      if (!ending.signal.aborted) throw error;
      return null;
    } finally {
      this.stopping = null;
    }
  }

  /** One stage on all workers; resolves when all are idle. Null when it was stopped (plain memory). */
  private async sweep(work: Work, film: Film): Promise<{ rays: number; lookups: number; invalid: number } | null> {
    let stop!: () => void;
    const stopped = new Promise<null>((resolve) => (stop = () => resolve(null)));
    const all = Promise.all(
      this.slots.slice(0, this.host.shared ? this.active : undefined).map(
        (slot, index) =>
          new Promise<Finished>((resolve) => {
            slot.finished = (m) => {
              if (m.run !== work.run) return;
              slot.counted = m;
              if (m.film) this.merge(film, work, index, new Float32Array(m.film));
              resolve(m);
            };
            slot.port.post(work);
          }),
      ),
    );
    // workers over shared memory always answer, so wait for them: the film is theirs until they do
    if (this.host.shared) {
      this.stopping = () => {
        if (this.failure) stop();
      };
    } else this.stopping = stop;
    if (!this.host.shared && this.run !== work.run) stop();
    const finished = await Promise.race([all, stopped]);
    this.stopping = null;
    if (!finished) return null;
    // those that rest have counted too
    const sum = (key: "rays" | "lookups" | "invalid"): number => this.slots.reduce((a, { counted }) => a + (counted?.[key] ?? 0), 0);
    return { rays: sum("rays"), lookups: sum("lookups"), invalid: sum("invalid") };
  }

  /** Puts a plain-memory worker's tiles into the film. */
  private merge(film: Film, work: Work, index: number, tiles: Float32Array): void {
    let from = 0;
    forTiles(work, index, this.slots.length, (x, y, w, h) => {
      for (let row = y; row < y + h; row++) {
        film.data.set(tiles.subarray(from, from + w * film.stride), (row * film.width + x) * film.stride);
        from += w * film.stride;
      }
    });
  }

  /** Empties a film in shared memory, each worker a share: as large as it is, that is felt on the thread that others wait for. */
  private async clear(run: number, { data }: Film): Promise<void> {
    const share = 4 * Math.ceil(data.length / this.slots.length);
    const cleared = Promise.all(
      this.slots.map(
        (slot, i) =>
          new Promise<void>((resolve) => {
            slot.cleared = (of) => {
              if (of === run) resolve();
            };
            const from = Math.min(data.byteLength, i * share);
            const bytes = Math.min(share, data.byteLength - from);
            slot.port.post({ kind: "clear", run, at: data.byteOffset + from, bytes, end: data.byteOffset + data.byteLength });
          }),
      ),
    );
    // a worker that died does not answer
    const failed = new Promise<void>((resolve) => {
      this.stopping = () => {
        if (this.failure) resolve();
      };
    });
    await Promise.race([cleared, failed]);
    this.stopping = null;
  }

  /** Brings scene and parameters into the kernels' memory, and in plain memory an empty film; shared memory's is yet to be cleared. */
  private prepare(
    run: number,
    doc: SceneDocument,
    geometry: CompiledGeometry,
    place: Pick<Film, "width" | "height" | "crop" | "frame">,
  ): Film {
    const { width, height } = place;
    const frame = frameOfFilm(place);
    const plan = planMemory(geometry, width * height, doc);
    const { stride } = plan;
    const floats = width * height * stride;
    const rest = { stride, ...place, ...plan.extras };
    if (this.host.shared) {
      growMemory(this.memory, plan.end);
      if (this.written?.geometry !== geometry) writeGeometry(this.memory.buffer, geometry, plan);
      writeParameters(
        this.memory.buffer,
        doc,
        geometry,
        plan,
        width,
        height,
        this.written?.geometry === geometry ? this.filled : undefined,
        frame,
      );
      this.filled = plan.content?.tables.filledAt(plan.tables) ?? new Set();
      const data = new Float32Array(this.memory.buffer, plan.film, floats);
      this.written = { geometry, plan };
      return { data, ...rest };
    }
    if (this.written?.geometry !== geometry) {
      const scratch = new ArrayBuffer(plan.tables);
      writeGeometry(scratch, geometry, plan);
      for (const slot of this.slots) slot.port.post({ kind: "write", at: SCENE, bytes: scratch.slice(SCENE), end: plan.end });
      this.written = { geometry, plan };
    }
    writeParameters(this.memory.buffer, doc, geometry, plan, width, height, undefined, frame);
    const bytes = this.memory.buffer.slice(PARAMS, MEDIA + MAX_MEDIA * MEDIUM_WORDS * 8);
    const tables = new ArrayBuffer(plan.film - plan.tables);
    plan.content?.tables.write(tables, 0);
    for (const slot of this.slots) {
      slot.port.post({ kind: "write", at: PARAMS, bytes: bytes.slice(0), end: plan.end });
      slot.port.post({ kind: "write", at: plan.tables, bytes: tables.slice(0), end: plan.end });
      slot.port.post({ kind: "clear", run, at: plan.film, bytes: 4 * floats, end: plan.end });
    }
    return { data: new Float32Array(floats), ...rest };
  }
}
