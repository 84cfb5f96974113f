import { describe, expect, it } from "vitest";
import { secondsAllowed } from "./budget";
import { parseDocument } from "./parse";

describe("a project's budget", () => {
  it("allows minutes a frame, or what is left until a time of day", () => {
    const at = (text: string): Date => new Date(`2031-05-04T${text}`);
    expect(secondsAllowed(null, at("12:00:00"))).toBeNull();
    expect(secondsAllowed({ kind: "frame", minutes: 2.5 }, at("12:00:00"))).toBe(150);
    const by = { kind: "by", frames: 6, time: "07:30" } as const;
    // nine and a half hours of the night for six frames
    expect(secondsAllowed(by, at("22:00:00"))).toBe((9.5 * 3600) / 6);
    expect(secondsAllowed(by, at("07:29:00"))).toBe(10);
    // just over: the next day's
    expect(secondsAllowed(by, at("07:31:00"))).toBe((24 * 3600 - 60) / 6);
  });

  it("is empty where a document does not say one, and refused with words where it is none", () => {
    expect(parseDocument({ fumarium: 2 }).budget).toEqual({ limit: null, threads: null, speed: 1, size: null, noise: null });
    for (const [budget, said] of [
      [{ limit: { kind: "frame", minutes: 0 } }, "budget.limit.minutes"],
      [{ limit: { kind: "by", frames: 0, time: "07:30" } }, "budget.limit.frames"],
      [{ limit: { kind: "by", frames: 3, time: "7:30" } }, "must be a time of day"],
      [{ limit: { kind: "by", frames: 3, time: "24:00" } }, "must be a time of day"],
      [{ threads: 0 }, "budget.threads"],
      [{ speed: 0 }, "budget.speed"],
      [{ noise: { threshold: 0, of: "rendered" } }, "budget.noise.threshold"],
      [{ size: [0, 10] }, "budget.size"],
    ] as const) {
      let words = "";
      try {
        parseDocument({ fumarium: 2, budget });
      } catch (error) {
        words = JSON.stringify([(error as Error).message, (error as { problems?: string[] }).problems]);
      }
      expect(words, JSON.stringify(budget)).toContain(said);
    }
  });
});
