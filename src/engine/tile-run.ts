/** A run whose tiles are taken one by one, by whoever asks: how units of a frame are worked off beside each other. */
import type { Film } from "#core/film/film";
import type { TileTaken, WorkerPort } from "./protocol";
import type { Stage } from "./schedule";
import { tilesOf } from "./tiles";

export interface TileRun {
  /** Its numbers are those of all tiles that were put into it. */
  film: Film;
  /**
   * Takes stages of a tile, on the next worker that is free. @param settled blocks of it that get no more samples; 0 where the kernel judges
   * @throws Error where the run is ended meanwhile, or a worker fails
   */
  take(tile: number, stages: readonly Stage[], settled: number): Promise<TileTaken>;
  /** Ends it; resolves once no worker touches the film any more. */
  close(): Promise<void>;
}

/** A worker as this needs it: where it is asked, and what it is told through. */
export interface TileSlot {
  port: WorkerPort;
  taken: ((m: TileTaken) => void) | null;
}

/** What a run is of, and whether it still is the one that goes on. */
export interface TileRunOf {
  run: number;
  film: Film;
  slots: readonly TileSlot[];
  going(): boolean;
  /** Called once it is closed. */
  closed(): void;
}

/** @returns the run, and what ends all that is under way where a worker has failed */
export function tileRun({ run, film, slots, going, closed }: TileRunOf): { run: TileRun; failed: (error: Error) => void } {
  const { columns } = tilesOf(film.crop);
  const free = [...slots];
  const waiting: (() => void)[] = [];
  const failing = new Set<(error: Error) => void>();
  const ended = (): Error => new Error("engine: the run was ended");
  let working = 0,
    closing = false;
  let idle = (): void => undefined;

  const asked = (slot: TileSlot, tile: number, stages: readonly Stage[], settled: number): Promise<TileTaken> =>
    new Promise<TileTaken>((done, fail) => {
      failing.add(fail);
      slot.taken = (m) => {
        if (m.run !== run) return;
        failing.delete(fail);
        // one that was left in its middle says so too
        if (going()) done(m);
        else fail(ended());
      };
      slot.port.post({ kind: "tile", run, stages, crop: film.crop, columns, tile, settled });
    });

  const take = async (tile: number, stages: readonly Stage[], settled: number): Promise<TileTaken> => {
    while (free.length === 0 && !closing) await new Promise<void>((go) => waiting.push(go));
    const slot = closing || !going() ? undefined : free.shift();
    if (!slot) throw ended();
    working++;
    try {
      return await asked(slot, tile, stages, settled);
    } finally {
      free.push(slot);
      working--;
      waiting.shift()?.();
      if (working === 0) idle();
    }
  };

  const close = async (): Promise<void> => {
    closing = true;
    for (const go of waiting.splice(0)) go();
    if (working > 0) await new Promise<void>((done) => (idle = done));
    closed();
  };

  return {
    run: { film, take, close },
    failed: (error) => {
      for (const fail of failing) fail(error);
      failing.clear();
    },
  };
}
