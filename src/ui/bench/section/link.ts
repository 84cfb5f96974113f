/** Asks the section's worker: one request at a time, and of those that come meanwhile only the last. */
import { wrap, type Remote } from "comlink";
import { createStore, type StoreApi } from "zustand/vanilla";
import type { SceneDocument } from "#core/document/schema";
import type { CompiledGeometry } from "#core/scene/compile";
import type { Section, SectionRequest } from "#core/section/probe";
import type { SectionWorker } from "./section-worker";

export interface SectionState {
  section: (Section & { milliseconds: number }) | null;
  /** The document it shows, and what was asked. */
  document: SceneDocument | null;
  problem: string | null;
}

/** Milliseconds without another request after which the drawing is taken to be at rest. */
const REST = 180;

export class SectionLink {
  readonly state: StoreApi<SectionState> = createStore<SectionState>(() => ({ section: null, document: null, problem: null }));
  private raw: Worker | null = null;
  private worker: Remote<SectionWorker> | null = null;
  private geometry: CompiledGeometry | null = null;
  private given: CompiledGeometry | null = null;
  private wanted: { doc: SceneDocument; request: Omit<SectionRequest, "lit"> } | null = null;
  private busy = false;
  private resting: ReturnType<typeof setTimeout> | null = null;

  /** The geometry of documents asked about from now on. */
  setGeometry(geometry: CompiledGeometry): void {
    this.geometry = geometry;
    void this.work(false);
  }

  /** Asks for a section: soon as it is while things move, and once more with its lights when they rest. */
  ask(doc: SceneDocument, request: Omit<SectionRequest, "lit">): void {
    this.wanted = { doc, request };
    void this.work(false);
    if (this.resting) clearTimeout(this.resting);
    this.resting = setTimeout(() => void this.work(true), REST);
  }

  dispose(): void {
    if (this.resting) clearTimeout(this.resting);
    this.raw?.terminate();
    this.raw = null;
    this.worker = null;
    this.busy = true;
  }

  private async work(lit: boolean): Promise<void> {
    if (this.busy || !this.wanted || !this.geometry) {
      // at rest, but another is still at work: the lights are asked for after it
      if (lit && this.busy && this.raw) this.resting = setTimeout(() => void this.work(true), REST);
      return;
    }
    this.busy = true;
    const asked = this.wanted;
    try {
      if (!this.worker) {
        this.raw = new Worker(new URL("./section-worker.ts", import.meta.url), { type: "module" });
        this.worker = wrap<SectionWorker>(this.raw);
        await this.worker.start();
      }
      if (this.given !== this.geometry) {
        const geometry = this.geometry;
        await this.worker.setGeometry(geometry);
        this.given = geometry;
      }
      const section = await this.worker.section(asked.doc, { ...asked.request, lit });
      this.state.setState({ section, document: asked.doc, problem: null });
    } catch (error) {
      if (this.raw) this.state.setState({ problem: (error as Error).message });
    } finally {
      if (this.raw) this.busy = false;
    }
    if (asked !== this.wanted) void this.work(false);
  }
}
