import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { keptOrder, API, type RenderOrder } from "#api/contract";
import { parseDocument } from "#core/document/parse";
import { InputError } from "#core/errors";
import { PASS_NAMES } from "#core/film/passes";
import { BlobStore } from "./blobs";
import { checked, parseBody } from "./bodies";
import { openDatabase } from "./db/open";
import { renderedFrames, renders as table, settings } from "./db/schema";
import { giveBack, holder, SILENCE, take } from "./lease";
import { Projects } from "./projects";
import { fileName, framesIn, needsOf, orderedDocument } from "./render-order";
import { Renders } from "./renders";
import { NotFound, Store } from "./store";

const migrations = fileURLToPath(new URL("./db/migrations", import.meta.url));
const scene = parseDocument({ fumarium: 2, title: "fog", air: [{ density: 0.1 }], time: 1, render: { seed: 4294967290 } });
const document = checked(scene);
const order = (more: Partial<RenderOrder> = {}): RenderOrder => ({
  size: [64, 32],
  frames: null,
  fps: 24,
  samples: 8,
  noise: null,
  seconds: null,
  seedByFrame: true,
  clean: false,
  lightGroups: false,
  mattes: false,
  passes: [...PASS_NAMES],
  ...{ level: null, airBounces: null, surfaceBounces: null, airSize: null, estimator: null, whole: false },
  file: { ending: ".exr", depth: "half", finished: false, alpha: "geometry", layout: "layers", compression: "zip", masks: [], dpi: null },
  name: "fog",
  ...more,
});
let renders: Renders, store: Store, clock: number, project: string, folder: string;

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), "fumarium-renders-"));
  clock = 1000;
  store = new Store(await openDatabase(folder, migrations), () => clock++);
  const projects = new Projects(store, new BlobStore(join(folder, "assets")));
  project = await projects.create(document);
  renders = new Renders(store, projects, join(folder, "renders"));
});
const states = async () => (await renders.list()).map((r) => r.state);

