import { describe, expect, it } from "vitest";
import {
  F_CLEAR,
  F_CLEAR_COUNT,
  F_COUNT,
  F_DEPTH,
  F_DISTANCE,
  F_POSITION,
  F_HITS,
  F_LUMINANCE2,
  F_RAYS,
  F_SURFACES,
  F_TRANSMITTANCE,
  PIXEL_FLOATS,
} from "../layout/layout";
import { develop, passTicks, usualOf } from "./develop";
import { encode, shoulder } from "./finish";
import { copyFilm, emptyFilm, measureFilm, passValues, samplesSoFar, type Film } from "./film";

/** A film with the same light in every pixel: `n` samples that sum to n × value. */
function flat(width: number, height: number, value: number, n = 4): Film {
  const film = emptyFilm(width, height);
  for (let i = 0; i < width * height; i++) {
    const p = i * PIXEL_FLOATS;
    for (let k = 0; k < 3; k++) {
      film.data[p + k] = 0.25 * value * n;
      film.data[p + F_SURFACES + k] = 0.75 * value * n;
    }
    film.data[p + F_LUMINANCE2] = value * value * n;
    film.data[p + F_COUNT] = n;
  }
  return film;
}
const look = (film: Film, exposure: number, stride = 8, pass: Parameters<typeof develop>[1] = "beauty"): Uint8ClampedArray => {
  const out = new Uint8ClampedArray(film.width * film.height * 4);
  develop(film, pass, { exposure, whiteBalance: 6500 }, out, stride);
  return out;
};

describe("samples so far", () => {
  it("are the mean over the crop, of the picture or of the clear frame", () => {
    const film = flat(64, 40, 1, 6);
    expect(samplesSoFar(film)).toBe(6);
    expect(samplesSoFar(film, true)).toBe(0);
    // half of the frame twice as far
    for (let i = 0; i < 64 * 20; i++) film.data[i * PIXEL_FLOATS + F_COUNT] = 12;
    expect(samplesSoFar(film)).toBeCloseTo(9, 0);
    expect(samplesSoFar({ ...film, crop: [3, 2, 4, 3] })).toBe(12);
  });
});

describe("developing", () => {
  it("an exposed luminance of 0.18 lands where sRGB puts it, and a stop more on EV halves the light", () => {
    const film = flat(16, 16, 0.18 * 1.2 * 2 ** 10);
    const mean = (o: Uint8ClampedArray): number => o.filter((_, i) => i % 4 === 1).reduce((a, b) => a + b, 0) / 256;
    expect(mean(look(film, 10))).toBeCloseTo(255 * encode(0.18), 0);
    expect(mean(look(film, 11))).toBeCloseTo(255 * encode(0.09), 0);
  });

  it("the shoulder is straight below 0.6, never falls, has no kink, and stays below 1", () => {
    expect(shoulder(0.5)).toBe(0.5);
    let before = 0;
    for (let x = 0; x < 8; x += 0.01) {
      const v = shoulder(x);
      expect(v).toBeGreaterThanOrEqual(before);
      before = v;
    }
    expect(before).toBeLessThanOrEqual(1);
    expect((shoulder(0.6001) - shoulder(0.5999)) / 0.0002).toBeCloseTo(1, 2);
  });

  it("a smooth gradient keeps its mean between two byte values: dither instead of bands", () => {
    const target = 100.4;
    // the light whose display value is 100.4
    let x = 0;
    while (255 * encode(x) < target) x += 1e-6;
    const o = look(flat(64, 64, x * 1.2), 0);
    const values = o.filter((_, i) => i % 4 === 0);
    expect(new Set(values).size).toBeGreaterThan(1);
    expect(values.reduce((a, b) => a + b, 0) / values.length).toBeCloseTo(target, 1);
  });

  it("pixels without samples show the nearest coarser one, and the crop alone is drawn", () => {
    const film = flat(16, 16, 1);
    for (let y = 0; y < 16; y++)
      for (let x = 0; x < 16; x++) if (x % 8 || y % 8) film.data.fill(0, (y * 16 + x) * PIXEL_FLOATS, (y * 16 + x + 1) * PIXEL_FLOATS);
    const all = look(film, 0);
    for (let i = 0; i < 256; i++) expect(all[4 * i]).toBeGreaterThan(50);
    const part = look({ ...flat(16, 16, 1), crop: [4, 4, 8, 8] }, 0);
    expect(part[4 * (5 * 16 + 5)]).toBeGreaterThan(50);
    expect(part[4 * (12 * 16 + 12) + 3]).toBe(0);
  });

  it("shows near brighter than far, and sky black, as depth", () => {
    const film = flat(4, 1, 1, 1);
    [2, 8, 30].forEach((d, i) => {
      film.data[i * PIXEL_FLOATS + F_DEPTH] = d;
      film.data[i * PIXEL_FLOATS + F_HITS] = 1;
    });
    const o = look(film, 0, 1, "depth");
    expect(o[0]!).toBeGreaterThan(o[4]!);
    expect(o[4]!).toBeGreaterThan(o[8]!);
    expect(o[12]).toBe(0);
  });
});

