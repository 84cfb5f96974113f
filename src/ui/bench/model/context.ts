/** What every part of the bench shares. */
import { createContext, useContext } from "react";
import { useStore } from "zustand";
import type { SceneDocument } from "#core/document/schema";
import type { Incoming } from "./incoming";
import type { ProofShelf } from "./proofs";
import type { Rooms } from "./rooms";
import type { Session, SessionState } from "./session";
import type { BenchStore } from "./store";
import type { ReprojectedPreview } from "./reprojection";
import type { ViewStore, ViewState } from "./view";

export interface Bench {
  projectId: string;
  store: BenchStore;
  session: Session;
  view: ViewStore;
  proofs: ProofShelf;
  incoming: Incoming;
  preview: ReprojectedPreview;
  rooms: Rooms;
}

export const BenchContext = createContext<Bench | null>(null);

export function useBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error("outside the bench");
  return bench;
}
export function useDocument(): SceneDocument {
  return useBench().store((s) => s.document);
}
export function useSession<T>(select: (s: SessionState) => T): T {
  return useStore(useBench().session.state, select);
}
export function useView<T>(select: (s: ViewState) => T): T {
  return useStore(useBench().view, select);
}
