/** fumarium render: a document to OpenEXR, PNG or TIFF files. */
import { existsSync } from "node:fs";
import { atMoment } from "#core/document/motion";
import { parseDocument } from "#core/document/parse";
import { InputError } from "#core/errors";
import type { AirSize } from "#core/document/kinds";
import type { SceneDocument } from "#core/document/schema";
import { PASS_NAMES, type PassName } from "#core/film/passes";
import { FILE_DEPTHS, type Compression, type FileDepth } from "#core/formats/depths";
import type { Mask } from "#core/formats/shown";
import type { Alpha } from "#core/formats/picture";
import { endingOf, filesOf, isFinished, lastLayer, PLAIN_WISH, writeFrame, type FileWish } from "#finals/file";
import { checkpointSeconds, FrameRenderer, type FrameResult } from "#finals/frame";
import { fileNameOf, framesOf, frameTime, type FrameRange } from "#finals/numbers";
import { tryOutput } from "#finals/output";
import type { Strengths } from "#core/clean/cleaner";
import { withFrame, type PlateFrames } from "./plate-frames";
import { loadDocument, loadLut, loadResources } from "./load";

export interface RenderOptions {
  document: string;
  output: string;
  size?: [number, number];
  samples?: number;
  firstSample?: number;
  /** Pixels an inch of a print. */
  dpi?: number;
  /** All of the frame, whatever region the document has. */
  whole?: boolean;
  /** What blocks err by before they get no more samples, as a share, of which picture. */
  noise?: { threshold: number; of: "rendered" | "cleaned" };
  level?: "veil" | "shafts" | "full";
  airBounces?: number;
  surfaceBounces?: number;
  airSize?: AirSize;
  estimator?: "tracking" | "stepping";
  seed?: number;
  passes?: PassName[];
  alpha?: Alpha;
  seconds?: number;
  /** Moment of the picture, s. */
  at?: number;
  threads?: number;
  /** Frames that are rendered, each to a file of its own, and how many of them a second has. */
  frames?: { range: FrameRange; fps: number };
  /** Files in place of the plate of the scene, with #### where a frame's number stands. */
  plate?: PlateFrames;
  /** Keeps what is rendered beside the output, and goes on with what fits. */
  resume?: boolean;
  depth?: FileDepth;
  /** Of OpenEXR: whether R, G, B are the finished picture. */
  finished?: boolean;
  layout?: FileWish["layout"];
  compression?: Compression;
  /** Beside a PNG or TIFF. */
  masks?: readonly Mask[];
  /** Keep light groups and mattes apart, whatever the document says. */
  lightGroups?: boolean;
  mattes?: boolean;
  /** Strengths of a clean-up, or that they are those of the document; none where the picture is wanted as it was rendered. */
  clean?: Strengths | "document";
  /** Keep what a later clean-up needs in an OpenEXR file. */
  halves?: boolean;
  json: boolean;
  buildDirectory: string;
  /** Told how far each picture is, about once a second. */
  tells?: (far: { output: string; share: number; seconds: number; left: number | null }) => void;
  /** Writes progress lines; undefined where nobody reads them. */
  progress?: (line: string) => void;
}

export interface RenderReport {
  outcome: "done" | "time";
  output: string;
  /** All files, where there is more than one. */
  files?: string[];
  seconds: number;
  /** Of the clean-up, past those; none where it is not cleaned. */
  cleanSeconds?: number;
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
  /** Share of the samples that an interrupted command had kept. */
  resumed: number;
  threads: number;
}

/** What of a document the command line overrides. */
export type Overrides = Pick<
  RenderOptions,
  | "size"
  | "whole"
  | "samples"
  | "noise"
  | "level"
  | "airBounces"
  | "surfaceBounces"
  | "airSize"
  | "estimator"
  | "seed"
  | "at"
  | "lightGroups"
  | "mattes"
>;

/** The document with that, validated again. */
export function overridden(doc: SceneDocument, o: Overrides): SceneDocument {
  return parseDocument(
    {
      ...doc,
      ...(o.at !== undefined ? { time: o.at } : {}),
      film: {
        ...doc.film,
        ...(o.size ? { size: o.size } : {}),
        ...(o.whole ? { region: null } : {}),
        ...(o.lightGroups ? { lightGroups: true } : {}),
        ...(o.mattes ? { mattes: true } : {}),
      },
      render: {
        ...doc.render,
        ...(o.samples !== undefined ? { samples: o.samples } : {}),
        ...(o.noise ? { noiseThreshold: o.noise.threshold, thresholdOf: o.noise.of } : {}),
        ...(o.level ? { level: o.level } : {}),
        ...(o.airBounces !== undefined ? { airBounces: o.airBounces } : {}),
        ...(o.surfaceBounces !== undefined ? { surfaceBounces: o.surfaceBounces } : {}),
        ...(o.airSize ? { airSize: o.airSize } : {}),
        ...(o.estimator ? { estimator: o.estimator } : {}),
        ...(o.seed !== undefined ? { seed: o.seed } : {}),
      },
    },
    "command line",
  );
}

