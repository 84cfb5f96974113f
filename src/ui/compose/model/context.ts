/** The stack under work, for the components of its page. */
import { createContext, useContext } from "react";
import { useStore } from "zustand";
import type { Frame } from "#core/formats/layers";
import type { Stack } from "#core/compose/stack";
import type { Composition, ComposeView } from "./composition";

export const CompositionContext = createContext<Composition | null>(null);

export function useComposition(): Composition {
  const found = useContext(CompositionContext);
  if (!found) throw new Error("no stack is open");
  return found;
}
export function useStack(): Stack;
export function useStack<T>(select: (stack: Stack) => T): T;
export function useStack<T>(select?: (stack: Stack) => T): T | Stack {
  return useStore(useComposition().store, (s) => (select ? select(s.document) : s.document));
}
/** Pictures at the size of the view, by source. */
export const useFrames = (): ReadonlyMap<string, Frame> => useStore(useComposition().shown, (s) => s.frames);
export const useComposeView = <T>(select: (view: ComposeView) => T): T => useStore(useComposition().view, select);
