/** Bytes of a finished frame's file. */
import { deflateSync } from "node:zlib";
import type { Lut } from "#core/data/lut";
import type { SceneDocument } from "#core/document/schema";
import type { Film } from "#core/film/film";
import type { PassName } from "#core/film/passes";
import type { FileDepth, FileEnding } from "#core/formats/depths";
import { filmToExr, filmToPng, type Alpha, type RenderFacts } from "#core/formats/picture";

export interface FileWish {
  ending: FileEnding;
  depth: FileDepth;
  alpha: Alpha;
  /** Of OpenEXR: what a later clean-up needs, and whether R, G, B are the finished picture. */
  halves: boolean;
  finished: boolean;
}

/** Whether the document's look-up table counts for a file. */
export const isFinished = ({ ending, finished }: Pick<FileWish, "ending" | "finished">): boolean => ending === ".png" || finished;

/** Of several passes a PNG has the beauty, or else the first. */
export function fileOf(
  film: Film,
  passes: readonly PassName[],
  doc: SceneDocument,
  facts: RenderFacts,
  wish: FileWish,
  lut: Lut | null,
): Uint8Array {
  if (wish.ending === ".png")
    return filmToPng(film, (passes.includes("beauty") ? null : passes[0]) ?? "beauty", doc, facts, wish.depth === "16" ? 16 : 8, lut);
  return filmToExr(film, [...passes], wish.depth === "float" ? "float" : "half", doc, facts, {
    deflate: (b) => deflateSync(b, { level: 6 }),
    alpha: wish.alpha,
    halves: wish.halves,
    finished: wish.finished ? { lut } : null,
    made: new Date(),
  });
}
