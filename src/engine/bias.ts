/** What stepping gets wrong on a frame: trial pixels rendered by steps and by unbiased tracking. */
import type { SceneDocument } from "#core/document/schema";
import { beautyNoise } from "#core/film/film";
import { steppedMedia } from "#core/scene/media";
import type { RenderEngine } from "./engine";
import { finalSchedule, MEDIUM_PASSES } from "./schedule";

export interface StepBias {
  /** (stepped − tracked) / tracked, of the frame's mean luminance. */
  relative: number;
  /** Standard error of that. */
  error: number;
  /** Trial pixels, and samples of each by each estimator. */
  pixels: number;
  samples: number;
  seconds: number;
}

/** Pixels along the longer side of a trial. */
const SIDE = 48;

/**
 * Renders the frame small by both estimators. Null where nothing is stepped. The engine's present film is overwritten.
 * @param samples a pixel and estimator; the error falls with their root
 */
export async function measureStepBias(engine: Pick<RenderEngine, "start">, doc: SceneDocument, samples = 48): Promise<StepBias | null> {
  if (doc.render.estimator !== "stepping" || steppedMedia(doc) === 0) return null;
  const [w, h] = doc.film.size;
  const scale = SIDE / Math.max(w, h);
  const [width, height] = [Math.max(1, Math.round(w * scale)), Math.max(1, Math.round(h * scale))];
  let seconds = 0;
  const trial = async (estimator: "stepping" | "tracking"): Promise<{ mean: number; error: number }> => {
    const document = {
      ...doc,
      film: { ...doc.film, lightGroups: false, balance: {}, mattes: false },
      render: { ...doc.render, estimator, noiseThreshold: null, fireflyClamp: null },
    };
    const result = await engine.start({ document, width, height, stages: finalSchedule(0, samples, MEDIUM_PASSES) });
    if (result.outcome !== "done") throw new Error("the trial of the step size was cancelled");
    seconds += result.seconds;
    return beautyNoise(result.film);
  };
  const stepped = await trial("stepping");
  const tracked = await trial("tracking");
  const most = Math.max(tracked.mean, stepped.mean);
  return {
    relative: tracked.mean > 0 ? stepped.mean / tracked.mean - 1 : 0,
    error: most > 0 ? Math.hypot(stepped.error, tracked.error) / most : 0,
    pixels: width * height,
    samples,
    seconds,
  };
}
