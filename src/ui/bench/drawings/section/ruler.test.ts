import { describe, expect, it } from "vitest";
import { along } from "#core/section/scale";
import { stretchedTicks, ticks } from "./ruler";

describe("marks of rulers", () => {
  it("are round and evenly apart", () => {
    expect(ticks(-0.4, 10.6, 6)).toEqual([0, 2, 4, 6, 8, 10]);
    expect(ticks(0.93, 1.07, 7)).toEqual([0.95, 1, 1.05]);
    expect(ticks(3, 3, 5)).toEqual([]);
    for (const [a, b] of [[0, 1], [-3, 1234], [1e-4, 2e-4]] as const) expect(ticks(a, b, 6).length).toBeLessThanOrEqual(8); // prettier-ignore
  });

  it("where distances are stretched, never lie too near each other", () => {
    const { share } = along(-4, 900, "logarithmic");
    const found = stretchedTicks(-4, 900, share, 0.08);
    expect(found).toContain(0);
    expect(found.length).toBeGreaterThan(4);
    found.slice(1).forEach((v, i) => expect(share(v) - share(found[i]!)).toBeGreaterThanOrEqual(0.08 - 1e-12));
  });
});
