/** Files that a worker has fetched, by hash: kept on disk, looked at again before they are used, the oldest let go. */
import { createHash, randomUUID } from "node:crypto";
import { mkdir, readdir, readFile, rename, rm, stat, utimes, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { InputError } from "#core/errors";

/** Times that a file is fetched before it is given up. */
const TRIES = 3;

export class FileCache {
  private readonly coming = new Map<string, Promise<Uint8Array>>();

  /** @param limit bytes that it keeps at most @param fetch gets a file from the server */
  constructor(
    private readonly folder: string,
    private readonly limit: number,
    private readonly fetch: (hash: string) => Promise<Uint8Array>,
  ) {}

  /** A file's bytes, which have this hash. @throws InputError */
  async get(hash: string): Promise<Uint8Array> {
    const there = this.coming.get(hash);
    if (there) return there;
    const own = this.found(hash);
    this.coming.set(hash, own);
    return own.finally(() => this.coming.delete(hash));
  }

  private async found(hash: string): Promise<Uint8Array> {
    const path = join(this.folder, hash);
    const kept = await readFile(path).catch(() => null);
    if (kept && hashOf(kept) === hash) {
      await utimes(path, new Date(), new Date()).catch(() => undefined);
      return kept;
    }
    for (let k = 0; k < TRIES; k++) {
      const bytes = await this.fetch(hash);
      if (hashOf(bytes) !== hash) continue;
      await this.keep(path, bytes);
      return bytes;
    }
    throw new InputError(`file ${hash.slice(0, 12)}: what comes is another one`);
  }

  /** A cache that cannot be written is none. */
  private async keep(path: string, bytes: Uint8Array): Promise<void> {
    const part = join(this.folder, `part-${randomUUID()}`);
    try {
      await mkdir(this.folder, { recursive: true });
      await this.makeRoom(bytes.length);
      await writeFile(part, bytes);
      await rename(part, path);
    } catch {
      await rm(part, { force: true }).catch(() => undefined);
    }
  }

  private async makeRoom(bytes: number): Promise<void> {
    const files = await Promise.all(
      (await readdir(this.folder)).map(async (name) => {
        const path = join(this.folder, name);
        const { size, mtimeMs } = await stat(path);
        return { path, size, mtimeMs };
      }),
    );
    let sum = files.reduce((n, f) => n + f.size, bytes);
    for (const { path, size } of files.sort((a, b) => a.mtimeMs - b.mtimeMs)) {
      if (sum <= this.limit) return;
      await rm(path, { force: true });
      sum -= size;
    }
  }
}

const hashOf = (bytes: Uint8Array): string => createHash("sha256").update(bytes).digest("hex");
