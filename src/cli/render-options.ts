/** What `fumarium render` is called with. */
import { basename, join } from "node:path";
import { PRINT_UNITS, printPixels, type PrintUnit } from "#core/document/print";
import { LIMITS } from "#core/document/schema";
import { InputError } from "#core/errors";
import { PASS_NAMES, type PassName } from "#core/film/passes";
import { COMPRESSIONS, FILE_LAYOUTS } from "#core/formats/depths";
import type { Mask } from "#core/formats/shown";
import { frameRange } from "#finals/numbers";
import { moment, number, oneOf, options, whole } from "./arguments";
import { strengthsOf } from "./clean";
import type { RenderOptions } from "./render";

/** Pixels an inch where a size is told in centimetres or inches alone. */
const DPI = 300;

/** Reads a picture's size: 1280x720, 30x20cm, 12x8in. @throws InputError */
function sizeOf(text: string, dpi: number): [number, number] {
  const found = /^(\d+(?:\.\d+)?)x(\d+(?:\.\d+)?)(cm|in)?$/i.exec(text);
  const unit = found?.[3]?.toLowerCase() as PrintUnit | undefined;
  const size = found ? [found[1], found[2]].map((v) => (unit ? printPixels(Number(v), unit, dpi) : Number(v))) : [];
  if (!size.every((v) => Number.isInteger(v)) || size.length === 0)
    throw new InputError(`--size ${text}: must look like 1280x720, or ${Object.keys(PRINT_UNITS).map((u) => `30x20${u}`).join(" or ")}`); // prettier-ignore
  return size as [number, number];
}

/** Reads depth:NEAR,FAR or air. @throws InputError */
function maskOf(text: string): Mask {
  if (text === "air") return { of: "air" };
  const found = /^depth:([^,]+),([^,]+)$/.exec(text);
  const [near, far] = [Number(found?.[1] ?? NaN), Number(found?.[2] ?? NaN)];
  if (!(near >= 0 && far > near && far < 1e9))
    throw new InputError(`--mask ${text}: must be air, or look like depth:2,40 (near and far, m)`);
  return { of: "depth", near, far };
}

const text = { type: "string" } as const;
const flag = { type: "boolean" } as const;

/** Options that say what picture is meant, of `render` and `forecast`. */
export const PICTURE_OPTIONS = {
  ...{ size: text, dpi: text, whole: flag, samples: text, noise: text, "noise-of": text, level: text, "air-bounces": text },
  ...{ "surface-bounces": text, split: text, estimator: text, clean: text, at: text, frames: text, fps: text, threads: text },
} as const;
type PictureValues = { [K in keyof typeof PICTURE_OPTIONS]?: (typeof PICTURE_OPTIONS)[K] extends typeof flag ? boolean : string };

/** What picture is meant. @throws InputError */
export function pictureAsked(v: PictureValues) {
  const dpi = number(v.dpi, "dpi", "a number of pixels an inch, above 0", (n) => n > 0 && n <= 100_000);
  const frames = v.frames === undefined ? null : frameRange(v.frames, "--frames");
  if (v.fps !== undefined && !frames) throw new InputError("--fps: say which frames with --frames");
  const fps = number(v.fps, "fps", "a number of frames a second, above 0", (n) => n > 0 && n <= 1000) ?? 24;
  const noise = number(v.noise, "noise", "a percentage above 0", (n) => n > 0 && n <= 100);
  const noiseOf = oneOf(v["noise-of"], "noise-of", ["rendered", "cleaned"] as const);
  if (noiseOf && noise === undefined) throw new InputError("--noise-of: say how much with --noise");
  return {
    ...defined({
      size: v.size === undefined ? undefined : sizeOf(v.size, dpi ?? DPI),
      dpi: dpi ?? (v.size !== undefined && /cm|in/i.test(v.size) ? DPI : undefined),
      whole: v.whole,
      samples: whole(v.samples, "samples", 1, LIMITS.samples),
      noise: noise === undefined ? undefined : { threshold: noise / 100, of: noiseOf ?? (v.clean === undefined ? "rendered" : "cleaned") },
      level: oneOf(v.level, "level", ["veil", "shafts", "full"] as const),
      airBounces: whole(v["air-bounces"], "air-bounces", 1, LIMITS.bounces),
      surfaceBounces: whole(v["surface-bounces"], "surface-bounces", 0, LIMITS.bounces),
      airSize: oneOf(v.split, "split", ["full", "half", "quarter"] as const),
      estimator: oneOf(v.estimator, "estimator", ["tracking", "stepping"] as const),
      frames: frames ? { range: frames, fps } : undefined,
      threads: whole(v.threads, "threads", 1, 64),
    }),
    ...moment(v.at),
  };
}

