import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { parseDocument } from "#core/document/parse";
import { fakePage, fakeSession, refusal } from "../../../../tests/support/bench-hosts";
import { openBench } from "./open-bench";

beforeEach(() => void vi.stubGlobal("cancelAnimationFrame", () => undefined));
afterEach(() => void vi.unstubAllGlobals());

const stored = parseDocument({ fumarium: 2, title: "palm house" });
const settle = (): Promise<void> => new Promise((done) => setTimeout(done, 5));

function opening(answer: () => unknown = () => ({ id: "p", title: "palm house", revision: 3, document: stored, proofs: [], wedges: [] })) {
  const page = fakePage(answer);
  const engine = fakeSession();
  return { ...page, ...engine, open: () => openBench("p", page.page, () => engine.host) };
}

describe("opening a bench", () => {
  it("loads the project, renders it, and follows its document and view", async () => {
    const o = opening();
    const { bench, start, dispose } = await o.open();
    expect(o.calls[0]).toMatchObject({ method: "GET", url: "/api/projects/p" });
    expect(bench.store.getState().document.title).toBe("palm house");
    await start();
    bench.session.resize(32, 18);
    await settle();
    expect(o.runs).toHaveLength(1);
    bench.store.getState().set((d) => ({ ...d, time: 4 }));
    await settle();
    expect(o.runs.at(-1)!.request.document.time).toBe(4);
    bench.view.toggleBelow("lights");
    await settle();
    expect(o.runs.at(-1)!.request.document.film.lightGroups).toBe(true);
    dispose();
    expect(o.disposed()).toBe(3);
    expect(o.leavers.size).toBe(0);
    bench.store.getState().set((d) => ({ ...d, time: 5 }));
    await settle();
    expect(o.runs.at(-1)!.request.document.time).toBe(4);
  });

  it("brings back what an earlier visit could not save, as a change that undo takes away", async () => {
    const o = opening();
    o.kept.set("fumarium.unsaved.p", JSON.stringify({ revision: 3, document: { ...stored, title: "unsaved" } }));
    const { bench, dispose } = await o.open();
    expect(bench.store.getState().document.title).toBe("unsaved");
    bench.store.undo();
    expect(bench.store.getState().document.title).toBe("palm house");
    dispose();
  });

  it("leaves nothing running where the project cannot be loaded", async () => {
    const o = opening(() => refusal(404, "no such project"));
    await expect(o.open()).rejects.toThrow("no such project");
    const broken = opening(() => ({ id: "p", title: "x", revision: 1, document: { fumarium: 2, nonsense: true }, proofs: [], wedges: [] }));
    await expect(broken.open()).rejects.toThrow();
    expect(o.disposed() + broken.disposed()).toBe(0);
  });
});

describe("the drawing under the picture", () => {
  it("is one at a time; what it took the place of comes back", async () => {
    const { bench, dispose } = await opening().open();
    const { view } = bench;
    const below = (): string | null => view.getState().below;
    expect(below()).toBe("section");
    view.toggleBelow("lights");
    expect(below()).toBe("lights");
    view.toggleBelow("lights");
    expect(below()).toBe("section");
    view.toggleBelow("section");
    expect(below()).toBeNull();
    view.toggleBelow("space");
    view.toggleBelow("space");
    expect(below()).toBeNull();
    dispose();
  });
});
