/** Films to files: layered OpenEXR and developed PNG. */
import { encode } from "fast-png";
import type { SceneDocument } from "../document/schema";
import { develop } from "../film/develop";
import { emptyFilm, lightValues, matteValues, passValues, type Film, type FilmStatistics } from "../film/film";
import { channelsOf, isScalar, PASS_NAMES, passOfChannel, PASSES, type PassName } from "../film/passes";
import { F_AIR, F_COUNT, F_HITS, F_LUMINANCE2, F_SURFACES, PIXEL_FLOATS } from "../layout/layout";
import { luminance } from "../optics/colour";
import { writeExr, type ExrChannel, type ExrImage, type ExrOptions } from "./exr";

/** Facts of a render that travel in its file. */
export interface RenderFacts extends Partial<FilmStatistics> {
  seconds?: number;
  seed?: number;
  /** What steps made brighter, as a share, and the standard error of that (engine/bias.ts). */
  stepBias?: number;
  stepBiasError?: number;
}

/**
 * Channels of the wanted passes: beauty as R, G, B, others as layers (air.R, …, normal.X, opacity.V); layers of one number are
 * always float. Light groups and mattes that the film keeps follow (air.sun.R, object.column.V).
 */
export function filmChannels(film: Film, passes: readonly PassName[], type: "half" | "float"): ExrChannel[] {
  const channels: ExrChannel[] = [];
  const n = film.width * film.height;
  const add = (names: readonly string[], values: Float32Array): void =>
    names.forEach((name, k) => {
      const plane = new Float32Array(n);
      for (let i = 0; i < n; i++) plane[i] = values[3 * i + k]!;
      channels.push({ name, type, values: plane });
    });
  for (const pass of PASS_NAMES) {
    if (!passes.includes(pass)) continue;
    const values = passValues(film, pass);
    if (isScalar(pass)) channels.push({ name: channelsOf(pass)[0]!, type: "float", values });
    else add(channelsOf(pass), values);
  }
  // channel names part layers by dots
  const plain = (name: string): string => name.replace(/[.\0]/g, "_");
  for (const light of film.lights)
    for (const side of ["air", "surfaces"] as const)
      add(
        [..."RGB"].map((band) => `${side}.${plain(light)}.${band}`),
        lightValues(film, light, side),
      );
  if (film.mattes)
    for (const kind of ["object", "material"] as const)
      for (const [name, values] of matteValues(film, kind)) channels.push({ name: `${kind}.${plain(name)}.V`, type, values });
  return channels;
}

/** A film as OpenEXR, with the document and the render's facts in the header. */
export function filmToExr(
  film: Film,
  passes: readonly PassName[],
  type: "half" | "float",
  doc: SceneDocument,
  facts: RenderFacts,
  options: ExrOptions = {},
): Uint8Array {
  return writeExr(
    {
      width: film.width,
      height: film.height,
      channels: filmChannels(film, passes, type),
      attributes: { "fumarium.document": JSON.stringify(doc), "fumarium.render": JSON.stringify(facts) },
    },
    options,
  );
}

/** A film from the layers of a file that filmToExr wrote, now or in an earlier version: every pass as two like samples per pixel. */
export function filmFromExr(image: ExrImage): Film {
  const film = emptyFilm(image.width, image.height);
  const n = image.width * image.height;
  const d = film.data;
  const fill = (at: number, value: (i: number) => number): void => {
    for (let i = 0; i < n; i++) d[i * PIXEL_FLOATS + at] = value(i);
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
    const p = i * PIXEL_FLOATS;
    const band = (k: number): number => (d[p + F_AIR + k]! + d[p + F_SURFACES + k]!) / d[p + F_COUNT]!;
    const m = luminance(band(0), band(1), band(2));
    d[p + F_LUMINANCE2] = 2 * (noise[i]! ** 2 + m * m);
  }
  return film;
}

/** A film developed with the document's exposure and white balance, as 8-bit PNG. */
export function filmToPng(film: Film, pass: PassName, doc: SceneDocument): Uint8Array {
  const rgba = new Uint8ClampedArray(film.width * film.height * 4);
  develop(film, pass, doc.film, rgba);
  const rgb = new Uint8Array(film.width * film.height * 3);
  for (let i = 0; i < film.width * film.height; i++) rgb.set(rgba.subarray(4 * i, 4 * i + 3), 3 * i);
  return encode({ width: film.width, height: film.height, data: rgb, channels: 3, depth: 8 });
}
