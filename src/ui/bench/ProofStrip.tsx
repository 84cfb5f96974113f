/** The strip of proofs: the live picture on top, below it every proof kept. Choosing one brings it to the front. */
import { lazy, Suspense, useEffect, useMemo, useRef, useState } from "react";
import { useStore } from "zustand";
import { Star } from "lucide-react";
import { Differences } from "./Differences";
import { useBench, useSession, useView } from "./model/context";
import { ALL_PROOFS, filtered, numbered, type Numbered, type ProofFilter } from "./model/proof-order";
import { bytesText } from "#core/document/quantities";
import type { Proof } from "#api/contract";
import { Place, ProofTile } from "./ProofTile";

export function ProofStrip() {
  const { proofs: shelf, view } = useBench();
  const { proofs, busy, cleaned, error, removed } = useStore(shelf.state);
  const { front, back, wipe, beside, difference, differences, proofFilter } = useView((s) => s);
  const shown = useMemo(() => filtered(numbered(proofs), proofFilter), [proofs, proofFilter]);
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
        <div className="flex gap-1.5">
          <button
            className={`btn btn-xs px-2 ${beside > 1 ? "btn-primary" : "btn-outline hair"}`}
            aria-pressed={beside > 1}
            disabled={back === null}
            title="Front and back beside each other; again: up to four pictures, of those shown last. All zoom together. Y"
            onClick={() => view.standBeside()}
          >
            {beside > 1 ? `Beside ${beside}` : "Beside"}
          </button>
          <button
            className={`btn btn-xs flex-1 px-0 ${difference ? "btn-primary" : "btn-outline hair"}`}
            aria-pressed={difference !== null}
            disabled={back === null}
            title="What the back has otherwise than the front, pixel by pixel, where it is more than noise. J"
            onClick={() => view.setState({ difference: difference ? null : { kind: "stops", scale: 1 } })}
          >
            Difference
          </button>
        </div>
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
        {proofs.length > 3 && <Filter filter={proofFilter} />}
        {shown.map((p) => (
          <ProofTile key={p.id} proof={p} place={front === p.id ? "front" : back === p.id ? "back" : null} />
        ))}
        {proofs.length > 0 && shown.length === 0 && (
          <p className="px-1 text-xs quiet">
            None of {proofs.length} is let through.{" "}
            <button className="link" onClick={() => view.setState({ proofFilter: ALL_PROOFS })}>
              Show all
            </button>
          </p>
        )}
        {proofs.length === 0 && (
          <p className="px-1 text-xs leading-relaxed quiet">Proofs appear here: kept pictures to flip, wipe and restore.</p>
        )}
      </div>
      {proofs.length > 0 && <ProofStorage shown={shown} all={proofs} />}
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

/** Lets through the proofs whose notes have all the words, or that have a star. */
function Filter({ filter }: { filter: ProofFilter }) {
  const { view } = useBench();
  const set = (change: Partial<ProofFilter>): void => view.setState({ proofFilter: { ...filter, ...change } });
  return (
    <div className="flex items-center gap-1">
      <input
        type="search"
        aria-label="Filter of the proofs"
        placeholder="note or number"
        className="input input-xs hair min-w-0 flex-1 bg-transparent px-1.5"
        value={filter.text}
        onChange={(e) => set({ text: e.target.value })}
      />
      <button
        className={`px-1 ${filter.starred ? "text-primary" : "quiet"}`}
        aria-label="Those with a star alone"
        aria-pressed={filter.starred}
        title="Shows those with a star alone."
        onClick={() => set({ starred: !filter.starred })}
      >
        <Star className="size-3.5" fill={filter.starred ? "currentColor" : "none"} aria-hidden />
      </button>
    </div>
  );
}

const ContactSheet = lazy(() => import("./ContactSheet"));

/** How many proofs there are, what they take on disk, and a sheet of them to hand on. */
function ProofStorage({ shown, all }: { shown: readonly Numbered[]; all: readonly Proof[] }) {
  const [sheet, setSheet] = useState(false);
  const bytes = all.reduce((a, p) => a + p.bytes, 0);
  return (
    <div className="border-t hair p-2 text-xs">
      <p
        className="figures quiet"
        title="Pictures and films of all proofs of this project. Files of removed ones are deleted after a week."
      >
        {all.length} {all.length === 1 ? "proof" : "proofs"}, {bytesText(bytes)}
      </p>
      <button className="link link-hover" aria-expanded={sheet} onClick={() => setSheet(!sheet)}>
        Contact sheet
      </button>
      {sheet && (
        <Suspense fallback={<p className="quiet">Setting up …</p>}>
          <ContactSheet proofs={shown} />
        </Suspense>
      )}
    </div>
  );
}
