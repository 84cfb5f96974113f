import { describe, expect, it } from "vitest";
import { GROUPS, grouped, noisy, pixelsOf } from "../../../tests/support/clean-films";
import { referenceClean } from "../../../tests/support/clean-reference";
import { CLEANED_FLOATS, SIDES, type Side } from "../film/cleaned";
import type { Film } from "../film/film";
import * as L from "../layout/layout";
import { Cleaner, FINISH_TILE, type Area } from "./cleaner";
import { expand } from "./expand";

const whole = (film: Film): Area => [0, 0, film.crop[2] - film.crop[0], film.crop[3] - film.crop[1]];
const FULL = { fireflies: 1, air: 1, surfaces: 1 };
const cleaner = new Cleaner();
/** Light of a side as it was rendered. */
function raw(film: Film, side: Side): number[] {
  const at = side === "air" ? L.F_AIR : side === "surfaces" ? L.F_SURFACES : L.F_CLEAR;
  return Array.from({ length: 3 * film.width * film.height }, (_, i) => {
    const p = Math.floor(i / 3) * film.stride;
    return film.data[p + at + (i % 3)]! / film.data[p + L.F_COUNT]!;
  });
}
const light = (v: Float32Array): number[] => [...v].filter((_, i) => i % CLEANED_FLOATS !== 3);

describe("light groups", () => {
  const film = grouped(noisy(61, 47, 6));
  it.each(["air", "surfaces"] as const)("add up to their cleaned sum, and what is seen is left, of %s", (side) => {
    const { light: sum, groups } = cleaner.finish(side, pixelsOf(film), whole(film), FULL, GROUPS);
    expect(sum).toEqual(cleaner.finish(side, pixelsOf(film), whole(film), FULL).light);
    expect(groups).toHaveLength(3);
    const lights = groups.map((g) => light(g));
    light(sum).forEach((v, i) => {
      const parts = lights.reduce((a, g) => a + g[i]!, 0);
      expect(Math.abs(parts - v), `number ${i}: ${parts}, ${v}`).toBeLessThan(1e-5 * Math.abs(v) + 1e-6);
    });
    const glow = light(groups[2]!);
    glow.forEach((v, i) => expect(v).toBe(side === "surfaces" && Math.floor(i / 3) === 5 * 61 + 5 ? 1000 : 0));
  });

  it("of half the light each come back as half of it", () => {
    const even = grouped(noisy(30, 20, 4));
    for (let i = 0; i < 600; i++)
      for (let g = 0; g < 2; g++)
        for (let k = 0; k < 3; k++)
          even.data[i * even.stride + L.PIXEL_FLOATS + L.GROUP_FLOATS * g + k] = 0.5 * even.data[i * even.stride + L.F_AIR + k]!;
    const { light: sum, groups } = cleaner.finish("air", pixelsOf(even), whole(even), FULL, GROUPS);
    const half = light(groups[1]!);
    light(sum).forEach((v, i) => expect(half[i]! / v).toBeCloseTo(0.5, 5));
  });

  it("are less noisy than as rendered, and the same whatever the tiles", () => {
    const { groups } = cleaner.finish("air", pixelsOf(film), whole(film), FULL, GROUPS);
    const truth = (x: number, k: number): number => (2 * (0.7 - (0.5 * x) / 61) * (1 + 0.2 * k) * (0.8 * x)) / 61;
    const error = (v: (i: number) => number): number => {
      let sum = 0;
      for (let i = 0; i < 3 * 61 * 47; i++) sum += (v(i) - 1.11 * truth(Math.floor(i / 3) % 61, i % 3)) ** 2;
      return sum;
    };
    const lamp = light(groups[1]!);
    const before = error((i) => film.data[Math.floor(i / 3) * film.stride + L.PIXEL_FLOATS + L.GROUP_FLOATS + (i % 3)]! / 6);
    expect(error((i) => lamp[i]!)).toBeLessThan(0.3 * before);
    const area: Area = [17, 9, 42, 30];
    const part = cleaner.finish("air", pixelsOf(film), area, FULL, GROUPS).groups[1]!;
    for (let y = 9; y < 30; y++)
      for (let x = 17; x < 42; x++)
        for (let k = 0; k < 3; k++) expect(part[4 * ((y - 9) * 25 + x - 17) + k]).toBe(groups[1]![4 * (y * 61 + x) + k]);
  });

  it("of the clear frame there are none", () => {
    expect(cleaner.finish("clear", pixelsOf(film), whole(film), FULL, GROUPS).groups).toEqual([]);
  });
});

