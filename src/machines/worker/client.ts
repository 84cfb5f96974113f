/** What a worker asks of its server, and how long it asks: a server that is away comes back, and its answer is waited for. */
import { setTimeout as wait } from "node:timers/promises";
import { InputError } from "#core/errors";
import { Later, Refused } from "../refusals";
import { envelope, inputHead, opened, ordersSchema, type Beat, type Orders, type ResultHead, type Unit } from "../unit";

/** Milliseconds between tries, from the first to the longest; and that an answer may take. */
const TRY = 200;
const LONGEST = 3000;
const PATIENCE = 120_000;

/** The server does not take the token. */
export class Locked extends InputError {}

export class Client {
  private ended = false;

  /** @param url where the server is just now; null: nobody knows */
  constructor(
    private readonly url: () => string | null,
    private readonly token: string,
    readonly name: string,
    readonly session: string,
  ) {}

  /** Nothing more is asked. */
  end(): void {
    this.ended = true;
  }

  /** One try. @throws TypeError and the like where the server cannot be reached; Locked, Refused, Later, InputError */
  private async once(method: string, path: string, body: BodyInit | null, patience: number): Promise<Response> {
    const url = this.url();
    if (url === null) throw new Later("no server tells where it is");
    const response = await fetch(new URL(path, url), {
      ...{ method, body, signal: AbortSignal.timeout(patience) },
      headers: { authorization: `Bearer ${this.token}` },
    });
    if (response.ok || response.status === 410) return response;
    const { error = `answered ${response.status}` } = ((await response.json().catch(() => null)) as { error?: string } | null) ?? {};
    if (response.status === 401) throw new Locked(error);
    if (response.status === 403) throw new Refused(error);
    if (response.status === 422 || response.status === 404) throw new InputError(error);
    throw new Later(error);
  }

  /** Tries until there is an answer. @throws Locked, Refused, InputError */
  private async asked(method: string, path: string, body: BodyInit | null): Promise<Response> {
    for (let pause = TRY; ; pause = Math.min(LONGEST, 2 * pause)) {
      if (this.ended) throw new Refused("the worker ends");
      try {
        return await this.once(method, path, body, PATIENCE);
      } catch (error) {
        if (error instanceof InputError || error instanceof Refused) throw error;
        await wait(pause);
      }
    }
  }

  /** Says what it is at; once. @throws as once() does */
  async beat(beat: Beat): Promise<Orders> {
    const response = await this.once("POST", `/beat/${encodeURIComponent(this.name)}`, JSON.stringify(beat), 8000);
    return ordersSchema.parse(await response.json());
  }

  /** A file by its hash, as it came. @throws InputError where no frame names it */
  async file(hash: string): Promise<Uint8Array> {
    return new Uint8Array(await (await this.asked("GET", `/hash/${hash}`, null)).arrayBuffer());
  }

  /** What a unit begins with; null where it is wanted no more. */
  async input(unit: Unit): Promise<{ settled: number[] | null; body: Uint8Array } | null> {
    for (;;) {
      const response = await this.asked("POST", "/input", JSON.stringify({ unit, worker: this.name, session: this.session }));
      if (response.status === 410) return null;
      try {
        const { head, body } = opened(new Uint8Array(await response.arrayBuffer()), inputHead, "input");
        return { settled: head.settled, body };
      } catch {
        // it was cut off, or changed on its way
        await wait(TRY);
      }
    }
  }

  /** Brings a result. @returns whether it was wanted */
  async deliver(head: ResultHead, body: Uint8Array): Promise<boolean> {
    const response = await this.asked("PUT", "/unit", envelope(head, body));
    return response.status !== 410 && ((await response.json()) as { wanted: boolean }).wanted;
  }

  async failed(unit: Unit, reason: string): Promise<void> {
    await this.asked("POST", "/failed", JSON.stringify({ unit, worker: this.name, session: this.session, reason: reason.slice(0, 2000) }));
  }
}
