import { describe, expect, it } from "vitest";
import { GROUPS, grouped, noisy, pixelsOf } from "../../../tests/support/clean-films";
import { CLEANED_FLOATS, type Side } from "../film/cleaned";
import type { Film } from "../film/film";
import * as L from "../layout/layout";
import { luminance } from "../optics/colour";
import { Cleaner, NO_GROUPS, type Area } from "./cleaner";
import { giveBackMissed } from "./missed";

const FULL = { fireflies: 1, air: 1, surfaces: 1 };
const SUMS = { air: L.F_AIR, surfaces: L.F_SURFACES, clear: L.F_CLEAR };
const ODDS = { air: L.F_AIR_ODD, surfaces: L.F_SURFACES_ODD, clear: L.F_CLEAR_ODD };
const whole = (film: Film): Area => [0, 0, film.width, film.height];
const raw = (film: Film, side: Side, i: number, k: number): number =>
  film.data[i * film.stride + SUMS[side] + k]! / film.data[i * film.stride + L.F_COUNT]!;
/** Light as rendered times a factor, as if it had been cleaned. */
const times = (film: Film, side: Side, factor: number): Float32Array =>
  Float32Array.from({ length: CLEANED_FLOATS * film.width * film.height }, (_, i) =>
    i % 4 === 3 ? 0 : factor * raw(film, side, Math.floor(i / 4), i % 4),
  );
function givenBack(film: Film, side: Side, light: Float32Array): Float32Array {
  const out = light.slice();
  giveBackMissed(side, pixelsOf(film), out, NO_GROUPS, []);
  return out;
}
const meanOf = (v: Float32Array): number => v.reduce((s, x, i) => (i % 4 === 3 ? s : s + x), 0) / (0.75 * v.length);

/**
 * The same by docs/clean-up.md's words: sums over every pixel and block, in the plainest way. Blocks of 3 × 3 pixels; what was missed,
 * of light divided by transmittance and albedo; boxes twice over of 0, 1 and 5 blocks each way.
 */
