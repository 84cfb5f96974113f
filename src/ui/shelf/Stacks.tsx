/** Stacks on the shelf: compositions of pictures that are there. */
import { useCallback, useEffect, useRef, useState } from "react";
import { API, call, type AnswerOf, type StackCard } from "#api/contract";
import { openFiles } from "../compose/model/open-files";
import { PICTURE_FILES } from "../compose/model/picture-files";
import { request } from "../shared/api";
import { Problem } from "../shared/Problem";
import { ago } from "./ago";

export function Stacks() {
  const [state, setState] = useState<AnswerOf<typeof API.stacks> | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [doing, setDoing] = useState<string | null>(null);
  const [removed, setRemoved] = useState<StackCard | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  const load = useCallback(async () => {
    try {
      setState(await call(request, API.stacks, {}));
    } catch (error) {
      setProblem((error as Error).message);
    }
  }, []);
  useEffect(() => void load(), [load]);
  const open = async (files: readonly File[]): Promise<void> => {
    setProblem(null);
    setDoing("Looking at the files …");
    try {
      location.assign(`/compose/${await openFiles(files, setDoing)}`);
    } catch (error) {
      setProblem((error as Error).message);
    } finally {
      setDoing(null);
    }
  };
  const remove = async (card: StackCard, deleted: boolean): Promise<void> => {
    try {
      await call(request, API.changeStack, { stack: card.id }, { deleted });
      setRemoved(deleted ? card : null);
      await load();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  if (!state && !problem) return null;
  return (
    <section aria-label="Stacks" className="mt-10 border-t hair pt-5">
      <div className="flex flex-wrap items-baseline gap-4">
        <h2 className="text-sm font-semibold">Compose</h2>
        <p className="text-xs quiet">Passes of finished pictures put together: from a render, a proof, or OpenEXR files of any program.</p>
        {state && !state.readOnly && (
          <button
            className="btn btn-xs btn-outline hair ml-auto"
            disabled={doing !== null}
            title="OpenEXR, HDR, PNG and JPEG files of one size, or a stack that was packed (.zip)."
            onClick={() => picker.current?.click()}
          >
            Compose pictures …
          </button>
        )}
        <input
          ref={picker}
          type="file"
          accept={`${PICTURE_FILES},.zip`}
          multiple
          aria-label="Pictures to compose"
          className="hidden"
          onChange={(e) => {
            const files = [...(e.target.files ?? [])];
            e.target.value = "";
            if (files.length > 0) void open(files);
          }}
        />
      </div>
      {doing && (
        <p role="status" className="mt-2 text-sm quiet">
          {doing}
        </p>
      )}
      {problem && (
        <Problem
          words={problem}
          again={() => {
            setProblem(null);
            void load();
          }}
        />
      )}
      {removed && (
        <p role="status" className="mt-3 border-l-2 border-primary pl-3 text-sm">
          {removed.title} was taken off the shelf.{" "}
          <button className="link text-primary" onClick={() => void remove(removed, false)}>
            Restore
          </button>
        </p>
      )}
      <ul aria-label="Stacks" className="mt-3 grid grid-cols-[repeat(auto-fill,minmax(12.5rem,1fr))] gap-4">
        {state?.stacks.map((card) => (
          <li key={card.id} data-stack={card.id}>
            <a href={`/compose/${card.id}`} className="group block">
              {card.picture ? (
                <img
                  src={`/api/assets/${card.picture}`}
                  alt=""
                  className="aspect-video w-full border hair object-cover group-hover:border-primary"
                />
              ) : (
                <span className="unexposed block aspect-video w-full border hair group-hover:border-primary" />
              )}
              <span className="block truncate pt-1.5 text-sm font-semibold group-hover:text-primary">{card.title}</span>
            </a>
            <p className="figures flex justify-between text-xs quiet">
              <span>
                {ago(card.updatedAt)}, {card.layers} {card.layers === 1 ? "layer" : "layers"}
              </span>
              <button className="link link-hover" aria-label={`Delete ${card.title}`} onClick={() => void remove(card, true)}>
                Delete
              </button>
            </p>
          </li>
        ))}
      </ul>
    </section>
  );
}
