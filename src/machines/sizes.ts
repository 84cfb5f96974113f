/** How large units are: long enough that handing them out costs next to nothing, and shorter towards the end, so that all are done at once. */

/** Units that a machine has in hand beyond one for each thread, so that none waits for the next. */
export const AHEAD = 1;
/** Seconds of a thread that a unit takes, where many are left; the same for more threads than one server hands units to at that pace. */
const LONG = 6;
const THREADS = 100;
/** Seconds of the shortest. */
const SHORT = 0.3;
/** Parts that what is left is cut into for each thread. */
const PARTS = 3;

/** @param left thread seconds that are not handed out yet @param threads of all machines @returns thread seconds of the next unit */
export function unitSeconds(left: number, threads: number): number {
  const long = Math.max(LONG, threads / THREADS);
  return Math.max(SHORT, Math.min(long, left / (PARTS * Math.max(1, threads))));
}
