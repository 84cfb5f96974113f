/** Reads pictures of a stack beside the page, makes them small for the view, and writes its files at full size. */
import { expose } from "comlink";
import { strToU8 } from "fflate";
import { planOf } from "#core/compose/compose";
import { composedExr, composedLight, developmentOf, finishedLight, unitOf } from "#core/compose/export";
import { readPackage, writePackage } from "#core/compose/package";
import { checkSizes, distanceOf, heightOf, smallFrame } from "#core/compose/sources";
import { readSource, type Frame } from "#core/formats/layers";
import type { Stack } from "#core/compose/stack";
import { InputError } from "#core/errors";
import { writeExr } from "#core/formats/exr";
import { shownToPng, type Shown } from "#core/formats/shown";
import { whiteAt } from "#core/optics/exposure";
import { RowsPool, shared } from "./rows-pool";

/** Full pictures by their source. */
const pictures = new Map<string, Frame>();

export type ExportKind = "exr" | "layers" | "png8" | "png16" | "tif8" | "tif16";
/** A file, or for the server what a TIFF is made of. */
export type Exported = { bytes: Uint8Array } | { shown: Shown };

/** A picture that threads of an export share. */
const sharedFrame = (frame: Frame): Frame => ({
  ...frame,
  layers: new Map([...frame.layers].map(([key, p]) => [key, { ...p, bands: p.bands.map(shared), alpha: p.alpha && shared(p.alpha) }])),
});

class Cancelled extends Error {}
let cancelled = false;

const worker = {
  /** Reads a file and keeps it under a name. @throws InputError */
  read(bytes: Uint8Array, key: string, what: string): { width: number; height: number } {
    try {
      const frame = sharedFrame(readSource(bytes, what));
      pictures.set(key, frame);
      return { width: frame.width, height: frame.height };
    } catch (error) {
      throw error instanceof InputError ? new Error(error.message) : error;
    }
  },
  /** What is kept under a name, no larger than so many pixels each way. */
  small(key: string, width: number, height: number): Frame {
    return smallFrame(pictures.get(key)!, width, height);
  },
  forget(keys: readonly string[]): void {
    for (const key of keys) pictures.delete(key);
  },
  /** Distance or height at a point of the frame (shares) of these sources; null where they have none. */
  numberAt(keys: readonly string[], kind: "distance" | "height", x: number, y: number): number | null {
    const frames = keys.map((key) => pictures.get(key)!);
    const plane = (kind === "distance" ? distanceOf : heightOf)(frames);
    const [frame] = frames;
    if (!frame || !plane) return null;
    const at = (v: number, n: number): number => Math.max(0, Math.min(n - 1, Math.floor(v * n)));
    return plane[at(y, frame.height) * frame.width + at(x, frame.width)]!;
  },
  cancel(): void {
    cancelled = true;
  },
  /** A file of the composed picture at full size. */
  async export(stack: Stack, kind: ExportKind, onShare: (share: number) => void): Promise<Exported> {
    cancelled = false;
    const frames = new Map(Object.keys(stack.sources).map((source) => [source, pictures.get(source)!]));
    const { width, height } = checkSizes(frames);
    const plan = planOf(stack, frames, width, height);
    const unit = kind === "exr" || kind === "layers" ? unitOf(stack, frames) : whiteAt(stack.white);
    const pool = await RowsPool.of(plan);
    const light = await composedLight(
      plan,
      unit,
      async (share) => {
        onShare(share);
        // a cancel comes between rows
        await new Promise((done) => setTimeout(done));
        if (cancelled) throw new Cancelled("The export was cancelled.");
      },
      pool,
    ).finally(() => pool.dispose());
    const texts = { Title: stack.title, Software: "Fumarium", "fumarium.stack": JSON.stringify(stack) };
    switch (kind) {
      case "exr":
      case "layers":
        return { bytes: writeExr(composedExr(stack, plan, light, unit, { layers: kind === "layers" })) };
      case "png8":
      case "png16":
        return { bytes: shownToPng(finishedLight(light, width, height, developmentOf(stack), kind === "png16" ? 16 : 8), texts) };
      case "tif8":
      case "tif16":
        return { shown: finishedLight(light, width, height, developmentOf(stack), kind === "tif16" ? 16 : 8) };
    }
  },
  pack: (stack: Stack, name: string, files: ReadonlyMap<string, Uint8Array>): Promise<Uint8Array> =>
    writePackage(stack, name, strToU8, (source) => Promise.resolve(files.get(source)!)),
  /** @throws Error saying what is wrong with it */
  unpack: (bytes: Uint8Array, what: string): { stack: Stack; files: Map<string, Uint8Array> } =>
    readPackage(bytes, what, (b) => new TextDecoder("utf-8", { fatal: true }).decode(b)),
};
export type ComposeWorker = typeof worker;
expose(worker);
