/** The scene that a worker keeps open between units, and what has the machine alone meanwhile. */
import { createHash } from "node:crypto";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, expect, it } from "vitest";
import { compileScene } from "#core/scene/compile";
import { planFrame, renderedDocument } from "#finals/plan";
import { Workshop } from "#finals/workshop";
import { trialPace } from "#machines/trial";
import { unitOf, type Brief } from "#machines/unit";
import { FileCache } from "#machines/worker/cache";
import { Scenes, type Scene } from "#machines/worker/scenes";
import { foggy } from "../support/foggy";
import { NO_RESOURCES } from "../support/machines";

const folder = mkdtempSync(join(tmpdir(), "fumarium-scenes-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

it("a trial takes its turn between units of a frame, which goes on after it", async () => {
  const workshop = await Workshop.create("build", 1);
  try {
    const document = foggy({ samples: 2 });
    const of: Brief = { document: JSON.stringify(document), passes: ["beauty"], firstSample: 0, strengths: null };
    const bytes = Buffer.from(JSON.stringify(of));
    const brief = createHash("sha256").update(bytes).digest("hex");
    const work = { document, passes: of.passes, firstSample: 0, strengths: null };
    const geometry = compileScene(renderedDocument(work), NO_RESOURCES);
    const { identity } = planFrame(work, geometry, workshop.kernel);
    const scenes = new Scenes(workshop, new FileCache(folder, 1e9, async () => Promise.resolve(bytes)));
    const unit = unitOf({ frame: identity.key, brief, tiles: [0], from: 0, to: 1, check: false });
    const take = async ({ run, plan }: Scene): Promise<number> => (await run.take(0, plan.stages.slice(0, 1), 0)).rays;
    const rays = await scenes.use(unit, take);
    expect(rays).toBeGreaterThan(0);
    const [pace, again] = await Promise.all([scenes.alone(async () => trialPace(workshop)), scenes.use(unit, take)]);
    expect(pace).toBeGreaterThan(0);
    expect(again).toBe(rays);
    await scenes.close();
  } finally {
    workshop.dispose();
  }
});
