import { readFileSync } from "node:fs";
import { expect, it } from "vitest";
import { airFacts } from "#core/air/facts";
import { diagnose } from "#core/air/diagnose";
import { parseDocument } from "#core/document/parse";
import { compileScene } from "#core/scene/compile";
import type { CompiledGeometry } from "#core/scene/compiled";
import { SectionProbe, type SectionRequest } from "#core/section/probe";
import { randomDocument } from "../support/random-document";

const COUNT = 40;

it(`sections and diagnoses of ${COUNT} random documents hold only finite numbers, however they are cut`, async () => {
  const probe = await SectionProbe.create(new WebAssembly.Module(readFileSync("build/kernel/kernel.plain.wasm")));
  let cut = 0;
  for (let seed = 1; seed <= COUNT; seed++) {
    let geometry: CompiledGeometry;
    const doc = parseDocument(randomDocument(seed));
    try {
      geometry = compileScene(doc, { models: new Map() });
    } catch {
      continue; // open meshes as regions are refused
    }
    probe.setGeometry(geometry);
    const requests: Partial<SectionRequest>[] = [
      { plane: { kind: "upright" }, scale: "even" },
      { plane: { kind: "level", height: 1 }, scale: "logarithmic" },
      { plane: { kind: "upright" }, scale: "even", window: [-1e5, -1e5, 1e5, 1e5] },
    ];
    for (const [i, r] of requests.entries()) {
      const s = probe.section(doc, { x: (seed % 7) / 6, y: (seed % 5) / 4, window: null, columns: 24, rows: 12, lit: i < 2, ...r } as SectionRequest); // prettier-ignore
      const all = [
        s.window,
        s.field,
        s.lit?.values ?? [],
        s.cut,
        s.fate.depths,
        ...s.fate.gains.map((g) => g.values),
        [s.fate.far, s.densest],
      ];
      for (const [k, values] of all.entries())
        for (const v of values) if (!Number.isFinite(v)) throw new Error(`document of seed ${seed}, request ${i}: part ${k} holds ${v}`);
      expect(s.window[2]).toBeGreaterThan(s.window[0]);
      expect(s.window[3]).toBeGreaterThan(s.window[1]);
    }
    const facts = airFacts(doc, probe, 50);
    for (const v of [facts.sunLeft ?? 0, facts.skyLeft ?? 0, facts.median?.left ?? 0, ...facts.crossed])
      expect(v).toBeGreaterThanOrEqual(0);
    for (const f of diagnose(doc, { air: facts, film: null, ground: 0, reach: 50, bounds: [-5, 0, -5, 5, 5, 5] })) {
      expect(f.says).not.toMatch(/NaN|undefined/);
      for (const { apply } of f.remedies) parseDocument(JSON.parse(JSON.stringify(apply(doc))));
    }
    cut++;
  }
  expect(cut).toBeGreaterThan(0.8 * COUNT);
}, 180_000);
