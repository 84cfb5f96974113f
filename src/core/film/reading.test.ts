import { expect, it } from "vitest";
import { balanceSchema } from "../document/balance";
import { F_AIR, F_CLEAR, F_CLEAR_COUNT, F_COUNT, F_DEPTH, F_HITS, F_SURFACES, F_TRANSMITTANCE, G_AIR, G_SURFACES } from "../layout/layout";
import { MIDDLE_GREY, whiteAt } from "../optics/exposure";
import { CLEANED_FLOATS, NOT_CLEANED } from "./cleaned";
import { groupFloat, pixelFloats, type Film } from "./film";
import { readingAt } from "./reading";

const extras = { lights: ["sun", "lamp"], mattes: null };
const stride = pixelFloats(extras);

/** Four pixels by three, of which a region of two by two is rendered; its pixels say which they are. */
function film(): Film {
  const out: Film = { data: new Float32Array(12 * stride), stride, width: 4, height: 3, crop: [1, 1, 3, 3], ...extras };
  for (const [x, y] of [
    [1, 1],
    [2, 1],
    [1, 2],
    [2, 2],
  ] as const) {
    // prettier-ignore
    const p = (4 * y + x) * stride;
    const n = 10 * y + x;
    out.data[p + F_COUNT] = out.data[p + F_HITS] = out.data[p + F_CLEAR_COUNT] = 2;
    out.data[p + F_DEPTH] = 2 * n;
    for (let k = 0; k < 3; k++) {
      out.data[p + F_AIR + k] = 2 * n;
      out.data[p + F_SURFACES + k] = 2 * 3 * n;
      out.data[p + F_CLEAR + k] = 2 * 5 * n;
      out.data[p + F_TRANSMITTANCE + k] = 2 * 0.25;
      out.data[p + groupFloat(out, 0) + G_AIR + k] = 2 * n;
      out.data[p + groupFloat(out, 1) + G_SURFACES + k] = 2 * 3 * n;
    }
  }
  return out;
}

it("a reading has every pass of the pixel, its luminance and stops, and what each light gives", () => {
  const r = readingAt(film(), 0.6, 0.9, { exposure: 5 })!;
  const n = 22;
  expect(r.passes.beauty[0]).toBeCloseTo(4 * n, 4);
  expect(r.passes.air[2]).toBeCloseTo(n, 4);
  expect(r.passes.clear[1]).toBeCloseTo(5 * n, 4);
  expect(r.passes.depth[0]).toBeCloseTo(n, 4);
  expect(r.passes.opacity[0]).toBeCloseTo(0.75, 5);
  expect(r.luminance).toBeCloseTo(4 * n, 3);
  expect(r.stops).toBeCloseTo(Math.log2((4 * n) / whiteAt(5) / MIDDLE_GREY), 5);
  expect(r.lights.map((l) => [l.name, Math.round(l.air), Math.round(l.surfaces)])).toEqual([
    ["sun", n, 0],
    ["lamp", 0, 3 * n],
  ]);
  // balanced as the picture is; the lights as they were rendered
  const balanced = readingAt(film(), 0.6, 0.9, { exposure: 5, balance: balanceSchema.parse({ sun: { air: { stops: 1 } } }) })!;
  expect(balanced.passes.beauty[0]).toBeCloseTo(5 * n, 3);
  expect(balanced.lights[0]!.air).toBeCloseTo(n, 4);
});

it("a reading is of what is cleaned where that is shown, of the crop's own pixel", () => {
  const values = (f: number): Float32Array => new Float32Array(4 * CLEANED_FLOATS).map((_, i) => f * Math.floor(i / CLEANED_FLOATS));
  const of: Film = { ...film(), cleaned: { ...NOT_CLEANED, air: values(1), surfaces: values(10) } };
  // the second row's first pixel is the crop's third
  expect(readingAt(of, 0.3, 0.9, { exposure: 5 })!.passes.beauty[0]).toBeCloseTo(22, 4);
  // outside the region its nearest pixel is read
  expect(readingAt(of, 0, 0, { exposure: 5 })!.passes.depth[0]).toBeCloseTo(11, 4);
  // of the clear frame there may be none yet
  const later = film();
  later.data.forEach((_, i) => i % stride === F_CLEAR_COUNT && (later.data[i] = 0));
  expect(readingAt(later, 0.6, 0.9, { exposure: 5 })!.passes.clear).toEqual([NaN, NaN, NaN]);
  const empty: Film = { ...film(), data: new Float32Array(12 * stride) };
  expect(readingAt(empty, 0.5, 0.5, { exposure: 5 })).toBeNull();
});
