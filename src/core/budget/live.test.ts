import { describe, expect, it } from "vitest";
import type { LookedBlocks } from "./forecast";
import { kept, learnedFrom, LivePrice, priced, onMachine, recordOf, type PaidFinal, type PricedFinal } from "./live";

/** A frame of equal blocks: 10 cd/m², a deviation of 4 for one sample, 6 rays a sample. */
function blocks(samples: number, deviation = 4): LookedBlocks {
  const of = (v: number): Float64Array => new Float64Array(50).fill(v);
  const error = deviation ** 2 / samples;
  return {
    ...{ pixels: of(64), light: of(10), error: of(error), doubt: of(error / 8), rays: of(6), samples },
    ...{ meanRays: 6, sampled: Math.min(1, samples), known: samples >= 2 ? 1 : 0 },
  };
}
const final: PricedFinal = { pixels: 1e6, samples: 4096, minSamples: 16, threshold: 0.02, dark: 0.1, of: "rendered" };
const nothing = { scene: 0, clean: 0 },
  exact = { factor: 1, doubt: 0, steady: 0.1 };
/** Half a microsecond a ray. */
const spent = (rays: number, start = 0): { rays: number; seconds: number } => ({ rays, seconds: 5e-7 * rays + start });

describe("the price of a final while its picture is looked at", () => {
  it("is that of the samples that the noise needs, at the rate of the present run, and narrows as samples come", () => {
    const live = new LivePrice();
    expect(live.price(final, nothing, exact)).toBeNull();
    let width = Infinity;
    for (const samples of [2, 4, 8, 16, 32]) {
      live.look(1, { rendered: blocks(samples), cleaned: null }, spent(6 * samples * 1e5));
      const price = live.price(final, nothing, exact)!;
      // (4 / 0.2)² = 400 samples of six rays
      expect(price.samples).toBe(400);
      expect(price.seconds).toBeCloseTo(1e6 * 400 * 6 * 5e-7, 3);
      expect(price.high / price.low).toBeLessThan(width);
      width = price.high / price.low;
    }
    expect(width).toBeLessThan(1.4);
  });

  it("leaves what is done but once out of the rate, and adds it once", () => {
    const live = new LivePrice();
    for (const samples of [2, 4, 8, 16]) live.look(1, { rendered: blocks(samples), cleaned: null }, spent(6 * samples * 1e5, 30));
    expect(live.price(final, nothing, exact)!.seconds).toBeCloseTo(1e6 * 400 * 6 * 5e-7 + 30, 3);
  });

  it("tells of an edit at once by its cost and the noise before it, and of its own noise as soon as there is some", () => {
    const live = new LivePrice();
    live.look(1, { rendered: blocks(16), cleaned: null }, spent(1e6));
    const before = live.price(final, nothing, exact)!;
    // a sixty-fourth of the pixels has a sample, and samples take twice as long
    live.look(2, { rendered: { ...blocks(1 / 64), samples: 0, sampled: 1 / 64 }, cleaned: null }, { rays: 1e4, seconds: 1e-2 });
    const first = live.price(final, nothing, exact)!;
    expect(first.seconds / before.seconds).toBeCloseTo(2, 6);
    expect(first.looked).toBe(0);
    expect(first.high / first.low).toBeGreaterThan(2 * (before.high / before.low));
    // half the deviation, a quarter of the samples
    live.look(2, { rendered: blocks(4, 2), cleaned: null }, { rays: 2.4e6, seconds: 2.4 });
    const own = live.price(final, nothing, exact)!;
    expect(own.samples).toBe(112);
    expect(own.looked).toBe(4);
  });

  it("of so many samples needs no noise to be known; of a cleaned picture it takes how errors really fall", () => {
    const live = new LivePrice();
    live.look(1, { rendered: { ...blocks(1 / 16), samples: 0 }, cleaned: null }, spent(1e5));
    expect(live.price(final, nothing, exact)).toBeNull();
    expect(live.price({ ...final, threshold: null, samples: 64 }, nothing, exact)!.seconds).toBeCloseTo(1e6 * 64 * 6 * 5e-7, 3);
    // of a cleaned picture errors fall with the root of the samples' root
    const slow = (samples: number): LookedBlocks => ({ ...blocks(samples), error: new Float64Array(50).fill(0.4 / Math.sqrt(samples)) });
    for (const n of [4, 16]) live.look(1, { rendered: blocks(n), cleaned: slow(n) }, spent(6e5 * n));
    // 0.1 left after 16, 0.04 allowed: (0.1 / 0.04)² times as many
    expect(live.price({ ...final, of: "cleaned" }, nothing, exact)!.samples).toBe(112);
  });

  it("adds building and cleaning as they are, and the rest as this machine's finals were found to take it", () => {
    const live = new LivePrice();
    live.look(1, { rendered: blocks(16), cleaned: null }, spent(1e7));
    const plain = live.price(final, nothing, exact)!;
    const price = live.price(final, { scene: 7, clean: 5 }, { factor: 1.5, doubt: 0.3, steady: 0.1 })!;
    expect(price.seconds).toBeCloseTo(1.5 * plain.seconds + 12, 6);
    expect(Math.log(price.high - 12) - Math.log(price.low - 12)).toBeGreaterThan(2 * 1.2816 * 0.3);
    // 4 threads, of double speed; the scene is built by one
    expect(onMachine({ seconds: 107, low: 57, high: 207 }, 7, 4, 2)).toEqual({ seconds: 16, low: 9.75, high: 28.5 });
    expect([60, 80, 210].map((allowed) => kept(allowed, { low: 70, high: 100 }))).toEqual(["no", "maybe", "yes"]);
  });
});

