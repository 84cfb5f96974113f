import { describe, expect, it } from "vitest";
import { detail } from "./detail";

describe("detail", () => {
  const wall = { classes: [0, 12, ...new Array<number>(46).fill(0)], places: 1 };
  const leaves = { classes: [...new Array<number>(20).fill(0), 600, 400, ...new Array<number>(26).fill(0)], places: 50 };
  const statue = { classes: [...new Array<number>(30).fill(0), 10_000, ...new Array<number>(17).fill(0)], places: 1 };
  const set = [wall, leaves, statue];

  it("is whole where the budget allows", () => expect(detail(set, 60_012)).toEqual([12, 1000, 10_000]));

  it("keeps what is large, a share of everything, and the budget", () => {
    for (const budget of [30_000, 6000, 1000]) {
      const kept = detail(set, budget);
      expect(kept[0]).toBe(12);
      expect(kept[2]!).toBeGreaterThanOrEqual(Math.floor((10_000 * budget) / 2 / 60_012));
      expect(kept.reduce((a, n, i) => a + n * set[i]!.places, 0)).toBeLessThanOrEqual(budget);
      expect(kept.reduce((a, n, i) => a + n * set[i]!.places, 0)).toBeGreaterThan(0.9 * budget);
    }
  });
});
