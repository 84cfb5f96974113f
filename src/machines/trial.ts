/** A trial picture by which machines are compared: what a thread of one takes against what one here does. */
import { parseDocument } from "#core/document/parse";
import type { Resources } from "#core/scene/compiled";
import { compileScene } from "#core/scene/compile";
import type { Workshop } from "#finals/workshop";
import { MEDIUM_PASSES } from "#engine/schedule";
import { tilesOf } from "#engine/tiles";

const NONE: Resources = { models: new Map(), pictures: new Map(), profiles: new Map(), volumes: new Map() };
const SIZE = [96, 64] as const;
const SAMPLES = 2;
/** Times that it is taken; the quickest counts, as least disturbed, once the kernel is compiled as it will be. */
const TIMES = 3;

/** @returns samples a second of a thread */
export async function trialPace(workshop: Workshop): Promise<number> {
  const doc = parseDocument({
    fumarium: 2,
    title: "trial",
    materials: { stone: { baseColor: [0.5, 0.48, 0.45] } },
    camera: { position: [0, 2, 12], target: [0, 1, 0], fieldOfView: 30 },
    film: { size: [...SIZE] },
    objects: [
      { kind: "rectangle", material: "stone", size: [40, 40] },
      { kind: "sphere", material: "stone", radius: 1, position: [0, 1, 0] },
      { kind: "sphere", material: "stone", radius: 0.5, position: [2, 0.5, 1] },
    ],
    sun: { azimuth: 60, elevation: 25 },
    lights: [{ kind: "point", position: [1, 3, 1], intensity: 3000 }],
    air: [{ density: 0.05, anisotropy: 0.5, noise: { size: 2 }, height: { level: 0, scale: 6 } }],
    render: { samples: SAMPLES, seed: 1 },
  });
  const [width, height] = SIZE;
  const stage = { stride: 1, done: 0, first: 0, end: SAMPLES, passes: MEDIUM_PASSES };
  return workshop.alone(compileScene(doc, NONE), async (engine) => {
    const run = await engine.open({ document: doc, width, height });
    try {
      const { tiles } = tilesOf(run.film.crop);
      let best = Infinity;
      for (let k = 0; k < TIMES; k++) {
        run.film.data.fill(0);
        const all = await Promise.all(Array.from({ length: tiles }, (_, tile) => run.take(tile, [stage], 0)));
        best = Math.min(
          best,
          all.reduce((s, t) => s + t.seconds, 0),
        );
      }
      return (width * height * SAMPLES) / best;
    } finally {
      await run.close();
    }
  });
}
