/**
 * What handing out costs: two workers of one thread against two threads of this process, and what a server's parts do in a second. Needs
 * redis-server. Ratios within one run; what is measured is also what the simulation of many machines goes by (simulate-machines.ts).
 */
import { createHash } from "node:crypto";
import { join } from "node:path";
import { performance } from "node:perf_hooks";
import { setTimeout as wait } from "node:timers/promises";
import { Worker } from "bullmq";
import { Redis } from "ioredis";
import type { SceneDocument } from "#core/document/schema";
import { readResources } from "#core/scene/assets";
import { FrameRenderer } from "#finals/frame";
import type { Spread } from "#machines/spread";
import { connection, Post, PREFIX, queueName } from "#machines/post";
import { unitOf, type Unit } from "#machines/unit";
import { ALL_DEMOS } from "../../demo/all";
import { Desk } from "../support/machines";
import { NO_REDIS, OwnRedis } from "../support/redis";
import { benchTakingIn } from "./taking-in";

const ROUNDS = 3;
const SETS = ["palm-house", "lighthouse"];
const JOBS = 2000;
const SAMPLES = 16;

const middle = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!;

async function setOf(
  id: string,
): Promise<{ document: SceneDocument; files: Map<string, Uint8Array>; resources: Awaited<ReturnType<typeof readResources>> }> {
  const set = ALL_DEMOS.find((d) => d.id === id)!;
  const files = new Map<string, Uint8Array>();
  const hashes: Record<string, string> = {};
  const named: Record<string, Uint8Array> = {};
  for (const [name, { bytes }] of Object.entries(await set.build())) {
    hashes[name] = createHash("sha256").update(bytes).digest("hex");
    files.set(hashes[name], bytes);
    named[name] = bytes;
  }
  const made = set.document(hashes);
  const document = { ...made, film: { ...made.film, size: [480, 270] as [number, number] }, render: { ...made.render, samples: SAMPLES } };
  const resources = await readResources(document, async (name) => Promise.resolve(files.get(document.assets[name]!.sha256!)!));
  return { document, files, resources };
}

/** @param taking whether only what comes in is measured */
export async function benchMachines(taking: boolean): Promise<void> {
  if (NO_REDIS !== null) return console.log(`machines: ${NO_REDIS}`);
  const redis = await OwnRedis.start();
  try {
    if (!taking) {
      for (const id of SETS) await benchSet(id, redis.url);
      await benchQueue(redis.url);
    }
    const { document, resources } = await setOf("palm-house");
    await benchTakingIn({ ...document, film: { ...document.film, size: [1920, 1080] } }, resources, redis.url);
  } finally {
    await redis.stop();
  }
}

/** A frame on two threads here, and on two workers of one. */
async function benchSet(id: string, redis: string): Promise<void> {
  const { document, files, resources } = await setOf(id);
  const desk = await Desk.open(redis, { files: async (hash) => Promise.resolve(files.get(hash) ?? null) });
  for (const name of ["one", "two"]) desk.process(name);
  while (desk.office.fleet.working().length < 2) await wait(100);
  const own = await FrameRenderer.create("build", 2);
  const ways = { resources: async () => Promise.resolve(resources) };
  const passes = ["beauty", "air", "surfaces"] as const;
  const alone = async (): Promise<number> => {
    const path = join(desk.folder, "alone.checkpoint");
    const since = performance.now();
    const { release } = await own.render({ document, passes, strengths: null }, { ...ways, checkpoint: { path, every: 30 } });
    const seconds = (performance.now() - since) / 1000;
    await release(true);
    return seconds;
  };
  let last: Spread | null = null;
  const spread = async (): Promise<{ seconds: number; busy: number; units: number }> => {
    const units = desk.office.traffic.units;
    const worked = [...desk.office.fleet.machines.values()].reduce((s, m) => s + m.seconds, 0);
    const since = performance.now();
    const { release } = await desk.render(document, [...passes], { ...ways, spread: (s) => (last = s) });
    const seconds = (performance.now() - since) / 1000;
    await release(true);
    const busy = ([...desk.office.fleet.machines.values()].reduce((s, m) => s + m.seconds, 0) - worked) / (2 * seconds);
    return { seconds, busy, units: desk.office.traffic.units - units };
  };
  // scenes are built, files fetched
  await alone();
  await spread();
  const ratios: number[] = [],
    busy: number[] = [];
  let units = 0,
    took = 0;
  for (let i = 0; i < ROUNDS; i++) {
    const [a, b] = [await alone(), await spread()];
    ratios.push(a / b.seconds);
    busy.push(b.busy);
    units = b.units;
    took = b.seconds;
  }
  console.log(
    `${id}, 480 × 270, ${SAMPLES} samples: two workers of one thread do ×${middle(ratios).toFixed(3)} of two threads here (aim 0.95; ${ratios.map((r) => r.toFixed(3)).join(", ")}); their threads are at tiles ${(100 * middle(busy)).toFixed(1)} % of ${took.toFixed(0)} s, ${units} units`,
  );
  // what tiles took, of those that are whole
  const logs = [...(last as Spread | null)!.found()].map((v) => Math.log(v));
  const mean = logs.reduce((a, v) => a + v, 0) / logs.length;
  const spreading = Math.sqrt(logs.reduce((a, v) => a + (v - mean) ** 2, 0) / logs.length);
  const seconds = logs.reduce((a, v) => a + Math.exp(v), 0);
  console.log(
    `${id}: ${((480 * 270 * SAMPLES) / seconds).toFixed(0)} samples a second of a thread; tiles differ by ${spreading.toFixed(2)} (standard deviation of the logarithm)`,
  );
  own.dispose();
  await desk.close();
}

/** Units a second by Redis, from a server to a worker and done. */
async function benchQueue(url: string): Promise<void> {
  const post = new Post(url);
  while (post.trouble !== null) await wait(20);
  const connect = connection(url, true);
  let taken = 0;
  const worker = new Worker(queueName("bench"), async () => Promise.resolve(void taken++), {
    connection: connect,
    prefix: PREFIX,
    concurrency: 8,
  });
  const unit = (i: number): Unit =>
    unitOf({ frame: "0".repeat(64), brief: "1".repeat(64), tiles: [i, i + 1, i + 2, i + 3], from: 0, to: 8, check: false });
  const since = performance.now();
  for (let i = 0; i < JOBS; i += 50) await Promise.all(Array.from({ length: 50 }, (_, k) => post.send("bench", unit(i + k))));
  while (taken < JOBS) await wait(5);
  const rate = JOBS / ((performance.now() - since) / 1000);
  let sum = 0;
  for (let i = 0; i < 50; i++) {
    const [before, at] = [taken, performance.now()];
    await post.send("bench", unit(JOBS + i));
    while (taken === before) await new Promise((go) => setImmediate(go));
    sum += performance.now() - at;
  }
  const plain = new Redis(url);
  const at = performance.now();
  for (let i = 0; i < 2000; i++) await plain.ping();
  console.log(
    `Redis and BullMQ, server and worker in one process: ${rate.toFixed(0)} units a second, ${(sum / 50).toFixed(2)} ms from the server to a worker; a round trip ${((performance.now() - at) / 2000).toFixed(3)} ms`,
  );
  plain.disconnect();
  await worker.close();
  connect.disconnect();
  await post.close();
}
