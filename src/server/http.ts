/** What all endpoints share: reading requests within limits, answering, and turning errors into answers. */
import { STACK_LIMITS } from "#core/compose/stack";
import { LIMITS } from "#core/document/schema";
import { InputError } from "#core/errors";
import type { Endpoint } from "#api/contract";
import { parseBody, type Body, type Bringing, type CheckedDocument } from "./bodies";
import { checkBody } from "./checking";
import { StorageError, storageCause } from "./storage";
import { Conflict, NotFound } from "./store";

export const answer = (value: unknown, status = 200): Response => rawAnswer(JSON.stringify(value), status);

function rawAnswer(json: string, status: number): Response {
  return new Response(json, { status, headers: { "content-type": "application/json", "cache-control": "no-store" } });
}

/** The agreed answer of an endpoint. */
export const answerTo = <P, B, A>(_to: Endpoint<P, B, A>, value: A, status = 200): Response => answer(value, status);

/** Reads a body that brings a stack, whose strokes may be many. @throws InputError */
export async function readStack<P, B, A>(to: Endpoint<P, B, A>, request: Request): Promise<B> {
  if (!to.body) throw new Error("this endpoint takes no body");
  return parseBody(await bytesOf(request, STACK_LIMITS.text + 10_000), to.body);
}

/** Reads the agreed body of an endpoint. @throws InputError */
export async function readBody<P, B, A>(to: Endpoint<P, B, A>, request: Request): Promise<B> {
  if (!to.body) throw new Error("this endpoint takes no body");
  return parseBody(await bytesOf(request, 100_000), to.body);
}

/** An answer with a document, which is not read again on its way out. */
export function answerWith({ text }: CheckedDocument, value: object): Response {
  const rest = JSON.stringify(value).slice(1, -1);
  return rawAnswer(`{"document":${text}${rest ? `,${rest}` : ""}}`, 200);
}

/** A part of the address that the page's name declares. */
export function part(params: Readonly<Record<string, string | undefined>>, name: string): string {
  const value = params[name];
  if (value === undefined) throw new NotFound("There is no such page.");
  return value;
}

/** Runs an endpoint; known errors become answers that say what and where. */
export async function respond(work: () => Promise<Response>): Promise<Response> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof InputError) return answer({ error: error.message, problems: error.problems }, 400);
    if (error instanceof NotFound) return answer({ error: error.message }, 404);
    if (error instanceof Conflict) return answer({ error: error.message, revision: error.revision }, 409);
    const cause = storageCause(error);
    console.error(error);
    if (error instanceof StorageError) return answer({ error: `Nothing can be kept: ${error.message}.` }, 503);
    if (cause) return answer({ error: `This could not be kept: ${cause}.` }, 507);
    return answer({ error: "The server failed on this request." }, 500);
  }
}

/** Reads the body of a request that brings a document. @throws InputError */
export const readDocument = async <K extends Bringing>(kind: K, request: Request): Promise<Body<K>> =>
  checkBody(kind, await bytesOf(request, LIMITS.text + 10_000));

/** A body of at most `limit` bytes, in memory of its own. @throws InputError */
export async function bodyWithin(request: Request, limit: number): Promise<Uint8Array<ArrayBuffer>> {
  return new Uint8Array(await bytesOf(request, limit));
}

/** A body of at most `limit` bytes. @throws InputError */
async function bytesOf(request: Request, limit: number): Promise<Uint8Array> {
  const chunks: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of bodyOf(request)) {
    size += chunk.length;
    if (size > limit) throw new InputError(`request: more than ${limit} bytes`);
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}

/** The body as chunks; empty when there is none. */
export async function* bodyOf(request: Request): AsyncGenerator<Uint8Array> {
  if (!request.body) return;
  const reader = request.body.getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    yield value;
  }
}

/**
 * Whether a request that changes something comes from this application's own pages: browsers send the
 * Origin of every such request, and it must be the host it is sent to.
 */
export function sameOrigin(request: Request): boolean {
  const origin = request.headers.get("origin");
  const host = request.headers.get("host");
  if (!origin || !host) return false;
  try {
    return new URL(origin).host === host;
  } catch {
    return false;
  }
}
