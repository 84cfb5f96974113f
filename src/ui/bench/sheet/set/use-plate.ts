/** What the document's plate says of itself, and how it is changed. */
import { useEffect, useMemo, useState } from "react";
import type { Plate } from "#core/document/plate";
import { Latest } from "../../../shared/latest";
import { useBench, useDocument } from "../../model/context";
import { changePlate } from "../../model/edits/plate";
import type { PlateFacts } from "../../model/scene-worker";

/** Facts of the document's plate, made beside the page; an error's words where it cannot be read. */
export function usePlateFacts(): { facts: PlateFacts | null; problem: string | null } {
  const { session } = useBench();
  const doc = useDocument();
  const [found, setFound] = useState<{ facts: PlateFacts | null; problem: string | null }>({ facts: null, problem: null });
  const asked = useMemo(
    () =>
      new Latest(async (given: typeof doc) => {
        try {
          setFound({ facts: await session.worker.plate(given), problem: null });
        } catch (error) {
          setFound((had) => ({ ...had, problem: (error as Error).message }));
        }
      }),
    [session],
  );
  const { plate, assets } = doc;
  const key = plate ? JSON.stringify([plate, assets[plate.picture], assets[plate.depth]]) : "";
  useEffect(() => {
    if (key) asked.ask(doc);
    else setFound({ facts: null, problem: null });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what facts depend on is in the key
  }, [key, asked]);
  return found;
}

/** Changes of the plate, and the gestures that hold them together. */
export function usePlateEdit(): { set(change: Partial<Plate>): void; gesture(active: boolean): void } {
  const { store } = useBench();
  return {
    set: (change) => store.getState().set((d) => changePlate(d, change)),
    gesture: (active) => store.gesture(active),
  };
}
