/** fumarium diagnose and bake: what is wrong with the air of a frame, and a medium as an OpenVDB file. */
import { readFile } from "node:fs/promises";
import { availableParallelism } from "node:os";
import { join } from "node:path";
import { diagnose, type Finding } from "#core/air/diagnose";
import { airFacts } from "#core/air/facts";
import { filmFacts } from "#core/air/film-facts";
import { frameReach } from "#core/air/reach";
import { InputError } from "#core/errors";
import { whiteAt } from "#core/optics/exposure";
import { bakedFile } from "#core/section/bake";
import { boundsInWorld } from "#core/scene/origin";
import { compileScene } from "#core/scene/compile";
import type { CompiledGeometry } from "#core/scene/compiled";
import { reachOf } from "#core/scene/pick";
import { SectionProbe } from "#core/section/probe";
import { RenderEngine } from "#engine/engine";
import { nodeHost } from "#engine/node-host";
import { findNoise, type NoiseReport } from "#engine/noise-sources";
import { finalSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { PASS_CLEAR } from "#core/layout/layout";
import { loadDocument, loadResources } from "./load";
import { tryOutput, writeWhole } from "#finals/output";

async function probeOf(buildDirectory: string, geometry: CompiledGeometry): Promise<SectionProbe> {
  const wasm = await WebAssembly.compile(await readFile(join(buildDirectory, "kernel", "kernel.plain.wasm")));
  const probe = await SectionProbe.create(wasm, () => performance.now());
  probe.setGeometry(geometry);
  return probe;
}

/** Pixels along the longer side of the film that a diagnosis looks at, and its samples a pixel. */
const [SIDE, SAMPLES] = [320, 16];

export interface DiagnoseRequest {
  document: string;
  /** Where to write the document with the remedies applied. */
  output?: string;
  buildDirectory: string;
  threads?: number;
  progress?: (line: string) => void;
}

/** Measures the frame small. @returns what was found; with an output the remedies are applied one after another */
export async function diagnoseCommand(o: DiagnoseRequest): Promise<Finding[]> {
  const doc = await loadDocument(o.document);
  o.progress?.("reading models and building the scene");
  const geometry = compileScene(doc, await loadResources(doc, o.document));
  const probe = await probeOf(o.buildDirectory, geometry);
  const engine = await RenderEngine.create(nodeHost(o.buildDirectory, o.threads ?? availableParallelism()));
  try {
    engine.setGeometry(geometry);
    const [w, h] = doc.film.size;
    const k = Math.min(1, SIDE / Math.max(w, h));
    const [width, height] = [Math.max(1, Math.round(k * w)), Math.max(1, Math.round(k * h))];
    const document = { ...doc, film: { ...doc.film, lightGroups: true, mattes: false } };
    o.progress?.(`rendering ${width} × ${height} pixels, ${SAMPLES} samples each`);
    const { film } = await engine.start({ document, width, height, stages: finalSchedule(0, SAMPLES, MEDIUM_PASSES | PASS_CLEAR) });
    const bounds = boundsInWorld(geometry.bounds, geometry.origin);
    const { reach, ground } = frameReach(doc, bounds, reachOf(film).median);
    const seen = filmFacts(film, whiteAt(doc.film.exposure));
    const findings = diagnose(doc, { air: airFacts(doc, probe, reach), film: seen, ground, reach, bounds });
    if (o.output) {
      const mended = findings.reduce((d, f) => f.remedies[0]?.apply(d) ?? d, doc);
      await writeWhole(o.output, `${JSON.stringify(mended, null, 2)}\n`);
    }
    return findings;
  } finally {
    engine.dispose();
  }
}

/** Measures where the frame's noise comes from, and what remedies gain. */
export async function noiseCommand(o: Pick<DiagnoseRequest, "document" | "buildDirectory" | "threads" | "progress">): Promise<NoiseReport> {
  const doc = await loadDocument(o.document);
  o.progress?.("reading models and building the scene");
  const geometry = compileScene(doc, await loadResources(doc, o.document));
  const engine = await RenderEngine.create(nodeHost(o.buildDirectory, o.threads ?? availableParallelism()));
  try {
    engine.setGeometry(geometry);
    return await findNoise(engine, doc, (done, all) => o.progress?.(`trial ${done} of ${all}`));
  } finally {
    engine.dispose();
  }
}

export interface BakeRequest {
  document: string;
  output: string;
  /** Name of the medium, or its number from 1. */
  medium: string;
  /** Voxels along the longest side. */
  across: number;
  /** Moment, s; the document's own where not given. */
  at?: number;
  buildDirectory: string;
}

/** Writes one medium's density. @returns its voxels, and the edge of one (m) */
export async function bakeCommand(o: BakeRequest): Promise<{ name: string; voxels: number; size: number }> {
  if (!o.output.toLowerCase().endsWith(".vdb")) throw new InputError(`-o ${o.output}: the name must end in .vdb`);
  await tryOutput(o.output);
  const own = await loadDocument(o.document);
  const doc = o.at === undefined ? own : { ...own, time: o.at };
  const named = doc.air.findIndex((m) => m.name === o.medium);
  const index = named >= 0 ? named : /^\d+$/.test(o.medium) ? Number(o.medium) - 1 : -1;
  const medium = doc.air[index];
  if (!medium)
    throw new InputError(
      `--medium ${o.medium}: the document has ${doc.air.map((m, i) => `${i + 1} "${m.name}"`).join(", ") || "no media"}`,
    );
  const probe = await probeOf(o.buildDirectory, compileScene(doc, await loadResources(doc, o.document)));
  const volume = probe.bake(doc, index, o.across);
  await writeWhole(o.output, bakedFile(medium, volume));
  return { name: medium.name, voxels: volume.active, size: volume.toWorld[0] };
}
