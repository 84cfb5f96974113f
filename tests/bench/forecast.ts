/** Forecasts against what was paid: the demo sets in other airs, sizes and targets, each looked at for ten seconds and then rendered. Processor time. */
import { fallOf, forecastOf } from "#core/budget/forecast";
import { AIR_EVERY } from "#core/document/air-size";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import { measureFilm } from "#core/film/film";
import { whiteAt } from "#core/optics/exposure";
import { compileScene } from "#core/scene/compile";
import { DARK } from "#core/scene/parameters";
import { CleanPool } from "#engine/clean-pool";
import { RenderEngine } from "#engine/engine";
import { lookAtFrame } from "#engine/frame-look";
import { nodeCleanHost } from "#engine/node-clean";
import { nodeHost } from "#engine/node-host";
import { finalSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { judgements, judgeOf } from "#engine/settled";
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
  { name: "24 samples", size: [384, 216], render: { samples: 24 } },
  { name: "air twice as dense, 16 samples", size: [512, 288], denser: 2, render: { samples: 16 } },
  { name: "10 % noise", size: [512, 288], render: { samples: 96, noiseThreshold: 0.1, minSamples: 8 } },
  { name: "half as dense, 15 % noise", size: [640, 360], denser: 0.5, render: { samples: 64, noiseThreshold: 0.15, minSamples: 8 } },
  { name: "air at half size, 16 samples", size: [640, 360], render: { samples: 16, airSize: "half" } },
  { name: "5 % noise, cleaned", size: [448, 252], render: { samples: 64, noiseThreshold: 0.05, thresholdOf: "cleaned", minSamples: 8 } },
];

const spent = (): number => {
  const { user, system } = process.cpuUsage();
  return (user + system) / 1e6;
};

/** @param sets those of the demo sets; all where none are named */
export async function benchForecast(sets: readonly string[]): Promise<void> {
  const engine = await RenderEngine.create(nodeHost("build", 2));
  const pool = new CleanPool(nodeCleanHost("build", 2));
  const errors: number[] = [];
  let inside = 0;
  try {
    for (const set of DEMO_SETS) {
      if (sets.length > 0 && !sets.includes(set.id)) continue;
      const own = set.document();
      engine.setGeometry(compileScene(own, await demoResources(set)));
      for (const { name, size, denser = 1, render } of CASES) {
        const doc = parseDocument({
          ...own,
          air: own.air.map((m) => ({ ...m, density: m.density * denser })),
          film: { ...own.film, size, region: null },
          render: { ...own.render, noiseThreshold: null, ...render },
        });
        const { noiseThreshold, thresholdOf, samples, minSamples, airSize } = doc.render;
        const cleaned = noiseThreshold !== null && thresholdOf === "cleaned";
        const pixels = size[0] * size[1];
        const look = await lookAtFrame(engine, doc, LOOK, spent, cleaned ? "cleaned" : "rendered", cleaned ? pool : null);
        const forecast = forecastOf(look.blocks, look.rate, {
          ...{ pixels, samples, minSamples, threshold: noiseThreshold },
          dark: DARK * whiteAt(doc.film.exposure),
          falls: cleaned ? fallOf(look.few, look.blocks) : 1,
        });
        const fixed = look.start + (cleaned ? judgements(minSamples, samples) * look.cleaning * pixels : 0);
        const before = spent();
        const stages = finalSchedule(0, samples, MEDIUM_PASSES, AIR_EVERY[airSize]);
        const { film } = await engine.start({ document: doc, width: size[0], height: size[1], stages, judge: judgeOf(doc, () => pool) });
        const paid = spent() - before;
        const [said, low, high] = [forecast.seconds, forecast.low, forecast.high].map((s) => s + fixed) as [number, number, number];
        const error = said / paid - 1;
        errors.push(error);
        const holds = paid >= low && paid <= high;
        if (holds) inside++;
        console.log(
          `${set.id}, ${size.join(" × ")}, ${name}: said ${said.toFixed(1)} s (${low.toFixed(1)} to ${high.toFixed(1)}), paid ${paid.toFixed(1)} s, ` +
            `${error < 0 ? "" : "+"}${(100 * error).toFixed(0)} %${holds ? "" : ", outside"}; samples ${forecast.samples.toFixed(1)}, taken ${measureFilm(film).samples.toFixed(1)}`,
        );
      }
    }
    const sizes = errors.map(Math.abs).sort((a, b) => a - b);
    console.log(
      `forecasts: ${errors.length}, median error ${(100 * sizes[Math.floor(sizes.length / 2)]!).toFixed(0)} %, ${inside} between their bounds (${Math.round((100 * inside) / errors.length)} %)`,
    );
  } finally {
    pool.dispose();
    engine.dispose();
  }
}
