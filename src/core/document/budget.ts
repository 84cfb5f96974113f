/** What a frame may cost: time, the machine it counts for, and the final that is meant. */
import { z } from "zod";
import { finite } from "./fields";

/** Most frames that are rendered by a moment, and most threads of a machine. */
const MOST_FRAMES = 10_000,
  MOST_THREADS = 4096;

/** Minutes of a day. */
const DAY = 24 * 60;

const limitSchema = z.discriminatedUnion("kind", [
  z.strictObject({ kind: z.literal("frame"), minutes: finite().min(0.01).max(1e6).describe("minutes a frame may take") }),
  z.strictObject({
    kind: z.literal("by"),
    frames: z.int().min(1).max(MOST_FRAMES).describe("that are to be there"),
    time: z
      .string()
      .regex(/^([01]\d|2[0-3]):[0-5]\d$/, "must be a time of day, as 07:30")
      .describe("when they next are to be there, by this machine's clock"),
  }),
]);
export type BudgetLimit = z.output<typeof limitSchema>;

/** The budget of a project; nothing of it changes a picture. */
export const budgetSchema = z
  .strictObject({
    limit: limitSchema.nullable().default(null).describe("null: the price is told, and held against nothing"),
    threads: z.int().min(1).max(MOST_THREADS).nullable().default(null).describe("of the machine that renders; null: as this one"),
    speed: finite().min(0.01).max(1000).default(1).describe("how many times as fast a thread of it is as one of this machine"),
    size: z
      .tuple([z.int().min(1).max(16384), z.int().min(1).max(16384)])
      .nullable()
      .default(null)
      .describe("pixels of the final; null: film.size"),
    noise: z
      .strictObject({ threshold: finite().gt(0).max(1), of: z.enum(["rendered", "cleaned"]) })
      .nullable()
      .default(null)
      .describe("noise at which the final ends, before render.samples; null: as render says"),
  })
  .prefault({})
  .describe("what the final may cost, and which final is meant");
export type Budget = z.output<typeof budgetSchema>;

/** Seconds that a frame may take; null where nothing is said. @param now moment it is asked at, by the clock of the machine */
export function secondsAllowed(limit: BudgetLimit | null, now: Date): number | null {
  if (!limit) return null;
  if (limit.kind === "frame") return 60 * limit.minutes;
  const [hours, minutes] = limit.time.split(":").map(Number) as [number, number];
  const minute = now.getHours() * 60 + now.getMinutes() + now.getSeconds() / 60;
  const left = (hours * 60 + minutes - minute + 2 * DAY) % DAY;
  return (60 * left) / limit.frames;
}
