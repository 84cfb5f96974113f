/** Finals: ordered on the bench, rendered in the background whatever happens to page, server and renderer, and downloaded. */
import { execFile, spawnSync } from "node:child_process";
import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { promisify } from "node:util";
import { unzipSync } from "fflate";
import { decode } from "fast-png";
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { Render } from "#api/contract";
import { readExr, readExrLayers } from "#core/formats/exr-read";
import { Application, eachOnItsPage, openBench, putProject, SMALL } from "./support";

const poll = (of: () => Promise<unknown>) => expect.poll(of, { timeout: 150_000, interval: 200 });
const list = async (app: Application): Promise<Render[]> =>
  ((await (await fetch(`${app.url}/api/renders`)).json()) as { renders: Render[] }).renders;
const send = async (app: Application, method: string, path: string, body: unknown) =>
  fetch(app.url + path, { method, headers: { origin: app.url, "content-type": "application/json" }, body: JSON.stringify(body) });

/** What is asked of a render that the tests order without the form. */
const order = {
  size: [320, 80],
  frames: null,
  fps: 24,
  samples: 64,
  noise: null,
  seconds: null,
  seedByFrame: true,
  clean: false,
  lightGroups: false,
  mattes: false,
  passes: ["beauty", "air", "surfaces"],
  file: { ending: ".exr", depth: "float", finished: false, alpha: "geometry" },
  name: "fog",
};

