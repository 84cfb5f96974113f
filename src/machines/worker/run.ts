/** fumarium worker: takes units from its queue, works them off on this machine's threads, and brings back what comes of them. */
import { randomUUID } from "node:crypto";
import { hostname } from "node:os";
import { setTimeout as wait } from "node:timers/promises";
import { Worker } from "bullmq";
import { InputError } from "#core/errors";
import { readTile, tileLength, writeTile } from "#engine/tiles";
import { Workshop } from "#finals/workshop";
import { Refused } from "../refusals";
import { redisAddress, shownAddress } from "../address";
import { connection, PREFIX, queueName, reach, readNotice } from "../post";
import { AHEAD } from "../sizes";
import { Pace, trialPace } from "../trial";
import { floatsOf, unitSchema, workerName, type Beat, type Orders, type Spent, type Unit } from "../unit";
import { unjoined } from "../rounds";
import { FileCache } from "./cache";
import { Client, Locked } from "./client";
import { Scenes, type Scene } from "./scenes";

/** Milliseconds between words to the server, and that a lock of the queue holds. */
const BEAT = 2500;
const LOCK = 60_000;
/** Bytes of files that are kept. */
const CACHE = 20e9;

export interface WorkerOptions {
  redis: string;
  name: string;
  threads: number;
  token: string;
  /** Folder for fetched files. */
  cache: string;
  buildDirectory: string;
}

export interface WorkerWays {
  say(line: string): void;
  /** Ends it: with its units done first, or at once. */
  ending: { drain: AbortSignal; leave: AbortSignal };
  /** Where another client takes the place of its own. */
  client?: (own: Client) => Client;
}

/** @returns why it ended, in words @throws InputError where it cannot begin */
export async function runWorker(o: WorkerOptions, ways: WorkerWays): Promise<string> {
  redisAddress(o.redis, "--redis");
  if (!workerName.safeParse(o.name).success)
    throw new InputError(`--name ${o.name}: must be 1 to 40 letters, digits, points, dashes or underscores`);
  await reach(o.redis, "--redis");
  const workshop = await Workshop.create(o.buildDirectory, o.threads);
  try {
    return await new WorkerRun(o, ways, workshop, await trialPace(workshop)).go();
  } finally {
    workshop.dispose();
  }
}

class WorkerRun {
  private readonly session = randomUUID();
  private readonly client: Client;
  private readonly scenes: Scenes;
  private readonly pace: Pace;
  private readonly held = new Map<string, Unit>();
  private url: string | null = null;
  private queue: Worker | null = null;
  private readonly redis;
  private said = "";
  private gone = false;

  constructor(
    private readonly o: WorkerOptions,
    private readonly ways: WorkerWays,
    private readonly workshop: Workshop,
    pace: number,
  ) {
    const own = new Client(() => this.url, o.token, o.name, this.session);
    this.client = ways.client?.(own) ?? own;
    this.scenes = new Scenes(workshop, new FileCache(o.cache, CACHE, (hash) => this.client.file(hash)));
    // a scene that is kept open has the engine: the trial has it once that is ended
    this.pace = new Pace(pace, async () => this.scenes.alone(async () => trialPace(workshop)));
    this.redis = connection(o.redis, true);
  }

  async go(): Promise<string> {
    const { drain, leave } = this.ways.ending;
    let fresh = true,
      draining = drain.aborted;
    try {
      for (;;) {
        await this.lookForServer();
        const orders: Orders | null = this.url === null ? null : await this.beat(fresh, leave.aborted);
        if (orders) fresh = false;
        this.pace.rest(this.held.size === 0 && !draining);
        draining ||= drain.aborted || orders?.orders === "drain";
        if (leave.aborted) return "ended; what was in hand is done by others";
        if (orders?.orders === "leave") return orders.words ?? "the server has no work for it";
        if (orders?.orders === "work" && !draining) this.open();
        if (orders?.orders === "wait") {
          this.once(orders.words ?? "waits");
          this.shut();
        }
        if (draining) {
          this.once("finishes what it has in hand, and ends");
          this.shut();
          if (this.held.size === 0) {
            await this.beat(false, true);
            return "ended, with all that it had in hand done";
          }
        }
        await rest(draining ? BEAT / 10 : BEAT, drain.aborted ? [leave] : [leave, drain]);
      }
    } finally {
      this.gone = true;
      this.client.end();
      await this.queue?.close(true).catch(() => undefined);
      this.redis.disconnect();
      await this.scenes.close();
    }
  }

  /** Says a line, unless it was the last. */
  private once(line: string): void {
    if (line !== this.said) this.ways.say(line);
    this.said = line;
  }

