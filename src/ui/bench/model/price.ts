/** The price of the final, always in sight: told from the live picture while it is rendered, and held against the project's budget. */
import { createStore } from "zustand/vanilla";
import { API, call, type AnswerOf, type ForecastSaid, type RenderOrder, type Transport } from "#api/contract";
import { machinesFor, onFleet, type Fleet, type FleetWork } from "#core/budget/fleet";
import { learnedFrom, LivePrice, onMachine, type Besides, type Learned, type Price } from "#core/budget/live";
import { judgesCleaned, targetOf } from "#core/budget/target";
import { documentChanges } from "#core/document/changes";
import type { SceneDocument } from "#core/document/schema";
import { pixelBytes } from "#core/film/film-bytes";
import { lengthWords } from "#core/document/units";
import { judgements } from "#engine/settled";
import { Latest } from "../../shared/latest";
import type { Session } from "./session";
import type { BenchStore } from "./store";

/** A final that is priced: the document as it is rendered, and whether it is cleaned at the end. */
interface Final {
  document: SceneDocument;
  clean: boolean;
}

/** Seconds with the bounds between which they lie in eight cases of ten. */
export type Span = Pick<Price, "seconds" | "low" | "high">;

export interface PriceState {
  /** Of a frame of the project's final: processor seconds of this machine, and seconds on the one that renders; null while nothing is known. */
  price: Price | null;
  frame: Span | null;
  /** What of the price is no sampling. */
  besides: Besides | null;
  /** How much dearer (share) the last edit made it, and which settings that were; null where it moved too little to say so. */
  moved: { share: number; words: string } | null;
  /** Whether the picture's noise is known as the target asks for it: not where that is of a cleaned picture, which is not looked at. */
  unseen: boolean;
  record: AnswerOf<typeof API.budget> | null;
  learned: Learned;
}

/** Milliseconds between looks at a film past its first sweep. */
const PACE = 1000;
/** Stages of the first sweep, each of which is looked at. */
const SWEEP = 4;
/** Samples a pixel of a look that a price is told by when another edit is held against it, and of one that is held against it. */
const SETTLED = 8,
  ENOUGH = 2;
/** What is less is no move: looks differ by as much. */
const MOVED = 0.04;
/** Processor seconds that cleaning a pixel takes where no final has told yet (docs/performance.md). */
const CLEANING = 1.5e-5;
/** Milliseconds between asking for what finals took. */
const RECORD = 60_000;

/** The final that a project's budget means. */
export function finalOf(doc: SceneDocument): Final {
  const { size, noise } = doc.budget;
  const render = noise ? { ...doc.render, noiseThreshold: noise.threshold, thresholdOf: noise.of } : doc.render;
  return { document: { ...doc, film: { ...doc.film, size: size ?? doc.film.size }, render }, clean: true };
}

export class FramePrice {
  readonly state = createStore<PriceState>(() => ({
    ...{ price: null, frame: null, besides: null, moved: null, unseen: false, record: null },
    learned: learnedFrom([]),
  }));
  private readonly live = new LivePrice();
  /** The price that the present edit is held against, and what it was of. */
  private base: Settled | null = null;
  private settled: Settled | null = null;
  private lookedAt = 0;
  private asking: ReturnType<typeof setTimeout> | undefined;
  private later: ReturnType<typeof setTimeout> | undefined;
  private readonly ends: (() => void)[];
  private gone = false;

  constructor(
    private readonly session: Session,
    private readonly store: BenchStore,
    private readonly request: Transport,
  ) {
    let last: unknown = null;
    this.ends = [
      session.state.subscribe(({ progress }) => {
        // a run that begins still has the progress of the one before
        if (!progress || progress === last) return;
        last = progress;
        const wait = progress.stage <= SWEEP ? 0 : this.lookedAt + PACE - performance.now();
        clearTimeout(this.later);
        if (wait <= 0) this.looking.ask(undefined);
        // the last stages of a run come quicker than looks
        else this.later = setTimeout(() => this.looking.ask(undefined), wait);
      }),
      store.subscribe((now, before) => {
        const { budget, render, film } = now.document;
        const was = before.document;
        if (budget !== was.budget || render !== was.render || film !== was.film) this.tell();
      }),
    ];
  }

