/** Films to files: layered OpenEXR and developed PNG. */
import { encode } from "fast-png";
import type { SceneDocument } from "../document/schema";
import { develop } from "../film/develop";
import { coverage, emptyFilm, lightValues, matteValues, passValues, type Film, type FilmStatistics } from "../film/film";
import { channelsOf, isScalar, PASS_NAMES, passOfChannel, PASSES, type PassName } from "../film/passes";
import { F_AIR, F_COUNT, F_HITS, F_LUMINANCE2, F_SURFACES, PIXEL_FLOATS } from "../layout/layout";
import { luminance } from "../optics/colour";
import { describedPng } from "./png-chunks";
import { layerName, writeExr, type ExrChannel, type ExrImage, type ExrOptions } from "./exr";

/** Facts of a render that travel in its file. */
export interface RenderFacts extends Partial<FilmStatistics> {
  seconds?: number;
  seed?: number;
  /** What steps made brighter, as a share, and the standard error of that (engine/bias.ts). */
  stepBias?: number;
  stepBiasError?: number;
}

/** What channel A is: the share of a pixel that geometry covers, or that geometry and air cover together. */
export type Alpha = "geometry" | "air";

/**
 * Channels of the wanted passes over the film's crop: beauty as R, G, B with A, depth as depth.Z and plain Z, others as layers (air.R,
 * …, normal.X, opacity.V); layers of one number are always float. Light groups and mattes that the film keeps follow (air.sun.R,
 * object.column.V). Of pixels whose samples see both geometry and sky, the A of the air is an approximation.
 */
export function filmChannels(film: Film, passes: readonly PassName[], type: "half" | "float", alpha: Alpha = "geometry"): ExrChannel[] {
  const channels: ExrChannel[] = [];
  const [x0, y0, x1, y1] = film.crop;
  const [width, n] = [x1 - x0, (x1 - x0) * (y1 - y0)];
  /** Numbers of a plane by the film's own. */
  const plane = (value: (i: number) => number): Float32Array =>
    Float32Array.from({ length: n }, (_, i) => value((y0 + Math.floor(i / width)) * film.width + x0 + (i % width)));
  const add = (names: readonly string[], values: Float32Array): void =>
    names.forEach((name, k) => channels.push({ name, type, values: plane((i) => values[3 * i + k]!) }));
  for (const pass of PASS_NAMES) {
    if (!passes.includes(pass)) continue;
    const values = passValues(film, pass);
    if (isScalar(pass)) {
      const cropped = plane((i) => values[i]!);
      for (const name of channelsOf(pass)) channels.push({ name, type: "float", values: cropped });
      // compositors look for it by this name
      if (pass === "depth") channels.push({ name: "Z", type: "float", values: cropped });
    } else add(channelsOf(pass), values);
  }
  if (passes.includes("beauty")) {
    const opacity = alpha === "air" ? passValues(film, "opacity") : null;
    const covered = (i: number): number => {
      const geometry = coverage(film, i) ?? 0;
      return opacity ? geometry + (1 - geometry) * Math.max(0, Math.min(1, opacity[i]!)) : geometry;
    };
    channels.push({ name: "A", type, values: plane(covered) });
  }
  // two that differ in what no name may hold stay two
  const lights = new Set<string>();
  for (const light of film.lights) {
    const layer = layerName(light, lights);
    lights.add(layer);
    for (const side of ["air", "surfaces"] as const)
      add(
        [..."RGB"].map((band) => `${side}.${layer}.${band}`),
        lightValues(film, light, side),
      );
  }
  if (film.mattes)
    for (const kind of ["object", "material"] as const) {
      const taken = new Set<string>();
      for (const [name, values] of matteValues(film, kind)) {
        const layer = layerName(name, taken);
        taken.add(layer);
        channels.push({ name: `${kind}.${layer}.V`, type, values: plane((i) => values[i]!) });
      }
    }
  return channels;
}

/** A film as OpenEXR, with the document and the render's facts in the header. */
export function filmToExr(
  film: Film,
  passes: readonly PassName[],
  type: "half" | "float",
  doc: SceneDocument,
  facts: RenderFacts,
  options: ExrOptions & { alpha?: Alpha; made?: Date } = {},
): Uint8Array {
  const [x0, y0, x1, y1] = film.crop;
  const made = options.made?.toISOString();
  return writeExr(
    {
      width: x1 - x0,
      height: y1 - y0,
      frame: { x: x0, y: y0, width: film.width, height: film.height },
      channels: filmChannels(film, passes, type, options.alpha),
      // Rec. 709 and D65
      chromaticities: [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329],
      attributes: {
        software: "Fumarium",
        ...(made ? { capDate: made.slice(0, 19).replaceAll("-", ":").replace("T", " ") } : {}),
        "fumarium.document": JSON.stringify(doc),
        "fumarium.render": JSON.stringify(facts),
      },
    },
    options,
  );
}

/** A film from the layers of a file that filmToExr wrote, now or in an earlier version: every pass as two like samples per pixel. */
export function filmFromExr(image: ExrImage): Film {
  const frame = image.frame ?? { x: 0, y: 0, width: image.width, height: image.height };
  const whole = emptyFilm(frame.width, frame.height);
  const film: Film = { ...whole, crop: [frame.x, frame.y, frame.x + image.width, frame.y + image.height] };
  const n = image.width * image.height;
  const d = film.data;
  const pixel = (i: number): number => ((frame.y + Math.floor(i / image.width)) * frame.width + frame.x + (i % image.width)) * PIXEL_FLOATS;
  const fill = (at: number, value: (i: number) => number): void => {
    for (let i = 0; i < n; i++) d[pixel(i) + at] = value(i);
  };
  let noise: ArrayLike<number> | null = null;
  for (const { name, values } of image.channels) {
    const found = passOfChannel(name);
    if (!found) continue;
    if (found.pass === "noise") noise = values;
    const { source } = PASSES[found.pass];
    if (!source) continue;
    // two samples, so that the noise can be told too
    fill(source.sum + found.band, (i) => (values[i] === Infinity ? 0 : 2 * values[i]!));
    if (found.pass === "depth") fill(F_HITS, (i) => (values[i] === Infinity ? 0 : 2));
    if (source.count !== F_HITS) fill(source.count, () => 2);
  }
  for (let i = 0; noise && i < n; i++) {
    const p = pixel(i);
    const band = (k: number): number => (d[p + F_AIR + k]! + d[p + F_SURFACES + k]!) / d[p + F_COUNT]!;
    const m = luminance(band(0), band(1), band(2));
    d[p + F_LUMINANCE2] = 2 * (noise[i]! ** 2 + m * m);
  }
  return film;
}

/** A film developed with the document's exposure and white balance, as PNG in sRGB, with the document and the render's facts as text. */
export function filmToPng(film: Film, pass: PassName, doc: SceneDocument, facts: RenderFacts, depth: 8 | 16 = 8): Uint8Array {
  const n = film.width * film.height;
  const rgba = depth === 16 ? new Uint16Array(4 * n) : new Uint8ClampedArray(4 * n);
  develop(film, pass, doc.film, rgba);
  const rgb = depth === 16 ? new Uint16Array(3 * n) : new Uint8Array(3 * n);
  for (let i = 0; i < n; i++) rgb.set(rgba.subarray(4 * i, 4 * i + 3), 3 * i);
  const png = encode({ width: film.width, height: film.height, data: rgb, channels: 3, depth });
  return describedPng(png, {
    Title: doc.title,
    Software: "Fumarium",
    "fumarium.document": JSON.stringify(doc),
    "fumarium.render": JSON.stringify(facts),
  });
}
