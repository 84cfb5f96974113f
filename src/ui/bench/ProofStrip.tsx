/** The strip of proofs: the live picture on top, below it every proof kept. Choosing one brings it to the front. */
import { useEffect, useRef, useState } from "react";
import { useStore } from "zustand";
import { formatNumber } from "#core/document/quantities";
import { Differences } from "./Differences";
import { useBench, useSession, useView } from "./model/context";
import type { Proof } from "#api/contract";

export function percent(noise: number | null): string {
  return noise === null ? "–" : `${formatNumber(noise * 100, 2)} %`;
}

export function ProofStrip() {
  const { proofs: shelf, view } = useBench();
  const { proofs, busy, cleaned, error, removed } = useStore(shelf.state);
  const { front, back, wipe, difference, differences } = useView((s) => s);
  const ready = useSession((s) => s.phase !== "failed");
  const latest = useRef<HTMLDivElement>(null);
  const count = useRef(proofs.length);
  useEffect(() => {
    if (proofs.length > count.current) latest.current?.scrollIntoView({ block: "nearest" });
    count.current = proofs.length;
  }, [proofs.length]);
  return (
    <aside
      id="proofs"
      tabIndex={-1}
      aria-label="Proofs"
      className="relative outline-none flex w-[148px] shrink-0 flex-col border-l hair bg-base-100"
    >
      <div className="space-y-1.5 border-b hair p-2">
        <button
          className="btn btn-xs btn-primary w-full"
          disabled={!ready || busy}
          title="Saves the picture with its settings as a proof, as soon as every pixel has a sample. K"
          onClick={() => void shelf.keep()}
        >
          {busy ? "Keeping …" : "Keep a proof"}
        </button>
        {busy && (
          <p className="text-xs" role="status">
            {cleaned === null
              ? "Waits for a sample in every pixel. "
              : cleaned < 1
                ? `Cleaned ${Math.round(100 * cleaned)} %. `
                : "Writes the files."}
            {(cleaned ?? 0) < 1 && (
              <button className="link" onClick={() => shelf.giveUp()}>
                Cancel
              </button>
            )}
          </p>
        )}
        <div className="flex gap-1.5">
          <button
            className="btn btn-xs btn-outline hair flex-1 px-0"
            disabled={back === null}
            title="Swaps front and back. F"
            onClick={() => view.flip()}
          >
            Flip
          </button>
          <button
            className={`btn btn-xs flex-1 px-0 ${wipe ? "btn-primary" : "btn-outline hair"}`}
            aria-pressed={wipe}
            disabled={back === null}
            title="Front and back side by side at a movable edge. W"
            onClick={() => view.setState({ wipe: !wipe })}
          >
            Wipe
          </button>
        </div>
        <button
          className={`btn btn-xs w-full ${difference ? "btn-primary" : "btn-outline hair"}`}
          aria-pressed={difference !== null}
          disabled={back === null}
          title="What the back has otherwise than the front, pixel by pixel, where it is more than noise. J"
          onClick={() => view.setState({ difference: difference ? null : { kind: "stops", scale: 1 } })}
        >
          Difference
        </button>
        <button
          className={`btn btn-xs w-full ${differences ? "btn-primary" : "btn-outline hair"}`}
          aria-expanded={differences}
          disabled={back === null}
          title="What front and back differ in, in words, each of it to be taken over. I"
          onClick={() => view.setState({ differences: !differences })}
        >
          What differs
        </button>
      </div>
      <div className="min-h-0 flex-1 space-y-2 overflow-y-auto p-2" ref={latest}>
        <button
          className={`w-full border px-2 py-1 text-left text-sm ${front === "live" ? "border-primary" : "hair"}`}
          aria-pressed={front === "live"}
          title="The picture as it is being rendered. L"
          onClick={() => view.show("live")}
        >
          Live <Place shown={front === "live" ? "front" : back === "live" ? "back" : null} />
        </button>
        {proofs.map((p, i) => (
          <Tile key={p.id} proof={p} number={i + 1} place={front === p.id ? "front" : back === p.id ? "back" : null} />
        ))}
        {proofs.length === 0 && (
          <p className="px-1 text-xs leading-relaxed quiet">Proofs appear here: kept pictures to flip, wipe and restore.</p>
        )}
      </div>
      {differences && back !== null && <Differences front={front} back={back} />}
      {(error || removed) && (
        <div className="border-t hair p-2 text-xs" role="status">
          {error && <p className="text-error">{error}</p>}
          {removed && (
            <p>
              Proof removed.{" "}
              <button className="link" onClick={() => void shelf.restore()}>
                Restore proof
              </button>
            </p>
          )}
        </div>
      )}
    </aside>
  );
}

function Place({ shown }: { shown: "front" | "back" | null }) {
  return shown ? <span className="float-right text-xs text-primary">{shown}</span> : null;
}

function Tile({ proof, number, place }: { proof: Proof; number: number; place: "front" | "back" | null }) {
  const { proofs: shelf, view, store } = useBench();
  const [note, setNote] = useState(proof.note);
  return (
    <figure className={`border ${place === "front" ? "border-primary" : "hair"}`} data-proof={proof.id}>
      <button
        className="block w-full"
        aria-label={`Proof ${number}${proof.note ? `, ${proof.note}` : ""}: show in front`}
        aria-pressed={place === "front"}
        onClick={() => view.show(proof.id)}
      >
        <img src={`/api/assets/${proof.picture}`} alt="" className="w-full" />
      </button>
      <figcaption className="space-y-0.5 p-1.5 text-xs">
        <p className="figures quiet">
          {number} <Place shown={place} />
          <br />
          {formatNumber(proof.samples, 3)} samples
          <br />
          {formatNumber(proof.seconds, 3)} s, noise {percent(proof.noise)}
        </p>
        <input
          aria-label={`Note on proof ${number}`}
          placeholder="note"
          className="w-full bg-transparent outline-none placeholder:text-base-content/50 focus:bg-base-200"
          maxLength={2000}
          value={note}
          onChange={(e) => setNote(e.target.value)}
          onBlur={() => note !== proof.note && void shelf.note(proof.id, note)}
          onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        />
        <p className="flex justify-between">
          <button
            aria-label="Restore settings"
            className="link link-hover text-primary"
            title="Restores the settings of this proof. Undo brings the present ones back."
            onClick={() => void shelf.withDocument(proof.id, (document) => (store.getState().set(() => document), view.show("live")))}
          >
            Restore
          </button>
          <button
            className="link link-hover quiet"
            aria-label={`Remove proof ${number}`}
            onClick={() => {
              view.forget(proof.id);
              void shelf.remove(proof.id);
            }}
          >
            Remove
          </button>
        </p>
      </figcaption>
    </figure>
  );
}
