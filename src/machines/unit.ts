/** Units of work: some tiles of a frame, and the stages of them that one machine takes. What is sent of them is validated here. */
import { createHash } from "node:crypto";
import { crc32 } from "node:zlib";
import { z } from "zod";
import { PASS_NAMES, type PassName } from "#core/film/passes";
import { InputError } from "#core/errors";

const hash = z.string().regex(/^[0-9a-f]{64}$/, "must be 64 hexadecimal digits");
/** Tiles that a unit has at most. */
export const MOST_TILES = 4096;
/** What a worker may be called. */
export const workerName = z.string().regex(/^\w[\w.-]{0,39}$/, "must be 1 to 40 letters, digits, points, dashes or underscores");

export const unitSchema = z.strictObject({
  /** Of all that follows. */
  id: z.string().regex(/^[0-9a-f]{32}$/),
  /** Names the frame: what decides its film. */
  frame: hash,
  /** Names the frame's brief. */
  brief: hash,
  tiles: z.array(z.int().min(0)).min(1).max(MOST_TILES),
  /** Stages [from, to) of the frame's schedule. */
  from: z.int().min(0),
  to: z.int().min(1),
  /** Whether another machine has done it before, which is looked at by this. */
  check: z.boolean(),
});
export type Unit = z.output<typeof unitSchema>;

/** A unit, named by what it is. */
export function unitOf(of: Omit<Unit, "id">): Unit {
  const { frame, brief, tiles, from, to, check } = of;
  const id = createHash("sha256")
    .update(JSON.stringify([frame, brief, tiles, from, to, check]))
    .digest("hex")
    .slice(0, 32);
  return { id, frame, brief, tiles, from, to, check };
}

/** What a frame is: all that a machine has to know to render of it, besides the files that its document names by hash. */
export const briefSchema = z.strictObject({
  /** JSON of the document as it is rendered. */
  document: z.string(),
  passes: z.array(z.enum(PASS_NAMES as [PassName, ...PassName[]])).min(1),
  firstSample: z.int().min(0),
  strengths: z.strictObject({ fireflies: z.number(), air: z.number(), surfaces: z.number() }).nullable(),
});
export type Brief = z.output<typeof briefSchema>;

/** What a machine spent on a tile. */
const spent = z.strictObject({
  rays: z.number().min(0),
  lookups: z.number().min(0),
  invalid: z.number().min(0),
  seconds: z.number().min(0),
});
export type Spent = z.output<typeof spent>;

/** What comes with the numbers of a unit's tiles. */
export const resultHead = z.strictObject({
  unit: unitSchema,
  worker: workerName,
  session: z.string().max(64),
  kernel: hash,
  tiles: z.array(spent),
});
export type ResultHead = z.output<typeof resultHead>;

/** Who asks for what a unit begins with. */
export const inputAsked = z.strictObject({ unit: unitSchema, worker: workerName, session: z.string().max(64) });
/** What comes with it: blocks of each tile that get no more samples; null where the kernel judges. */
export const inputHead = z.strictObject({ settled: z.array(z.int()).nullable() });

export const failureSchema = z.strictObject({
  unit: unitSchema,
  worker: workerName,
  session: z.string().max(64),
  reason: z.string().max(2000),
});

/** What a worker says of itself, now and then. */
export const beatSchema = z.strictObject({
  /** Differs each time that one is started. */
  session: z.string().min(1).max(64),
  host: z.string().max(255),
  threads: z.int().min(1).max(1024),
  kernel: hash,
  /** Samples a second of a thread on the trial picture. */
  pace: z.number().gt(0),
  /** Its clock, ms since 1970. */
  clock: z.number(),
  /** Units that it has taken and not given yet. */
  units: z.array(unitSchema).max(2048),
  /** What it does, in a word. */
  says: z.string().max(200),
  /** Whether it ends now, with what it has in hand undone. */
  leaves: z.boolean(),
});
export type Beat = z.output<typeof beatSchema>;
/** What it is told: to go on, to end when its units are done, to end at once, or that it cannot take part as it is. */
export const ordersSchema = z.object({ orders: z.enum(["work", "drain", "leave", "wait"]), words: z.string().nullable() });
export type Orders = z.output<typeof ordersSchema>;

/** Where a server is, as it says itself by Redis. */
export const noticeSchema = z.object({ url: z.url(), kernel: hash });
export type Notice = z.output<typeof noticeSchema>;

/** Before an envelope's head: its length, and the checksum of all that follows. */
const LEAD = 8;
const MOST_HEAD = 4_000_000;

/** A head and numbers, with a checksum of both. */
export function envelope(head: object, body: Uint8Array): Uint8Array<ArrayBuffer> {
  const text = Buffer.from(JSON.stringify(head));
  // numbers begin at a multiple of four
  const room = Math.ceil(text.length / 4) * 4;
  const out = Buffer.allocUnsafeSlow(LEAD + room + body.length);
  text.copy(out, LEAD);
  out.fill(0x20, LEAD + text.length, LEAD + room);
  out.set(body, LEAD + room);
  out.writeUInt32LE(room, 0);
  out.writeUInt32LE(crc32(out.subarray(LEAD)), 4);
  return new Uint8Array(out.buffer, out.byteOffset, out.length);
}

/** Opens an envelope. @param what names it in errors @throws InputError where it is not whole, or its head is another one */
export function opened<T>(bytes: Uint8Array, head: z.ZodType<T>, what: string): { head: T; body: Uint8Array } {
  const all = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (all.length < LEAD) throw new InputError(`${what}: ${all.length} bytes are too few`);
  const room = all.readUInt32LE(0);
  if (room > MOST_HEAD || LEAD + room > all.length) throw new InputError(`${what}: is cut off`);
  if (crc32(all.subarray(LEAD)) !== all.readUInt32LE(4)) throw new InputError(`${what}: its checksum is another one`);
  let said: unknown;
  try {
    said = JSON.parse(all.toString("utf8", LEAD, LEAD + room));
  } catch {
    throw new InputError(`${what}: its head is no JSON`);
  }
  const parsed = head.safeParse(said);
  if (!parsed.success) throw new InputError(`${what}: ${parsed.error.issues[0]?.path.join(".")} ${parsed.error.issues[0]?.message}`);
  return { head: parsed.data, body: all.subarray(LEAD + room) };
}

/** Numbers of a body, in its memory where they lie so in it that they can be read. @throws InputError where their count is another one */
export function floatsOf(body: Uint8Array, count: number, what: string): Float32Array {
  if (body.byteLength !== 4 * count)
    throw new InputError(`${what}: ${body.byteLength} bytes of numbers came, and ${4 * count} belong to it`);
  const own = body.byteOffset % 4 === 0 ? body : new Uint8Array(body);
  return new Float32Array(own.buffer, own.byteOffset, count);
}

/** Whether all of some values are finite numbers. */
export function areNumbers(values: Float32Array): boolean {
  // there are millions of them: where all bits of an exponent are set, one more carries into the sign
  const bits = new Int32Array(values.buffer, values.byteOffset, values.length);
  let none = 0;
  for (let i = 0; i < bits.length; i++) none |= (bits[i]! & 0x7f800000) + 0x00800000;
  return none >= 0;
}
