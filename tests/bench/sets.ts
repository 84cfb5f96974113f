/** Sets in the application: import of a large one, the table of many lights, the drawing of space with many triangles. */
import type { Page } from "playwright-core";
import { importSet } from "#core/exchange/import/index";
import { readModel } from "#core/formats/gltf";
import { compileTimeVarying, compileScene } from "#core/scene/compile";
import { VolumeBuilder, type Volume } from "#core/data/volume";
import { parseDocument } from "#core/document/parse";
import { decoders } from "#cli/decoders";
import { Model } from "../../demo/kit/model";
import { Application, openBrowser } from "../support/application";

const SIDE = 708;
const TRIANGLES = 2 * SIDE * SIDE;

/** Rolling ground of a million triangles. */
async function ground(): Promise<Uint8Array> {
  const m = new Model({ soil: { baseColor: [0.4, 0.35, 0.3] } });
  m.field("soil", -60, 60, -60, 60, SIDE, SIDE, (x, z) => 1.5 * Math.sin(0.11 * x + 0.3 * Math.sin(0.07 * z)) * Math.cos(0.09 * z));
  return m.glb("ground");
}

async function benchImport(bytes: Uint8Array): Promise<void> {
  const time = async <T>(work: () => T | Promise<T>): Promise<[T, number]> => {
    const t = performance.now();
    const value = await work();
    return [value, performance.now() - t];
  };
  const [set, imported] = await time(() =>
    importSet(new Map([["ground.glb", bytes]]), { decoders, decode: (b) => new TextDecoder().decode(b) }),
  );
  const [model, read] = await time(() => readModel(set.model));
  const doc = parseDocument({
    fumarium: 2,
    assets: { ground: { uri: "ground.glb" } },
    objects: [{ kind: "model", asset: "ground" }],
  });
  const [, built] = await time(() => compileScene(doc, { models: new Map([["ground", model.mesh]]) }));
  // a frame of a sequence of 64³ voxels, between two files, in this set
  const lump = (value: number): Volume => {
    const b = new VolumeBuilder(0);
    for (let k = 0; k < 64; k++) for (let j = 0; j < 64; j++) for (let i = 0; i < 64; i++) b.set(i, j, k, value + (i % 7));
    return b.build([0.1, 0, 0, 0, 0, 0.1, 0, 0, 0, 0, 0.1, 0]);
  };
  const moving = parseDocument({
    ...doc,
    time: 0.5,
    assets: { ...doc.assets, a: { uri: "a.vdb" }, b: { uri: "b.vdb" } },
    air: [{ grid: { asset: "a", high: 8, sequence: { frames: ["a", "b"], rate: 1 } } }],
  });
  const volumes = new Map([["a", { density: lump(1) }], ["b", { density: lump(2) }]]); // prettier-ignore
  const [, frame] = await time(() => compileTimeVarying(moving, { models: new Map(), volumes }));
  console.log(
    `frame of a sequence between two of 64³ voxels: ${frame.toFixed(0)} ms, ×${(frame / built).toFixed(3)} of building the set's tree`,
  );
  console.log(
    `import of ${TRIANGLES} triangles (${(bytes.length / 1e6).toFixed(0)} MB): ${(imported / 1000).toFixed(2)} s, ` +
      `×${(imported / read).toFixed(1)} of reading the stored model, ×${(imported / built).toFixed(2)} of building its tree`,
  );
}

async function post(app: Application, path: string, body: BodyInit, type: string): Promise<{ id: string; sha256: string }> {
  const r = await fetch(`${app.url}${path}`, { method: "POST", headers: { origin: app.url, "content-type": type }, body });
  if (!r.ok) throw new Error(await r.text());
  return (await r.json()) as { id: string; sha256: string };
}
const project = async (app: Application, document: object): Promise<string> =>
  (await post(app, "/api/projects", JSON.stringify({ document: { fumarium: 2, ...document } }), "application/json")).id;

async function open(page: Page, app: Application, id: string): Promise<void> {
  await page.goto(`${app.url}/bench/${id}`);
  await page.waitForFunction(() => document.querySelector<HTMLElement>("[data-testid=phase]")?.dataset.firstPicture, null, {
    timeout: 120_000,
  });
  // the live picture would take the same two cores
  await page.keyboard.press("p");
}

