/** Content-addressed files: written beside their place, checked, then moved there, so that none is ever half there. */
import { createHash, randomUUID } from "node:crypto";
import { createReadStream, createWriteStream, existsSync, mkdirSync } from "node:fs";
import { rename, stat, unlink } from "node:fs/promises";
import { join } from "node:path";
import { Readable, Transform } from "node:stream";
import { pipeline } from "node:stream/promises";
import { InputError } from "#core/errors";

const HASH = /^[0-9a-f]{64}$/;

export class BlobStore {
  constructor(private readonly folder: string) {
    mkdirSync(folder, { recursive: true });
  }

  private file(hash: string): string {
    if (!HASH.test(hash)) throw new InputError("asset: the hash must be 64 hexadecimal digits");
    return join(this.folder, hash);
  }

  has(hash: string): boolean {
    return HASH.test(hash) && existsSync(this.file(hash));
  }

  /** Stores a stream of at most `limit` bytes whose first bytes satisfy `begins`. @throws InputError */
  async put(
    source: AsyncIterable<Uint8Array> | Uint8Array,
    limit: number,
    begins?: { bytes: number[]; what: string },
  ): Promise<{ sha256: string; bytes: number }> {
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
    try {
      await pipeline(Readable.from(source instanceof Uint8Array ? [source] : source), check, createWriteStream(part));
      if (bytes === 0 || (begins && bytes < begins.bytes.length)) throw new InputError("upload: empty");
      const sha256 = hash.digest("hex");
      await rename(part, this.file(sha256));
      return { sha256, bytes };
    } catch (error) {
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
