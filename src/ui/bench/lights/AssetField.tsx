/** A file that a light needs: which one it has, and another from disk. */
import { useRef, useState } from "react";
import type { SceneDocument } from "#core/document/schema";
import { useBench, useDocument } from "../context";
import { bringAsset, withAsset } from "./assets";

export function AssetField(p: {
  label: string;
  kind: "image" | "profile";
  accept: string;
  value: string | null;
  teach: string;
  /** The document with the named asset in its place. */
  onTake(doc: SceneDocument, name: string): SceneDocument;
}) {
  const { store, session } = useBench();
  const doc = useDocument();
  const picker = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const read = async (file: File): Promise<void> => {
    setBusy(true);
    setProblem(null);
    try {
      const stored = await bringAsset(p.kind, file, store.getState().document, session);
      store.getState().set((d) => p.onTake(withAsset(d, stored), stored.name));
    } catch (error) {
      setProblem(`${(error as Error).message}. Nothing was changed.`);
    } finally {
      setBusy(false);
    }
  };
  const uri = p.value ? doc.assets[p.value]?.uri : null;
  return (
    <div>
      <div className="grid grid-cols-[7.2rem_1fr] items-center gap-x-2 text-sm" title={p.teach}>
        <span className="quiet">{p.label}</span>
        <button
          className="btn btn-xs btn-outline hair min-w-0 justify-start"
          disabled={busy}
          aria-label={`${p.label}: choose a file`}
          onClick={() => picker.current?.click()}
        >
          <span className="truncate">{busy ? "Reading …" : (uri ?? "choose a file …")}</span>
        </button>
      </div>
      <input
        ref={picker}
        type="file"
        accept={p.accept}
        aria-label={`File of ${p.label.toLowerCase()}`}
        className="hidden"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) void read(file);
          e.target.value = "";
        }}
      />
      {problem && (
        <p role="alert" className="pt-1 text-xs break-words text-error">
          {problem}
        </p>
      )}
    </div>
  );
}
