/** Where lenses and lights stand at each moment, where they move: keys, between which they go straight. */
import { z } from "zod";
import { sunAngles, unit } from "../math/vectors";
import { direction, finite, vec3 } from "./fields";

/** Most keys of one thing that moves. */
export const MOST_KEYS = 8192;

const degrees = () => finite().min(-360).max(360);
const moments = () =>
  z.array(finite().min(-1e6).max(1e6)).min(1).max(MOST_KEYS).describe("s, each no earlier than the one before; two alike are a jump");

/** Tells where times go back. */
function inOrder({ times }: { times: number[] }, context: z.RefinementCtx): void {
  const early = times.findIndex((t, i) => i > 0 && t < times[i - 1]!);
  if (early >= 0) context.addIssue({ code: "custom", path: ["times", early], message: "is earlier than the one before" });
}
/** Tells where there are not as many values as times. */
function asMany({ times, ...rest }: { times: number[] } & Record<string, unknown[] | null>, context: z.RefinementCtx): void {
  for (const [key, values] of Object.entries(rest))
    if (values && values.length !== times.length)
      context.addIssue({ code: "custom", path: [key], message: `${values.length} where there are ${times.length} times` });
}

/** Whether a thing at one place can be aimed at another. */
const apart = (a: readonly number[], b: readonly number[]): boolean => Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!, a[2]! - b[2]!) > 1e-6;

/** Places by time: as many of each as there are times. What does not move by itself is not said. */
export const motionSchema = z
  .strictObject({
    times: moments(),
    positions: z.array(vec3()).max(MOST_KEYS).describe("m"),
    targets: z.array(vec3()).max(MOST_KEYS).nullable().default(null).describe("m, of what is aimed"),
    rolls: z.array(degrees()).max(MOST_KEYS).nullable().default(null).describe("degrees; between them the shorter way about"),
  })
  .superRefine((motion, context) => {
    asMany(motion, context);
    const blind = motion.targets?.findIndex((t, i) => motion.positions[i] !== undefined && !apart(motion.positions[i], t)) ?? -1;
    if (blind >= 0) context.addIssue({ code: "custom", path: ["targets", blind], message: "must differ from its position" });
    inOrder(motion, context);
  });
export type Motion = z.output<typeof motionSchema>;

/** Where a sun stands by time. */
export const sunMotionSchema = z
  .strictObject({
    times: moments(),
    directions: z.array(direction()).max(MOST_KEYS).describe("towards the sun, of any length"),
  })
  .superRefine((motion, context) => {
    asMany(motion, context);
    inOrder(motion, context);
  });
export type SunMotion = z.output<typeof sunMotionSchema>;

/** A sun that moves, or may. */
export interface MovingSun {
  azimuth: number;
  elevation: number;
  motion: SunMotion | null;
}

/** What moves, or may. */
export interface Moving {
  position: [number, number, number];
  target?: [number, number, number];
  roll?: number;
  motion: Motion | null;
}

/** The last key at or before a time, and the share of the way to the next. */
function placeIn(times: readonly number[], time: number): [number, number] {
  // of keys alike the last counts
  let [low, high] = [0, times.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (times[middle]! <= time) low = middle + 1;
    else high = middle;
  }
  if (low === 0) return [0, 0];
  if (low === times.length) return [low - 1, 0];
  return [low - 1, (time - times[low - 1]!) / (times[low]! - times[low - 1]!)];
}

const mixed = (a: readonly number[], b: readonly number[], s: number): [number, number, number] =>
  (s === 0 ? [...a] : a.map((v, k) => v + s * (b[k]! - v))) as [number, number, number];

/** Degrees from one angle to another the shorter way about, -180 to 180. */
export const wayRound = (from: number, to: number): number => ((((to - from) % 360) + 540) % 360) - 180;

/** An angle between two (degrees), the shorter way about. */
export function rollBetween(a: number, b: number, s: number): number {
  const v = a + s * wayRound(a, b);
  return v > 360 ? v - 360 : v < -360 ? v + 360 : v;
}

/** Where a thing is aimed between two keys; as at the first of them at the moment where it turns right about and meets its own place. */
function targetAt(
  positions: readonly number[][],
  targets: readonly number[][],
  i: number,
  j: number,
  s: number,
  position: readonly number[],
): [number, number, number] {
  const target = mixed(targets[i]!, targets[j]!, s);
  return apart(position, target) ? target : (position.map((v, k) => v + targets[i]![k]! - positions[i]![k]!) as [number, number, number]);
}

