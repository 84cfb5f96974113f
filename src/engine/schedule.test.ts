import { describe, expect, it } from "vitest";
import { PASS_CLEAR } from "#core/layout/layout";
import { finalSchedule, liveSchedule, MEDIUM_PASSES, type Stage } from "./schedule";

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

  it("the final one takes the asked range of the asked passes", () => {
    expect(counts(finalSchedule(5, 43, MEDIUM_PASSES | PASS_CLEAR), MEDIUM_PASSES).size).toBe(256 * 38);
    expect(counts(finalSchedule(0, 4, PASS_CLEAR), MEDIUM_PASSES).size).toBe(0);
  });
});
