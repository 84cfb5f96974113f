/** The shelf: projects as cards with their latest picture. */
import { useCallback, useEffect, useRef, useState } from "react";
import { API, call, type AnswerOf, type ProjectCard } from "#api/contract";
import { request } from "../shared/api";
import { PlatePicker } from "../shared/PlatePicker";
import { bringPlate, noteGuesses } from "../shared/plate-files";
import { Problem } from "../shared/Problem";
import { RendersLink } from "../shared/RendersLink";
import { ago } from "./ago";
import { openArchive } from "./open-archive";
import { Stacks } from "./Stacks";

export default function ShelfPage() {
  const [state, setState] = useState<AnswerOf<typeof API.shelf> | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [removed, setRemoved] = useState<ProjectCard | null>(null);
  const [busy, setBusy] = useState(false);

  const load = useCallback(async () => {
    try {
      setState(await call(request, API.shelf, {}));
      setProblem(null);
    } catch (error) {
      setProblem((error as Error).message);
    }
  }, []);
  useEffect(() => void load(), [load]);

  const act = async (work: () => Promise<unknown>): Promise<void> => {
    setBusy(true);
    try {
      await work();
      await load();
    } catch (error) {
      setProblem((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const picker = useRef<HTMLInputElement>(null);
  const [doing, setDoing] = useState<string | null>(null);
  const unpack = (file: File): Promise<void> =>
    act(async () => {
      try {
        const id = await openArchive(file, setDoing);
        location.assign(`/bench/${id}`);
      } finally {
        setDoing(null);
      }
    });
  const beginPlate = (files: File[]): Promise<void> =>
    act(async () => {
      try {
        const { document, guessed } = await bringPlate(files, setDoing);
        const { id } = await call(request, API.createProject, {}, { document });
        noteGuesses(id, guessed);
        location.assign(`/bench/${id}`);
      } finally {
        setDoing(null);
      }
    });
  const begin = (from: { demo: string } | { document: unknown }): Promise<void> =>
    act(async () => {
      const { id } = await call(request, API.createProject, {}, from);
      location.assign(`/bench/${id}`);
    });

  return (
    <div className="mx-auto max-w-6xl px-8 py-8">
      <header className="flex flex-wrap items-end justify-between gap-3 border-b hair pb-4">
        <div>
          <h1 className="text-2xl font-semibold text-primary">Fumarium</h1>
          <p className="text-sm quiet">Fill rendered scenes with fog, haze and light shafts that are physically correct.</p>
        </div>
        <div className="flex items-center gap-3">
          <RendersLink />
          {doing && (
            <span role="status" className="text-sm quiet">
              {doing}
            </span>
          )}
          <button
            className="btn btn-sm btn-outline hair"
            disabled={busy || Boolean(state?.readOnly)}
            title="A project file (.zip) that was saved from a bench, with all that belongs to it."
            onClick={() => picker.current?.click()}
          >
            Open a project file …
          </button>
          <input
            ref={picker}
            type="file"
            accept=".zip"
            aria-label="Project file"
            className="hidden"
            onChange={(e) => {
              const file = e.target.files?.[0];
              if (file) void unpack(file);
              e.target.value = "";
            }}
          />
        </div>
      </header>
      <main>
        {problem && <Problem words={problem} again={() => void load()} />}
        {removed && (
          <p role="status" className="mt-4 border-l-2 border-primary pl-3 text-sm">
            {removed.title} was taken off the shelf.{" "}
            <button
              className="link text-primary"
              onClick={() =>
                void act(() => call(request, API.changeProject, { id: removed.id }, { deleted: false })).then(() => setRemoved(null))
              }
            >
              Restore
            </button>
          </p>
        )}
        {state?.readOnly && (
          <p role="status" className="mt-4 border-l-2 border-primary pl-3 text-sm">
            Projects can be looked at here, but nothing is kept: {state.readOnly}.
          </p>
        )}
        {!state && !problem && (
          <p className="mt-10 text-sm quiet" role="status">
            Looking at the shelf …
          </p>
        )}
        {state && state.projects.length === 0 && (
          <p className="mt-10 text-sm quiet">The shelf is empty. Begin with one of the sets below, or with an empty scene.</p>
        )}
        <ul aria-label="Projects" className="mt-6 grid grid-cols-[repeat(auto-fill,minmax(19rem,1fr))] gap-6">
          {state?.projects.map((p) => (
            <ProjectCard
              key={p.id}
              card={p}
              busy={busy}
              onDuplicate={() => void act(() => call(request, API.duplicateProject, { id: p.id }))}
              onRename={(title) => void act(() => call(request, API.changeProject, { id: p.id }, { title }))}
              onRemove={() => void act(() => call(request, API.changeProject, { id: p.id }, { deleted: true })).then(() => setRemoved(p))}
            />
          ))}
        </ul>
        {state && <Stacks />}
        {state && !state.readOnly && (
          <PlatePicker onFiles={(files) => void beginPlate(files)}>
            {(open) => (
              <section aria-label="Begin with" className="mt-10 border-t hair pt-5">
                <h2 className="text-sm font-semibold">Begin with</h2>
                <ul className="mt-3 grid grid-cols-[repeat(auto-fill,minmax(12.5rem,1fr))] gap-4">
                  <Beginning
                    title="An empty scene"
                    description="Import your own set, or block with shapes."
                    picture={null}
                    busy={busy}
                    onBegin={() => void begin({ document: { fumarium: 2, title: "New scene" } })}
                  />
                  <Beginning
                    title="A picture with its depth"
                    description="A plate from elsewhere: rendered or photographed, with depth in its file or beside it."
                    picture={null}
                    busy={busy}
                    onBegin={open}
                  />
                  {state.demos.map((d) => (
                    <Beginning
                      key={d.id}
                      title={d.title}
                      description={d.description}
                      picture={d.picture}
                      busy={busy}
                      onBegin={() => void begin({ demo: d.id })}
                    />
                  ))}
                </ul>
              </section>
            )}
          </PlatePicker>
        )}
      </main>
    </div>
  );
}

function Beginning(p: { title: string; description: string; picture: string | null; busy: boolean; onBegin(): void }) {
  return (
    <li>
      <button className="group block w-full text-left" disabled={p.busy} onClick={p.onBegin}>
        <span className="sr-only">Begin with </span>
        {p.picture ? (
          <img
            src={`/api/assets/${p.picture}`}
            alt=""
            className="aspect-video w-full border hair object-cover group-hover:border-primary"
          />
        ) : (
          <span className="unexposed block aspect-video w-full border hair group-hover:border-primary" />
        )}
        <span className="block pt-1.5 text-sm font-semibold group-hover:text-primary">{p.title}</span>
        <span className="block text-xs quiet">{p.description}</span>
      </button>
    </li>
  );
}

function ProjectCard(p: { card: ProjectCard; busy: boolean; onDuplicate(): void; onRename(title: string): void; onRemove(): void }) {
  const { card } = p;
  const [title, setTitle] = useState<string | null>(null);
  const commit = (): void => {
    const next = title?.trim();
    setTitle(null);
    if (next && next !== card.title) p.onRename(next);
  };
  return (
    <li className="border hair bg-base-100" data-project={card.id}>
      <a href={`/bench/${card.id}`} className="block">
        <span className="sr-only">Open {card.title}, </span>
        {card.picture ? (
          <img src={`/api/assets/${card.picture}`} alt="" className="aspect-video w-full object-cover" />
        ) : (
          <span className="unexposed flex aspect-video items-center justify-center text-xs quiet">no picture yet</span>
        )}
      </a>
      <div className="p-3">
        {title === null ? (
          <a href={`/bench/${card.id}`} className="block truncate font-semibold hover:text-primary">
            {card.title}
          </a>
        ) : (
          <input
            autoFocus
            aria-label="New name"
            className="input input-xs w-full"
            maxLength={200}
            value={title}
            onChange={(e) => setTitle(e.target.value)}
            onBlur={commit}
            onKeyDown={(e) => (e.key === "Enter" ? commit() : e.key === "Escape" ? setTitle(null) : undefined)}
          />
        )}
        <p className="figures text-xs quiet">
          {ago(card.updatedAt)}
          {card.proofs ? `, ${card.proofs} ${card.proofs === 1 ? "proof" : "proofs"}` : ""}
        </p>
        <div className="mt-2 flex gap-3 text-xs">
          <button className="link link-hover" disabled={p.busy} onClick={() => setTitle(card.title)}>
            Rename
          </button>
          <button className="link link-hover" disabled={p.busy} onClick={p.onDuplicate}>
            Duplicate
          </button>
          <button className="link link-hover ml-auto quiet" disabled={p.busy} onClick={p.onRemove}>
            Delete
          </button>
        </div>
      </div>
    </li>
  );
}
