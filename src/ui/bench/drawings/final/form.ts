/** The form of a final as it is typed, and the order that it makes. */
import type { RenderOrder } from "#api/contract";
import { keepsLightGroups } from "#core/document/balance";
import type { AirSize, Estimator, TransportLevel } from "#core/document/kinds";
import { printLength, printPixels, type PrintUnit } from "#core/document/print";
import { LIMITS, type SceneDocument } from "#core/document/schema";
import { PASS_NAMES, type PassName } from "#core/film/passes";
import type { Compression, FileDepth, FileEnding, FileLayout } from "#core/formats/depths";
import type { Mask } from "#core/formats/shown";
import { fileName } from "../../model/file-name";

/** What is rendered: the live picture, the proof in front, or every kept lens. */
export type Of = "live" | "proof" | "lenses";
/** What sizes are typed in. */
export type SizeUnit = "px" | PrintUnit;
/** A choice that may be left to the document. */
type OrBench<T extends string> = T | "bench";

export interface Form {
  of: Of;
  unit: SizeUnit;
  width: string;
  height: string;
  dpi: string;
  whole: boolean;
  many: boolean;
  from: string;
  to: string;
  step: string;
  fps: string;
  seedByFrame: boolean;
  level: OrBench<TransportLevel>;
  airBounces: string;
  surfaceBounces: string;
  airSize: OrBench<AirSize>;
  estimator: OrBench<Estimator>;
  samples: string;
  noise: string;
  noiseOf: "cleaned" | "rendered";
  minutes: string;
  clean: boolean;
  lightGroups: boolean;
  mattes: boolean;
  passes: readonly PassName[];
  ending: FileEnding;
  depth: FileDepth;
  layout: FileLayout;
  compression: Compression;
  finished: boolean;
  alpha: "geometry" | "air";
  maskDepth: boolean;
  near: string;
  far: string;
  maskAir: boolean;
  name: string;
}
/** Fields of text, and those that are on or off. */
export type TextKey = { [K in keyof Form]: string extends Form[K] ? K : never }[keyof Form];
export type TickKey = { [K in keyof Form]: Form[K] extends boolean ? K : never }[keyof Form];

export function formOf(doc: SceneDocument): Form {
  const { size } = doc.film;
  const { noiseThreshold, thresholdOf, samples } = doc.render;
  return {
    of: "live",
    unit: "px",
    width: String(size[0]),
    height: String(size[1]),
    dpi: "300",
    whole: false,
    many: false,
    from: "1",
    to: "48",
    step: "1",
    fps: "24",
    seedByFrame: true,
    level: "bench",
    airBounces: "",
    surfaceBounces: "",
    airSize: "bench",
    estimator: "bench",
    samples: String(samples),
    noise: noiseThreshold === null ? "" : String(Number((100 * noiseThreshold).toPrecision(4))),
    noiseOf: thresholdOf,
    minutes: "",
    clean: true,
    lightGroups: keepsLightGroups(doc.film),
    mattes: doc.film.mattes,
    passes: PASS_NAMES,
    ending: ".exr",
    depth: "half",
    layout: "layers",
    compression: "zip",
    finished: false,
    alpha: "geometry",
    maskDepth: false,
    near: "1",
    far: "50",
    maskAir: false,
    name: fileName(doc.title),
  };
}

const DPI_MOST = 100_000;
const typedNumber = (text: string): number => (text.trim() === "" ? NaN : Number(text.replace(",", ".")));

/** Pixels of a side as it is typed; NaN where it is no number. */
export function pixelsOf({ unit, dpi }: Pick<Form, "unit" | "dpi">, side: string): number {
  const v = typedNumber(side);
  return unit === "px" ? v : printPixels(v, unit, typedNumber(dpi));
}
/** A side of so many pixels, as it is typed. */
export function sideText({ unit, dpi }: Pick<Form, "unit" | "dpi">, pixels: number): string {
  if (!(pixels > 0)) return "";
  return String(unit === "px" ? Math.round(pixels) : Number(printLength(pixels, unit, typedNumber(dpi)).toPrecision(4)));
}

