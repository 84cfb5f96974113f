/** How much a document may say in all: counted before it is validated, which costs far more. */
import { InputError } from "../errors";

/** Entries of one list or record, values in all, and how deep they lie in each other. */
export const MAX_ENTRIES = 10_000;
const MAX_VALUES = 1_000_000;
const MAX_DEPTH = 16;

/** Counts what a value holds. @throws InputError naming the first list or record with too much in it */
export function checkCounts(value: unknown, what: string): void {
  let values = 0;
  const open: { value: object; path: string; depth: number }[] = [];
  const look = (v: unknown, path: string, depth: number): void => {
    if (++values > MAX_VALUES) throw new InputError(`${what}: more than ${MAX_VALUES.toLocaleString("en")} values`);
    if (typeof v !== "object" || v === null) return;
    if (depth > MAX_DEPTH) throw new InputError(`${what}: ${path}: lies more than ${MAX_DEPTH} levels deep`);
    open.push({ value: v, path, depth });
  };
  look(value, "document", 0);
  for (let next = open.pop(); next; next = open.pop()) {
    const { value: v, path, depth } = next;
    const below = (key: string): string => (Array.isArray(v) ? `${path}[${key}]` : path === "document" ? key : `${path}.${key}`);
    const keys = Object.keys(v);
    if (keys.length > MAX_ENTRIES)
      throw new InputError(
        `${what}: ${path}: ${keys.length.toLocaleString("en")} entries, more than the limit of ${MAX_ENTRIES.toLocaleString("en")}`,
      );
    for (const key of keys) look((v as Record<string, unknown>)[key], below(key), depth + 1);
  }
}
