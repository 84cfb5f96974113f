import { describe, expect, it } from "vitest";
import { balanceSchema, gainOf, loneBalance, type Balance } from "../document/balance";
import { F_AIR, F_COUNT, F_SURFACES, G_AIR, G_SURFACES } from "../layout/layout";
import { CLEANED_FLOATS, NOT_CLEANED } from "./cleaned";
import { groupFloat, pixelFloats, type Film } from "./film";
import { lightOf } from "./light";
import { colourAt } from "./meter";
import { lightBalance, noisePulled } from "./light-balance";

const LIGHTS = ["sun", "sky", "lamp"];
const balance = (b: unknown): Balance => balanceSchema.parse(b);
let state = 1;
const next = (): number => (state = (state * 48271) % 2147483647) / 2147483647;

/** A film of three light groups with random light, 3 samples a pixel. */
function film(width = 7, height = 5): Film {
  const extras = { lights: LIGHTS, mattes: null };
  const stride = pixelFloats(extras);
  const data = new Float32Array(width * height * stride);
  const out: Film = { data, stride, width, height, crop: [0, 0, width, height], ...extras };
  for (let p = 0; p < data.length; p += stride) {
    data[p + F_COUNT] = 3;
    for (let g = 0; g < 3; g++)
      for (let k = 0; k < 3; k++) {
        const [a, s] = [3 * next(), 6 * next()];
        data[p + groupFloat(out, g) + G_AIR + k] = a;
        data[p + groupFloat(out, g) + G_SURFACES + k] = s;
        data[p + F_AIR + k]! += a;
        data[p + F_SURFACES + k]! += s;
      }
  }
  return out;
}
/** What a balance makes of the light, by its meaning. */
function expected(of: Film, b: Balance, sides: readonly ("air" | "surfaces")[]): number[] {
  return Array.from({ length: of.width * of.height * 3 }, (_, i) => {
    const [p, k] = [Math.floor(i / 3) * of.stride, (i % 3) as 0 | 1 | 2];
    let sum = 0;
    for (const side of sides)
      LIGHTS.forEach((light, g) => {
        sum += (gainOf(b, light, side)[k] * of.data[p + groupFloat(of, g) + (side === "air" ? G_AIR : G_SURFACES) + k]!) / 3;
      });
    return sum;
  });
}
const close = (a: Float32Array, b: readonly number[]): void => {
  expect(a.length).toBe(b.length);
  a.forEach((v, i) => expect(Math.abs(v - b[i]!)).toBeLessThan(1e-4 * (1 + Math.abs(b[i]!))));
};
const MIXED = balance({
  sun: { air: { stops: 1, colour: [1, 0.5, 0.25] }, surfaces: { stops: -2 } },
  lamp: { air: { stops: 0.5 }, surfaces: { stops: 3, colour: [0, 1, 1] } },
});

describe("gains of light groups", () => {
  it("are stops times a filter; silent ones are none, and all others beside one that is soloed", () => {
    expect(gainOf(MIXED, "sun", "air")).toEqual([2, 1, 0.5]);
    expect(gainOf(MIXED, "moon", "air")).toEqual([1, 1, 1]);
    const solo = balance({ sun: { solo: true }, lamp: { solo: true, muted: true }, sky: {} });
    expect(["sun", "lamp", "sky", "moon"].map((g) => gainOf(solo, g, "air")[0])).toEqual([1, 0, 0, 0]);
  });
});

