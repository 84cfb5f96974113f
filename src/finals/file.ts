/** Files of a finished frame. */
import { extname } from "node:path";
import { deflateSync } from "node:zlib";
import type { Lut } from "#core/data/lut";
import type { SceneDocument } from "#core/document/schema";
import { InputError } from "#core/errors";
import type { Film } from "#core/film/film";
import { PASS_NAMES, PASSES, type Pass, type PassName } from "#core/film/passes";
import { FILE_ENDINGS, type Compression, type FileDepth, type FileEnding, type FileLayout } from "#core/formats/depths";
import { filmToExrFiles, MAIN_LAYER } from "#core/formats/film-exr";
import type { Alpha, RenderFacts } from "#core/formats/picture";
import { shownMask, shownPicture, shownToPng, textsOf, type Mask, type Shown } from "#core/formats/shown";
import { writeWhole } from "./output";
import { tiffOf } from "./tiff";

export interface FileWish {
  ending: FileEnding;
  depth: FileDepth;
  alpha: Alpha;
  /** Of OpenEXR: what a later clean-up needs, and whether R, G, B are the finished picture. */
  halves: boolean;
  finished: boolean;
  /** Of OpenEXR: how passes lie in it, and how it is packed. */
  layout: FileLayout;
  compression: Compression;
  /** Of PNG and TIFF: masks beside the picture, each a file of its own. */
  masks: readonly Mask[];
  /** Pixels an inch of a print; null where it is not said. */
  dpi: number | null;
}

/** One file of a frame: of all that is asked for, or of one layer alone. */
export interface FrameFile {
  layer: string | null;
  bytes: Uint8Array;
}

/** What kind of file a name asks for. @throws InputError */
export function endingOf(output: string): FileEnding {
  const given = extname(output).toLowerCase();
  const ending = FILE_ENDINGS.find((e) => e === (given === ".tiff" ? ".tif" : given));
  if (!ending) throw new InputError(`-o ${output}: the name must end in ${FILE_ENDINGS.slice(0, -1).join(", ")} or ${FILE_ENDINGS.at(-1)}`);
  return ending;
}

/**
 * Writes the files of a frame, the first of them last: where it is there, all are.
 * @param pathOf where the file of a layer goes @returns paths and bytes, in the order of the files @throws as writeWhole()
 */
export async function writeFrame(
  files: readonly [FrameFile, ...FrameFile[]],
  pathOf: (layer: string | null) => string,
): Promise<[WrittenFile, ...WrittenFile[]]> {
  const taken = new Set<string>();
  /** Two layers may come to one name where a file's can hold less than theirs. */
  const placed = ({ layer, bytes }: FrameFile): WrittenFile & { content: Uint8Array } => {
    let path = pathOf(layer);
    for (let n = 2; taken.has(path); n++) path = pathOf(`${n} ${layer}`);
    taken.add(path);
    return { path, bytes: bytes.length, content: bytes };
  };
  const [first, ...others] = files;
  const [last, ...before] = [placed(first), ...others.map(placed)] as const;
  for (const { path, content } of [...before].reverse()) await writeWhole(path, content);
  await writeWhole(last.path, last.content);
  const written = ({ path, bytes }: WrittenFile): WrittenFile => ({ path, bytes });
  return [written(last), ...before.map(written)];
}
interface WrittenFile {
  path: string;
  bytes: number;
}

/** What is asked of a file where nothing is said. */
export const PLAIN_WISH: Omit<FileWish, "ending" | "depth"> = {
  alpha: "geometry",
  halves: false,
  finished: false,
  layout: "layers",
  compression: "zip",
  masks: [],
  dpi: null,
};

/** Whether the document's look-up table counts for a file. */
export const isFinished = ({ ending, finished }: Pick<FileWish, "ending" | "finished">): boolean => ending !== ".exr" || finished;

/** The layer of the file that is written last, and so tells whether a frame is there. */
export function lastLayer({ ending, layout }: Pick<FileWish, "ending" | "layout">, passes: readonly PassName[]): string | null {
  if (ending !== ".exr" || layout !== "files") return null;
  const first: Pass = PASSES[PASS_NAMES.find((pass) => passes.includes(pass)) ?? "beauty"];
  return first.layer || MAIN_LAYER;
}

/** Layers of masks. */
const MASK_LAYERS = { depth: "depth", air: "air" } as const satisfies Record<Mask["of"], string>;

/** All files of a frame. Of several passes a PNG or TIFF has the beauty, or else the first. @throws Error where no TIFF can be made here */
export async function filesOf(
  film: Film,
  passes: readonly PassName[],
  doc: SceneDocument,
  facts: RenderFacts,
  wish: FileWish,
  lut: Lut | null,
): Promise<[FrameFile, ...FrameFile[]]> {
  if (wish.ending === ".exr")
    return filmToExrFiles(
      film,
      passes,
      wish.depth === "float" ? "float" : "half",
      doc,
      facts,
      {
        deflate: (b) => deflateSync(b, { level: 6 }),
        alpha: wish.alpha,
        halves: wish.halves,
        finished: wish.finished ? { lut } : null,
        compression: wish.compression,
        dpi: wish.dpi,
        made: new Date(),
      },
      wish.layout,
    );
  const depth = wish.depth === "16" ? 16 : 8;
  const pass = (passes.includes("beauty") ? null : passes[0]) ?? "beauty";
  const { ending, dpi } = wish;
  const file = async (layer: string | null, shown: Shown, texts: Record<string, string>): Promise<FrameFile> => ({
    layer,
    bytes: ending === ".tif" ? await tiffOf(shown, texts, dpi) : shownToPng(shown, texts, dpi),
  });
  const texts = textsOf(doc, facts);
  return [
    await file(null, shownPicture(film, pass, doc, depth, lut), texts),
    ...(await Promise.all(
      wish.masks.map((mask) =>
        file(MASK_LAYERS[mask.of], shownMask(film, mask, depth), { ...texts, "fumarium.mask": JSON.stringify(mask) }),
      ),
    )),
  ];
}