/** A thing as its motion has it at a time (s), before and behind it as at its ends; itself where it does not move. */
export function movedTo<T extends Moving>(thing: T, time: number): T {
  const { motion } = thing;
  if (!motion) return thing;
  const [i, s] = placeIn(motion.times, time);
  const j = Math.min(i + 1, motion.times.length - 1);
  const position = mixed(motion.positions[i]!, motion.positions[j]!, s);
  return {
    ...thing,
    position,
    ...(motion.targets && thing.target ? { target: targetAt(motion.positions, motion.targets, i, j, s, position) } : {}),
    ...(motion.rolls && thing.roll !== undefined ? { roll: rollBetween(motion.rolls[i]!, motion.rolls[j]!, s) } : {}),
  };
}

/** Angles of a direction in degrees, of as many digits as are kept of what is brought in. */
export function anglesOf(v: readonly number[]): { azimuth: number; elevation: number } {
  const { azimuth, elevation } = sunAngles(unit(v as [number, number, number]));
  return { azimuth: Number(azimuth.toPrecision(7)), elevation: Number(elevation.toPrecision(7)) };
}

/** A sun as its motion has it at a time (s), by the straight way between its keys; itself where it does not move. */
export function sunAt<T extends MovingSun>(sun: T, time: number): T {
  const { motion } = sun;
  if (!motion) return sun;
  const [i, s] = placeIn(motion.times, time);
  const [a, b] = [motion.directions[i]!, motion.directions[Math.min(i + 1, motion.directions.length - 1)]!];
  const towards = mixed(unit(a), unit(b), s);
  // right about there is no way between
  return { ...sun, ...anglesOf(Math.hypot(...towards) > 1e-6 ? towards : a) };
}

/** A motion whose places are elsewhere. */
export const motionBy = (motion: Motion | null, place: (v: readonly number[]) => [number, number, number]): Motion | null =>
  motion && { ...motion, positions: motion.positions.map(place), targets: motion.targets?.map(place) ?? null };

/** The document's part of what moves. */
interface Scene<C extends Moving, L> {
  time: number;
  camera: C;
  lights: L[];
  sun: MovingSun;
}
const lightAt = <L>(light: L, time: number): L => ("motion" in (light as object) ? movedTo(light as L & Moving, time) : light);

/** A document whose lens, sun and lights stand where their motion has them at its moment. */
export function atMoment<C extends Moving, L, D extends Scene<C, L>>(doc: D): D {
  const moves = doc.camera.motion !== null || doc.sun.motion !== null || doc.lights.some((l) => (l as Partial<Moving>).motion);
  if (!moves) return doc;
  const lights = doc.lights.map((l) => lightAt(l, doc.time));
  return { ...doc, camera: movedTo(doc.camera, doc.time), sun: sunAt(doc.sun, doc.time), lights };
}

/** Where a thing stands, as text. */
const stand = (a: Moving): string => String([a.position, a.target, a.roll]);
const standOfSun = (a: MovingSun): string => String([a.azimuth, a.elevation]);

/** A thing after an edit: where its motion has it at the new moment; one that was put elsewhere by hand moves no more. */
function kept<T extends { motion: unknown }>(
  was: T | undefined,
  is: T,
  moment: boolean,
  at: (thing: T) => T,
  where: (thing: T) => string,
): T {
  if (!is.motion || was === is) return is.motion && moment ? at(is) : is;
  if (moment || was?.motion !== is.motion) return at(is);
  return where(was) === where(is) ? is : { ...is, motion: null };
}

/** An edit with what it means for what moves. */
export function withMotion<C extends Moving, L, D extends Scene<C, L>>(before: D, after: D): D {
  const moment = before.time !== after.time;
  const same = before.camera === after.camera && before.sun === after.sun && before.lights === after.lights;
  if (before === after || (!moment && same)) return after;
  const at = <T extends Moving>(thing: T): T => movedTo(thing, after.time);
  const camera = kept(before.camera, after.camera, moment, at, stand);
  const sun = kept(before.sun, after.sun, moment, (s) => sunAt(s, after.time), standOfSun);
  const moved = after.lights.map((light, i) =>
    (light as Partial<Moving>).motion
      ? (kept(before.lights[i] as (L & Moving) | undefined, light as L & Moving, moment, at, stand) as L)
      : light,
  );
  const lights = moved.every((l, i) => l === after.lights[i]) ? after.lights : moved;
  return camera === after.camera && sun === after.sun && lights === after.lights ? after : { ...after, camera, sun, lights };
}
