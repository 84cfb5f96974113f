import { describe, expect, it } from "vitest";
import { F_AIR, F_COUNT, F_LUMINANCE2, F_SURFACES } from "../layout/layout";
import { BRIGHTER, DARKER, difference, HIDDEN, type Picture } from "./difference";
import { emptyFilm, type Film } from "./film";

const [W, H] = [60, 40];
let state = 7;
const next = (): number => (state = (state * 48271) % 2147483647) / 2147483647;
const gauss = (): number => Math.sqrt(-2 * Math.log(next())) * Math.cos(2 * Math.PI * next());

/** A grey film of `samples` samples a pixel, each of a deviation of its own. */
function film(level: (x: number, y: number) => number, deviation = 0, samples = 16, width = W, height = H): Film {
  const out = emptyFilm(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p = (y * width + x) * out.stride;
      out.data[p + F_COUNT] = samples;
      for (let s = 0; s < samples; s++) {
        const v = level(x, y) + deviation * gauss();
        for (let k = 0; k < 3; k++) {
          out.data[p + F_AIR + k]! += 0.25 * v;
          out.data[p + F_SURFACES + k]! += 0.75 * v;
        }
        out.data[p + F_LUMINANCE2]! += v * v;
      }
    }
  return out;
}
const shown = (of: Film, exposure = 6): Picture => ({ film: of, development: { exposure, whiteBalance: 6500 } });
const pixel = ({ pixels, width }: { pixels: Uint8ClampedArray; width: number }, x: number, y: number): number[] => [
  ...pixels.subarray(4 * (y * width + x), 4 * (y * width + x) + 3),
];

describe("the difference of two pictures", () => {
  it.each(["stops", "relative", "deltaE"] as const)("of a picture with itself is black, in %s", (kind) => {
    const of = shown(film((x) => 1 + x, 3));
    const d = difference(of, of, kind, 1);
    expect(d.pixels.every((v, i) => (i % 4 === 3 ? v === 255 : v === 0))).toBe(true);
    expect([d.told, d.rms, d.fitted]).toEqual([0, 0, false]);
  });

  it("tells light by its stops and shares, brighter and darker, by exposure too", () => {
    const one = film(() => 20);
    const two = film((x) => (x < 30 ? 40 : 10));
    const d = difference(shown(one), shown(two), "stops", 1);
    expect(d.rms).toBeCloseTo(1, 4);
    expect(d.told).toBe(1);
    expect(pixel(d, 3, 3)).toEqual([...BRIGHTER]);
    expect(pixel(d, 50, 3)).toEqual([...DARKER]);
    expect(difference(shown(one), shown(film(() => 15)), "relative", 1).rms).toBeCloseTo(0.25, 4);
    // the same film two stops darker
    expect(difference(shown(one), shown(one, 8), "stops", 4).rms).toBeCloseTo(2, 4);
  });

  it("is grey where noise may be all of it, and told where it cannot", () => {
    // two renders of one thing: of normal noise one place in twenty-two is past two errors
    const [a, b] = [film(() => 20, 6), film(() => 20, 6)];
    const same = difference(shown(a), shown(b), "stops", 1);
    expect(same.told).toBeGreaterThan(0.02);
    expect(same.told).toBeLessThan(0.09);
    const greys = Array.from({ length: W * H }, (_, i) => pixel(same, i % W, Math.floor(i / W))).filter((p) =>
      p.every((v) => v === HIDDEN),
    );
    expect(greys.length / (W * H)).toBeCloseTo(1 - same.told, 2);
    // an error is 6/√16 of 20: half as bright again is told everywhere
    expect(difference(shown(a), shown(film(() => 30, 6)), "stops", 1).told).toBeGreaterThan(0.98);
  });

  it("fits pictures of other frames, and compares what both have", () => {
    const d = difference(shown(film((x) => 1 + x)), shown(film((x) => 1 + x / 2, 0, 16, 2 * W, 3 * H)), "relative", 1);
    expect(d.fitted).toBe(true);
    expect(d.rms).toBeLessThan(0.1);
    const region: Film = { ...film(() => 20), crop: [10, 10, 30, 20] };
    const cropped = difference(shown(film(() => 10)), shown(region), "stops", 1);
    expect(pixel(cropped, 15, 15)).toEqual([...BRIGHTER]);
    expect(pixel(cropped, 5, 5)).toEqual([0, 0, 0]);
    expect(cropped.rms).toBeCloseTo(1, 4);
  });
});
