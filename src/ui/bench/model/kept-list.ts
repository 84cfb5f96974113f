/** Things that the artist kept by name: in this browser, and as files to pass on. */
import type { z } from "zod";
import { siteStorage } from "../../shared/site-storage";

const MAX_KEPT = 100;
/** Largest file that is read, characters. */
const MAX_LENGTH = 2_000_000;

interface Words<T> {
  /** Where it lies in the browser's storage. */
  key: string;
  /** What a file of them begins with, its version, and the key of the list in it. */
  mark: string;
  version: number;
  list: string;
  /** One as it was kept, by this version or by one before. */
  schema: z.ZodType<T>;
  /** The whole of a file. */
  file: z.ZodType<Record<string, unknown>>;
  /** One without what ties it to a project. */
  loose(thing: T): T;
}

export class KeptList<T extends { name: string }> {
  constructor(private readonly words: Words<T>) {}

  /** All that are kept in this browser; those that cannot be read are left out. */
  all(): T[] {
    try {
      const all: unknown = JSON.parse(siteStorage().getItem(this.words.key) ?? "[]");
      return Array.isArray(all) ? all.flatMap((m) => this.words.schema.safeParse(m).data ?? []) : [];
    } catch {
      return [];
    }
  }

  private store(things: readonly T[]): void {
    siteStorage().setItem(this.words.key, JSON.stringify(things.slice(0, MAX_KEPT)));
  }

  /** Keeps one by its name; another of the same name is replaced. */
  keep(thing: T): void {
    this.store([this.words.loose(thing), ...this.all().filter((k) => k.name !== thing.name)]);
  }
  forget(name: string): void {
    this.store(this.all().filter((k) => k.name !== name));
  }

  toFile(things: readonly T[]): string {
    const { mark, version, list, loose } = this.words;
    return `${JSON.stringify({ [mark]: version, [list]: things.map(loose) }, null, 2)}\n`;
  }

  /** Those of a file. @throws with words for the user */
  fromText(text: string, what: string): T[] {
    if (text.length > MAX_LENGTH) throw new Error(`${what}: more than ${MAX_LENGTH} characters`);
    let value: unknown;
    try {
      value = JSON.parse(text);
    } catch {
      throw new Error(`${what}: is not JSON`);
    }
    const found = this.words.file.safeParse(value);
    if (found.success) return (found.data[this.words.list] as T[]).map(this.words.loose);
    const { path, message } = found.error.issues[0]!;
    throw new Error(`${what}: ${path.length > 0 ? `${path.join(".")}: ` : ""}${message}`);
  }
}

/** Most that a file may hold. */
export const MAX_LISTED = MAX_KEPT;
