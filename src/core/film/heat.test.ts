import { describe, expect, it } from "vitest";
import { emptyFilm } from "./film";
import { heatOf } from "./heat";
import { F_COUNT, F_LUMINANCE2, F_RAYS, F_SURFACES } from "../layout/layout";

describe("heat pictures", () => {
  it("tell time, noise and both by place, against the mean", () => {
    const film = emptyFilm(40, 20);
    for (let i = 0; i < 800; i++) {
      const p = i * film.stride;
      const right = i % 40 >= 20;
      // 4 samples of 10 ± 2 at the left, of 10 ± 4 and three times as many rays at the right
      const off = right ? 4 : 2;
      film.data[p + F_COUNT] = 4;
      for (let k = 0; k < 3; k++) film.data[p + F_SURFACES + k] = 40;
      film.data[p + F_LUMINANCE2] = 4 * (100 + off * off);
      film.data[p + F_RAYS] = 4 * (right ? 9 : 3);
    }
    const { values, width, height, pixels, full } = heatOf(film, 40, 0.1);
    expect([width, height]).toEqual([40, 20]);
    const [left, right] = [5, 35];
    expect(values.time[left]).toBeCloseTo(0.5, 5);
    expect(values.time[right]).toBeCloseTo(1.5, 5);
    expect(values.noise[right]! / values.noise[left]!).toBeCloseTo(2, 5);
    expect(values.worth[right]! / values.worth[left]!).toBeCloseTo(12, 4);
    for (const kind of ["time", "noise", "worth"] as const) {
      expect(full[kind]).toBeCloseTo(values[kind][right]!, 5);
      // the end of the scale is the brightest
      expect(pixels[kind][4 * right]!).toBeGreaterThan(pixels[kind][4 * left]!);
    }
  });

  it("of a film without samples, or without light, are dark", () => {
    for (const film of [
      emptyFilm(8, 8),
      { ...emptyFilm(8, 8), data: emptyFilm(8, 8).data.map((_, i) => (i % emptyFilm(1, 1).stride === F_COUNT ? 4 : 0)) },
    ]) {
      const { values, full } = heatOf(film, 8, 1);
      expect(full.noise).toBe(0);
      expect([...values.worth].every((v) => v === 0)).toBe(true);
    }
  });
});