/** The file that is asked for. @throws InputError where it cannot be so */
function wishOf(o: RenderOptions): FileWish {
  const ending = endingOf(o.output);
  const depths: readonly FileDepth[] = FILE_DEPTHS[ending];
  if (o.depth && !depths.includes(o.depth)) throw new InputError(`--depth ${o.depth}: a file in ${ending} has ${depths.join(" or ")}`);
  const exr = ending === ".exr";
  if (o.finished && !exr) throw new InputError("--finished: is of OpenEXR; other pictures are finished anyway");
  for (const option of ["layout", "compression", "halves"] as const)
    if (o[option] && !exr) throw new InputError(`--${option}: is of OpenEXR`);
  if (o.masks && exr) throw new InputError("--mask: is of PNG and TIFF; an OpenEXR has depth and opacity among its passes");
  if (o.halves && o.layout === "files") throw new InputError("--halves: a clean-up needs all passes in one file");
  return {
    ...PLAIN_WISH,
    ending,
    depth: o.depth ?? FILE_DEPTHS[ending][0],
    ...(o.alpha ? { alpha: o.alpha } : {}),
    ...(o.halves ? { halves: true } : {}),
    ...(o.finished ? { finished: true } : {}),
    ...(o.layout ? { layout: o.layout } : {}),
    ...(o.compression ? { compression: o.compression } : {}),
    ...(o.masks ? { masks: o.masks } : {}),
    ...(o.dpi !== undefined ? { dpi: o.dpi } : {}),
  };
}

/** Renders and writes each file at once when done, so that no half-written picture is ever left. */
export async function renderCommand(o: RenderOptions, reported: (report: RenderReport) => void): Promise<void> {
  const wish = wishOf(o);
  const passes = o.passes ?? [...PASS_NAMES];
  await tryOutput(fileNameOf(o.output, o.frames ? o.frames.range.to : null, lastLayer(wish, passes)));
  const doc = overridden(await loadDocument(o.document), o);
  const strengths = o.clean === "document" ? doc.film.cleanUp : (o.clean ?? null);
  const every = checkpointSeconds();
  const renderer = await FrameRenderer.create(o.buildDirectory, o.threads);
  let ended = false;
  // once: the picture as it is by now, or what is kept as it is by now; twice: at once
  const interrupt = (): void => {
    if (ended) process.exit(INTERRUPTED);
    ended = true;
    if (o.resume) void renderer.hold().then(() => renderer.end());
    else if (!renderer.endNow()) process.exit(INTERRUPTED);
  };
  process.on("SIGINT", interrupt);
  try {
    for (const frame of o.frames ? framesOf(o.frames.range) : [null]) {
      const output = fileNameOf(o.output, frame);
      const says = (line: string): void => o.progress?.(frame === null ? line : `frame ${frame}: ${line}`);
      // rendered by an earlier command that was interrupted
      if (o.resume && frame !== null && existsSync(fileNameOf(o.output, frame, lastLayer(wish, passes)))) {
        says("is there");
        continue;
      }
      const still = frame === null || !o.frames ? doc : atMoment({ ...doc, time: frameTime(doc.time, frame, o.frames.fps) });
      const { document, files: given } = o.plate ? await withFrame(still, o.plate, frame) : { document: still, files: undefined };
      const done = await renderer.render(
        {
          document,
          passes,
          strengths,
          ...(o.firstSample !== undefined ? { firstSample: o.firstSample } : {}),
          ...(o.seconds !== undefined ? { timeLimit: o.seconds } : {}),
        },
        {
          resources: async (of) => loadResources(of, o.document, given),
          checkpoint: o.resume ? { path: `${output}.checkpoint`, every } : null,
          unkept: (error) => console.error(`fumarium: ${output}: is not kept meanwhile any more (${error.message})`),
          says,
          progress: (share, seconds, left) => {
            o.tells?.({ output, share: round(share), seconds: round(seconds), left: left === null ? null : round(left) });
            says(`${(100 * share).toFixed(0).padStart(3)} %  ${seconds.toFixed(1)} s${left === null ? "" : `, ${left.toFixed(0)} s left`}`);
          },
        },
      );
      if (done.invalid > 0) says(`${done.invalid} samples were not finite and were left out`);
      const lut = isFinished(wish) ? await loadLut(doc, o.document) : null;
      const facts = { ...done.facts, ...(frame !== null && o.frames ? { frame, fps: o.frames.fps } : {}) };
      const files = await filesOf(done.film, passes, document, facts, wish, lut);
      const [first, ...others] = await writeFrame(files, (layer) => fileNameOf(o.output, frame, layer));
      await done.release(true);
      const names = others.length > 0 ? { files: [first, ...others].map(({ path }) => path) } : {};
      reported({ ...reportOf(done, first.path, passes, renderer.workers), ...names });
      if (ended) break;
    }
  } finally {
    process.off("SIGINT", interrupt);
    renderer.dispose();
  }
}

function reportOf(done: FrameResult, output: string, passes: readonly PassName[], threads: number): RenderReport {
  const { facts, bias } = done;
  return {
    outcome: done.outcome,
    output,
    seconds: round(done.seconds),
    ...(done.cleanSeconds > 0 ? { cleanSeconds: round(done.cleanSeconds) } : {}),
    sceneSeconds: round(done.sceneSeconds),
    triangles: done.geometry.shownTriangles,
    keptTriangles: done.geometry.triangleCount,
    rays: done.rays,
    raysPerSecond: Math.round(done.rays / Math.max(done.seconds, 1e-6)),
    samples: round(passes.some((p) => p !== "clear") ? facts.samples : facts.clearSamples),
    noise: facts.noise === null ? null : Number(facts.noise.toPrecision(4)),
    cleanedNoise: facts.cleanedNoise === null ? null : Number(facts.cleanedNoise.toPrecision(4)),
    stepBias: bias && { relative: Number(bias.relative.toPrecision(3)), error: Number(bias.error.toPrecision(3)) },
    resumed: round(done.resumed),
    threads,
  };
}

/** Exit code of a command that was interrupted before it had anything. */
const INTERRUPTED = 130;

const round = (v: number): number => Math.round(v * 1000) / 1000;
