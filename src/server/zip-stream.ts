/** Files as one zip archive, made while it is sent: nothing is held but a piece at a time. */
import { createReadStream } from "node:fs";
import { Zip, ZipPassThrough } from "fflate";

/** @param files with the names that they get; they are not packed, since pictures are already */
export function zipStream(files: readonly { name: string; path: string }[]): ReadableStream<Uint8Array> {
  let cancelled = false;
  async function* pieces(): AsyncGenerator<Uint8Array> {
    let ready: Uint8Array[] = [];
    const zip = new Zip((error, piece) => {
      if (error) throw error;
      ready.push(piece);
    });
    for (const { name, path } of files) {
      const entry = new ZipPassThrough(name);
      zip.add(entry);
      for await (const chunk of createReadStream(path, { highWaterMark: 1 << 20 })) {
        if (cancelled) return;
        entry.push(new Uint8Array(chunk as Buffer));
        yield* ready;
        ready = [];
      }
      entry.push(new Uint8Array(0), true);
    }
    zip.end();
    yield* ready;
  }
  const source = pieces();
  return new ReadableStream({
    async pull(controller) {
      const next = await source.next();
      if (next.done) controller.close();
      else controller.enqueue(next.value);
    },
    cancel() {
      cancelled = true;
    },
  });
}
