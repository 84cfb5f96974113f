import { describe, expect, it } from "vitest";
import { emptyFilm, type Film } from "../film/film";
import { F_AIR, F_AIR_ODD, F_COUNT, F_SURFACES, F_SURFACES_ODD } from "../layout/layout";
import { deltaE, labOf } from "../optics/delta-e";
import { whiteAt } from "../optics/exposure";
import { seenBlocks, seenChange } from "./compare";

const EXPOSURE = 12;
const development = { exposure: EXPOSURE, whiteBalance: 6500 };

/** A film of surfaces and air with noise of their own; grey by place, as shares of white. */
function picture(grey: (x: number, y: number) => number, noise: number, seed: number, samples = 8): Film {
  const film = emptyFilm(160, 90);
  let s = seed;
  const next = (): number => (s = (48271 * s) % 2147483647) / 2147483647;
  for (let y = 0; y < film.height; y++)
    for (let x = 0; x < film.width; x++) {
      const p = (y * film.width + x) * film.stride;
      for (let k = 0; k < samples; k++) {
        const v = 0.5 * whiteAt(EXPOSURE) * grey(x, y) * (1 + noise * Math.sqrt(12) * (next() - 0.5));
        for (const at of [F_AIR, F_SURFACES]) for (let c = 0; c < 3; c++) film.data[p + at + c]! += v;
        if (k % 2 === 1) for (const at of [F_AIR_ODD, F_SURFACES_ODD]) for (let c = 0; c < 3; c++) film.data[p + at + c]! += v;
        film.data[p + F_COUNT]!++;
      }
    }
  return film;
}
const change = (a: Film, b: Film): ReturnType<typeof seenChange> => seenChange(seenBlocks(a, development), seenBlocks(b, development));

describe("what the eye sees of a change", () => {
  const even = (): number => 0.2;

  it("is ΔE₀₀ of the two colours, whatever the noise", () => {
    const truth = deltaE(labOf(0.2, 0.2, 0.2), labOf(0.25, 0.25, 0.25));
    for (const noise of [0, 0.5, 2]) {
      const found = change(
        picture(even, noise, 11),
        picture(() => 0.25, noise, 7777),
      );
      expect(Math.abs(found.mean - truth), `noise ${noise}`).toBeLessThan(0.15 + 3 * found.error);
    }
  });

  it("is nothing where two pictures differ by noise alone, where their plain difference is much", () => {
    let plain = 0,
      debiased = 0;
    for (let seed = 1; seed <= 8; seed++) {
      const [a, b] = [picture(even, 1.5, 100 + seed), picture(even, 1.5, 90_000 + 31 * seed)].map((f) => seenBlocks(f, development)) as [
        ReturnType<typeof seenBlocks>,
        ReturnType<typeof seenBlocks>,
      ];
      const found = seenChange(a, b);
      expect(found.mean).toBeLessThan(3 * found.error + 0.05);
      expect(found.worst).toBeLessThan(Math.max(...a[0].map((lab, i) => deltaE(lab, b[0][i]!))));
      debiased += found.mean / 8;
      plain += Math.sqrt(a[0].reduce((s, lab, i) => s + deltaE(lab, b[0][i]!) ** 2, 0) / a[0].length) / 8;
    }
    expect(debiased).toBeLessThan(0.4 * plain);
  });

  it("tells a small place that changes much by its worst block", () => {
    // one block of a hundred and forty-four
    const corner = (x: number, y: number): number => (x < 10 && y < 10 ? 0.5 : 0.2);
    const truth = deltaE(labOf(0.2, 0.2, 0.2), labOf(0.5, 0.5, 0.5));
    const found = change(picture(even, 0.5, 5), picture(corner, 0.5, 6));
    expect(found.mean).toBeLessThan(0.15 * truth);
    expect(found.worst / truth).toBeGreaterThan(0.9);
    expect(found.worst / truth).toBeLessThan(1.1);
  });
});
