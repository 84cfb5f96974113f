import { describe, expect, it } from "vitest";
import { TimeLeft } from "./time-left";

describe("time left of a run", () => {
  it("is the rest of the work at its even speed, from the first stage to the last", () => {
    const left = new TimeLeft();
    for (const work of [1, 2, 4, 8, 64, 100]) expect(left.after(3 * work, work, 100)).toBeCloseTo(3 * (100 - work), 9);
    expect(new TimeLeft().after(5, 0, 100)).toBeNull();
  });

  it("forgets what was only done at the beginning: within a tenth once a twentieth of the work is done", () => {
    // twenty seconds of building in the first hundredth, then two seconds a unit
    const left = new TimeLeft();
    const secondsAt = (work: number): number => 20 + 2 * work;
    const said = [1, 2, 5, 10, 40, 99].map((work) => left.after(secondsAt(work), work, 100)! / (2 * (100 - work)));
    expect(said[0]).toBeGreaterThan(5);
    for (const ratio of said.slice(2)) expect(Math.abs(ratio - 1)).toBeLessThan(0.1);
  });

  it("follows a machine that becomes slower", () => {
    const left = new TimeLeft();
    let seconds = 0;
    let said = 0;
    for (let work = 1; work <= 80; work++) {
      seconds += work <= 30 ? 1 : 3;
      said = left.after(seconds, work, 100)!;
    }
    expect(said).toBeCloseTo(3 * 20, 6);
  });
});
