/** Films as the channels of files, and back. */
import {
  CLEANED_FLOATS,
  CLEANED_PASSES,
  cleanedLight,
  cleanedValues,
  GROUPED,
  NOT_CLEANED,
  SIDES,
  type Cleaned,
  type Grouped,
} from "../film/cleaned";
import {
  coverage,
  emptyFilm,
  groupFloat,
  lightValues,
  MATTE_KINDS,
  matteValues,
  passValues,
  pixelFloats,
  type Film,
  type FilmStatistics,
} from "../film/film";
import { channelsOf, isScalar, PASS_NAMES, passOfChannel, PASSES, type Pass, type PassName } from "../film/passes";
import {
  F_AIR,
  F_AIR_ODD,
  F_CLEAR_COUNT,
  F_CLEAR_ODD,
  F_CLEAR_SEEN,
  F_COUNT,
  F_DEPTH,
  F_HITS,
  F_LUMINANCE2,
  F_SEEN,
  F_SURFACES,
  F_SURFACES_ODD,
  G_AIR,
  G_SEEN,
  G_SURFACES,
  MAX_GROUPS,
} from "../layout/layout";
import { luminance } from "../optics/colour";
import { layerName, type ExrChannel, type ExrImage } from "./exr";

/** Facts of a render that travel in its file. */
export interface RenderFacts extends Partial<FilmStatistics> {
  /** Its number among the frames of a render, and how many a second has. */
  frame?: number;
  fps?: number;
  seconds?: number;
  /** Of the clean-up, past those. */
  cleanSeconds?: number;
  seed?: number;
  /** What steps made brighter, as a share, and the standard error of that (engine/bias.ts). */
  stepBias?: number;
  stepBiasError?: number;
}

/** What channel A is: the share of a pixel that geometry covers, or that geometry and air cover together. */
export type Alpha = "geometry" | "air";

/**
 * What a clean-up needs beside the passes: layers of one half of the samples and of what is seen directly, with the sums that they are
 * made from. A count, too, since the halves are means over it.
 */
const HALVES = [
  { layer: "air.half", sum: F_AIR_ODD, count: F_COUNT, half: true },
  { layer: "surfaces.half", sum: F_SURFACES_ODD, count: F_COUNT, half: true },
  { layer: "surfaces.seen", sum: F_SEEN, count: F_COUNT, half: false },
  { layer: "clear.half", sum: F_CLEAR_ODD, count: F_CLEAR_COUNT, half: true },
  { layer: "clear.seen", sum: F_CLEAR_SEEN, count: F_CLEAR_COUNT, half: false },
] as const;
const COUNTS = [
  { name: "samples.V", count: F_COUNT },
  { name: "hits.V", count: F_HITS },
  { name: "clear.samples.V", count: F_CLEAR_COUNT },
] as const;
/** Names of the layers of cleaned passes and light groups: beauty.clean, air.clean, air.sun.clean … */
const cleanLayer = (layer: string): string => `${layer}.clean`;
/** What follows a pass's name in names of layers that are no light group's. */
const NO_LIGHTS: readonly string[] = ["clean", "half", "seen"];

/** Names of the layers of light groups: two that differ in what no name may hold stay two. */
function lightLayers(lights: readonly string[]): string[] {
  const taken = new Set<string>(NO_LIGHTS);
  return lights.map((light) => {
    const layer = layerName(light, taken);
    taken.add(layer);
    return layer;
  });
}

/** Attribute that tells the light groups by the names they have in the document. */
export const LIGHTS = "fumarium.lights";

/**
 * Channels of the wanted passes over the film's crop: beauty as R, G, B with A, depth as depth.Z and plain Z, others as layers (air.R,
 * …, normal.X, opacity.V); layers of one number and positions are always float. Passes that the film has cleaned follow as layers of their own
 * (beauty.clean.R, air.clean.R …; of light groups air.sun.clean.R), and where `halves` are asked for, what a later clean-up needs. Light groups and mattes that the film keeps follow (air.sun.R,
 * object.column.V). Of pixels whose samples see both geometry and sky, the A of the air is an approximation.
 */
