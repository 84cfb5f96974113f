/** Whether a document is saved, and what to do where another window saved it too. */
import { useStore } from "zustand";
import type { Saver } from "./autosave";

export function SaveStanding<D>({ saver }: { saver: Saver<D> }) {
  const saved = useStore(saver.state);
  return (
    <span
      role="status"
      data-testid="saved"
      data-state={saved.state}
      className={saved.state === "saved" || saved.state === "waiting" || saved.state === "saving" ? "" : "text-warning"}
    >
      {saved.message}
      {saved.state === "conflict" && (
        <>
          {" "}
          <button className="link" onClick={() => void saver.takeOver()}>
            Overwrite
          </button>
        </>
      )}
      {(saved.state === "conflict" || saved.state === "behind") && (
        <>
          {" "}
          <button className="link" onClick={() => saver.discard()}>
            Load the other version
          </button>
        </>
      )}
    </span>
  );
}
