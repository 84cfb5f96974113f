/** What a film says of its air. */
import type { Film } from "../film/film";
import { F_AIR, F_AIR_LUMINANCE2, F_CLEAR, F_CLEAR_COUNT, F_COUNT, F_LUMINANCE2, F_SURFACES, F_TRANSMITTANCE } from "../layout/layout";
import { luminance } from "../optics/colour";

export interface FilmFacts {
  /** Share of places that the air changes by a grey level or more; null before there is a picture with and without it. */
  changed: number | null;
  /** Share of the frame where the air alone is past white. */
  airClipped: number;
  /** Share of the picture's noise that the air makes, and the noise (share of its mean). */
  airNoise: number;
  noise: number;
  samples: number;
  /** Mean luminance, and the middle one of the frame's parts that are not black, cd/m²; 0 where all are. */
  mean: number;
  median: number;
}

/** Places of the frame that are looked at together: noise must not look like air. */
const BLOCK = 12;

/** Parts of the frame across and down whose brightness is told: so large that few paths which found the light tell it of all. */
const PARTS = [10, 6] as const;

const middleOf = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1] ?? 0;

/** What the film says of the air. @param white luminance of white, cd/m² */
export function filmFacts(film: Film, white: number): FilmFacts {
  const d = film.data;
  let [blocks, changed, air, all, airClipped, known] = [0, 0, 0, 0, 0, 0];
  let [mean, samples, pixels] = [0, 0, 0];
  const parts = Array.from({ length: PARTS[0] * PARTS[1] }, () => ({ sum: 0, count: 0 }));
  const y = (p: number, at: number): number => luminance(d[p + at]!, d[p + at + 1]!, d[p + at + 2]!);
  const [x0, y0, x1, y1] = film.crop;
  for (let by = y0; by < y1; by += BLOCK)
    for (let bx = x0; bx < x1; bx += BLOCK) {
      let [airSum, sum, without, lost, n, clear] = [0, 0, 0, 0, 0, 0];
      for (let j = by; j < Math.min(y1, by + BLOCK); j++)
        for (let i = bx; i < Math.min(x1, bx + BLOCK); i++) {
          const p = (j * film.width + i) * film.stride;
          const count = d[p + F_COUNT]!;
          if (count < 1) continue;
          const a = y(p, F_AIR) / count;
          const b = a + y(p, F_SURFACES) / count;
          airSum += a;
          sum += b;
          n++;
          if (d[p + F_CLEAR_COUNT]! >= 1) {
            const bare = y(p, F_CLEAR) / d[p + F_CLEAR_COUNT]!;
            without += bare;
            // by the transmittance, not by the picture with air: the two pictures' noise must not count
            lost += a - (1 - y(p, F_TRANSMITTANCE) / count) * bare;
            clear++;
          }
          if (count >= 2) {
            air += Math.max(0, d[p + F_AIR_LUMINANCE2]! / count - a * a) / (count - 1);
            all += Math.max(0, d[p + F_LUMINANCE2]! / count - b * b) / (count - 1);
          }
          mean += b;
          samples += count;
          pixels++;
        }
      if (n === 0) continue;
      blocks++;
      const part = Math.floor((PARTS[0] * (bx - x0)) / (x1 - x0)) + PARTS[0] * Math.floor((PARTS[1] * (by - y0)) / (y1 - y0));
      parts[part]!.sum += sum;
      parts[part]!.count += n;
      if (airSum / n > white) airClipped++;
      if (clear < n / 2) continue;
      known++;
      // a grey level at the display's encoding, about two hundredths of a stop
      if (Math.abs(lost / clear) > Math.max(0.012 * (without / clear), white / 1000)) changed++;
    }
  const m = pixels ? mean / pixels : 0;
  return {
    changed: known > 0 ? changed / known : null,
    airClipped: blocks ? airClipped / blocks : 0,
    airNoise: all > 0 ? Math.min(1, air / all) : 0,
    noise: m > 0 ? Math.sqrt(all / pixels) / m : 0,
    samples: pixels ? samples / pixels : 0,
    mean: m,
    median: middleOf(parts.flatMap((p) => (p.sum > 0 ? [p.sum / p.count] : []))),
  };
}
