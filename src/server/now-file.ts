/** What is told of a render that goes on, beside its files: the frames in hand taken together. */
import { rename, rm, writeFile } from "node:fs/promises";
import { join } from "node:path";
import type { RenderNow } from "#api/contract";
import { Remaining } from "#finals/remaining";

export const NOW_FILE = "now.json";

/** A file that is there whole or as it was. */
export async function writeBeside(folder: string, name: string, content: string | Uint8Array): Promise<void> {
  const part = join(folder, `.${name}.part`);
  await writeFile(part, content);
  await rename(part, join(folder, name));
}

interface Frame {
  frame: number | null;
  share: number;
  seconds: number;
  says: string | null;
  remaining: Remaining;
}

export class NowFile {
  private readonly frames: Frame[] = [];
  private writing = Promise.resolve();

  constructor(private readonly folder: string) {}

  /** Begins to tell of a frame. */
  begin(frame: number | null): { progress(share: number, seconds: number): void; says(words: string): void; end(): void } {
    const own: Frame = { frame, share: 0, seconds: 0, says: null, remaining: new Remaining() };
    this.frames.push(own);
    return {
      progress: (share, seconds) => {
        Object.assign(own, { share, seconds, says: null });
        this.tell();
      },
      says: (says) => {
        own.says = says;
        this.tell();
      },
      end: () => {
        const at = this.frames.indexOf(own);
        if (at >= 0) this.frames.splice(at, 1);
      },
    };
  }

  /** Does something in turn with what is written. */
  async after(work: () => Promise<void>): Promise<void> {
    await (this.writing = this.writing.then(work).catch(() => undefined));
  }

  async remove(): Promise<void> {
    await this.writing;
    await rm(join(this.folder, NOW_FILE), { force: true });
  }

  private tell(): void {
    const text = JSON.stringify(this.now());
    void this.after(() => writeBeside(this.folder, NOW_FILE, text));
  }

  private now(): RenderNow {
    const sum = (of: (f: Frame) => number): number => this.frames.reduce((n, f) => n + of(f), 0);
    const lefts = this.frames.map((f) => f.remaining.after(f.share, f.seconds));
    const told = lefts.flatMap((l) => (l ? [l] : []));
    const errors = told.flatMap((l) => (l.error === null ? [] : [l.error]));
    return {
      frame: this.frames[0]?.frame ?? null,
      hand: this.frames.length,
      share: sum((f) => f.share),
      seconds: sum((f) => f.seconds),
      left: told.length < this.frames.length || told.length === 0 ? null : told.reduce((n, l) => n + l.left, 0),
      leftError: errors.length < told.length || told.length === 0 ? null : Math.hypot(...errors),
      says: this.frames.every((f) => f.says !== null) ? (this.frames[0]?.says ?? null) : null,
    };
  }
}