describe("what is learned of paid finals", () => {
  const record = (model: number, paid: number): PaidFinal => ({ model, said: model, low: 0.8 * model, high: 1.25 * model, paid });
  it("draws forecasts towards what was paid, the surer the more there are", () => {
    expect(learnedFrom([]).factor).toBe(1);
    const one = learnedFrom([record(10, 15)]),
      many = learnedFrom(Array.from({ length: 9 }, (_, i) => record(10, 15 + 0.1 * (i % 3))));
    expect(one.factor).toBeCloseTo(Math.sqrt(1.5), 6);
    expect(many.factor).toBeGreaterThan(1.44);
    expect(many.factor).toBeLessThan(1.51);
    expect(many.doubt).toBeLessThan(one.doubt);
    // one that went wrong does not carry it away
    expect(learnedFrom([record(10, 900), ...Array.from({ length: 8 }, () => record(10, 10))]).factor).toBe(1);
    // records that scatter leave a doubt
    const scattered = learnedFrom([5, 8, 10, 13, 20].map((paid) => record(10, paid)));
    expect(Math.hypot(scattered.doubt, scattered.steady)).toBeGreaterThan(0.3);
    // … and one among many that agree does not
    expect(learnedFrom([record(10, 900), ...Array.from({ length: 8 }, () => record(10, 10))]).steady).toBeLessThan(0.1);
  });

  it.each([0.03, 0.1, 0.2])("holds in some eight cases of ten on machines as unsteady as %s", (unsteady) => {
    let state = 11;
    // of twelve even ones: normal, about
    const normal = (): number =>
      Array.from({ length: 12 }, () => (state = (state * 16807) % 2147483647) / 2147483647).reduce((a, b) => a + b, -6);
    const forecast = { samples: 1, seconds: 100, low: 100 / Math.exp(1.2816 * 0.1), high: 100 * Math.exp(1.2816 * 0.1), unreached: 0 };
    let [inside, all] = [0, 0];
    for (let server = 0; server < 300; server++) {
      const records: PaidFinal[] = [];
      for (let final = 0; final < 24; final++) {
        const { low, high, seconds } = priced(forecast, 0, { scene: 0, clean: 0 }, learnedFrom(records), 16);
        const paid = 110 * Math.exp(unsteady * normal());
        records.unshift({ model: 100, said: seconds, low, high, paid });
        if (final < 4) continue;
        all++;
        if (paid >= low && paid <= high) inside++;
      }
    }
    expect(inside / all).toBeGreaterThan(0.74);
    expect(inside / all).toBeLessThan(0.93);
  });

  it("tells the median error and the share between the bounds", () => {
    expect(recordOf([])).toBeNull();
    const told = recordOf([record(10, 10), record(10, 12), record(10, 5)])!;
    expect(told.inside).toBeCloseTo(2 / 3, 6);
    expect(told.median).toBeCloseTo(1 - 10 / 12, 6);
  });
});
