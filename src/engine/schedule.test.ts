import { describe, expect, it } from "vitest";
import { stageEnd } from "#core/budget/forecast";
import { PASS_AIR, PASS_CLEAR, PASS_JOIN, PASS_SURFACES } from "#core/layout/layout";
import { airEveryOf, costOf, finalSchedule, liveSchedule, MEDIUM_PASSES, type Stage } from "./schedule";

/** How often each sample of each pixel of a 16 × 16 tile is taken. */
function counts(stages: Stage[], passes: number): Map<string, number> {
  const out = new Map<string, number>();
  for (const s of stages.filter((x) => x.passes === passes))
    for (let y = 0; y < 16; y++)
      for (let x = 0; x < 16; x++) {
        if (x % s.stride || y % s.stride) continue;
        if (s.done && x % s.done === 0 && y % s.done === 0) continue;
        for (let i = s.first; i < s.end; i++) out.set(`${x},${y},${i}`, (out.get(`${x},${y},${i}`) ?? 0) + 1);
      }
  return out;
}

describe("schedules", () => {
  it.each([1, 2, 3, 7, 16, 100])("the live one takes every sample of every pixel once, for %d samples", (samples) => {
    for (const look of ["air", "clear"] as const) {
      const stages = liveSchedule(samples, look);
      const main = counts(stages, look === "air" ? MEDIUM_PASSES : PASS_CLEAR);
      expect(main.size).toBe(256 * samples);
      expect([...main.values()].every((n) => n === 1)).toBe(true);
      // the other picture: no sample twice, no gap
      const other = counts(stages, look === "air" ? PASS_CLEAR : MEDIUM_PASSES);
      expect([...other.values()].every((n) => n === 1)).toBe(true);
      expect(other.size % 256).toBe(0);
      expect(other.size).toBeGreaterThan(0);
      for (let i = 0; i < other.size / 256; i++) expect(other.has(`3,5,${i}`)).toBe(true);
    }
  });

  it("of finals ends where forecasts think that it does", () => {
    const ends = finalSchedule(0, 200, MEDIUM_PASSES).map((s) => s.end);
    for (let needed = 1; needed <= 210; needed++) expect(stageEnd(needed, 1, 200)).toBe(ends.find((e) => e >= needed) ?? 200);
    expect(stageEnd(3, 16, 200)).toBe(16);
  });

  it("the final one takes the asked range of the asked passes", () => {
    expect(counts(finalSchedule(5, 43, MEDIUM_PASSES | PASS_CLEAR), MEDIUM_PASSES).size).toBe(256 * 38);
    expect(counts(finalSchedule(0, 4, PASS_CLEAR), MEDIUM_PASSES).size).toBe(0);
  });
});

describe("a split schedule", () => {
  it.each([2, 4])("takes surfaces everywhere and the air at every %dth pixel, once each, and joins them after each block", (every) => {
    const air = (s: Stage): boolean => (s.passes & MEDIUM_PASSES) === MEDIUM_PASSES;
    const surfaces = (s: Stage): boolean => (s.passes & MEDIUM_PASSES) === PASS_SURFACES;
    for (const stages of [finalSchedule(0, 11, MEDIUM_PASSES, every), liveSchedule(11, "air", every), liveSchedule(11, "clear", every)]) {
      const medium = stages.filter((s) => s.passes !== PASS_CLEAR);
      const taken = (of: (s: Stage) => boolean): Map<string, number> =>
        counts(
          medium.filter(of).map((s) => ({ ...s, passes: 1 })),
          1,
        );
      const [both, alone] = [taken(air), taken(surfaces)];
      const samples = both.size / (256 / every ** 2);
      expect(Number.isInteger(samples)).toBe(true);
      expect(samples).toBeGreaterThan(4);
      expect(alone.size).toBe(256 * samples - both.size);
      expect([...both.values(), ...alone.values()].every((n) => n === 1)).toBe(true);
      for (const key of both.keys()) {
        const [x, y] = key.split(",").map(Number) as [number, number];
        expect([x % every, y % every]).toEqual([0, 0]);
        expect(alone.has(key)).toBe(false);
      }
      expect(medium.every((s) => airEveryOf(s) === every)).toBe(true);
      // nothing is sampled after the last join
      expect(medium.at(-1)!.passes & PASS_JOIN).toBe(PASS_JOIN);
      expect(medium.filter((s) => s.passes & PASS_JOIN).length).toBeGreaterThan(2);
    }
  });

  it("costs a share of the whole one by its pixels", () => {
    const cost = (every: number): number => finalSchedule(0, 64, PASS_AIR | PASS_SURFACES, every).reduce((a, s) => a + costOf(s), 0);
    expect(cost(1)).toBe(64);
    // those between take as much by this reckoning, and joins next to nothing
    expect(cost(2) / 64).toBeCloseTo(1, 2);
  });
});
