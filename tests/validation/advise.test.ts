/** Advice finds waste that was planted, leaves alone what matters, and promises what a second trial finds; time is told where it goes. */
import { fileURLToPath } from "node:url";
import { afterAll, describe, expect, it } from "vitest";
import { noLooks, addLook, timeShares } from "#core/budget/time-shares";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import { compileScene } from "#core/scene/compile";
import { finestStep } from "#core/scene/media";
import { boundsInWorld } from "#core/scene/origin";
import { advise, hardlySeen, LIMITS_SEEN, saves, Trials, type AdviseHost, type Advised } from "#engine/advise";
import { candidatesOf } from "#core/budget/candidates";
import { RenderEngine } from "#engine/engine";
import { nodeHost } from "#engine/node-host";
import { finalSchedule, MEDIUM_PASSES } from "#engine/schedule";
import type { PartialDocument } from "../support/kernel";

const build = fileURLToPath(new URL("../../build", import.meta.url));
const ready = RenderEngine.create(nodeHost(build, 2));
afterAll(async () => (await ready).dispose());

const materials = { grey: { baseColor: [0.5, 0.5, 0.5] as [number, number, number] } };
/** A hall with a lamp in haze; a wall with a lamp behind it that the lens never sees. */
const hall = (rest: PartialDocument): SceneDocument =>
  parseDocument({
    ...{ fumarium: 2, materials, sun: { on: false }, sky: { on: false } },
    objects: [
      { kind: "rectangle", size: [30, 30], material: "grey" },
      { kind: "box", position: [0, 4, -6], size: [30, 8, 0.5], material: "grey" },
      { kind: "sphere", position: [1, 1, 0], radius: 1, material: "grey" },
    ],
    camera: { position: [0, 2, 8], target: [0, 1.5, 0] },
    ...rest,
    film: { size: [640, 360], exposure: 5, ...rest.film },
    render: { samples: 64, ...rest.render },
  });
const key = { kind: "point" as const, name: "key", position: [-3, 5, 2] as [number, number, number], intensity: 4000 };
const haze = {
  name: "haze",
  density: 0.04,
  region: { kind: "box" as const, centre: [0, 4, 0] as [number, number, number], size: [30, 8, 20] as [number, number, number] },
};

/** Seconds that a ray and a lookup of density take on a machine that is always as quick: the trials' own clock would tell how busy this one is. */
const RAY = 1e-5,
  LOOKUP = 1e-5;

/** The engine with that machine's clock. */
async function steady(): Promise<AdviseHost["engine"]> {
  const engine = await ready;
  return {
    shared: engine.shared,
    workers: engine.workers,
    setGeometry: (geometry) => engine.setGeometry(geometry),
    start: async (request) =>
      engine.start({
        ...request,
        onStage: (p) => request.onStage?.({ ...p, work: { ...p.work, seconds: RAY * p.work.rays + LOOKUP * p.work.lookups } }),
      }),
  };
}

async function hostOf(doc: SceneDocument): Promise<AdviseHost> {
  const engine = await steady();
  const geometry = compileScene(doc, { models: new Map() });
  return {
    engine,
    // however busy this machine is, all is tried
    now: () => 0,
    geometryOf: (d) => Promise.resolve(compileScene(d, { models: new Map() })),
    facts: { bounds: boundsInWorld(geometry.bounds, geometry.origin), step: finestStep(doc, geometry) },
  };
}
const advised = async (doc: SceneDocument, seconds = 25): Promise<Advised> => advise(await hostOf(doc), doc, seconds);
const rowOf = (found: Advised, id: string): Advised["rows"][number] | undefined => found.rows.find((r) => r.ids[0] === id);

