/** What every part of the bench shares. */
import { createContext, useContext, useEffect, useState } from "react";
import { useStore } from "zustand";
import type { SceneDocument } from "#core/document/schema";
import type { Lut } from "#core/data/lut";
import { Luts } from "./luts";
import type { Incoming } from "./incoming";
import type { ProofShelf } from "./proofs";
import type { Rooms } from "./rooms";
import type { AdviceDesk } from "./advice";
import type { FramePrice } from "./price";
import { latestScene } from "./scene-part";
import type { Session, SessionState } from "./session";
import type { BenchStore } from "./store";
import type { ReprojectedPreview } from "./reprojection";
import type { Wedges } from "./wedges";
import type { ViewStore, ViewState } from "./view";

export interface Bench {
  projectId: string;
  store: BenchStore;
  session: Session;
  view: ViewStore;
  proofs: ProofShelf;
  wedges: Wedges;
  incoming: Incoming;
  preview: ReprojectedPreview;
  rooms: Rooms;
  price: FramePrice;
  advice: AdviceDesk;
}

export const BenchContext = createContext<Bench | null>(null);

export function useBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error("outside the bench");
  return bench;
}
/** The document, or what is selected of it: who selects hears of nothing else. */
export function useDocument(): SceneDocument;
export function useDocument<T>(select: (doc: SceneDocument) => T): T;
export function useDocument(select = (doc: SceneDocument): unknown => doc): unknown {
  return useStore(useBench().store, (s) => select(s.document));
}
/**
 * The document for what draws the scene: another one only where more changed than how its picture is developed, its title or its
 * units.
 */
export function useScene(): SceneDocument {
  const { store } = useBench();
  const [latest] = useState(() => latestScene(store.getState().document));
  return useStore(store, (s) => latest(s.document));
}
/** The look-up table that a document's picture is finished with; null for none, and until it is loaded. */
export function useLut(doc: SceneDocument): Lut | null {
  const { luts } = useBench().session;
  const hash = Luts.hashOf(doc);
  useEffect(() => luts.ask(doc), [luts, doc, hash]);
  return useStore(luts.state, (s) => (hash ? (s.tables[hash] ?? null) : null));
}
export function useSession<T>(select: (s: SessionState) => T): T {
  return useStore(useBench().session.state, select);
}
export function useView<T>(select: (s: ViewState) => T): T {
  return useStore(useBench().view, select);
}