  /** Asks what finals took, now and then. */
  start(): void {
    void this.refresh();
  }

  async refresh(): Promise<void> {
    clearTimeout(this.asking);
    try {
      const record = await call(this.request, API.budget, {});
      if (this.gone) return;
      this.state.setState({ record, learned: learnedFrom(record.records) });
      this.tell();
    } catch {
      // the price is told without it
    }
    if (!this.gone) this.asking = setTimeout(() => void this.refresh(), RECORD);
  }

  dispose(): void {
    this.gone = true;
    clearTimeout(this.later);
    clearTimeout(this.asking);
    for (const end of this.ends) end();
  }

  /** Threads of the machine that renders. */
  get threads(): number {
    const { budget } = this.store.getState().document;
    return budget.threads ?? this.state.getState().record?.threads ?? Math.max(1, this.session.state.getState().workers);
  }

  /** What was said of a frame of an order; null where the live picture does not tell it. */
  said(document: SceneDocument, order: RenderOrder): ForecastSaid | null {
    const { level, airBounces, surfaceBounces, airSize, estimator } = order;
    const { render, film } = document;
    const asHere =
      (level ?? render.level) === render.level &&
      (airBounces ?? render.airBounces) === render.airBounces &&
      (surfaceBounces ?? render.surfaceBounces) === render.surfaceBounces &&
      (airSize ?? render.airSize) === render.airSize &&
      (estimator ?? render.estimator) === render.estimator;
    if (!asHere || order.seconds !== null || (order.whole && film.region)) return null;
    const { noise, samples, clean } = order;
    const final: Final = {
      clean,
      document: {
        ...document,
        film: { ...film, size: order.size },
        render: {
          ...{ ...render, samples, noiseThreshold: noise?.threshold ?? null },
          ...(noise ? { thresholdOf: noise.of } : {}),
        },
      },
    };
    const { learned } = this.state.getState();
    const price = this.priceOf(final, learned);
    const model = this.priceOf(final, { ...learnedFrom([]), doubt: 0 });
    if (!price || !model || price.looked < ENOUGH) return null;
    const { seconds, low, high } = price;
    return { model: model.seconds, said: seconds, low, high, samples: price.samples };
  }

  /** What the project's final takes where it ends at another noise; null where that is not told yet, or it is not cleaned. */
  at({ threshold, of }: NonNullable<SceneDocument["budget"]["noise"]>): (Pick<Price, "samples" | "unreached"> & { span: Span }) | null {
    const { document, clean } = finalOf(this.store.getState().document);
    const other = { ...document, render: { ...document.render, noiseThreshold: threshold, thresholdOf: of } };
    if (of === "cleaned" && !judgesCleaned(other)) return null;
    const price = this.priceOf({ document: other, clean }, this.state.getState().learned);
    return price && { span: this.onMachine(price), samples: price.samples, unreached: price.unreached };
  }

  /** Other machines that render, where the project means those of this server. */
  get fleet(): Fleet | null {
    const { threads, speed } = this.store.getState().document.budget;
    return threads === null && speed === 1 ? (this.state.getState().record?.fleet ?? null) : null;
  }

  /** What frames of a price are for machines. */
  private workOf(price: Span, pixels: number, frames: number): FleetWork {
    const besides = this.state.getState().besides ?? { scene: this.session.buildSeconds, clean: 0 };
    const bytes = pixelBytes(this.store.getState().document);
    return { price, besides, pixels, pixelBytes: bytes, frames, server: this.state.getState().record?.threads ?? 1 };
  }

  /** Seconds of several frames of a size on the machines that render. */
  ofFrames(price: Span, size: readonly [number, number], frames: number): Span {
    const { fleet } = this;
    if (fleet) return onFleet(this.workOf(price, size[0] * size[1], frames), fleet);
    const one = this.onMachine(price);
    return { seconds: frames * one.seconds, low: frames * one.low, high: frames * one.high };
  }