function plainly(film: Film, side: Side, light: Float32Array): Float32Array {
  const { width: w, height: h, data: d, stride } = film;
  const [bw, bh] = [Math.ceil(w / 3), Math.ceil(h / 3)];
  const modulation = (i: number, k: number): number => {
    const p = i * stride;
    if (side === "air") return 1;
    const cover = d[p + L.F_HITS]! / d[p + L.F_COUNT]!;
    if (cover === 0) return 0;
    const t = side === "clear" ? 1 : d[p + L.F_TRANSMITTANCE + k]! / d[p + L.F_COUNT]!;
    return Math.max(0.001, t) * Math.max(0.02, cover * (d[p + L.F_ALBEDO + k]! / d[p + L.F_HITS]!) + 1 - cover);
  };
  const blocks = Array.from({ length: bw * bh }, () => ({ missed: [0, 0, 0], pixels: 0, variance: 0 }));
  for (let i = 0; i < w * h; i++) {
    if (modulation(i, 0) === 0) continue;
    const b = blocks[Math.floor(Math.floor(i / w) / 3) * bw + Math.floor((i % w) / 3)]!;
    const p = i * stride;
    const n = d[p + L.F_COUNT]!;
    const odd = [0, 1, 2].map((k) => d[p + ODDS[side] + k]! / Math.floor(n / 2) / modulation(i, k));
    const even = [0, 1, 2].map((k) => (d[p + SUMS[side] + k]! - d[p + ODDS[side] + k]!) / Math.ceil(n / 2) / modulation(i, k));
    const lum = (v: number[]): number => luminance(v[0]!, v[1]!, v[2]!);
    const share = Math.floor(n / 2) / n;
    b.variance += share * (1 - share) * (lum(odd) - lum(even)) ** 2 + (1e-5 * (share * lum(odd) + (1 - share) * lum(even))) ** 2;
    b.pixels++;
    for (let k = 0; k < 3; k++) b.missed[k]! += (raw(film, side, i, k) - light[4 * i + k]!) / modulation(i, k);
  }
  /** Mean over a box of blocks twice over; past the edges is nothing. */
  const boxed = (list: number[], r: number): number[] =>
    list.map((_, b) => {
      let sum = 0;
      for (let v = -r; v <= r; v++)
        for (let u = -r; u <= r; u++) {
          const [x, y] = [(b % bw) + u, Math.floor(b / bw) + v];
          if (x >= 0 && x < bw && y >= 0 && y < bh) sum += list[y * bw + x]!;
        }
      return sum / (2 * r + 1) ** 2;
    });
  const twice = (f: (b: number) => number, r: number): number[] =>
    boxed(
      boxed(
        blocks.map((_, b) => f(b)),
        r,
      ),
      r,
    );
  const fields = blocks.map(() => [0, 0, 0]);
  let left = blocks.map(() => 1);
  for (const r of [0, 1, 5]) {
    // a box twice over weighs by a triangle
    const squares = Array.from({ length: 4 * r + 1 }, (_, j) => ((2 * r + 1 - Math.abs(j - 2 * r)) / (2 * r + 1) ** 2) ** 2).reduce(
      (a, b) => a + b,
    );
    const found = [0, 1, 2].map((k) => twice((b) => left[b]! * blocks[b]!.missed[k]!, r));
    const noise = twice((b) => left[b]! ** 2 * blocks[b]!.variance, r);
    const pixels = twice((b) => blocks[b]!.pixels, r);
    const share = noise.map((v, b) => {
      const l = luminance(found[0]![b]!, found[1]![b]!, found[2]![b]!);
      return l === 0 ? 0 : l ** 2 / (l ** 2 + 24 * squares ** 2 * v);
    });
    fields.forEach((f, b) => {
      if (pixels[b]! > 0) for (let k = 0; k < 3; k++) f[k]! += (share[b]! * found[k]![b]!) / pixels[b]!;
    });
    left = left.map((v, b) => v * (1 - share[b]!));
  }
  const out = light.slice();
  const clamp = (v: number, n: number): number => Math.max(0, Math.min(n - 1, v));
  for (let i = 0; i < w * h; i++) {
    if (modulation(i, 0) === 0) continue;
    const [u, v] = [clamp(((i % w) + 0.5) / 3 - 0.5, bw), clamp((Math.floor(i / w) + 0.5) / 3 - 0.5, bh)];
    const [x, y] = [Math.floor(u), Math.floor(v)];
    const more = [0, 1, 2].map((k) => {
      const at = (X: number, Y: number): number => fields[clamp(Y, bh) * bw + clamp(X, bw)]![k]!;
      const row = (Y: number): number => at(x, Y) + (u - x) * (at(x + 1, Y) - at(x, Y));
      return modulation(i, k) * (row(y) + (v - y) * (row(y + 1) - row(y)));
    });
    const share = Math.min(1, ...more.map((m, k) => (m < 0 ? (0.5 * light[4 * i + k]!) / -m : 1)));
    for (let k = 0; k < 3; k++) out[4 * i + k]! += share * more[k]!;
  }
  return out;
}

