/** The engine on the palm house: two workers against one, first picture after a change, time to cancel. */
import type { CompiledGeometry } from "#core/scene/compiled";
import { develop } from "#core/film/develop";
import { RenderEngine } from "#engine/engine";
import { nodeHost } from "#engine/node-host";
import { F_COUNT } from "#core/layout/layout";
import { finalSchedule, liveSchedule, MEDIUM_PASSES } from "#engine/schedule";
import { palmHouseDocument } from "../../demo/palm-house";

export async function benchEngine(geometry: CompiledGeometry): Promise<void> {
  const doc = palmHouseDocument();
  const [width, height] = [800, 450];
  const time = async (workers: number): Promise<number> => {
    const engine = await RenderEngine.create(nodeHost("build", workers));
    engine.setGeometry(geometry);
    const request = { document: doc, width, height, stages: finalSchedule(0, 1, MEDIUM_PASSES) };
    await engine.start(request);
    let best = Infinity;
    for (let i = 0; i < 3; i++) best = Math.min(best, (await engine.start(request)).seconds);
    engine.dispose();
    return best;
  };
  const [one, two] = [await time(1), await time(2)];
  console.log(
    `one sample of ${width} × ${height}: one worker ${one.toFixed(2)} s, two ${two.toFixed(2)} s, ratio ${(one / two).toFixed(2)}`,
  );

  const engine = await RenderEngine.create(nodeHost("build", 2));
  engine.setGeometry(geometry);
  const picture = new Uint8ClampedArray(width * height * 4);
  const firsts: number[] = [],
    sharp: number[] = [],
    cancels: number[] = [];
  for (let i = 0; i < 12; i++) {
    const changed = { ...doc, air: [{ ...doc.air[0]!, density: 0.03 + 0.001 * i }] };
    const from = performance.now();
    let stage = 0;
    const run = engine.start({
      document: changed,
      width,
      height,
      stages: liveSchedule(64, "air"),
      onStage: () => {
        stage++;
        if (stage > 2) return;
        develop(engine.film()!, "beauty", doc.film, picture);
        (stage === 1 ? firsts : sharp).push(performance.now() - from);
      },
    });
    await new Promise((go) => setTimeout(go, 900));
    const stop = performance.now();
    await engine.cancel();
    cancels.push(performance.now() - stop);
    await run;
  }
  const show = (name: string, list: number[]): void => {
    const s = list.slice(2).sort((a, b) => a - b);
    console.log(`${name}: median ${s[s.length >> 1]!.toFixed(0)} ms, worst ${s.at(-1)!.toFixed(0)} ms`);
  };
  show("first picture (every 8th pixel each way) after a change, developed", firsts);
  show("second picture (every 4th)", sharp);
  show("cancelling running work", cancels);
  await lookedAt(engine);
  engine.dispose();
}

/** What samples that come first where one looks cost the whole, and how much sooner they come there. */
async function lookedAt(engine: RenderEngine): Promise<void> {
  const document = palmHouseDocument();
  const [width, height] = [656, 368];
  const place = { x: 0.6, y: 0.4 };
  const stages = liveSchedule(8, "air");
  const run = async (looked: boolean): Promise<{ whole: number; there: number }> => {
    engine.attend(looked ? place : null);
    const begun = performance.now();
    let there = Infinity;
    const watch = setInterval(() => {
      const film = engine.film();
      const at = (Math.floor(place.y * height) * width + Math.floor(place.x * width)) * (film?.stride ?? 0) + F_COUNT;
      if (film && film.data[at]! >= 4) there = Math.min(there, performance.now() - begun);
    }, 20);
    await engine.start({ document, width, height, stages });
    clearInterval(watch);
    return { whole: performance.now() - begun, there };
  };
  await run(false);
  // in turns: the machine's speed is not the same for long
  const ratios: { whole: number; there: number }[] = [];
  for (let i = 0; i < 3; i++) {
    const [usual, looked] = [await run(false), await run(true)];
    ratios.push({ whole: looked.whole / usual.whole, there: looked.there / usual.there });
  }
  const middle = (of: "whole" | "there"): string =>
    ratios
      .map((r) => r[of])
      .sort((a, b) => a - b)[1]!
      .toFixed(2);
  console.log(
    `looking at a place: 8 samples of all take ×${middle("whole")} as long, 4 samples there come after ×${middle("there")} of the time`,
  );
}
