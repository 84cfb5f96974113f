import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { Office, type Source } from "./office";
import type { Post } from "./post";
import { Refused } from "./refusals";
import { Pace } from "./trial";
import { unitOf, type Beat, type ResultHead, type Unit } from "./unit";

const KERNEL = "0".repeat(64);
let sent: { worker: string; unit: Unit }[], office: Office;
const sources: FakeSource[] = [];

/** A frame of so many units of some thread seconds, whose results are on disk as soon as that is let. */
class FakeSource implements Source {
  readonly brief = {
    hash: "b".repeat(64),
    bytes: new Uint8Array(),
    of: { document: "", passes: ["beauty" as const], firstSample: 0, strengths: null },
  };
  readonly order = 0;
  readonly waiting: Unit[];
  readonly revoked: string[] = [];
  wanted = true;
  disk: Promise<void> = Promise.resolve();

  constructor(
    readonly frame: string,
    readonly job: { id: string; priority: number },
    count: number,
    private readonly seconds = 1,
  ) {
    this.waiting = Array.from({ length: count }, (_, i) =>
      unitOf({ frame, brief: this.brief.hash, tiles: [2 * i, 2 * i + 1], from: 0, to: 1, check: false }),
    );
    sources.push(this);
  }
  next() {
    const unit = this.waiting.shift();
    return unit ? { unit, seconds: this.seconds } : null;
  }
  adopt(unit: Unit) {
    const at = this.waiting.findIndex((u) => u.id === unit.id);
    if (at >= 0) this.waiting.splice(at, 1);
    return at >= 0;
  }
  giveBack(unit: Unit) {
    this.waiting.unshift(unit);
  }
  input() {
    return this.wanted ? { settled: null, body: new Uint8Array() } : null;
  }
  async deliver({ unit }: ResultHead) {
    await this.disk;
    return { check: unit.check ? null : () => unitOf({ ...unit, tiles: unit.tiles.slice(-1), check: true }) };
  }
  decide() {
    // by nobody here
  }
  failed() {
    // told to nobody here
  }
  waits() {
    return this.waiting.length * this.seconds;
  }
  left() {
    return this.waits();
  }
  revoke(machine: string) {
    this.revoked.push(machine);
  }
}

const beat = (name: string, more: Partial<Beat> = {}) =>
  office.beat(name, {
    ...{ session: name, host: "h", threads: 1, kernel: KERNEL, pace: 100, clock: Date.now(), units: [], says: "waits", leaves: false },
    ...more,
  });
const result = (worker: string, unit: Unit): ResultHead => ({
  ...{ unit, worker, session: worker, kernel: KERNEL },
  tiles: unit.tiles.map(() => ({ rays: 1, lookups: 1, invalid: 0, seconds: 0.5 })),
});
const settle = () => new Promise((go) => setTimeout(go, 5));
const of = (worker: string) => sent.filter((s) => s.worker === worker).map((s) => s.unit);
const hash = (letter: string) => letter.repeat(64);

beforeEach(() => {
  sent = [];
  sources.length = 0;
  const post = {
    ...{ trouble: null, back: () => undefined, has: async () => Promise.resolve(true), clear: async () => Promise.resolve() },
    send: async (worker: string, unit: Unit) => Promise.resolve(void sent.push({ worker, unit })),
  };
  office = new Office(post as unknown as Post, KERNEL, new Pace(100, () => Promise.resolve(100)));
});
afterEach(() => office.close());

