/**
 * Saves the document as it changes. What the server has not confirmed also lies in the browser's own
 * storage, so that a reload, a crash or a stopped server loses nothing.
 */
import { createStore } from "zustand/vanilla";
import { RequestError } from "./api";
import type { PageHost, TextStorage } from "./page-host";

export interface SaveState {
  /** "behind": another window saved, and nothing was changed in this one; "conflict": something was. */
  state: "saved" | "waiting" | "saving" | "offline" | "behind" | "conflict" | "refused";
  message: string;
}

const DELAY = 500;
const RETRY = 3000;

const CONFLICT: SaveState = {
  state: "conflict",
  message: "Changed in another window. Your changes are kept here but not saved.",
};

/** Where a document is kept. */
export interface Kept<D> {
  /** Names it among all that this browser keeps. */
  id: string;
  /** Key of its draft in the browser's storage. */
  slot: string;
  /** @returns the new revision @throws RequestError */
  save(revision: number, document: D, options?: { keepalive?: boolean }): Promise<number>;
  /** The revision that the server has now. */
  revision(): Promise<number>;
}

/** A draft left by an earlier visit, when the server still has the state it started from. @param parse throws where it is none */
export function draftIn<D>(storage: TextStorage, slot: string, revision: number, parse: (value: unknown) => D): D | null {
  try {
    const text = storage.getItem(slot);
    if (!text) return null;
    const draft = JSON.parse(text) as { revision: number; document: unknown };
    if (draft.revision !== revision) return null;
    return parse(draft.document);
  } catch {
    return null;
  }
}

/** A store of a document, as saving sees it. */
interface Watched<D> {
  getState(): { document: D };
  subscribe(listener: () => void): () => void;
}

export class Saver<D> {
  readonly state = createStore<SaveState>(() => ({ state: "saved", message: "Saved" }));
  private saved: D;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private busy = false;
  private readonly stop: () => void;
  private readonly stay: () => void;
  private readonly deaf: () => void;

  constructor(
    private readonly kept: Kept<D>,
    private revision: number,
    confirmed: D,
    private readonly store: Watched<D>,
    private readonly page: PageHost,
  ) {
    this.saved = confirmed;
    this.stop = store.subscribe(() => this.changed());
    if (store.getState().document !== confirmed) this.changed();
    this.stay = page.onLeave(this.leave);
    this.deaf = page.onSaved((s) => {
      if (s.projectId === kept.id && s.revision > this.revision) this.overtaken();
    });
  }

  /** Another window saved what this one does not have. */
  private overtaken(): void {
    if (this.timer) clearTimeout(this.timer);
    const changed = this.store.getState().document !== this.saved;
    this.state.setState(changed ? CONFLICT : { state: "behind", message: "Changed in another window." });
  }

  dispose(): void {
    this.stop();
    this.stay();
    this.deaf();
    if (this.timer) clearTimeout(this.timer);
  }

  private readonly leave = (): void => {
    const document = this.store.getState().document;
    const { state } = this.state.getState();
    if (document === this.saved || state === "conflict" || state === "behind") return;
    // the page may be gone before an answer comes; the draft in storage covers a failure
    void this.kept.save(this.revision, document, { keepalive: true }).catch(() => undefined);
  };

  private changed(): void {
    const document = this.store.getState().document;
    if (document === this.saved) return;
    try {
      this.page.storage.setItem(this.kept.slot, JSON.stringify({ revision: this.revision, document }));
    } catch {
      // storage full or forbidden: the server remains
    }
    const { state } = this.state.getState();
    if (state === "behind") this.state.setState(CONFLICT);
    if (state === "conflict" || state === "behind") return;
    this.state.setState({ state: "waiting", message: "Changed" });
    this.plan(DELAY);
  }

  private plan(delay: number): void {
    if (this.timer) clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.save(), delay);
  }

  private async save(): Promise<void> {
    if (this.busy) return this.plan(DELAY);
    const document = this.store.getState().document;
    this.busy = true;
    this.state.setState({ state: "saving", message: "Saving" });
    try {
      const revision = await this.kept.save(this.revision, document);
      this.revision = revision;
      this.saved = document;
      this.page.announce({ projectId: this.kept.id, revision });
      if (this.store.getState().document === document) {
        this.page.storage.removeItem(this.kept.slot);
        this.state.setState({ state: "saved", message: "Saved" });
      } else this.changed();
    } catch (error) {
      const status = error instanceof RequestError ? error.status : 0;
      if (status === 409) this.state.setState(CONFLICT);
      else if (status >= 400 && status < 500) this.state.setState({ state: "refused", message: (error as Error).message });
      else {
        this.state.setState({
          state: "offline",
          message: "The server does not answer. Changes are kept in this browser and saved when it is back.",
        });
        this.plan(RETRY);
      }
    } finally {
      this.busy = false;
    }
  }

  /** After a conflict: saves this window's state over the other's. */
  async takeOver(): Promise<void> {
    this.revision = await this.kept.revision();
    this.state.setState({ state: "waiting", message: "Changed" });
    await this.save();
  }

  /** After a conflict: gives up this window's state for the other's. */
  discard(): void {
    this.page.storage.removeItem(this.kept.slot);
    this.stay();
    this.page.reload();
  }
}
