/** What keeping a film costs its render, and what a render in the background costs the server's answers. Ratios within one run. */
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { performance } from "node:perf_hooks";
import { readModel } from "#core/formats/gltf";
import { PASS_NAMES } from "#core/film/passes";
import { FrameRenderer } from "#finals/frame";
import { RenderEngine } from "#engine/engine";
import { nodeHost } from "#engine/node-host";
import { finalSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { compileScene } from "#core/scene/compile";
import { buildPalmHouse, palmHouseDocument } from "../../demo/palm-house";
import { Application } from "../support/application";

/** Seconds between checkpoints: a sixth of what is usual, so that several fall into a short render. */
const EVERY = 5;
const ROUNDS = 3;
const ASKED = 300;

const middle = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!;

export async function benchFinals(): Promise<void> {
  const { mesh } = await readModel(await buildPalmHouse().glb("palm house"));
  const resources = { models: new Map([["palm-house", mesh]]) };
  const plain = palmHouseDocument();
  const document = { ...plain, film: { ...plain.film, size: [656, 368] as [number, number] }, render: { ...plain.render, samples: 8 } };
  const folder = mkdtempSync(join(tmpdir(), "fumarium-bench-"));
  const frames = await FrameRenderer.create("build");
  const engine = await RenderEngine.create(nodeHost("build"));
  engine.setGeometry(compileScene(document, resources));
  const passes = PASS_NAMES.filter((p) => p !== "clear");
  const final = async (every: number | null): Promise<number> => {
    const { seconds, release } = await frames.render(
      { document, passes, strengths: null },
      {
        resources: async () => Promise.resolve(resources),
        checkpoint: every === null ? null : { path: join(folder, "film.checkpoint"), every },
      },
    );
    await release(true);
    return seconds;
  };
  const live = async (): Promise<number> => {
    const [width, height] = document.film.size;
    return (await engine.start({ document, width, height, stages: finalSchedule(0, document.render.samples, MEDIUM_PASSES) })).seconds;
  };
  await final(null);
  // in turns: the machine's speed is not the same for long
  const kept: number[] = [],
    beside: number[] = [];
  for (let i = 0; i < ROUNDS; i++) {
    const [without, often, bench] = [await final(null), await final(EVERY), await live()];
    kept.push(often / without);
    beside.push(bench / without);
  }
  console.log(
    `keeping the film every ${EVERY} s: ×${middle(kept).toFixed(3)} of the time, so ${(((middle(kept) - 1) * 100 * EVERY) / 30).toFixed(1)} % every 30 s (aim 2 %)`,
  );
  console.log(`speed of a final against the bench's own engine: ×${middle(beside).toFixed(2)} (aim 0.9)`);
  frames.dispose();
  engine.dispose();
  rmSync(folder, { recursive: true });
  await benchAnswers();
}

/** The server's answers while it is idle, and while a final is rendered. */
async function benchAnswers(): Promise<void> {
  const app = await Application.start();
  const send = async (path: string, body: unknown): Promise<unknown> =>
    (
      await fetch(app.url + path, {
        method: "POST",
        headers: { origin: app.url, "content-type": "application/json" },
        body: JSON.stringify(body),
      })
    ).json();
  const { id } = (await send("/api/projects", { demo: "palm-house" })) as { id: string };
  const project = (await (await fetch(`${app.url}/api/projects/${id}`)).json()) as { document: object };
  const slowest = async (): Promise<number> => {
    const times: number[] = [];
    for (let i = 0; i < ASKED; i++) {
      const t = performance.now();
      await (await fetch(app.url + (i % 2 ? "/api/projects" : `/api/projects/${id}`))).arrayBuffer();
      times.push(performance.now() - t);
      await new Promise((rested) => setTimeout(rested, 20));
    }
    return times.sort((a, b) => a - b)[Math.floor(0.95 * ASKED)]!;
  };
  await slowest();
  const idle = await slowest();
  const order = {
    ...{ size: [1280, 720], frames: null, fps: 24, samples: 4096, noise: null, seconds: null, seedByFrame: true },
    ...{ clean: false, lightGroups: false, mattes: false, passes: ["beauty"], name: "bench" },
    file: { ending: ".exr", depth: "half", finished: false, alpha: "geometry" },
  };
  await send(`/api/projects/${id}/renders`, { order, document: project.document });
  for (;;) {
    const { renders } = (await (await fetch(`${app.url}/api/renders`)).json()) as { renders: { now: { share: number } | null }[] };
    if ((renders[0]?.now?.share ?? 0) > 0) break;
    await new Promise((rested) => setTimeout(rested, 200));
  }
  const busy = await slowest();
  console.log(
    `95 of 100 answers within ${idle.toFixed(1)} ms idle, ${busy.toFixed(1)} ms while a final is rendered: ×${(busy / idle).toFixed(2)} (aim ×3)`,
  );
  await app.kill();
}
