/** Sections are computed here, apart from the picture, so that neither waits for the other. */
import { expose, transfer } from "comlink";
import type { SceneDocument } from "#core/document/schema";
import type { CompiledGeometry } from "#core/scene/compiled";
import { airFacts, type AirFacts } from "#core/air/facts";
import { solvePins, survivingAt, type Pin, type Solution, type Solved } from "#core/air/pins";
import { bakedFile } from "#core/section/bake";
import { SectionProbe, withoutLights, type NoisePreview, type Section, type SectionRequest } from "#core/section/probe";
import type { SunMap } from "#core/section/sun-map";

let started: SectionProbe | null = null;

/** @throws Error before it was started */
function probe(): SectionProbe {
  if (!started) throw new Error("the section was not started");
  return started;
}

const api = {
  async start(): Promise<void> {
    const response = await fetch("/kernel/kernel.plain.wasm");
    if (!response.ok) throw new Error(`The kernel of the section could not be loaded (${response.status}).`);
    started = await SectionProbe.create(await WebAssembly.compile(await response.arrayBuffer()), () => performance.now());
  },
  setGeometry(geometry: CompiledGeometry): void {
    probe().setGeometry(geometry);
  },
  section(doc: SceneDocument, request: SectionRequest): Section & { milliseconds: number } {
    const from = performance.now();
    const s = probe().section(doc, request);
    const buffers = [s.field.buffer, s.cut.buffer, s.fate.depths.buffer, ...(s.lit ? [s.lit.values.buffer] : [])] as ArrayBuffer[];
    return transfer({ ...s, milliseconds: performance.now() - from }, buffers);
  },

  /** Transmittance at pins. */
  surviving(doc: SceneDocument, pins: Pin[]): number[] {
    return survivingAt((d, p) => probe().depth(d, p.x, p.y, p.distance), withoutLights(doc), pins);
  },
  /** One medium solved so that pins keep their shares. */
  solve(doc: SceneDocument, index: number, pins: Pin[], which: Solved[]): Solution {
    return solvePins(withoutLights(doc), index, pins, which, (d, p) => probe().depth(d, p.x, p.y, p.distance));
  },
  /** What the frame's air does, for diagnosis. */
  facts(doc: SceneDocument, reach: number): AirFacts {
    return airFacts(doc, probe(), reach);
  },
  /** How a medium's break-up looks by itself. */
  noise(doc: SceneDocument, index: number): NoisePreview {
    const look = probe().noise(doc, index);
    return transfer(look, [look.slice.buffer as ArrayBuffer, look.cube.buffer as ArrayBuffer]);
  },
  /** Where sunlight comes; null where no map tells. */
  sunMap(doc: SceneDocument): SunMap | null {
    const map = probe().sunMap(doc);
    return map && transfer(map, [map.texels.buffer as ArrayBuffer]);
  },
  /** A medium's density as an OpenVDB file. */
  bake(doc: SceneDocument, index: number, across: number): Uint8Array {
    const medium = doc.air[index];
    if (!medium) throw new Error("there is no such medium any more");
    const bytes = bakedFile(medium, probe().bake(doc, index, across));
    return transfer(bytes, [bytes.buffer as ArrayBuffer]);
  },
};

export type SectionWorker = typeof api;
expose(api);