describe("films", () => {
  it("measure the noise they have: the standard error over the mean", () => {
    const film = emptyFilm(50, 40);
    // luminance 2 ± 1 in equal shares: variance 1, 100 samples, standard error about 0.1, mean 2
    for (let i = 0; i < 2000; i++) {
      const p = i * PIXEL_FLOATS;
      film.data.fill(200, p, p + 3);
      film.data[p + F_LUMINANCE2] = 500;
      film.data[p + F_COUNT] = 100;
    }
    const m = measureFilm(film);
    expect(m.samples).toBe(100);
    expect(m.mean).toBeCloseTo(2, 6);
    expect(m.noise).toBeCloseTo(Math.sqrt(1 / 99) / 2, 6);
    expect(measureFilm(emptyFilm(4, 4)).noise).toBeNull();
    // half the pixels a hundred times as bright, as noisy as they are bright: a share of each pixel's own
    for (let i = 0; i < 1000; i++) {
      const p = i * PIXEL_FLOATS;
      film.data.fill(20_000, p, p + 3);
      film.data[p + F_LUMINANCE2] = 500e4;
    }
    expect(measureFilm(film).noise!).toBeCloseTo(Math.sqrt(1 / 99) * Math.sqrt((1 / 4 + (1 / (0.05 * 101)) ** 2) / 2), 6);
  });

  it("keep clear air apart, and a copy does not follow the original", () => {
    const film = flat(2, 2, 3);
    film.data[F_CLEAR] = 10;
    film.data[F_CLEAR_COUNT] = 2;
    expect(passValues(film, "clear")[0]).toBe(5);
    expect(passValues(film, "clear")[3]).toBe(0);
    const copy = copyFilm(film);
    film.data.fill(0);
    expect(passValues(copy, "beauty")[0]).toBeCloseTo(3, 6);
    expect(passValues(copy, "depth")[0]).toBe(Infinity);
  });
});

describe("what greys of a pass stand for", () => {
  it.each(["depth", "height", "opacity", "noise", "rays", "distance"] as const)("is where development shows it, of %s", (pass) => {
    // a film whose numbers spread about their median
    const film = flat(9, 9, 10);
    for (let i = 0; i < 81; i++) {
      const p = i * PIXEL_FLOATS;
      const v = 0.05 + i / 90;
      film.data[p + F_HITS] = 4;
      for (const sum of [F_DEPTH, F_DISTANCE, F_POSITION + 1, F_RAYS]) film.data[p + sum] = 4 * v;
      for (let k = 0; k < 3; k++) film.data[p + F_TRANSMITTANCE + k] = 4 * (1 - v);
      film.data[p + F_LUMINANCE2] = 4 * (100 + 12 * v * v);
    }
    const usual = usualOf(film, pass)!;
    const shown = look(film, 6, 8, pass);
    for (const { at, value } of passTicks(pass, usual)!) {
      // between the pixels whose numbers are next to it
      const values = passValues(film, pass);
      const near = values.reduce((best, v, i) => (Math.abs(v - value) < Math.abs(values[best]! - value) ? i : best), 0);
      if (Math.abs(values[near]! - value) < 0.01) expect(Math.abs(shown[4 * near]! - 255 * at)).toBeLessThan(3);
    }
    const middle = passTicks(pass, usual)!.find((t) => Math.abs(t.value - usual) < 1e-9 || pass === "opacity")!;
    expect(middle).toBeDefined();
    expect(usualOf(film, "beauty")).toBeNull();
    expect(passTicks("albedo", 1)).toBeNull();
  });
});
