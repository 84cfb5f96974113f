/** Draws a sheet of proofs with their settings, and saves it as a picture or as pages. */
import { useRef, useState } from "react";
import type { SceneDocument } from "#core/document/schema";
import { contextOf } from "../shared/canvas";
import { saveFile } from "../shared/save-file";
import { useLengths } from "../shared/units";
import { captionOf, layoutSheet, pageForm, pictureForm, type SheetForm, type SheetPage } from "./model/contact-sheet";
import { useBench, useDocument } from "./model/context";
import { fileName } from "./model/file-name";
import type { Numbered } from "./model/proof-order";

/** Pixels for each point of a printed page. */
const DENSE = 2.4;

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

export default function ContactSheet({ proofs }: { proofs: readonly Numbered[] }) {
  const { proofs: shelf } = useBench();
  const title = useDocument((d) => d.title);
  const lengths = useLengths();
  const [done, setDone] = useState<number | null>(null);
  const [error, setError] = useState<string | null>(null);
  const cancelled = useRef(false);

  const make = async (kind: "png" | "pdf"): Promise<void> => {
    cancelled.current = false;
    setError(null);
    setDone(0);
    try {
      const items: Item[] = [];
      let first: { number: number; doc: SceneDocument } | null = null;
      for (const proof of proofs) {
        const [doc, answer] = await Promise.all([shelf.document(proof.id), fetch(`/api/assets/${proof.picture}`)]);
        if (!answer.ok) throw new Error(`the picture of proof ${proof.number} is gone`);
        const picture = await createImageBitmap(await answer.blob());
        if (cancelled.current) return;
        items.push({ picture, aspect: picture.width / picture.height, lines: captionOf(proof, doc, first, lengths) });
        first ??= { number: proof.number, doc };
        setDone(items.length);
      }
      await document.fonts.ready;
      const form = kind === "png" ? pictureForm(items.length) : pageForm(DENSE);
      const sizes = items.map(({ aspect, lines }) => ({ aspect, lines: lines.length }));
      const heading = `${title}, ${items.length} ${items.length === 1 ? "proof" : "proofs"}, ${new Date().toLocaleDateString("en-GB", { day: "numeric", month: "long", year: "numeric" })}`;
      const pages = layoutSheet(sizes, form).map((page) => drawPage(page, items, form, heading));
      for (const { picture } of items) picture.close();
      const name = `${fileName(title)}-proofs.${kind}`;
      if (kind === "png") saveFile(await pages[0]!.convertToBlob({ type: "image/png" }), name, "image/png");
      else saveFile(await pagesAsPdf(pages, heading), name, "application/pdf");
    } catch (e) {
      setError(`The sheet was not made: ${(e as Error).message}`);
    } finally {
      setDone(null);
    }
  };

  return (
    <div className="mt-1 space-y-1" role="group" aria-label="Contact sheet">
      <p className="quiet">
        {proofs.length} {proofs.length === 1 ? "picture" : "pictures"} with settings
      </p>
      {done === null ? (
        <p className="flex gap-1.5">
          <button className="btn btn-xs btn-outline hair flex-1" disabled={proofs.length === 0} onClick={() => void make("png")}>
            PNG
          </button>
          <button
            className="btn btn-xs btn-outline hair flex-1"
            disabled={proofs.length === 0}
            title="A4 pages across, nine or so to a page."
            onClick={() => void make("pdf")}
          >
            PDF
          </button>
        </p>
      ) : (
        <p role="status">
          {done} of {proofs.length}{" "}
          <button className="link" onClick={() => (cancelled.current = true)}>
            Cancel
          </button>
        </p>
      )}
      {error && (
        <p role="alert" className="text-error">
          {error}
        </p>
      )}
    </div>
  );
}
