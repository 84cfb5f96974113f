/** fumarium advise: what would save time on a frame, by trials, and the document with it. */
import { availableParallelism, loadavg } from "node:os";
import { fallOf, forecastOf } from "#core/budget/forecast";
import { judgesCleaned, targetOf } from "#core/budget/target";
import { secondsAllowed } from "#core/document/budget";
import { durationText, formatNumber } from "#core/document/quantities";
import type { SceneDocument } from "#core/document/schema";
import { compileScene } from "#core/scene/compile";
import { finestStep } from "#core/scene/media";
import { boundsInWorld } from "#core/scene/origin";
import { advise, LIMITS_SEEN, priceShare, type Advice } from "#engine/advise";
import { CleanPool } from "#engine/clean-pool";
import { RenderEngine } from "#engine/engine";
import { lookAtFrame } from "#engine/frame-look";
import { nodeCleanHost } from "#engine/node-clean";
import { nodeHost } from "#engine/node-host";
import { processorSeconds } from "#finals/frame";
import { tryOutput, writeWhole } from "#finals/output";
import { loadText } from "./forecast";
import { loadDocument, loadResources } from "./load";
import { overridden, type Overrides } from "./render";

export interface AdviseOptions extends Overrides {
  document: string;
  buildDirectory: string;
  /** Where the document with what is advised is written. */
  apply?: string;
  /** Seconds that a frame may take; those of the document's budget where it is not said. */
  budget?: number;
  /** Seconds that the trials may take, about. */
  seconds: number;
  threads?: number;
  progress?: (line: string) => void;
}

/** A change without what only a program has of it. */
type Told = Pick<Advice, "ids" | "words" | "time" | "error" | "cost" | "noise" | "seen" | "energy" | "energyError">;

export interface AdviseReport {
  document: string;
  /** Seconds of a frame here as it is. */
  frame: number;
  rows: Told[];
  /** Those that save most together while they are hardly seen, and what a frame takes with them. */
  together: (Told & { frame: number }) | null;
  /** Where none do: the one that is seen least beyond what is allowed. */
  nearest: Told | null;
  budget: { seconds: number; kept: boolean } | null;
  tried: number;
  untried: number;
  /** Threads of other work that wanted this machine's cores as it began. */
  load: number;
  /** Where the document was written. */
  output: string | null;
}

/** Seconds of looking before the trials. */
const LOOK = 8;

/** @throws InputError */
export async function adviseCommand(o: AdviseOptions): Promise<AdviseReport> {
  const own = await loadDocument(o.document);
  const doc = overridden(own, o);
  const load = loadavg()[0] ?? 0;
  if (o.apply !== undefined) await tryOutput(o.apply);
  const threads = o.threads ?? availableParallelism();
  o.progress?.("reading models and building the scene");
  const geometry = compileScene(doc, await loadResources(doc, o.document));
  const engine = await RenderEngine.create(nodeHost(o.buildDirectory, threads));
  const pool = new CleanPool(nodeCleanHost(o.buildDirectory, threads));
  try {
    engine.setGeometry(geometry);
    o.progress?.("looking at the frame");
    const frame = (await workOf(engine, doc, pool)) / threads;
    const allowed = o.budget ?? secondsAllowed(doc.budget.limit, new Date());
    const host = {
      engine,
      geometryOf: async (d: SceneDocument) => (d === doc ? geometry : compileScene(d, await loadResources(d, o.document))),
      facts: {
        bounds: geometry.triangleCount > 0 ? boundsInWorld(geometry.bounds, geometry.origin) : null,
        step: finestStep(doc, geometry),
      },
      progress: (done: number, all: number, words: string) => o.progress?.(`${done + 1} of ${all}: ${words}`),
    };
    const { rows, together, nearest, tried, untried } = await advise(
      host,
      doc,
      o.seconds,
      LIMITS_SEEN,
      allowed === null ? 0 : Math.min(1, allowed / frame),
    );
    const with_ = together && { ...told(together), frame: frame * priceShare(together, doc) };
    let output: string | null = null;
    if (o.apply !== undefined && together) {
      await writeWhole(o.apply, `${JSON.stringify(together.apply(own), null, 2)}\n`);
      output = o.apply;
    }
    return {
      ...{
        document: o.document,
        frame,
        rows: rows.map(told),
        together: with_,
        nearest: nearest && told(nearest),
        tried,
        untried,
        load,
        output,
      },
      budget: allowed === null ? null : { seconds: allowed, kept: (with_?.frame ?? frame) <= allowed },
    };
  } finally {
    pool.dispose();
    engine.dispose();
  }
}

/** Processor seconds of the document's frame, by a look. */
async function workOf(engine: RenderEngine, doc: SceneDocument, pool: CleanPool): Promise<number> {
  const cleaned = judgesCleaned(doc);
  const look = await lookAtFrame(engine, doc, LOOK, processorSeconds, cleaned ? "cleaned" : "rendered", cleaned ? pool : null);
  const falls = cleaned ? fallOf(look.few, look.blocks) : 1;
  return look.start + forecastOf(look.blocks, look.rate, { ...targetOf(doc), falls }).seconds;
}

const told = ({ ids, words, time, error, cost, noise, seen, energy, energyError }: Advice): Told => ({
  ...{ ids, words, time, error, cost, noise, seen, energy, energyError },
});

const saving = ({ time, error }: Told): string => `×${formatNumber(1 / time, 3)} ± ${formatNumber(100 * error, 2)} %`;
const change = ({ seen, energy, energyError }: Told): string =>
  `ΔE ${formatNumber(seen.mean, 2)} ± ${formatNumber(seen.error, 1)} (worst block ${formatNumber(seen.worst, 2)}), light ${energy > 0 ? "−" : "+"}${formatNumber(100 * Math.abs(energy), 2)} ± ${formatNumber(100 * energyError, 1)} %`;

/** A report in lines. */
export function adviseText(r: AdviseReport): string[] {
  const lines = [
    `${r.document}: a frame takes about ${durationText(r.frame)} here; ${r.tried} changes were tried${r.untried > 0 ? `, ${r.untried} were not for want of time` : ""}`,
  ];
  lines.push(...loadText(r.load));
  if (r.rows.length === 0) lines.push("nothing that was tried saves time that can be told from chance");
  for (const row of r.rows) lines.push(`${saving(row).padEnd(16)} ${row.words}: ${change(row)}`);
  if (r.together)
    lines.push(`together ${saving(r.together)}, about ${durationText(r.together.frame)}: ${r.together.words}: ${change(r.together)}`);
  else if (r.rows.length > 0)
    lines.push(
      `none of them is hardly seen (ΔE up to ${LIMITS_SEEN.mean}, worst block up to ${LIMITS_SEEN.worst})` +
        (r.nearest ? `; the nearest, looked at longer: ${r.nearest.words}: ${saving(r.nearest)}, ${change(r.nearest)}` : ""),
    );
  if (r.budget)
    lines.push(
      `budget ${durationText(r.budget.seconds)} a frame: ${r.budget.kept ? "is kept" : "is not kept"}${r.together ? " with them" : ""}`,
    );
  if (r.output) lines.push(`${r.output}: the document with them`);
  return lines;
}
