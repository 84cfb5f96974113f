import { afterEach, describe, expect, it, vi } from "vitest";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import { F_COUNT, F_LUMINANCE2, F_RAYS, F_SURFACES } from "#core/layout/layout";
import type { RenderOrder } from "#api/contract";
import { type FakeRun, fakeSession } from "../../../../tests/support/bench-hosts";
import { FramePrice, moveOf } from "./price";
import { Session } from "./session";
import { createBenchStore } from "./store";

const document = parseDocument({
  ...{ fumarium: 2, air: [{ name: "smoke" }], film: { size: [640, 360], exposure: 0 } },
  render: { samples: 4096, noiseThreshold: 0.02, minSamples: 4 },
});
const settle = (): Promise<void> => new Promise((done) => setTimeout(done, 5));

/** Gives every pixel of a run's film samples of 10 cd/m² and a deviation of nearly 4, six rays each, half a microsecond a ray, and tells of the stage. */
function sampled({ request, film }: FakeRun, samples: number, stage: number, deviation = 3.98, each = 5e-7): void {
  const { data, stride } = film();
  for (let p = 0; p < data.length; p += stride) {
    data[p + F_COUNT] = samples;
    data[p + F_RAYS] = 6 * samples;
    for (let k = 0; k < 3; k++) data[p + F_SURFACES + k] = 10 * samples;
    // as the film has it: its squares are of all samples, their variance that of the mean
    data[p + F_LUMINANCE2] = samples * 100 + (samples - 1) * deviation ** 2;
  }
  const rays = (6 * samples * data.length) / stride;
  request.onStage!({ share: 0.1, seconds: 1, secondsLeft: 9, stage, stages: 20, work: { seconds: each * rays, rays, lookups: 0 } });
}

async function live(doc: SceneDocument = document, answer: () => unknown = () => Promise.reject(new Error("no server"))) {
  const fake = fakeSession();
  const session = new Session(doc, fake.host);
  const store = createBenchStore(doc);
  store.subscribe((s) => session.update(s.document));
  const price = new FramePrice(session, store, () => Promise.resolve(answer()));
  await session.start();
  session.resize(64, 36);
  await settle();
  return { ...fake, session, store, price };
}
afterEach(() => vi.useRealTimers());