describe("the better filter", () => {
  it.each(SIDES)("does what its description says, of %s", (side) => {
    const film = noisy(23, 19, 6);
    const found = cleaner.finish(side, pixelsOf(film), whole(film), FULL).light;
    referenceClean(film, side).forEach((expected, i) => {
      expected.forEach((v, k) => {
        const got = found[CLEANED_FLOATS * i + k]!;
        // single precision, of differences that nearly cancel in the error
        expect(Math.abs(got - v), `pixel ${i}, ${k}: ${got}, ${v}`).toBeLessThan(
          k < 3 ? 2e-3 * Math.abs(v) + 1e-5 : 0.03 * Math.abs(v) + 2e-3,
        );
      });
    });
  });

  it.each(SIDES)("gives the same numbers whatever the tiles, of %s", (side) => {
    const film = noisy(61, 47, 4);
    const all = cleaner.finish(side, pixelsOf(film), whole(film), FULL).light;
    for (const [w, h] of [
      [16, 16],
      [61, 5],
      [1, 1],
    ] as const)
      for (let y = 0; y < 47; y += h)
        for (let x = 0; x < 61; x += w) {
          if (w === 1 && (x * 7 + y * 3) % 11) continue;
          const area: Area = [x, y, Math.min(61, x + w), Math.min(47, y + h)];
          const part = cleaner.finish(side, pixelsOf(film), area, FULL).light;
          for (let j = y; j < area[3]; j++)
            for (let i = x; i < area[2]; i++)
              for (let k = 0; k < 4; k++) expect(part[4 * ((j - y) * (area[2] - x) + i - x) + k]).toBe(all[4 * (j * 61 + i) + k]);
        }
    expect(FINISH_TILE % 4).toBe(0);
  });

  it.each(SIDES)("leaves a film whose halves are the same as it is, of %s", (side) => {
    const film = noisy(30, 20, 8, true);
    const found = light(cleaner.finish(side, pixelsOf(film), whole(film), FULL).light);
    raw(film, side).forEach((v, i) => expect(Math.abs(found[i]! - v)).toBeLessThan(2e-6 * v + 1e-6));
  });

  it("takes most of the noise and a little of the light, and leaves what is seen directly", () => {
    const film = noisy(64, 48, 8);
    const truth = (i: number, k: number, side: Side): number => {
      const [x, y] = [i % 64, Math.floor(i / 64)];
      const left = x + 0.4 * y < 0.6 * 64,
        t = 0.3 + (0.5 * x) / 64;
      // sparks: 1 in 100 of 12 times the light
      return 1.11 * (side === "air" ? 2 * (1 - t) * (1 + 0.2 * k) : t * (left ? 0.7 : 0.2 + 0.2 * k) * 5);
    };
    for (const side of ["air", "surfaces"] as const) {
      const [before, after] = [raw(film, side), light(cleaner.finish(side, pixelsOf(film), whole(film), FULL).light)];
      let [a, b, sum, was] = [0, 0, 0, 0];
      for (let i = 0; i < 64 * 48; i++)
        for (let k = 0; k < 3; k++) {
          if (i === 5 * 64 + 5) continue;
          const v = truth(i, k, side);
          a += (before[3 * i + k]! / v - 1) ** 2;
          b += (after[3 * i + k]! / v - 1) ** 2;
          sum += after[3 * i + k]! / v;
          was += before[3 * i + k]! / v;
        }
      expect(Math.sqrt(b / a)).toBeLessThan(0.35);
      expect(sum / was).toBeGreaterThan(0.85);
      expect(sum / was).toBeLessThan(1.02);
    }
    const at = 4 * (5 * 64 + 5);
    expect(cleaner.finish("surfaces", pixelsOf(film), whole(film), FULL).light[at]! / 1000).toBeCloseTo(1, 1);
  });

  it("at no strength is the film as it was rendered", () => {
    const film = noisy(20, 20, 5);
    for (const side of SIDES) {
      const found = light(cleaner.finish(side, pixelsOf(film), whole(film), { fireflies: 0, air: 0, surfaces: 0 }).light);
      raw(film, side).forEach((v, i) => expect(Math.abs(found[i]! - v)).toBeLessThan(1e-5 * v + 1e-6));
    }
  });

  it.each([1, 2, 3])("works with %d samples, in frames and parts of one pixel, and with numbers that are none", (n) => {
    const film = noisy(12, 9, n);
    film.data[5 * film.stride + L.F_AIR] = NaN;
    film.data[17 * film.stride + L.F_SURFACES_ODD] = Infinity;
    film.data[29 * film.stride + L.F_ALBEDO] = NaN;
    film.data[31 * film.stride + L.F_DISTANCE] = NaN;
    film.data.fill(0, 40 * film.stride, 41 * film.stride);
    for (const side of SIDES) {
      const all = cleaner.finish(side, pixelsOf(film), whole(film), FULL).light;
      light(all).forEach((v) => expect(Number.isFinite(v)).toBe(true));
      const one: Film = { ...film, crop: [4, 3, 5, 4] };
      light(cleaner.finish(side, pixelsOf(one), [0, 0, 1, 1], FULL).light).forEach((v) => expect(Number.isFinite(v)).toBe(true));
    }
    const quick = cleaner.live("surfaces", true, pixelsOf(film), whole(film), 1, FULL);
    [...light(quick.light), ...light(quick.air!)].forEach((v) => expect(Number.isFinite(v)).toBe(true));
  });
});

