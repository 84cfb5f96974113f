/** One frame of a final: from document to film, kept on disk while it is rendered and gone on with where it was left. */
import { availableParallelism } from "node:os";
import type { SceneDocument } from "#core/document/schema";
import { InputError } from "#core/errors";
import { measureFilm, type Film } from "#core/film/film";
import type { RenderFacts } from "#core/formats/picture";
import type { CompiledGeometry, Resources } from "#core/scene/compiled";
import { measureStepBias, type StepBias } from "#engine/bias";
import type { RunRequest, RunResult } from "#engine/engine";
import { judgeOf } from "#engine/settled";
import { Checkpoint } from "./checkpoint";
import { cleanedFilm } from "./clean";
import { planFrame, renderedDocument, type FrameWork } from "./plan";
import { ownRunner, type Runner } from "./runner";
import { Workshop } from "./workshop";

/** Seconds of work that are lost at most, where the environment does not say otherwise. */
const CHECKPOINT_SECONDS = 30;

/** Seconds of work between what is kept. @throws InputError */
export function checkpointSeconds(): number {
  const text = process.env.FUMARIUM_CHECKPOINT_SECONDS;
  if (text === undefined || text === "") return CHECKPOINT_SECONDS;
  const seconds = Number(text);
  if (!(seconds > 0 && seconds < 1e6)) throw new InputError(`FUMARIUM_CHECKPOINT_SECONDS ${text}: must be a number of seconds above 0`);
  return seconds;
}

export interface FrameWays {
  resources(doc: SceneDocument): Promise<Resources>;
  /** Where the film is kept meanwhile, and how often (s); null: nowhere. */
  checkpoint: { path: string; every: number } | null;
  /** Told once where what is rendered cannot be kept any more; the render goes on. */
  unkept?: (error: Error) => void;
  /** What is done besides rendering, in words. */
  says?: (line: string) => void;
  /** Share of the frame's samples that is done, seconds of work, and seconds that are left. */
  progress?: (share: number, seconds: number, left: number | null) => void;
  /** The film as it grows: after stages, and where it is kept. */
  grows?: (film: Film) => void;
}

export interface FrameResult {
  outcome: "done" | "time";
  film: Film;
  facts: RenderFacts & ReturnType<typeof measureFilm>;
  bias: StepBias | null;
  rays: number;
  /** Samples that were not finite and are left out. */
  invalid: number;
  seconds: number;
  /** Seconds of its clean-up, past those; 0 where it is not cleaned. */
  cleanSeconds: number;
  sceneSeconds: number;
  /** Processor seconds of all of it, and of its clean-up. */
  work: number;
  cleanWork: number;
  geometry: Pick<CompiledGeometry, "shownTriangles" | "triangleCount">;
  /** Share of the samples that an earlier run had kept. */
  resumed: number;
  /** Lets go of what was kept: it is needed no more once the picture is written, or stays. */
  release(written: boolean): Promise<void>;
}

/** Processor seconds of this process until now. */
export function processorSeconds(): number {
  const { user, system } = process.cpuUsage();
  return (user + system) / 1e6;
}

/** The render was ended before it was done; what was kept stays. */
export class Ended extends Error {}

export class FrameRenderer {
  private kept: (() => void) | null = null;
  private running = false;
  private file: Checkpoint | null = null;
  private ending = false;
  private readonly runner: Runner;

  /** @param runner takes the samples: this machine where it is not said */
  constructor(
    private readonly workshop: Workshop,
    runner?: Runner,
  ) {
    this.runner = runner ?? ownRunner(workshop);
  }

  /** One on this machine, with a workshop of its own. @param buildDirectory what the build made @throws Error where a worker cannot start */
  static async create(buildDirectory: string, threads = availableParallelism()): Promise<FrameRenderer> {
    return new FrameRenderer(await Workshop.create(buildDirectory, threads));
  }

  get workers(): number {
    return this.workshop.engine.workers;
  }

  /** Share of the present frame's samples that is done. */
  share(): number {
    return this.runner.share();
  }

  /** Ends its workshop too. */
  dispose(): void {
    this.workshop.dispose();
  }

  /** Holds the render. @returns once what it has come to is kept, where it is kept anywhere */
  async hold(): Promise<void> {
    if (!this.running) return;
    const kept = new Promise<void>((resolve) => (this.kept = resolve));
    this.runner.pause();
    await kept;
    await this.file?.settled();
  }

  /** How many of its threads work. */
  useWorkers(count: number): void {
    this.runner.useWorkers(count);
  }

  /** Ends the render with what it has: its frame is as good as it is by now. @returns whether there was one */
  endNow(): boolean {
    if (this.running) this.runner.endNow();
    return this.running;
  }

  /** Ends the render: it throws Ended. */
  async end(): Promise<void> {
    this.ending = true;
    this.kept?.();
    await this.runner.cancel();
  }

