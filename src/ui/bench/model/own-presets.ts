/** Airs the artist kept: in this browser, and as files to pass on. */
import { z } from "zod";
import { mediumSchema, type Medium } from "#core/document/air";
import { mediumFromVersion1 } from "#core/document/migrate";
import { siteStorage } from "../../shared/site-storage";

const KEY = "fumarium.airs";
const MAX_PRESETS = 100;
/** Largest file of airs that is read, bytes. */
const MAX_BYTES = 2_000_000;

/** A medium as it was kept, by this version or by the one before: their names do not overlap, so that either is read. */
const keptSchema = z.preprocess(mediumFromVersion1, mediumSchema);
const fileSchema = z.strictObject({
  fumariumAirs: z.union([z.literal(1), z.literal(2)]),
  airs: z.array(keptSchema).min(1).max(MAX_PRESETS),
});

/** A medium without what ties it to one project: files, objects, what it follows. */
function loose(m: Medium): Medium {
  return {
    ...m,
    on: true,
    follows: null,
    proximity: null,
    grid: null,
    ...(m.region.kind === "mesh" ? { region: { kind: "everywhere" as const }, edge: 0 } : {}),
  };
}

/** Airs kept in this browser; those that cannot be read are left out. */
export function keptAirs(): Medium[] {
  try {
    const all: unknown = JSON.parse(siteStorage().getItem(KEY) ?? "[]");
    return Array.isArray(all) ? all.flatMap((m) => keptSchema.safeParse(m).data ?? []) : [];
  } catch {
    return [];
  }
}

function store(airs: readonly Medium[]): void {
  siteStorage().setItem(KEY, JSON.stringify(airs.slice(0, MAX_PRESETS)));
}

/** Keeps an air by its name; one of the same name is replaced. */
export function keepAir(m: Medium): void {
  store([loose(m), ...keptAirs().filter((k) => k.name !== m.name)]);
}
export function forgetAir(name: string): void {
  store(keptAirs().filter((k) => k.name !== name));
}

/** Airs as a file. */
export const airsToFile = (airs: readonly Medium[]): string => `${JSON.stringify({ fumariumAirs: 2, airs: airs.map(loose) }, null, 2)}\n`;

/** Airs of a file. @throws with words for the user */
export function airsFromText(text: string, what: string): Medium[] {
  if (text.length > MAX_BYTES) throw new Error(`${what}: more than ${MAX_BYTES} characters`);
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new Error(`${what}: is not JSON`);
  }
  const found = fileSchema.safeParse(value);
  if (found.success) return found.data.airs.map(loose);
  const { path, message } = found.error.issues[0]!;
  throw new Error(`${what}: ${path.length > 0 ? `${path.join(".")}: ` : ""}${message}`);
}