describe("An office", () => {
  it("gives each machine a unit for each thread and one more, and the next for each that is done", async () => {
    office.register(new FakeSource(hash("a"), { id: "a", priority: 0 }, 20), false);
    beat("one");
    beat("two", { threads: 3 });
    await settle();
    expect([of("one").length, of("two").length]).toEqual([2, 4]);
    await office.deliver(result("one", of("one")[0]!), new Uint8Array());
    await settle();
    expect(of("one")).toHaveLength(3);
  });

  it("has the first unit of every machine checked by another, however many results come at once", async () => {
    const source = new FakeSource(hash("a"), { id: "a", priority: 0 }, 20);
    office.register(source, false);
    for (const name of ["one", "two", "three"]) beat(name);
    await settle();
    let written = (): void => undefined;
    source.disk = new Promise((done) => (written = done));
    const all = ["one", "two", "three"].map((name) => office.deliver(result(name, of(name)[0]!), new Uint8Array()));
    written();
    await Promise.all(all);
    await settle();
    // the last of them is given as soon as another has room
    for (const name of ["one", "two", "three"]) await office.deliver(result(name, of(name)[1]!), new Uint8Array());
    await settle();
    for (const name of ["one", "two", "three"]) {
      const tile = of(name)[0]!.tiles.at(-1)!;
      const checks = sent.filter((s) => s.unit.check && s.unit.tiles.includes(tile));
      expect(checks).toHaveLength(1);
      expect(checks[0]!.worker).not.toBe(name);
    }
  });

  it("gives a machine that is not trusted any more nothing, whatever it says that it has", async () => {
    const source = new FakeSource(hash("a"), { id: "a", priority: 0 }, 4);
    office.register(source, false);
    beat("one");
    await settle();
    const units = of("one");
    office.distrust("one", "wrong");
    expect(source.revoked).toEqual(["one"]);
    expect(source.waiting).toHaveLength(4);
    expect(beat("one", { units }).orders).toBe("leave");
    expect(source.waiting).toHaveLength(4);
    await expect(office.deliver(result("one", units[0]!), new Uint8Array())).rejects.toThrow(Refused);
    expect(() => office.input(units[0]!, "one", "one")).toThrow(Refused);
  });

  it("makes room where a unit is wanted no more", async () => {
    const source = new FakeSource(hash("a"), { id: "a", priority: 0 }, 4);
    office.register(source, false);
    beat("one");
    await settle();
    source.wanted = false;
    expect(office.input(of("one")[0]!, "one", "one")).toBeNull();
    await settle();
    expect(office.fleet.machines.get("one")!.units.size).toBe(2);
    expect(of("one")).toHaveLength(3);
  });

  it("lets one that drains finish, takes all from one that is removed, and gives another version nothing", async () => {
    const source = new FakeSource(hash("a"), { id: "a", priority: 0 }, 10);
    office.register(source, false);
    for (const name of ["one", "two"]) beat(name);
    expect(beat("old", { kernel: hash("f") })).toMatchObject({ orders: "wait", words: expect.stringMatching(/another version/) as string });
    await settle();
    office.dismiss("one", "drain");
    office.dismiss("two", "remove");
    expect(office.dismiss("three", "remove")).toBe(false);
    expect(beat("one", { units: of("one") }).orders).toBe("drain");
    await office.deliver(result("one", of("one")[0]!), new Uint8Array());
    await settle();
    expect(of("one").filter((u) => !u.check)).toHaveLength(2);
    expect(beat("two").orders).toBe("leave");
    // eight that waited, and two that came back
    expect(source.waiting).toHaveLength(8);
    expect(of("old")).toEqual([]);
  });

  it("shares machines evenly among renders of one priority, whatever their units take, and gives a higher one all", async () => {
    const [a, b, c] = [
      new FakeSource(hash("a"), { id: "a", priority: 0 }, 4000, 1),
      new FakeSource(hash("b"), { id: "b", priority: 0 }, 4000, 3),
      new FakeSource(hash("c"), { id: "c", priority: 1 }, 40, 1),
    ] as const;
    for (const s of [a, b, c]) office.register(s, false);
    const names = ["one", "two", "three", "four"];
    const done = new Set<string>();
    const got: Record<string, number> = { a: 0, b: 0, c: 0 };
    for (let k = 0; k < 300; k++) {
      for (const name of names) beat(name, { units: of(name).filter((u) => !done.has(u.id)) });
      await settle();
      for (const name of names)
        for (const unit of of(name).filter((u) => !done.has(u.id))) {
          done.add(unit.id);
          const source = sources.find((s) => s.frame === unit.frame)!;
          if (!unit.check) got[source.job.id]! += source === b ? 3 : 1;
          await office.deliver(result(name, unit), new Uint8Array());
        }
      if (got.c! < 40) expect(got.a! + got.b!).toBe(0);
    }
    expect(got.c).toBe(40);
    // as far as a machine may stay at its scene: ten seconds for each of four threads
    expect(got.a! + got.b!).toBeGreaterThan(500);
    expect(Math.abs(got.a! - got.b!)).toBeLessThanOrEqual(45);
  });
});
