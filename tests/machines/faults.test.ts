/** What may go wrong with machines and what lies between them: nothing finished is lost, nothing is counted twice. */
import { createServer, connect, type Server, type Socket } from "node:net";
import { open } from "node:fs/promises";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from "vitest";
import type { FrameResult } from "#finals/frame";
import { Ended, FrameRenderer } from "#finals/frame";
import { LEASE, type Machine } from "#machines/fleet";
import type { Source } from "#machines/office";
import type { Spread } from "#machines/spread";
import type { Client } from "#machines/worker/client";
import { foggy } from "../support/foggy";
import { alone, Desk } from "../support/machines";
import { freePort } from "../support/free-port";
import { NO_REDIS, OwnRedis } from "../support/redis";

if (NO_REDIS !== null) console.log(`Faults of many machines: ${NO_REDIS}.`);

const until = async (holds: () => boolean, seconds = 60): Promise<void> => {
  for (const end = Date.now() + 1000 * seconds; !holds(); await wait(20)) if (Date.now() > end) throw new Error("it does not come to pass");
};

/** A way to another port that can be cut. */
class Cuttable {
  private readonly sockets = new Set<Socket>();
  private cut_ = false;
  private constructor(
    private readonly server: Server,
    readonly port: number,
  ) {}
  static async to(port: number): Promise<Cuttable> {
    const own = await freePort();
    const server = createServer((from) => {
      if (way.cut_) return void from.destroy();
      const there = connect(port, "127.0.0.1");
      for (const [a, b] of [
        [from, there],
        [there, from],
      ] as const) {
        // prettier-ignore
        way.sockets.add(a);
        a.on("error", () => b.destroy());
        a.on("close", () => {
          way.sockets.delete(a);
          b.destroy();
        });
        a.pipe(b);
      }
    });
    const way = new Cuttable(server, own);
    await new Promise<void>((ready) => server.listen(own, "127.0.0.1", ready));
    return way;
  }
  set cut(cut: boolean) {
    this.cut_ = cut;
    if (cut) for (const s of this.sockets) s.destroy();
  }
  close(): void {
    this.cut = true;
    this.server.close();
  }
}

