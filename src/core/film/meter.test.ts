import { describe, expect, it } from "vitest";
import { filmSchema } from "../document/schema";
import { tintedXy, whiteBalanceMatrix, xyzToRgb, type Rgb } from "../optics/colour";
import { F_AIR, F_COUNT, F_SURFACES, PIXEL_FLOATS } from "../layout/layout";
import { develop } from "./develop";
import { emptyFilm } from "./film";
import { colourAt, exposureFor, neutralWhite } from "./meter";

function plain(colour: Rgb) {
  const film = emptyFilm(9, 5);
  for (let i = 0; i < 45; i++) {
    const p = i * PIXEL_FLOATS;
    film.data[p + F_COUNT] = 4;
    // half from the air, half from surfaces
    for (let k = 0; k < 3; k++) {
      film.data[p + F_AIR + k] = 2 * colour[k]!;
      film.data[p + F_SURFACES + k] = 2 * colour[k]!;
    }
  }
  return film;
}

describe("metering", () => {
  it("reads the mean colour about a point, and nothing where there are no samples", () => {
    expect(colourAt(plain([10, 20, 5]), 0.99, 0.01)).toEqual([10, 20, 5]);
    expect(colourAt(emptyFilm(4, 4), 0.5, 0.5)).toBeNull();
  });

  it("exposes a point to the same middle tone whatever its luminance", () => {
    const tones = [0.02, 3, 8000].map((l) => {
      const film = plain([l, l, l]);
      const rgba = new Uint8ClampedArray(45 * 4);
      develop(film, "beauty", { exposure: exposureFor(colourAt(film, 0.5, 0.5)!)!, whiteBalance: 6500 }, rgba);
      return rgba[0]!;
    });
    expect(new Set(tones).size).toBe(1);
    expect(tones[0]).toBeGreaterThan(90);
    expect(tones[0]).toBeLessThan(140);
    expect(exposureFor([0, 0, 0])).toBeNull();
  });

  it.each([
    [2200, 0],
    [3200, 0.01],
    [4500, -0.015],
    [5000, 0],
    [6500, 0.004],
    [9000, -0.006],
    [15000, 0.003],
  ])("finds the temperature and tint of light of %s K, Duv %s, on grey", (kelvin, tint) => {
    const [x, y] = tintedXy(kelvin, tint);
    const light = xyzToRgb([(300 * x) / y, 300, (300 * (1 - x - y)) / y]);
    const found = neutralWhite(light)!;
    expect(Math.abs(found.kelvin / kelvin - 1)).toBeLessThan(0.003);
    expect(Math.abs(found.tint - tint)).toBeLessThan(3e-4);
    const m = whiteBalanceMatrix(found.kelvin, found.tint);
    const neutral = [0, 3, 6].map((k) => m[k]! * light[0] + m[k + 1]! * light[1] + m[k + 2]! * light[2]);
    expect(Math.max(...neutral) / Math.min(...neutral)).toBeLessThan(1.004);
  });

  it("knows the light of tubes: CIE F2 (x 0.3721, y 0.3751) is of 4230 K and hardly green, a greener one has more tint", () => {
    const of = (x: number, y: number) => neutralWhite(xyzToRgb([x / y, 1, (1 - x - y) / y]))!;
    expect(Math.abs(of(0.3721, 0.3751).kelvin - 4230)).toBeLessThan(60);
    expect(Math.abs(of(0.3721, 0.3751).tint)).toBeLessThan(0.004);
    expect(of(0.3721, 0.4).tint).toBeGreaterThan(0.008);
    expect(of(0.3721, 0.34).tint).toBeLessThan(-0.008);
  });

  it("stays in its range for light that is warmer, colder or greener than that, and gives nothing for black", () => {
    for (const colour of [
      [1, 0.01, 1e-6],
      [0.01, 0.1, 5],
      [0.01, 1, 0.01],
      [1, 0.01, 1],
    ] as Rgb[]) {
      // prettier-ignore
      const { kelvin, tint } = neutralWhite(colour)!;
      expect(filmSchema.safeParse({ whiteBalance: kelvin, tint }).success, `${kelvin} K, ${tint}`).toBe(true);
    }
    expect(neutralWhite([0, 1, 1])).toBeNull();
  });
});
