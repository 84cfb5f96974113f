/** The document under work, with undo and redo. A drag is one step. */
import { temporal } from "zundo";
import { createStore } from "zustand/vanilla";
import { withFollowers } from "#core/document/follow";
import { withMotion } from "#core/document/motion";
import type { Medium, SceneDocument } from "#core/document/schema";

interface BenchState {
  document: SceneDocument;
  set(change: (doc: SceneDocument) => SceneDocument): void;
}

export function createBenchStore(initial: SceneDocument) {
  const store = createStore<BenchState>()(
    temporal(
      (set) => ({
        document: initial,
        set: (change) => set((s) => ({ document: withFollowers(s.document, withMotion(s.document, change(s.document))) })),
      }),
      { partialize: (s) => ({ document: s.document }), equality: (a, b) => a.document === b.document, limit: 300 },
    ),
  );
  let gesture: SceneDocument | null = null;
  /** The document as it was when the present drag began. */
  const held = createStore<{ from: SceneDocument | null }>(() => ({ from: null }));
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
    amend(change: (doc: SceneDocument) => SceneDocument): void {
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

export type BenchStore = ReturnType<typeof createBenchStore>;

/** The document with one of its media changed; the others stay as they are. */
export function withMedium(doc: SceneDocument, index: number, change: Partial<Medium>): SceneDocument {
  return { ...doc, air: doc.air.map((m, i) => (i === index ? { ...m, ...change } : m)) };
}

/** The document without one of its media; lights that named it light the others they named. */
export function withoutMedium(doc: SceneDocument, index: number): SceneDocument {
  const gone = doc.air[index]!.name;
  const air = doc.air.filter((_, i) => i !== index);
  if (air.some((m) => m.name === gone)) return { ...doc, air };
  const reached = <T extends { media: string[] | null }>(light: T): T =>
    light.media?.includes(gone) ? { ...light, media: light.media.filter((n) => n !== gone) } : light;
  return { ...doc, air, sun: reached(doc.sun), moon: reached(doc.moon), lights: doc.lights.map(reached) };
}
