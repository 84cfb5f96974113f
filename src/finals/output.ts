/** Files that are written: whole or not at all, and tried before the work for them begins. */
import { randomUUID } from "node:crypto";
import { open, rename, stat, unlink, writeFile } from "node:fs/promises";
import { dirname, join } from "node:path";
import { InputError } from "#core/errors";

/** The disk failed where the output was asked for rightly. */
export class OutputError extends Error {}

/** What the codes say of a place that was named wrongly. */
const WRONG: Readonly<Record<string, string>> = {
  ENOENT: "its folder does not exist",
  ENOTDIR: "a file is in the way of its folder",
  EISDIR: "it is a folder",
  EACCES: "this user may not write there",
  EPERM: "this user may not write there",
  EROFS: "it lies on a read-only disk",
  ENAMETOOLONG: "its name is too long",
};

/** Name beside a file under which it is written first: short, since the file's own may be as long as names can be. */
const partOf = (file: string): string => join(dirname(file), `.${randomUUID().slice(0, 8)}.part`);

async function attempt(file: string, work: () => Promise<void>): Promise<void> {
  try {
    await work();
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code ?? String(error);
    const wrong = WRONG[code];
    if (wrong) throw new InputError(`${file}: cannot be written (${wrong})`);
    throw new OutputError(`${file}: cannot be written (${code === "ENOSPC" ? "the disk is full" : code})`);
  }
}

/** Tries whether a file can be written, before hours are spent on it. @throws InputError */
export async function tryOutput(file: string): Promise<void> {
  const part = partOf(file);
  await attempt(file, async () => {
    if ((await stat(file).catch(() => null))?.isDirectory()) throw Object.assign(new Error("a folder"), { code: "EISDIR" });
    if (Buffer.byteLength(file.split("/").at(-1) ?? "") > 255) throw Object.assign(new Error("too long"), { code: "ENAMETOOLONG" });
    await writeFile(part, "");
    await unlink(part);
  });
}

/** Writes beside the target, then moves it into place. @throws InputError where the place is wrong @throws OutputError where the disk fails */
export async function writeWhole(file: string, bytes: Uint8Array | string): Promise<void> {
  const part = partOf(file);
  await attempt(file, async () => {
    try {
      const written = await open(part, "w");
      try {
        await written.writeFile(bytes);
        // before it has its name: what bears it is on the disk
        await written.datasync();
      } finally {
        await written.close();
      }
      await rename(part, file);
    } catch (error) {
      await unlink(part).catch(() => undefined);
      throw error;
    }
  });
}
