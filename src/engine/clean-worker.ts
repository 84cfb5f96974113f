/** The clean-up's side of a worker: does one piece of work at a time. */
import { Cleaner } from "#core/clean/cleaner";
import { expand } from "#core/clean/expand";
import { joinCleaned } from "#core/clean/joined";
import { giveBackMissed } from "#core/clean/missed";
import { place, type CleanDone, type CleanWork, type Patch } from "./clean-protocol";

/** Handles messages to one worker. @param post sends to the pool */
export function cleanWorkerMain(post: (m: CleanDone, transfer: ArrayBuffer[]) => void): (work: CleanWork) => void {
  let cleaner: Cleaner | null = null;
  const done = ({ id, into }: CleanWork, patch: Patch): void => {
    if (into) {
      place(into, patch);
      post({ kind: "cleaned", id, patch: null }, []);
    } else
      post(
        { kind: "cleaned", id, patch },
        [patch.light, patch.air, ...patch.groups].flatMap((v) => (v ? [v.buffer as ArrayBuffer] : [])),
      );
  };
  return (work) => {
    try {
      if (work.kind === "missed") {
        if (work.into) giveBackMissed(work.side, work.pixels, work.into.light, work.groups, work.into.groups);
        return post({ kind: "cleaned", id: work.id, patch: null }, []);
      }
      if (work.kind === "join") {
        if (work.into) joinCleaned(work.pixels, work.every, work.from, [work.into.light, ...work.into.groups], work.area);
        return post({ kind: "cleaned", id: work.id, patch: null }, []);
      }
      cleaner ??= new Cleaner();
      if (work.kind === "finish")
        return done(work, { ...cleaner.finish(work.side, work.pixels, work.area, work.strengths, work.groups), air: null });
      const { every, area } = work;
      const { light, air } = cleaner.live(work.side, work.air, work.pixels, area, every, work.strengths, work.gains);
      if (every === 1) return done(work, { light, air, groups: [] });
      const [x0, y0, x1, y1] = work.pixels.bounds;
      const whole = (v: Float32Array): Float32Array => expand(v, every, x1 - x0, y1 - y0);
      done(work, { light: whole(light), air: air && whole(air), groups: [] });
    } catch (error) {
      // a memory that grew half-way is not used again
      cleaner = null;
      post({ kind: "failed", id: work.id, message: error instanceof Error ? error.message : String(error) }, []);
    }
  };
}
