/** fumarium render: a document to an OpenEXR or PNG file. */
import { availableParallelism } from "node:os";
import { extname } from "node:path";
import { deflateSync } from "node:zlib";
import { parseDocument } from "#core/document/parse";
import { InputError } from "#core/errors";
import type { SceneDocument } from "#core/document/schema";
import { measureFilm } from "#core/film/film";
import { PASS_NAMES, type PassName } from "#core/film/passes";
import { filmToExr, filmToPng, type Alpha } from "#core/formats/picture";
import { compileScene } from "#core/scene/compile";
import { PASS_CLEAR } from "#core/layout/layout";
import { RenderEngine } from "#engine/engine";
import { tryOutput, writeWhole } from "./output";
import { nodeHost } from "#engine/node-host";
import { measureStepBias } from "#engine/bias";
import { finalSchedule, MEDIUM_PASSES } from "#engine/schedule";
import type { Strengths } from "#core/clean/cleaner";
import type { CleanPool } from "#engine/clean-pool";
import { judgeOf } from "#engine/settled";
import { cleanFilm, cleanPool } from "./clean";
import { loadDocument, loadLut, loadResources } from "./load";

export interface RenderOptions {
  document: string;
  output: string;
  size?: [number, number];
  samples?: number;
  firstSample?: number;
  level?: "veil" | "shafts" | "full";
  seed?: number;
  passes?: PassName[];
  alpha?: Alpha;
  seconds?: number;
  /** Moment of the picture, s. */
  at?: number;
  threads?: number;
  depth?: "half" | "float" | "8" | "16";
  /** Of OpenEXR: whether R, G, B are the finished picture. */
  finished?: boolean;
  /** Keep light groups and mattes apart, whatever the document says. */
  lightGroups?: boolean;
  mattes?: boolean;
  /** Strengths of a clean-up, or that they are those of the document; none where the picture is wanted as it was rendered. */
  clean?: Strengths | "document";
  /** Keep what a later clean-up needs in an OpenEXR file. */
  halves?: boolean;
  json: boolean;
  buildDirectory: string;
  /** Writes progress lines; undefined where nobody reads them. */
  progress?: (line: string) => void;
}

export interface RenderReport {
  outcome: "done" | "time";
  output: string;
  seconds: number;
  sceneSeconds: number;
  /** Triangles that are shown, and that are kept: many in several places are kept once. */
  triangles: number;
  keptTriangles: number;
  rays: number;
  raysPerSecond: number;
  samples: number;
  noise: number | null;
  /** The same of the cleaned picture, as it is estimated; null where it was not cleaned. */
  cleanedNoise: number | null;
  /** What the step size gets wrong, where air was stepped through: share of the mean luminance, and its standard error. */
  stepBias: { relative: number; error: number } | null;
  threads: number;
}

/** The document with what the command line overrides, validated again. */
export function overridden(
  doc: SceneDocument,
  o: Pick<RenderOptions, "size" | "samples" | "level" | "seed" | "at" | "lightGroups" | "mattes">,
): SceneDocument {
  return parseDocument(
    {
      ...doc,
      ...(o.at !== undefined ? { time: o.at } : {}),
      film: {
        ...doc.film,
        ...(o.size ? { size: o.size } : {}),
        ...(o.lightGroups ? { lightGroups: true } : {}),
        ...(o.mattes ? { mattes: true } : {}),
      },
      render: {
        ...doc.render,
        ...(o.samples !== undefined ? { samples: o.samples } : {}),
        ...(o.level ? { level: o.level } : {}),
        ...(o.seed !== undefined ? { seed: o.seed } : {}),
      },
    },
    "command line",
  );
}

