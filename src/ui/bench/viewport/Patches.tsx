/** Parts of the frame that were kept with other settings, in their place over the live picture, with what they have otherwise. */
import { useEffect } from "react";
import { useStore } from "zustand";
import type { Proof } from "#api/contract";
import type { PassName } from "#core/film/passes";
import { documentChanges } from "#core/document/changes";
import { useBench, useDocument } from "../model/context";
import { numbered } from "../model/proof-order";
import { useLengths } from "../../shared/units";
import { FilmCanvas } from "./FilmCanvas";

/** Changes that a label tells; the rest is counted. */
const TOLD = 2;

export function Patches(p: { pass: PassName; width: number; onError(message: string): void }) {
  const { proofs } = useBench();
  const kept = useStore(proofs.state, (s) => s.proofs);
  return numbered(kept)
    .filter(({ laid, part }) => laid && part)
    .map((proof) => <Patch key={proof.id} proof={proof} number={proof.number} {...p} />);
}

function Patch(p: { proof: Proof; number: number; pass: PassName; width: number; onError(message: string): void }) {
  const { proofs, view } = useBench();
  const { id, note } = p.proof;
  const part = p.proof.part!;
  const made = useStore(proofs.state, (s) => s.documents[id]);
  const live = useDocument();
  const lengths = useLengths();
  useEffect(() => void proofs.withDocument(id, () => undefined), [proofs, id]);
  // the region itself is where it lies, not what it shows
  const changes = made ? documentChanges(live, { ...made, film: { ...made.film, region: live.film.region } }, lengths) : [];
  const said = changes.slice(0, TOLD).map(({ of, setting, to, stops }) => `${of} ${setting} ${stops ?? to}`);
  const more = changes.length > TOLD ? `, ${changes.length - TOLD} more` : "";
  const percent = (v: number): string => `${100 * v}%`;
  const right = percent(1 - part.x - part.width),
    bottom = percent(1 - part.y - part.height);
  return (
    <>
      <FilmCanvas
        what={id}
        pass={p.pass}
        proof={made}
        width={p.width}
        clip={`inset(${percent(part.y)} ${right} ${bottom} ${percent(part.x)})`}
        label={`Patch: proof ${p.number}`}
        onError={p.onError}
      />
      <div
        className="pointer-events-none absolute border border-base-content/40"
        style={{ left: percent(part.x), top: percent(part.y), width: percent(part.width), height: percent(part.height) }}
      >
        <button
          className="pointer-events-auto absolute top-0 left-0 max-w-full truncate bg-base-200/85 px-1 text-left text-xs"
          aria-label={`Patch of proof ${p.number}: to the front`}
          title={
            changes.length > 0
              ? changes.map(({ of, setting, from, to }) => `${of} ${setting}: ${from} → ${to}`).join("\n")
              : "The same settings."
          }
          onPointerDown={(e) => e.stopPropagation()}
          onClick={() => view.show(id)}
        >
          <span className="figures">{p.number}</span> {note || said.join(", ") + more || "the same settings"}
        </button>
      </div>
    </>
  );
}