describe("light that the better filter misses", () => {
  it.each(["air", "surfaces", "clear"] as const)("comes back as a plain account of it says, of %s", (side) => {
    const film = noisy(50, 37, 6);
    const light = new Cleaner().finish(side, pixelsOf(film), whole(film), FULL).light;
    const expected = plainly(film, side, light);
    givenBack(film, side, light).forEach((v, i) =>
      expect(Math.abs(v - expected[i]!), `number ${i}`).toBeLessThan(1e-5 * (1 + Math.abs(v))),
    );
  });

  it("comes back whole where the halves agree, and nothing does where nothing is missed", () => {
    const even = noisy(48, 30, 4, true);
    for (const side of ["air", "clear"] as const) {
      const truth = times(even, side, 1);
      givenBack(even, side, truth).forEach((v, i) => expect(Math.abs(v - truth[i]!)).toBeLessThanOrEqual(1e-6 * truth[i]!));
      // of light that changes along a row a block's mean comes back: alike on the whole, and nearly so in each pixel
      const found = givenBack(even, side, times(even, side, 0.8));
      if (side === "air") expect(meanOf(found) / meanOf(truth)).toBeCloseTo(1, 2);
      for (let y = 6; y < 27; y++)
        for (let x = 35; x < 42; x++) expect(found[4 * (48 * y + x)]! / truth[4 * (48 * y + x)]!).toBeCloseTo(1, 1);
    }
  });

  it("brings the mean of sparks nearer to what was rendered, and the picture not farther from the truth", () => {
    const film = noisy(90, 70, 8);
    const air = (i: number, k: number): number => 2 * 1.11 * (1 - (0.3 + (0.5 * (i % 90)) / 90)) * (1 + 0.2 * k);
    const light = new Cleaner().finish("air", pixelsOf(film), whole(film), FULL).light;
    const after = givenBack(film, "air", light);
    const rendered = meanOf(times(film, "air", 1));
    const off = (v: Float32Array): number => v.reduce((s, x, i) => (i % 4 === 3 ? s : s + (x - air(Math.floor(i / 4), i % 4)) ** 2), 0);
    const lost = (v: Float32Array): number => 1 - meanOf(v) / rendered;
    expect(lost(light)).toBeGreaterThan(0.05);
    expect(lost(after)).toBeLessThan(0.6 * lost(light));
    expect(lost(after)).toBeGreaterThan(0);
    expect(off(after)).toBeLessThan(0.8 * off(light));
  });

  it("never comes back more than once, whatever share each width gives of it", () => {
    // without noise between the halves, and with more and more of it
    for (const even of [true, false]) {
      const film = noisy(60, 45, 64, even);
      const found = givenBack(film, "air", times(film, "air", 0.7));
      expect(meanOf(found) / meanOf(times(film, "air", 1))).toBeLessThan(1.005);
      expect(meanOf(found) / meanOf(times(film, "air", 1))).toBeGreaterThan(0.9);
    }
  });

  it("is shared out among the light groups, which still add up", () => {
    const film = grouped(noisy(61, 47, 6));
    for (const side of ["air", "surfaces"] as const) {
      const { light, groups } = new Cleaner().finish(side, pixelsOf(film), whole(film), FULL, GROUPS);
      const before = groups.map(meanOf);
      giveBackMissed(side, pixelsOf(film), light, GROUPS, groups);
      for (let i = 0; i < light.length; i++)
        if (i % 4 < 3) expect(Math.abs(groups.reduce((s, g) => s + g[i]!, 0) - light[i]!)).toBeLessThan(2e-5 * Math.abs(light[i]!) + 1e-6);
      expect(meanOf(groups[0]!)).toBeGreaterThan(before[0]!);
      expect(meanOf(groups[1]!)).toBeGreaterThan(before[1]!);
      // what is seen directly is no part of it
      expect(meanOf(groups[2]!)).toBe(before[2]);
    }
  });

  it("takes at most half of a pixel's light, leaves the sky alone, and what is no number", () => {
    const film = noisy(40, 30, 4);
    const tooMuch = times(film, "surfaces", 3);
    const dark = 4 * (40 * 20 + 30);
    tooMuch.fill(1e-3, dark, dark + 3);
    const found = givenBack(film, "surfaces", tooMuch);
    expect(found[dark]!).toBeGreaterThanOrEqual(0.5e-3 * (1 - 1e-6));
    expect(found[dark]!).toBeLessThan(1e-3);
    // no surface is in the first three rows
    expect(found.subarray(0, 4 * 40 * 3)).toEqual(tooMuch.subarray(0, 4 * 40 * 3));
    film.data[(40 * 10 + 10) * film.stride + L.F_SURFACES] = NaN;
    film.data[(40 * 12 + 10) * film.stride + L.F_SURFACES + 1] = Infinity;
    film.data[(40 * 14 + 10) * film.stride + L.F_COUNT] = 1;
    givenBack(film, "surfaces", times(noisy(40, 30, 4), "surfaces", 0.9)).forEach((v) => expect(Number.isFinite(v)).toBe(true));
  });
});