/** A number as it is typed. @throws Error with words */
function number(text: string, what: string, least: number, most: number, whole = true): number {
  const v = typedNumber(text);
  if (!(v >= least && v <= most) || (whole && !Number.isInteger(v)))
    throw new Error(
      `${what}: ${text.trim() === "" ? "is missing" : text} – ${whole ? "a whole number" : "a number"} from ${least} to ${most}`,
    );
  return v;
}
const perhaps = <T>(text: string, value: (text: string) => T): T | null => (text.trim() === "" ? null : value(text));

/** Pixels of a side. @throws Error with words */
function side(f: Form, text: string, what: string): number {
  if (f.unit === "px") return number(text, what, 1, LIMITS.side);
  number(text, what, 0.01, 1e5, false);
  const pixels = pixelsOf(f, text);
  if (!(pixels >= 1 && pixels <= LIMITS.side)) throw new Error(`${what}: ${pixels} pixels – from 1 to ${LIMITS.side}`);
  return pixels;
}

function masksOf(f: Form): Mask[] {
  if (f.ending === ".exr") return [];
  const masks: Mask[] = [];
  if (f.maskDepth) {
    const [near, far] = [number(f.near, "Near", 0, 1e6, false), number(f.far, "Far", 0, 1e6, false)];
    if (far <= near) throw new Error(`Far: ${f.far} – more than near`);
    masks.push({ of: "depth", near, far });
  }
  if (f.maskAir) masks.push({ of: "air" });
  return masks;
}

/** @throws Error with words */
export function orderOf(f: Form): RenderOrder {
  return {
    size: [side(f, f.width, "Width"), side(f, f.height, "Height")],
    whole: f.whole,
    frames: f.many
      ? { from: number(f.from, "From", 0, 9_999_999), to: number(f.to, "To", 0, 9_999_999), step: number(f.step, "Every", 1, 9_999_999) }
      : null,
    fps: number(f.fps, "Frames a second", 0.01, 1000, false),
    samples: number(f.samples, "Samples", 1, LIMITS.samples),
    noise: perhaps(f.noise, (text) => ({ threshold: number(text, "Noise", 0.01, 100, false) / 100, of: f.noiseOf })),
    seconds: perhaps(f.minutes, (text) => 60 * number(text, "Minutes a frame", 0.01, 100_000, false)),
    seedByFrame: f.seedByFrame,
    level: f.level === "bench" ? null : f.level,
    airBounces: perhaps(f.airBounces, (text) => number(text, "Bounces in air", 1, LIMITS.bounces)),
    surfaceBounces: perhaps(f.surfaceBounces, (text) => number(text, "Bounces off surfaces", 0, LIMITS.bounces)),
    airSize: f.airSize === "bench" ? null : f.airSize,
    estimator: f.estimator === "bench" ? null : f.estimator,
    clean: f.clean,
    lightGroups: f.lightGroups,
    mattes: f.mattes,
    passes: [...f.passes],
    file: {
      ending: f.ending,
      depth: f.depth,
      finished: f.finished,
      alpha: f.alpha,
      layout: f.layout,
      compression: f.compression,
      masks: masksOf(f),
      dpi: number(f.dpi, "Dots an inch", 1, DPI_MOST, false),
    },
    name: f.name.trim(),
  };
}

/** The first, the middle and the last of some frames, with their moments (s), each once. */
export function framesToTry(
  { from, to, step }: NonNullable<RenderOrder["frames"]>,
  fps: number,
  start: number,
): { frame: number; time: number }[] {
  const last = Math.floor((to - from) / step);
  return [...new Set([0, Math.round(last / 2), last])].map((i) => ({ frame: from + i * step, time: start + (from + i * step) / fps }));
}
