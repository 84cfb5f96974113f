/** Proofs of a project: kept pictures with all that made them. */
import { createStore } from "zustand/vanilla";
import { API, call, type Proof } from "#api/contract";
import type { Film } from "#core/film/film";
import { PASS_NAMES } from "#core/film/passes";
import { request, upload } from "../../shared/api";
import type { Session } from "./session";

interface ProofState {
  proofs: Proof[];
  busy: boolean;
  error: string | null;
  /** The proof last removed, which can be brought back. */
  removed: Proof | null;
}

export class ProofShelf {
  readonly state = createStore<ProofState>(() => ({ proofs: [], busy: false, error: null, removed: null }));
  private readonly films = new Map<string, Promise<Film>>();

  constructor(
    private readonly projectId: string,
    private readonly session: Session,
    initial: Proof[],
  ) {
    this.state.setState({ proofs: initial });
  }

  /** Film of a proof; loaded once. */
  film(id: string): Promise<Film> | null {
    const proof = this.state.getState().proofs.find((p) => p.id === id);
    if (!proof) return null;
    let film = this.films.get(proof.film);
    if (!film) {
      film = this.session.worker.film(proof.film);
      this.films.set(proof.film, film);
      film.catch(() => this.films.delete(proof.film));
    }
    return film;
  }

  /** Keeps the picture as it is now. */
  async keep(note = ""): Promise<void> {
    const still = this.session.snapshot();
    if (!still || still.statistics.samples === 0 || this.state.getState().busy) return;
    this.state.setState({ busy: true, error: null });
    try {
      const { film, document, statistics, seconds } = still;
      const png = await this.session.worker.png(film, "beauty", document);
      const facts = { ...statistics, seconds, seed: document.render.seed };
      const exr = await this.session.worker.exr(film, [...PASS_NAMES], "half", document, facts, true);
      const [picture, filmFile] = [
        await upload("picture", new Blob([png as Uint8Array<ArrayBuffer>])),
        await upload("film", new Blob([exr as Uint8Array<ArrayBuffer>])),
      ];
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
        },
      );
      this.films.set(proof.film, Promise.resolve(film));
      this.state.setState((s) => ({ proofs: [...s.proofs, proof] }));
    } catch (error) {
      this.state.setState({ error: `The proof was not kept: ${(error as Error).message}` });
    } finally {
      this.state.setState({ busy: false });
    }
  }

  async note(id: string, note: string): Promise<void> {
    this.state.setState((s) => ({ proofs: s.proofs.map((p) => (p.id === id ? { ...p, note } : p)) }));
    await this.change(id, { note });
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
    this.state.setState((s) => ({ proofs: [...s.proofs, proof].sort((a, b) => a.createdAt - b.createdAt), removed: null }));
    await this.change(proof.id, { deleted: false });
  }

  private async change(id: string, change: { note?: string; deleted?: boolean }): Promise<void> {
    try {
      await call(request, API.changeProof, { id: this.projectId, proof: id }, change);
    } catch (error) {
      this.state.setState({ error: `The proof was not changed: ${(error as Error).message}` });
    }
  }
}
