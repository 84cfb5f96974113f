/** Forecasts against what was paid: the demo sets in other airs, sizes and targets, each looked at for ten seconds and then rendered. Processor time. */
import { fallOf, forecastOf } from "#core/budget/forecast";
import { judgesCleaned, targetOf } from "#core/budget/target";
import { learnedFrom, priced, type PaidFinal } from "#core/budget/live";
import { AIR_EVERY } from "#core/document/air-size";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import { measureFilm } from "#core/film/film";
import { compileScene } from "#core/scene/compile";
import { CleanPool } from "#engine/clean-pool";
import { RenderEngine } from "#engine/engine";
import { lookAtFrame } from "#engine/frame-look";
import { nodeCleanHost } from "#engine/node-clean";
import { nodeHost } from "#engine/node-host";
import { finalSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { judgements, judgeOf } from "#engine/settled";
import { processorSeconds as spent } from "#finals/frame";
import { DEMO_SETS } from "../../demo/index";
import { demoResources } from "./profile";

const LOOK = 10;

interface Case {
  name: string;
  size: [number, number];
  /** What its air is made denser by. */
  denser?: number;
  render: Partial<SceneDocument["render"]>;
}
const CASES: readonly Case[] = [
  { name: "24 samples", size: [320, 180], render: { samples: 24 } },
  { name: "air twice as dense, 16 samples", size: [384, 216], denser: 2, render: { samples: 16 } },
  { name: "15 % noise", size: [320, 180], render: { samples: 64, noiseThreshold: 0.15, minSamples: 8 } },
  { name: "half as dense, 20 % noise", size: [384, 216], denser: 0.5, render: { samples: 48, noiseThreshold: 0.2, minSamples: 8 } },
  { name: "air at half size, 24 samples", size: [480, 270], render: { samples: 24, airSize: "half" } },
  { name: "8 % noise, cleaned", size: [320, 180], render: { samples: 48, noiseThreshold: 0.08, thresholdOf: "cleaned", minSamples: 8 } },
];

/** Pixels and samples of a render whose time tells how fast the machine is just now: shared machines change by half within minutes. */
const YARD: [number, number] = [96, 54];
const YARD_SAMPLES = 6;

/** @param sets those of the demo sets; all where none are named */
export async function benchForecast(sets: readonly string[]): Promise<void> {
  const engine = await RenderEngine.create(nodeHost("build", 2));
  const pool = new CleanPool(nodeCleanHost("build", 2));
  const errors: number[] = [],
    even: number[] = [],
    learnt: number[] = [];
  let inside = 0,
    evenInside = 0,
    learntInside = 0;
  const records: PaidFinal[] = [];
  const yard = async (document: SceneDocument): Promise<number> => {
    const before = spent();
    const [width, height] = YARD;
    await engine.start({ document, width, height, stages: finalSchedule(0, YARD_SAMPLES, MEDIUM_PASSES) });
    return spent() - before;
  };
  try {
    for (const set of DEMO_SETS) {
      if (sets.length > 0 && !sets.includes(set.id)) continue;
      const own = set.document();
      engine.setGeometry(compileScene(own, await demoResources(set)));
      const yardstick = parseDocument({ ...own, film: { ...own.film, region: null }, render: { ...own.render, noiseThreshold: null } });
      await yard(yardstick);
      for (const { name, size, denser = 1, render } of CASES) {
        const doc = parseDocument({
          ...own,
          air: own.air.map((m) => ({ ...m, density: m.density * denser })),
          film: { ...own.film, size, region: null },
          render: { ...own.render, noiseThreshold: null, ...render },
        });
        const cleaned = judgesCleaned(doc);
        const target = targetOf(doc);
        const { pixels, samples, minSamples } = target;
        const speed = [await yard(yardstick)];
        const look = await lookAtFrame(engine, doc, LOOK, spent, cleaned ? "cleaned" : "rendered", cleaned ? pool : null);
        const forecast = forecastOf(look.blocks, look.rate, {
          ...target,
          falls: cleaned ? fallOf(look.few, look.blocks) : 1,
        });
        const fixed = look.start + (cleaned ? judgements(minSamples, samples) * look.cleaning * pixels : 0);
        speed.push(await yard(yardstick));
        const before = spent();
        const stages = finalSchedule(0, samples, MEDIUM_PASSES, AIR_EVERY[doc.render.airSize]);
        const { film } = await engine.start({ document: doc, width: size[0], height: size[1], stages, judge: judgeOf(doc, () => pool) });
        const paid = spent() - before;
        const [said, low, high] = [forecast.seconds, forecast.low, forecast.high].map((s) => s + fixed) as [number, number, number];
        // its memory is the next run's
        const taken = measureFilm(film).samples;
        speed.push(await yard(yardstick));
        const error = said / paid - 1;
        errors.push(error);
        const holds = paid >= low && paid <= high;
        if (holds) inside++;
        // what it would have taken at the speed of the look
        const drift = (speed[1]! + speed[2]!) / (speed[0]! + speed[1]!);
        even.push((said * drift) / paid - 1);
        if (paid / drift >= low && paid / drift <= high) evenInside++;
        // as a server says it, which has learned from the finals before this one
        const told = priced(forecast, fixed, { scene: 0, clean: 0 }, learnedFrom(records), 16);
        learnt.push((told.seconds * drift) / paid - 1);
        if (paid / drift >= told.low && paid / drift <= told.high) learntInside++;
        records.unshift({ model: said, said: told.seconds, low: told.low, high: told.high, paid: paid / drift });
        console.log(
          `${set.id}, ${size.join(" × ")}, ${name}: said ${said.toFixed(1)} s (${low.toFixed(1)} to ${high.toFixed(1)}), paid ${paid.toFixed(1)} s, ` +
            `${error < 0 ? "" : "+"}${(100 * error).toFixed(0)} %${holds ? "" : ", outside"}; samples ${forecast.samples.toFixed(1)}, taken ${taken.toFixed(1)}; machine ×${drift.toFixed(2)} as slow by then; learned ×${(told.seconds / said).toFixed(2)}`,
        );
      }
    }
    const told = (what: string, of: readonly number[], held: number): void => {
      const sizes = of.map(Math.abs).sort((a, b) => a - b);
      const [median, middle] = [sizes, [...of].sort((a, b) => a - b)].map((v) => 100 * v[Math.floor(v.length / 2)]!) as [number, number];
      console.log(
        `${what}: ${of.length} finals, median error ${median.toFixed(0)} % (they lean by ${middle.toFixed(0)} %), ${held} between their bounds (${Math.round((100 * held) / of.length)} %)`,
      );
    };
    told("as measured", errors, inside);
    told("at the machine's speed while it looked", even, evenInside);
    told("the same, learning from the finals before", learnt, learntInside);
  } finally {
    pool.dispose();
    engine.dispose();
  }
}
