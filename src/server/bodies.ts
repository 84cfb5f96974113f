/** Documents on their way in: read, validated, and made the text that is kept. Pure, so that a thread of its own can do it for large ones. */
import { API, type BodyOf } from "#api/contract";
import { parseDocument, problemsOf } from "#core/document/parse";
import { LIMITS, type SceneDocument } from "#core/document/schema";
import { InputError } from "#core/errors";
import type { z } from "zod";

/** A validated document as it is kept, with what a store must know of it. */
export interface CheckedDocument {
  text: string;
  title: string;
  assets: { name: string; uri: string; sha256: string | null }[];
}

/** A validated document as it is kept. @throws InputError where it could not be saved again: all that is said makes it larger than it came */
export function checked(document: SceneDocument): CheckedDocument {
  const text = JSON.stringify(document);
  const size = Buffer.byteLength(text);
  if (size > LIMITS.text)
    throw new InputError(`document: ${size} bytes with all that it leaves unsaid, more than the limit of ${LIMITS.text}`);
  return {
    text,
    title: document.title,
    assets: Object.entries(document.assets).map(([name, { uri, sha256 }]) => ({ name, uri, sha256: sha256 ?? null })),
  };
}

/** Requests that bring a document. */
const BRINGING = {
  create: API.createProject,
  save: API.saveDocument,
  keep: API.keepProof,
  wedge: API.makeWedge,
  render: API.orderRender,
} as const;
export type Bringing = keyof typeof BRINGING;
type Given<K extends Bringing> = BodyOf<(typeof BRINGING)[K]>;
/** A body whose document was validated; what brings none is as it came. */
export type Body<K extends Bringing> = Given<K> extends infer B ? (B extends { document?: unknown } ? Omit<B, "document"> & { document: CheckedDocument } : B) : never; // prettier-ignore

export type Work =
  | { kind: Bringing; bytes: Uint8Array }
  /** A document as it was kept, perhaps by an earlier version, perhaps under another title. */
  | { kind: "stored"; text: string; what: string; title: string | null };

/** Reads and validates. @throws InputError */
export function check(work: Work): unknown {
  if (work.kind === "stored") {
    const document = parseDocument(JSON.parse(work.text), work.what);
    return checked(work.title === null ? document : { ...document, title: work.title.slice(0, 200) });
  }
  const body = parseBody(work.bytes, BRINGING[work.kind].body as z.ZodType<object>);
  return "document" in body ? { ...body, document: checked(parseDocument(body.document)) } : body;
}

/** A JSON body by its schema. @throws InputError */
export function parseBody<T>(bytes: Uint8Array, schema: z.ZodType<T>): T {
  let value: unknown;
  try {
    value = JSON.parse(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length).toString("utf8"));
  } catch {
    throw new InputError("request: the body is not JSON");
  }
  const result = schema.safeParse(value);
  if (!result.success) throw new InputError("request: not as expected", problemsOf(result.error));
  return result.data;
}
