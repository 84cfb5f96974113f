/**
 * A film on disk while it is rendered. Every tile has two slots, written in turn: a tile is what its newest whole slot says, so that a
 * file cut off at any moment has each tile as it was, or as it is. Counts and what a judge of noise said have two slots as well.
 */
import { open, rm, type FileHandle } from "node:fs/promises";
import { crc32 } from "node:zlib";
import type { Film } from "#core/film/film";
import type { Counts, Resumed } from "#engine/engine";
import { TILE } from "#engine/schedule";
import type { Judged } from "#engine/settled";
import { readTile, tilesOf, writeTile } from "#engine/tiles";

/** Begins every checkpoint. */
const MAGIC = "fumarium checkpoint 1";
const HEADER = 4096;
/** Of a slot, before its bytes: number of its state, checksum of its bytes. */
const SLOT_HEAD = 16;
const COUNT_BYTES = 5 * 8;
/** Slots whose memory is kept for others. */
const SPARE = 64;

/** What a film is of: only one that fits is gone on with. */
export interface Identity {
  /** Names document, files, schedule and kernel: a hash. */
  key: string;
  width: number;
  height: number;
  stride: number;
  crop: Film["crop"];
}

/** What was kept of a film, whole or in part. */
export interface Kept {
  resumed: Resumed;
  judged: Judged | null;
}

/** Bytes that a checkpoint takes on disk. */
export function checkpointBytes(of: Identity): number {
  const p = places(of);
  return p.tiles + p.count * 2 * p.tileSlot;
}

/** Where things lie in the file. */
function places({ crop, stride }: Identity) {
  const { tiles: count } = tilesOf(crop);
  const tileSlot = SLOT_HEAD + 4 * TILE * TILE * stride;
  const countSlot = SLOT_HEAD + COUNT_BYTES,
    judgeSlot = SLOT_HEAD + 4 + 4 * count;
  const judge = HEADER + 2 * countSlot;
  return { count, tileSlot, countSlot, judgeSlot, judge, tiles: judge + 2 * judgeSlot };
}

export class Checkpoint {
  private readonly at: ReturnType<typeof places>;
  /** Stages that each tile's newest slot has, and which slot that is. */
  private readonly written: Uint16Array;
  private readonly slot: Uint8Array;
  private counted = 0;
  private judgings = 0;
  private work: Promise<void> = Promise.resolve();
  private failure: Error | null = null;
  /** Told of the first thing that goes wrong with the disk; nothing is kept after it. */
  failed: (error: Error) => void = () => undefined;
  private busy = false;
  /** Slots that are written: memory for the next ones. */
  private readonly spare: Buffer[] = [];

  private constructor(
    readonly path: string,
    private readonly file: FileHandle,
    private readonly of: Identity,
  ) {
    this.at = places(of);
    this.written = new Uint16Array(this.at.count);
    this.slot = new Uint8Array(this.at.count);
  }

  /**
   * Opens a file that fits, or begins one anew in its place.
   * @returns what was kept; null where nothing was, or of another film @throws the file system's errors
   */
  static async open(path: string, of: Identity): Promise<{ checkpoint: Checkpoint; kept: Kept | null }> {
    const there = await open(path, "r+").catch((error: NodeJS.ErrnoException) => {
      if (error.code === "ENOENT") return null;
      throw error;
    });
    if (there) {
      const checkpoint = new Checkpoint(path, there, of);
      const head = Buffer.alloc(HEADER);
      await there.read(head, 0, HEADER, 0);
      if (head.equals(headerOf(of))) return { checkpoint, kept: await checkpoint.read() };
      await there.close();
    }
    const file = await open(path, "w+");
    await file.write(headerOf(of), 0, HEADER, 0);
    await file.datasync();
    return { checkpoint: new Checkpoint(path, file, of), kept: null };
  }

  /**
   * Takes what has changed of a film, and writes it in its own time: one at a time. @param urgent also where the one before is not written yet,
   * which it waits for; else that is left to the next
   */
  keep(film: Film, taken: Uint16Array, counts: Counts, urgent = false): void {
    if ((this.busy && !urgent) || this.failure) return;
    const tiles: { at: number; bytes: Buffer }[] = [];
    for (let i = 0; i < taken.length; i++) {
      if (taken[i] === this.written[i]) continue;
      const slot = 1 - this.slot[i]!;
      tiles.push({ at: this.at.tiles + (2 * i + slot) * this.at.tileSlot, bytes: this.tileSlot(taken[i]!, film, i) });
      this.written[i] = taken[i]!;
      this.slot[i] = slot;
    }
    const numbers = Buffer.alloc(COUNT_BYTES);
    [counts.rays, counts.lookups, counts.invalid, counts.seconds].forEach((v, i) => numbers.writeDoubleLE(v, 8 * i));
    const number = ++this.counted;
    this.queue(async () => {
      for (const { at, bytes } of tiles) {
        await this.put(at, bytes);
        if (this.spare.length < SPARE) this.spare.push(bytes);
      }
      await this.put(HEADER + (number & 1) * this.at.countSlot, slotOf(number, numbers));
      await this.file.datasync();
    });
  }

  /** What is kept of tiles is wrong: they have nothing any more. */
  forget(tiles: readonly number[]): void {
    for (const tile of tiles) this.written[tile] = 0;
    this.queue(async () => {
      for (const tile of tiles)
        for (const slot of [0, 1]) await this.put(this.at.tiles + (2 * tile + slot) * this.at.tileSlot, Buffer.alloc(SLOT_HEAD));
      await this.file.datasync();
    });
  }