describe("on the bench", () => {
  const errors: string[] = [];
  let app: Application, page: Page, browser: Browser;
  eachOnItsPage(errors, (a, b, p) => {
    app = a;
    browser = b;
    page = p;
  });
  const final = () => page.getByRole("region", { name: "Final" });

  it("a final of two frames is ordered, goes on without the page, and comes as files", async () => {
    const motion = { times: [0, 1], positions: [[0, 2, 12], [0, 4, 12]], targets: [[0, 2, 0], [0, 2, 0]] }; // prettier-ignore
    const drifting = { ...SMALL, camera: { ...SMALL.camera, motion }, air: [{ ...SMALL.air[0], noise: { size: 3, drift: [2, 0, 0] } }] };
    await openBench(page, app, await putProject(app, drifting));
    await page.locator("body").press("Shift+R");
    await final().getByLabel("Width", { exact: true }).fill("128");
    expect(await final().getByLabel("Height", { exact: true }).inputValue()).toBe("32");
    await final().getByLabel("Several frames").check();
    await final().getByLabel("From", { exact: true }).fill("0");
    await final().getByLabel("To", { exact: true }).fill("24");
    await final().getByLabel("Every", { exact: true }).fill("24");
    await final().getByLabel("Depth", { exact: true }).selectOption("float");
    await final().getByLabel("Passes as").selectOption("parts");
    await final().getByLabel("Compression").selectOption("piz");
    await final().getByLabel("Off surfaces").fill("0");
    await final().getByRole("button", { name: "Render in the background" }).click();
    await final().getByText("It is ordered.").waitFor();
    await page.close();
    await poll(async () => (await list(app)).map((r) => `${r.state} ${r.done}`)).toEqual(["done 2"]);

    page = await browser.newPage();
    await page.goto(`${app.url}/renders`);
    const row = page.locator("li[data-render]");
    await row.getByText("2 of 2 frames").waitFor();
    await row.getByRole("button", { name: "Files" }).click();
    await row.getByRole("list", { name: "Files" }).getByRole("link").first().waitFor();
    expect(await row.getByRole("list", { name: "Files" }).getByRole("link").allTextContents()).toEqual([
      "pillar-in-haze.0000.exr",
      "pillar-in-haze.0024.exr",
    ]);
    const download = page.waitForEvent("download");
    await row.getByRole("link", { name: /zip/ }).click();
    const files = unzipSync(new Uint8Array(readFileSync(await (await download).path())));
    const [first, second] = Object.values(files).map((bytes) => readExrLayers(bytes, "file"));
    // of parts the first is the picture
    expect(readExr(Object.values(files)[0]!).channels.map((c) => c.name)).toEqual(["A", "B", "G", "R"]);
    const told = JSON.parse(first!.attributes!["fumarium.document"]!) as { render: object };
    expect(told.render).toMatchObject({ surfaceBounces: 0 });
    const of = (image: typeof first, name: string) => image!.channels.find((c) => c.name === name)!.values;
    for (const image of [first, second]) {
      expect([image!.width, image!.height]).toEqual([128, 32]);
      // air and surfaces add up to the beauty
      const [r, air, surfaces] = ["R", "air.R", "surfaces.R"].map((name) => of(image, name));
      // within the rounding of single precision
      r!.forEach((v, i) => expect(Math.abs(v - air![i]! - surfaces![i]!)).toBeLessThanOrEqual(2 ** -22 * v));
    }
    // the lens rises two metres in a second
    const lens = (image: typeof first) =>
      (JSON.parse(image!.attributes!["fumarium.document"]!) as { camera: { position: number[] } }).camera;
    expect([lens(first).position, lens(second).position]).toEqual([[0, 2, 12], [0, 4, 12]]); // prettier-ignore
    // the haze drifts
    const change = of(first, "transmittance.R").reduce((sum, v, i) => sum + Math.abs(v - of(second, "transmittance.R")[i]!), 0);
    expect(change).toBeGreaterThan(1);
    // nothing else lies in its folder but the picture
    const [render] = await list(app);
    expect(readdirSync(join(app.data, "renders", render!.id)).sort()).toEqual([
      "picture.png",
      "pillar-in-haze.0000.exr",
      "pillar-in-haze.0024.exr",
    ]);
  });

  it("what is typed wrongly is said; every kept lens is rendered; one is cancelled, tried again, removed and brought back", async () => {
    const lens = (name: string, x: number) => ({ name, camera: { ...SMALL.camera, position: [x, 2, 12] } });
    const id = await putProject(app, { ...SMALL, title: "Two lenses", lenses: [lens("near", 1), lens("far away", 5)] });
    await openBench(page, app, id);
    await page.getByRole("button", { name: "Render", exact: true }).click();
    await final().getByLabel("Samples", { exact: true }).fill("many");
    await final().getByRole("button", { name: "Render in the background" }).click();
    await final()
      .getByRole("alert")
      .getByText(/Samples: many/)
      .waitFor();
    await final().getByLabel("Samples", { exact: true }).fill("60000");
    await final().getByLabel("File name").fill("a/b");
    await final().getByRole("button", { name: "Render in the background" }).click();
    await final().getByRole("alert").waitFor();
    expect((await list(app)).filter((r) => r.projectId === id)).toEqual([]);
    await final().getByLabel("File name").fill("fog");
    await final().getByLabel("What is rendered").selectOption("lenses");
    await final().getByLabel("Kind", { exact: true }).selectOption(".png");
    await final().getByLabel("Depth mask").check();
    await final().getByLabel("Far, m").fill("0.5");
    await final().getByRole("button", { name: "Render in the background" }).click();
    await final()
      .getByRole("alert")
      .getByText(/Far: 0\.5/)
      .waitFor();
    await final().getByLabel("Far, m").fill("20");
    await final().getByLabel("Unit").selectOption("in");
    await final().getByLabel("Dots an inch").fill("64");
    await final().getByLabel("Width", { exact: true }).fill("10");
    expect(await final().getByLabel("Height", { exact: true }).inputValue()).toBe("2.5");
    await final().getByText("640 × 160 pixels").waitFor();
    await final().getByRole("button", { name: "Render in the background" }).click();
    await final().getByText("2 renders are ordered.").waitFor();
    await final().getByRole("link", { name: "To the renders" }).click();
    const row = (name: string) => page.locator("li[data-render]").filter({ has: page.getByRole("heading", { name, exact: true }) });
    // the first is rendered, with a picture, while the second waits
    await row("fog-near").and(page.locator("[data-state=rendering]")).waitFor();
    await row("fog-near").getByRole("img").waitFor();
    await row("fog-far-away").getByRole("button", { name: "Earlier" }).click();
    await poll(async () => page.locator("li[data-render] h2").first().textContent()).toBe("fog-far-away");
    await row("fog-near").getByRole("button", { name: "Pause" }).click();
    await row("fog-near").and(page.locator("[data-state=paused]")).waitFor();
    await row("fog-far-away").and(page.locator("[data-state=rendering]")).waitFor();
    for (const name of ["fog-far-away", "fog-near"]) {
      await row(name).getByRole("button", { name: "Cancel" }).click();
      await row(name).and(page.locator("[data-state=cancelled]")).waitFor();
    }
    await row("fog-near").getByRole("button", { name: "Try again" }).click();
    await row("fog-near").and(page.locator("[data-state=rendering]")).waitFor();
    // long before its samples are done
    await row("fog-near")
      .getByText(/s spent/)
      .waitFor();
    await row("fog-near").getByRole("button", { name: "End now" }).click();
    await row("fog-near").and(page.locator("[data-state=done]")).waitFor();
    await row("fog-near").getByRole("button", { name: "Files" }).click();
    const ended = page.waitForEvent("download");
    await row("fog-near").getByRole("link", { name: "fog-near.png" }).click();
    const picture = decode(new Uint8Array(readFileSync(await (await ended).path())));
    expect([picture.width, picture.height]).toEqual([640, 160]);
    expect(picture.data.some((v) => v > 100)).toBe(true);
    const mask = page.waitForEvent("download");
    await row("fog-near").getByRole("link", { name: "fog-near.depth.png" }).click();
    const grey = decode(new Uint8Array(readFileSync(await (await mask).path())));
    expect([grey.width, grey.height, grey.channels]).toEqual([640, 160, 1]);
    expect(new Set(grey.data).size).toBeGreaterThan(20);
    await row("fog-near").getByRole("button", { name: "Remove" }).click();
    await row("fog-near").waitFor({ state: "detached" });
    await page.getByRole("button", { name: "Bring it back" }).click();
    await row("fog-near").waitFor();
    expect((await list(app)).filter((r) => r.projectId === id).map((r) => r.state).sort()).toEqual(["cancelled", "done"]); // prettier-ignore
  });
});