  /** Where the server is, as Redis has it; where Redis is away, as it was. */
  private async lookForServer(): Promise<void> {
    const notice = await Promise.race([readNotice(this.redis).catch(() => undefined), wait(1500, undefined)]);
    if (notice) this.url = notice.url;
    if (this.url === null) this.once(`waits for a server at ${shownAddress(this.o.redis)}`);
  }

  /** @returns what it is told; null where the server does not answer @throws InputError where it can never take part */
  private async beat(fresh: boolean, leaves: boolean): Promise<Orders | null> {
    const beat: Beat = {
      ...{ session: this.session, host: hostname(), threads: this.workshop.engine.workers, kernel: this.workshop.kernel },
      ...{ pace: this.pace.samples, clock: Date.now(), units: [...this.held.values()], says: this.scenes.says, leaves },
    };
    try {
      const orders = await this.client.beat(beat);
      if (orders.orders === "work") this.once(`works for ${this.url} with ${this.workshop.engine.workers} threads`);
      return orders;
    } catch (error) {
      if (error instanceof Locked) throw new InputError(`FUMARIUM_TOKEN: ${error.message}`);
      if (error instanceof Refused && fresh) throw new InputError(`--name ${this.o.name}: ${error.message}`);
      if (error instanceof Refused) return { orders: "leave", words: error.message };
      if (!leaves) this.once(`the server at ${this.url} does not answer; it is waited for`);
      return null;
    }
  }

  /** Begins to take units. */
  private open(): void {
    if (this.queue) return;
    const connect = connection(this.o.redis, true);
    const queue = new Worker(
      queueName(this.o.name),
      async (job) => {
        const parsed = unitSchema.safeParse(job.data);
        // what is no unit is left
        if (parsed.success) await this.take(parsed.data);
      },
      {
        ...{ connection: connect, prefix: PREFIX, concurrency: this.workshop.engine.workers + AHEAD, skipVersionCheck: true },
        ...{ lockDuration: LOCK, stalledInterval: LOCK / 2, maxStalledCount: 1000 },
      },
    );
    queue.on("error", () => undefined);
    queue.on("closed", () => connect.disconnect());
    this.queue = queue;
  }

  /** Takes no more units; those in hand go on. */
  private shut(): void {
    void this.queue?.close().catch(() => undefined);
    this.queue = null;
  }

  private async take(unit: Unit): Promise<void> {
    this.held.set(unit.id, unit);
    try {
      const input = await this.client.input(unit);
      if (!input) return;
      const { body, spent } = await this.scenes.use(unit, (scene) => worked(unit, scene, input));
      const { name } = this.o;
      const head = { unit, worker: name, session: this.session, kernel: this.workshop.kernel, tiles: spent };
      await this.client.deliver(head, body);
    } catch (error) {
      // one that ends leaves its units to others
      if (error instanceof Refused || error instanceof Locked || this.gone) return;
      const reason = error instanceof Error ? error.message : String(error);
      this.ways.say(`unit ${unit.id.slice(0, 8)}: ${reason}`);
      await this.client.failed(unit, reason).catch(() => undefined);
    } finally {
      this.held.delete(unit.id);
    }
  }
}

/** Takes a unit's tiles, as many at once as there are threads. @throws InputError where what it begins with is not of it */
async function worked(
  unit: Unit,
  scene: Scene,
  input: { settled: number[] | null; body: Uint8Array },
): Promise<{ body: Uint8Array; spent: Spent[] }> {
  const { plan, run } = scene;
  const { film } = run;
  const what = `unit ${unit.id.slice(0, 8)}`;
  if (unit.to > plan.stages.length) throw new InputError(`${what}: has stages that are none of the frame's`);
  const places = unit.tiles.map((tile) => tileLength(film, tile));
  const count = places.reduce((a, n) => a + n, 0);
  const empty = unit.from === 0;
  const before = floatsOf(input.body, empty ? 0 : count, what);
  const after = new Float32Array(count);
  const stages = unjoined(plan.stages.slice(unit.from, unit.to));
  let at = 0;
  const spent = await Promise.all(
    unit.tiles.map(async (tile, i): Promise<Spent> => {
      const own = at;
      at += places[i]!;
      return scene.alone(tile, async () => {
        writeTile(film, tile, empty ? null : before.subarray(own, own + places[i]!));
        const { rays, lookups, invalid, seconds } = await run.take(tile, stages, input.settled?.[i] ?? 0);
        readTile(film, tile, after.subarray(own));
        return { rays, lookups, invalid, seconds };
      });
    }),
  );
  return { body: new Uint8Array(after.buffer), spent };
}

/** Waits, or until one of some signals comes. */
async function rest(ms: number, signals: readonly AbortSignal[]): Promise<void> {
  await wait(ms, undefined, { signal: AbortSignal.any([...signals]) }).catch(() => undefined);
}
