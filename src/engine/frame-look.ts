/** A short look at a frame: how noisy it is and what its samples cost, for a forecast of the whole. */
import { AIR_EVERY } from "#core/document/air-size";
import { lookedBlocks, type LookedBlocks, type Rate } from "#core/budget/forecast";
import type { SceneDocument } from "#core/document/schema";
import { copyFilm, type Film } from "#core/film/film";
import { cropOf } from "#core/scene/memory";
import type { CleanPool } from "./clean-pool";
import type { RenderEngine } from "./engine";
import { finalSchedule, MEDIUM_PASSES } from "./schedule";

export interface FrameLook {
  width: number;
  height: number;
  rate: Rate;
  /** Processor seconds before samples came at their rate: maps and tables that a render fills as it begins. */
  start: number;
  /** Blocks after all samples of the look, and after a few of them, for how errors fall. */
  blocks: LookedBlocks;
  few: LookedBlocks;
  /** Processor seconds that cleaning a pixel takes; 0 where it is not cleaned. */
  cleaning: number;
}

/** Samples of a pixel that a look takes, and after how many the rate counts and errors are told for the first time. */
const SAMPLES = 16;
const SETTLED = 4;
/** Pixels and samples of the first try, which says how large the look may be; and the fewest that say anything. */
const TRY_PIXELS = 3000;
const TRY_SAMPLES = 2;
const LEAST_PIXELS = 2500;
/** Relative standard error of a rate, at the least: the same work takes that much more or less from time to time. */
const LEAST_DOUBT = 0.1;

/**
 * Looks at a document's frame. The engine's present film is overwritten.
 * @param seconds how long it may take, about @param spent processor seconds of this process until now
 * @param of which picture's errors are meant @param cleaner tells what a clean-up costs, and its errors; null: there is none
 * @throws Error where another run took over
 */
export async function lookAtFrame(
  engine: RenderEngine,
  doc: SceneDocument,
  seconds: number,
  spent: () => number,
  of: "rendered" | "cleaned",
  cleaner: CleanPool | null,
): Promise<FrameLook> {
  const document: SceneDocument = { ...doc, render: { ...doc.render, noiseThreshold: null } };
  const [w, h] = doc.film.size;
  const every = engine.shared ? AIR_EVERY[doc.render.airSize] : 1;
  const sized = (pixels: number): [number, number] => {
    const k = Math.min(1, Math.sqrt(pixels / (w * h)));
    return [Math.max(1, Math.round(k * w)), Math.max(1, Math.round(k * h))];
  };
  const run = async ([width, height]: [number, number], samples: number, onStage?: (film: Film) => void): Promise<Film> => {
    const result = await engine.start({
      ...{ document, width, height, stages: finalSchedule(0, samples, MEDIUM_PASSES, every) },
      onStage: () => onStage?.(engine.film()!),
    });
    if (result.outcome !== "done") throw new Error("the look was cancelled");
    return result.film;
  };
  const pixelsOf = (size: [number, number]): number => {
    const [x0, y0, x1, y1] = cropOf(document, ...size);
    return Math.max(1, (x1 - x0) * (y1 - y0));
  };
  const small = sized(TRY_PIXELS);
  // once for what is done but once, once for the time
  await run(small, 1);
  const before = spent();
  await run(small, TRY_SAMPLES);
  const each = Math.max(1e-9, (spent() - before) / (pixelsOf(small) * TRY_SAMPLES));
  const size = sized(Math.max(LEAST_PIXELS, ((seconds * engine.workers) / (each * SAMPLES)) * ((w * h) / pixelsOf([w, h]))));
  const pixels = pixelsOf(size);
  const begun = spent();
  const ends: { samples: number; spent: number }[] = [];
  const stages = finalSchedule(0, SAMPLES, MEDIUM_PASSES, every);
  let early: Film | null = null;
  const film = copyFilm(
    await run(size, SAMPLES, (present) => {
      const { end } = stages[ends.length]!;
      ends.push({ samples: end, spent: spent() - begun });
      if (end === SETTLED) early = copyFilm(present);
    }),
  );
  const at = (samples: number): number => ends.findLast((e) => e.samples === samples)!.spent;
  const half = SAMPLES / 2;
  const [first, second] = [(at(half) - at(SETTLED)) / (half - SETTLED), (at(SAMPLES) - at(half)) / (SAMPLES - half)];
  const mean = (at(SAMPLES) - at(SETTLED)) / (SAMPLES - SETTLED);
  const rate: Rate = { seconds: mean / pixels, doubt: Math.max(LEAST_DOUBT, Math.abs(first - second) / (2 * mean)) };
  const enlarged = w / size[0];
  let cleaning = 0;
  const blocks = async (looked: Film): Promise<LookedBlocks> => {
    if (!cleaner || (of === "rendered" && looked !== film)) return lookedBlocks(looked, enlarged, "rendered");
    const from = spent();
    const cleaned = await cleaner.finish(looked, { sides: ["air", "surfaces"], strengths: doc.film.cleanUp });
    cleaning = (spent() - from) / pixels;
    return lookedBlocks({ ...looked, cleaned }, enlarged, of);
  };
  const few = await blocks(early ?? film),
    all = await blocks(film);
  const start = Math.max(0, at(SAMPLES) - mean * SAMPLES);
  return { width: size[0], height: size[1], rate, start, blocks: all, few, cleaning };
}
