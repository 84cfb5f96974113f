/** What takes the samples of a frame: this machine's engine, or many machines. */
import type { Film } from "#core/film/film";
import type { CompiledGeometry } from "#core/scene/compiled";
import type { RunRequest, RunResult } from "#engine/engine";
import type { FramePlan, FrameWork } from "./plan";
import type { Workshop } from "./workshop";

/** A frame that is run, besides the run itself. */
export interface RunOf {
  geometry: CompiledGeometry;
  plan: FramePlan;
  work: FrameWork;
  /** Resolves once what was given to be kept is on disk. @throws the disk's error where it is not */
  safe(): Promise<void>;
  /** What is kept of tiles is wrong. */
  forget(tiles: readonly number[]): void;
}

export interface Runner {
  /** Whether all that it gives to be kept is written, however busy the disk is: others wait for that. */
  readonly eager: boolean;
  start(request: RunRequest, of: RunOf): Promise<RunResult>;
  /** Holds the run; what it has come to is kept. */
  pause(): void;
  endNow(): void;
  cancel(): Promise<void>;
  /** Share of the run's samples that is done. */
  share(): number;
  useWorkers(count: number): void;
  /** The film of the present run as it is by now. */
  film(): Film | null;
  /** Seconds of work on the present run, those of earlier parts too; null: it has all of this machine's time. */
  seconds(): number | null;
  /** Seconds of processors that other machines spent on the last run; 0 where it was this one's. */
  elsewhere(): number;
}

/** This machine's engine. */
export function ownRunner({ engine }: Workshop): Runner {
  return {
    eager: false,
    start: (request, { geometry }) => {
      engine.setGeometry(geometry);
      return engine.start(request);
    },
    pause: () => engine.pause(),
    endNow: () => engine.endNow(),
    cancel: () => engine.cancel(),
    share: () => engine.share(),
    useWorkers: (count) => engine.useWorkers(count),
    film: () => engine.film(),
    seconds: () => null,
    elsewhere: () => 0,
  };
}
