import { describe, expect, it } from "vitest";
import { Shares } from "./shares";
import { unitSeconds } from "./sizes";

const job = (id: string, priority = 0) => ({ id, priority });

describe("Shares", () => {
  it("gives jobs of one priority as much each, however large their units are", () => {
    const shares = new Shares();
    const jobs = [job("a"), job("b"), job("c")];
    const size: Record<string, number> = { a: 1, b: 5, c: 2.5 };
    const got: Record<string, number> = { a: 0, b: 0, c: 0 };
    for (let i = 0; i < 3000; i++) {
      const { id } = shares.choose(jobs, null, 0)!;
      shares.count(id, size[id]!);
      got[id]! += size[id]!;
    }
    const most = Math.max(...Object.values(got)),
      least = Math.min(...Object.values(got));
    expect(most - least).toBeLessThanOrEqual(5);
  });

  it("gives a higher priority all, as long as it has something to do", () => {
    const shares = new Shares();
    for (let i = 0; i < 10; i++) {
      expect(shares.choose([job("a"), job("b", 1)], null, 0)!.id).toBe("b");
      shares.count("b", 5);
    }
    expect(shares.choose([job("a")], null, 0)!.id).toBe("a");
    expect(shares.choose([], null, 0)).toBeNull();
  });

  it("owes a new job nothing for the time before it came", () => {
    const shares = new Shares();
    for (let i = 0; i < 100; i++) shares.count("a", 5);
    let of = "";
    for (let i = 0; i < 10; i++) {
      const { id } = shares.choose([job("a"), job("b")], null, 0)!;
      shares.count(id, 5);
      of += id;
    }
    expect([...of].filter((c) => c === "b")).toHaveLength(5);
  });

  it("leaves a machine at its job while that is not far ahead", () => {
    const shares = new Shares();
    const jobs = [job("a"), job("b")];
    shares.choose(jobs, null, 0);
    shares.count("b", 9);
    expect(shares.choose(jobs, "b", 10)!.id).toBe("b");
    shares.count("b", 2);
    expect(shares.choose(jobs, "b", 10)!.id).toBe("a");
    expect(shares.choose(jobs, "z", 10)!.id).toBe("a");
  });

  it("takes off what came back undone", () => {
    const shares = new Shares();
    const jobs = [job("a"), job("b")];
    shares.choose(jobs, null, 0);
    shares.count("a", 5);
    shares.count("b", 4);
    expect(shares.choose(jobs, null, 0)!.id).toBe("b");
    shares.count("a", -5);
    expect(shares.choose(jobs, null, 0)!.id).toBe("a");
  });
});

describe("Sizes of units", () => {
  it("are long where much is left, shorter towards the end, and never next to nothing", () => {
    expect(unitSeconds(Infinity, 4)).toBe(6);
    expect(unitSeconds(1e6, 4)).toBe(6);
    expect(unitSeconds(24, 4)).toBe(2);
    expect(unitSeconds(0.01, 4)).toBe(0.3);
    // more threads than one server hands to at that pace
    expect(unitSeconds(Infinity, 8000)).toBe(80);
    expect(unitSeconds(5, 0.2)).toBeCloseTo(5 / 3, 6);
  });

  it("leave, handed out one after the other, no thread much longer at work than another", () => {
    const threads = 10,
      free = new Float64Array(threads);
    let left = 500;
    while (left > 0) {
      const own = Math.min(left, unitSeconds(left, threads));
      left -= own;
      const next = free.indexOf(Math.min(...free));
      free[next]! += own;
    }
    expect(Math.max(...free) - Math.min(...free)).toBeLessThan(0.5);
  });
});
