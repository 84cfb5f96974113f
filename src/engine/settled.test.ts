import { describe, expect, it } from "vitest";
import { parseDocument } from "#core/document/parse";
import { emptyFilm, type Film } from "#core/film/film";
import { SETTLED_GIVEN } from "#core/layout/layout";
import { MEDIUM_PASSES } from "./schedule";
import { judgeOf, settledBlocks } from "./settled";

/** A film of 70 × 40 pixels whose cleaned light is 10 and errs by `error` of it. */
function film(error: (x: number, y: number) => number): Film {
  const [width, height] = [70, 40];
  const air = new Float32Array(4 * width * height),
    surfaces = new Float32Array(4 * width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p = 4 * (y * width + x);
      air.set([4, 4, 4, (10 * error(x, y)) ** 2 / 2], p);
      surfaces.set([6, 6, 6, (10 * error(x, y)) ** 2 / 2], p);
    }
  return { ...emptyFilm(width, height), cleaned: { air, surfaces, clear: null } };
}

describe("blocks that need no more samples", () => {
  it("are those whose cleaned light errs by no more than the threshold, in masks of tiles", () => {
    const masks = settledBlocks(
      film((x, y) => (x >= 64 || (x >= 8 && x < 16 && y >= 32) ? 0.01 : 0.05)),
      0.02,
      1,
    );
    // three tiles across and two down, of 4 × 4 blocks each; the last column is 6 pixels wide
    const column = 0b0001_0001_0001_0001;
    expect([...masks].map((m) => m ^ SETTLED_GIVEN)).toEqual([0, 0, column, 0b10, 0, 1]);
  });

  it("one bad pixel keeps its block going, and what is dark is judged by what the eye tells", () => {
    const masks = settledBlocks(
      film((x, y) => (x === 3 && y === 3 ? 0.5 : 0.01)),
      0.02,
      1,
    );
    expect(masks[0]! & 1).toBe(0);
    expect(masks[0]! & 2).toBe(2);
    expect(settledBlocks(film(() => 0.05), 0.02, 1)[0]! & 1).toBe(0); // prettier-ignore
    expect(settledBlocks(film(() => 0.05), 0.02, 100)[0]! & 1).toBe(1); // prettier-ignore
  });

  it("light that is no number is never settled", () => {
    expect(settledBlocks(film((x, y) => (x === 3 && y === 3 ? NaN : 0.01)), 0.02, 1)[0]! & 1).toBe(0); // prettier-ignore
  });
});

describe("the judge", () => {
  const doc = (render: object, cleanUp: object = {}): ReturnType<typeof parseDocument> =>
    parseDocument({ fumarium: 2, render, film: { cleanUp } });
  const stage = (first: number, stride = 1) => ({ stride, done: 0, first, end: first + 8, passes: MEDIUM_PASSES });

  it("is there where a threshold is for the cleaned picture, and there is one", () => {
    const cleaner = () => ({ finish: () => Promise.reject(new Error()) });
    expect(judgeOf(doc({ noiseThreshold: 0.02 }), cleaner)).toBeNull();
    expect(judgeOf(doc({ thresholdOf: "cleaned" }), cleaner)).toBeNull();
    expect(judgeOf(doc({ noiseThreshold: 0.02, thresholdOf: "cleaned" }, { fireflies: 1, air: 0, surfaces: 0 }), cleaner)).toBeNull();
    expect(judgeOf(doc({ noiseThreshold: 0.02, thresholdOf: "cleaned" }), cleaner)).not.toBeNull();
  });

  it("cleans from the least samples on, and anew when there are half as many more", async () => {
    let cleaned = 0;
    const finish = () => {
      cleaned++;
      return Promise.resolve(film(() => 0.01).cleaned!);
    };
    const judge = judgeOf(doc({ noiseThreshold: 0.02, thresholdOf: "cleaned", minSamples: 16 }), () => ({ finish }))!;
    const { signal } = new AbortController();
    const counts: (number | null)[] = [];
    for (const s of [stage(8), stage(16, 2), stage(16), stage(20), stage(24), stage(30), stage(36)]) {
      const masks = await judge(film(() => 0.01), s, signal); // prettier-ignore
      counts.push(masks && cleaned);
    }
    expect(counts).toEqual([null, null, 1, 1, 2, 2, 3]);
  });
});
