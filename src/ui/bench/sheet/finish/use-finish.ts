/** The finish of the project, for fields that change it. */
import type { FinishFields } from "../../../shared/finish/ToneFields";
import { useBench, useDocument } from "../../model/context";

export function useFinish(): FinishFields {
  const { store } = useBench();
  const { finish } = useDocument().film;
  return {
    finish,
    set: (change) => store.getState().set((d) => ({ ...d, film: { ...d.film, finish: { ...d.film.finish, ...change } } })),
    gesture: (active) => store.gesture(active),
  };
}
