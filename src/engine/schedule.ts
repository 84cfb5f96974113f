/** What a run does and in which order: stages of sample ranges over the whole crop. */
import { PASS_AIR, PASS_CLEAR, PASS_SURFACES } from "#core/layout/layout";

/** One sweep over the crop. Stages follow each other strictly, which keeps every pixel's sums in order. */
export interface Stage {
  /** Pixels whose column and row in the crop are multiples of this. */
  stride: number;
  /** … but not of this (0: leave none out), because an earlier stage did them. */
  done: number;
  first: number;
  end: number;
  passes: number;
}

export const MEDIUM_PASSES = PASS_AIR | PASS_SURFACES;
/** Tiles are squares of this side. */
export const TILE = 32;

function coarseToFine(passes: number, sample: number): Stage[] {
  return [8, 4, 2, 1].map((stride, i) => ({ stride, done: i ? stride * 2 : 0, first: sample, end: sample + 1, passes }));
}

/** Sample blocks that double up to `most` samples each. */
function blocks(first: number, end: number, max: number): [number, number][] {
  const out: [number, number][] = [];
  let size = 1;
  for (let s = first; s < end; s += size) {
    size = Math.min(max, Math.max(1, s));
    out.push([s, Math.min(end, s + size)]);
  }
  return out;
}

/**
 * For a live picture: one coarse-to-fine sweep of what is looked at, then of the other, then both in
 * turn. @param look which of the two pictures is on screen
 */
export function liveSchedule(samples: number, look: "air" | "clear"): Stage[] {
  const [a, b] = look === "air" ? [MEDIUM_PASSES, PASS_CLEAR] : [PASS_CLEAR, MEDIUM_PASSES];
  const stages = coarseToFine(a, 0);
  let other = false;
  for (const [first, end] of blocks(1, samples, 8)) {
    stages.push({ stride: 1, done: 0, first, end, passes: a });
    // the other picture starts once this one has settled a little, and stays at half its samples
    if (end >= 4 || end === samples) {
      if (!other) stages.push({ stride: 1, done: 0, first: 0, end: Math.max(1, end >> 1), passes: b });
      else stages.push({ stride: 1, done: 0, first: first >> 1, end: Math.max((first >> 1) + 1, end >> 1), passes: b });
      other = true;
    }
  }
  if (!other) stages.push({ stride: 1, done: 0, first: 0, end: 1, passes: b });
  return stages.filter((s) => s.end > s.first);
}

/** For a finished picture: blocks of samples of the wanted passes. */
export function finalSchedule(first: number, end: number, passes: number): Stage[] {
  const stages: Stage[] = [];
  const medium = passes & MEDIUM_PASSES;
  for (const [a, b] of blocks(first, end, 16)) {
    if (medium) stages.push({ stride: 1, done: 0, first: a, end: b, passes: medium });
    if (passes & PASS_CLEAR) stages.push({ stride: 1, done: 0, first: a, end: b, passes: PASS_CLEAR });
  }
  return stages;
}