describe("the price of a frame on the bench", () => {
  it("is that of the samples that the final needs, at the rate of the live picture, and follows the budget at once", async () => {
    const { runs, price, store } = await live();
    expect(price.state.getState().price).toBeNull();
    sampled(runs[0]!, 16, 4);
    await settle();
    const { price: told } = price.state.getState();
    // (4 / 0.2)² = 400 samples of 3 µs each
    expect(told!.samples).toBe(400);
    const samples = 640 * 360 * 400 * 3e-6;
    expect(told!.seconds).toBeGreaterThan(samples);
    expect(told!.seconds).toBeLessThan(samples + 10);
    const budget = (change: Partial<SceneDocument["budget"]>): void =>
      store.getState().set((d) => ({ ...d, budget: { ...d.budget, ...change } }));
    budget({ size: [1280, 720] });
    expect(price.state.getState().price!.seconds).toBeGreaterThan(4 * samples);
    budget({ noise: { threshold: 0.04, of: "rendered" } });
    expect(price.state.getState().price!.samples).toBe(112);
    budget({ threads: 8, speed: 2 });
    const { price: cpu, frame } = price.state.getState();
    expect(cpu!.seconds / frame!.seconds).toBeCloseTo(16, 1);
    // the picture was not begun anew for any of it
    expect(runs).toHaveLength(1);
  });

  it("says by how much an edit moved it, and by what, at once and again when it is sure", async () => {
    const { runs, price, store } = await live();
    sampled(runs[0]!, 16, 4);
    await settle();
    store.getState().set((d) => ({ ...d, air: d.air.map((m) => ({ ...m, density: 0.5 })) }));
    await settle();
    // samples take twice as long; of their noise nothing is known yet
    sampled(runs[1]!, 1, 1, 0, 1e-6);
    await settle();
    const first = price.state.getState();
    expect(first.price!.looked).toBeLessThan(2);
    expect(first.moved).toBeNull();
    sampled(runs[1]!, 8, 2, 3.98, 1e-6);
    await settle();
    const { moved } = price.state.getState();
    expect(moved!.words).toBe("smoke, extinction");
    expect(moved!.share).toBeCloseTo(1, 1);
    // from where it is now the next edit counts
    store.getState().set((d) => ({ ...d, air: d.air.map((m) => ({ ...m, density: 0.1 })) }));
    await settle();
    sampled(runs[2]!, 8, 2);
    await settle();
    expect(price.state.getState().moved!.share).toBeCloseTo(-0.5, 1);
  });

  it("looks once more after stages that came too quickly", async () => {
    const { runs, price } = await live();
    sampled(runs[0]!, 2, 4);
    await settle();
    vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout"] });
    sampled(runs[0]!, 16, 5);
    sampled(runs[0]!, 64, 6);
    expect(price.state.getState().price!.looked).toBe(2);
    await vi.advanceTimersByTimeAsync(1500);
    expect(price.state.getState().price!.looked).toBe(64);
  });

  it("says of an order what is known: not of one that changes the light, or ends by the clock", async () => {
    const { runs, price } = await live();
    const order = { size: [128, 72], samples: 64, noise: null, seconds: null, clean: false, level: null, airBounces: null, surfaceBounces: null, airSize: null, estimator: null, whole: false } as unknown as RenderOrder; // prettier-ignore
    expect(price.said(document, order)).toBeNull();
    sampled(runs[0]!, 16, 4);
    await settle();
    const said = price.said(document, order)!;
    expect(said.samples).toBe(64);
    expect(said.said).toBeGreaterThanOrEqual(128 * 72 * 64 * 3e-6);
    expect(said.low).toBeLessThan(said.said);
    expect(price.said(document, { ...order, level: "full" })).toBeNull();
    expect(price.said(document, { ...order, seconds: 60 })).toBeNull();
    expect(price.said(document, { ...order, airSize: "full" })).not.toBeNull();
  });

  it("learns from what finals took", async () => {
    const record = {
      id: 1,
      title: "a",
      pixels: 1000,
      model: 10,
      said: 10,
      low: 8,
      high: 12,
      samplesSaid: 8,
      samples: 8,
      paid: 20,
      createdAt: 0,
    };
    const { runs, price } = await live(document, () => ({
      records: Array.from({ length: 9 }, () => record),
      cleanRate: 2e-5,
      threads: 3,
      busy: true,
      fleet: null,
    }));
    sampled(runs[0]!, 16, 4);
    await settle();
    const before = price.state.getState().price!.seconds;
    await price.refresh();
    const after = price.state.getState();
    expect(after.price!.seconds / before).toBeGreaterThan(1.7);
    expect(after.record).toMatchObject({ threads: 3, busy: true });
    expect(price.threads).toBe(3);
    price.dispose();
  });

  it("counts on the machines that take part, unless the project means another", async () => {
    const fleet = { machines: 4, threads: 32 };
    const { runs, price, store } = await live(document, () => ({ records: [], cleanRate: 0, threads: 2, busy: false, fleet }));
    sampled(runs[0]!, 16, 4);
    await settle();
    const own = price.state.getState().frame!.seconds;
    await price.refresh();
    expect(price.fleet).toEqual(fleet);
    expect(price.state.getState().frame!.seconds).toBeLessThan(own);
    // so many frames need more of them the sooner they are to be there
    const all = price.ofFrames(price.state.getState().price!, [640, 360], 100).seconds;
    expect(price.machinesFor(all, 100)).toBeLessThanOrEqual(4);
    expect(price.machinesFor(all / 3, 100) ?? Infinity).toBeGreaterThan(4);
    store.getState().set((d) => ({ ...d, budget: { ...d.budget, threads: 8 } }));
    expect(price.fleet).toBeNull();
    expect(price.machinesFor(1, 1)).toBeNull();
    price.dispose();
  });

  it("names what moved it, the first two settings at most", () => {
    const to = { ...document, sun: { ...document.sun, azimuth: 9, elevation: 3, illuminance: 5 } };
    expect(moveOf({ document, seconds: 10 }, { document: to, seconds: 15 })).toEqual({
      share: 0.5,
      words: "Sun, azimuth; Sun, elevation and 1 more",
    });
    expect(moveOf({ document, seconds: 10 }, { document: to, seconds: 10.1 })).toBeNull();
    expect(moveOf({ document, seconds: 10 }, { document: { ...document, title: "b" }, seconds: 20 })).toBeNull();
  });
});