export function filmChannels(
  film: Film,
  passes: readonly PassName[],
  type: "half" | "float",
  { alpha = "geometry", halves = false }: ChannelOptions = {},
): ExrChannel[] {
  const channels: ExrChannel[] = [];
  const [x0, y0, x1, y1] = film.crop;
  const n = (x1 - x0) * (y1 - y0);
  /** Numbers of a plane by the film's own. */
  const plane = (value: (i: number) => number): Float32Array => {
    const out = new Float32Array(n);
    for (let y = y0, to = 0; y < y1; y++) for (let x = x0; x < x1; x++, to++) out[to] = value(y * film.width + x);
    return out;
  };
  const add = (names: readonly string[], values: Float32Array, as = type): void =>
    names.forEach((name, k) => channels.push({ name, type: as, values: plane((i) => values[3 * i + k]!) }));
  for (const pass of PASS_NAMES) {
    if (!passes.includes(pass)) continue;
    const values = passValues(film, pass);
    if (isScalar(pass)) {
      const cropped = plane((i) => values[i]!);
      for (const name of channelsOf(pass)) channels.push({ name, type: "float", values: cropped });
      // compositors look for it by this name
      if (pass === "depth") channels.push({ name: "Z", type: "float", values: cropped });
    } else add(channelsOf(pass), values, (PASSES[pass] as Pass).exact ? "float" : type);
  }
  for (const pass of CLEANED_PASSES) {
    const values = passes.includes(pass) ? cleanedValues(film, pass) : null;
    if (values)
      add(
        [..."RGB"].map((band) => `${cleanLayer(pass)}.${band}`),
        values,
      );
  }
  if (halves) addHalves(film, plane, channels);
  if (passes.includes("beauty")) {
    const opacity = alpha === "air" ? passValues(film, "opacity") : null;
    const covered = (i: number): number => {
      const geometry = coverage(film, i) ?? 0;
      return opacity ? geometry + (1 - geometry) * Math.max(0, Math.min(1, opacity[i]!)) : geometry;
    };
    channels.push({ name: "A", type, values: plane(covered) });
  }
  const layers = lightLayers(film.lights);
  const bands = (layer: string): string[] => [..."RGB"].map((band) => `${layer}.${band}`);
  film.lights.forEach((light, i) => {
    const layer = layers[i]!;
    for (const side of GROUPED) {
      add(bands(`${side}.${layer}`), lightValues(film, light, side));
      const cleaned = cleanedLight(film, side, i);
      if (cleaned) add(bands(cleanLayer(`${side}.${layer}`)), cleaned);
    }
    if (halves) {
      const at = groupFloat(film, i) + G_SEEN;
      bands(`surfaces.${layer}.seen`).forEach((name, k) =>
        channels.push({ name, type: "float", values: plane((p) => meanOf(film, p * film.stride, at + k, F_COUNT)) }),
      );
    }
  });
  if (film.mattes)
    for (const kind of MATTE_KINDS) {
      const taken = new Set<string>();
      for (const [name, values] of matteValues(film, kind)) {
        const layer = layerName(name, taken);
        taken.add(layer);
        channels.push({ name: `${kind}.${layer}.V`, type, values: plane((i) => values[i]!) });
      }
    }
  return channels;
}

/** Which channels a file gets beside the passes. */
export interface ChannelOptions {
  alpha?: Alpha;
  /** Whether what a clean-up needs is kept. */
  halves?: boolean;
}

/** Mean of a sum of the pixel at p over its samples, or that share of them. */
function meanOf({ data }: Film, p: number, sum: number, count: number, share = 1): number {
  const n = Math.floor(share * data[p + count]!);
  return n > 0 ? data[p + sum]! / n : 0;
}

/** Adds what a clean-up needs; float, since halves are subtracted from wholes. */
function addHalves(film: Film, plane: (value: (i: number) => number) => Float32Array, channels: ExrChannel[]): void {
  const d = film.data;
  for (const { layer, sum, count, half } of HALVES)
    for (const [k, band] of [..."RGB"].entries()) {
      const values = plane((i) => {
        const p = i * film.stride;
        return half ? meanOf(film, p, sum + k, count, 0.5) : meanOf(film, p, sum + k, count);
      });
      channels.push({ name: `${layer}.${band}`, type: "float", values });
    }
  const there = new Set(channels.map(({ name }) => name));
  // samples are a pass, too
  for (const { name, count } of COUNTS)
    if (!there.has(name)) channels.push({ name, type: "float", values: plane((i) => d[i * film.stride + count]!) });
}

/**
 * A film from the layers of a file that filmToExr wrote, now or in an earlier version. Where the file keeps halves, the sums are those of as many
 * samples as there were; else every pass is as two like samples a pixel. Cleaned layers become what the film has cleaned.
 */
