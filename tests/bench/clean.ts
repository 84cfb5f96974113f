/** What the clean-up costs against rendering, on the palm house at the size of a bench. */
import type { CompiledGeometry } from "#core/scene/compiled";
import { copyFilm } from "#core/film/film";
import { CleanPool } from "#engine/clean-pool";
import { RenderEngine } from "#engine/engine";
import { nodeCleanHost } from "#engine/node-clean";
import { nodeHost } from "#engine/node-host";
import { finalSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { palmHouseDocument } from "../../demo/palm-house";

const [WIDTH, HEIGHT] = [650, 370];
const FULL = { fireflies: 1, air: 1, surfaces: 1 };

/** Least of several tries, ms. */
async function least(tries: number, work: () => Promise<unknown>): Promise<number> {
  let best = Infinity;
  for (let i = 0; i < tries; i++) {
    const t = performance.now();
    await work();
    best = Math.min(best, performance.now() - t);
  }
  return best;
}

export async function benchClean(geometry: CompiledGeometry): Promise<void> {
  const document = palmHouseDocument();
  const engine = await RenderEngine.create(nodeHost("build", 2));
  engine.setGeometry(geometry);
  const render = (samples: number) =>
    engine.start({ document, width: WIDTH, height: HEIGHT, stages: finalSchedule(0, samples, MEDIUM_PASSES) });
  const sample = (await least(3, () => render(2))) / 2;
  const { film } = await render(4);
  const pool = new CleanPool(nodeCleanHost("build", 2));
  const live = await least(8, () => pool.live(film, "air", 1, FULL));
  pool.dispose();
  const one = new CleanPool(nodeCleanHost("build", 1));
  const still = copyFilm(film);
  const finish = await least(3, () => one.finish(still, { sides: ["air", "surfaces"], strengths: FULL }));
  one.dispose();
  engine.dispose();
  console.log(`one sample of the palm house at ${WIDTH} × ${HEIGHT}, two threads: ${sample.toFixed(0)} ms`);
  console.log(`cleaning it while it is looked at, two threads: ${live.toFixed(0)} ms, ×${(live / sample).toFixed(3)} of that`);
  console.log(
    `cleaning it for good, one thread: ${((1000 * finish) / (WIDTH * HEIGHT)).toFixed(2)} s a megapixel, ×${(finish / (2 * sample)).toFixed(2)} of a sample's work`,
  );
}
