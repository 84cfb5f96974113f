import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { parseDocument } from "#core/document/parse";
import { fakePage, refusal, type Call } from "../../../../tests/support/bench-hosts";
import { Autosave, unsavedDraft } from "./autosave";
import { createBenchStore } from "./store";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

function saving(answer: (call: Call) => unknown) {
  const confirmed = parseDocument({ fumarium: 2 });
  const store = createBenchStore(confirmed);
  const host = fakePage(answer);
  const autosave = new Autosave("p", 7, confirmed, store, host.page);
  const rename = (title: string): void => store.getState().set((d) => ({ ...d, title }));
  return { ...host, store, autosave, rename, draft: (revision: number) => unsavedDraft(host.page.storage, "p", revision) };
}
const later = (ms: number): Promise<unknown> => vi.advanceTimersByTimeAsync(ms);

describe("saving as one goes", () => {
  it("puts a change by at once, saves it a little later, and forgets the draft when the server has it", async () => {
    const s = saving(() => ({ revision: 8 }));
    s.rename("a");
    s.rename("b");
    expect(s.draft(7)!.title).toBe("b");
    expect(s.draft(6)).toBeNull();
    await later(600);
    expect(s.calls).toHaveLength(1);
    expect(s.calls[0]!.body).toMatchObject({ revision: 7, document: { title: "b" } });
    expect(s.autosave.state.getState().state).toBe("saved");
    expect(s.kept.size).toBe(0);
    s.rename("c");
    await later(600);
    expect(s.calls[1]!.body).toMatchObject({ revision: 8 });
  });

  it("saves again what changed while it saved", async () => {
    let meanwhile = (): void => s.rename("meanwhile");
    const s: ReturnType<typeof saving> = saving(() => {
      meanwhile();
      meanwhile = () => undefined;
      return { revision: 8 };
    });
    s.rename("a");
    await later(600);
    expect(s.autosave.state.getState().state).toBe("waiting");
    expect(s.draft(8)!.title).toBe("meanwhile");
    await later(600);
    expect(s.calls.at(-1)!.body).toMatchObject({ revision: 8, document: { title: "meanwhile" } });
    expect(s.autosave.state.getState().state).toBe("saved");
  });

  it("keeps the draft while the server is away, and tries again", async () => {
    let away = true;
    const s = saving(() => (away ? refusal(0) : { revision: 8 }));
    s.rename("a");
    await later(600);
    expect(s.autosave.state.getState().state).toBe("offline");
    expect(s.draft(7)!.title).toBe("a");
    away = false;
    await later(3100);
    expect(s.autosave.state.getState().state).toBe("saved");
  });

  it("stops at a conflict, and saves over the other state only when told to", async () => {
    let other = true;
    const s = saving(({ method }) =>
      method === "GET"
        ? { id: "p", title: "x", revision: 12, document: {}, proofs: [], wedges: [] }
        : other
          ? refusal(409)
          : { revision: 13 },
    );
    s.rename("mine");
    await later(600);
    expect(s.autosave.state.getState().state).toBe("conflict");
    s.rename("mine still");
    await later(5000);
    expect(s.calls).toHaveLength(1);
    s.leave();
    expect(s.calls).toHaveLength(1);
    other = false;
    await s.autosave.takeOver();
    expect(s.calls.at(-1)!.body).toMatchObject({ revision: 12, document: { title: "mine still" } });
    expect(s.autosave.state.getState().state).toBe("saved");
  });

  it("says at once that another window saved, before anything is changed here; a change is then a conflict", async () => {
    const s = saving(() => ({ revision: 8 }));
    const hear = (projectId: string, revision: number): void => s.hearers.forEach((h) => h({ projectId, revision }));
    const state = () => s.autosave.state.getState().state;
    hear("q", 99);
    hear("p", 7);
    expect(state()).toBe("saved");
    hear("p", 8);
    expect(state()).toBe("behind");
    s.rename("a");
    expect(state()).toBe("conflict");
    await later(2000);
    expect(s.calls).toHaveLength(0);
    expect(s.draft(7)!.title).toBe("a");
    // what waits to be saved when it is heard would be refused: it is a conflict without being sent
    const other = saving(() => ({ revision: 8 }));
    other.rename("b");
    other.hearers.forEach((h) => h({ projectId: "p", revision: 8 }));
    await later(2000);
    expect(other.calls).toHaveLength(0);
    expect(other.autosave.state.getState().state).toBe("conflict");
  });

  it("tells the others what it saved, and hears nothing once it is gone", async () => {
    const s = saving(() => ({ revision: 8 }));
    s.rename("a");
    await later(600);
    expect(s.announced).toEqual([{ projectId: "p", revision: 8 }]);
    s.autosave.dispose();
    expect(s.hearers.size).toBe(0);
  });

  it("gives a conflict up by loading the other state", async () => {
    const s = saving(() => refusal(409));
    s.rename("mine");
    await later(600);
    s.autosave.discard();
    expect(s.kept.size).toBe(0);
    expect(s.calls.at(-1)!.method).toBe("reload");
    expect(s.leavers.size).toBe(0);
  });

  it("says what the server refuses, and keeps the draft", async () => {
    const s = saving(() => refusal(422, "air[0].density: too large"));
    s.rename("a");
    await later(600);
    expect(s.autosave.state.getState()).toEqual({ state: "refused", message: "air[0].density: too large" });
    expect(s.draft(7)!.title).toBe("a");
  });

  it("sends what is unsaved when the page goes, and nothing when all is saved", async () => {
    const s = saving(() => ({ revision: 8 }));
    s.leave();
    expect(s.calls).toHaveLength(0);
    s.rename("a");
    s.leave();
    expect(s.calls).toHaveLength(1);
    s.autosave.dispose();
    await later(1000);
    expect(s.calls).toHaveLength(1);
  });

  it("takes a broken draft for none", () => {
    const s = saving(() => ({ revision: 8 }));
    for (const text of ["{", "{}", '{"revision":7,"document":{"fumarium":2,"nonsense":1}}']) {
      s.kept.set("fumarium.unsaved.p", text);
      expect(s.draft(7)).toBeNull();
    }
  });
});
