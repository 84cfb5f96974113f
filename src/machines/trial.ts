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

/** Milliseconds of rest after which it is taken again, at the least, and how many times as long the next rest must be. */
const REST = 20_000;
const LONGER = 4;

/** How fast a thread of a machine is: the best of its trials, as the least disturbed. More are taken while it has nothing to do. */
export class Pace {
  private since: number | null = null;
  private taking = false;
  // machines that start together do not take it together again
  private rests = REST * (1 + Math.random());

  /** @param best samples a second of a thread, as was found first @param take finds it again @param now a clock */
  constructor(
    private best: number,
    private readonly take: () => Promise<number>,
    private readonly now: () => number = Date.now,
  ) {}

  static async of(workshop: Workshop): Promise<Pace> {
    const take = (): Promise<number> => trialPace(workshop);
    return new Pace(await take(), take);
  }

  /** Samples a second of a thread on the trial picture. */
  get samples(): number {
    return this.best;
  }

  /** Is told now and then whether there is nothing to do. */
  rest(idle: boolean): void {
    if (!idle || this.taking) {
      this.since = null;
      return;
    }
    this.since ??= this.now();
    if (this.now() - this.since < this.rests) return;
    this.rests *= LONGER;
    this.since = null;
    this.taking = true;
    void this.take()
      .then((pace) => (this.best = Math.max(this.best, pace)))
      // one that fails says nothing of how fast it is
      .catch(() => undefined)
      .finally(() => (this.taking = false));
  }
}

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
