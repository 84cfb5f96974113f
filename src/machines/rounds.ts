/**
 * Rounds of a frame: stages that a tile can take by itself, whatever the others do. Between two of them all tiles stand still, for a judge
 * of noise that looks at the whole picture, or for air that is joined over the edges of tiles. Within one, tiles may stop on their way, so
 * that a first look is soon there.
 */
import { MORE } from "#engine/settled";
import type { Stage } from "#engine/schedule";
import { PASS_CLEAR, PASS_JOIN } from "#core/layout/layout";

export interface Round {
  /** Stages [from, to). Those that join air are left out of it. */
  from: number;
  to: number;
  /** Up to where units go, one after the other; the last is `to`. */
  stops: number[];
  /** The stage by which the air of all tiles is joined after it; null for none. */
  join: number | null;
}

export interface RoundsOf {
  /** Samples before which a judge of the cleaned picture says nothing; null where there is no such judge. */
  judgedFrom: number | null;
  /** Whether the kernel leaves out blocks by their noise: then each joint of the air counts. */
  adaptive: boolean;
  /** Whether the frame may be ended before it is done, by a clock. */
  limited: boolean;
  /** Whether a first look is worth what it sends to and fro. */
  looks: boolean;
}

/** Samples of a first look, and how many times as many there must be in all for one. */
const LOOK = 16;
const WORTH = 4;

/** @returns rounds that have all of the stages */
export function roundsOf(stages: readonly Stage[], { judgedFrom, adaptive, limited, looks }: RoundsOf): Round[] {
  const first = stages[0]?.first ?? 0,
    samples = (stages.at(-1)?.end ?? 0) - first;
  const begins = new Set<number>(),
    stops = new Set<number>();
  const joins = new Map<number, number>();
  let judged: number | null = null;
  let look = looks || limited ? LOOK : Infinity;
  let last: number | null = null;
  stages.forEach((stage, i) => {
    if (stage.passes & PASS_JOIN) {
      last = i;
      if (adaptive) {
        joins.set(i + 1, i);
        begins.add(i + 1);
      }
      return;
    }
    if (stage.passes & PASS_CLEAR) return;
    const taken = stage.first - first;
    if (taken >= look && samples >= WORTH * look && stage.first !== stages[i - 1]?.first) {
      stops.add(i);
      look = limited ? 2 * taken : Infinity;
    }
    if (judgedFrom !== null && stage.first >= judgedFrom && (judged === null || (stage.first >= MORE * judged && stage.first !== judged))) {
      judged = stage.first;
      begins.add(i);
    }
  });
  const bounds = [...new Set([0, ...begins, stages.length])].sort((a, b) => a - b);
  const rounds = bounds.slice(1).map((end, i): Round => {
    const from = bounds[i]!;
    const join = joins.get(end) ?? null;
    const to = join ?? end;
    return { from, to, join, stops: [...[...stops].filter((s) => s > from && s < to), to] };
  });
  // without a judge of noise only the last joint is seen: what each pixel's air was before is not read again
  if (!adaptive && last !== null) rounds.at(-1)!.join = last;
  return rounds;
}

/** Stages that a tile takes by itself. */
export const unjoined = (stages: readonly Stage[]): Stage[] => stages.filter((s) => !(s.passes & PASS_JOIN));
