/** One small picture of a wedge: the frame, or a part of it, with what a document says. */
import { AIR_EVERY } from "#core/document/air-size";
import type { SceneDocument } from "#core/document/schema";
import { copyFilm, type Film } from "#core/film/film";
import type { Progress, RenderEngine } from "./engine";
import { finalSchedule, MEDIUM_PASSES } from "./schedule";

/** What a picture of a wedge is rendered with. */
export interface WedgePicture {
  /** Pixels across. */
  width: number;
  samples: number;
  /** Part of the frame (shares); null: all of it. */
  part: { x: number; y: number; width: number; height: number } | null;
}

/** Most pixels a side of the frame that a part is cut from. */
const MOST_FRAME = 16_384;

/**
 * Renders it. The engine has the document's geometry. @returns a copy of the film, and the seconds it took; null where it was cancelled
 */
export async function wedgePicture(
  engine: Pick<RenderEngine, "start" | "shared">,
  doc: SceneDocument,
  { width: across, samples, part }: WedgePicture,
  onStage?: (progress: Progress) => void,
): Promise<{ film: Film; seconds: number } | null> {
  const [w, h] = doc.film.size;
  // a part is as fine as it has to be to be that many pixels across
  const wide = Math.min(MOST_FRAME, Math.max(1, Math.round(part ? across / part.width : across)));
  const frame = { width: wide, height: Math.max(1, Math.round((wide * h) / w)) };
  const x = part ? Math.min(frame.width - 1, Math.floor(part.x * frame.width)) : 0,
    y = part ? Math.min(frame.height - 1, Math.floor(part.y * frame.height)) : 0;
  const width = part ? Math.max(1, Math.min(frame.width - x, Math.round(part.width * frame.width))) : frame.width,
    height = part ? Math.max(1, Math.min(frame.height - y, Math.round(part.height * frame.height))) : frame.height;
  const document: SceneDocument = {
    ...doc,
    film: { ...doc.film, mattes: false, region: null },
    render: { ...doc.render, noiseThreshold: null },
  };
  const result = await engine.start({
    document,
    width,
    height,
    frame: part ? { x, y, ...frame } : null,
    stages: finalSchedule(0, samples, MEDIUM_PASSES, engine.shared ? AIR_EVERY[doc.render.airSize] : 1),
    ...(onStage ? { onStage } : {}),
  });
  return result.outcome === "done" ? { film: copyFilm(result.film), seconds: result.seconds } : null;
}
