import { describe, expect, it } from "vitest";
import { glareSchema } from "../document/finish";
import { F_AIR, F_COUNT } from "../layout/layout";
import { develop, type Development } from "./develop";
import { emptyFilm, type Film } from "./film";
import { NO_FINISH } from "./finish";
import { HalfLight } from "./half-light";

/** A film of two samples whose light grows to the right. */
function ramp(width: number, height: number): Film {
  const film = emptyFilm(width, height);
  for (let i = 0; i < width * height; i++) {
    const p = i * film.stride;
    film.data[p + F_COUNT] = 2;
    for (let k = 0; k < 3; k++) film.data[p + F_AIR + k] = (1 + (i % width) + 3 * k) * 300;
  }
  return film;
}
const development: Development = { exposure: 10, whiteBalance: 5000, finish: { ...NO_FINISH, contrast: 1.3, saturation: 0.8 } };

/** Largest distance of a half picture's bytes from those of the whole one, the whole one's own dither aside. */
function off(film: Film, of: Development, { pixels, width, height }: ReturnType<HalfLight["develop"]>): number {
  const whole = new Uint8ClampedArray(4 * film.width * film.height);
  develop(film, "beauty", of, whole);
  let most = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let k = 0; k < 4; k++)
        most = Math.max(most, Math.abs(pixels[4 * (y * width + x) + k]! - whole[4 * (2 * y * film.width + 2 * x) + k]!));
  return most;
}

describe("half the pixels each way", () => {
  it("is every second pixel as the whole picture has it, its last digit aside, of pictures of odd sizes too", () => {
    const film = ramp(31, 17);
    const half = new HalfLight();
    const drawn = half.develop(film, "beauty", development, "a");
    expect([drawn.width, drawn.height]).toEqual([16, 9]);
    expect(off(film, development, drawn)).toBeLessThanOrEqual(1);
    // the same light, developed otherwise
    const other = { ...development, exposure: 11.5, finish: { ...NO_FINISH, saturation: 0.3 } };
    expect(off(film, other, half.develop(film, "beauty", other, "a"))).toBeLessThanOrEqual(1);
  });

  it("is of a region its own half", () => {
    const film = { ...ramp(20, 10), crop: [3, 2, 10, 9] as const };
    expect(new HalfLight().develop(film, "beauty", development, "a")).toMatchObject({ width: 4, height: 4 });
  });

  it("has all that samples brought after as many answers as it has bands, and at once of another film or balance", () => {
    const film = ramp(40, 32);
    const half = new HalfLight();
    half.develop(film, "beauty", development, "a");
    for (let i = 0; i < 40 * 32; i++) film.data[i * film.stride + F_AIR] = 9000;
    const distances = Array.from({ length: 8 }, () => off(film, development, half.develop(film, "beauty", development, "a")));
    expect(distances[0]).toBeGreaterThan(20);
    expect(distances.at(-1)).toBeLessThanOrEqual(1);
    const darker = ramp(40, 32);
    expect(off(darker, development, half.develop(darker, "beauty", development, "b"))).toBeLessThanOrEqual(1);
    expect(off(darker, development, half.develop(darker, "air", development, "b"))).toBeLessThanOrEqual(1);
  });

  it("has the glare it is asked for, and none once there is none", () => {
    const film = ramp(64, 48);
    for (let k = 0; k < 3; k++) film.data[(24 * 64 + 32) * film.stride + F_AIR + k] = 4e5 * 30;
    const half = new HalfLight();
    const glaring = (halo: number): Development => ({
      ...development,
      exposure: 14,
      finish: { ...NO_FINISH, glare: glareSchema.parse({ halo, width: 0.3 }) },
    });
    const at = ({ pixels, width }: ReturnType<HalfLight["develop"]>): number => pixels[4 * (width * 12 + 13)]!;
    const none = at(half.develop(film, "beauty", glaring(0), "a"));
    const some = at(half.develop(film, "beauty", glaring(0.2), "a"));
    expect(some).toBeGreaterThan(none + 5);
    expect(at(half.develop(film, "beauty", glaring(0.5), "a"))).toBeGreaterThan(some + 5);
    expect(at(half.develop(film, "beauty", glaring(0), "a"))).toBe(none);
  });

  it("has glare whose strengths are dragged as it has it where they are asked for at once", () => {
    const film = ramp(64, 48);
    for (let k = 0; k < 3; k++) film.data[(24 * 64 + 32) * film.stride + F_AIR + k] = 1e7;
    const glaring = (halo: number, starburst: number): Development => ({
      ...development,
      exposure: 14,
      finish: { ...NO_FINISH, glare: glareSchema.parse({ halo, starburst, width: 0.2, threshold: 1 }) },
    });
    const half = new HalfLight();
    half.develop(film, "beauty", glaring(0.5, 0.1), "a");
    const dragged = half.develop(film, "beauty", glaring(0.2, 0.4), "a").pixels;
    const anew = new HalfLight().develop(film, "beauty", glaring(0.2, 0.4), "a").pixels;
    expect(dragged).toEqual(anew);
    // a threshold is told against white: its exposure counts
    const darker = { ...glaring(0.2, 0.4), exposure: 18 };
    expect(half.develop(film, "beauty", darker, "a").pixels).toEqual(new HalfLight().develop(film, "beauty", darker, "a").pixels);
  });
});
