/** Advice on the bench: trials of what would save time, beside the live picture, and what is taken of them. */
import { createStore } from "zustand/vanilla";
import type { Candidate } from "#core/budget/candidates";
import { secondsAllowed } from "#core/document/budget";
import { atMoment } from "#core/document/motion";
import type { SceneDocument } from "#core/document/schema";
import { finestStep } from "#core/scene/media";
import { advise, compared, LIMITS_SEEN, priceShare, type Advice, type Advised, type AdviseHost, type TrialPicture } from "#engine/advise";
import type { LiveEngine } from "./hosts";
import { finalOf, type FramePrice } from "./price";
import { sameScene } from "./scene-part";
import type { Session } from "./session";
import type { BenchStore } from "./store";

export interface AdviceState {
  running: { what: "advice" | "levels" | "frames"; done: number; all: number; words: string; since: number } | null;
  /** What was found, and what it was found for; rows come as they are measured. */
  rows: readonly Advice[];
  together: Advice | null;
  of: SceneDocument | null;
  /** Trials that were made, and that were not for want of time; null until all are through. */
  tried: Pick<Advised, "tried" | "untried" | "nearest"> | null;
  /** The frame as it is, as trials render it. */
  base: TrialPicture | null;
  /** Settings beside one another. */
  compared: readonly Advice[];
  comparedOf: SceneDocument | null;
  /** Frames of a final that were tried, against the present moment. */
  moments: readonly Moment[];
  error: string | null;
  /** Seconds that advice may take. */
  seconds: number;
}

/** Seconds that advice may take: what is offered, and what is taken at first. */
export const ADVICE_TIMES = [30, 100, 300] as const;
/** Seconds of a comparison of settings. */
const COMPARE_SECONDS = 40;
/** … of a few frames. */
const FRAME_SECONDS = 16;

/** A frame of a final, tried: what it takes against one of the present moment. */
export interface Moment {
  frame: number;
  share: number;
  of: SceneDocument;
}

/** Whether what was found for a document's final is so for another state of it: the same scene, rendered the same way. */
export const isOfFrame = (of: SceneDocument, doc: SceneDocument): boolean =>
  sameScene({ ...of, render: doc.render, film: doc.film }, doc) &&
  JSON.stringify(of.render) === JSON.stringify(finalOf(doc).document.render);

export class AdviceDesk {
  readonly state = createStore<AdviceState>(() => ({
    ...{
      running: null,
      rows: [],
      together: null,
      of: null,
      tried: null,
      base: null,
      compared: [],
      comparedOf: null,
      moments: [],
      error: null,
      seconds: 100,
    },
  }));
  private ending: AbortController | null = null;
  private engine: LiveEngine | null = null;

  constructor(
    private readonly session: Session,
    private readonly store: BenchStore,
    private readonly price: FramePrice,
    private readonly startEngine: () => Promise<LiveEngine>,
  ) {}

  /** Tries what would save time on the present frame. @returns what was found together, null where nothing was or it was cancelled */
  async advise(): Promise<Advice | null> {
    const { document } = finalOf(this.store.getState().document);
    const allowed = secondsAllowed(document.budget.limit, new Date());
    const frame = this.price.state.getState().frame?.seconds ?? 0;
    const enough = allowed !== null && frame > 0 ? Math.min(1, (0.95 * allowed) / frame) : 0;
    this.state.setState({ rows: [], together: null, tried: null, of: document });
    return this.trials("advice", async (host) => {
      const found = await advise(host, document, this.state.getState().seconds, LIMITS_SEEN, enough);
      const { rows, together, nearest, tried, untried } = found;
      this.state.setState({ rows, together, tried: { tried, untried, nearest } });
      return together;
    });
  }

  /** Renders some settings beside one another. */
  async compare(candidates: readonly Candidate[]): Promise<void> {
    const { document } = finalOf(this.store.getState().document);
    this.state.setState({ compared: [], comparedOf: document });
    await this.trials("levels", async (host) => {
      const all = await compared(host, document, candidates, COMPARE_SECONDS);
      this.state.setState({ compared: all });
      return null;
    });
  }

  /** Renders some moments beside the present one, small: how much dearer or cheaper their frames are. @param times s */
  async tryFrames(document: SceneDocument, frames: readonly { frame: number; time: number }[]): Promise<void> {
    this.state.setState({ moments: [] });
    const candidates = frames.map(({ frame, time }): Candidate => ({
      ...{ id: `frame ${frame}`, group: `frame ${frame}`, words: `frame ${frame}`, tooltip: "" },
      apply: (d) => atMoment({ ...d, time }),
    }));
    await this.trials("frames", async (host) => {
      const all = await compared(host, document, candidates, FRAME_SECONDS);
      this.state.setState({ moments: all.map((a, i) => ({ frame: frames[i]!.frame, share: priceShare(a, document), of: document })) });
      return null;
    });
  }

  /** Gives the present document a change: one step. */
  take(advice: Pick<Advice, "apply">): void {
    this.store.getState().set(advice.apply);
  }

  /** Seconds of a frame with a change, as the price stands; null while that is not known. */
  frameWith(advice: Advice): number | null {
    const { frame } = this.price.state.getState();
    const { of } = this.state.getState();
    return frame && of ? frame.seconds * priceShare(advice, of) : null;
  }

  cancel(): void {
    this.ending?.abort();
    void this.engine?.cancel();
  }

  dispose(): void {
    this.cancel();
    this.engine?.dispose();
    this.engine = null;
  }

  private async trials<T>(what: "advice" | "levels" | "frames", work: (host: AdviseHost) => Promise<T>): Promise<T | null> {
    if (this.state.getState().running) return null;
    const ending = new AbortController();
    this.ending = ending;
    const since = performance.now();
    this.state.setState({ error: null, running: { what, done: 0, all: 1, words: "starting", since } });
    try {
      return await this.session.withResting(async () => {
        this.engine = await this.startEngine();
        const { geometry, bounds } = this.session.state.getState();
        const host: AdviseHost = {
          engine: this.engine,
          geometryOf: (doc) => this.session.geometryOf(doc),
          facts: { bounds, step: finestStep(this.store.getState().document, geometry) },
          progress: (done, all, words) => this.state.setState({ running: { what, done, all, words, since } }),
          found: (advice) =>
            this.state.setState((s) =>
              what === "advice" ? { rows: [...s.rows, advice] } : what === "levels" ? { compared: [...s.compared, advice] } : {},
            ),
          base: (base) => what !== "frames" && this.state.setState({ base }),
          signal: ending.signal,
        };
        return work(host);
      });
    } catch (error) {
      if (!ending.signal.aborted) this.state.setState({ error: `Not measured: ${(error as Error).message}` });
      return null;
    } finally {
      this.engine?.dispose();
      this.engine = null;
      this.ending = null;
      this.state.setState({ running: null });
    }
  }
}
