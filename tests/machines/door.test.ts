/** What comes in wrongly: at the door, by the command, from a clock that is another's, with a Redis that keeps nothing. */
import { spawn } from "node:child_process";
import { request } from "node:http";
import { createServer } from "node:net";
import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { setTimeout as wait } from "node:timers/promises";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { envelope, unitOf } from "#machines/unit";
import { foggy } from "../support/foggy";
import { alone, Desk, TOKEN } from "../support/machines";
import { freePort } from "../support/free-port";
import { NO_REDIS, OwnRedis } from "../support/redis";

if (NO_REDIS !== null) console.log(`What comes in wrongly from other machines: ${NO_REDIS}.`);

const until = async (holds: () => boolean): Promise<void> => {
  for (let k = 0; k < 3000 && !holds(); k++) await wait(20);
  expect(holds()).toBe(true);
};

/** Runs the command; the desk answers meanwhile. */
async function worker(args: readonly string[], token: string | null = TOKEN): Promise<{ code: number | null; said: string }> {
  const { FUMARIUM_TOKEN: _, FUMARIUM_REDIS: __, ...env } = process.env;
  const child = spawn(process.execPath, ["bin/fumarium.mjs", "worker", "--threads", "1", ...args], {
    env: { ...env, ...(token === null ? {} : { FUMARIUM_TOKEN: token }) },
    stdio: ["ignore", "ignore", "pipe"],
  });
  let said = "";
  child.stderr.on("data", (d) => (said += d));
  const code = await new Promise<number | null>((done) => child.once("exit", done));
  return { code, said };
}
const refusal = (said: RegExp): object => ({ code: 2, said: expect.stringMatching(said) as string });

