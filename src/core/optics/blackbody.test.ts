import { describe, expect, it } from "vitest";
import { blackBodyLuminance, planck } from "./blackbody";
import { luminance, temperatureRgb } from "./colour";

describe("black bodies", () => {
  it("freezing platinum is 60 cd/cm², as the candela was once defined", () => {
    // 2042 K on the scale of 1948, 2041.4 K today
    expect(luminance(...blackBodyLuminance(2041.4)) / 6e5).toBeCloseTo(1, 1);
  });
  it("radiates σT⁴/π in all (Stefan–Boltzmann)", () => {
    let sum = 0;
    for (let um = 0.1; um < 400; um *= 1.002) sum += planck(um * 1e-6, 1800) * um * 1e-6 * 0.002;
    expect(sum / ((5.670374419e-8 * 1800 ** 4) / Math.PI)).toBeCloseTo(1, 2);
  });
  it("has the colour of its temperature, and no light when cold", () => {
    for (const t of [2000, 3200, 6500]) {
      const [a, b] = [blackBodyLuminance(t), temperatureRgb(t)];
      const y = luminance(...a);
      a.forEach((v, k) => expect(v / y).toBeCloseTo(b[k]!, 1));
    }
    expect(blackBodyLuminance(20)).toEqual([0, 0, 0]);
    expect(luminance(...blackBodyLuminance(900))).toBeLessThan(1);
  });
});
