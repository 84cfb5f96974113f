/** Rooms of blocks, and a probe that looks into them. */
import { readFileSync } from "node:fs";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import { map3, type V3 } from "#core/math/vectors";
import { compileScene } from "#core/scene/compile";
import { SectionProbe } from "#core/section/probe";
import type { PartialDocument } from "./kernel";

export interface Block {
  kind: "box";
  material: string;
  position: V3;
  size: V3;
}

/** A box from one corner to the opposite one, m. */
export const block = (a: V3, b: V3): Block => ({
  kind: "box",
  material: "m",
  position: map3(a, (v, k) => (v + b[k]) / 2),
  size: map3(a, (v, k) => b[k] - v),
});

export const createProbe = (): Promise<SectionProbe> =>
  SectionProbe.create(new WebAssembly.Module(readFileSync("build/kernel/kernel.plain.wasm")));

/** Gives a probe the set of a document whose one material is "m". */
export function loadInto(probe: SectionProbe, input: PartialDocument): SceneDocument {
  const doc = parseDocument({ fumarium: 2, materials: { m: { baseColor: [0.4, 0.4, 0.4], specular: 0 } }, ...input });
  probe.setGeometry(compileScene(doc, { models: new Map() }));
  return doc;
}
