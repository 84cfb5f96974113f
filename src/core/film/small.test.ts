import { expect, it } from "vitest";
import { F_AIR, F_COUNT, F_DEPTH, F_HITS, G_AIR, PIXEL_FLOATS } from "../layout/layout";
import { CLEANED_FLOATS, NOT_CLEANED } from "./cleaned";
import { groupFloat, lightValues, matteValues, passValues, pixelFloats, type Film, type FilmExtras } from "./film";
import { lightOf } from "./light";
import { smallFilm } from "./small";

/** Mattes, whose numbers may not be added up, lie between the usual sums and those of lights. */
const kinds = { object: ["a"], material: ["m"], medium: [] };
const extras = { lights: ["sun", "lamp"], mattes: null };
const stride = pixelFloats(extras);

/** Seven pixels by five, of which 6 × 4 from the second on are rendered, each with samples and light of its own. */
function film(kept: FilmExtras = extras, stride = pixelFloats(kept)): Film {
  const out: Film = { data: new Float32Array(35 * stride), stride, width: 7, height: 5, crop: [1, 1, 7, 5], ...kept };
  for (let y = 1; y < 5; y++)
    for (let x = 1; x < 7; x++) {
      const p = (7 * y + x) * stride;
      const n = 1 + ((x + y) % 3);
      out.data[p + F_COUNT] = n;
      out.data[p + F_HITS] = x > 2 ? n : 0;
      out.data[p + F_DEPTH] = x > 2 ? n * (10 * y + x) : 0;
      for (let k = 0; k < 3; k++) {
        out.data[p + F_AIR + k] = n * (10 * y + x);
        out.data[p + groupFloat(out, 1) + G_AIR + k] = n * x;
      }
      if (out.mattes) out.data.set([1, n, 0, 0], p + PIXEL_FLOATS);
    }
  return out;
}

it("a small film has the means of blocks, weighed by samples, of its crop alone", () => {
  const small = smallFilm(film(), 3);
  expect([small.width, small.height, ...small.crop]).toEqual([3, 2, 0, 0, 3, 2]);
  // the block of pixels 3 and 4 across, 3 and 4 down: by hand
  const pixels = [[3, 3, 1], [4, 3, 2], [3, 4, 2], [4, 4, 3]] as const; // prettier-ignore
  const count = pixels.reduce((a, [, , n]) => a + n, 0);
  const mean = (of: (x: number, y: number) => number): number => pixels.reduce((a, [x, y, n]) => a + n * of(x, y), 0) / count;
  const at = 3 + 1;
  expect(lightOf(small, "air", undefined)[3 * at]).toBeCloseTo(mean((x, y) => 10 * y + x), 4); // prettier-ignore
  expect(passValues(small, "depth")[at]).toBeCloseTo(mean((x, y) => 10 * y + x), 4); // prettier-ignore
  // nothing stands where nothing was hit
  expect(passValues(small, "depth")[0]).toBe(Infinity);
  const lamp = small.data[at * stride + groupFloat(small, 1) + G_AIR]! / small.data[at * stride + F_COUNT]!;
  expect(lamp).toBeCloseTo(mean((x) => x), 4); // prettier-ignore
});

it("a small film has what is cleaned too, rows and columns that do not fill a block as their own mean", () => {
  const given = { ...film(), crop: [1, 1, 6, 4] as const };
  const air = new Float32Array(CLEANED_FLOATS * 15).map((_, i) => Math.floor(i / CLEANED_FLOATS));
  const small = smallFilm({ ...given, cleaned: { ...NOT_CLEANED, air, lights: { air: [air, air], surfaces: [air, air] } } }, 3);
  expect([small.width, small.height]).toEqual([3, 2]);
  const values = small.cleaned!.air!;
  expect(Array.from({ length: 6 }, (_, i) => values[CLEANED_FLOATS * i])).toEqual([3, 5, 6.5, 10.5, 12.5, 14]);
  expect(small.cleaned!.lights!.surfaces[1]).toEqual(values);
  expect(small.cleaned!.clear).toBeNull();
});

it("a film that is small already stays as it is", () => {
  const given = film();
  const small = smallFilm(given, 100);
  expect([small.width, small.height]).toEqual([6, 4]);
  expect(small.data[0 + F_AIR]).toBe(given.data[(7 + 1) * stride + F_AIR]);
});

it("a small film has each light where it was, beside mattes too, and no mattes", () => {
  const kept = { lights: extras.lights, mattes: kinds };
  expect(
    matteValues(film(kept), "object")
      .get("a")!
      .some((v) => v === 1),
  ).toBe(true);
  const [plain, beside] = [smallFilm(film(), 3), smallFilm(film(kept), 3)];
  expect(Math.max(...lightValues(plain, "lamp", "air"))).toBeGreaterThan(3);
  for (const light of kept.lights) expect(lightValues(beside, light, "air")).toEqual(lightValues(plain, light, "air"));
  expect(matteValues(beside, "object").size).toBe(0);
});
