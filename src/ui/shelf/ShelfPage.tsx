/** The shelf: projects as cards with their latest picture. */
import { useCallback, useEffect, useState } from "react";
import { request } from "../shared/api";

interface Card {
  id: string;
  title: string;
  picture: string | null;
  updatedAt: number;
  proofs: number;
}
interface Demo {
  id: string;
  title: string;
  description: string;
}

function ago(t: number): string {
  const minutes = Math.round((Date.now() - t) / 60000);
  if (minutes < 1) return "just now";
  if (minutes < 60) return `${minutes} min ago`;
  const hours = Math.round(minutes / 60);
  if (hours < 24) return `${hours} h ago`;
  return new Date(t).toLocaleDateString("en", { day: "numeric", month: "long", year: "numeric" });
}

export default function ShelfPage() {
  const [state, setState] = useState<{ projects: Card[]; demos: Demo[] } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [removed, setRemoved] = useState<Card | null>(null);
  const [busy, setBusy] = useState(false);

  const load = useCallback(async () => {
    try {
      setState(await request("GET", "/api/projects"));
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
  const begin = (from: { demo: string } | { document: unknown }): Promise<void> =>
    act(async () => {
      const { id } = await request<{ id: string }>("POST", "/api/projects", from);
      location.assign(`/bench/${id}`);
    });

  return (
    <div className="mx-auto max-w-6xl px-8 py-8">
      <header className="flex items-end justify-between border-b hair pb-4">
        <div>
          <h1 className="text-2xl font-semibold text-primary">Fumarium</h1>
          <p className="text-sm quiet">Fill scenes with air: fog, haze and shafts of light, as they would be.</p>
        </div>
        <div className="flex gap-2">
          <button
            className="btn btn-sm btn-outline hair"
            disabled={busy}
            title="A project without a set: bring your own in, or block with shapes."
            onClick={() => void begin({ document: { fumarium: 1, title: "New scene" } })}
          >
            New, empty
          </button>
          {state?.demos.map((d) => (
            <button
              key={d.id}
              className="btn btn-sm btn-outline hair"
              disabled={busy}
              title={d.description}
              onClick={() => void begin({ demo: d.id })}
            >
              New from {d.title.toLowerCase()}
            </button>
          ))}
        </div>
      </header>
      {problem && (
        <div role="alert" className="mt-4 flex items-baseline gap-3 border-l-2 border-error pl-3 text-sm">
          <span>{problem} Nothing was lost.</span>
          <button className="link" onClick={() => void load()}>
            Try again
          </button>
        </div>
      )}
      {removed && (
        <p role="status" className="mt-4 border-l-2 border-primary pl-3 text-sm">
          {removed.title} was taken off the shelf.{" "}
          <button
            className="link text-primary"
            onClick={() => void act(() => request("PATCH", `/api/projects/${removed.id}`, { deleted: false })).then(() => setRemoved(null))}
          >
            Put it back
          </button>
        </p>
      )}
      {!state && !problem && (
        <p className="mt-10 text-sm quiet" role="status">
          Looking at the shelf …
        </p>
      )}
      {state && state.projects.length === 0 && (
        <p className="mt-10 text-sm quiet">The shelf is empty. Start from a demo scene above, or with an empty one.</p>
      )}
      <ul className="mt-6 grid grid-cols-[repeat(auto-fill,minmax(19rem,1fr))] gap-6">
        {state?.projects.map((p) => (
          <ProjectCard
            key={p.id}
            card={p}
            busy={busy}
            onDuplicate={() => void act(() => request("POST", `/api/projects/${p.id}/duplicate`))}
            onRename={(title) => void act(() => request("PATCH", `/api/projects/${p.id}`, { title }))}
            onRemove={() => void act(() => request("PATCH", `/api/projects/${p.id}`, { deleted: true })).then(() => setRemoved(p))}
          />
        ))}
      </ul>
    </div>
  );
}

function ProjectCard(p: { card: Card; busy: boolean; onDuplicate(): void; onRename(title: string): void; onRemove(): void }) {
  const { card } = p;
  const [title, setTitle] = useState<string | null>(null);
  const commit = (): void => {
    const next = title?.trim();
    setTitle(null);
    if (next && next !== card.title) p.onRename(next);
  };
  return (
    <li className="border hair bg-base-100" data-project={card.id}>
      <a href={`/bench/${card.id}`} aria-label={`Open ${card.title}`} className="block">
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