/** Options of `render` for each document that is named, in their order. @throws InputError */
export function renderOptions(args: string[], buildDirectory: string): (RenderOptions & { folder: string | null })[] {
  const { values: v, positionals } = options(args, {
    ...PICTURE_OPTIONS,
    output: { type: "string", short: "o" },
    ...{ "first-sample": text, seed: text, passes: text, depth: text, alpha: text, layout: text, compression: text, time: text },
    ...{ plate: text, "plate-depth": text },
    mask: { type: "string", multiple: true },
    ...{ halves: flag, finished: flag, resume: flag, progress: flag, json: flag },
  });
  if (positionals.length === 0) throw new InputError("render: name a document");
  if (!v.output) throw new InputError("render: say where to write with -o OUT.exr");
  const wanted = v.passes?.split(",").map((p) => oneOf(p.trim(), "passes", [...PASS_NAMES, "lights", "mattes"] as const));
  const masks = v.mask?.map(maskOf);
  if (v["plate-depth"] !== undefined && v.plate === undefined) throw new InputError("--plate-depth: say the picture with --plate");
  if (masks && new Set(masks.map((m) => m.of)).size < masks.length) throw new InputError("--mask: one of each kind");
  const folder = /[\\/]$/.test(v.output) ? v.output : null;
  if (positionals.length > 1 && !folder)
    throw new InputError(`-o ${v.output}: for several documents it must be a folder, with / at its end`);
  const outputs = positionals.map((document) =>
    folder ? join(folder, `${basename(document).replace(/(\.fumarium)?\.json$/i, "")}.exr`) : (v.output ?? ""),
  );
  const twice = outputs.find((o, i) => outputs.indexOf(o) !== i);
  if (twice !== undefined) throw new InputError(`render: two documents would be written to ${twice}`);
  const asked = {
    ...pictureAsked(v),
    ...defined({
      firstSample: whole(v["first-sample"], "first-sample", 0, 1_000_000_000),
      seed: whole(v.seed, "seed", 0, 4294967295),
      passes: namedPasses(wanted),
      lightGroups: wanted?.includes("lights") || undefined,
      mattes: wanted?.includes("mattes") || undefined,
      seconds: number(v.time, "time", "a number of seconds above 0", (n) => n > 0 && n < 1e7),
      resume: v.resume,
      plate: v.plate === undefined ? undefined : { picture: v.plate, depth: v["plate-depth"] ?? null },
      tells: v.progress ? (far: object) => console.error(JSON.stringify(far)) : undefined,
      depth: oneOf(v.depth, "depth", ["half", "float", "8", "16"] as const),
      alpha: oneOf(v.alpha, "alpha", ["geometry", "air"] as const),
      layout: oneOf(v.layout, "layout", FILE_LAYOUTS),
      compression: oneOf(v.compression, "compression", COMPRESSIONS),
      masks,
      clean: v.clean === undefined ? undefined : v.clean === "document" ? ("document" as const) : strengthsOf(v.clean, "clean"),
      halves: v.halves,
      finished: v.finished,
    }),
  };
  return positionals.map((document, i) => ({
    document,
    output: outputs[i] ?? "",
    folder,
    json: v.json ?? false,
    buildDirectory,
    ...asked,
  }));
}

/** The passes among what is asked for; all where none is. */
function namedPasses(wanted: readonly (PassName | "lights" | "mattes" | undefined)[] | undefined): PassName[] | undefined {
  const passes = wanted?.filter((p): p is PassName => p !== "lights" && p !== "mattes");
  return passes?.length ? passes : undefined;
}

/** Without what is not there. */
function defined<T extends object>(given: T): { [K in keyof T]?: Exclude<T[K], undefined> } {
  return Object.fromEntries(Object.entries(given).filter(([, value]) => value !== undefined)) as {
    [K in keyof T]?: Exclude<T[K], undefined>;
  };
}
