/** A file that a light needs: which one it has, and another from disk. */
import { useRef, useState } from "react";
import type { SceneDocument } from "#core/document/schema";
import { useBench, useDocument } from "../../model/context";
import { bringAsset, completed, withAsset, type StoredAsset } from "../../model/assets";

/** Most files taken at once. */
const MAX_FILES = 1000;

export function AssetField(p: {
  label: string;
  kind: "image" | "profile" | "volume" | "lut";
  accept: string;
  value: string | null;
  tooltip: string;
  /** Takes several files at once, in the order of their names. */
  several?: boolean;
  /** In place of the file's name. */
  words?: string;
  /** The document with the named assets in their place. */
  onTake(doc: SceneDocument, name: string, names: string[], stored: readonly StoredAsset[]): SceneDocument;
}) {
  const { store, session } = useBench();
  const doc = useDocument();
  const picker = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const read = async (files: File[]): Promise<void> => {
    setProblem(null);
    try {
      if (files.length > MAX_FILES) throw new Error(`${files.length} files, more than the limit of ${MAX_FILES}`);
      let had = store.getState().document;
      const stored: StoredAsset[] = [];
      const complete = await completed(p.kind, files);
      if (complete.length > 1 && !p.several) throw new Error("one file is needed here");
      for (const [i, file] of complete.entries()) {
        setBusy(complete.length > 1 ? `Reading ${i + 1} of ${complete.length} …` : "Reading …");
        stored.push(await bringAsset(p.kind, file, had, session));
        had = withAsset(had, stored.at(-1)!);
      }
      const names = stored.map((s) => s.name);
      store.getState().set((d) => p.onTake(stored.reduce(withAsset, d), names[0]!, names, stored));
    } catch (error) {
      setProblem(`${(error as Error).message}. Nothing was changed.`);
    } finally {
      setBusy(null);
    }
  };
  const uri = p.value ? doc.assets[p.value]?.uri : null;
  const shown = busy ?? p.words ?? uri ?? (p.several ? "choose files …" : "choose a file …");
  return (
    <div>
      <div className="grid grid-cols-[8.2rem_1fr] items-center gap-x-2 text-sm" title={p.tooltip}>
        <span className="quiet">{p.label}</span>
        <button
          className="btn btn-xs btn-outline hair min-w-0 justify-start"
          disabled={busy !== null}
          aria-label={`${p.label}: ${shown}`}
          onClick={() => picker.current?.click()}
        >
          <span className="truncate" title={uri ?? undefined}>
            {shown}
          </span>
        </button>
      </div>
      <input
        ref={picker}
        type="file"
        accept={p.accept}
        // a profile may come with the file of its tilt
        multiple={p.several === true || p.kind === "profile"}
        aria-label={`File of ${p.label.toLowerCase()}`}
        className="hidden"
        onChange={(e) => {
          const files = [...(e.target.files ?? [])].sort((a, b) => a.name.localeCompare(b.name, "en", { numeric: true }));
          if (files.length > 0) void read(files);
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
