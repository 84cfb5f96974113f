/** Content-addressed files: written beside their place, checked, then moved there, so that none is ever half there. */
import { createHash, randomUUID } from "node:crypto";
import { createReadStream, existsSync, mkdirSync } from "node:fs";
import { open, readdir, readFile, rename, stat, unlink, utimes } from "node:fs/promises";
import { join } from "node:path";
import { Readable, Transform } from "node:stream";
import { pipeline } from "node:stream/promises";
import { InputError } from "#core/errors";
import { StorageError } from "./storage";

const HASH = /^[0-9a-f]{64}$/;

/** Waits until a file or folder is on the disk. */
async function synced(path: string): Promise<void> {
  const handle = await open(path, "r");
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}

export class BlobStore {
  /** @param readOnly why nothing can be kept; null where it can */
  constructor(
    private readonly folder: string,
    private readonly readOnly: string | null = null,
  ) {
    if (readOnly === null) mkdirSync(folder, { recursive: true });
  }

  private file(hash: string): string {
    if (!HASH.test(hash)) throw new InputError("asset: the hash must be 64 hexadecimal digits");
    return join(this.folder, hash);
  }

  has(hash: string): boolean {
    return HASH.test(hash) && existsSync(this.file(hash));
  }

  /** Removes parts of uploads that a killed server left: those that nobody has written to for a while. */
  async sweep(idle = 300_000): Promise<void> {
    for (const name of await readdir(this.folder)) {
      if (!name.startsWith("part-")) continue;
      const file = join(this.folder, name);
      const info = await stat(file).catch(() => null);
      if (info && Date.now() - info.mtimeMs >= idle) await unlink(file).catch(() => undefined);
    }
  }

  /** Hashes of files that lie there longer than so many milliseconds. */
  async olderThan(milliseconds: number): Promise<string[]> {
    const out: string[] = [];
    for (const name of await readdir(this.folder)) {
      if (!HASH.test(name)) continue;
      const info = await stat(join(this.folder, name)).catch(() => null);
      if (info && Date.now() - info.mtimeMs >= milliseconds) out.push(name);
    }
    return out;
  }

  /** Whether a blob is there and begins like this. */
  async beginsWith(hash: string, bytes: readonly number[]): Promise<boolean> {
    const handle = await open(this.file(hash), "r").catch(() => null);
    if (!handle) return false;
    try {
      const { buffer, bytesRead } = await handle.read(Buffer.alloc(bytes.length), 0, bytes.length, 0);
      return bytesRead === bytes.length && bytes.every((b, i) => buffer[i] === b);
    } finally {
      await handle.close();
    }
  }

  /** A file's bytes. @throws the file system's errors */
  async read(hash: string): Promise<Uint8Array> {
    return readFile(this.file(hash));
  }

  async remove(hash: string): Promise<void> {
    await unlink(this.file(hash)).catch(() => undefined);
  }

  /** Stores a stream of at most `limit` bytes whose first bytes satisfy `begins`. @throws InputError */
  async put(
    source: AsyncIterable<Uint8Array> | Uint8Array,
    limit: number,
    begins?: { bytes: number[]; what: string },
  ): Promise<{ sha256: string; bytes: number }> {
    if (this.readOnly !== null) throw new StorageError(this.readOnly);
    const part = join(this.folder, `part-${randomUUID()}`);
    const hash = createHash("sha256");
    let bytes = 0;
    const check = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        if (begins)
          for (let i = 0; i < chunk.length && bytes + i < begins.bytes.length; i++)
            if (chunk[i] !== begins.bytes[bytes + i]) return done(new InputError(`upload: does not begin like ${begins.what}`));
        bytes += chunk.length;
        if (bytes > limit) return done(new InputError(`upload: more than the limit of ${limit} bytes`));
        hash.update(chunk);
        done(null, chunk);
      },
    });
    // made before anything can fail: a stream that opens it by itself might make it after it was taken away
    const handle = await open(part, "wx");
    try {
      await pipeline(Readable.from(source instanceof Uint8Array ? [source] : source), check, handle.createWriteStream());
      if (bytes === 0 || (begins && bytes < begins.bytes.length)) throw new InputError("upload: empty");
      const sha256 = hash.digest("hex");
      // on the disk before it has its name, and its name before it is acknowledged: a power cut leaves no half
      await synced(part);
      const place = this.file(sha256);
      if (existsSync(place)) {
        // as new for the grace that files without an owner have
        await utimes(place, new Date(), new Date());
        await unlink(part);
      } else {
        await rename(part, place);
        await synced(this.folder);
      }
      return { sha256, bytes };
    } catch (error) {
      await handle.close().catch(() => undefined);
      await unlink(part).catch(() => undefined);
      throw error;
    }
  }

  /** A blob as a stream with its size; null when there is none. */
  async open(hash: string): Promise<{ stream: ReadableStream<Uint8Array>; bytes: number } | null> {
    const file = this.file(hash);
    const info = await stat(file).catch(() => null);
    if (!info) return null;
    return { stream: Readable.toWeb(createReadStream(file)) as ReadableStream<Uint8Array>, bytes: info.size };
  }
}
