/** The air of a film as it is sampled, where it is joined to the surfaces: a film of its own, of the sampled pixels alone. */
import {
  F_AIR,
  F_AIR_LUMINANCE2,
  F_AIR_ODD,
  F_EMISSION,
  GROUP_FLOATS,
  G_AIR,
  PIXEL_FLOATS,
  R_AIR,
  R_AIR_LUMINANCE2,
  R_AIR_ODD,
  R_EMISSION,
  R_GROUPS,
  SAMPLED_GROUP_FLOATS,
} from "../layout/layout";
import { groupFloat, pixelFloats, type Film } from "./film";

/** Where the sums of what is sampled lie in a pixel, and where they lie in that of a usual film. */
const SUMS = [
  { from: R_AIR, to: F_AIR, floats: 3 },
  { from: R_EMISSION, to: F_EMISSION, floats: 3 },
  { from: R_AIR_ODD, to: F_AIR_ODD, floats: 3 },
  { from: R_AIR_LUMINANCE2, to: F_AIR_LUMINANCE2, floats: 1 },
] as const;

/** Pixels of the crop that are sampled, one beside the other, with the air that they have themselves; light groups as well, mattes are left out. */
export function sampledFilm(film: Film): Film {
  const every = film.airEvery ?? 1;
  const [x0, y0, x1, y1] = film.crop;
  const width = Math.ceil((x1 - x0) / every),
    height = Math.ceil((y1 - y0) / every);
  const kept = { lights: film.lights, mattes: null };
  const stride = pixelFloats(kept);
  const bytes = 4 * width * height * stride;
  const shared = typeof SharedArrayBuffer !== "undefined" && film.data.buffer instanceof SharedArrayBuffer;
  const data = shared ? new Float32Array(new SharedArrayBuffer(bytes)) : new Float32Array(bytes / 4);
  const d = film.data;
  const groups = film.lights.length;
  const [from, to] = [groupFloat(film, 0), groupFloat(kept, 0)];
  const raw = from + GROUP_FLOATS * groups;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p = ((y0 + y * every) * film.width + x0 + x * every) * film.stride;
      const q = (y * width + x) * stride;
      for (let i = 0; i < PIXEL_FLOATS; i++) data[q + i] = d[p + i]!;
      for (const sum of SUMS) for (let i = 0; i < sum.floats; i++) data[q + sum.to + i] = d[p + raw + sum.from + i]!;
      for (let i = 0; i < GROUP_FLOATS * groups; i++) data[q + to + i] = d[p + from + i]!;
      for (let g = 0; g < groups; g++)
        for (let k = 0; k < 3; k++) data[q + to + GROUP_FLOATS * g + G_AIR + k] = d[p + raw + R_GROUPS + SAMPLED_GROUP_FLOATS * g + k]!;
    }
  return { data, stride, width, height, crop: [0, 0, width, height], ...kept };
}
