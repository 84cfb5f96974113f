/** Which files of a sequence a time shows. */
import type { VolumeGrid } from "./air";

/** Number of the frame at a time (s) in a sequence of `count`, begun anew at its end or held there. */
export function frameAt(count: number, rate: number, loop: boolean, time: number): number {
  // a hair on, so that a time given as frames / rate meets its frame
  return within(count, loop, Math.floor(time * rate + 1e-6));
}

const within = (count: number, loop: boolean, frame: number): number =>
  loop ? ((frame % count) + count) % count : Math.max(0, Math.min(count - 1, frame));

export interface GridFrames {
  /** Assets before and after the time; `to` is null where one alone shows. */
  from: string;
  to: string | null;
  /** Share of the second. */
  share: number;
}

/** Steps between two frames that are told apart: a time in between is taken to the nearest of them. */
const STEPS = 64;

/** The files of a grid at a time (s). */
export function gridFrames(grid: VolumeGrid, time: number): GridFrames {
  const s = grid.sequence;
  if (!s) return { from: grid.asset, to: null, share: 0 };
  const n = s.frames.length;
  const from = frameAt(n, s.rate, s.loop, time);
  if (!s.between) return { from: s.frames[from]!, to: null, share: 0 };
  const at = time * s.rate + 1e-6;
  const share = Math.floor((at - Math.floor(at)) * STEPS) / STEPS;
  const to = within(n, s.loop, Math.floor(at) + 1);
  return share === 0 || to === from ? { from: s.frames[from]!, to: null, share: 0 } : { from: s.frames[from]!, to: s.frames[to]!, share };
}

/** Key of one channel of a grid as a time shows it: equal keys, equal voxels. */
export function gridKey(grid: VolumeGrid, channel: string, time: number): string {
  const { from, to, share } = gridFrames(grid, time);
  return to === null ? `${from} ${channel}` : `${from} ${channel} ${share} ${to}`;
}
