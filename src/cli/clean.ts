/** fumarium clean: takes the noise out of a picture that keeps the halves of its samples; and the same for a picture just rendered. */
import { availableParallelism } from "node:os";
import type { Strengths } from "#core/clean/cleaner";
import { parseDocument } from "#core/document/parse";
import { seesPlate } from "#core/document/plate-lens";
import type { SceneDocument } from "#core/document/schema";
import { InputError } from "#core/errors";
import { measureFilm } from "#core/film/film";
import { channelsOf, PASS_NAMES } from "#core/film/passes";
import type { ExrImage } from "#core/formats/exr";
import { loadLut, readLimited } from "./load";
import { readExrLayers } from "#core/formats/exr-read";
import { FILE_DEPTHS } from "#core/formats/depths";
import { filmFromExr, hasHalves, type RenderFacts } from "#core/formats/picture";
import { CleanPool } from "#engine/clean-pool";
import { nodeCleanHost } from "#engine/node-clean";
import { cleanedFilm } from "#finals/clean";
import { endingOf, filesOf, PLAIN_WISH } from "#finals/file";
import { tryOutput, writeWhole } from "#finals/output";

/** Bytes of a picture that is read: a frame of the most pixels, all layers in single precision. */
const MOST_BYTES = 8_000_000_000;

interface PoolOptions {
  buildDirectory: string;
  threads?: number;
  progress?: (line: string) => void;
}

/** Strengths by words of the command line: one for all, or three for fireflies, air and surfaces. @throws InputError */
export function strengthsOf(text: string, option: string): Strengths {
  const parts = text.split(",").map((p) => (p.trim() === "" ? NaN : Number(p)));
  if (![1, 3].includes(parts.length) || !parts.every((v) => v >= 0 && v <= 1))
    throw new InputError(`--${option} ${text}: must be a strength from 0 to 1, or three of them: fireflies,air,surfaces`);
  const [fireflies = 1, air = fireflies, surfaces = fireflies] = parts;
  return { fireflies, air, surfaces };
}

export interface CleanOptions extends PoolOptions {
  input: string;
  output: string;
  strengths?: Strengths;
  depth?: "half" | "float" | "8" | "16";
}

/** The document that a file says it was made from. @throws InputError where it says none */
function documentOf(image: ExrImage, input: string): SceneDocument {
  const text = image.attributes?.["fumarium.document"];
  if (text === undefined) throw new InputError(`${input}: it does not say which document made it`);
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    throw new InputError(`${input}: what it says of its document is no JSON`);
  }
  return parseDocument(json, input);
}

/** Cleans an OpenEXR file that keeps halves. @returns noise before and after */
export async function cleanCommand(o: CleanOptions): Promise<{ noise: number | null; cleanedNoise: number | null; seconds: number }> {
  const ending = endingOf(o.output);
  const depths: readonly string[] = FILE_DEPTHS[ending];
  if (o.depth && !depths.includes(o.depth)) throw new InputError(`--depth ${o.depth}: a file in ${ending} has ${depths.join(" or ")}`);
  await tryOutput(o.output);
  const bytes = await readLimited(o.input, MOST_BYTES, o.input);
  const image = readExrLayers(bytes, o.input);
  if (!hasHalves(image))
    throw new InputError(`${o.input}: it does not keep the halves of its samples, which a clean-up needs; render it with --halves`);
  const names = new Set(image.channels.map(({ name }) => name));
  const passes = PASS_NAMES.filter((pass) => channelsOf(pass).every((c) => names.has(c)));
  const lacking = (["air", "surfaces", "transmittance", "albedo", "normal", "distance"] as const).filter((p) => !passes.includes(p));
  if (lacking.length > 0) throw new InputError(`${o.input}: it lacks ${lacking.join(", ")}, which a clean-up needs`);
  const doc = documentOf(image, o.input);
  // the files that the document names lie beside it, and so beside its picture
  const lut = ending !== ".exr" ? await loadLut(doc, o.input) : null;
  const begun = performance.now();
  const pool = new CleanPool(nodeCleanHost(o.buildDirectory, o.threads ?? availableParallelism()));
  const film = await cleanedFilm(
    pool,
    { ...filmFromExr(image), ...(seesPlate(doc) ? { plate: true } : {}) },
    passes,
    o.strengths ?? doc.film.cleanUp,
    o.progress,
  ).finally(() => pool.dispose());
  const seconds = (performance.now() - begun) / 1000;
  const facts: RenderFacts = { ...measureFilm(film), seconds };
  const wish = { ...PLAIN_WISH, ending, depth: o.depth ?? FILE_DEPTHS[ending][0], halves: true };
  const [written] = await filesOf(film, passes, doc, facts, wish, lut);
  await writeWhole(o.output, written.bytes);
  return { noise: facts.noise ?? null, cleanedNoise: facts.cleanedNoise ?? null, seconds };
}
