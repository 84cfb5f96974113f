/**
 * Saves the document as it changes. What the server has not confirmed also lies in the browser's own
 * storage, so that a reload, a crash or a stopped server loses nothing.
 */
import { createStore } from "zustand/vanilla";
import { API, call } from "#api/contract";
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import { RequestError } from "../../shared/api";
import type { PageHost, TextStorage } from "./hosts";
import type { BenchStore } from "./store";

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

const slot = (projectId: string): string => `fumarium.unsaved.${projectId}`;

/** A draft left by an earlier visit, when the server still has the state it started from. */
export function unsavedDraft(storage: TextStorage, projectId: string, revision: number): SceneDocument | null {
  try {
    const text = storage.getItem(slot(projectId));
    if (!text) return null;
    const draft = JSON.parse(text) as { revision: number; document: unknown };
    if (draft.revision !== revision) return null;
    return parseDocument(draft.document, "unsaved draft");
  } catch {
    return null;
  }
}

export class Autosave {
  readonly state = createStore<SaveState>(() => ({ state: "saved", message: "Saved" }));
  private saved: SceneDocument;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private busy = false;
  private readonly stop: () => void;
  private readonly stay: () => void;
  private readonly deaf: () => void;

  constructor(
    private readonly projectId: string,
    private revision: number,
    confirmed: SceneDocument,
    private readonly store: BenchStore,
    private readonly page: PageHost,
  ) {
    this.saved = confirmed;
    this.stop = store.subscribe(() => this.changed());
    if (store.getState().document !== confirmed) this.changed();
    this.stay = page.onLeave(this.leave);
    this.deaf = page.onSaved((s) => {
      if (s.projectId === projectId && s.revision > this.revision) this.overtaken();
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
    void call(
      this.page.request,
      API.saveDocument,
      { id: this.projectId },
      { revision: this.revision, document },
      { keepalive: true },
    ).catch(() => undefined);
  };

  private changed(): void {
    const document = this.store.getState().document;
    if (document === this.saved) return;
    try {
      this.page.storage.setItem(slot(this.projectId), JSON.stringify({ revision: this.revision, document }));
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
      const { revision } = await call(this.page.request, API.saveDocument, { id: this.projectId }, { revision: this.revision, document });
      this.revision = revision;
      this.saved = document;
      this.page.announce({ projectId: this.projectId, revision });
      if (this.store.getState().document === document) {
        this.page.storage.removeItem(slot(this.projectId));
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
    const other = await call(this.page.request, API.openProject, { id: this.projectId });
    this.revision = other.revision;
    this.state.setState({ state: "waiting", message: "Changed" });
    await this.save();
  }

  /** After a conflict: gives up this window's state for the other's. */
  discard(): void {
    this.page.storage.removeItem(slot(this.projectId));
    this.stay();
    this.page.reload();
  }
}
