/** The pictures that a stack is of. */
import { useRef, useState } from "react";
import { useStore } from "zustand";
import { STACK_LIMITS } from "#core/compose/stack";
import { uploadWithProgress } from "../shared/api";
import { Fold } from "./Fold";
import { useComposition, useStack } from "./model/context";
import { kindOfPicture, PICTURE_FILES } from "./model/picture-files";

export function SourcesFields() {
  const composition = useComposition();
  const sources = useStack((s) => s.sources);
  const { size, frames } = useStore(composition.shown);
  const [doing, setDoing] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  const entries = Object.entries(sources);
  const add = async (files: readonly File[]): Promise<void> => {
    setProblem(null);
    try {
      for (const file of files) {
        setDoing(`${file.name}: storing …`);
        const { sha256 } = await uploadWithProgress(
          kindOfPicture(file.name),
          file,
          (share) => setDoing(`${file.name}: storing, ${Math.round(100 * share)} %`),
          new AbortController().signal,
        );
        setDoing(`${file.name}: reading …`);
        await composition.add({ name: file.name.slice(0, 200), sha256, file: null });
      }
    } catch (error) {
      setProblem(`${(error as Error).message}\nThe stack stays as it was.`);
    } finally {
      setDoing(null);
    }
  };
  return (
    <Fold title="Sources" says={size ? `${size[0]} × ${size[1]}` : ""}>
      <ul aria-label="Sources" className="figures text-xs">
        {entries.map(([key, { name }]) => (
          <li key={key} className="flex justify-between gap-2">
            <span className="truncate" title={key}>
              {name}
            </span>
            <span className="shrink-0 quiet">{frames.get(key)?.layers.size ?? 0} layers</span>
          </li>
        ))}
      </ul>
      <button
        className="btn btn-xs btn-outline hair w-full"
        disabled={doing !== null || entries.length >= STACK_LIMITS.sources}
        title="OpenEXR, HDR, PNG and JPEG files of the same size, of any program."
        onClick={() => picker.current?.click()}
      >
        {doing ?? "Add pictures …"}
      </button>
      <input
        ref={picker}
        type="file"
        accept={PICTURE_FILES}
        multiple
        aria-label="Pictures to add"
        className="hidden"
        onChange={(e) => {
          const files = [...(e.target.files ?? [])];
          e.target.value = "";
          if (files.length > 0) void add(files);
        }}
      />
      {problem && (
        <p role="alert" className="border-l-2 border-error py-1 pl-2 text-xs whitespace-pre-wrap">
          {problem}
        </p>
      )}
    </Fold>
  );
}
