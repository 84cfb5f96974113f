/** Adaptive sampling by the cleaned picture: which blocks of a film need no more samples for the picture that is kept. */
import { cleanedSides } from "#core/film/cleaned";
import type { Film } from "#core/film/film";
import { SETTLED_GIVEN, SETTLED_SHIFT } from "#core/layout/layout";
import type { SceneDocument } from "#core/document/schema";
import { luminance } from "#core/optics/colour";
import { whiteAt } from "#core/optics/exposure";
import { DARK } from "#core/scene/parameters";
import type { CleanPool } from "./clean-pool";
import { airEveryOf, TILE, type Stage } from "./schedule";

const BLOCK = 1 << SETTLED_SHIFT;
/** Samples must have grown by this factor for a picture to be judged anew: what is settled stays so. */
export const MORE = 1.5;

/** How often at most a cleaned picture is judged between two numbers of samples. */
export const judgements = (first: number, last: number): number =>
  last > first ? 1 + Math.floor(Math.log(last / first) / Math.log(MORE)) : 0;

/** Judges the blocks of a film before a stage; null where the kernel does. */
export type Judge = (film: Film, stage: Stage, signal: AbortSignal) => Promise<Uint32Array | null>;

/**
 * Blocks of 8 × 8 pixels whose cleaned picture errs by no more than `threshold` of its luminance (of `dark` cd/m² where it is darker), as masks of
 * tiles, row by row.
 */
export function settledBlocks(film: Film, threshold: number, dark: number): Uint32Array {
  const [air, surfaces] = cleanedSides(film, "beauty") ?? [];
  if (!air || !surfaces) throw new Error("the film is not cleaned");
  const [width, height] = [film.crop[2] - film.crop[0], film.crop[3] - film.crop[1]];
  const columns = Math.ceil(width / TILE);
  const masks = new Uint32Array(columns * Math.ceil(height / TILE)).fill(SETTLED_GIVEN);
  for (let y = 0; y < height; y += BLOCK)
    for (let x = 0; x < width; x += BLOCK) {
      let squares = 0,
        mean = 0,
        count = 0;
      for (let j = y; j < Math.min(height, y + BLOCK); j++)
        for (let i = x; i < Math.min(width, x + BLOCK); i++, count++) {
          const p = 4 * (j * width + i);
          mean += luminance(air[p]! + surfaces[p]!, air[p + 1]! + surfaces[p + 1]!, air[p + 2]! + surfaces[p + 2]!);
          squares += air[p + 3]! + surfaces[p + 3]!;
        }
      if (!(Math.sqrt(squares / count) <= threshold * Math.max(mean / count, dark))) continue;
      const bit = ((y % TILE) >> SETTLED_SHIFT) * (TILE >> SETTLED_SHIFT) + ((x % TILE) >> SETTLED_SHIFT);
      masks[Math.floor(y / TILE) * columns + Math.floor(x / TILE)]! |= 1 << bit;
    }
  return masks;
}

/** What was judged last: at how many samples, and which blocks. */
export interface Judged {
  samples: number;
  masks: Uint32Array;
}

/**
 * How blocks are judged in a run of a document; null where the kernel does, or nothing is left out.
 * @param kept what an earlier part of the run judged last @param keep told of it before it counts
 */
export function judgeOf(
  doc: SceneDocument,
  cleaner: () => Pick<CleanPool, "finish">,
  kept: Judged | null = null,
  keep?: (judged: Judged) => Promise<void>,
): Judge | null {
  const { noiseThreshold, thresholdOf, minSamples } = doc.render;
  const strengths = doc.film.cleanUp;
  // a picture that is not cleaned is as it was rendered
  if (noiseThreshold === null || thresholdOf !== "cleaned" || !(strengths.air + strengths.surfaces > 0)) return null;
  let last = kept;
  return async (film, stage, signal) => {
    const { stride, first } = stage;
    if ((stride > 1 && stride !== airEveryOf(stage)) || first < minSamples) return null;
    if (last && (first < MORE * last.samples || first === last.samples)) return last.masks;
    const cleaned = await cleaner().finish(film, { sides: ["air", "surfaces"], strengths, signal });
    last = { samples: first, masks: settledBlocks({ ...film, cleaned }, noiseThreshold, DARK * whiteAt(doc.film.exposure)) };
    await keep?.(last);
    return last.masks;
  };
}
