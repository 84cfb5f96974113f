/** What the settings of front and back differ in, in words; each can be taken over into the live picture. */
import { useEffect, useMemo, useState } from "react";
import { useStore } from "zustand";
import { documentChanges, takeChange, type Change } from "#core/document/changes";
import type { SceneDocument } from "#core/document/schema";
import { useLengths } from "../shared/units";
import { useBench, useDocument } from "./model/context";
import type { Shown } from "./model/view";

export function Differences({ front, back }: { front: Shown; back: Shown }) {
  const { proofs: shelf, store, view } = useBench();
  const { proofs, documents } = useStore(shelf.state);
  const live = useDocument();
  const lengths = useLengths();
  const [refused, setRefused] = useState<string | null>(null);
  // beside the live picture it is always the proof that has something otherwise
  const [base, other] = front === "live" ? [front, back] : [back, front];
  const [before, after] = [base, other].map((id) => (id === "live" ? live : documents[id])) as [
    SceneDocument | undefined,
    SceneDocument | undefined,
  ];
  useEffect(() => {
    for (const id of [base, other]) if (id !== "live") void shelf.withDocument(id, () => undefined);
  }, [shelf, base, other]);
  const changes = useMemo(() => before && after && documentChanges(before, after, lengths), [before, after, lengths]);
  const called = (id: Shown): string => (id === "live" ? "the live picture" : `proof ${proofs.findIndex((p) => p.id === id) + 1}`);

  const take = ({ id, of }: Change): void => {
    try {
      const next = takeChange(store.getState().document, after!, id);
      setRefused(null);
      store.getState().set(() => next);
    } catch (error) {
      setRefused(`${of} was not taken over: ${(error as Error).message}`);
    }
  };

  return (
    <section
      aria-label="Differences"
      className="absolute top-0 right-full z-20 flex max-h-full w-80 flex-col border-b border-l hair bg-base-100 text-xs shadow-lg"
    >
      <header className="flex items-baseline gap-2 border-b hair px-3 py-2">
        <h2 className="grow text-sm">{`What ${called(other)} has otherwise than ${called(base)}`}</h2>
        <button className="link link-hover quiet" onClick={() => view.setState({ differences: false })}>
          Close
        </button>
      </header>
      {!changes && (
        <p role="status" className="px-3 py-2 quiet">
          Loading the settings …
        </p>
      )}
      {changes?.length === 0 && <p className="px-3 py-2 quiet">Nothing that changes the picture.</p>}
      {changes && changes.length > 0 && (
        <ul className="min-h-0 overflow-y-auto">
          {changes.map((change) => (
            <li key={change.id} className="flex items-start gap-2 border-b border-base-content/5 px-3 py-1.5">
              <div className="min-w-0 grow">
                <p className="truncate" title={`${change.of} ${change.setting}`}>
                  <span className="font-semibold">{change.of}</span> <span className="quiet">{change.setting}</span>
                </p>
                <p className="figures">
                  <span className="quiet">{change.from} →</span> {change.to}
                  {change.stops && <span className="quiet"> ({change.stops})</span>}
                </p>
              </div>
              {other !== "live" && (
                <button
                  className="btn btn-xs btn-outline hair shrink-0"
                  aria-label={`Take over: ${change.of} ${change.setting}`.trim()}
                  title={`Gives the live picture what ${called(other)} has. Undo takes it back.`}
                  onClick={() => take(change)}
                >
                  Take over
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
      {refused && (
        <p role="alert" className="border-l-2 border-error px-3 py-1.5 whitespace-pre-wrap">
          {refused}
        </p>
      )}
    </section>
  );
}
