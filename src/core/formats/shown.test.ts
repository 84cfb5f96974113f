import { decode } from "fast-png";
import { expect, it } from "vitest";
import { emptyFilm } from "../film/film";
import { F_COUNT, F_DEPTH, F_HITS, F_TRANSMITTANCE, PIXEL_FLOATS } from "../layout/layout";
import { shownMask, shownToPng } from "./shown";

const film = emptyFilm(5, 1);
// 2, 6, 10 and 30 m away, and nothing; the air lets all, half, a quarter and none through
[2, 6, 10, 30].forEach((depth, i) => film.data.set([3 * depth, 3], i * PIXEL_FLOATS + F_DEPTH));
[1, 0.5, 0.25, 0, 1].forEach((v, i) => {
  film.data.fill(3 * v, i * PIXEL_FLOATS + F_TRANSMITTANCE, i * PIXEL_FLOATS + F_TRANSMITTANCE + 3);
  film.data[i * PIXEL_FLOATS + F_COUNT] = 3;
});

it("a mask of depth is black to near, white from far and where nothing is, and even between", () => {
  expect(F_HITS).toBe(F_DEPTH + 1);
  expect([...shownMask(film, { of: "depth", near: 2, far: 10 }, 8).values]).toEqual([0, 128, 255, 255, 255]);
  expect([...shownMask(film, { of: "depth", near: 4, far: 12 }, 16).values]).toEqual([0, 16384, 49151, 65535, 65535]);
});

it("a mask of the air is how much it hides, without a curve", () => {
  expect([...shownMask(film, { of: "air" }, 8).values]).toEqual([0, 128, 191, 255, 0]);
});

it("a mask's PNG has one band, says no colours, and how large a print of it is", () => {
  const bytes = shownToPng(shownMask(film, { of: "air" }, 16), { Title: "t" }, 254);
  const image = decode(bytes);
  expect([image.channels, image.depth, image.width]).toEqual([1, 16, 5]);
  expect([...image.data]).toEqual([0, 32768, 49151, 65535, 0]);
  expect(image.resolution).toEqual({ x: 10000, y: 10000, unit: 1 });
  expect(new TextDecoder("latin1").decode(bytes)).not.toContain("sRGB");
});
