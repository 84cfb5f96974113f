import { describe, expect, it } from "vitest";
import { daylightXy, planckianXy, temperatureRgb, whiteBalanceMatrix, whiteXy } from "./colour";

describe("white light", () => {
  it("is the CIE's: D50, D55, D65 and D75 by day, illuminant A by lamp", () => {
    for (const [kelvin, x, y] of [
      [5000, 0.3457, 0.3585],
      [5500, 0.3324, 0.3474],
      [6500, 0.3127, 0.329],
      [7500, 0.299, 0.3149],
    ] as const) {
      expect(daylightXy(kelvin)[0]).toBeCloseTo(x, 3);
      expect(daylightXy(kelvin)[1]).toBeCloseTo(y, 3);
      expect(whiteXy(kelvin)).toEqual(kelvin === 6500 ? [0.3127, 0.329] : daylightXy(kelvin));
    }
    // CIE A: 2856 K
    expect(Math.abs(planckianXy(2856)[0] - 0.4476)).toBeLessThan(0.001);
    expect(Math.abs(planckianXy(2856)[1] - 0.4074)).toBeLessThan(0.001);
    expect(whiteXy(2856)).toEqual(planckianXy(2856));
  });

  it("balanced at its own temperature is grey, the same in all bands", () => {
    for (const kelvin of [2000, 2856, 3200, 3999, 4001, 4500, 5001, 5600, 6450, 6500, 6600, 8000, 15000]) {
      const m = whiteBalanceMatrix(kelvin);
      const light = temperatureRgb(kelvin);
      const [r, g, b] = [0, 3, 6].map((row) => m[row]! * light[0] + m[row + 1]! * light[1] + m[row + 2]! * light[2]) as [
        number,
        number,
        number,
      ];
      expect(Math.max(r, g, b) / Math.min(r, g, b), String(kelvin)).toBeLessThan(1.0015);
    }
  });

  it("goes from lamps to daylight without a step", () => {
    for (const kelvin of [4000, 5000, 6500]) {
      const [a, b] = [whiteXy(kelvin - 1), whiteXy(kelvin + 1)];
      expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeLessThan(2e-4);
    }
    expect(temperatureRgb(6500)).toEqual([1, 1, 1]);
  });
});
