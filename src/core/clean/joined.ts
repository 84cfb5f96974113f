/** Cleaned air of sampled pixels, joined to the surfaces of all: as the kernel joins what is rendered (kernel/assembly/join.ts). */
import { CLEANED_FLOATS } from "../film/cleaned";
import { F_COUNT, F_DISTANCE, F_HITS, F_TRANSMITTANCE } from "../layout/layout";
import { luminance } from "../optics/colour";
import { gainByOpacity, JOIN_REACH, likeness, spline, unlikeOpacity, unlikeSurfaces } from "../optics/join";
import type { Area, Pixels } from "./cleaner";

/** What of a pixel says how alike it is to others: cover, distance, opacity of three bands. */
const GUIDE = 5;

function readGuide({ data: d }: Pixels, p: number, to: Float64Array, at: number): void {
  const rays = d[p + F_COUNT]!,
    hits = d[p + F_HITS]!;
  to[at] = rays > 0 ? hits / rays : 0;
  to[at + 1] = hits > 0 ? d[p + F_DISTANCE]! / hits : 0;
  for (let k = 0; k < 3; k++) to[at + 2 + k] = rays > 0 ? 1 - d[p + F_TRANSMITTANCE + k]! / rays : 0;
}

/**
 * Joins cleaned air to an area of the crop.
 * @param every pixels from one that is sampled to the next @param from cleaned pixels of those that are sampled, row by row: lights to be joined alike
 * @param into those of the whole crop, in the same order
 */
export function joinCleaned(pixels: Pixels, every: number, from: readonly Float32Array[], into: readonly Float32Array[], area: Area): void {
  const [left, top, right, bottom] = pixels.bounds;
  const across = Math.ceil((right - left) / every),
    down = Math.ceil((bottom - top) / every);
  const guides = new Float64Array(GUIDE * across * down);
  // those of rows that the area reaches
  const rows = [Math.max(0, Math.floor(area[1] / every) - 1), Math.min(down, Math.ceil(area[3] / every) + 2)] as const;
  for (let j = rows[0]; j < rows[1]; j++)
    for (let i = 0; i < across; i++)
      readGuide(pixels, ((top + j * every) * pixels.across + left + i * every) * pixels.stride, guides, GUIDE * (j * across + i));
  const own = new Float64Array(GUIDE);
  const weights = new Float64Array(JOIN_REACH * JOIN_REACH),
    places = new Int32Array(JOIN_REACH * JOIN_REACH);
  const gain = [1, 1, 1];
  for (let y = area[1]; y < area[3]; y++)
    for (let x = area[0]; x < area[2]; x++) {
      readGuide(pixels, ((top + y) * pixels.across + left + x) * pixels.stride, own, 0);
      let count = 0,
        sum = 0,
        red = 0,
        green = 0,
        blue = 0;
      const column = Math.floor(x / every),
        row = Math.floor(y / every);
      for (let j = Math.max(0, row - 1); j < Math.min(down, row - 1 + JOIN_REACH); j++) {
        const near = spline(y / every - j);
        for (let i = Math.max(0, column - 1); i < Math.min(across, column - 1 + JOIN_REACH); i++) {
          const g = GUIDE * (j * across + i);
          const unlike =
            unlikeSurfaces(own[0]!, own[1]!, guides[g]!, guides[g + 1]!) +
            unlikeOpacity(own[2]!, guides[g + 2]!) +
            unlikeOpacity(own[3]!, guides[g + 3]!) +
            unlikeOpacity(own[4]!, guides[g + 4]!);
          const w = near * spline(x / every - i) * likeness(unlike);
          if (!(w > 0)) continue;
          places[count] = CLEANED_FLOATS * (j * across + i);
          weights[count++] = w;
          sum += w;
          red += w * guides[g + 2]!;
          green += w * guides[g + 3]!;
          blue += w * guides[g + 4]!;
        }
      }
      if (count === 0) continue;
      gain[0] = gainByOpacity(own[2]!, red / sum);
      gain[1] = gainByOpacity(own[3]!, green / sum);
      gain[2] = gainByOpacity(own[4]!, blue / sum);
      const all = luminance(gain[0], gain[1], gain[2]);
      const to = CLEANED_FLOATS * (y * (right - left) + x);
      for (let l = 0; l < from.length; l++) {
        const light = from[l]!,
          out = into[l]!;
        let r = 0,
          g = 0,
          b = 0,
          error = 0;
        for (let i = 0; i < count; i++) {
          const at = places[i]!,
            w = weights[i]!;
          r += w * light[at]!;
          g += w * light[at + 1]!;
          b += w * light[at + 2]!;
          error += w * light[at + 3]!;
        }
        out[to] = (gain[0] * r) / sum;
        out[to + 1] = (gain[1] * g) / sum;
        out[to + 2] = (gain[2] * b) / sum;
        // what a clean-up errs by is alike in pixels side by side: a mean of them errs as much
        out[to + 3] = (all * all * error) / sum;
      }
    }
}
