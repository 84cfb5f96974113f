/** The frame that a worker has before it: one at a time, units of it beside each other, those of the next once they are done. */
import { assetOf } from "#core/document/assets";
import { parseDocument } from "#core/document/parse";
import { InputError } from "#core/errors";
import { readResources } from "#core/scene/assets";
import type { TileRun } from "#engine/tile-run";
import { planFrame, renderedDocument, type FramePlan } from "#finals/plan";
import type { Workshop } from "#finals/workshop";
import { briefSchema, type Unit } from "../unit";
import type { FileCache } from "./cache";

export class Scene {
  private readonly busy = new Map<number, Promise<unknown>>();

  constructor(
    readonly plan: FramePlan,
    readonly run: TileRun,
  ) {}

  /** Lets one at a time be at a tile: a unit may come again while the first of it is still worked off. */
  async alone<T>(tile: number, work: () => Promise<T>): Promise<T> {
    const before = this.busy.get(tile) ?? Promise.resolve();
    const own = before.catch(() => undefined).then(work);
    this.busy.set(tile, own);
    try {
      return await own;
    } finally {
      if (this.busy.get(tile) === own) this.busy.delete(tile);
    }
  }
}

export class Scenes {
  private present: { frame: string; scene: Scene } | null = null;
  private users = 0;
  private turn: Promise<void> = Promise.resolve();
  private idle: () => void = () => undefined;
  /** What it is at, in a word. */
  says = "waits";

  constructor(
    private readonly workshop: Workshop,
    private readonly cache: FileCache,
  ) {}

  /** Lets a unit be worked off in its scene. @throws InputError where the scene is another one here */
  async use<T>(unit: Unit, work: (scene: Scene) => Promise<T>): Promise<T> {
    const scene = await this.entered(unit);
    try {
      return await work(scene);
    } finally {
      this.users--;
      if (this.users === 0) {
        this.says = "waits";
        this.idle();
      }
    }
  }

  private async entered(unit: Unit): Promise<Scene> {
    return this.inTurn(async () => {
      if (this.present?.frame !== unit.frame) {
        await this.left();
        this.present = { frame: unit.frame, scene: await this.open(unit) };
      }
      this.users++;
      this.says = "renders";
      return this.present.scene;
    });
  }

  /** Lets something have the machine alone, with no scene open: units wait meanwhile. */
  async alone<T>(work: () => Promise<T>): Promise<T> {
    return this.inTurn(async () => {
      await this.left();
      return work();
    });
  }

  private async inTurn<T>(work: () => Promise<T>): Promise<T> {
    const before = this.turn;
    let leave = (): void => undefined;
    this.turn = new Promise<void>((done) => (leave = done));
    await before;
    try {
      return await work();
    } finally {
      leave();
    }
  }

  /** Waits until the present scene is left by all, and ends it. */
  private async left(): Promise<void> {
    if (this.users > 0) await new Promise<void>((done) => (this.idle = done));
    await this.close();
  }

  private async open(unit: Unit): Promise<Scene> {
    this.says = "fetches its scene";
    const text = Buffer.from(await this.cache.get(unit.brief)).toString("utf8");
    const { document, passes, firstSample, strengths } = briefSchema.parse(JSON.parse(text));
    const work = { document: parseDocument(JSON.parse(document)), passes, firstSample, strengths };
    const doc = renderedDocument(work);
    const geometry = await this.workshop.geometryOf(
      doc,
      async (of) =>
        readResources(of, async (name) => {
          const { sha256 } = assetOf(of, name);
          if (sha256 === undefined) throw new InputError(`file ${name}: the document does not say its hash`);
          return this.cache.get(sha256);
        }),
      () => (this.says = "builds its scene"),
    );
    const plan = planFrame(work, geometry, this.workshop.kernel);
    if (plan.identity.key !== unit.frame) throw new InputError("the scene is another one on this machine: its version of Fumarium differs");
    const { width, height } = plan.identity;
    this.workshop.engine.setGeometry(geometry);
    return new Scene(plan, await this.workshop.engine.open({ document: doc, width, height }));
  }

  /** Ends what is open. */
  async close(): Promise<void> {
    const { present } = this;
    this.present = null;
    await present?.scene.run.close();
  }
}
