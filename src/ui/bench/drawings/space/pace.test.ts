import { describe, expect, it } from "vitest";
import { MIN_DETAIL, Pace } from "./pace";

/** Draws so many moving pictures of a set on a machine, given by what it takes for a number of triangles, ms. */
function draw(pace: Pace, pictures: number, machine: (triangles: number) => number, all: number): number {
  for (let i = 0; i < pictures; i++) {
    const n = Math.min(all, pace.budget(false));
    pace.took(pace.budget(false), n, machine(n));
  }
  return Math.min(all, pace.budget(false));
}
/** Draws at rest until nothing more is shown, and says how many pictures that took. */
function rest(pace: Pace, machine: (triangles: number) => number, all: number): number {
  let pictures = 0;
  for (; pace.more(all) && pictures < 50; pictures++) {
    const n = Math.min(all, pace.budget(true));
    pace.took(pace.budget(true), n, machine(n));
  }
  return pictures;
}

describe("pace of a drawing", () => {
  it("comes to what fits in a picture's time on a slow machine, over what a picture takes anyway", () => {
    for (const base of [3, 80]) {
      const slow = (n: number): number => base + n / 1000;
      const pace = new Pace();
      const moving = draw(pace, 12, slow, 2e6);
      expect(slow(moving) - base).toBeGreaterThan(15);
      expect(slow(moving) - base).toBeLessThan(60);
      // at rest it fills up within a few pictures, and then it is done
      const pictures = rest(pace, slow, 2e6);
      expect(pictures).toBeGreaterThan(0);
      expect(pictures).toBeLessThan(8);
      const resting = Math.min(2e6, pace.budget(true));
      expect(slow(resting)).toBeGreaterThan(300);
      expect(slow(resting)).toBeLessThan(1500);
      // the next movement does not begin with what rest allowed
      expect(pace.budget(false)).toBeLessThan(resting / 4);
    }
  });

  it("shows all on a fast one, moving or not", () => {
    const pace = new Pace();
    expect(draw(pace, 6, (n) => 1 + n / 1e6, 2e6)).toBe(2e6);
    expect(pace.more(2e6)).toBe(false);
  });

  it("never falls below the least, and recovers when the machine is free again", () => {
    const pace = new Pace();
    expect(draw(pace, 10, (n) => n, 2e6)).toBe(MIN_DETAIL);
    expect(draw(pace, 60, (n) => 2 + n / 1e6, 2e6)).toBeGreaterThan(1e6);
  });

  it("a small set is whole from its first picture on", () => expect(new Pace().budget(false)).toBeGreaterThan(50_000));
});