describe("the quick filter", () => {
  it("gives the same numbers in bands as in one piece", () => {
    const film = noisy(70, 90, 2);
    const all = cleaner.live("surfaces", true, pixelsOf(film), whole(film), 1, FULL);
    for (const [y0, y1] of [
      [0, 38],
      [38, 76],
      [76, 90],
    ] as const) {
      const part = cleaner.live("surfaces", true, pixelsOf(film), [0, y0, 70, y1], 1, FULL);
      for (let i = 0; i < 70 * (y1 - y0); i++)
        for (let k = 0; k < 3; k++) {
          expect(part.light[4 * i + k]).toBe(all.light[4 * (70 * y0 + i) + k]);
          expect(part.air![4 * i + k]).toBe(all.air![4 * (70 * y0 + i) + k]);
        }
    }
  });

  it("takes most of the noise of one sample a pixel", () => {
    const film = noisy(96, 64, 1);
    const { light: found, air } = cleaner.live("surfaces", true, pixelsOf(film), whole(film), 1, FULL);
    for (const [side, after, least] of [
      ["surfaces", light(found), 0.5],
      ["air", light(air!), 0.35],
    ] as const) {
      const before = raw(film, side);
      // how much neighbours along a row differ, away from edges
      const rough = (v: number[]): number => {
        let s = 0;
        for (let y = 20; y < 40; y++) for (let x = 8; x < 24; x++) s += (v[3 * (y * 96 + x)]! - v[3 * (y * 96 + x + 1)]!) ** 2;
        return Math.sqrt(s);
      };
      expect(rough(after) / rough(before)).toBeLessThan(least);
    }
  });

  it("holds where what is left of the sun is less than nothing and has no noise", () => {
    // the estimate of the sun along a ray may take away more than was found: air darker than nothing, the same in both halves
    const film = noisy(48, 32, 2, true);
    for (let p = 0; p < film.data.length; p += film.stride)
      for (let k = 0; k < 3; k++) {
        const deep = (p / film.stride) % 48 < 24 ? 1e-3 : 2000;
        film.data[p + L.F_AIR + k] = -2 * deep;
        film.data[p + L.F_AIR_ODD + k] = -deep;
      }
    const { air } = cleaner.live("surfaces", true, pixelsOf(film), whole(film), 1, FULL);
    for (let i = 0; i < 48 * 32; i++)
      for (let k = 0; k < 3; k++) {
        const v = air![i * CLEANED_FLOATS + k]!;
        expect(v).toBeLessThanOrEqual(0);
        expect(v).toBeGreaterThanOrEqual(-2001);
      }
  });

  it("of a coarse sweep is spread over all pixels", () => {
    const film = noisy(40, 30, 2, true);
    // only every fourth pixel has samples
    for (let y = 0; y < 30; y++)
      for (let x = 0; x < 40; x++) if (x % 4 || y % 4) film.data.fill(0, (y * 40 + x) * film.stride, (y * 40 + x + 1) * film.stride);
    const area: Area = [0, 0, 10, 8];
    const { air } = cleaner.live("surfaces", true, pixelsOf(film), area, 4, FULL);
    const spread = expand(air!, 4, 40, 30);
    expect(spread).toHaveLength(4 * 40 * 30);
    const mean = 2 * (1 - (0.3 + (0.5 * 18) / 40));
    expect(Math.abs(spread[4 * (12 * 40 + 18)]! - mean)).toBeLessThan(0.15 * mean);
    expect(spread[4 * (12 * 40 + 18)]!).toBeGreaterThan(spread[4 * (12 * 40 + 26)]!);
  });
});
