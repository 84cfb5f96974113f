/** Pixels of pictures that are looked at, and of masks, as files of whole numbers hold them. */
import { encode } from "fast-png";
import type { Lut } from "../data/lut";
import type { SceneDocument } from "../document/schema";
import { develop } from "../film/develop";
import { passValues, type Film } from "../film/film";
import type { PassName } from "../film/passes";
import type { RenderFacts } from "./picture";
import { describedPng } from "./png-chunks";

/** Whole numbers of one band or three, rows from the top. */
export interface Shown {
  width: number;
  height: number;
  bands: 1 | 3;
  depth: 8 | 16;
  values: Uint8Array | Uint16Array;
}

/** What masks are of: distance along the lens axis between two places (m), or how much the air hides. */
export type Mask = { of: "depth"; near: number; far: number } | { of: "air" };

/** A film developed with the document's exposure, white balance, balance of lights and finish (with the table that this names), in sRGB. */
export function shownPicture(film: Film, pass: PassName, doc: SceneDocument, depth: 8 | 16, lut: Lut | null): Shown {
  const { width, height } = film;
  const n = width * height;
  const rgba = depth === 16 ? new Uint16Array(4 * n) : new Uint8ClampedArray(4 * n);
  develop(film, pass, { ...doc.film, lut }, rgba);
  const values = depth === 16 ? new Uint16Array(3 * n) : new Uint8Array(3 * n);
  for (let i = 0; i < n; i++) values.set(rgba.subarray(4 * i, 4 * i + 3), 3 * i);
  return { width, height, bands: 3, depth, values };
}

/** A mask as it is, no curve: black at `near`, white at `far` and where nothing is; or white where the air hides all. */
export function shownMask(film: Film, mask: Mask, depth: 8 | 16): Shown {
  const { width, height } = film;
  const top = 2 ** depth - 1;
  const given = passValues(film, mask.of === "depth" ? "depth" : "opacity");
  const share = mask.of === "depth" ? (v: number): number => (v - mask.near) / (mask.far - mask.near) : (v: number): number => v;
  const values = depth === 16 ? new Uint16Array(given.length) : new Uint8Array(given.length);
  for (let i = 0; i < given.length; i++) values[i] = Math.round(top * Math.max(0, Math.min(1, share(given[i]!))));
  return { width, height, bands: 1, depth, values };
}

/** What a file says of its picture, by keyword. */
export const textsOf = (doc: SceneDocument, facts: RenderFacts): Record<string, string> => ({
  Title: doc.title,
  Software: "Fumarium",
  "fumarium.document": JSON.stringify(doc),
  "fumarium.render": JSON.stringify(facts),
});

/** A picture as PNG, its colours said to be sRGB; a mask's are said to be nothing. @param dpi pixels an inch of a print */
export function shownToPng(
  { width, height, bands, depth, values }: Shown,
  texts: Record<string, string>,
  dpi: number | null = null,
): Uint8Array {
  const png = encode({ width, height, data: values, channels: bands, depth });
  return describedPng(png, texts, { colours: bands === 3, dpi });
}

/** A film as PNG, with the document and the render's facts as text. */
export const filmToPng = (
  film: Film,
  pass: PassName,
  doc: SceneDocument,
  facts: RenderFacts,
  depth: 8 | 16 = 8,
  lut: Lut | null = null,
): Uint8Array => shownToPng(shownPicture(film, pass, doc, depth, lut), textsOf(doc, facts));
