/** Films to files: layered OpenEXR and developed PNG. */
import { encode } from "fast-png";
import type { SceneDocument } from "../document/schema";
import { develop } from "../film/develop";
import { isScalar, PASS_NAMES, passValues, type Film, type FilmStatistics, type PassName } from "../film/film";
import { writeExr, type ExrChannel, type ExrOptions } from "./exr";

/** Facts of a render that travel in its file. */
export interface RenderFacts extends Partial<FilmStatistics> {
  seconds?: number;
  seed?: number;
}

/**
 * Channels of the wanted passes: beauty as R, G, B, others as layers (air.R, …, normal.X, mist.V); layers of one number are
 * always float.
 */
export function filmChannels(film: Film, passes: readonly PassName[], type: "half" | "float"): ExrChannel[] {
  const channels: ExrChannel[] = [];
  const n = film.width * film.height;
  for (const pass of PASS_NAMES) {
    if (!passes.includes(pass)) continue;
    const values = passValues(film, pass);
    if (isScalar(pass)) {
      channels.push({ name: pass === "depth" || pass === "distance" ? `${pass}.Z` : `${pass}.V`, type: "float", values });
      continue;
    }
    for (const [k, band] of (pass === "normal" ? ["X", "Y", "Z"] : ["R", "G", "B"]).entries()) {
      const plane = new Float32Array(n);
      for (let i = 0; i < n; i++) plane[i] = values[3 * i + k]!;
      channels.push({ name: pass === "beauty" ? band : `${pass}.${band}`, type, values: plane });
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
