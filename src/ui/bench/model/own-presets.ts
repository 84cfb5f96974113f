/** Airs the artist kept: in this browser, and as files to pass on. */
import { z } from "zod";
import { mediumSchema, type Medium } from "#core/document/air";

const KEY = "fumarium.airs";
const MOST = 100;
/** Largest file of airs that is read, bytes. */
const MOST_BYTES = 2_000_000;

const fileSchema = z.strictObject({ fumariumAirs: z.literal(1), airs: z.array(mediumSchema).min(1).max(MOST) });

/** A medium without what ties it to one project: files, objects, what it follows. */
function loose(m: Medium): Medium {
  return {
    ...m,
    on: true,
    follows: null,
    near: null,
    grid: null,
    ...(m.region.kind === "mesh" ? { region: { kind: "everywhere" as const }, edge: 0 } : {}),
  };
}

/** Airs kept in this browser; those that cannot be read are left out. */
export function keptAirs(): Medium[] {
  try {
    const all: unknown = JSON.parse(localStorage.getItem(KEY) ?? "[]");
    return Array.isArray(all) ? all.flatMap((m) => mediumSchema.safeParse(m).data ?? []) : [];
  } catch {
    return [];
  }
}

function store(airs: readonly Medium[]): void {
  localStorage.setItem(KEY, JSON.stringify(airs.slice(0, MOST)));
}

/** Keeps an air by its name; one of the same name is replaced. */
export function keepAir(m: Medium): void {
  store([loose(m), ...keptAirs().filter((k) => k.name !== m.name)]);
}
export function forgetAir(name: string): void {
  store(keptAirs().filter((k) => k.name !== name));
}

/** Airs as a file. */
export const airsToFile = (airs: readonly Medium[]): string => `${JSON.stringify({ fumariumAirs: 1, airs: airs.map(loose) }, null, 2)}\n`;

/** Airs of a file. @throws with words for the user */
export function airsFromText(text: string, what: string): Medium[] {
  if (text.length > MOST_BYTES) throw new Error(`${what}: more than ${MOST_BYTES} characters`);
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
