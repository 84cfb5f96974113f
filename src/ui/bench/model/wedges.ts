/** Wedges of a project: makes their pictures in the background, beside the live one, and goes on with them after a reload. */
import { createStore } from "zustand/vanilla";
import { API, call, type Transport, type Wedge, type WedgeCell, type WedgeSpec } from "#api/contract";
import type { SceneDocument } from "#core/document/schema";
import { wedgePicture } from "#engine/wedge";
import { upload } from "../../shared/api";
import type { LiveEngine } from "./hosts";
import type { Session } from "./session";
import type { BenchStore } from "./store";
import { cellCount, checkWedge, documentAt, missingCells } from "./wedge-values";

interface WedgesState {
  wedges: Wedge[];
  /** Which one is looked at. */
  open: string | null;
  /** Which one is being made, the place of the present picture, how far that is, and seconds left by those before; null: unknown. */
  running: { id: string; at: number; share: number; secondsLeft: number | null } | null;
  error: string | null;
  removed: Wedge | null;
}

/** What a wedge asks of the page and its machine. */
export interface WedgesHost {
  request: Transport;
  /** An engine of its own. */
  startEngine(): Promise<LiveEngine>;
  /** Stores a picture. @returns its hash */
  store(png: Uint8Array): Promise<string>;
  /** Does something that only one window may do at a time; not, where another does it. */
  alone(name: string, work: () => Promise<void>): Promise<void>;
}

export const storePicture = async (png: Uint8Array): Promise<string> =>
  (await upload("picture", new Blob([png as Uint8Array<ArrayBuffer>]))).sha256;

export class Wedges {
  readonly state = createStore<WedgesState>(() => ({ wedges: [], open: null, running: null, error: null, removed: null }));
  private readonly documents = new Map<string, SceneDocument>();
  private engine: LiveEngine | null = null;
  private cancelled = false;
  private gone = false;

  constructor(
    private readonly projectId: string,
    private readonly session: Session,
    private readonly store: BenchStore,
    private readonly host: WedgesHost,
    initial: Wedge[],
  ) {
    this.state.setState({ wedges: initial, open: initial.at(-1)?.id ?? null });
  }

  /** Makes a wedge of the present document. @throws InputError where it cannot be one */
  async make(spec: WedgeSpec): Promise<void> {
    const { document } = this.store.getState();
    checkWedge(document, spec);
    this.state.setState({ error: null });
    const wedge = await call(this.host.request, API.makeWedge, { id: this.projectId }, { spec, document });
    this.documents.set(wedge.id, document);
    this.state.setState((s) => ({ wedges: [...s.wedges, wedge], open: wedge.id }));
    await this.run(wedge.id);
  }

  /** Goes on with what an earlier visit began. */
  async resume(): Promise<void> {
    for (const { id, ended } of this.state.getState().wedges) if (!ended && !this.gone) await this.run(id);
  }

  /** Goes on with one that was ended. */
  async goOn(id: string): Promise<void> {
    this.replace(id, { ended: false });
    await this.change(id, { ended: false });
    await this.run(id);
  }

  /** Ends the one that is being made; its pictures stay. */
  async cancel(): Promise<void> {
    const { running } = this.state.getState();
    if (!running) return;
    this.cancelled = true;
    await this.engine?.cancel();
    this.replace(running.id, { ended: true });
    await this.change(running.id, { ended: true });
  }

  /** Gives the present document the values of a picture. @throws InputError where it cannot have them */
  pick(id: string, at: number): void {
    const { spec } = this.wedge(id)!;
    const next = documentAt(this.store.getState().document, spec, at);
    this.store.getState().set(() => next);
  }

  look(id: string | null): void {
    this.state.setState({ open: id });
  }

  async remove(id: string): Promise<void> {
    const wedge = this.wedge(id);
    if (!wedge) return;
    if (this.state.getState().running?.id === id) await this.cancel();
    this.state.setState((s) => {
      const wedges = s.wedges.filter((w) => w.id !== id);
      return { wedges, removed: wedge, open: s.open === id ? (wedges.at(-1)?.id ?? null) : s.open };
    });
    await this.change(id, { deleted: true });
  }

