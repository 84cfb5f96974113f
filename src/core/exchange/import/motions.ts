/** Motions of lenses and lights from where a file has them by time: as few keys as tell it. */
import { MOST_KEYS, rollBetween, wayRound, type Motion } from "../../document/motion";

/** A thing at a time: a place, and where it has them a place it is aimed at and a roll (degrees). */
export interface Stand {
  time: number;
  position: readonly number[];
  target?: readonly number[];
  roll?: number;
}

/** How many lenses and lights of a set move by time, and by which animation. */
export interface Moving {
  lenses: number;
  lights: number;
  animation: string;
}

/** What moves of a set, in words. */
export function movingText({ lenses, lights, animation }: Moving): string {
  const counts = [lenses && `${lenses} ${lenses === 1 ? "lens" : "lenses"}`, lights && `${lights} ${lights === 1 ? "light" : "lights"}`];
  return `${counts.filter(Boolean).join(" and ")} ${lenses + lights === 1 ? "moves" : "move"} by time, as ${animation} has it.`;
}

/** What straight ways may be off by: share of the way in all, radians of a direction, degrees of a roll. */
const PLACE = 1e-4,
  DIRECTION = 5e-5,
  ROLL = 5e-3;

const less = (a: readonly number[], b: readonly number[]): number[] => a.map((v, k) => v - b[k]!);
const length = (v: readonly number[]): number => Math.hypot(...v);
const between = (a: readonly number[], b: readonly number[], s: number): number[] => a.map((v, k) => v + s * (b[k]! - v));

/** Radians between two directions; 0 where one has no length. */
function angle(a: readonly number[], b: readonly number[]): number {
  const n = length(a) * length(b);
  if (!(n > 0)) return 0;
  // chord of the unit vectors: exact where they are close
  return 2 * Math.asin(Math.min(1, length(less(a.map((v) => v / length(a)), b.map((v) => v / length(b)))) / 2)); // prettier-ignore
}

/** The motion through where a thing stands, in order; null where it stays where it is. @param from seconds of the file that are none of the document @param most keys that it may have */
export function motionThrough(stands: readonly Stand[], from: number, most = MOST_KEYS): Motion | null {
  if (stands.length === 0) return null;
  const first = stands[0]!;
  const reach = Math.max(...stands.map((s) => length(less(s.position, first.position))));
  /** How far off a stand is from the straight way between two, in multiples of what is let pass. */
  const off = (k: number, a: number, b: number): number => {
    const [p, q, r] = [stands[k]!, stands[a]!, stands[b]!];
    const s = r.time > q.time ? (p.time - q.time) / (r.time - q.time) : 0;
    const position = between(q.position, r.position, s);
    let worst = reach > 0 ? length(less(p.position, position)) / (PLACE * reach) : 0;
    if (p.target && q.target && r.target)
      worst = Math.max(worst, angle(less(p.target, p.position), less(between(q.target, r.target, s), position)) / DIRECTION);
    if (p.roll !== undefined && q.roll !== undefined && r.roll !== undefined)
      worst = Math.max(worst, Math.abs(wayRound(rollBetween(q.roll, r.roll, s), p.roll)) / ROLL);
    return worst;
  };
  let keys = kept(stands, off, 1);
  for (let times = 2; keys.length > most && times < 1e9; times *= 2) keys = kept(stands, off, times);
  const chosen = keys.slice(0, most).map((k) => stands[k]!);
  if (chosen.every((s) => String([s.position, s.target, s.roll]) === String([first.position, first.target, first.roll]))) return null;
  return {
    times: chosen.map((s) => Number((s.time - from).toFixed(6))),
    positions: chosen.map((s) => [...s.position] as [number, number, number]),
    targets: first.target ? chosen.map((s) => [...s.target!] as [number, number, number]) : null,
    rolls: first.roll !== undefined && chosen.some((s) => s.roll !== 0) ? chosen.map((s) => s.roll!) : null,
  };
}

/** Stands that are needed, by their places (Douglas and Peucker 1973, by time): both sides of each jump, and those that straight ways miss. */
function kept(stands: readonly Stand[], off: (k: number, a: number, b: number) => number, most: number): number[] {
  const needed = new Set<number>([0, stands.length - 1]);
  for (let k = 1; k < stands.length; k++)
    if (stands[k]!.time === stands[k - 1]!.time) {
      needed.add(k - 1);
      needed.add(k);
    }
  const ends = [...needed].sort((a, b) => a - b);
  const open = ends.slice(1).map((b, i) => [ends[i]!, b] as const);
  for (let span = open.pop(); span; span = open.pop()) {
    const [a, b] = span;
    let worst = most,
      at = -1;
    for (let k = a + 1; k < b; k++) {
      const d = off(k, a, b);
      if (d > worst) {
        worst = d;
        at = k;
      }
    }
    if (at < 0) continue;
    needed.add(at);
    open.push([a, at], [at, b]);
  }
  return [...needed].sort((a, b) => a - b);
}
