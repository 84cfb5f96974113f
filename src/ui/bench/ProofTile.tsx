/** A proof on the strip: its picture, what it took, its note, star and place. */
import { Star } from "lucide-react";
import { useState } from "react";
import { formatNumber } from "#core/document/quantities";
import { composeUrl } from "../shared/compose-url";
import { useBench, useDocument } from "./model/context";
import type { Numbered } from "./model/proof-order";
import { percent } from "./percent";

/** What a dragged proof is carried as. */
const DRAGGED = "application/x-fumarium-proof";

export function Place({ shown }: { shown: "front" | "back" | null }) {
  return shown ? <span className="float-right text-xs text-primary">{shown}</span> : null;
}

/** One proof on the strip. It is moved by dragging it onto another, or with Alt and the arrows. */
export function ProofTile({ proof, place }: { proof: Numbered; place: "front" | "back" | null }) {
  const { number } = proof;
  const { proofs: shelf, view, store } = useBench();
  const title = useDocument((d) => d.title);
  const [note, setNote] = useState(proof.note);
  const [over, setOver] = useState(false);
  return (
    <figure
      className={`border [contain-intrinsic-size:auto_170px] [content-visibility:auto] ${over ? "border-t-2 border-t-primary" : place === "front" ? "border-primary" : "hair"}`}
      data-proof={proof.id}
      draggable
      onDragStart={(e) => e.dataTransfer.setData(DRAGGED, proof.id)}
      onDragOver={(e) => {
        if (!e.dataTransfer.types.includes(DRAGGED)) return;
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        setOver(false);
        const id = e.dataTransfer.getData(DRAGGED);
        if (!id) return;
        e.preventDefault();
        e.stopPropagation();
        void shelf.moveBefore(id, proof.id);
      }}
    >
      <button
        className="block w-full"
        aria-label={`Proof ${number}${proof.note ? `, ${proof.note}` : ""}: show in front`}
        aria-pressed={place === "front"}
        onClick={() => view.show(proof.id)}
        onKeyDown={(e) => {
          const by = e.altKey ? ({ ArrowUp: -1, ArrowDown: 1 } as const)[e.key as "ArrowUp"] : undefined;
          if (!by) return;
          e.preventDefault();
          const own = e.currentTarget;
          void shelf.move(proof.id, by).then(() => own.focus());
        }}
        title="Brings it to the front. Drag it onto another to hang it before that; Alt ↑ ↓ moves it too."
      >
        <img src={`/api/assets/${proof.picture}`} alt="" loading="lazy" decoding="async" draggable={false} className="w-full" />
      </button>
      <figcaption className="space-y-0.5 p-1.5 text-xs">
        <p className="figures quiet">
          <button
            className={`float-right ml-1 ${proof.star ? "text-primary" : "quiet"}`}
            aria-label={`Star of proof ${number}`}
            aria-pressed={proof.star}
            title="A star for those that matter."
            onClick={() => void shelf.set(proof.id, { star: !proof.star })}
          >
            <Star className="size-3.5" fill={proof.star ? "currentColor" : "none"} aria-hidden />
          </button>
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
          onBlur={() => note !== proof.note && void shelf.set(proof.id, { note })}
          onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        />
        {proof.part && (
          <button
            className={`link link-hover ${proof.laid ? "text-primary" : ""}`}
            aria-label={`Patch of proof ${number}`}
            aria-pressed={proof.laid}
            title="This proof shows a part of the frame. Laid over the live picture it stays in its place there, to be compared with."
            onClick={() => void shelf.set(proof.id, { laid: !proof.laid })}
          >
            {proof.laid ? "Patch: lift off" : "Lay over as a patch"}
          </button>
        )}
        <p className="flex justify-between">
          <button
            aria-label="Restore settings"
            className="link link-hover text-primary"
            title="Restores the settings of this proof. Undo brings the present ones back."
            onClick={() =>
              void shelf.withDocument(
                proof.id,
                (document) => (store.getState().set((d) => ({ ...document, budget: d.budget })), view.show("live")),
              )
            }
          >
            Restore
          </button>
          <a
            className="link link-hover"
            aria-label={`Compose proof ${number}`}
            title="Its passes as layers: put together anew, with masks, without rendering."
            href={composeUrl(`${title}, ${proof.note || `proof ${number}`}`, [{ sha256: proof.film, name: `proof ${number}` }])}
          >
            Compose
          </a>
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
