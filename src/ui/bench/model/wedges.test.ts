import { describe, expect, it, vi } from "vitest";
import type { Wedge, WedgeSpec } from "#api/contract";
import { parseDocument } from "#core/document/parse";
import { fakePage, fakeSession } from "../../../../tests/support/bench-hosts";
import { Session } from "./session";
import { createBenchStore } from "./store";
import { Wedges } from "./wedges";

const doc = parseDocument({ fumarium: 2, air: [{ name: "haze", density: 0.02 }], film: { size: [200, 100] } });
const spec: WedgeSpec = {
  first: { setting: '["air","haze","density"]', values: [0.01, 0.02, 0.04] },
  second: null,
  samples: 4,
  width: 100,
  part: null,
};
const PICTURE = "a".repeat(64);

/** @param kept what an earlier visit left */
function open(kept: Wedge[] = []) {
  const { host, runs, disposed } = fakeSession();
  const store = createBenchStore(doc);
  const session = new Session(doc, host);
  const server = fakePage(({ method, body }) =>
    method === "POST"
      ? { id: "w", spec: (body as { spec: WedgeSpec }).spec, cells: [], ended: false, createdAt: 1 }
      : method === "GET"
        ? { document: doc }
        : { done: true },
  );
  let failure: Error | null = null;
  const wedges = new Wedges(
    "p",
    session,
    store,
    {
      request: server.page.request,
      startEngine: () => host.startEngine(0.5),
      store: async () => (failure ? Promise.reject(failure) : Promise.resolve(PICTURE)),
      alone: server.page.alone,
    },
    kept,
  );
  const end = async (n: number, outcome: "done" | "cancelled" = "done"): Promise<void> => {
    await vi.waitFor(() => expect(runs).toHaveLength(n));
    runs[n - 1]!.end(outcome);
  };
  const cells = () => wedges.state.getState().wedges[0]?.cells.map((c) => c.at);
  return { wedges, store, runs, end, cells, calls: server.calls, disposed, fail: (e: Error) => void (failure = e) };
}

describe("a wedge", () => {
  it("makes one picture after the other, each kept as soon as it is there", async () => {
    const o = open();
    const made = o.wedges.make(spec);
    await o.end(1);
    await vi.waitFor(() => expect(o.cells()).toEqual([0]));
    expect(o.wedges.state.getState().running).toMatchObject({ id: "w", at: 1 });
    await o.end(2);
    await o.end(3);
    await made;
    expect(o.runs.map((r) => r.request.document.air[0]!.density)).toEqual([0.01, 0.02, 0.04]);
    expect(o.runs[0]!.request).toMatchObject({ width: 100, height: 50, frame: null });
    expect(o.cells()).toEqual([0, 1, 2]);
    expect(o.calls.filter((c) => c.method === "PATCH").map((c) => (c.body as { cell: { at: number } }).cell.at)).toEqual([0, 1, 2]);
    expect(o.wedges.state.getState().running).toBeNull();
    expect(o.disposed()).toBe(1);
  });

  it("of a part of the frame renders a window of it, as wide as is asked", async () => {
    const o = open();
    const made = o.wedges.make({ ...spec, part: { x: 0.5, y: 0.25, width: 0.25, height: 0.5 } });
    for (let n = 1; n <= 3; n++) await o.end(n);
    await made;
    expect(o.runs[0]!.request).toMatchObject({ width: 100, height: 100, frame: { x: 200, y: 50, width: 400, height: 200 } });
  });

  it("is ended and gone on with; what is there stays", async () => {
    const o = open();
    const made = o.wedges.make(spec);
    await o.end(1);
    await vi.waitFor(() => expect(o.cells()).toEqual([0]));
    await vi.waitFor(() => expect(o.runs).toHaveLength(2));
    await o.wedges.cancel();
    await made;
    expect(o.cells()).toEqual([0]);
    expect(o.wedges.state.getState().wedges[0]!.ended).toBe(true);
    const on = o.wedges.goOn("w");
    await o.end(3);
    await o.end(4);
    await on;
    expect(o.cells()).toEqual([0, 1, 2]);
  });

  it("that an earlier visit began is gone on with, one that was ended is not", async () => {
    const begun: Wedge = {
      id: "w",
      spec,
      ended: false,
      createdAt: 1,
      cells: [{ at: 1, picture: PICTURE, seconds: 2, samples: 4, noise: 0.1 }],
    };
    const o = open([begun, { ...begun, id: "v", ended: true }]);
    const resumed = o.wedges.resume();
    await o.end(1);
    await o.end(2);
    await resumed;
    expect(o.cells()).toEqual([0, 1, 2]);
    expect(o.runs).toHaveLength(2);
    expect(o.runs[1]!.request.document.air[0]!.density).toBe(0.04);
  });

  it("gives the project the values of a picture, and what has changed since stays", async () => {
    const o = open([{ id: "w", spec, ended: true, createdAt: 1, cells: [] }]);
    o.store.getState().set((d) => ({ ...d, film: { ...d.film, exposure: 7 } }));
    o.wedges.pick("w", 2);
    expect(o.store.getState().document.air[0]!.density).toBe(0.04);
    expect(o.store.getState().document.film.exposure).toBe(7);
    o.store.getState().set((d) => ({ ...d, air: [] }));
    expect(() => o.wedges.pick("w", 0)).toThrow(/no such setting/);
    await o.wedges.remove("w");
    expect(o.wedges.state.getState()).toMatchObject({ wedges: [], open: null });
    await o.wedges.restore();
    expect(o.wedges.state.getState().open).toBe("w");
  });

  it("that cannot go on says why, and is not begun again by itself", async () => {
    const o = open();
    const made = o.wedges.make(spec);
    await o.end(1);
    await vi.waitFor(() => expect(o.runs).toHaveLength(2));
    o.fail(new Error("the disk is full"));
    await o.end(2);
    await made;
    const { error, running, wedges } = o.wedges.state.getState();
    expect(error).toMatch(/cannot go on: the disk is full/);
    expect(running).toBeNull();
    expect(wedges[0]).toMatchObject({ ended: true });
    expect(o.cells()).toEqual([0]);
  });

  it("refuses what cannot be, and makes nothing", async () => {
    const o = open();
    await expect(o.wedges.make({ ...spec, first: { ...spec.first, values: [0.1, -3] } })).rejects.toThrow(/density/);
    expect(o.calls).toEqual([]);
  });
});