  async restore(): Promise<void> {
    const { removed } = this.state.getState();
    if (!removed) return;
    const wedges = [...this.state.getState().wedges, removed].sort((a, b) => a.createdAt - b.createdAt);
    this.state.setState({ wedges, removed: null, open: removed.id });
    await this.change(removed.id, { deleted: false });
  }

  dispose(): void {
    this.gone = true;
    this.engine?.dispose();
  }

  private wedge(id: string): Wedge | undefined {
    return this.state.getState().wedges.find((w) => w.id === id);
  }
  private replace(id: string, change: Partial<Wedge>): void {
    this.state.setState((s) => ({ wedges: s.wedges.map((w) => (w.id === id ? { ...w, ...change } : w)) }));
  }
  private async change(wedge: string, change: { cell?: WedgeCell; ended?: boolean; deleted?: boolean }): Promise<void> {
    try {
      await call(this.host.request, API.changeWedge, { id: this.projectId, wedge }, change);
    } catch (error) {
      this.state.setState({ error: `The wedge was not saved: ${(error as Error).message}` });
    }
  }
  private async document(wedge: string): Promise<SceneDocument> {
    const had = this.documents.get(wedge);
    if (had) return had;
    const { document } = await call(this.host.request, API.wedgeDocument, { id: this.projectId, wedge });
    this.documents.set(wedge, document);
    return document;
  }

  /** Makes what is missing of a wedge, one picture after the other. */
  private async run(id: string): Promise<void> {
    if (this.state.getState().running || missingCells(this.wedge(id)!).length === 0) return;
    this.cancelled = false;
    this.state.setState({ running: { id, at: missingCells(this.wedge(id)!)[0]!, share: 0, secondsLeft: null } });
    try {
      await this.host.alone(`wedge ${id}`, async () => {
        const document = await this.document(id);
        // where another window made some of them meanwhile they are made again, the same
        this.engine = await this.host.startEngine();
        for (const at of missingCells(this.wedge(id)!)) {
          if (this.cancelled || this.gone) break;
          await this.picture(id, document, at);
        }
      });
    } catch (error) {
      if (this.gone) return;
      this.state.setState({ error: `The wedge cannot go on: ${(error as Error).message}` });
      // it is not begun again by itself
      this.replace(id, { ended: true });
      await this.change(id, { ended: true });
    } finally {
      this.engine?.dispose();
      this.engine = null;
      this.state.setState({ running: null });
    }
  }

  private async picture(id: string, document: SceneDocument, at: number): Promise<void> {
    const engine = this.engine!;
    const wedge = this.wedge(id)!;
    const doc = documentAt(document, wedge.spec, at);
    const tell = (share: number): void => this.state.setState({ running: { id, at, share, secondsLeft: this.left(id, share) } });
    tell(0);
    engine.setGeometry(await this.session.geometryOf(doc));
    const made = await wedgePicture(engine, doc, wedge.spec, (p) => tell(p.share));
    if (!made || this.cancelled || this.gone) return;
    const { film, statistics } = await this.session.cleanedFilm(made.film, doc);
    const png = await this.session.worker.png(film, "beauty", doc, { ...statistics, seconds: made.seconds, seed: doc.render.seed });
    const { samples, noise, cleanedNoise } = statistics;
    const cell = { at, picture: await this.host.store(png), seconds: made.seconds, samples, noise: cleanedNoise ?? noise };
    if (this.cancelled || this.gone) return;
    this.replace(id, { cells: [...this.wedge(id)!.cells.filter((c) => c.at !== at), cell].sort((a, b) => a.at - b.at) });
    await this.change(id, { cell });
  }

  /** Seconds that the rest will take, by the pictures that are there. */
  private left(id: string, share: number): number | null {
    const { cells, spec } = this.wedge(id)!;
    if (cells.length === 0) return null;
    const mean = cells.reduce((a, c) => a + c.seconds, 0) / cells.length;
    return mean * Math.max(0, cellCount(spec) - cells.length - share);
  }
}