describe.skipIf(NO_REDIS !== null)("Faults of many machines", () => {
  const doc = foggy({ samples: 12 });
  let redis: OwnRedis, desk: Desk, own: Awaited<ReturnType<typeof alone>>;
  beforeAll(async () => {
    redis = await OwnRedis.start();
    own = await alone(doc, ["beauty"]);
  });
  afterEach(async () => {
    await desk.close();
  });
  afterAll(async () => {
    await redis.stop();
  });
  const machine = (name: string): Machine<Source> | undefined => desk.office.fleet.machines.get(name);
  const atWork = (name: string) => () => machine(name)?.says === "renders" && (machine(name)?.units.size ?? 0) > 0;
  /** The film is that of one machine, and each ray was counted once. */
  const right = ({ film, rays, outcome, resumed }: FrameResult): void => {
    expect(outcome).toBe("done");
    // a server that ends between a tile and its counts has the tile, and not them
    if (resumed === 0) expect(rays).toBe(own.rays);
    expect(Buffer.from(film.data.buffer).equals(Buffer.from(own.data.buffer))).toBe(true);
  };

  it("a worker that is killed in a unit loses it to others", async () => {
    desk = await Desk.open(redis.url);
    const killed = desk.process("killed");
    const done = desk.render(doc, ["beauty"]);
    await until(atWork("killed"));
    killed.kill("SIGKILL");
    desk.worker("other");
    right(await done);
    expect(machine("killed")?.standing).toBe("silent");
    expect(machine("killed")?.faults.map((f) => f.words)).toEqual(["fell silent with work in hand"]);
  });

  it("a worker that freezes loses its lease; what it brings later is not counted twice, and it works on", async () => {
    desk = await Desk.open(redis.url);
    const frozen = desk.process("frozen");
    let spread!: Spread;
    const done = desk.render(doc, ["beauty"], { spread: (s) => (spread = s) });
    await until(atWork("frozen"));
    frozen.kill("SIGSTOP");
    const since = Date.now();
    await until(() => machine("frozen")?.standing === "silent");
    expect(Date.now() - since).toBeLessThan(LEASE + 5000);
    expect(machine("frozen")?.units.size).toBe(0);
    desk.worker("other", 1, { client: (c) => slowly(c, 700) });
    await until(() => spread.share() > 0.2);
    frozen.kill("SIGCONT");
    await until(() => machine("frozen")?.standing === "works");
    right(await done);
  });

  it("Redis that is restarted and has forgotten all: units are handed out anew", async () => {
    desk = await Desk.open(redis.url);
    desk.worker("one");
    desk.worker("two");
    let spread!: Spread;
    const done = desk.render(doc, ["beauty"], { spread: (s) => (spread = s) });
    await until(() => spread.share() > 0.15);
    await redis.kill();
    await until(() => desk.office.post.trouble !== null);
    await wait(1500);
    await redis.begin();
    right(await done);
    expect(desk.office.post.trouble).toBeNull();
  });

  it("a server that is killed goes on with what was done, and takes what workers had in hand", async () => {
    desk = await Desk.open(redis.url);
    const path = join(desk.folder, "kept.checkpoint");
    desk.process("one");
    desk.process("two");
    const first = desk;
    let spread!: Spread;
    desk.render(doc, ["beauty"], { path, spread: (s) => (spread = s) }).catch(() => undefined);
    await until(() => spread.share() > 0.25);
    const children = [...first.children];
    await first.shut();
    const share = spread.share();
    desk = await Desk.open(redis.url);
    desk.children.push(...children);
    const done = await desk.render(doc, ["beauty"], { path });
    right(done);
    // what a killed server had is there but for what it had not answered yet
    expect(done.resumed).toBeGreaterThan(share - 0.15);
  });

  it("a network that is cut: what was worked off meanwhile is brought once it is there again", async () => {
    const [toRedis, toDoor] = [await Cuttable.to(redis.port), await freePort()];
    desk = await Desk.open(redis.url, { port: toDoor });
    const way = await Cuttable.to(toDoor);
    await desk.announce(`http://127.0.0.1:${way.port}`);
    desk.process("far", { redis: `redis://127.0.0.1:${toRedis.port}` });
    let spread!: Spread;
    const done = desk.render(doc, ["beauty"], { spread: (s) => (spread = s) });
    await until(() => spread.share() > 0.15);
    for (const w of [toRedis, way]) w.cut = true;
    await wait(4000);
    for (const w of [toRedis, way]) w.cut = false;
    right(await done);
    for (const w of [toRedis, way]) w.close();
  });

  it("a worker with another version of the kernel is refused in words, and takes nothing", async () => {
    desk = await Desk.open(redis.url, { kernel: "f".repeat(64) });
    const old = desk.worker("old");
    await until(() => machine("old")?.standing === "refused");
    expect(machine("old")?.words).toMatch(/another version .*ffffffff here.*update it/);
    await until(() => old.words.some((w) => /another version/.test(w)));
    expect(desk.office.fleet.working()).toEqual([]);
    expect(await old.leave()).toMatch(/ended/);
  });

  it("a worker that gives rubbish is found by another's check; all that it did is done again", async () => {
    desk = await Desk.open(redis.url);
    const wrong = (c: Client): Client => {
      const deliver = c.deliver.bind(c);
      c.deliver = async (head, body) => {
        const changed = body.slice();
        const values = new Float32Array(changed.buffer);
        // a little too bright
        for (let i = 0; i < values.length; i++) values[i]! *= 1.001;
        return deliver(head, changed);
      };
      return c;
    };
    desk.worker("wrong", 1, { client: wrong });
    await until(() => machine("wrong")?.standing === "works");
    const done = desk.render(doc, ["beauty"]);
    await until(() => (machine("wrong")?.done ?? 0) > 0);
    desk.worker("good");
    right(await done);
    expect(machine("wrong")?.standing).toBe("faulty");
    expect(machine("good")?.standing).toBe("works");
    expect(machine("good")?.faults).toEqual([]);
  });

  it("numbers that are none, and results that changed on their way, are refused; the unit is done by another", async () => {
    desk = await Desk.open(redis.url);
    let spoilt = 0;
    const wrong = (c: Client): Client => {
      const deliver = c.deliver.bind(c);
      c.deliver = async (head, body) => {
        const changed = body.slice();
        if (spoilt++ % 2 === 0) new Float32Array(changed.buffer)[7] = NaN;
        else return deliver({ ...head, tiles: head.tiles.slice(1) }, changed);
        return deliver(head, changed);
      };
      return c;
    };
    desk.worker("wrong", 1, { client: wrong });
    const done = desk.render(doc, ["beauty"], {});
    await until(() => spoilt > 0);
    desk.worker("good");
    right(await done);
    expect(
      machine("wrong")
        ?.faults.map((f) => f.words)
        .join(),
    ).toMatch(/numbers that are none|says what/);
  });

  it("a unit that every machine fails on fails its frame, in words", async () => {
    desk = await Desk.open(redis.url);
    const failing = (c: Client): Client => {
      c.deliver = async () => Promise.reject(new Error("out of memory"));
      return c;
    };
    desk.worker("one", 1, { client: failing });
    desk.worker("two", 1, { client: failing });
    await until(() => desk.office.fleet.working().length === 2);
    await expect(desk.render(doc, ["beauty"])).rejects.toThrow(/failed on a part of it: out of memory/);
  });

  it("a disk that is full: results wait with their workers, and are taken when there is room", async () => {
    desk = await Desk.open(redis.url);
    const path = join(desk.folder, "full.checkpoint");
    const handle = await open(join(desk.folder, "any"), "w");
    const prototype = Object.getPrototypeOf(handle) as { write: (...args: unknown[]) => unknown };
    await handle.close();
    desk.worker("one");
    desk.worker("two");
    let spread!: Spread, renderer!: FrameRenderer;
    let trouble: Error | null = null;
    const first = desk.render(doc, ["beauty"], {
      ...{ path, spread: (s: Spread) => (spread = s), renderer: (r: FrameRenderer) => (renderer = r) },
      unkept: (error) => (trouble = error),
    });
    first.catch(() => undefined);
    await until(() => spread.share() > 0.15);
    const full = vi.spyOn(prototype, "write").mockImplementation(() => {
      throw Object.assign(new Error("no space left on device"), { code: "ENOSPC" });
    });
    try {
      await until(() => trouble !== null);
      // as the process that renders does
      await renderer.hold();
      await renderer.end();
      await expect(first).rejects.toThrow(Ended);
      await wait(3000);
    } finally {
      full.mockRestore();
    }
    const again = await desk.render(doc, ["beauty"], { path });
    right(again);
    expect(again.resumed).toBeGreaterThan(0);
  });
});

function slowly(c: Client, ms: number): Client {
  const deliver = c.deliver.bind(c);
  c.deliver = async (head, body) => {
    await wait(ms);
    return deliver(head, body);
  };
  return c;
}
