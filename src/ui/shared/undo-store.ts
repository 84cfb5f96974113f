/** A document under work, with undo and redo. A drag is one step. */
import { temporal } from "zundo";
import { createStore } from "zustand/vanilla";

interface Worked<D> {
  document: D;
  set(change: (doc: D) => D): void;
}

/** @param settled what becomes of a change: the document before, and as it was changed */
export function createUndoStore<D extends object>(initial: D, settled: (before: D, next: D) => D = (_, next) => next) {
  const store = createStore<Worked<D>>()(
    temporal(
      (set) => ({
        document: initial,
        set: (change) => set((s) => ({ document: settled(s.document, change(s.document)) })),
      }),
      { partialize: (s) => ({ document: s.document }), equality: (a, b) => a.document === b.document, limit: 300 },
    ),
  );
  let gesture: D | null = null;
  /** The document as it was when the present drag began. */
  const held = createStore<{ from: D | null }>(() => ({ from: null }));
  return Object.assign(store, {
    held,
    /** Between gesture(true) and gesture(false) all changes count as one. */
    gesture(active: boolean): void {
      const t = store.temporal.getState();
      if (active && !gesture) {
        gesture = store.getState().document;
        t.pause();
        held.setState({ from: gesture });
      } else if (!active && gesture) {
        const before = gesture,
          after = store.getState().document;
        gesture = null;
        if (before === after) t.resume();
        else {
          // step back silently, then make the whole change once while history listens
          store.setState({ document: before });
          t.resume();
          store.setState({ document: after });
        }
        held.setState({ from: null });
      }
    },
    /** A change that belongs to the step before it: one undo takes back both. */
    amend(change: (doc: D) => D): void {
      const { isTracking, pause, resume } = store.temporal.getState();
      pause();
      store.getState().set(change);
      if (isTracking) resume();
    },
    undo(): void {
      this.gesture(false);
      store.temporal.getState().undo();
    },
    redo(): void {
      this.gesture(false);
      store.temporal.getState().redo();
    },
  });
}
