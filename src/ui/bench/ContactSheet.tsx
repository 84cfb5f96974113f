/** A sheet of proofs with their settings, as a picture or as pages. */
import { useRef, useState } from "react";
import type { SceneDocument } from "#core/document/schema";
import { useLengths } from "../shared/units";
import { captionOf, today } from "./model/contact-sheet";
import { useBench, useDocument } from "./model/context";
import type { Numbered } from "./model/proof-order";
import { saveSheet } from "./model/sheet-file";

export default function ContactSheet({ proofs }: { proofs: readonly Numbered[] }) {
  const { proofs: shelf } = useBench();
  const title = useDocument((d) => d.title);
  const lengths = useLengths();
  const [done, setDone] = useState<number | null>(null);
  const [error, setError] = useState<string | null>(null);
  const cancelled = useRef(false);

  const make = async (kind: "png" | "pdf"): Promise<void> => {
    cancelled.current = false;
    setError(null);
    setDone(0);
    try {
      let first: { number: number; doc: SceneDocument } | null = null;
      const heading = `${title}, ${proofs.length} ${proofs.length === 1 ? "proof" : "proofs"}, ${today()}`;
      await saveSheet(kind, { title: `${title} proofs`, heading, count: proofs.length }, async (i) => {
        const proof = proofs[i]!;
        const doc = await shelf.document(proof.id);
        if (cancelled.current) return undefined;
        const lines = captionOf(proof, doc, first, lengths);
        first ??= { number: proof.number, doc };
        setDone(i + 1);
        return { hash: proof.picture, lines };
      });
    } catch (e) {
      setError(`The sheet was not made: ${(e as Error).message}`);
    } finally {
      setDone(null);
    }
  };

  return (
    <div className="mt-1 space-y-1" role="group" aria-label="Contact sheet">
      <p className="quiet">
        {proofs.length} {proofs.length === 1 ? "picture" : "pictures"} with settings
      </p>
      {done === null ? (
        <p className="flex gap-1.5">
          <button className="btn btn-xs btn-outline hair flex-1" disabled={proofs.length === 0} onClick={() => void make("png")}>
            PNG
          </button>
          <button
            className="btn btn-xs btn-outline hair flex-1"
            disabled={proofs.length === 0}
            title="A4 pages across, three pictures in a row."
            onClick={() => void make("pdf")}
          >
            PDF
          </button>
        </p>
      ) : (
        <p role="status">
          {done} of {proofs.length}{" "}
          <button className="link" onClick={() => (cancelled.current = true)}>
            Cancel
          </button>
        </p>
      )}
      {error && (
        <p role="alert" className="text-error">
          {error}
        </p>
      )}
    </div>
  );
}
