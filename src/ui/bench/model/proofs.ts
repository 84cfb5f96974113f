/** Proofs of a project: kept pictures with all that made them. */
import { createStore } from "zustand/vanilla";
import { API, call, type BodyOf, type Proof } from "#api/contract";
import type { SceneDocument } from "#core/document/schema";
import { partShown, type Film } from "#core/film/film";
import { PASS_NAMES } from "#core/film/passes";
import { CleanCancelled } from "#engine/clean-pool";
import { request, upload } from "../../shared/api";
import { placeBefore, placeBeside } from "./proof-order";
import type { Session } from "./session";

interface ProofState {
  proofs: Proof[];
  /** Documents that made them, by proof, as far as they were asked for. */
  documents: Readonly<Record<string, SceneDocument>>;
  busy: boolean;
  /** Share of its clean-up that is done while a proof is being kept; null while it waits for samples. */
  cleaned: number | null;
  error: string | null;
  /** The proof last removed, which can be brought back. */
  removed: Proof | null;
}

export class ProofShelf {
  readonly state = createStore<ProofState>(() => ({ proofs: [], documents: {}, busy: false, cleaned: null, error: null, removed: null }));
  private readonly films = new Map<string, Promise<Film>>();

  constructor(
    private readonly projectId: string,
    private readonly session: Session,
    initial: Proof[],
  ) {
    this.state.setState({ proofs: initial });
  }

  /** The document that made a proof; loaded once. */
  async document(id: string): Promise<SceneDocument> {
    const had = this.state.getState().documents[id];
    if (had) return had;
    const { document } = await call(request, API.proofDocument, { id: this.projectId, proof: id });
    this.state.setState((s) => ({ documents: { ...s.documents, [id]: document } }));
    return document;
  }

  /** Takes what is done with a proof's document, or says why it could not be had. */
  async withDocument(id: string, take: (document: SceneDocument) => void): Promise<void> {
    try {
      take(await this.document(id));
    } catch (error) {
      this.state.setState({ error: `The proof's settings could not be loaded: ${(error as Error).message}` });
    }
  }

  /** Film of a proof, which is developed by its document: both are loaded, once. */
  film(id: string): Promise<Film> | null {
    const proof = this.state.getState().proofs.find((p) => p.id === id);
    if (!proof) return null;
    let film = this.films.get(proof.film);
    if (!film) {
      film = Promise.all([this.session.worker.film(proof.film), this.document(id)]).then(([of]) => of);
      this.films.set(proof.film, film);
      film.catch(() => this.films.delete(proof.film));
    }
    return film;
  }

  /** Keeps the picture of the present settings, as soon as each pixel has a sample. */
  async keep(note = ""): Promise<void> {
    if (this.state.getState().busy) return;
    this.state.setState({ busy: true, cleaned: null, error: null });
    this.ending = new AbortController();
    const { signal } = this.ending;
    try {
      const onProgress = (cleaned: number): void => this.state.setState({ cleaned });
      const { film, document, statistics, seconds, picture, filmFile } = await this.session.withCleanedSnapshot(
        { signal, onProgress },
        async (still) => {
          const facts = { ...still.statistics, seconds: still.seconds, seed: still.document.render.seed };
          const png = await this.session.worker.png(still.film, "beauty", still.document, facts);
          const exr = await this.session.worker.exr(still.film, [...PASS_NAMES], "half", still.document, facts, { soon: true });
          return {
            ...still,
            picture: await upload("picture", new Blob([png as Uint8Array<ArrayBuffer>])),
            filmFile: await upload("film", new Blob([exr as Uint8Array<ArrayBuffer>])),
          };
        },
      );
      const proof = await call(
        request,
        API.keepProof,
        { id: this.projectId },
        {
          document,
          note,
          seconds,
          samples: statistics.samples,
          noise: statistics.noise,
          picture: picture.sha256,
          film: filmFile.sha256,
          part: partShown(film),
          // a region that was rendered alone stays to be compared with
          laid: document.film.region !== null,
        },
      );
      this.films.set(proof.film, Promise.resolve(film));
      this.state.setState((s) => ({ proofs: [...s.proofs, proof], documents: { ...s.documents, [proof.id]: document } }));
    } catch (error) {
      if (!(error instanceof CleanCancelled)) this.state.setState({ error: `The proof was not kept: ${(error as Error).message}` });
    } finally {
      this.ending = null;
      this.state.setState({ busy: false });
    }
  }
  private ending: AbortController | null = null;

  /** Gives up the proof that is being kept. */
  giveUp(): void {
    this.ending?.abort();
  }

  /** Changes a proof's note, star or place, or lays it over the live picture. */
  async set(id: string, change: Partial<Pick<Proof, "note" | "star" | "place" | "laid">>): Promise<void> {
    this.state.setState((s) => ({ proofs: s.proofs.map((p) => (p.id === id ? { ...p, ...change } : p)) }));
    await this.change(id, change);
  }

  /** Changes places with the proof before it, or behind it. */
  async move(id: string, by: -1 | 1): Promise<void> {
    const place = placeBeside(this.state.getState().proofs, id, by);
    if (place !== null) await this.set(id, { place });
  }
  /** Hangs a proof before another. */
  async moveBefore(id: string, before: string): Promise<void> {
    const place = placeBefore(this.state.getState().proofs, id, before);
    if (place !== null) await this.set(id, { place });
  }

  async remove(id: string): Promise<void> {
    const proof = this.state.getState().proofs.find((p) => p.id === id);
    if (!proof) return;
    this.state.setState((s) => ({ proofs: s.proofs.filter((p) => p.id !== id), removed: proof }));
    await this.change(id, { deleted: true });
  }

  async restore(): Promise<void> {
    const proof = this.state.getState().removed;
    if (!proof) return;
    this.state.setState((s) => ({ proofs: [...s.proofs, proof], removed: null }));
    await this.change(proof.id, { deleted: false });
  }

  private async change(id: string, change: BodyOf<typeof API.changeProof>): Promise<void> {
    try {
      await call(request, API.changeProof, { id: this.projectId, proof: id }, change);
    } catch (error) {
      this.state.setState({ error: `The proof was not changed: ${(error as Error).message}` });
    }
  }
}
