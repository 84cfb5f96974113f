/** Zip archives: files stored as they are, and read within limits. */
import { unzipSync, Zip, ZipPassThrough } from "fflate";
import { joinBytes } from "../data/bytes";
import { InputError, reasonOf } from "../errors";
import { megabytes, plainPath } from "./import/files";

/** An archive under way. What it holds does not shrink, so it is stored as it is; and with a fixed time, so that equal files make equal archives. */
export class ZipWriter {
  private readonly chunks: Uint8Array[] = [];
  private readonly zip = new Zip((error, chunk) => {
    if (error) throw error;
    this.chunks.push(chunk);
  });

  put(path: string, bytes: Uint8Array): void {
    const entry = new ZipPassThrough(path);
    entry.mtime = new Date(2000, 0, 1).getTime();
    this.zip.add(entry);
    entry.push(bytes, true);
  }

  done(): Uint8Array {
    this.zip.end();
    return joinBytes(this.chunks);
  }
}

/** Files of an archive by their paths. @param most bytes that it may unpack to @throws InputError saying what is wrong */
export function unzipped(bytes: Uint8Array, what: string, most: number): Map<string, Uint8Array> {
  let size = 0;
  let entries: Record<string, Uint8Array>;
  try {
    entries = unzipSync(bytes, {
      filter: (entry) => {
        size += entry.originalSize;
        if (size > most) throw new InputError(`${what}: unpacks to more than ${megabytes(most)}`);
        if (plainPath(entry.name) === null) throw new InputError(`${what}: the entry "${entry.name}" leads outside the archive`);
        return !entry.name.endsWith("/");
      },
    });
  } catch (error) {
    if (error instanceof InputError) throw error;
    throw new InputError(`${what}: not readable as a zip archive (${reasonOf(error)})`);
  }
  return new Map(Object.entries(entries).map(([name, data]) => [plainPath(name)!, data]));
}
