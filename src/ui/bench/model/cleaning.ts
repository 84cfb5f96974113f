/**
 * Keeps a cleaned picture beside the live film: quickly while few samples are there, with the better filter once there are more. One
 * piece of work at a time; what comes meanwhile is cleaned after it.
 */
import type { Strengths } from "#core/clean/cleaner";
import { balances, type Balance } from "#core/document/balance";
import type { Cleaned } from "#core/film/cleaned";
import type { Film } from "#core/film/film";
import type { CleanPool } from "#engine/clean-pool";

/** What the live picture asks of a clean-up. */
export type LiveCleaner = Pick<CleanPool, "live" | "finish" | "dispose">;

/** A moment of the live picture. */
export interface Moment {
  film: Film;
  /** Which run it belongs to; another number begins anew. */
  run: number;
  look: "air" | "clear";
  /** Pixels from one that has samples to the next, across and down. */
  every: number;
  /** Samples a pixel, mean. */
  samples: number;
  /** Whether no more will come. */
  done: boolean;
  strengths: Strengths;
  /** Balance of its light groups; where it changes anything, they are cleaned apart. */
  balance: Balance;
}

/** Samples from which the better filter is worth its time, and by which share there must be more before it runs again. */
const WORTH = 24;
const MORE = 1.5;

export class Cleaning {
  private cleaned: Cleaned | null = null;
  private frame: Film["crop"] | null = null;
  private busy = false;
  private waiting: Moment | null = null;
  private finished: { run: number; look: string; samples: number; strengths: string; lights: boolean } | null = null;
  private ending: AbortController | null = null;

  constructor(
    private readonly cleaner: LiveCleaner,
    private readonly tell: {
      /** Another cleaned picture is there. */
      changed(): void;
      /** The run that the renderer is at: what was read from the film of one before may be of both. */
      run(): number;
      /** Work is under way, or all that was asked for is done. */
      busy(on: boolean): void;
      failed(error: Error): void;
    },
  ) {}

  /** The film with what is cleaned of it; as it is where that belongs to another frame, or nothing is yet. */
  shown(film: Film): Film {
    return this.cleaned && this.frame?.every((v, k) => v === film.crop[k]) ? { ...film, cleaned: this.cleaned } : film;
  }

  /** There is more to clean. */
  ask(moment: Moment): void {
    this.waiting = moment;
    // what is under way for an earlier document is of no use any more
    if (this.ending && this.finished && this.finished.run !== moment.run) this.ending.abort();
    if (!this.busy) void this.work();
  }

  /** Forgets what is cleaned. */
  forget(): void {
    this.cleaned = null;
    this.finished = null;
    this.waiting = null;
    this.ending?.abort();
  }

  dispose(): void {
    this.forget();
    this.cleaner.dispose();
  }

  private async work(): Promise<void> {
    this.busy = true;
    this.tell.busy(true);
    try {
      for (let m = this.take(); m; m = this.take()) {
        const cleaned = await this.clean(m);
        if (!cleaned || m.run !== this.tell.run()) continue;
        // sides that are not looked at now stay as they were, where they are of the same run
        this.cleaned =
          m.look === "clear" ? { ...(this.cleaned ?? cleaned), clear: cleaned.clear } : { ...cleaned, clear: this.cleaned?.clear ?? null };
        this.frame = m.film.crop;
        this.tell.changed();
      }
    } catch (error) {
      this.tell.failed(error as Error);
    } finally {
      this.busy = false;
      this.tell.busy(false);
    }
  }

  private take(): Moment | null {
    const m = this.waiting;
    this.waiting = null;
    return m;
  }

  /** Null where the last one is still good enough, or the work was ended. */
  private async clean(m: Moment): Promise<Cleaned | null> {
    if (m.samples < WORTH && !m.done) return this.cleaner.live(m.film, m.look, m.every, m.strengths, m.balance);
    const lights = balances(m.balance, m.film.lights);
    const strengths = JSON.stringify(m.strengths);
    const { finished } = this;
    const same = finished?.run === m.run && finished.look === m.look && finished.strengths === strengths && (finished.lights || !lights);
    if (same && m.samples < (m.done ? 1 : MORE) * finished.samples + (m.done ? 1e-6 : 0)) return null;
    this.finished = { run: m.run, look: m.look, samples: m.samples, strengths, lights };
    const ending = new AbortController();
    this.ending = ending;
    try {
      return await this.cleaner.finish(m.film, {
        sides: m.look === "clear" ? ["clear"] : ["air", "surfaces"],
        strengths: m.strengths,
        lights,
        signal: ending.signal,
      });
    } catch (error) {
      if (ending.signal.aborted) return null;
      throw error;
    } finally {
      this.ending = null;
    }
  }
}
