/** A final on other machines, through the real server, workers and pages. */
import { execFile, type ChildProcess, spawn } from "node:child_process";
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { promisify } from "node:util";
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { MachinesNow, Render } from "#api/contract";
import { freePort } from "../support/free-port";
import { NO_REDIS, OwnRedis } from "../support/redis";
import { Application, openBrowser, openBench, putProject, SMALL } from "./support";

if (NO_REDIS !== null) console.log(`A final on other machines: ${NO_REDIS}.`);

const TOKEN = "a token of the tests";
const order = {
  ...{ size: [320, 80], frames: { from: 0, to: 1, step: 1 }, fps: 24, samples: 48, noise: null, seconds: null, seedByFrame: false },
  ...{ clean: false, lightGroups: false, mattes: false, passes: ["beauty", "air", "surfaces"], name: "fog" },
  file: { ending: ".exr", depth: "float", finished: false, alpha: "geometry" },
};

describe.skipIf(NO_REDIS !== null)("a final on other machines", () => {
  let redis: OwnRedis, app: Application, browser: Browser, page: Page, environment: Record<string, string>;
  const workers: ChildProcess[] = [];
  const errors: string[] = [];
  const worker = (name: string): ChildProcess => {
    const child = spawn(
      process.execPath,
      ["bin/fumarium.mjs", "worker", "--redis", redis.url, "--name", name, "--threads", "1", "--cache", join(app.data, "cache")],
      { env: { ...process.env, FUMARIUM_TOKEN: TOKEN }, stdio: ["ignore", "pipe", "pipe"] },
    );
    workers.push(child);
    return child;
  };
  beforeAll(async () => {
    redis = await OwnRedis.start();
    environment = { FUMARIUM_REDIS: redis.url, FUMARIUM_TOKEN: TOKEN, FUMARIUM_WORKER_PORT: String(await freePort()) };
    app = await Application.start(environment);
    browser = await openBrowser();
    page = await browser.newPage();
    page.setDefaultTimeout(90_000);
    page.on("pageerror", (e) => errors.push(e.message));
  });
  afterAll(async () => {
    await browser.close();
    for (const w of workers) w.kill("SIGKILL");
    await app.kill();
    await redis.stop();
  });
  const machines = async (): Promise<MachinesNow> =>
    ((await (await fetch(`${app.url}/api/machines`)).json()) as { machines: MachinesNow }).machines;
  const render = async (): Promise<Render> => ((await (await fetch(`${app.url}/api/renders`)).json()) as { renders: Render[] }).renders[0]!;
  const send = async (path: string, body: unknown, origin = app.url) =>
    fetch(app.url + path, { method: "POST", headers: { origin, "content-type": "application/json" }, body: JSON.stringify(body) });
  const poll = (of: () => Promise<unknown>) => expect.poll(of, { timeout: 150_000, interval: 200 });
  const table = () => page.getByRole("region", { name: "Machines" });

  it("is waited for where there are none, rendered by two through a killed server, and that of one machine, bit for bit", async () => {
    await page.goto(`${app.url}/renders`);
    await table().getByText("None takes part yet.").waitFor();
    // Redis of the tests keeps nothing
    await table().getByText("Redis keeps nothing on disk").waitFor();
    const project = await putProject(app, SMALL);
    const ordered = await send(`/api/projects/${project}/renders`, { order, document: SMALL });
    expect(ordered.status).toBe(201);
    await page.getByText("waits for machines").waitFor();
    worker("one");
    worker("two");
    await table().locator("[data-machine=one][data-standing=works]").waitFor();
    await table().locator("[data-machine=two][data-standing=works]").waitFor();
    await poll(async () => (await render()).now?.share ?? 0).toBeGreaterThan(0.3);
    await app.kill();
    await app.run();
    await poll(async () => (await render()).state).toBe("done");
    expect((await render()).done).toBe(2);
    const scene = join(app.data, "fog.json");
    writeFileSync(scene, JSON.stringify(SMALL));
    await promisify(execFile)(process.execPath, [
      ...["bin/fumarium.mjs", "render", scene, "-o", join(app.data, "whole.####.exr"), "--samples", "48", "--size", "320x80"],
      ...["--frames", "0-1", "--passes", "beauty,air,surfaces", "--depth", "float"],
    ]);
    for (const frame of ["0000", "0001"]) {
      const [far, whole] = [join(app.data, "renders", (await render()).id, `fog.${frame}.exr`), join(app.data, `whole.${frame}.exr`)].map(
        (f) => readFileSync(f),
      ) as [Buffer, Buffer];
      // heads tell different times; what follows is all of the picture
      const length = Math.min(far.length, whole.length) - 16_384;
      expect(length).toBeGreaterThan(50_000);
      expect(far.subarray(-length).equals(whole.subarray(-length))).toBe(true);
    }
  });

  it("machines are drained and removed from the page, and the budget knows how many there are", async () => {
    await openBench(page, app, await putProject(app, SMALL));
    await page.locator("body").press("Shift+B");
    const budget = page.getByRole("region", { name: "Budget" });
    await budget.getByLabel("Limit").selectOption("frame");
    await budget.getByText("2 machines take part, as fast as").waitFor();
    await budget.getByText(/such machines? keeps? this limit|No number of them keeps/).waitFor();
    const shell = async (...args: string[]): Promise<string> =>
      (await promisify(execFile)(process.execPath, ["bin/fumarium.mjs", "machines", ...args, "--server", app.url])).stdout;
    const listed = (await shell()).split("\n");
    expect(listed.filter((line) => /^(one|two) .*1 thread at ×.* units in hand, \d+ done/.test(line))).toHaveLength(2);
    await expect(shell("drain", "three")).rejects.toMatchObject({ code: 2, stderr: expect.stringMatching(/none named three/) as string });
    await expect(shell("away", "one")).rejects.toMatchObject({ code: 2 });
    await page.goto(`${app.url}/renders`);
    const ended = (child: ChildProcess): Promise<number | null> =>
      child.exitCode !== null ? Promise.resolve(child.exitCode) : new Promise((done) => child.once("exit", done));
    await table().getByRole("button", { name: "Drain one" }).click();
    expect(await ended(workers[0]!)).toBe(0);
    await table().locator("[data-machine=one][data-standing=left]").waitFor();
    expect(await shell("remove", "two")).toBe("two: remove\n");
    expect(await ended(workers[1]!)).toBe(0);
    expect((await machines()).machines.map((m) => m.standing)).toEqual(["left", "left"]);
    // from elsewhere nobody is let go, nor is one that is not there
    expect((await send("/api/machines/two", { how: "remove" }, "http://elsewhere.example")).status).toBe(403);
    expect((await send("/api/machines/three", { how: "remove" })).status).toBe(404);
    expect((await send("/api/machines/two", { how: "away" })).status).toBe(400);
    expect(errors).toEqual([]);
  });

  it("without a token this machine renders, and says why", async () => {
    const plain = await Application.start({ FUMARIUM_REDIS: redis.url, FUMARIUM_TOKEN: "short" });
    try {
      await page.goto(`${plain.url}/renders`);
      await table().getByText("this one renders: FUMARIUM_REDIS: FUMARIUM_TOKEN has 5 characters").waitFor();
      const project = await putProject(plain, SMALL);
      await fetch(`${plain.url}/api/projects/${project}/renders`, {
        method: "POST",
        headers: { origin: plain.url, "content-type": "application/json" },
        body: JSON.stringify({ order: { ...order, frames: null, samples: 4 }, document: SMALL }),
      });
      await page.locator("[data-state=done]").waitFor();
    } finally {
      await plain.kill();
    }
  });
});