describe("from a shell", () => {
  let app: Application;
  beforeAll(async () => {
    app = await Application.start();
  });
  afterAll(() => app.kill());

  it("renders are listed, put in order, held, ended and fetched", async () => {
    const project = await putProject(app, SMALL);
    const put = (name: string, more: object) =>
      send(app, "POST", `/api/projects/${project}/renders`, { order: { ...order, name, ...more }, document: SMALL });
    await put("long", { samples: 60_000 });
    await put("next", { samples: 2, file: { ...order.file, layout: "files" }, frames: { from: 1, to: 1, step: 1 } });
    // a test that waits in its own thread finds its connections closed
    const queue = async (...args: string[]) =>
      (await promisify(execFile)(process.execPath, ["bin/fumarium.mjs", "queue", ...args, "--server", app.url])).stdout;
    const lines = async () => (await queue()).trim().split("\n");
    await expect
      .poll(async () => (await lines())[0], { timeout: 60_000 })
      .toMatch(/^[0-9a-f]{8} {2}rendering .* long: 320 × 80, 60000 samples/);
    expect((await lines())[1]).toMatch(/^[0-9a-f]{8} {2}waits .* next: 320 × 80, frames 1 to 1 \(1\), 2 samples, EXR float/);
    const id = (JSON.parse((await queue("--json")).split("\n")[1]!) as { id: string }).id;
    expect(await queue("first", id.slice(0, 8))).toBe(`${id.slice(0, 8)}  next: first\n`);
    expect((await lines())[0]).toContain("next");
    await queue("pause", "long");
    await expect.poll(async () => (await lines())[0], { timeout: 60_000 }).toMatch(/paused.* long/);
    expect((await lines())[1]).toMatch(/done .*next/);
    await queue("resume", "long");
    await expect.poll(async () => (await lines())[0], { timeout: 60_000 }).toMatch(/rendering.* long/);
    await queue("end", "long");
    await expect.poll(async () => (await list(app)).map((r) => r.state), { timeout: 60_000 }).toEqual(["done", "done"]);
    const folder = join(app.data, "fetched");
    expect((await queue("files", "next")).trim().split("\n").sort()).toEqual(["next.air.0001.exr", "next.beauty.0001.exr", "next.surfaces.0001.exr"]); // prettier-ignore
    await queue("get", "next", "long", "-o", folder);
    expect(readdirSync(folder).sort()).toEqual(["long.exr", "next.air.0001.exr", "next.beauty.0001.exr", "next.surfaces.0001.exr"]);
    const [air, surfaces, whole] = ["air", "surfaces", "beauty"].map((layer) => readExr(readFileSync(join(folder, `next.${layer}.0001.exr`))).channels.find((c) => c.name === "R")!.values); // prettier-ignore
    expect(Math.max(...air!)).toBeGreaterThan(1);
    whole!.forEach((v, i) => expect(Math.abs(v - air![i]! - surfaces![i]!)).toBeLessThanOrEqual(2 ** -22 * v));
    // what lies there is left
    writeFileSync(join(folder, "long.exr"), "mine");
    await queue("get", "next", "-o", folder);
    expect(readFileSync(join(folder, "long.exr"), "utf8")).toBe("mine");
    for (const [args, words] of [
      [["pause", "long"], /done cannot become paused/],
      [["pause", "none"], /no render none/],
      [["get", "next"], /-o FOLDER/],
    ] as const)
      // prettier-ignore
      await expect(queue(...args)).rejects.toMatchObject({ code: 2, stderr: expect.stringMatching(words) as string });
    await queue("remove", "next", "long");
    expect(await queue()).toBe("Nothing is rendered.\n");
  });
});