export function filmFromExr(image: ExrImage): Film {
  const frame = image.frame ?? { x: 0, y: 0, width: image.width, height: image.height };
  const lights = lightsOf(image);
  const layers = lightLayers(lights);
  const stride = pixelFloats({ lights, mattes: null });
  const film: Film = {
    ...emptyFilm(0, 0),
    data: new Float32Array(image.width * image.height * stride),
    stride,
    width: image.width,
    height: image.height,
    crop: [0, 0, image.width, image.height],
    frame: image.width === frame.width && image.height === frame.height ? null : frame,
    lights,
  };
  const n = image.width * image.height;
  const d = film.data;
  const pixel = (i: number): number => i * stride;
  const channels = new Map(image.channels.map(({ name, values }) => [name, values]));
  const counts = new Map(COUNTS.map(({ name, count }) => [count, channels.get(name)]));
  const depths = channels.get("depth.Z");
  /** Samples behind a pixel's number. */
  const samples = (i: number, count: number): number => {
    const of = counts.get(count) ?? (count === F_HITS ? counts.get(F_COUNT) : undefined);
    // without a count of its own, a pixel that has no depth was hit by none
    if (count === F_HITS && !counts.get(F_HITS) && depths?.[i] === Infinity) return 0;
    return Math.max(0, Math.round(of?.[i] ?? 2));
  };
  const fill = (at: number, value: (i: number) => number): void => {
    for (let i = 0; i < n; i++) d[pixel(i) + at] = value(i);
  };
  for (const { name, values } of image.channels) {
    const { source } = PASSES[passOfChannel(name)?.pass ?? "beauty"];
    const band = passOfChannel(name)?.band ?? 0;
    if (!source) continue;
    fill(source.sum + band, (i) => (values[i] === Infinity ? 0 : samples(i, source.count) * values[i]!));
    fill(source.count, (i) => samples(i, source.count));
    if (source.sum !== F_DEPTH) continue;
    // without a count of hits, a pixel is hit whole or not at all
    fill(F_HITS, (i) => samples(i, F_HITS));
  }
  for (const { layer, sum, count, half } of HALVES)
    for (const [k, band] of [..."RGB"].entries()) {
      const values = channels.get(`${layer}.${band}`);
      if (values) fill(sum + k, (i) => values[i]! * (half ? Math.floor(samples(i, count) / 2) : samples(i, count)));
    }
  layers.forEach((light, i) => {
    const first = groupFloat(film, i);
    for (const [layer, at] of [
      [`air.${light}`, G_AIR],
      [`surfaces.${light}`, G_SURFACES],
      [`surfaces.${light}.seen`, G_SEEN],
    ] as const)
      for (const [k, band] of [..."RGB"].entries()) {
        const values = channels.get(`${layer}.${band}`);
        if (values) fill(first + at + k, (p) => values[p]! * samples(p, F_COUNT));
      }
  });
  const noise = channels.get("noise.V");
  for (let i = 0; noise && i < n; i++) {
    const p = pixel(i);
    const count = d[p + F_COUNT]!;
    if (count < 2) continue;
    const band = (k: number): number => (d[p + F_AIR + k]! + d[p + F_SURFACES + k]!) / count;
    const m = luminance(band(0), band(1), band(2));
    d[p + F_LUMINANCE2] = count * (noise[i]! ** 2 * (count - 1) + m * m);
  }
  film.cleaned = cleanedOf(channels, layers, n);
  return film;
}

/**
 * Light groups of a file: those that it tells, where it has the layers of them all. Files of earlier versions tell none: theirs are known
 * by what of each is seen directly, without which they would not add up cleaned.
 */
function lightsOf(image: ExrImage): string[] {
  const names = new Set(image.channels.map(({ name }) => name));
  const told = toldLights(image);
  if (told && lightLayers(told).every((layer) => names.has(`air.${layer}.R`) && names.has(`surfaces.${layer}.R`))) return told;
  return hasHalves(image) ? image.channels.flatMap(({ name }) => /^surfaces\.([^.]+)\.seen\.R$/.exec(name)?.[1] ?? []) : [];
}

function toldLights(image: ExrImage): string[] | null {
  try {
    const told: unknown = JSON.parse(image.attributes?.[LIGHTS] ?? "null");
    return Array.isArray(told) && told.length <= MAX_GROUPS && told.every((v) => typeof v === "string") ? told : null;
  } catch {
    return null;
  }
}

/** Cleaned sides that a file has, with their light groups where it has all of those; null where it has none. */
function cleanedOf(channels: ReadonlyMap<string, ArrayLike<number>>, layers: readonly string[], n: number): Cleaned | null {
  const cleaned: Cleaned = { ...NOT_CLEANED };
  const read = (layer: string): Float32Array | null => {
    const bands = [..."RGB"].map((band) => channels.get(`${cleanLayer(layer)}.${band}`));
    if (!bands.every((b) => b !== undefined)) return null;
    const values = new Float32Array(CLEANED_FLOATS * n);
    for (let i = 0; i < n; i++) bands.forEach((b, k) => (values[CLEANED_FLOATS * i + k] = b[i]!));
    return values;
  };
  for (const side of SIDES) cleaned[side] = read(side);
  const parts = (side: Grouped): Float32Array[] => layers.flatMap((layer) => read(`${side}.${layer}`) ?? []);
  const lights = { air: parts("air"), surfaces: parts("surfaces") };
  if (layers.length > 0 && GROUPED.every((side) => lights[side].length === layers.length)) cleaned.lights = lights;
  return SIDES.some((side) => cleaned[side]) ? cleaned : null;
}

/** Whether a file keeps what a clean-up needs. */
export const hasHalves = (image: ExrImage): boolean => image.channels.some(({ name }) => name === `${HALVES[0].layer}.R`);
