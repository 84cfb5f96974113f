/** A film by many machines: that of one, bit for bit, whatever their number, order and speed. */
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { PassName } from "#core/film/passes";
import type { SceneDocument } from "#core/document/schema";
import { Ended, type FrameRenderer } from "#finals/frame";
import type { Spread } from "#machines/spread";
import type { Client } from "#machines/worker/client";
import { foggy } from "../support/foggy";
import { alone, Desk, type Strengths } from "../support/machines";
import { NO_REDIS, OwnRedis } from "../support/redis";

if (NO_REDIS !== null) console.log(`Films by many machines: ${NO_REDIS}.`);

/** Lets each result wait for a while by chance, with a seed. */
function slowed(seed: number, longest: number): (own: Client) => Client {
  let state = seed;
  return (own) => {
    const deliver = own.deliver.bind(own);
    own.deliver = async (head, body) => {
      state = (state * 1103515245 + 12345) % 2147483648;
      await wait((longest * state) / 2147483648);
      return deliver(head, body);
    };
    return own;
  };
}

describe.skipIf(NO_REDIS !== null)("A film by many machines", () => {
  let redis: OwnRedis, desk: Desk;
  beforeAll(async () => {
    redis = await OwnRedis.start();
  });
  afterAll(async () => {
    await redis.stop();
  });
  const both: PassName[] = ["beauty", "clear"];

  async function isThatOfOne(
    doc: SceneDocument,
    passes: PassName[],
    workers: readonly { threads?: number; slow?: number }[],
    strengths: Strengths | null = null,
  ): Promise<void> {
    const own = await alone(doc, passes, strengths);
    desk = await Desk.open(redis.url);
    try {
      workers.forEach(({ threads = 1, slow }, i) => desk.worker(`w${i}`, threads, slow ? { client: slowed(i + 1, slow) } : {}));
      const { film, outcome, rays, invalid } = await desk.render(doc, passes, { strengths });
      expect(outcome).toBe("done");
      expect({ rays, invalid }).toEqual({ rays: own.rays, invalid: own.invalid });
      expect(Buffer.from(film.data.buffer).equals(Buffer.from(own.data.buffer))).toBe(true);
      // none is doubted that is right
      expect([...desk.office.fleet.machines.values()].map((m) => m.standing)).not.toContain("faulty");
    } finally {
      await desk.close();
    }
  }

  it("is that of one with 1 worker", () => isThatOfOne(foggy({ samples: 8 }), both, [{}]));
  it("is that of one with 2 workers, of which one has two threads", () => isThatOfOne(foggy({ samples: 8 }), both, [{ threads: 2 }, {}]));
  it("is that of one with 5 workers whose results come late and in another order", () =>
    isThatOfOne(foggy({ samples: 8 }), both, [{ slow: 300 }, { slow: 3000 }, {}, { slow: 1000 }, { slow: 50 }]));
  it("is that of one where units stop for a first look", () =>
    isThatOfOne(foggy({ samples: 70 }, { size: [72, 40] }), both, [{}, { slow: 400 }]));
  it("is that of one where the kernel leaves blocks out by their noise", () =>
    isThatOfOne(foggy({ samples: 40, noiseThreshold: 0.1, minSamples: 6 }, { size: [72, 40] }), both, [{}, { slow: 400 }]));
  it("is that of one where the cleaned picture is judged again and again", () =>
    isThatOfOne(
      foggy({ samples: 24, noiseThreshold: 0.03, thresholdOf: "cleaned", minSamples: 4 }, { size: [72, 40] }),
      ["beauty"],
      [{}, { slow: 400 }],
      { fireflies: 0.5, air: 0.7, surfaces: 0.7 },
    ));
  it("is that of one with air of half size, and of quarter size where blocks are left out", async () => {
    await isThatOfOne(foggy({ samples: 10, airSize: "half" }, { size: [72, 40] }), both, [{}, { slow: 400 }]);
    await isThatOfOne(
      foggy({ samples: 10, airSize: "quarter", noiseThreshold: 0.1, minSamples: 4 }, { size: [72, 40] }),
      ["beauty"],
      [{}, {}],
    );
  });
  it("is that of one where it is held and gone on with again and again, with joints and judgements that count", async () => {
    const strengths = { fireflies: 0.5, air: 0.7, surfaces: 0.7 };
    for (const [doc, how] of [
      [foggy({ samples: 12, airSize: "quarter", noiseThreshold: 0.1, minSamples: 3 }, { size: [72, 40] }), null],
      [foggy({ samples: 16, noiseThreshold: 0.03, thresholdOf: "cleaned", minSamples: 3 }, { size: [72, 40] }), strengths],
    ] as const) {
      const own = await alone(doc, ["beauty"], how);
      desk = await Desk.open(redis.url);
      const path = join(desk.folder, "held.checkpoint");
      try {
        desk.worker("one", 1, { client: slowed(1, 100) });
        desk.worker("two");
        for (const share of [0.15, 0.45, 0.8, 2]) {
          let spread!: Spread, renderer!: FrameRenderer;
          const going = desk.render(doc, ["beauty"], {
            ...{ path, strengths: how, spread: (s: Spread) => (spread = s), renderer: (r: FrameRenderer) => (renderer = r) },
          });
          let over = false;
          const ended = going.then(
            (done) => ({ done }),
            (error: unknown) => ({ error }),
          );
          void ended.then(() => (over = true));
          while (!over && spread.share() < share) await wait(10);
          if (!over) {
            await renderer.hold();
            await renderer.end();
          }
          const result = await ended;
          if ("done" in result) {
            expect(share).toBeGreaterThan(0.5);
            expect(Buffer.from(result.done.film.data.buffer).equals(Buffer.from(own.data.buffer))).toBe(true);
            break;
          }
          expect(result.error).toBeInstanceOf(Ended);
        }
      } finally {
        await desk.close();
      }
    }
  });
  it("of a higher priority goes first, and each is that of one", async () => {
    const docs = [1, 2, 3].map((seed) => foggy({ samples: 8, seed }, { size: [72, 40] }));
    const owns: Awaited<ReturnType<typeof alone>>[] = [];
    for (const doc of docs) owns.push(await alone(doc, ["beauty"]));
    desk = await Desk.open(redis.url);
    try {
      const spreads: Spread[] = [];
      const all = docs.map(async (doc, i) => {
        const job = { id: `job${i}`, priority: i === 2 ? 1 : 0 };
        const { film } = await desk.render(doc, ["beauty"], { job, spread: (s) => (spreads[i] = s) });
        return Buffer.from(film.data.buffer).equals(Buffer.from(owns[i]!.data.buffer));
      });
      // all are there before the worker is
      while (!spreads.every((s) => s.frame !== "")) await wait(10);
      const asked: string[] = [];
      const noted = (own: Client): Client => {
        const input = own.input.bind(own);
        own.input = async (unit) => {
          asked.push(unit.frame);
          return input(unit);
        };
        return own;
      };
      desk.worker("one", 1, { client: noted });
      expect(await Promise.all(all)).toEqual([true, true, true]);
      const first = asked.filter((frame) => frame === spreads[2]!.frame);
      expect(first.length).toBeGreaterThan(0);
      expect(asked.slice(0, first.length)).toEqual(first);
    } finally {
      await desk.close();
    }
  });
  it("is that of one by steps, of a region of the frame", () =>
    isThatOfOne(
      foggy(
        { samples: 6, estimator: "stepping" },
        { region: { x: 0.2, y: 0.1, width: 0.7, height: 0.7 } },
        { air: [{ density: 0.2, noise: { size: 1 }, region: { kind: "box", centre: [0, 1, 0], size: [6, 2, 6] } }] },
      ),
      ["beauty"],
      [{}, {}],
    ));
});
