import { describe, expect, it } from "vitest";
import { finalSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { Ledger } from "./ledger";
import type { Round } from "./rounds";

const stages = finalSchedule(0, 64, MEDIUM_PASSES);
const end = stages.length;
const round: Round = { from: 0, to: end, join: null, stops: [5, end] };
function ledger(tiles: number, expected: number | null = 10): Ledger {
  const l = new Ledger(new Uint16Array(tiles), stages, expected);
  l.begin(round);
  return l;
}

describe("A ledger", () => {
  it("hands each tile out once, as many as come to the seconds that are asked", () => {
    const l = ledger(20);
    const seen: number[] = [];
    for (let some = l.next(round, 5, 100); some; some = l.next(round, 5, 100)) {
      expect(some).toMatchObject({ from: 0, to: 5 });
      l.hand(String(seen.length), some.tiles);
      seen.push(...some.tiles);
    }
    expect(seen).toEqual([...Array(20).keys()]);
    // 16 of 64 samples of ten seconds: two and a half each
    expect(ledger(20).next(round, 5, 100)!.tiles).toHaveLength(2);
    expect(ledger(20).next(round, 5, 100)!.seconds).toBeCloseTo(5, 6);
    expect(ledger(20).next(round, 0.1, 100)!.tiles).toHaveLength(1);
    expect(ledger(20).next(round, 1000, 7)!.tiles).toHaveLength(7);
  });

  it("gives few tiles where nothing is known, and goes by what tiles took from then on", () => {
    const l = ledger(40, null);
    const first = l.next(round, 6, 100)!;
    expect(first.tiles).toHaveLength(2);
    l.hand("a", first.tiles);
    for (const t of first.tiles) l.took(t, 0, 5, 1, "one");
    expect(l.next(round, 6, 100)!.tiles).toHaveLength(6);
  });

  it("goes on to the next stop while others are at the first, and comes back to what is given back", () => {
    const l = ledger(4);
    const a = l.next(round, 5, 100)!;
    l.hand("a", a.tiles);
    const b = l.next(round, 5, 100)!;
    l.hand("b", b.tiles);
    expect(l.next(round, 5, 100)).toBeNull();
    for (const t of a.tiles) l.took(t, 0, 5, 2.5, "one");
    const c = l.next(round, 7, 100)!;
    expect(c).toMatchObject({ tiles: [0], from: 5, to: end });
    l.hand("c", c.tiles);
    l.giveBack("b", b.tiles);
    expect(l.next(round, 5, 100)).toMatchObject({ tiles: b.tiles, from: 0, to: 5 });
    // somebody else's is not taken from him
    l.giveBack("x", c.tiles);
    expect(l.isFree(c.tiles, 5)).toBe(false);
  });

  it("gives those first that take longest, as soon as that is known", () => {
    const l = new Ledger(new Uint16Array(4), stages, new Float64Array([1, 30, 2, 10]));
    l.begin(round);
    expect(l.next(round, 7, 1)!.tiles).toEqual([1]);
    const by = ledger(3);
    by.hand("a", [0, 1, 2]);
    [1, 3, 2].forEach((seconds, tile) => by.took(tile, 0, 5, seconds, "one"));
    const given: number[] = [];
    for (let some = by.next(round, 0.1, 100); some; some = by.next(round, 0.1, 100)) {
      by.hand(String(given.length), some.tiles);
      given.push(...some.tiles);
    }
    expect(given).toEqual([1, 2, 0]);
  });

  it("counts a tile once: what comes twice is not wanted", () => {
    const l = ledger(2);
    expect(l.wants(0, 0)).toBe(true);
    l.took(0, 0, 5, 1, "one");
    expect(l.wants(0, 0)).toBe(false);
    expect(l.wants(0, 5)).toBe(true);
    expect(l.wants(9, 0)).toBe(false);
    expect(l.share()).toBeCloseTo((16 / 64) * 0.5, 6);
  });

  it("knows who took part, and begins a tile anew", () => {
    const l = ledger(3);
    l.took(0, 0, 5, 1, "one");
    l.took(0, 5, end, 3, "two");
    l.took(1, 0, 5, 1, "two");
    expect(l.touchedBy("one")).toEqual([0]);
    expect(l.touchedBy("two")).toEqual([0, 1]);
    l.reset(0);
    expect(l.touchedBy("two")).toEqual([1]);
    expect(l.taken[0]).toBe(0);
    expect(l.isDone({ ...round, to: 5 })).toBe(false);
    expect(l.next({ ...round, stops: [5] }, 100, 10)!.tiles).toEqual([0, 2]);
  });

  it("says what is left of all, and what each tile takes", () => {
    const l = ledger(4, 10);
    expect(l.left()).toBeCloseTo(40, 6);
    l.hand("a", [0]);
    expect(l.left()).toBeCloseTo(30, 6);
    l.took(1, 0, end, 20, "one");
    l.expected().forEach((v, i) => expect(v).toBeCloseTo([10, 20, 10, 10][i]!, 6));
    expect(l.left()).toBeCloseTo(20, 6);
    expect(l.hasWaiting()).toBe(true);
    l.hand("b", [2, 3]);
    expect(l.hasWaiting()).toBe(false);
  });
});