const SMALL = { render: { samples: 1, airSamples: 1, surfaceBounces: 0 }, film: { size: [640, 120] } };

async function benchTable(page: Page, app: Application): Promise<void> {
  const lights = (n: number): object[] =>
    Array.from({ length: n }, (_, i) => ({ kind: "point", name: `lamp ${i}`, position: [i % 32, 2, Math.floor(i / 32)], intensity: 10 }));
  const times: Record<number, { shown: number; sorted: number }> = {};
  for (const n of [10, 1000]) {
    await open(page, app, await project(app, { ...SMALL, lights: lights(n) }));
    const t = performance.now();
    await page.keyboard.press("t");
    await page
      .getByRole("button", { name: /^Strength/ })
      .first()
      .waitFor();
    const shown = performance.now() - t;
    const sorted = await page.evaluate(async () => {
      const drawn = (): Promise<void> => new Promise((done) => requestAnimationFrame(() => setTimeout(done)));
      const head = [...document.querySelectorAll("button")].find((x) => x.textContent?.startsWith("Strength"))!;
      const all: number[] = [];
      for (let i = 0; i < 9; i++) {
        const from = performance.now();
        head.click();
        await drawn();
        all.push(performance.now() - from);
      }
      return all.sort((x, y) => x - y)[4]!;
    });
    times[n] = { shown, sorted };
  }
  const [few, many] = [times[10]!, times[1000]!];
  console.log(
    `table of 1000 lights: opened in ${many.shown.toFixed(0)} ms (×${(many.shown / few.shown).toFixed(1)} of 10 lights), ` +
      `sorted in ${many.sorted.toFixed(0)} ms (×${(many.sorted / few.sorted).toFixed(1)})`,
  );
}

async function benchSpace(page: Page, app: Application, bytes: Uint8Array): Promise<void> {
  const { sha256 } = await post(app, "/api/assets?kind=model", bytes as Uint8Array<ArrayBuffer>, "application/octet-stream");
  const set = { assets: { ground: { uri: "ground.glb", sha256 } }, objects: [{ kind: "model", asset: "ground" }] };
  const figures: { calls: number; milliseconds: number }[] = [];
  for (const [more, triangles] of [
    [{}, 0],
    [set, TRIANGLES],
  ] as const) {
    await open(page, app, await project(app, { ...SMALL, ...more }));
    await page.keyboard.press("x");
    const canvas = page.locator("[data-testid=space] canvas");
    await page.waitForFunction(
      (least) => Number(document.querySelector<HTMLElement>("[data-testid=space] canvas")?.dataset.set ?? -1) >= least,
      triangles,
      { timeout: 120_000 },
    );
    const box = (await canvas.boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    const all: number[] = [];
    for (let i = 1; i <= 12; i++) {
      const before = Number(await canvas.getAttribute("data-drawings"));
      const t = performance.now();
      await page.mouse.move(box.x + box.width / 2 + 8 * i, box.y + box.height / 2);
      await page.waitForFunction(
        (n) => Number(document.querySelector<HTMLElement>("[data-testid=space] canvas")!.dataset.drawings) > n,
        before,
      );
      all.push(performance.now() - t);
    }
    await page.mouse.up();
    figures.push({ calls: Number(await canvas.getAttribute("data-calls")), milliseconds: all.sort((a, b) => a - b)[6]! });
  }
  const [empty, full] = figures as [(typeof figures)[0], (typeof figures)[0]];
  console.log(
    `space with ${TRIANGLES} triangles, drawn in software: ${full.calls} draw calls (${empty.calls} empty), ` +
      `${full.milliseconds.toFixed(0)} ms a drawing, ×${(full.milliseconds / empty.milliseconds).toFixed(1)} of the empty scene`,
  );
}

export async function benchSets(): Promise<void> {
  const bytes = await ground();
  await benchImport(bytes);
  const app = await Application.start();
  const browser = await openBrowser(["--use-angle=swiftshader", "--enable-unsafe-swiftshader"]);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await benchTable(page, app);
    await benchSpace(page, app, bytes);
  } finally {
    await browser.close();
    await app.kill();
  }
}
