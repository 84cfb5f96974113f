import { describe, expect, it } from "vitest";
import { F_AIR, F_COUNT, PIXEL_FLOATS } from "../layout/layout";
import { emptyFilm } from "./film";
import { histogram, paintClipping, paintStops, TONES } from "./tones";

/** Pixels of given shares of white at 3 EV. */
function film(shares: number[]) {
  const f = emptyFilm(shares.length, 1);
  shares.forEach((s, i) => {
    f.data[i * PIXEL_FLOATS + F_COUNT] = 1;
    for (let k = 0; k < 3; k++) f.data[i * PIXEL_FLOATS + F_AIR + k] = s * 1.2 * 8;
  });
  return f;
}
const development = { exposure: 3, whiteBalance: 6500 };

describe("tones", () => {
  it("are coloured by stops about middle grey", () => {
    const shares = [0.18, 0.18 * 2 ** 1, 0.18 * 2 ** -3, 5];
    const rgba = new Uint8ClampedArray(16);
    paintStops(film(shares), development, rgba);
    const found = shares.map((_, i) => TONES.find((t) => t.rgb.every((c, k) => c === rgba[4 * i + k]))!.words);
    expect(found).toEqual(["middle ± ½", "+½ to +2", "−4 to −2", "white"]);
  });

  it("say what is clipped, in the picture and as shares", () => {
    const shares = [4, 0.18, 0, 0.5];
    const f = film(shares);
    const h = histogram(f, development);
    expect([h.white, h.black]).toEqual([0.25, 0.25]);
    expect(h.bins.reduce((a, b) => a + b, 0)).toBeCloseTo(0.75, 6);
    const middle = Math.floor(((0 - h.low) / (h.high - h.low)) * h.bins.length);
    expect(h.bins[middle]).toBe(0.25);
    const rgba = new Uint8ClampedArray(16).fill(90);
    paintClipping(f, development, rgba);
    expect([...rgba.subarray(0, 3)]).toEqual([226, 92, 52]);
    expect([...rgba.subarray(4, 7)]).toEqual([90, 90, 90]);
  });

  it("count rendered pixels alone: what no sample fell in is neither black nor part of the whole", () => {
    const f = film([4, 0.18, 0, 0.5]);
    const wider = emptyFilm(8, 1);
    wider.data.set(f.data);
    expect(histogram(wider, development)).toEqual(histogram(f, development));
    const rgba = new Uint8ClampedArray(32).fill(90);
    paintClipping(wider, development, rgba);
    paintStops(wider, development, rgba);
    expect([...rgba.subarray(16)]).toEqual(new Array(16).fill(90));
    expect(histogram(emptyFilm(4, 1), development)).toMatchObject({ white: 0, black: 0 });
  });
});