describe("advice", () => {
  it("rests a needless light, which costs samples and is hidden, and leaves the one that lights the hall", async () => {
    // twelve points of each camera ray ask a lamp that stands behind the wall
    const doc = hall({
      air: [haze],
      lights: [key, { kind: "point", name: "hidden", position: [0, 2, -12], intensity: 4000, airSamples: 12 }],
    });
    const found = await advised(doc);
    const off = rowOf(found, "off hidden") ?? rowOf(found, "air of hidden");
    expect(off, JSON.stringify(found.rows.map((r) => [r.ids, r.time]))).toBeDefined();
    expect(off!.time).toBeLessThan(0.75);
    expect(off!.seen.mean).toBeLessThan(0.3 + 2 * off!.seen.error);
    expect(found.rows.some((r) => r.ids.some((id) => id.endsWith(" key")))).toBe(false);
    const { together } = found;
    expect(together!.ids.some((id) => id.endsWith("hidden"))).toBe(true);
    expect(hardlySeen(together!, { mean: 1.3 * LIMITS_SEEN.mean, worst: 1.5 * LIMITS_SEEN.worst })).toBe(true);
    expect(() => parseDocument(together!.apply(doc))).not.toThrow();
  });

  it("leaves out endless noise too thin to be seen, and keeps the haze that is", async () => {
    const region = { kind: "box" as const, centre: [0, 10, 0] as [number, number, number], size: [60, 20, 60] as [number, number, number] };
    const thin = { name: "thin", density: 1e-5, region, noise: { size: 2, octaves: 2 } };
    const doc = hall({ air: [haze, thin], lights: [key], render: { estimator: "stepping", stepSize: 0.8 } });
    const found = await advised(doc, 40);
    const without = rowOf(found, "without thin");
    expect(without, JSON.stringify(found.rows.map((r) => [r.ids, r.time]))).toBeDefined();
    expect(without!.seen.mean).toBeLessThan(0.3 + 2 * without!.seen.error);
    expect(without!.time).toBeLessThan(0.8);
    const haste = found.rows.find((r) => r.ids[0] === "without haze");
    if (haste) expect(haste.seen.mean).toBeGreaterThan(3);
    expect(found.together!.ids).not.toContain("without haze");
  });

  it("coarsens a step ten times too fine", async () => {
    const smoke = {
      name: "smoke",
      density: 0.6,
      region: { kind: "sphere" as const, centre: [-2, 2, 0] as [number, number, number], radius: 2 },
      noise: { size: 1.5, octaves: 2 },
    };
    const doc = hall({ air: [smoke], lights: [key], render: { estimator: "stepping", stepSize: 0.02 } });
    const found = await advised(doc);
    const coarser = found.rows.filter((r) => /^step|^tracking/.test(r.ids[0]!));
    expect(coarser.length).toBeGreaterThan(0);
    expect(Math.min(...coarser.map((r) => r.time))).toBeLessThan(0.6);
    expect(found.together!.ids.some((id) => /^step|^tracking/.test(id))).toBe(true);
    expect(found.together!.time).toBeLessThan(0.6);
  });

  it("finds no saving where a change changes nothing, and no change where one is none", async () => {
    const doc = hall({ air: [haze], lights: [key] });
    const trials = new Trials(await hostOf(doc), doc);
    await trials.begin(1);
    const same = await trials.of([{ id: "same", group: "same", words: "nothing", tooltip: "", apply: (d) => ({ ...d, title: "same" }) }]);
    expect(same.seen).toMatchObject({ mean: 0, worst: 0 });
    expect(same.energy).toBe(0);
    expect(same.noise).toBeCloseTo(1, 9);
    expect(same.time).toBeCloseTo(1, 6);
    expect(saves(same)).toBe(false);
    const dark = candidatesOf(doc, { ...(await hostOf(doc)).facts, lights: [] });
    expect(dark.length).toBeGreaterThan(5);
  });

  it("ends with an error where it is cancelled, and says so in words where nothing is lit", async () => {
    const doc = hall({ air: [haze], lights: [key] });
    const ending = new AbortController();
    ending.abort();
    await expect(advise({ ...(await hostOf(doc)), signal: ending.signal }, doc, 10)).rejects.toThrow(/cancelled/);
    const black = hall({ air: [haze], lights: [] });
    const found = await advised(black, 6);
    for (const row of found.rows) for (const v of [row.time, row.cost, row.noise, row.energy]) expect(Number.isFinite(v)).toBe(true);
  });
});

describe("where the time goes", () => {
  it("is seen at the parts, lights and media that a frame has, and at nothing else", async () => {
    const engine = await ready;
    const doc = hall({ air: [haze], lights: [key], render: { level: "full", airBounces: 3, surfaceBounces: 1 } });
    const geometry = compileScene(doc, { models: new Map() });
    const looked = async (d: SceneDocument): Promise<ReturnType<typeof timeShares>> => {
      engine.setGeometry(geometry);
      const looks = noLooks();
      const timer = setInterval(() => addLook(looks, engine.activity()!, 240, 135), 1);
      await engine.start({ document: d, width: 240, height: 135, stages: finalSchedule(0, 16, MEDIUM_PASSES) });
      clearInterval(timer);
      // nobody is at work any more
      const after = noLooks();
      addLook(after, engine.activity()!, 240, 135);
      expect(after.all).toBe(0);
      // at each place of the frame, and at no other
      const at = looks.places.map(({ lights }) => [...lights.values()].reduce((a, b) => a + b, 0));
      expect(at.reduce((a, b) => a + b, 0)).toBe(looks.all);
      expect(at.filter((n) => n > 0).length).toBeGreaterThan(at.length / 2);
      return timeShares(looks, d, geometry.materials);
    };
    const full = await looked(doc);
    expect(full.looks).toBeGreaterThan(200);
    const names = (rows: { words: string }[]): string[] => rows.map((r) => r.words);
    expect(names(full.parts)).toEqual(expect.arrayContaining(["Air, once", "Air, 2 times", "Surfaces, direct", "Lens rays"]));
    expect(names(full.lights)).toEqual(expect.arrayContaining(["key", "no light"]));
    expect(names(full.media)).toEqual(expect.arrayContaining(["haze", "no medium"]));
    // without air nothing of it is traced, and no bounce beyond the last
    const clear = await looked({ ...doc, air: [], render: { ...doc.render, surfaceBounces: 0 } });
    const share = (of: RegExp): number => clear.parts.reduce((sum, r) => sum + (of.test(r.words) ? r.share : 0), 0);
    expect(share(/^Air/)).toBeLessThan(0.02);
    expect(share(/^Surfaces, bounce|Air and/)).toBe(0);
    expect(share(/^Surfaces, direct|^Lens/)).toBeGreaterThan(0.7);
    expect(names(clear.media)).toEqual(["no medium"]);
  });
});
