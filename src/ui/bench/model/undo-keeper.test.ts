import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import { fakePage } from "../../../../tests/support/bench-hosts";
import { createBenchStore } from "./store";
import { UndoKeeper } from "./undo-keeper";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

const host = fakePage(() => null);
const { storage, records } = { storage: host.page.records, records: host.records };
const confirmed = parseDocument({ fumarium: 2, title: "start" });
async function visit(document: SceneDocument = confirmed) {
  const store = createBenchStore(document);
  const keeper = new UndoKeeper("p", store, storage);
  const restoring = keeper.restore();
  await vi.advanceTimersByTimeAsync(100);
  await restoring;
  const title = (t: string): void => store.getState().set((d) => ({ ...d, title: t }));
  const titles = (): string[] => store.temporal.getState().pastStates.map((s) => s.document!.title);
  return { store, keeper, title, titles, present: () => store.getState().document };
}
const rest = () => vi.advanceTimersByTimeAsync(1000);
beforeEach(() => records.clear());

describe("steps that outlive the page", () => {
  it("come back after a reload, to undo and to redo", async () => {
    const a = await visit();
    for (const t of ["one", "two", "three"]) a.title(t);
    a.store.undo();
    await rest();
    a.keeper.dispose();
    const b = await visit(parseDocument(JSON.parse(JSON.stringify(a.present()))));
    expect(b.present().title).toBe("two");
    b.store.redo();
    expect(b.present().title).toBe("three");
    for (const expected of ["two", "one", "start"]) {
      b.store.undo();
      expect(b.present().title).toBe(expected);
    }
  });

  it("are those of this document alone, and the last two hundred", async () => {
    const a = await visit();
    for (let i = 0; i < 260; i++) a.title(`step ${i}`);
    await rest();
    const other = await visit(parseDocument({ fumarium: 2, title: "loaded from elsewhere" }));
    expect(other.titles()).toEqual([]);
    records.clear();
    const c = await visit();
    for (let i = 0; i < 260; i++) c.title(`step ${i}`);
    await rest();
    const again = await visit(c.present());
    expect(again.titles()).toHaveLength(200);
    expect(again.titles().at(-1)).toBe("step 258");
  });

  it("keep what is done while they are read, and leave out what cannot be read", async () => {
    const a = await visit();
    a.title("one");
    a.title("two");
    await rest();
    const kept = records.get("undo.p") as { past: unknown[] };
    records.set("undo.p", { ...kept, past: [{ fumarium: 99 }, ...kept.past] });
    const store = createBenchStore(a.present());
    const keeper = new UndoKeeper("p", store, storage);
    const restoring = keeper.restore();
    store.getState().set((d) => ({ ...d, title: "meanwhile" }));
    await vi.advanceTimersByTimeAsync(100);
    await restoring;
    expect(store.temporal.getState().pastStates.map((s) => s.document!.title)).toEqual(["start", "one", "two"]);
    keeper.dispose();
    store.undo();
    expect(store.getState().document.title).toBe("two");
  });

  it("are gone without the browser's database, and nothing else is", async () => {
    const broken = { get: () => Promise.reject(new Error("no")), set: () => Promise.reject(new Error("no")) };
    const store = createBenchStore(confirmed);
    const keeper = new UndoKeeper("p", store, broken);
    await keeper.restore();
    store.getState().set((d) => ({ ...d, title: "x" }));
    await rest();
    store.undo();
    expect(store.getState().document.title).toBe("start");
    records.set("undo.p", "rubbish");
    expect((await visit()).titles()).toEqual([]);
  });
});
