/** From untrusted text or values to a valid document, or an error that says what and where. */
import { z } from "zod";
import { InputError } from "../errors";
import { checkCounts } from "./caps";
import { migrateDocument } from "./migrate";
import { atMoment } from "./motion";
import { DOCUMENT_VERSION, LIMITS, documentSchema, type SceneDocument } from "./schema";

function place(path: PropertyKey[]): string {
  let out = "";
  for (const key of path) out += typeof key === "number" ? `[${key}]` : out ? `.${String(key)}` : String(key);
  return out || "document";
}

/** The problems of a Zod error, a line each, at most 20. */
export function problemsOf(error: z.ZodError): string[] {
  const lines: string[] = [];
  for (const issue of error.issues) {
    if (issue.code === "unrecognized_keys") {
      for (const key of issue.keys) lines.push(`${place([...issue.path, key])}: unknown field`);
    } else lines.push(`${place(issue.path)}: ${issue.message}`);
  }
  return lines.length > 20 ? [...lines.slice(0, 20), `… and ${lines.length - 20} more`] : lines;
}

/**
 * Validates a value of this version or an earlier one as a scene document; fills in defaults, and puts what moves where its moment has it.
 * @throws InputError */
export function parseDocument(value: unknown, what = "document"): SceneDocument {
  const version = typeof value === "object" && value !== null ? (value as { fumarium?: unknown }).fumarium : undefined;
  if (typeof version === "number" && version > DOCUMENT_VERSION)
    throw new InputError(
      `${what}: format version ${version} is newer than this program reads (${DOCUMENT_VERSION}); update Fumarium to open it`,
    );
  checkCounts(value, what);
  const result = documentSchema.safeParse(migrateDocument(value));
  if (!result.success) throw new InputError(`${what}: not a valid scene document`, problemsOf(result.error));
  return atMoment(result.data);
}

/** Parses JSON text as a scene document. @throws InputError naming line and column of a syntax error where known */
export function parseDocumentText(text: string, what = "document"): SceneDocument {
  if (text.length > LIMITS.text) throw new InputError(`${what}: ${text.length} characters, more than the limit of ${LIMITS.text}`);
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw new InputError(`${what}: not JSON (${(error as Error).message})`);
  }
  return parseDocument(value, what);
}

/** The published JSON Schema of the document, made from the same definitions. */
export function documentJsonSchema(): Record<string, unknown> {
  const schema = z.toJSONSchema(documentSchema, { io: "input", target: "draft-2020-12" });
  return { ...schema, title: "Fumarium scene document" };
}
