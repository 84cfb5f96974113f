/**
 * What the server's one thread takes to hand out units and to take in their results: the product's own office, door, film and checkpoint,
 * with two workers in another process that send numbers without having rendered any.
 */
import { spawn } from "node:child_process";
import { readFileSync } from "node:fs";
import { performance } from "node:perf_hooks";
import { setTimeout as wait } from "node:timers/promises";
import type { SceneDocument } from "#core/document/schema";
import type { readResources } from "#core/scene/assets";
import { compileScene } from "#core/scene/compile";
import { planMemory } from "#core/scene/memory";
import { tileLength, tilesOf } from "#engine/tiles";
import type { Spread } from "#machines/spread";
import { PREFIX, queueName } from "#machines/post";
import { Desk, TOKEN } from "../support/machines";

/** A worker that gives ones, in the words that the door knows. */
const FEIGNED = `
import { Worker } from "bullmq";
import { Redis } from "ioredis";
import { crc32 } from "node:zlib";
const { url, redis, token, kernel, queue, name, prefix, tiles, tileSeconds } = JSON.parse(process.argv[1]);
const headers = { authorization: "Bearer " + token };
const session = name, held = new Map();
const envelope = (head, body) => {
  const text = Buffer.from(JSON.stringify(head));
  const room = Math.ceil(text.length / 4) * 4;
  const out = Buffer.alloc(8 + room + body.length, 0x20);
  text.copy(out, 8);
  out.set(body, 8 + room);
  out.writeUInt32LE(room, 0);
  out.writeUInt32LE(crc32(out.subarray(8)), 4);
  return out;
};
const beat = () => fetch(url + "/beat/" + name, { method: "POST", headers, body: JSON.stringify({
  session, host: "bench", threads: 8, kernel, pace: 1e5, clock: Date.now(), units: [...held.values()], says: "renders", leaves: false }) });
await beat();
setInterval(() => void beat().catch(() => process.exit()), 2500);
new Worker(queue, async ({ data: unit }) => {
  held.set(unit.id, unit);
  await (await fetch(url + "/input", { method: "POST", headers, body: JSON.stringify({ unit, worker: name, session }) })).arrayBuffer();
  const length = unit.tiles.reduce((n, t) => n + tiles[t], 0);
  const spent = unit.tiles.map(() => ({ rays: 1, lookups: 1, invalid: 0, seconds: tileSeconds }));
  const body = envelope({ unit, worker: name, session, kernel, tiles: spent }, new Uint8Array(new Float32Array(length).fill(1).buffer));
  const answer = await fetch(url + "/unit", { method: "PUT", headers, body });
  if (!answer.ok) console.error(answer.status, await answer.text());
  held.delete(unit.id);
}, { connection: new Redis(redis, { maxRetriesPerRequest: null }), prefix, concurrency: 9, skipVersionCheck: true });
`;

type SceneResources = Awaited<ReturnType<typeof readResources>>;

/** Workers. */
const COUNT = 2;

/** What one film took of the thread. */
interface Taken {
  seconds: number;
  /** Of which the thread was at work. */
  busy: number;
  bytes: number;
  units: number;
}

/** Processor seconds of this process's first thread, as Linux counts them: workers and Redis beside it take none of them. */
const threadSeconds = (): number => Number(readFileSync(`/proc/${process.pid}/task/${process.pid}/schedstat`, "utf8").split(" ")[0]) / 1e9;

/** @param tileSeconds that the workers say a tile took: by it goes how many of them a unit has */
async function takeFilm(document: SceneDocument, resources: SceneResources, redis: string, tileSeconds: number): Promise<Taken> {
  const geometry = compileScene(document, resources);
  const [width, height] = document.film.size;
  const { stride } = planMemory(geometry, width * height, document);
  const crop: [number, number, number, number] = [0, 0, width, height];
  const tiles = Array.from({ length: tilesOf(crop).tiles }, (_, i) => tileLength({ width, stride, crop }, i));
  const desk = await Desk.open(redis);
  const { office, door } = desk;
  for (let i = 0; i < COUNT; i++) {
    const name = `feigned${i}`;
    const of = { url: `http://127.0.0.1:${door.port}`, redis, token: TOKEN, kernel: office.kernel, queue: queueName(name), prefix: PREFIX };
    const child = spawn(process.execPath, ["--input-type=module", "-e", FEIGNED, JSON.stringify({ ...of, name, tiles, tileSeconds })], {
      stdio: ["ignore", "inherit", "inherit"],
    });
    desk.children.push(child);
  }
  let spread!: Spread;
  const until = async (share: number): Promise<void> => {
    while ((spread as Spread | undefined)?.share() === undefined || spread.share() <= share) await wait(5);
  };
  const work = desk.render(document, ["beauty", "air", "surfaces"], {
    resources: async () => Promise.resolve(resources),
    spread: (s) => (spread = s),
  });
  // what begins and ends a frame is another matter
  await until(0.05);
  const [since, atWork, before] = [performance.now(), threadSeconds(), { ...office.traffic }];
  await until(0.9);
  const busy = threadSeconds() - atWork;
  const { received, units } = office.traffic;
  const taken = {
    ...{ seconds: (performance.now() - since) / 1000, busy },
    ...{ bytes: received - before.received, units: units - before.units },
  };
  await (await work).release(true);
  await desk.close();
  return taken;
}

/** Prints what a unit takes of the thread, and a byte of it, from films of few large units and of many small ones. */
export async function benchTakingIn(document: SceneDocument, resources: SceneResources, redis: string): Promise<void> {
  const large = await takeFilm(document, resources, redis, 0.3);
  const small = await takeFilm(document, resources, redis, 30);
  // busy = units × a + bytes × b, of both
  const determinant = large.units * small.bytes - small.units * large.bytes;
  const perUnit = (large.busy * small.bytes - small.busy * large.bytes) / determinant;
  const perByte = (large.units * small.busy - small.units * large.busy) / determinant;
  const told = ({ bytes, seconds, busy, units }: Taken): string =>
    `${(bytes / 1e6 / seconds).toFixed(0)} MB and ${(units / seconds).toFixed(0)} units a second, the thread at work ${((100 * busy) / seconds).toFixed(0)} % of the time (${((1e3 * busy) / (bytes / 1e6)).toFixed(1)} ms for 1 MB)`;
  console.log(`taking results in by HTTP, with film and disk: large units ${told(large)}; small ones ${told(small)}`);
  console.log(`so a unit takes ${(1e3 * perUnit).toFixed(2)} ms of the server's thread, and 1 MB ${(1e9 * perByte).toFixed(2)} ms`);
}
