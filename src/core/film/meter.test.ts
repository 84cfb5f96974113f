import { describe, expect, it } from "vitest";
import { temperatureRgb, type Rgb } from "../optics/colour";
import { F_AIR, F_COUNT, F_SURFACES, PIXEL_FLOATS } from "../layout/layout";
import { develop } from "./develop";
import { emptyFilm } from "./film";
import { colourAt, exposureFor, neutralTemperature } from "./meter";

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

  it.each([2200, 3200, 5000, 6500, 9000, 15000])("finds the temperature of light of %s K on grey", (kelvin) => {
    const found = neutralTemperature(temperatureRgb(kelvin).map((c) => 300 * c) as Rgb)!;
    // near 6500 K the balance passes through neutral within a step
    expect(Math.abs(found / kelvin - 1)).toBeLessThan(0.02);
  });

  it("gives the end of the range where no light is that warm or cold, and nothing for black", () => {
    expect(neutralTemperature([1, 0.01, 1e-6])).toBe(1700);
    expect(neutralTemperature([0.01, 0.1, 5])).toBe(25000);
    expect(neutralTemperature([0, 1, 1])).toBeNull();
  });
});
