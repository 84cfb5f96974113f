/**
 * The queues by which units come to machines: BullMQ on Redis, one for each worker, so that a machine stays with its frame and a check goes
 * to another one. Nothing lies in them that would be lost with them: what is in a queue is handed out anew where it is gone.
 */
import { Queue } from "bullmq";
import { Redis } from "ioredis";
import { InputError } from "#core/errors";
import { shownAddress } from "./address";
import { noticeSchema, type Notice, type Unit } from "./unit";

/** Before all that is Fumarium's in Redis. */
export const PREFIX = "fumarium";
const NOTICE = `${PREFIX}:server`;
/** Seconds for which a notice stands, unless it is put up again. */
const STANDS = 15;

export const queueName = (worker: string): string => `units-${worker}`;

/** Milliseconds between tries to find Redis again. */
const again = (times: number): number => Math.min(2000, 100 * times);

/** Why Redis does not answer, in words. */
export function redisTrouble(error: Error): string {
  const { code } = error as NodeJS.ErrnoException;
  const words = error.message || code || String(error);
  if (/NOAUTH|WRONGPASS|invalid password/i.test(words)) return "Redis refuses the password of its address";
  return `Redis does not answer (${code ?? words})`;
}

/** A connection. @param patient whether commands wait until Redis is back; else they fail at once */
export function connection(address: string, patient: boolean): Redis {
  const redis = new Redis(address, {
    maxRetriesPerRequest: null,
    retryStrategy: again,
    enableOfflineQueue: patient,
    connectTimeout: 5000,
  });
  redis.on("error", () => undefined);
  return redis;
}

/** Looks whether Redis is there at all. @throws InputError */
export async function reach(address: string, what: string): Promise<void> {
  const redis = new Redis(address, { lazyConnect: true, maxRetriesPerRequest: 0, retryStrategy: () => null, connectTimeout: 5000 });
  let cause: Error | null = null;
  redis.on("error", (error: Error) => (cause = error));
  try {
    await redis.connect();
    await redis.ping();
  } catch (error) {
    throw new InputError(`${what} ${shownAddress(address)}: ${redisTrouble(cause ?? (error as Error))}`);
  } finally {
    redis.disconnect();
  }
}

/** What a worker sees of the server. */
export async function readNotice(redis: Redis): Promise<Notice | null> {
  const text = await redis.get(NOTICE);
  if (text === null) return null;
  try {
    return noticeSchema.parse(JSON.parse(text));
  } catch {
    return null;
  }
}

export class Post {
  private readonly redis: Redis;
  private readonly queues = new Map<string, Queue>();
  /** Why Redis cannot be used just now; null where it can. */
  trouble: string | null = "Redis has not answered yet";
  /** What there is to say of how it is set up; null for nothing. */
  warning: string | null = null;
  /** Told when Redis is there again. */
  back: () => void = () => undefined;

  constructor(readonly address: string) {
    this.redis = connection(address, false);
    // each worker's queue listens to it
    this.redis.setMaxListeners(0);
    this.redis.on("ready", () => {
      this.trouble = null;
      void this.look();
      this.back();
    });
    this.redis.on("error", (error: Error) => (this.trouble = redisTrouble(error)));
    this.redis.on("close", () => (this.trouble ??= "Redis has closed the connection"));
  }

  /** Tells workers where the server is. */
  async putUp(notice: Notice): Promise<void> {
    if (this.trouble === null) await this.redis.set(NOTICE, JSON.stringify(notice), "EX", STANDS);
  }

  async takeDown(): Promise<void> {
    if (this.trouble === null) await this.redis.del(NOTICE).catch(() => undefined);
  }

  /** Gives a unit to a worker. @throws Error where Redis is not there */
  async send(worker: string, unit: Unit): Promise<void> {
    if (this.trouble !== null) throw new Error(this.trouble);
    await this.queueOf(worker).add("unit", unit, { jobId: unit.id, removeOnComplete: true, removeOnFail: true });
  }

  /** Whether a unit lies in a worker's queue, or is in its hands. */
  async has(worker: string, unit: string): Promise<boolean> {
    return (await this.queueOf(worker).getJob(unit)) !== undefined;
  }

  /** Empties a worker's queue: it is gone, or told to go. */
  async clear(worker: string): Promise<void> {
    if (this.trouble !== null) throw new Error(this.trouble);
    await this.queueOf(worker).obliterate({ force: true });
    // which leaves it held
    await this.queueOf(worker).resume();
  }

  async close(): Promise<void> {
    await Promise.all([...this.queues.values()].map((q) => q.close().catch(() => undefined)));
    this.redis.disconnect();
  }

  private queueOf(worker: string): Queue {
    const there = this.queues.get(worker);
    if (there) return there;
    // one connection for all of them
    const queue = new Queue(queueName(worker), { connection: this.redis, prefix: PREFIX, skipVersionCheck: true });
    queue.on("error", () => undefined);
    this.queues.set(worker, queue);
    return queue;
  }

  /** Looks how Redis keeps what it is given. */
  private async look(): Promise<void> {
    try {
      const info = await this.redis.info("persistence");
      const save = (await this.redis.config("GET", "save")) as string[];
      this.warning =
        /aof_enabled:0/.test(info) && (save[1] ?? "") === ""
          ? "Redis keeps nothing on disk: after its restart, units that were in hand are handed out anew. Nothing finished is lost."
          : null;
    } catch {
      // it may not be asked
    }
  }
}