  /** @throws Ended where it is ended meanwhile; InputError; the file system's errors */
  async render(work: FrameWork, ways: FrameWays): Promise<FrameResult> {
    this.ending = false;
    const { passes, strengths } = work;
    const doc = renderedDocument(work);
    const begun = performance.now();
    const before = processorSeconds();
    const geometry = await this.workshop.geometryOf(doc, ways.resources, ways.says);
    const sceneSeconds = (performance.now() - begun) / 1000;
    const [width, height] = doc.film.size;
    const plan = planFrame(work, geometry, this.workshop.kernel);
    const { stages, identity } = plan;
    const opened = ways.checkpoint ? await Checkpoint.open(ways.checkpoint.path, identity) : null;
    const file = opened?.checkpoint ?? null,
      kept = opened?.kept ?? null;
    this.file = file;
    if (file) file.failed = (error) => ways.unkept?.(error);
    const judged = { ...doc, film: { ...doc.film, cleanUp: strengths ?? doc.film.cleanUp } };
    let left: number | null = null;
    let resumed = 0;
    let result: RunResult;
    let bias: StepBias | null = null;
    const since = performance.now();
    const ticking = setInterval(() => {
      // before that a trial may run, whose share is not the frame's
      if (!this.running) return;
      const seconds = this.runner.seconds() ?? (kept?.resumed.counts.seconds ?? 0) + (performance.now() - since) / 1000;
      ways.progress?.(this.runner.share(), seconds, left);
    }, 1000);
    try {
      bias = await this.workshop.alone(geometry, (engine) => measureStepBias(engine, doc));
      if (bias) ways.says?.(biasText(bias));
      if (this.ending) throw new Ended("the render was ended");
      this.running = true;
      if (kept) resumed = kept.resumed.taken.reduce((a, n) => a + n, 0) / (kept.resumed.taken.length * stages.length);
      const request: RunRequest = {
        document: doc,
        width,
        height,
        stages,
        judge: judgeOf(
          judged,
          () => this.workshop.cleaner(),
          kept?.judged ?? null,
          async (said) => file?.judge(said),
        ),
        ...(work.timeLimit !== undefined
          ? { timeLimit: Math.max(0, work.timeLimit - (bias?.seconds ?? 0) - (kept?.resumed.counts.seconds ?? 0)) }
          : {}),
        resume: kept?.resumed ?? null,
        checkpoint: {
          every: ways.checkpoint?.every ?? Infinity,
          keep: (film, taken, counts) => {
            file?.keep(film, taken, counts, this.runner.eager || this.kept !== null);
            ways.grows?.(film);
            this.kept?.();
            this.kept = null;
          },
        },
        onStage: (p) => {
          left = p.secondsLeft;
          ways.progress?.(p.share, p.seconds, left);
          const film = this.runner.film();
          if (film) ways.grows?.(film);
        },
      };
      result = await this.runner.start(request, {
        ...{ geometry, plan, work },
        safe: () => file?.safe() ?? Promise.resolve(),
        forget: (tiles) => file?.forget(tiles),
      });
      await file?.settled();
      if (result.outcome === "cancelled") throw new Ended("the render was ended");
    } catch (error) {
      await file?.close().catch(() => undefined);
      throw this.ending && !(error instanceof Ended) ? new Ended("the render was ended") : error;
    } finally {
      clearInterval(ticking);
      this.running = false;
      this.file = null;
      this.kept?.();
      this.kept = null;
    }
    const rendered = performance.now();
    const beforeClean = processorSeconds();
    const film = strengths
      ? await cleanedFilm(this.workshop.cleaner(), result.film, passes, strengths, ways.says).catch(async (error: unknown) => {
          await file?.close().catch(() => undefined);
          throw error;
        })
      : result.film;
    const cleanSeconds = strengths ? (performance.now() - rendered) / 1000 : 0;
    const facts = {
      ...measureFilm(film),
      seconds: result.seconds,
      ...(strengths ? { cleanSeconds } : {}),
      seed: doc.render.seed,
      ...(bias ? { stepBias: bias.relative, stepBiasError: bias.error } : {}),
    };
    const { outcome, rays, invalid, seconds } = result;
    return {
      outcome: outcome === "time" ? "time" : "done",
      ...{ film, facts, bias, rays, invalid, seconds, cleanSeconds, sceneSeconds, geometry, resumed },
      work: processorSeconds() - before + this.runner.elsewhere(),
      cleanWork: strengths ? processorSeconds() - beforeClean : 0,
      release: async (written) => (written ? file?.remove() : file?.close()),
    };
  }
}

const percent = (share: number): string => (100 * share).toFixed(2);
const biasText = (bias: StepBias): string =>
  `steps make the picture ${percent(Math.abs(bias.relative))} % ${bias.relative < 0 ? "darker" : "brighter"} than unbiased tracking (±${percent(2 * bias.error)} %), by trial on ${bias.pixels} pixels`;
