/** What a run does and in which order: stages of sample ranges over the whole crop. */
import { AIR_EVERY_SHIFT, PASS_AIR, PASS_CLEAR, PASS_JOIN, PASS_SURFACES } from "#core/layout/layout";

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

/** Every how many pixels each way a stage's frame has air sampled; 1: all of them. */
export const airEveryOf = ({ passes }: Pick<Stage, "passes">): number => Math.max(1, passes >> AIR_EVERY_SHIFT);

/** Stages of a frame with its media: the air at every few pixels, the surfaces of the others, and the air joined to them. */
function split(passes: number, every: number, stages: readonly Stage[]): Stage[] {
  if (every === 1 || (passes & MEDIUM_PASSES) !== MEDIUM_PASSES) return [...stages];
  const sampled = passes | (every << AIR_EVERY_SHIFT);
  const between = sampled & ~PASS_AIR;
  const last = stages.at(-1)!;
  return [
    ...stages.flatMap((stage): Stage[] => {
      if (stage.stride >= every) return [{ ...stage, passes: sampled }];
      // a sweep has taken those that are sampled before
      if (stage.done > 0) return [{ ...stage, passes: between }];
      return [
        { ...stage, stride: every, passes: sampled },
        { ...stage, done: every, passes: between },
      ];
    }),
    { stride: 1, done: 0, first: last.first, end: last.end, passes: PASS_JOIN | (every << AIR_EVERY_SHIFT) },
  ];
}

/** How much a stage costs against a sample of every pixel, about. */
export function costOf({ stride, done, first, end, passes }: Stage): number {
  // joining a pixel takes next to nothing beside a sample of it
  if (passes & PASS_JOIN) return 0.01;
  const pixels = (1 - (done ? (stride / done) ** 2 : 0)) / (stride * stride);
  return (end - first) * pixels;
}

function coarseToFine(passes: number, every: number, sample: number): Stage[] {
  const sweep = [8, 4, 2, 1].map((stride, i) => ({ stride, done: i ? stride * 2 : 0, first: sample, end: sample + 1, passes }));
  return split(passes, every, sweep);
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
 * turn. @param look which of the two pictures is on screen @param every the air is sampled at every so many pixels each way
 */
export function liveSchedule(samples: number, look: "air" | "clear", every = 1): Stage[] {
  const [a, b] = look === "air" ? [MEDIUM_PASSES, PASS_CLEAR] : [PASS_CLEAR, MEDIUM_PASSES];
  const block = (passes: number, first: number, end: number): Stage[] =>
    split(passes, every, [{ stride: 1, done: 0, first, end: Math.max(first + 1, end), passes }]);
  const stages = coarseToFine(a, every, 0);
  let other = false;
  for (const [first, end] of blocks(1, samples, 8)) {
    stages.push(...block(a, first, end));
    // the other picture starts once this one has settled a little, and stays at half its samples
    if (end >= 4 || end === samples) {
      stages.push(...block(b, other ? first >> 1 : 0, end >> 1));
      other = true;
    }
  }
  if (!other) stages.push(...block(b, 0, 1));
  return stages.filter((s) => s.end > s.first);
}

/** For a finished picture: blocks of samples of the wanted passes. @param every the air is sampled at every so many pixels each way */
export function finalSchedule(first: number, end: number, passes: number, every = 1): Stage[] {
  const stages: Stage[] = [];
  const medium = passes & MEDIUM_PASSES;
  for (const [a, b] of blocks(first, end, 16)) {
    const block = { stride: 1, done: 0, first: a, end: b };
    if (medium) stages.push(...split(medium, every, [{ ...block, passes: medium }]));
    if (passes & PASS_CLEAR) stages.push({ ...block, passes: PASS_CLEAR });
  }
  return stages;
}
