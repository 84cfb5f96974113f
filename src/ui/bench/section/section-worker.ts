/** Sections are computed here, apart from the picture, so that neither waits for the other. */
import { expose, transfer } from "comlink";
import type { SceneDocument } from "#core/document/schema";
import type { CompiledGeometry } from "#core/scene/compile";
import { SectionProbe, type Section, type SectionRequest } from "#core/section/probe";

let probe: SectionProbe | null = null;

const api = {
  async start(): Promise<void> {
    const response = await fetch("/kernel/kernel.plain.wasm");
    if (!response.ok) throw new Error(`The kernel of the section could not be loaded (${response.status}).`);
    probe = await SectionProbe.create(await WebAssembly.compile(await response.arrayBuffer()));
  },
  setGeometry(geometry: CompiledGeometry): void {
    probe!.setGeometry(geometry);
  },
  section(doc: SceneDocument, request: SectionRequest): Section & { milliseconds: number } {
    const started = performance.now();
    const s = probe!.section(doc, request);
    const buffers = [s.field.buffer, s.cut.buffer, s.fate.depths.buffer, ...(s.lit ? [s.lit.values.buffer] : [])] as ArrayBuffer[];
    return transfer({ ...s, milliseconds: performance.now() - started }, buffers);
  },
};

export type SectionWorker = typeof api;
expose(api);
