import { describe, expect, it } from "vitest";
import { PASS_CLEAR, PASS_JOIN } from "#core/layout/layout";
import { finalSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { roundsOf, unjoined } from "./rounds";

const plain = { judgedFrom: null, adaptive: false, limited: false, looks: true };
const schedule = (samples: number, every = 1, passes = MEDIUM_PASSES | PASS_CLEAR) => finalSchedule(0, samples, passes, every);

describe("Rounds", () => {
  it("have all stages, each once, in their order", () => {
    for (const samples of [1, 5, 16, 64, 100, 1024])
      for (const every of [1, 2, 4])
        for (const judgedFrom of [null, 8])
          for (const adaptive of [false, true])
            for (const limited of [false, true]) {
              const stages = schedule(samples, every);
              let at = 0;
              for (const { from, to, join, stops } of roundsOf(stages, { judgedFrom, adaptive, limited, looks: !adaptive })) {
                expect(from).toBe(at);
                expect(stops.at(-1)).toBe(to);
                expect([...stops].sort((a, b) => a - b)).toEqual(stops);
                expect(stops.every((s) => s > from || from === to)).toBe(true);
                // where each joint counts, a round ends before one
                if (adaptive) expect(unjoined(stages.slice(from, to))).toHaveLength(to - from);
                at = join !== null && join >= to ? join + 1 : to;
              }
              expect(at).toBe(stages.length);
            }
  });

  it("are one where nothing looks at the whole picture, with a stop for a first look", () => {
    const stages = schedule(256);
    const [round, ...others] = roundsOf(stages, plain);
    expect(others).toEqual([]);
    // blocks of 1, 1, 2, 4 and 8 samples, each with its clear picture
    expect(round!.stops).toEqual([10, stages.length]);
    expect(roundsOf(schedule(32), plain)[0]!.stops).toHaveLength(1);
    // nor is there one where all is over soon
    expect(roundsOf(stages, { ...plain, looks: false })[0]!.stops).toEqual([stages.length]);
  });

  it("stop again and again where a clock may end them", () => {
    const stages = schedule(512);
    const stops = roundsOf(stages, { ...plain, limited: true })[0]!.stops.map((s) => stages[s]?.first ?? 512);
    expect(stops).toEqual([16, 32, 64, 128, 512]);
  });

  it("end where the cleaned picture is judged: once samples are half as many again", () => {
    const stages = schedule(64, 1, MEDIUM_PASSES);
    const begins = roundsOf(stages, { ...plain, judgedFrom: 8 }).map((r) => stages[r.from]!.first);
    expect(begins).toEqual([0, 8, 16, 32, 48]);
  });

  it("join the air once after all, or each time where blocks are left out by their noise", () => {
    const stages = schedule(16, 2, MEDIUM_PASSES);
    const all = stages.flatMap((s, i) => (s.passes & PASS_JOIN ? [i] : []));
    expect(roundsOf(stages, plain).map((r) => r.join)).toEqual([all.at(-1)]);
    expect(roundsOf(stages, { ...plain, adaptive: true }).map((r) => r.join)).toEqual(all);
  });
});
