/** Keeps the steps of undo and redo in the browser, so that they outlive the page. */
import { parseDocument } from "#core/document/parse";
import type { SceneDocument } from "#core/document/schema";
import type { RecordStorage } from "../../shared/record-storage";
import type { BenchStore } from "./store";

/** Steps that are kept each way. */
const STEPS = 200;
/** Milliseconds without a change after which they are put by. */
const REST = 800;
/** Documents that are checked without a pause. */
const AT_ONCE = 8;

interface Kept {
  past: unknown[];
  present: unknown;
  future: unknown[];
}

const slot = (projectId: string): string => `undo.${projectId}`;

function isKept(v: unknown): v is Kept {
  return typeof v === "object" && v !== null && "past" in v && Array.isArray(v.past) && "future" in v && Array.isArray(v.future) && "present" in v; // prettier-ignore
}

const same = (a: SceneDocument, b: SceneDocument): boolean => JSON.stringify(a) === JSON.stringify(b);

/** Reads documents of this or an earlier version, from the present one on; one that cannot be read ends the list. */
async function readable(documents: readonly unknown[]): Promise<SceneDocument[]> {
  const out: SceneDocument[] = [];
  for (const [i, d] of documents.slice(0, STEPS).entries()) {
    // hundreds of documents take a second: the page stays quick meanwhile
    if (i % AT_ONCE === AT_ONCE - 1) await new Promise((go) => setTimeout(go, 0));
    try {
      out.push(parseDocument(d, "step of undo"));
    } catch {
      break;
    }
  }
  return out;
}

export class UndoKeeper {
  private timer: ReturnType<typeof setTimeout> | null = null;
  private readonly stop: () => void;
  private gone = false;
  /** Until what was kept is back, or known to be of another document, nothing is put over it. */
  private restored = false;

  constructor(
    private readonly projectId: string,
    private readonly store: BenchStore,
    private readonly storage: RecordStorage,
  ) {
    this.stop = store.temporal.subscribe(() => this.soon());
  }

  dispose(): void {
    this.gone = true;
    this.stop();
    if (this.timer) clearTimeout(this.timer);
  }

  /** Brings back the steps that an earlier visit left behind, before those made since. */
  async restore(): Promise<void> {
    const { document: opened } = this.store.getState();
    try {
      const kept = await this.storage.get(slot(this.projectId));
      // another window, or a proof that was restored elsewhere, may have made another document of it
      if (!isKept(kept)) return;
      const [present] = await readable([kept.present]);
      if (!present || !same(present, parseDocument(opened))) return;
      const past = (await readable(kept.past.toReversed())).reverse();
      const future = (await readable(kept.future.toReversed())).reverse();
      if (this.gone) return;
      const { pastStates, futureStates } = this.store.temporal.getState();
      // what could not be saved came back as a step of its own
      const [first] = pastStates;
      if (past.length > 0 && first?.document && same(past.at(-1)!, parseDocument(first.document))) past.pop();
      const moved = this.store.getState().document !== opened;
      this.store.temporal.setState({
        pastStates: [...past.map((document) => ({ document })), ...pastStates],
        // steps made since lead elsewhere
        futureStates: moved || futureStates.length > 0 ? futureStates : future.map((document) => ({ document })),
      });
    } catch {
      // without the browser's database undo begins anew
    } finally {
      this.restored = true;
      this.soon();
    }
  }

  private soon(): void {
    if (this.timer) clearTimeout(this.timer);
    if (this.gone || !this.restored) return;
    this.timer = setTimeout(() => void this.keep(), REST);
  }

  private async keep(): Promise<void> {
    const { pastStates, futureStates } = this.store.temporal.getState();
    const documents = (of: typeof pastStates): unknown[] => of.slice(-STEPS).map((s) => s.document);
    const kept: Kept = { past: documents(pastStates), present: this.store.getState().document, future: documents(futureStates) };
    await this.storage.set(slot(this.projectId), kept).catch(() => undefined);
  }
}