describe("renders", () => {
  it("stand in the order in which they were asked for, those that ended last, and are moved", async () => {
    let told = 0;
    renders.onChange = () => told++;
    const ids: string[] = [];
    for (const name of ["a", "b", "c"]) ids.push((await renders.order(project, { document, order: order({ name }) })).id);
    const names = async () => (await renders.list()).map((r) => r.order.name).join("");
    expect(await names()).toBe("abc");
    const [a, b] = await renders.list();
    await renders.change(ids[2]!, { place: (a!.place + b!.place) / 2 });
    expect(await names()).toBe("acb");
    await renders.change(ids[0]!, { state: "cancelled" });
    expect(await names()).toBe("cba");
    expect(told).toBe(5);
    expect(await renders.going()).toEqual({ going: 2, failed: 0, share: null });
  });

  it("of a higher priority stand before others, in their own order", async () => {
    const ids: string[] = [];
    for (const name of ["a", "b", "c", "d"]) ids.push((await renders.order(project, { document, order: order({ name }) })).id);
    const names = async () => (await renders.list()).map((r) => r.order.name).join("");
    await renders.change(ids[2]!, { priority: 1 });
    await renders.change(ids[3]!, { priority: 1 });
    await renders.change(ids[0]!, { priority: -1 });
    expect(await names()).toBe("cdba");
    expect((await renders.list()).map((r) => r.priority)).toEqual([1, 1, 0, -1]);
    await renders.change(ids[2]!, { priority: 0 });
    expect(await names()).toBe("dbca");
  });

  it("are paused, gone on with, cancelled and tried again; and refuse what cannot follow", async () => {
    const { id } = await renders.order(project, { document, order: order() });
    for (const state of ["paused", "waiting", "cancelled", "waiting", "paused", "cancelled"] as const) {
      await renders.change(id, { state });
      expect(await states()).toEqual([state]);
    }
    await expect(renders.change(id, { state: "paused" })).rejects.toThrow(InputError);
    await expect(renders.change(id, { state: "ending" })).rejects.toThrow(InputError);
    await store.database.update(table).set({ state: "rendering" });
    await renders.change(id, { state: "ending" });
    expect(await renders.going()).toMatchObject({ going: 1 });
    await renders.change(id, { state: "cancelled" });
    await store.database.update(table).set({ state: "done" });
    for (const state of ["waiting", "paused", "cancelled"] as const)
      await expect(renders.change(id, { state })).rejects.toThrow(InputError);
    await expect(renders.change("nothing", { state: "paused" })).rejects.toThrow(NotFound);
  });

  it("are removed once they have ended, brought back, and gone with their files after a while", async () => {
    const { id } = await renders.order(project, { document, order: order() });
    await expect(renders.change(id, { deleted: true })).rejects.toThrow(/cancel/);
    await renders.change(id, { state: "cancelled" });
    await renders.change(id, { deleted: true });
    expect(await renders.list()).toEqual([]);
    await renders.change(id, { deleted: false });
    expect(await states()).toEqual(["cancelled"]);
    await renders.change(id, { deleted: true });
    await renders.sweep(1e6);
    await renders.change(id, { deleted: false });
    await renders.change(id, { deleted: true });
    clock += 1e6;
    await renders.sweep(1e5);
    await expect(renders.change(id, { deleted: false })).rejects.toThrow(NotFound);
  });

  it("have the files of frames that are done, and no others", async () => {
    const { id } = await renders.order(project, { document, order: order({ frames: { from: 1, to: 4, step: 1 } }) });
    const frame = { renderId: id, file: "fog.0001.exr", bytes: 3, seconds: 2, samples: 8, noise: 0.1, cleanedNoise: null };
    await store.database.insert(renderedFrames).values([
      { ...frame, frame: 2, file: "fog.0002.exr", noise: 0.2 },
      { ...frame, frame: 1 },
    ]);
    for (const name of ["fog.0001.exr", ".secret"]) writeFileSync(join(renders.folderOf(id), name), "abc");
    expect((await renders.files(id)).map((f) => f.frame)).toEqual([1, 2]);
    const [r] = await renders.list();
    expect(r).toMatchObject({ done: 2, frames: 4, seconds: 4, bytes: 6 });
    expect(r!.noise).toBeCloseTo(0.15);
    expect(await renders.file(id, "fog.0001.exr")).toBe(join(renders.folderOf(id), "fog.0001.exr"));
    // written down, but gone from the disk; there, but none of its files; elsewhere
    for (const name of ["fog.0002.exr", ".secret", "../../fumarium.db"]) await expect(renders.file(id, name)).rejects.toThrow(NotFound);
    expect(() => renders.folderOf("../assets")).toThrow(NotFound);
  });

  it("refuse what this machine has no room for, and what is no document", async () => {
    const huge = { size: [4096, 4096] as [number, number], frames: { from: 0, to: 9999, step: 1 } };
    await expect(
      renders.order(project, { document, order: order({ ...huge, file: { ...order().file, depth: "float" } }) }),
    ).rejects.toThrow(/disk|memory/);
    await expect(renders.order(project, { document, order: order({ size: [16384, 16384] }) })).rejects.toThrow(InputError);
    await expect(renders.order("nothing", { document, order: order() })).rejects.toThrow(NotFound);
    expect(await renders.list()).toEqual([]);
  });

  it("tell of no frame in hand where its file is torn", async () => {
    const { id } = await renders.order(project, { document, order: order() });
    writeFileSync(join(renders.folderOf(id), "now.json"), '{"share": 0.');
    expect((await renders.list())[0]!.now).toBeNull();
  });

  it("keep how many threads render", async () => {
    await renders.setThreads({ alone: 7, beside: 3 });
    await renders.setThreads({ alone: 5, beside: 2 });
    expect(await renders.threads()).toEqual({ alone: 5, beside: 2 });
  });
});

