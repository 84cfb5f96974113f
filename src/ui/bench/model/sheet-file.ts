/** Draws a sheet of pictures with lines under each, as one picture or as pages, and hands it to the user. */
import { contextOf } from "../../shared/canvas";
import { saveFile } from "../../shared/save-file";
import { layoutSheet, pageForm, pictureForm, type SheetForm, type SheetPage } from "./contact-sheet";
import { fileName } from "./file-name";

/** Pixels for each point of a printed page. */
const DENSE = 2.4;

/** What stands in a sheet: the picture's hash, and its lines. */
export interface SheetItem {
  hash: string;
  lines: string[];
}

interface Item {
  picture: ImageBitmap;
  aspect: number;
  lines: string[];
}

/** A text that fits a width. */
function fitted(context: OffscreenCanvasRenderingContext2D, text: string, width: number): string {
  if (context.measureText(text).width <= width) return text;
  let end = text.length;
  while (end > 1 && context.measureText(`${text.slice(0, end)}…`).width > width) end--;
  return `${text.slice(0, end)}…`;
}

function drawPage(page: SheetPage, items: readonly Item[], form: SheetForm, heading: string): OffscreenCanvas {
  const canvas = new OffscreenCanvas(Math.round(page.width), Math.round(page.height));
  const context = contextOf(canvas);
  const { fontFamily } = getComputedStyle(document.body);
  const size = form.line / 1.35;
  context.fillStyle = "#fff";
  context.fillRect(0, 0, canvas.width, canvas.height);
  context.textBaseline = "top";
  context.imageSmoothingQuality = "high";
  context.fillStyle = "#111";
  context.font = `600 ${1.35 * size}px ${fontFamily}`;
  context.fillText(fitted(context, heading, page.width - 2 * form.margin), form.margin, form.margin);
  const column = (page.width - 2 * form.margin - (form.columns - 1) * form.gap) / form.columns;
  for (const { item, x, y, width, height } of page.tiles) {
    const { picture, lines } = items[item]!;
    context.drawImage(picture, x, y, width, height);
    lines.forEach((line, i) => {
      context.font = `${i === 0 ? 600 : 400} ${size}px ${fontFamily}`;
      context.fillStyle = i === 0 ? "#111" : "#444";
      context.fillText(fitted(context, line, column), x, y + height + (i + 0.25) * form.line);
    });
  }
  return canvas;
}

async function pagesAsPdf(pages: OffscreenCanvas[], title: string): Promise<ArrayBuffer> {
  const { jsPDF } = await import("jspdf");
  const pdf = new jsPDF({ unit: "pt", format: "a4", orientation: "landscape", compress: true });
  pdf.setProperties({ title, creator: "Fumarium" });
  for (const [i, page] of pages.entries()) {
    if (i > 0) pdf.addPage("a4", "landscape");
    const jpeg = await page.convertToBlob({ type: "image/jpeg", quality: 0.92 });
    pdf.addImage(new Uint8Array(await jpeg.arrayBuffer()), "JPEG", 0, 0, 841.9, 595.3);
  }
  return pdf.output("arraybuffer");
}

/** The picture of a hash. @throws Error where it is gone */
async function pictureOf(hash: string): Promise<ImageBitmap> {
  const answer = await fetch(`/api/assets/${hash}`);
  if (!answer.ok) throw new Error(`a picture is gone (${answer.status})`);
  return createImageBitmap(await answer.blob());
}

/**
 * Makes a sheet and hands it to the user: a picture, or pages of A4. @param next asked for one item after the other; undefined gives all of it up
 * @param columns of a picture; else as many as make it about square
 */
export async function saveSheet(
  kind: "png" | "pdf",
  { title, heading, count, columns }: { title: string; heading: string; count: number; columns?: number },
  next: (index: number) => Promise<SheetItem | undefined>,
): Promise<void> {
  const items: Item[] = [];
  try {
    for (let i = 0; i < count; i++) {
      const item = await next(i);
      if (!item) return;
      const picture = await pictureOf(item.hash);
      items.push({ picture, aspect: picture.width / picture.height, lines: item.lines });
    }
    await document.fonts.ready;
    const form = kind === "png" ? pictureForm(count, columns) : { ...pageForm(DENSE), ...(columns ? { columns } : {}) };
    const sizes = items.map(({ aspect, lines }) => ({ aspect, lines: lines.length }));
    const pages = layoutSheet(sizes, form).map((page) => drawPage(page, items, form, heading));
    const name = `${fileName(title)}.${kind}`;
    if (kind === "png") saveFile(await pages[0]!.convertToBlob({ type: "image/png" }), name, "image/png");
    else saveFile(await pagesAsPdf(pages, heading), name, "application/pdf");
  } finally {
    for (const { picture } of items) picture.close();
  }
}
