import { describe, expect, it } from "vitest";
import { emptyFilm } from "../film/film";
import { F_COUNT, F_SURFACES, PIXEL_FLOATS } from "../layout/layout";
import { filmFacts } from "./film-facts";

/** A film of one sample a pixel, of grey luminances. */
function film(luminanceAt: (i: number) => number) {
  const f = emptyFilm(160, 96);
  for (let i = 0; i < 160 * 96; i++) {
    f.data[i * PIXEL_FLOATS + F_COUNT] = 1;
    for (let k = 0; k < 3; k++) f.data[i * PIXEL_FLOATS + F_SURFACES + k] = luminanceAt(i);
  }
  return f;
}

describe("how bright a film is", () => {
  it("is told alike by few bright samples and by many: one pixel in fifty that found the light, fifty times as bright", () => {
    const even = filmFacts(film(() => 10), 1000); // prettier-ignore
    expect([even.mean, even.median]).toEqual([expect.closeTo(10, 3), expect.closeTo(10, 3)]);
    const salt = filmFacts(film((i) => (i * 7919) % 50 === 0 ? 500 : 0), 1000); // prettier-ignore
    expect(salt.mean).toBeCloseTo(10, 0);
    expect(Math.abs(salt.median / 10 - 1)).toBeLessThan(0.25);
  });

  it("is that of what half of the frame is darker than, and 0 of a black one", () => {
    const half = filmFacts(film((i) => (i % 160 < 60 ? 4000 : 10)), 1000); // prettier-ignore
    expect(half.median).toBeCloseTo(10, 3);
    expect(filmFacts(film(() => 0), 1000)).toMatchObject({ mean: 0, median: 0 }); // prettier-ignore
  });
});