describe("whatever is killed", () => {
  let app: Application;
  beforeAll(async () => {
    app = await Application.start({ FUMARIUM_CHECKPOINT_SECONDS: "0.5" });
  });
  afterAll(() => app.kill());
  const renderers = (): number[] =>
    spawnSync("pgrep", ["-f", "build/renderer.mjs"], { encoding: "utf8" })
      .stdout.split("\n")
      .filter(Boolean)
      .map(Number)
      .filter((pid) => readFileSync(`/proc/${pid}/environ`, "utf8").includes(app.data));

  it("the film is that of a render that nothing happened to, bit for bit", async () => {
    const scene = {
      ...SMALL,
      film: { ...SMALL.film, size: [320, 80] },
      air: [{ density: 0.05, height: { level: 0, scale: 6 }, noise: { size: 2 } }],
    };
    const project = await putProject(app, scene);
    expect((await send(app, "POST", `/api/projects/${project}/renders`, { order, document: scene })).status).toBe(201);
    const share = async () => (await list(app))[0]?.now?.share ?? 0;
    const onTheWay = async (from: number) => {
      await expect.poll(share, { timeout: 60_000, interval: 50 }).toBeGreaterThan(from);
      expect((await list(app))[0]!.state).toBe("rendering");
    };
    await onTheWay(0.05);
    for (const pid of renderers()) process.kill(pid, "SIGKILL");
    await onTheWay(0.15);
    await app.kill();
    await app.run();
    await onTheWay(0.25);
    // everything at once, as a power cut does
    for (const pid of renderers()) process.kill(pid, "SIGKILL");
    await app.kill();
    await app.run();
    await poll(async () => (await list(app))[0]!.state).toBe("done");
    const [render] = await list(app);
    const file = new Uint8Array(readFileSync(join(app.data, "renders", render!.id, "fog.exr")));

    const plain = join(app.data, "plain.json");
    writeFileSync(plain, JSON.stringify({ ...scene, render: { ...scene.render, samples: 64 } }));
    const out = join(app.data, "plain.exr");
    // a test that waits in its own thread finds its connections closed
    const run = await promisify(execFile)(process.execPath, [
      ...["bin/fumarium.mjs", "render", plain, "-o", out],
      ...["--passes", "beauty,air,surfaces", "--depth", "float"],
    ]);
    expect(run.stderr).toBe("");
    const [killed, expected] = [file, new Uint8Array(readFileSync(out))].map((bytes) => readExr(bytes, "file"));
    expect(killed!.channels.map((c) => c.name)).toEqual(expected!.channels.map((c) => c.name));
    // a black picture would say nothing
    expect(Math.max(...killed!.channels.find((c) => c.name === "air.R")!.values)).toBeGreaterThan(1);
    for (const [i, channel] of killed!.channels.entries()) expect(channel.values).toEqual(expected!.channels[i]!.values);
  });

  it("a final whose file is gone fails with words, and one that is asked for from another site is refused", async () => {
    const project = await putProject(app);
    const order = {
      ...(await list(app))[0]!.order,
      passes: ["beauty"],
      samples: 1,
      file: { ending: ".png", depth: "8", finished: false, alpha: "geometry" },
    };
    const missing = { ...SMALL, assets: { set: { uri: "set.glb", sha256: "0".repeat(64) } }, objects: [{ kind: "model", asset: "set" }] };
    const asked = await send(app, "POST", `/api/projects/${project}/renders`, { order, document: missing });
    expect(asked.status).toBe(201);
    const { id } = (await asked.json()) as { id: string };
    const render = async () => (await list(app)).find((r) => r.id === id)!;
    await poll(async () => (await render()).state).toBe("failed");
    expect((await render()).message).toMatch(/set/);
    const r = await fetch(`${app.url}/api/renders/${id}`, {
      method: "PATCH",
      headers: { origin: "http://elsewhere.example", "content-type": "application/json" },
      body: JSON.stringify({ state: "waiting" }),
    });
    expect(r.status).toBe(403);
    expect((await fetch(`${app.url}/api/renders/${id}/files/all.zip`)).status).toBe(200);
    expect((await fetch(`${app.url}/api/renders/${id}/files/..%2Fnow.json`)).status).toBe(404);
    // a small one is a picture that opens
    const small = await send(app, "POST", `/api/projects/${project}/renders`, {
      order: { ...order, size: [64, 16], name: "small" },
      document: SMALL,
    });
    const done = (await small.json()) as { id: string };
    await poll(async () => (await list(app)).find((x) => x.id === done.id)!.state).toBe("done");
    const png = decode(new Uint8Array(await (await fetch(`${app.url}/api/renders/${done.id}/files/small.png`)).arrayBuffer()));
    expect([png.width, png.height]).toEqual([64, 16]);
  });
});
