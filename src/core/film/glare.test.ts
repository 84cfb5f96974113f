import { describe, expect, it } from "vitest";
import { glareSchema, type Glare } from "../document/finish";
import { whiteAt } from "../optics/exposure";
import { addGlare, glareOf } from "./glare";

const glare = (g: Partial<Glare>): Glare => glareSchema.parse(g);
const [W, H] = [301, 180];

/** A picture of one lit pixel. */
function point(x: number, y: number, width = W, height = H): Float32Array {
  const light = new Float32Array(3 * width * height);
  light.fill(1000, 3 * (y * width + x), 3 * (y * width + x) + 3);
  return light;
}
const sum = (values: Float32Array, band: number): number => values.reduce((a, v, i) => (i % 3 === band ? a + v : a), 0);
const at = (values: Float32Array, x: number, y: number, band = 1, width = W): number => values[3 * (y * width + x) + band]!;

describe("glare", () => {
  it.each([
    ["a halo", { halo: 0.3, width: 0.02 }],
    ["a wide halo", { halo: 0.5, width: 0.08 }],
    ["rays", { starburst: 0.4, width: 0.03, turn: 17 }],
    ["both", { halo: 0.2, starburst: 0.2, width: 0.03, blades: 5 }],
  ] as const)("of %s takes as much light as it gives", (_, g) => {
    // far from the border nothing leaves the frame: all comes back but for what is left of exponentials and Gaussians out there
    const spread = glareOf(point(150, 90), W, H, glare(g), H, 12);
    for (let band = 0; band < 3; band++) expect(Math.abs(sum(spread, band))).toBeLessThan(1000 * 0.01);
    const light = point(150, 90);
    addGlare(light, W, H, glare(g), H, 12);
    // in its own place it is the same
    const apart = point(150, 90).map((v, i) => v + spread[i]!);
    expect(light.every((v, i) => Math.abs(v - apart[i]!) < 1e-3)).toBe(true);
    expect(light.every((v) => v > -1e-3)).toBe(true);
  });

  it.each([
    { halo: 0.5, width: 0.5 },
    { starburst: 0.5, width: 0.3, blades: 7 },
  ])("leaves an even picture as it is, at its borders too: $width", (g) => {
    for (const [w, h] of [
      [W, H],
      [1, 1],
      [2, 7],
      [33, 1],
    ] as const) {
      const light = new Float32Array(3 * w * h).fill(700);
      addGlare(light, w, h, glare(g), h, 12);
      expect(light.every((v) => Math.abs(v - 700) < 0.05)).toBe(true);
    }
  });

  it("spreads as the Gaussians that its halo is made of", () => {
    // independent: the same sum of Gaussians at each distance, by its formula
    const g = glare({ halo: 0.4, width: 0.1 });
    const spread = glareOf(point(150, 90), W, H, g, H, 12);
    const weights = Array.from({ length: 6 }, (_, j) => 2 ** (-(5 - j) / 2));
    const whole = weights.reduce((a, w) => a + w);
    const expected = (r: number): number =>
      weights.reduce((a, w, j) => {
        const s = 18 / 2 ** j;
        return s < 2 ? a : a + ((400 * w) / whole) * (Math.exp(-0.5 * (r / s) ** 2) / (2 * Math.PI * s * s));
      }, 0);
    for (const r of [4, 7, 12, 20, 32]) {
      const ring = [at(spread, 150 + r, 90), at(spread, 150 - r, 90), at(spread, 150, 90 + r), at(spread, 150, 90 - r)];
      const mean = ring.reduce((a, v) => a + v) / 4;
      expect(mean / expected(r)).toBeCloseTo(1, 1);
      // round: no direction is favoured by the levels' grid
      const [across, along] = [at(spread, 150 + r, 90), at(spread, 150 + Math.round(r * Math.SQRT1_2), 90 + Math.round(r * Math.SQRT1_2))];
      const there = expected(Math.hypot(Math.round(r * Math.SQRT1_2), Math.round(r * Math.SQRT1_2)));
      expect(along / there / (across / expected(r))).toBeGreaterThan(0.8);
      expect(along / there / (across / expected(r))).toBeLessThan(1.25);
    }
  });

  it("throws as many rays as an iris of so many blades, alike in all directions", () => {
    for (const [blades, rays] of [
      [6, 6],
      [5, 10],
    ] as const) {
      const spread = glareOf(point(150, 90), W, H, glare({ starburst: 0.5, width: 0.2, blades, turn: 10 }), H, 12);
      const r = 40;
      // bilinear samples around a ring
      const ring = Array.from({ length: 720 }, (_, i) => {
        const a = (i / 720) * 2 * Math.PI;
        const [x, y] = [150 + r * Math.sin(a), 90 - r * Math.cos(a)];
        const [i0, j0] = [Math.floor(x), Math.floor(y)];
        const [u, v] = [x - i0, y - j0];
        return (
          (1 - v) * ((1 - u) * at(spread, i0, j0) + u * at(spread, i0 + 1, j0)) +
          v * ((1 - u) * at(spread, i0, j0 + 1) + u * at(spread, i0 + 1, j0 + 1))
        );
      });
      const most = Math.max(...ring);
      const peaks = ring.flatMap((v, i) => {
        const about = Array.from({ length: 31 }, (_, k) => ring[(i + k - 15 + 720) % 720]!);
        return v > 0.3 * most && v === Math.max(...about) ? [[i / 2, v] as const] : [];
      });
      expect(peaks).toHaveLength(rays);
      for (const [k, [degrees]] of peaks.entries()) expect(Math.abs(degrees - (10 + (k * 360) / rays))).toBeLessThan(2.5);
      for (const [, v] of peaks) expect(v / most).toBeGreaterThan(0.7);
    }
  });

  it("throws longer rays of red light than of blue", () => {
    const spread = glareOf(point(150, 90), W, H, glare({ starburst: 0.5, width: 0.1, blades: 4 }), H, 12);
    const of = (band: number): number => at(spread, 150, 90 - 60, band) / at(spread, 150, 90 - 20, band);
    expect(of(0)).toBeGreaterThan(1.2 * of(1));
    expect(of(1)).toBeGreaterThan(1.2 * of(2));
  });

  it("spreads only what is above its threshold", () => {
    const lit = (whites: number): Float32Array => point(20, 20, 64, 64).map((v) => (v / 1000) * whites * whiteAt(12));
    const g = { halo: 0.5, starburst: 0.2 };
    // of three times white, what lies above twice white
    const above = glareOf(lit(3), 64, 64, glare({ ...g, threshold: 1 }), 64, 12);
    const all = glareOf(lit(1), 64, 64, glare(g), 64, 12);
    above.forEach((v, i) => expect(v).toBeCloseTo(all[i]!, 1));
    expect(glareOf(lit(1.9), 64, 64, glare({ ...g, threshold: 1 }), 64, 12).every((v) => v === 0)).toBe(true);
  });

  it("lets no light come from places that have none yet", () => {
    const light = point(20, 20, 64, 64);
    light.fill(NaN, 0, 30);
    addGlare(light, 64, 64, glare({ halo: 0.5, starburst: 0.3 }), 64, 12);
    expect(light.slice(0, 30).every(Number.isNaN)).toBe(true);
    expect(light.slice(30).every(Number.isFinite)).toBe(true);
  });
});
