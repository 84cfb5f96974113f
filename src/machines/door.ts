/**
 * Where workers come in: HTTP beside the application's own, for those that know the token, bound to this machine unless it is told otherwise.
 * Files and briefs are given by hash; units are asked for, and brought back.
 */
import { createHash, timingSafeEqual } from "node:crypto";
import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import type { z } from "zod";
import { InputError } from "#core/errors";
import type { Office } from "./office";
import { Later, Refused } from "./refusals";
import { beatSchema, envelope, failureSchema, inputAsked, opened, resultHead, workerName } from "./unit";

/** Characters that a token must have. */
export const TOKEN = 16;
/** Bytes of a request that brings words, and of one that brings a unit. */
const WORDS = 8_000_000;
const UNIT = 1_500_000_000;
/** Pieces of memory that are kept for what comes next, and the bytes of one that is too large to be kept. */
const ROOMS = 8,
  LARGE = 32_000_000;

/** A token that is long enough. @throws InputError */
export function tokenOf(text: string | undefined, what: string): string {
  if (text === undefined || text === "")
    throw new InputError(`${what}: no token; server and workers share one of at least ${TOKEN} characters in FUMARIUM_TOKEN`);
  if (text.length < TOKEN) throw new InputError(`${what}: FUMARIUM_TOKEN has ${text.length} characters; at least ${TOKEN} are needed`);
  return text;
}

const digest = (text: string): Buffer => createHash("sha256").update(text).digest();

/** Files by hash; null where there is none. */
export type Files = (hash: string) => Promise<Uint8Array | null>;

export class Door {
  private constructor(
    private readonly server: Server,
    readonly port: number,
  ) {}

  /** @param port 0: any that is free @throws InputError where it cannot be had */
  static async open(office: Office, token: string, files: Files, host: string, port: number): Promise<Door> {
    const known = digest(`Bearer ${token}`);
    const server = createServer({ requestTimeout: 600_000 }, (request, response) => {
      void answerOf(request, response, { office, files, known }).catch(() => response.destroy());
    });
    await new Promise<void>((ready, fail) => {
      server.once("error", (error: NodeJS.ErrnoException) =>
        fail(
          new InputError(
            error.code === "EADDRINUSE" ? `port ${port} for workers is taken; choose another with FUMARIUM_WORKER_PORT` : error.message,
          ),
        ),
      );
      server.listen(port, host, ready);
    });
    return new Door(server, (server.address() as AddressInfo).port);
  }

  async close(): Promise<void> {
    this.server.closeAllConnections();
    await new Promise<void>((done) => this.server.close(() => done()));
  }
}

interface Asked {
  office: Office;
  files: Files;
  known: Buffer;
}

function say(response: ServerResponse, status: number, value: object): void {
  response.writeHead(status, { "content-type": "application/json" });
  response.end(JSON.stringify(value));
}

function give(response: ServerResponse, bytes: Uint8Array): void {
  response.writeHead(200, { "content-type": "application/octet-stream", "content-length": bytes.length });
  response.end(bytes);
}

async function answerOf(request: IncomingMessage, response: ServerResponse, asked: Asked): Promise<void> {
  if (!timingSafeEqual(digest(request.headers.authorization ?? ""), asked.known)) {
    request.resume();
    say(response, 401, { error: "the server refuses this token" });
    return;
  }
  try {
    await route(request, response, asked);
  } catch (error) {
    request.resume();
    if (error instanceof InputError) say(response, 422, { error: error.message });
    else if (error instanceof Refused) say(response, 403, { error: error.message });
    else if (error instanceof Later) say(response, 503, { error: error.message });
    // a disk that has no room may have some later
    else say(response, 503, { error: `it cannot be kept now: ${(error as Error).message}` });
  }
}

async function route(request: IncomingMessage, response: ServerResponse, { office, files }: Asked): Promise<void> {
  const { pathname } = new URL(request.url ?? "/", "http://server");
  const [, kind = "", name = ""] = pathname.split("/");
  const at = `${request.method} ${kind}`;
  switch (at) {
    case "GET hash": {
      if (!/^[0-9a-f]{64}$/.test(name)) throw new InputError("hash: must be 64 hexadecimal digits");
      const bytes = office.briefBytes(name) ?? (office.names(name) ? await files(name) : null);
      if (bytes) give(response, bytes);
      else say(response, 404, { error: "no open frame names this file" });
      return;
    }
    case "POST beat": {
      const worker = parsed(workerName, decodeURIComponent(name), "name");
      say(response, 200, office.beat(worker, await words(request, beatSchema, "beat")));
      return;
    }
    case "POST input": {
      const { unit, worker, session } = await words(request, inputAsked, "unit");
      const input = office.input(unit, worker, session);
      if (input) give(response, envelope({ settled: input.settled }, input.body));
      else say(response, 410, { error: "it is wanted no more" });
      return;
    }
    case "POST failed": {
      const { unit, worker, session, reason } = await words(request, failureSchema, "failure");
      office.failed(unit, worker, session, reason);
      say(response, 200, { done: true });
      return;
    }
    case "PUT unit": {
      const wanted = await withBody(request, UNIT, async (bytes) => {
        const { head, body } = opened(bytes, resultHead, "result");
        return office.deliver(head, body);
      });
      say(response, 200, { wanted });
      return;
    }
    default:
      say(response, 404, { error: "there is nothing here" });
  }
}

function parsed<T>(schema: z.ZodType<T>, value: unknown, what: string): T {
  const { success, data, error } = schema.safeParse(value);
  if (!success) throw new InputError(`${what}: ${error.issues[0]?.path.join(".")} ${error.issues[0]?.message}`);
  return data;
}

/** What a request says. @throws InputError */
const words = <T>(request: IncomingMessage, schema: z.ZodType<T>, what: string): Promise<T> =>
  withBody(request, WORDS, (bytes) => parsed(schema, json(bytes), what));

function json(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length).toString("utf8"));
  } catch {
    throw new InputError("request: is no JSON");
  }
}

/** Memory for what comes in, used again and again: results come by the gigabyte, and new memory takes as long as they do. */
class Rooms {
  private readonly spare: Buffer[] = [];

  /** The smallest there is that has so many bytes, or a new one. */
  take(bytes: number): Buffer {
    const fits = this.spare.filter((room) => room.length >= bytes).sort((a, b) => a.length - b.length)[0];
    if (!fits) return Buffer.allocUnsafeSlow(bytes);
    this.spare.splice(this.spare.indexOf(fits), 1);
    return fits;
  }

  /** Nothing looks at it any more. */
  giveBack(room: Buffer): void {
    if (room.length > LARGE) return;
    this.spare.push(room);
    if (this.spare.length > ROOMS) this.spare.sort((a, b) => b.length - a.length).pop();
  }
}
const rooms = new Rooms();

/** What a request brings, in a room that is free again once that is worked off. @throws InputError where it is too much */
async function withBody<T>(request: IncomingMessage, limit: number, work: (body: Uint8Array) => Promise<T> | T): Promise<T> {
  const told = Number(request.headers["content-length"]);
  if (!(told >= 0)) throw new InputError("request: says no length");
  if (told > limit) throw new InputError(`request: more than ${limit} bytes`);
  const room = rooms.take(told);
  try {
    let size = 0;
    for await (const chunk of request as AsyncIterable<Buffer>) size += chunk.copy(room, size);
    return await work(room.subarray(0, size));
  } finally {
    rooms.giveBack(room);
  }
}
