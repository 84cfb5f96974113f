/** Films to files: layered OpenEXR and developed PNG. */
import { encode } from "fast-png";
import type { SceneDocument } from "../document/schema";
import { develop } from "../film/develop";
import { isScalar, lightValues, matteValues, PASS_NAMES, passValues, type Film, type FilmStatistics, type PassName } from "../film/film";
import { writeExr, type ExrChannel, type ExrOptions } from "./exr";

/** Facts of a render that travel in its file. */
export interface RenderFacts extends Partial<FilmStatistics> {
  seconds?: number;
  seed?: number;
  /** What steps made brighter, as a share, and the standard error of that (engine/bias.ts). */
  stepBias?: number;
  stepBiasError?: number;
}

/**
 * Channels of the wanted passes: beauty as R, G, B, others as layers (air.R, …, normal.X, mist.V); layers of one number are
 * always float. Light groups and mattes that the film keeps follow (air.sun.R, object.column.V).
 */
export function filmChannels(film: Film, passes: readonly PassName[], type: "half" | "float"): ExrChannel[] {
  const channels: ExrChannel[] = [];
  const n = film.width * film.height;
  const add = (layer: string, values: Float32Array, bands: string): void => {
    for (const [k, band] of [...bands].entries()) {
      const plane = new Float32Array(n);
      for (let i = 0; i < n; i++) plane[i] = values[3 * i + k]!;
      channels.push({ name: layer === "beauty" ? band : `${layer}.${band}`, type, values: plane });
    }
  };
  for (const pass of PASS_NAMES) {
    if (!passes.includes(pass)) continue;
    const values = passValues(film, pass);
    if (isScalar(pass)) {
      channels.push({ name: pass === "depth" || pass === "distance" ? `${pass}.Z` : `${pass}.V`, type: "float", values });
      continue;
    }
    add(pass, values, pass === "normal" ? "XYZ" : "RGB");
  }
  // channel names part layers by dots
  const plain = (name: string): string => name.replace(/[.\0]/g, "_");
  for (const light of film.lights)
    for (const side of ["air", "surfaces"] as const) add(`${side}.${plain(light)}`, lightValues(film, light, side), "RGB");
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

/** A film developed with the document's exposure and white balance, as 8-bit PNG. */
export function filmToPng(film: Film, pass: PassName, doc: SceneDocument): Uint8Array {
  const rgba = new Uint8ClampedArray(film.width * film.height * 4);
  develop(film, pass, doc.film, rgba);
  const rgb = new Uint8Array(film.width * film.height * 3);
  for (let i = 0; i < film.width * film.height; i++) rgb.set(rgba.subarray(4 * i, 4 * i + 3), 3 * i);
  return encode({ width: film.width, height: film.height, data: rgb, channels: 3, depth: 8 });
}