/** Renders and writes the file at once when done, so that no half-written picture is ever left. */
export async function renderCommand(o: RenderOptions): Promise<RenderReport> {
  const extension = extname(o.output).toLowerCase();
  if (extension !== ".exr" && extension !== ".png") throw new InputError(`-o ${o.output}: the name must end in .exr or .png`);
  const depths = extension === ".png" ? ["8", "16"] : ["half", "float"];
  if (o.depth && !depths.includes(o.depth)) throw new InputError(`--depth ${o.depth}: a file in ${extension} has ${depths.join(" or ")}`);
  if (o.finished && extension !== ".exr") throw new InputError("--finished: is of OpenEXR; a PNG is finished anyway");
  await tryOutput(o.output);
  const doc = overridden(await loadDocument(o.document), o);
  const passes = o.passes ?? [...PASS_NAMES];
  const begun = performance.now();
  o.progress?.("reading models and building the scene");
  const geometry = compileScene(doc, await loadResources(doc, o.document));
  const lut = extension === ".png" || o.finished ? await loadLut(doc, o.document) : null;
  const sceneSeconds = (performance.now() - begun) / 1000;
  const engine = await RenderEngine.create(nodeHost(o.buildDirectory, o.threads ?? availableParallelism()));
  let pool = null as CleanPool | null;
  try {
    engine.setGeometry(geometry);
    const [width, height] = doc.film.size;
    const wanted = (passes.some((p) => p !== "clear") ? MEDIUM_PASSES : 0) | (passes.includes("clear") ? PASS_CLEAR : 0);
    const bias = await measureStepBias(engine, doc);
    if (bias)
      o.progress?.(
        `steps make the picture ${percent(Math.abs(bias.relative))} % ${bias.relative < 0 ? "darker" : "brighter"} than unbiased tracking (±${percent(2 * bias.error)} %), by trial on ${bias.pixels} pixels`,
      );
    const first = o.firstSample ?? 0;
    const strengths = o.clean === "document" ? doc.film.cleanUp : o.clean;
    const judged = { ...doc, film: { ...doc.film, cleanUp: strengths ?? doc.film.cleanUp } };
    const result = await engine.start({
      document: doc,
      width,
      height,
      stages: finalSchedule(first, first + doc.render.samples, wanted),
      judge: judgeOf(judged, () => (pool ??= cleanPool(o))),
      // the trial's time is part of what was allowed
      ...(o.seconds !== undefined ? { timeLimit: Math.max(0, o.seconds - (bias?.seconds ?? 0)) } : {}),
      onStage: (p) =>
        o.progress?.(
          `${(100 * p.share).toFixed(0).padStart(3)} %  ${p.seconds.toFixed(1)} s${p.secondsLeft === null ? "" : `, ${p.secondsLeft.toFixed(0)} s left`}`,
        ),
    });
    if (result.outcome === "cancelled") throw new Error("render was cancelled");
    const film = strengths ? await cleanFilm(result.film, passes, strengths, o) : result.film;
    if (result.invalid > 0) o.progress?.(`${result.invalid} samples were not finite and were left out`);
    const facts = {
      ...measureFilm(film),
      seconds: result.seconds,
      seed: doc.render.seed,
      ...(bias ? { stepBias: bias.relative, stepBiasError: bias.error } : {}),
    };
    const bytes =
      extension === ".png"
        ? filmToPng(film, (passes.includes("beauty") ? null : passes[0]) ?? "beauty", doc, facts, o.depth === "16" ? 16 : 8, lut)
        : filmToExr(film, passes, o.depth === "float" ? "float" : "half", doc, facts, {
            deflate: (b) => deflateSync(b, { level: 6 }),
            alpha: o.alpha ?? "geometry",
            halves: o.halves ?? false,
            finished: o.finished ? { lut } : null,
            made: new Date(),
          });
    await writeWhole(o.output, bytes);
    return {
      outcome: result.outcome,
      output: o.output,
      seconds: round(result.seconds),
      sceneSeconds: round(sceneSeconds),
      triangles: geometry.shownTriangles,
      keptTriangles: geometry.triangleCount,
      rays: result.rays,
      raysPerSecond: Math.round(result.rays / Math.max(result.seconds, 1e-6)),
      samples: round(passes.some((p) => p !== "clear") ? facts.samples : facts.clearSamples),
      noise: facts.noise === null ? null : Number(facts.noise.toPrecision(4)),
      cleanedNoise: facts.cleanedNoise === null ? null : Number(facts.cleanedNoise.toPrecision(4)),
      stepBias: bias && { relative: Number(bias.relative.toPrecision(3)), error: Number(bias.error.toPrecision(3)) },
      threads: engine.workers,
    };
  } finally {
    pool?.dispose();
    engine.dispose();
  }
}

const percent = (share: number): string => (100 * share).toFixed(2);
const round = (v: number): number => Math.round(v * 1000) / 1000;