describe.skipIf(NO_REDIS !== null)("What comes in wrongly", () => {
  let redis: OwnRedis, desk: Desk;
  beforeAll(async () => {
    redis = await OwnRedis.start();
    desk = await Desk.open(redis.url);
  });
  afterAll(async () => {
    await desk.close();
    await redis.stop();
  });
  const ask = async (method: string, path: string, body: BodyInit | null = null, token = TOKEN) =>
    fetch(`http://127.0.0.1:${desk.door.port}${path}`, { method, body, headers: { authorization: `Bearer ${token}` } });
  const unit = unitOf({ frame: "a".repeat(64), brief: "b".repeat(64), tiles: [0], from: 0, to: 1, check: false });

  it("has no access without the token, whatever it asks", async () => {
    for (const [method, path] of [
      ["GET", `/hash/${"a".repeat(64)}`],
      ["POST", "/beat/x"],
      ["POST", "/input"],
      ["PUT", "/unit"],
      ["POST", "/failed"],
      ["GET", "/"],
    ] as const)
      // prettier-ignore
      for (const token of ["", "another token of tests", `${TOKEN} `])
        expect((await ask(method, path, method === "GET" ? null : "{}", token)).status).toBe(token.trim() === TOKEN ? (await ask(method, path, method === "GET" ? null : "{}")).status : 401);
    expect((await fetch(`http://127.0.0.1:${desk.door.port}/hash/${"a".repeat(64)}`)).status).toBe(401);
  });

  it("is refused in words, and does no harm", async () => {
    const words = async (r: Response): Promise<string> => `${r.status} ${((await r.json()) as { error: string }).error}`;
    expect(await words(await ask("GET", "/hash/../../etc/passwd"))).toMatch(/^404/);
    expect(await words(await ask("GET", "/hash/xyz"))).toMatch(/^422 hash: must be 64/);
    // a file that is there, but that no open frame names
    expect(await words(await ask("GET", `/hash/${"a".repeat(64)}`))).toMatch(/^404 no open frame names/);
    expect(await words(await ask("POST", "/beat/a%20b", "{}"))).toMatch(/^422 name: /);
    expect(await words(await ask("POST", "/beat/a", "{}"))).toMatch(/^422 beat: session/);
    expect(await words(await ask("POST", "/beat/a", "no json"))).toMatch(/^422 request: is no JSON/);
    expect(await words(await ask("POST", "/input", JSON.stringify({ unit, worker: "nobody", session: "1" })))).toMatch(
      /^503 .*does not know this worker/,
    );
    const head = { unit, worker: "nobody", session: "1", kernel: "c".repeat(64), tiles: [] };
    expect(await words(await ask("PUT", "/unit", envelope(head, new Uint8Array(8))))).toMatch(/^503/);
    const changed = envelope(head, new Uint8Array(8));
    changed[changed.length - 1] = 1;
    expect(await words(await ask("PUT", "/unit", changed))).toMatch(/^422 result: its checksum/);
    expect(await words(await ask("PUT", "/unit", "short"))).toMatch(/^422 result: /);
    expect((await ask("DELETE", "/unit")).status).toBe(404);
    // what says no length, or one that nobody has room for, is not read
    expect(await raw({ "transfer-encoding": "chunked" }, "{}")).toMatch(/^422 .*says no length/);
    expect(await raw({ "content-length": "2000000000" }, "{")).toMatch(/^422 .*more than 1500000000 bytes/);
    expect(await raw({ "content-length": "-1" }, "{")).toMatch(/^400/);
  });

  /** A request whose head says what it will. */
  const raw = (headers: Record<string, string>, body: string): Promise<string> =>
    new Promise((done, fail) => {
      const { port } = desk.door;
      const said = request({
        port,
        host: "127.0.0.1",
        method: "PUT",
        path: "/unit",
        headers: { authorization: `Bearer ${TOKEN}`, ...headers },
      });
      said.on("error", fail);
      said.on("response", (answer) => {
        let words = "";
        answer.on("data", (d) => (words += d));
        answer.on("end", () => {
          said.destroy();
          done(`${answer.statusCode} ${words}`);
        });
      });
      // the head goes at once, with what there is of the body
      said.write(body);
      if (headers["transfer-encoding"]) said.end();
    });

  it("by the command: no token, a wrong one, a short one, a wrong address, a Redis that is not there or is none, a name that is taken", async () => {
    expect(await worker(["--redis", redis.url], null)).toMatchObject(refusal(/no token/));
    expect(await worker(["--redis", redis.url], "short")).toMatchObject(refusal(/5 characters; at least 16/));
    const file = join(desk.folder, "token");
    writeFileSync(file, "another token of tests\n");
    expect(await worker(["--redis", redis.url, "--token-file", file], null)).toMatchObject(refusal(/refuses this token/));
    expect(await worker(["--redis", redis.url, "--token-file", join(desk.folder, "none")])).toMatchObject(refusal(/no such file/));
    expect(await worker([])).toMatchObject(refusal(/say where Redis is/));
    for (const url of ["127.0.0.1:6379", "http://127.0.0.1", "redis://"])
      expect(await worker(["--redis", url])).toMatchObject(refusal(/must be an address such as redis:/));
    expect(await worker(["--redis", `redis://127.0.0.1:${await freePort()}`])).toMatchObject(refusal(/does not answer \(ECONNREFUSED\)/));
    expect(await worker(["--redis", redis.url, "--name", "a b"])).toMatchObject(refusal(/--name a b: must be/));
    expect(await worker(["--redis", redis.url, "--threads", "0"])).toMatchObject({ code: 2 });
    expect(await worker(["more"])).toMatchObject(refusal(/takes options only/));
    const there = desk.worker("taken");
    await until(() => desk.office.fleet.machines.has("taken"));
    // the desk answers while the command runs
    const child = desk.process("taken");
    let said = "";
    child.stderr!.on("data", (d) => (said += d));
    const code = await new Promise((done) => child.once("exit", done));
    expect({ code, said }).toEqual(refusal(/a worker named taken is here already/));
    await there.leave();
  });

  it("of a password that Redis does not take", async () => {
    const locked = await OwnRedis.start(["--save", "", "--requirepass", "secret"]);
    expect(await worker(["--redis", locked.url])).toMatchObject(refusal(/refuses the password/));
    await locked.stop();
  });

  it("is warned of where Redis keeps nothing on disk, and not where it does", async () => {
    await until(() => desk.office.post.warning !== null);
    expect(desk.office.post.warning).toMatch(/keeps nothing on disk/);
    const keeping = await OwnRedis.start(["--appendonly", "yes"]);
    const other = await Desk.open(keeping.url);
    await wait(300);
    expect(other.office.post.warning).toBeNull();
    await other.close();
    await keeping.stop();
  });

  it("of a clock that is an hour ahead changes nothing, and is said", async () => {
    const ahead = join(desk.folder, "ahead.mjs");
    writeFileSync(ahead, "const now = Date.now;\nDate.now = () => now() + 3_600_000;\n");
    const doc = foggy({ samples: 6 }, { size: [72, 40] });
    const own = await alone(doc, ["beauty"]);
    desk.process("ahead", { node: ["--import", ahead] });
    const { film, rays } = await desk.render(doc, ["beauty"]);
    expect(Buffer.from(film.data.buffer).equals(Buffer.from(own.data.buffer))).toBe(true);
    expect(rays).toBe(own.rays);
    const machine = desk.office.fleet.machines.get("ahead")!;
    expect(machine.ahead).toBeGreaterThan(3_590_000);
    expect(machine.standing).toBe("works");
    expect(machine.faults).toEqual([]);
  });

  it("with a port that is taken is told", async () => {
    const server = createServer();
    const port = await new Promise<number>((done) =>
      server.listen(0, "127.0.0.1", () => done((server.address() as { port: number }).port)),
    );
    await expect(Desk.open(redis.url, { port })).rejects.toThrow(/port \d+ for workers is taken/);
    server.close();
  });
});
