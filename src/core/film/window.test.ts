import { describe, expect, it } from "vitest";
import { parseDocument } from "../document/parse";
import { F_AIR, F_COUNT } from "../layout/layout";
import { cropOf } from "../scene/memory";
import { difference } from "./difference";
import { emptyFilm, partShown, sampledNear, type Film } from "./film";
import { colourAt } from "./meter";
import { readingAt } from "./reading";

const [W, H] = [80, 50];
const level = (x: number, y: number): number => 1 + x + 100 * y;

/** A film of a part of a frame of W × H, whose light tells its place in the frame. */
function part(x0: number, y0: number, width: number, height: number): Film {
  const film: Film = { ...emptyFilm(width, height), frame: { x: x0, y: y0, width: W, height: H } };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p = (y * width + x) * film.stride;
      film.data[p + F_COUNT] = 1;
      film.data.fill(level(x0 + x, y0 + y), p + F_AIR, p + F_AIR + 3);
    }
  return film;
}
const whole: Film = { ...part(0, 0, W, H), frame: null };
const window = part(20, 12, 33, 21);
const shares = (x: number, y: number): [number, number] => [(x + 0.5) / W, (y + 0.5) / H];

describe("a film that is a window of its frame", () => {
  it("is read by places of the frame, as the whole frame is", () => {
    for (const [x, y] of [
      [20, 12],
      [35, 20],
      [52, 32],
    ] as const) {
      // prettier-ignore
      expect(window.data[sampledNear(window, ...shares(x, y))! + F_AIR]).toBe(level(x, y));
      const look = { exposure: 0 };
      expect(readingAt(window, ...shares(x, y), look)!.passes.air).toEqual(readingAt(whole, ...shares(x, y), look)!.passes.air);
    }
    expect(colourAt(window, ...shares(35, 20))).toEqual(colourAt(whole, ...shares(35, 20)));
    // near enough to its border the nearest pixel counts, farther off there is nothing
    expect(window.data[sampledNear(window, ...shares(17, 20))! + F_AIR]).toBe(level(20, 20));
    expect(sampledNear(window, ...shares(5, 20))).toBeNull();
    expect(colourAt(window, ...shares(5, 20))).toBeNull();
  });

  it("says which part it shows, its own region too", () => {
    expect(partShown(whole)).toBeNull();
    expect(partShown(window)).toEqual({ x: 20 / W, y: 12 / H, width: 33 / W, height: 21 / H });
    expect(partShown({ ...whole, crop: [8, 5, 48, 30] })).toEqual({ x: 0.1, y: 0.1, width: 0.5, height: 0.5 });
    expect(partShown({ ...window, crop: [0, 0, 20, 20] })).toEqual({ x: 20 / W, y: 12 / H, width: 20 / W, height: 20 / H });
  });

  it("differs in nothing from the whole frame where both show the same, and is not fitted", () => {
    const shown = (film: Film) => ({ film, development: { exposure: 6, whiteBalance: 6500 } });
    for (const [a, b] of [
      [window, whole],
      [whole, window],
    ] as const) {
      // prettier-ignore
      const d = difference(shown(a), shown(b), "stops", 1);
      expect([d.told, d.rms, d.fitted]).toEqual([0, 0, false]);
    }
    const moved: Film = { ...window, frame: { ...window.frame!, x: 21 } };
    expect(difference(shown(moved), shown(whole), "stops", 1).rms).toBeGreaterThan(0);
  });

  it("is rendered where a region of the frame and it meet", () => {
    const doc = parseDocument({ fumarium: 2, film: { region: { x: 0.5, y: 0.5, width: 0.25, height: 0.5 } } });
    expect(cropOf(doc, W, H)).toEqual([40, 25, 60, 50]);
    expect(cropOf(doc, 33, 21, window.frame!)).toEqual([20, 13, 33, 21]);
    // out of sight, a pixel is left of it
    expect(cropOf(doc, 10, 10, { x: 0, y: 0, width: W, height: H })).toEqual([9, 9, 10, 10]);
    expect(cropOf({ ...doc, film: { ...doc.film, region: null } }, 33, 21, window.frame!)).toEqual([0, 0, 33, 21]);
  });
});