  /** Machines such as those of this server that frames need to be done within some seconds; null where none do, or nothing is known. */
  machinesFor(allowed: number, frames: number): number | null {
    const { fleet } = this;
    const { price } = this.state.getState();
    if (!fleet || !price) return null;
    const [width, height] = finalOf(this.store.getState().document).document.film.size;
    return machinesFor(allowed, this.workOf(price, width * height, frames), fleet.threads / fleet.machines);
  }

  /** Seconds of a frame on the machine that renders, or the machines. */
  onMachine(price: Span): Span {
    const { fleet } = this;
    if (fleet) {
      const [width, height] = finalOf(this.store.getState().document).document.film.size;
      return onFleet(this.workOf(price, width * height, 1), fleet);
    }
    return onMachine(price, this.session.buildSeconds, this.threads, this.store.getState().document.budget.speed);
  }

  private readonly looking = new Latest<undefined>(async () => {
    this.lookedAt = performance.now();
    const { run } = this.session;
    const { progress } = this.session.state.getState();
    const film = this.session.shown();
    // a window is no frame, and what it costs tells nothing of one
    if (!film || film.frame || !progress) return;
    const [width] = finalOf(this.store.getState().document).document.film.size;
    const look = await this.session.films.looked(film, width / film.width);
    if (run !== this.session.run || this.gone) return;
    this.live.look(run, look, progress.work);
    this.tell();
  });

  private priceOf({ document: doc, clean }: Final, learned: Learned): Price | null {
    const target = targetOf(doc);
    const of = judgesCleaned(doc) ? "cleaned" : "rendered";
    return this.live.price({ ...target, of }, this.besidesOf({ document: doc, clean }, target.pixels), learned);
  }

  /** What a frame of so many pixels takes besides its samples. */
  private besidesOf({ document, clean }: Final, pixels: number): Besides {
    const { minSamples, samples } = document.render;
    const judged = judgesCleaned(document) ? judgements(minSamples, samples) : 0;
    const each = this.state.getState().record?.cleanRate ?? CLEANING;
    return { scene: this.session.buildSeconds, clean: ((clean ? 1 : 0) + judged) * each * pixels };
  }

  private tell(): void {
    const { document } = this.store.getState();
    const { learned, moved: was } = this.state.getState();
    const final = finalOf(document);
    const price = this.priceOf(final, learned);
    // what is not told for a moment, as where all begins anew, stays as it was said
    if (!price) return this.state.setState({ unseen: judgesCleaned(final.document) });
    const seen = this.session.seen();
    let moved = was;
    if (this.settled && this.settled.document !== seen && this.base !== this.settled) {
      this.base = this.settled;
      moved = null;
    }
    if (this.base && this.base.document !== seen && price.looked >= ENOUGH)
      moved = moveOf(this.base, { document: seen, seconds: price.seconds });
    if (price.looked >= SETTLED) this.settled = { document: seen, seconds: price.seconds };
    const besides = this.besidesOf(final, targetOf(final.document).pixels);
    this.state.setState({ besides });
    this.state.setState({ price, frame: this.onMachine(price), moved, unseen: false });
  }
}
interface Settled {
  document: SceneDocument;
  seconds: number;
}

/** Most settings that are named. */
const NAMED = 2;

/** How far a price moved from one document to another, and by which settings. */
export function moveOf(from: Settled, to: Settled): PriceState["moved"] {
  const share = to.seconds / from.seconds - 1;
  if (!(Math.abs(share) >= MOVED)) return null;
  const changes = documentChanges(from.document, to.document, lengthWords("metric")).filter((c) => c.of !== "Picture");
  if (changes.length === 0) return null;
  const words = changes.slice(0, NAMED).map(({ of, setting }) => (setting ? `${of}, ${setting}` : of));
  const more = changes.length - words.length;
  return { share, words: words.join("; ") + (more > 0 ? ` and ${more} more` : "") };
}