describe("an order", () => {
  const body = (o: unknown) => parseBody(Buffer.from(JSON.stringify({ order: o, document: {} })), API.orderRender.body!);

  it.each([
    ["a name with folders", { name: "../fog" }],
    ["a hidden name", { name: ".fog" }],
    ["a name with a zero byte", { name: "fog\u0000" }],
    ["no name", { name: "" }],
    ["frames that end before they begin", { frames: { from: 9, to: 2, step: 1 } }],
    ["frames without end", { frames: { from: 0, to: 9_999_999, step: 1 } }],
    ["a step of none", { frames: { from: 0, to: 9, step: 0 } }],
    ["no passes", { passes: [] }],
    ["a pass that is not", { passes: ["smell"] }],
    ["a size of none", { size: [0, 10] }],
    ["a depth that its kind has not", { file: { ending: ".png", depth: "half", finished: false, alpha: "air" } }],
    ["no samples", { samples: 0 }],
    ["noise of none", { noise: { threshold: 0, of: "cleaned" } }],
    ["no frames a second", { fps: 0 }],
  ])("with %s is refused", (_, wrong) => {
    expect(() => body(order())).not.toThrow();
    expect(() => body({ ...order(), ...wrong })).toThrow(InputError);
  });

  it("makes of its document what a frame of it is: moment, seed, size, samples", () => {
    const o = order({ frames: { from: 10, to: 30, step: 10 }, noise: { threshold: 0.02, of: "cleaned" }, mattes: true });
    expect(framesIn(o)).toEqual([10, 20, 30]);
    expect(framesIn(order())).toEqual([null]);
    const d = orderedDocument(scene, o, 12);
    expect(d.time).toBe(1.5);
    // it goes round
    expect(d.render.seed).toBe(6);
    expect(d.film).toMatchObject({ size: [64, 32], mattes: true });
    expect(d.render).toMatchObject({ samples: 8, noiseThreshold: 0.02, thresholdOf: "cleaned" });
    expect(orderedDocument(scene, order({ seedByFrame: false }), 12).render.seed).toBe(4294967290);
    expect(orderedDocument(scene, order(), null).time).toBe(1);
    expect(fileName(order({ name: "a##b" }), 7, "air.lamp/left")).toBe("a.air.lamp_left.07b.exr");
    const final = order({ level: "full", airBounces: 9, surfaceBounces: 0, airSize: "half", estimator: "stepping", whole: true });
    const region = { x: 0, y: 0, width: 0.5, height: 0.5 };
    const cut = parseDocument({ ...scene, film: { ...scene.film, region } });
    expect(orderedDocument(cut, order(), null).film.region).toEqual(region);
    expect(orderedDocument(cut, final, null)).toMatchObject({
      film: { region: null },
      render: { level: "full", airBounces: 9, surfaceBounces: 0, airSize: "half", estimator: "stepping" },
    });
    expect([fileName(o, 10), fileName(order(), null), fileName(order({ name: "a##b" }), 7)]).toEqual([
      "fog.0010.exr",
      "fog.exr",
      "a07b.exr",
    ]);
  });

  it("says of what goes on that the disk is full, where it is", async () => {
    const { id } = await renders.order(project, { document, order: order() });
    const said = async (): Promise<string | null> => (await renders.list()).find((r) => r.id === id)!.message;
    expect(await said()).toBeNull();
    const free = vi.spyOn(renders, "free").mockResolvedValue(4096);
    expect(await said()).toBe("The disk is full: it goes on when there is room.");
    await renders.change(id, { state: "cancelled" });
    expect(await said()).toBeNull();
    free.mockRestore();
  });

  it("reads orders that versions before this one kept", () => {
    const { level: _, airBounces: _a, surfaceBounces: _s, airSize: _i, estimator: _e, whole: _w, file, ...before } = order();
    const { layout: _l, compression: _c, masks: _m, dpi: _d, ...plain } = file;
    expect(keptOrder(JSON.stringify({ ...before, file: plain }))).toEqual(order());
    expect(() => keptOrder("{}")).toThrow();
  });

  it("needs more for more pixels, layers and frames", () => {
    const small = needsOf(scene, order());
    expect(needsOf(scene, order({ size: [128, 64] })).disk).toBeCloseTo(4 * small.disk, -2);
    expect(needsOf(scene, order({ lightGroups: true })).memory).toBeGreaterThan(small.memory);
    expect(needsOf(scene, order({ frames: { from: 1, to: 10, step: 1 } })).disk).toBeGreaterThan(2 * small.disk);
    expect(needsOf(scene, order({ clean: true })).memory).toBeGreaterThan(small.memory);
    // the air as it is sampled lies in the film once more
    expect(needsOf(scene, order({ airSize: "half" })).memory).toBeGreaterThan(small.memory);
  });
});

describe("the lease of a folder", () => {
  it("is one process's at a time, given back, and let go where its process is dead or silent", async () => {
    expect(await holder(store)).toBeNull();
    expect(await take(store, "a")).toBe(true);
    expect(await take(store, "b")).toBe(false);
    expect(await holder(store)).toBe("a");
    await giveBack(store, "b");
    expect(await holder(store)).toBe("a");
    await giveBack(store, "a");
    expect(await take(store, "b")).toBe(true);
    clock += SILENCE;
    expect(await take(store, "a")).toBe(true);
    // a clock that was set back does not keep it for ever
    clock -= 10 * SILENCE;
    expect(await take(store, "b")).toBe(true);
    const [row] = await store.database.select().from(settings);
    const held = JSON.parse(row!.value) as object;
    // no process has the number 2³⁰
    await store.database.update(settings).set({ value: JSON.stringify({ ...held, pid: 2 ** 30 }) });
    expect(await holder(store)).toBeNull();
    expect(await take(store, "a")).toBe(true);
  });
});