describe("light as it is looked at", () => {
  it.each(["beauty", "air", "surfaces"] as const)("of the %s is the sum of its light groups times their gains", (pass) => {
    const of = film();
    const sides = pass === "beauty" ? (["air", "surfaces"] as const) : [pass];
    close(lightOf(of, pass, MIXED), expected(of, MIXED, sides));
    close(lightOf(of, pass, {}), expected(of, {}, sides));
    // what the film does not keep is not balanced
    close(lightOf({ ...of, lights: [] }, pass, MIXED), expected(of, {}, sides));
  });

  it("of one group alone is what that group gives, with its own gain, muted or beside a solo too", () => {
    const f = film();
    const given = balance({ sky: { muted: true, air: { stops: 1 } }, sun: { solo: true } });
    const alone = lightOf(f, "air", loneBalance(given, "sky"));
    const p = 8 * f.stride;
    for (let k = 0; k < 3; k++) expect(alone[3 * 8 + k]).toBeCloseTo((2 * f.data[p + groupFloat(f, 1) + G_AIR + k]!) / 3, 5);
    const sums = LIGHTS.map((group) => lightOf(f, "air", loneBalance({}, group)));
    lightOf(f, "air", undefined).forEach((v, i) => expect(sums.reduce((a, s) => a + s[i]!, 0)).toBeCloseTo(v, 4));
  });

  it("is metered as it is balanced", () => {
    const of = film(3, 3);
    const all = expected(of, MIXED, ["air", "surfaces"]);
    const mean = [0, 1, 2].map((k) => all.reduce((a, v, i) => (i % 3 === k ? a + v / 9 : a), 0));
    colourAt(of, 0.5, 0.5, MIXED)!.forEach((v, k) => expect(v).toBeCloseTo(mean[k]!, 3));
  });

  it("of cleaned light groups is theirs; of a cleaned whole, what the balance does to the rendered light about it", () => {
    const of = film(9, 9);
    const n = 81;
    const clean = (v: number): Float32Array => new Float32Array(CLEANED_FLOATS * n).fill(v);
    const lights = { air: [clean(1), clean(2), clean(3)], surfaces: [clean(4), clean(5), clean(6)] };
    const apart = { ...of, cleaned: { ...NOT_CLEANED, air: clean(6), surfaces: clean(15), lights } };
    const value = (k: 0 | 1 | 2): number =>
      LIGHTS.reduce((a, l, g) => a + gainOf(MIXED, l, "air")[k] * (g + 1) + gainOf(MIXED, l, "surfaces")[k] * (g + 4), 0);
    const light = lightOf(apart, "beauty", MIXED);
    light.forEach((v, i) => expect(v).toBeCloseTo(value((i % 3) as 0 | 1 | 2), 4));
    // as wholes: every gain alike is exact whatever the pixels
    const even = balance(Object.fromEntries(LIGHTS.map((l) => [l, { air: { stops: 1 }, surfaces: { stops: 1 } }])));
    const whole = { ...of, cleaned: { ...NOT_CLEANED, air: clean(6), surfaces: clean(15) } };
    lightOf(whole, "beauty", even).forEach((v) => expect(v).toBeCloseTo(42, 3));
    // what was cleaned with that balance is shown as it is, and with another by what they differ in
    const with1 = { ...of, cleaned: { ...NOT_CLEANED, air: clean(6), surfaces: clean(15), balance: even } };
    lightOf(with1, "beauty", even).forEach((v) => expect(v).toBe(21));
    lightOf(with1, "beauty", {}).forEach((v) => expect(v).toBeCloseTo(10.5, 3));
    // between the least and the most of its gains
    const one = balance({ sun: { air: { stops: 2 } } });
    lightOf(whole, "air", one).forEach((v) => {
      expect(v).toBeGreaterThan(6);
      expect(v).toBeLessThan(24);
    });
  });
});

describe("the noise that a balance pulls up", () => {
  it("is estimated as noise is, and told against the light", () => {
    // independent: white noise of a known deviation over a slope
    const of = film(120, 90);
    for (let y = 0; y < 90; y++)
      for (let x = 0; x < 120; x++) {
        const p = (y * 120 + x) * of.stride;
        for (let g = 0; g < 3; g++)
          for (let k = 0; k < 3; k++) {
            const gauss = Math.sqrt(-2 * Math.log(next())) * Math.cos(2 * Math.PI * next());
            // alike in all bands
            const v = k === 0 ? 100 + 2 * x - y + [1, 4, 0.5][g]! * gauss : of.data[p + groupFloat(of, g) + G_AIR]! / 3;
            of.data[p + groupFloat(of, g) + G_AIR + k] = 3 * v;
            of.data[p + groupFloat(of, g) + G_SURFACES + k] = 0;
          }
      }
    const groups = lightBalance(of);
    [1, 4, 0.5].forEach((deviation, g) => {
      // 432 places: the mean of a half-normal deviate is known to 0.76/√432
      expect(groups[g]!.noise.air / deviation).toBeGreaterThan(0.85);
      expect(groups[g]!.noise.air / deviation).toBeLessThan(1.15);
      expect(groups[g]!.noise.surfaces).toBe(0);
    });
    const plain = noisePulled(groups, {});
    expect(plain).toBe(1);
    // the noisiest four times up: √(1 + 256·… ) by its parts
    const up = noisePulled(groups, balance({ sky: { air: { stops: 2 } } }));
    const [a, b, c] = groups.map((g) => g.noise.air) as [number, number, number];
    expect(up).toBeCloseTo((Math.sqrt(a * a + 16 * b * b + c * c) / Math.sqrt(a * a + b * b + c * c)) * (3 / 6), 2);
  });
});
