/** Made-up films for the tests of the clean-up. */
import type { Pixels } from "#core/clean/cleaner";
import { emptyFilm, pixelFloats, type Film } from "#core/film/film";
import * as L from "#core/layout/layout";

/** Numbers in [0, 1) by a seed. */
export function numbers(seed: number): () => number {
  let s = seed;
  return () => {
    s = (Math.imul(s ^ (s >>> 15), 0x2c1b3c6d) + 0x297a2d39) | 0;
    return ((s ^ (s >>> 12)) >>> 0) / 4294967296;
  };
}

/** Two walls that meet at a slant, in air that thickens to one side, with noise: `n` samples a pixel. @param even whether both halves are the same */
export function noisy(width: number, height: number, n: number, even = false): Film {
  const film = emptyFilm(width, height);
  const random = numbers(7);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p = (y * width + x) * film.stride;
      const d = film.data;
      const left = x + 0.4 * y < 0.6 * width;
      const t = 0.3 + (0.5 * x) / width;
      const hits = y < 3 ? 0 : n;
      for (let i = 0; i < n; i++) {
        // exponential noise, now and then a spark
        const noise = (): number => (even ? 1 : -Math.log(1 - random()) * (random() < 0.01 ? 12 : 1));
        const [a, s, c] = [noise(), noise(), noise()];
        for (let k = 0; k < 3; k++) {
          const air = 2 * (1 - t) * (1 + 0.2 * k) * a,
            wall = t * (left ? 0.7 : 0.2 + 0.2 * k) * 5 * s,
            clear = (left ? 0.7 : 0.2 + 0.2 * k) * 5 * c;
          const seen = x === 5 && y === 5 ? 1000 : 0;
          d[p + L.F_AIR + k]! += air;
          d[p + L.F_SURFACES + k]! += wall + seen;
          d[p + L.F_CLEAR + k]! += clear + seen;
          d[p + L.F_SEEN + k]! += seen;
          d[p + L.F_CLEAR_SEEN + k]! += seen;
          if (i % 2 === 1) {
            d[p + L.F_AIR_ODD + k]! += air;
            d[p + L.F_SURFACES_ODD + k]! += wall;
            d[p + L.F_CLEAR_ODD + k]! += clear;
          }
        }
      }
      d[p + L.F_COUNT] = n;
      d[p + L.F_CLEAR_COUNT] = n;
      d[p + L.F_HITS] = hits;
      for (let k = 0; k < 3; k++) {
        d[p + L.F_TRANSMITTANCE + k] = t * n;
        d[p + L.F_ALBEDO + k] = (left ? 0.7 : 0.2 + 0.2 * k) * hits;
        d[p + L.F_NORMAL + k] = (left ? [0, 0, 1] : [1, 0, 0])[k]! * hits;
      }
      d[p + L.F_DISTANCE] = (left ? 4 : 9) * hits;
    }
  return film;
}

export const pixelsOf = (film: Film): Pixels => ({ data: film.data, stride: film.stride, across: film.width, bounds: film.crop });

/** The same film with its light split into three groups: one everywhere, one to the right, and what is seen. */
export function grouped(film: Film): Film {
  const lights = ["sun", "lamp", "glow"];
  const stride = pixelFloats({ lights, mattes: null });
  const data = new Float32Array(film.width * film.height * stride);
  for (let i = 0; i < film.width * film.height; i++) {
    const p = i * stride;
    data.set(film.data.subarray(i * film.stride, i * film.stride + film.stride), p);
    const lamp = (0.8 * (i % film.width)) / film.width;
    [1 - lamp, lamp, 0].forEach((share, g) => {
      const at = p + L.PIXEL_FLOATS + L.GROUP_FLOATS * g;
      for (let k = 0; k < 3; k++) {
        const seen = g === 2 ? data[p + L.F_SEEN + k]! : 0;
        data[at + L.G_AIR + k] = share * data[p + L.F_AIR + k]!;
        data[at + L.G_SURFACES + k] = share * (data[p + L.F_SURFACES + k]! - data[p + L.F_SEEN + k]!) + seen;
        data[at + L.G_SEEN + k] = seen;
      }
    });
  }
  return { ...film, data, stride, lights };
}
export const GROUPS = { first: L.PIXEL_FLOATS, count: 3 };
