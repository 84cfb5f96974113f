import { describe, expect, it } from "vitest";
import { emptyFilm, type Film } from "../film/film";
import { F_COUNT, F_LUMINANCE2, F_RAYS, F_SURFACES } from "../layout/layout";
import { fallOf, forecastOf, lookedBlocks, type ForecastTarget } from "./forecast";

/** A generator of the numbers of Lehmer's kind: enough for films of noise. */
function numbers(seed: number): () => number {
  let s = seed;
  return () => (s = (48271 * s) % 2147483647) / 2147483647;
}

/** A film whose left half is of one luminance and noise a sample, its right half of another, both known. */
function noisy(samples: number, halves: readonly [light: number, deviation: number, rays: number][], seed = 7): Film {
  const film = emptyFilm(96, 64);
  const next = numbers(seed);
  for (let i = 0; i < film.width * film.height; i++) {
    const [light, deviation, rays] = halves[Math.floor(((i % film.width) * halves.length) / film.width)]!;
    const p = i * film.stride;
    for (let s = 0; s < samples; s++) {
      // evenly spread about the light, with that deviation
      const v = light + deviation * Math.sqrt(12) * (next() - 0.5);
      for (let k = 0; k < 3; k++) film.data[p + F_SURFACES + k]! += v;
      film.data[p + F_LUMINANCE2]! += v * v;
      film.data[p + F_RAYS]! += rays;
      film.data[p + F_COUNT]!++;
    }
  }
  return film;
}
const target: ForecastTarget = { pixels: 1e6, samples: 1024, minSamples: 16, threshold: 0.02, dark: 0.1, falls: 1 };

describe("a forecast", () => {
  it("of so many samples is their cost, whatever the noise", () => {
    const looked = lookedBlocks(noisy(16, [[10, 4, 6]]), 2, "rendered");
    const f = forecastOf(looked, { seconds: 2e-6, doubt: 0 }, { ...target, threshold: null, samples: 200 });
    expect(f.samples).toBe(200);
    expect(f.seconds).toBeCloseTo(200 * 1e6 * 2e-6, 6);
    expect([f.low, f.high, f.unreached]).toEqual([f.seconds, f.seconds, 0]);
  });

  it("to a threshold takes the samples that known noise needs, to the end of their stage, where each is", () => {
    // 10 cd/m² with a deviation of 4 a sample: 2 % of it are left after (4 / 0.2)² = 400 samples; of 1 a sample after 25
    const looked = lookedBlocks(
      noisy(64, [
        [10, 4, 6],
        [10, 1, 2],
      ]),
      1,
      "rendered",
    );
    const f = forecastOf(looked, { seconds: 1e-6, doubt: 0 }, target);
    const expected = (400 + 32) / 2;
    expect(f.samples / expected).toBeGreaterThan(0.97);
    expect(f.samples / expected).toBeLessThan(1.05);
    // samples of the noisy half take six rays, of the other two: four in the mean
    const seconds = (0.5 * 400 * 6 + 0.5 * 32 * 2) / 4;
    expect(f.seconds / seconds).toBeGreaterThan(0.97);
    expect(f.seconds / seconds).toBeLessThan(1.05);
    expect(f.low).toBeLessThan(f.seconds);
    expect(f.high).toBeGreaterThan(f.seconds);
    expect(f.unreached).toBe(0);
  });

  it("holds in eight cases of ten where its look is short: the truth lies between its bounds", () => {
    let held = 0,
      below = 0;
    const truth = 400;
    for (let seed = 1; seed <= 60; seed++) {
      const looked = lookedBlocks(noisy(4, [[10, 4, 6]], 1000 + 7919 * seed), 1, "rendered");
      const f = forecastOf(looked, { seconds: 1, doubt: 0 }, { ...target, pixels: 1, samples: 100_000, minSamples: 2 });
      if (f.low <= truth + 16 && f.high >= truth) held++;
      if (f.seconds < truth) below++;
    }
    expect(held).toBeGreaterThanOrEqual(42);
    // stages end above what is needed, so that few are below
    expect(below).toBeLessThan(20);
  });

  it("says what will not come below the threshold, takes dark places as the eye does, and keeps the least", () => {
    const halves = [
      [10, 40, 6],
      [0.001, 0.001, 6],
    ] as const;
    const looked = lookedBlocks(
      noisy(
        16,
        halves.map((h) => [...h] as [number, number, number]),
      ),
      1,
      "rendered",
    );
    const f = forecastOf(looked, { seconds: 1e-6, doubt: 0 }, target);
    expect(f.unreached).toBeCloseTo(0.5, 5);
    expect(f.samples).toBeCloseTo((1024 + 16) / 2, 5);
  });

  it("of a black frame, or of none, is a number", () => {
    for (const film of [emptyFilm(8, 8), noisy(4, [[0, 0, 3]])]) {
      const f = forecastOf(lookedBlocks(film, 4, "rendered"), { seconds: 1e-6, doubt: 0.1 }, { ...target, dark: 0 });
      for (const v of Object.values(f)) expect(Number.isFinite(v)).toBe(true);
    }
  });

  it("finds by which power errors fall", () => {
    const look = (samples: number): ReturnType<typeof lookedBlocks> => lookedBlocks(noisy(samples, [[10, 4, 6]]), 1, "rendered");
    expect(fallOf(look(8), look(32))).toBeCloseTo(1, 1);
    const slow = { ...look(32), error: look(8).error.map((e) => e / 2) };
    expect(fallOf(look(8), slow)).toBeCloseTo(0.5, 1);
    expect(fallOf(look(32), look(32))).toBe(1);
  });
});
