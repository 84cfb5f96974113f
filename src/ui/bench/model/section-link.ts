/** Asks the section's worker: one request at a time, and of those that come meanwhile only the last. */
import { wrap, type Remote } from "comlink";
import { createStore, type StoreApi } from "zustand/vanilla";
import type { SceneDocument } from "#core/document/schema";
import type { CompiledGeometry } from "#core/scene/compiled";
import type { SectionRequest } from "#core/section/probe";
import type { DrawnSection } from "./section-paint";
import type { SectionWorker } from "./section-worker";

export interface SectionState {
  section: DrawnSection | null;
  /** The document it shows, and what was asked. */
  document: SceneDocument | null;
  problem: string | null;
}

/** What is asked for: a section, and how many pixels its picture has. */
export interface Asked extends Omit<SectionRequest, "lit"> {
  size: readonly [number, number];
}

/** Milliseconds without another request after which the drawing is taken to be at rest. */
const REST = 180;

/** Milliseconds after which a worker that failed is tried again. */
const AGAIN = 3000;

export interface SectionHost {
  worker: Remote<SectionWorker>;
  /** Rejected where the worker itself fails: then nothing it was asked is ever answered. */
  broken: Promise<never>;
  end(): void;
}

function browserSection(): SectionHost {
  const raw = new Worker(new URL("./section-worker.ts", import.meta.url), { type: "module" });
  const broken = new Promise<never>((_, reject) => {
    raw.onerror = (e) => reject(new Error(e.message || "The worker of the section could not start."));
  });
  broken.catch(() => undefined); // told to whoever asks
  return { worker: wrap<SectionWorker>(raw), broken, end: () => raw.terminate() };
}

export class SectionLink {
  readonly state: StoreApi<SectionState> = createStore<SectionState>(() => ({ section: null, document: null, problem: null }));
  private host: SectionHost | null = null;
  private starting: Promise<void> | null = null;
  private retrying: ReturnType<typeof setTimeout> | undefined;
  private geometry: CompiledGeometry | null = null;
  private given: CompiledGeometry | null = null;
  private wanted: { doc: SceneDocument; request: Asked } | null = null;
  private busy = false;
  private gone = false;
  /** Nothing was asked for a while: the lights may be drawn too. */
  private atRest = false;
  /** What the present section answers. */
  private answered: unknown[] = [];
  private resting: ReturnType<typeof setTimeout> | null = null;

  /** @param spawn makes a worker; it is called again where one failed */
  constructor(
    private readonly spawn: () => SectionHost = browserSection,
    private readonly wait = AGAIN,
  ) {}

  /** The geometry of documents asked about from now on. */
  setGeometry(geometry: CompiledGeometry): void {
    this.geometry = geometry;
    void this.work();
  }

  /** Asks for a section: soon as it is while things move, and once more with its lights when they rest. */
  ask(doc: SceneDocument, request: Asked): void {
    this.wanted = { doc, request };
    this.atRest = false;
    if (this.resting) clearTimeout(this.resting);
    this.resting = setTimeout(() => {
      this.atRest = true;
      void this.work();
    }, REST);
    void this.work();
  }

  dispose(): void {
    if (this.resting) clearTimeout(this.resting);
    this.gone = true;
    clearTimeout(this.retrying);
    this.drop();
  }

  /** Whether questions can be answered yet. */
  get ready(): boolean {
    return this.geometry !== null && !this.gone;
  }

  /** The worker with the present geometry, for other questions about the air. @throws where there is none yet, or it cannot start */
  async asked(): Promise<Remote<SectionWorker>> {
    const { geometry } = this;
    if (!geometry || this.gone) throw new Error("The set is not built yet.");
    const host = (this.host ??= this.spawn());
    try {
      this.starting ??= Promise.race([host.worker.start(), host.broken]);
      await this.starting;
      if (this.given !== geometry) {
        this.given = geometry;
        await host.worker.setGeometry(geometry);
      }
    } catch (error) {
      // the next question starts another
      if (this.host === host) this.drop();
      throw error;
    }
    return host.worker;
  }

  private drop(): void {
    this.host?.end();
    this.host = null;
    this.starting = null;
    this.given = null;
  }

  /** Works until what is wanted is answered. */
  private async work(): Promise<void> {
    if (this.busy || this.gone) return;
    this.busy = true;
    try {
      while (this.wanted && this.geometry) {
        const { wanted, geometry, atRest: lit } = this;
        const asked = [wanted, geometry, lit];
        if (asked.every((v, i) => v === this.answered[i])) break;
        const worker = await this.asked();
        const { size, ...request } = wanted.request;
        const section = await worker.section(wanted.doc, { ...request, lit }, size);
        if (this.gone) return;
        this.answered = asked;
        this.state.setState({ section, document: wanted.doc, problem: null });
      }
    } catch (error) {
      if (this.gone) return;
      this.state.setState({ problem: (error as Error).message });
      clearTimeout(this.retrying);
      // a worker that answers with an error would do so again
      if (!this.host) this.retrying = setTimeout(() => void this.work(), this.wait);
    } finally {
      this.busy = false;
    }
  }
}
