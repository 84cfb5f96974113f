/** fumarium compose: puts a stack together, of one picture or of many frames. */
import { existsSync } from "node:fs";
import { mkdir } from "node:fs/promises";
import { deflateSync } from "node:zlib";
import { basename, dirname, isAbsolute, join, relative } from "node:path";
import { planOf } from "#core/compose/compose";
import { composedExr, composedLight, developmentOf, finishedLight, unitOf } from "#core/compose/export";
import { readPackage, STACK_ENDING } from "#core/compose/package";
import { checkSizes } from "#core/compose/sources";
import { readSource, type Frame } from "#core/formats/layers";
import { startingStack } from "#core/compose/start";
import { parseStack, parseStackText, STACK_LIMITS, type Stack } from "#core/compose/stack";
import { InputError } from "#core/errors";
import { FILE_DEPTHS, type FileDepth } from "#core/formats/depths";
import { writeExr } from "#core/formats/exr";
import { shownToPng } from "#core/formats/shown";
import { whiteAt } from "#core/optics/exposure";
import { endingOf } from "#finals/file";
import { frameName } from "#finals/numbers";
import { tryOutput, writeWhole } from "#finals/output";
import { tiffOf } from "#finals/tiff";
import { readLimited } from "./load";

export interface ComposeOptions {
  stack: string;
  output: string;
  /** Numbers of frames; null: one picture. */
  frames: readonly number[] | null;
  depth?: FileDepth;
  /** Whether an OpenEXR gets the layers too. */
  layers: boolean;
  /** Files in place of those that the stack names, by source. */
  sources: Readonly<Record<string, string>>;
  progress?: (line: string) => void;
}

/** Bytes of a picture that is read. */
const MOST_BYTES = 8_000_000_000;
const utf8 = (bytes: Uint8Array): string => new TextDecoder("utf-8", { fatal: true }).decode(bytes);

/** A stack with the way to its files' bytes. @throws InputError */
async function loadStack(
  path: string,
  given: Readonly<Record<string, string>>,
): Promise<{ stack: Stack; bytesOf(key: string, frame: number | null): Promise<[Uint8Array, string]> }> {
  const packed = path.toLowerCase().endsWith(".zip");
  const bytes = await readLimited(path, packed ? MOST_BYTES : 4 * STACK_LIMITS.text, path);
  const inside = packed ? readPackage(bytes, path, utf8) : null;
  const stack = inside?.stack ?? parseStackText(utf8(bytes), path);
  for (const key of Object.keys(given))
    if (!(key in stack.sources))
      throw new InputError(`--source ${key}=…: ${path} has no such source; it has ${Object.keys(stack.sources).join(", ")}`);
  return {
    stack,
    bytesOf: async (key, frame) => {
      const own = given[key];
      const held = own === undefined ? inside?.files.get(key) : undefined;
      const file = own ?? stack.sources[key]?.file ?? null;
      if (held && !file?.includes("#")) return [held, `${path}: ${file ?? key}`];
      if (file === null)
        throw new InputError(
          `${path}: the source "${key}" names no file; say one with --source ${key}=FILE.exr, or save the stack as a package`,
        );
      const beside = own !== undefined || isAbsolute(file) ? file : join(dirname(path), file);
      const there = frame !== null && beside.includes("#") ? frameName(beside, frame) : beside;
      if (!existsSync(there)) throw new InputError(`${there}: does not exist (source "${key}")`);
      return [await readLimited(there, MOST_BYTES, there), there];
    },
  };
}

/** Writes a stack that begins with some OpenEXR files: those of one size. @throws InputError, OutputError */
export async function beginStack(files: readonly string[], output: string): Promise<void> {
  await tryOutput(output);
  const frames = new Map<string, Frame>();
  const sources: Stack["sources"] = {};
  for (const file of files.slice(0, STACK_LIMITS.sources + 1)) {
    const key = freeKey(basename(file).replace(/\.exr$/i, ""), frames);
    frames.set(key, readSource(await readLimited(file, MOST_BYTES, file), file));
    sources[key] = { name: basename(file), sha256: null, file: relative(dirname(output), file) };
  }
  checkSizes(frames);
  const stack = parseStack(startingStack(basename(output).slice(0, -STACK_ENDING.length), sources, frames), output);
  await writeWhole(output, `${JSON.stringify(stack, null, 2)}\n`);
}

function freeKey(name: string, taken: ReadonlyMap<string, unknown>): string {
  const plain = name.slice(0, 100) || "picture";
  for (let i = 1; ; i++) {
    const key = i > 1 ? `${plain} ${i}` : plain;
    if (!taken.has(key)) return key;
  }
}

/** @returns files that were written @throws InputError, OutputError */
export async function composeCommand(o: ComposeOptions): Promise<string[]> {
  const ending = endingOf(o.output);
  const depths: readonly string[] = FILE_DEPTHS[ending];
  if (o.depth && !depths.includes(o.depth)) throw new InputError(`--depth ${o.depth}: a file in ${ending} has ${depths.join(" or ")}`);
  if (o.layers && ending !== ".exr") throw new InputError(`--layers: only an OpenEXR file has layers`);
  const { stack, bytesOf } = await loadStack(o.stack, o.sources);
  if (stack.film.finish.lut) throw new InputError(`${o.stack}: its finish names a look-up table, which a stack cannot hold`);
  const numbers = o.frames ?? [null];
  const outputOf = (frame: number | null): string => (frame === null ? o.output : frameName(o.output, frame));
  await mkdir(dirname(o.output), { recursive: true });
  await tryOutput(outputOf(numbers[0] ?? null));
  const written: string[] = [];
  for (const [i, number] of numbers.entries()) {
    const frames = new Map<string, Frame>();
    for (const key of Object.keys(stack.sources)) {
      const [bytes, what] = await bytesOf(key, number);
      frames.set(key, readSource(bytes, what));
    }
    const { width, height } = checkSizes(frames);
    const at = number === null ? "" : `frame ${number}: `;
    let plan;
    try {
      plan = planOf(stack, frames, width, height);
    } catch (error) {
      throw error instanceof InputError && number !== null ? new InputError(`${at}${error.message}`) : error;
    }
    const linear = ending === ".exr";
    const unit = linear ? unitOf(stack, frames) : whiteAt(stack.white);
    const light = await composedLight(plan, unit, (share) =>
      o.progress?.(`${at}${Math.round(100 * share)} % (${i + 1} of ${numbers.length})`),
    );
    const output = outputOf(number);
    if (linear) {
      const image = composedExr(stack, plan, light, unit, { type: o.depth === "float" ? "float" : "half", layers: o.layers });
      await writeWhole(output, writeExr(image, { deflate: (b) => deflateSync(b, { level: 6 }) }));
    } else {
      const shown = finishedLight(light, width, height, developmentOf(stack), (o.depth ?? FILE_DEPTHS[ending][0]) === "16" ? 16 : 8);
      const texts = { Title: stack.title, Software: "Fumarium", "fumarium.stack": JSON.stringify(stack) };
      await writeWhole(output, ending === ".tif" ? await tiffOf(shown, texts, null) : shownToPng(shown, texts));
    }
    written.push(output);
  }
  return written;
}