  /** Keeps what a judge of noise said: on disk before it counts. */
  async judge({ samples, masks }: Judged): Promise<void> {
    const bytes = Buffer.alloc(4 + 4 * masks.length);
    bytes.writeUInt32LE(samples, 0);
    Buffer.from(masks.buffer, masks.byteOffset, masks.byteLength).copy(bytes, 4);
    const number = ++this.judgings;
    this.queue(async () => {
      await this.put(this.at.judge + (number & 1) * this.at.judgeSlot, slotOf(number, bytes));
      await this.file.datasync();
    });
    await this.work;
  }

  /** Resolves once all that was taken is on disk, or nothing is kept any more. */
  async settled(): Promise<void> {
    await this.work;
  }

  /** Resolves once all that was taken is on disk. @throws the disk's error where nothing is kept any more */
  async safe(): Promise<void> {
    await this.work;
    if (this.failure) throw this.failure;
  }

  /** Ends writing; the file stays. */
  async close(): Promise<void> {
    await this.work;
    await this.file.close();
  }

  /** The picture is written: what was kept is needed no more. */
  async remove(): Promise<void> {
    await this.close();
    await rm(this.path, { force: true });
  }

  private queue(work: () => Promise<void>): void {
    this.busy = true;
    const own = this.work
      .then(async () => {
        // a slot may be another's turn now: what a broken disk has is not written over
        if (!this.failure) await work();
      })
      .catch((error: unknown) => {
        this.failure = error as Error;
        this.failed(this.failure);
      })
      .finally(() => {
        if (this.work === own) this.busy = false;
      });
    this.work = own;
  }

  private async put(at: number, bytes: Buffer): Promise<void> {
    for (let done = 0; done < bytes.length;) done += (await this.file.write(bytes, done, bytes.length - done, at + done)).bytesWritten;
  }

  /** A slot with a tile, in memory that is used again and again: there are gigabytes of them. */
  private tileSlot(number: number, film: Film, tile: number): Buffer {
    const slot = this.spare.pop() ?? Buffer.allocUnsafeSlow(this.at.tileSlot);
    const values = new Float32Array(slot.buffer, SLOT_HEAD);
    // a tile at the edge is smaller
    values.fill(0, readTile(film, tile, values));
    return headed(slot, number);
  }

  /** The newest whole one of two slots; null where neither is. */
  private async newest(at: number, bytes: number): Promise<{ number: number; slot: number; body: Buffer } | null> {
    const both = Buffer.alloc(2 * bytes);
    const { bytesRead } = await this.file.read(both, 0, both.length, at);
    let best: { number: number; slot: number; body: Buffer } | null = null;
    for (const slot of [0, 1]) {
      if ((slot + 1) * bytes > bytesRead) continue;
      const own = both.subarray(slot * bytes, (slot + 1) * bytes);
      const [number, sum, again] = [own.readUInt32LE(0), own.readUInt32LE(4), own.readUInt32LE(8)];
      if (number === 0 || number !== again || crc32(own.subarray(SLOT_HEAD)) !== sum) continue;
      if (!best || number > best.number) best = { number, slot, body: own.subarray(SLOT_HEAD) };
    }
    return best;
  }

  private async read(): Promise<Kept | null> {
    const { width, height, stride } = this.of;
    const data = new Float32Array(width * height * stride);
    let some = false;
    for (let i = 0; i < this.at.count; i++) {
      const found = await this.newest(this.at.tiles + 2 * i * this.at.tileSlot, this.at.tileSlot);
      if (!found) continue;
      some = true;
      this.written[i] = found.number;
      this.slot[i] = found.slot;
      writeTile({ ...this.of, data }, i, new Float32Array(new Uint8Array(found.body).buffer));
    }
    const counts = await this.newest(HEADER, this.at.countSlot);
    const judged = await this.newest(this.at.judge, this.at.judgeSlot);
    this.counted = counts?.number ?? 0;
    this.judgings = judged?.number ?? 0;
    if (!some && !judged) return null;
    const number = (i: number): number => counts?.body.readDoubleLE(8 * i) ?? 0;
    return {
      resumed: {
        data,
        taken: this.written.slice(),
        counts: { rays: number(0), lookups: number(1), invalid: number(2), seconds: number(3) },
      },
      judged: judged && { samples: judged.body.readUInt32LE(0), masks: new Uint32Array(new Uint8Array(judged.body.subarray(4)).buffer) },
    };
  }
}

/** A slot with its number twice and the checksum of what it holds. */
function slotOf(number: number, body: Buffer): Buffer {
  return headed(Buffer.concat([Buffer.alloc(SLOT_HEAD), body]), number);
}

function headed(slot: Buffer, number: number): Buffer {
  slot.fill(0, 0, SLOT_HEAD);
  slot.writeUInt32LE(number, 0);
  slot.writeUInt32LE(crc32(slot.subarray(SLOT_HEAD)), 4);
  slot.writeUInt32LE(number, 8);
  return slot;
}

function headerOf(of: Identity): Buffer {
  const { key, width, height, stride, crop } = of;
  const out = Buffer.alloc(HEADER);
  out.write(JSON.stringify({ is: MAGIC, key, width, height, stride, crop }), "utf8");
  return out;
}
