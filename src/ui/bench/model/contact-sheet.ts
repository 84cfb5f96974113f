/** A sheet of proofs with their settings under each: what stands in it, and where. */
import { documentChanges } from "#core/document/changes";
import { extinctionOf } from "#core/document/medium";
import { formatNumber } from "#core/document/quantities";
import type { SceneDocument } from "#core/document/schema";
import type { LengthWords } from "#core/document/units";
import { luminance } from "#core/optics/colour";
import { percent } from "../percent";
import type { Numbered } from "./proof-order";

/** Most lines under a picture. */
const LINES = 8;

/** The air and the exposure of a document in a few lines. */
export function settingsOf(doc: SceneDocument, lengths: LengthWords): string[] {
  const media = doc.air.filter((m) => m.on);
  return [
    `${formatNumber(doc.film.exposure, 3)} EV, ${doc.film.whiteBalance} K, ${doc.render.level}`,
    ...(doc.sun.on ? [`sun at ${formatNumber(doc.sun.azimuth, 3)}°, ${formatNumber(doc.sun.elevation, 3)}° high`] : []),
    ...media.map(
      (m) => `${m.name || "medium"}: ${lengths.coefficient(luminance(...extinctionOf(m)), 3)}, g ${formatNumber(m.anisotropy, 2)}`,
    ),
    ...(media.length === 0 ? ["no air"] : []),
  ];
}

/** What a document has otherwise than the first of a sheet. */
export function otherwise(first: SceneDocument, doc: SceneDocument, lengths: LengthWords): string[] {
  const changes = documentChanges(first, doc, lengths);
  if (changes.length === 0) return ["the same settings"];
  return changes.map(({ of, setting, from, to, stops }) =>
    `${of} ${setting}: ${from} → ${to}${stops ? ` (${stops})` : ""}`.replace(" :", ":"),
  );
}

/** All lines under one proof; the first tells all of its settings, the others what they have otherwise. */
export function captionOf(
  proof: Numbered,
  doc: SceneDocument,
  first: { number: number; doc: SceneDocument } | null,
  lengths: LengthWords,
): string[] {
  const all = [
    `${proof.number}${proof.star ? " ★" : ""}${proof.note ? `  ${proof.note}` : ""}`,
    `${formatNumber(proof.samples, 3)} samples, ${formatNumber(proof.seconds, 3)} s, noise ${percent(proof.noise)}`,
    ...(first ? [`against ${first.number}:`, ...otherwise(first.doc, doc, lengths)] : settingsOf(doc, lengths)),
  ];
  return all.length <= LINES ? all : [...all.slice(0, LINES - 1), `and ${all.length - LINES + 1} more`];
}

/** The day, as a heading says it. */
export const today = (): string => new Date().toLocaleDateString("en-GB", { day: "numeric", month: "long", year: "numeric" });

export interface SheetForm {
  width: number;
  /** Null: as high as it has to be. */
  height: number | null;
  columns: number;
  margin: number;
  gap: number;
  /** Height of a line, and of the heading. */
  line: number;
  heading: number;
}

export interface SheetTile {
  item: number;
  x: number;
  y: number;
  width: number;
  /** Of its picture; its lines stand below. */
  height: number;
}
export interface SheetPage {
  width: number;
  height: number;
  tiles: SheetTile[];
}

/** Places pictures on pages, row by row; a row is as high as its highest picture and caption. */
export function layoutSheet(items: readonly { aspect: number; lines: number }[], form: SheetForm): SheetPage[] {
  const { margin, gap, columns, line } = form;
  const width = (form.width - 2 * margin - (columns - 1) * gap) / columns;
  const pages: SheetPage[] = [];
  let y = Infinity;
  for (let from = 0; from < items.length; from += columns) {
    const row = items.slice(from, from + columns);
    // of pictures that are higher than wide the width is less than the column's
    const heights = row.map(({ aspect }) => Math.min(width, width / aspect));
    const high = Math.max(...row.map(({ lines }, i) => heights[i]! + lines * line));
    if (pages.length === 0 || (form.height !== null && y + high > form.height - margin && y > margin + form.heading)) {
      pages.push({ width: form.width, height: form.height ?? 0, tiles: [] });
      y = margin + form.heading;
    }
    const page = pages.at(-1)!;
    row.forEach(({ aspect }, i) =>
      page.tiles.push({ item: from + i, x: margin + i * (width + gap), y, width: Math.min(width, width * aspect), height: heights[i]! }),
    );
    y += high + gap;
    if (form.height === null) page.height = y - gap + margin;
  }
  return pages;
}

/** Most pixels a side of a picture has. */
const MOST = 16_000;

/** A sheet of one picture: as many columns as keep it in bounds, or as are wanted. */
export function pictureForm(count: number, wanted?: number): SheetForm {
  const columns = wanted ?? Math.min(count, Math.max(3, Math.ceil(Math.sqrt(count))));
  const tile = Math.min(480, Math.floor((MOST - 64) / columns) - 16);
  return { width: 64 + columns * (tile + 16) - 16, height: null, columns, margin: 32, gap: 16, line: 19, heading: 48 };
}

/** A4 across, at so many pixels a point. */
export function pageForm(scale: number): SheetForm {
  const pt = (v: number): number => Math.round(v * scale);
  return { width: pt(841.9), height: pt(595.3), columns: 3, margin: pt(28), gap: pt(12), line: pt(10.5), heading: pt(26) };
}
