/** Renders: finals in the background, in their order, with what they have come to. */
import { useCallback, useEffect, useRef, useState } from "react";
import { API, call, type AnswerOf, type BodyOf, type Render, type RenderedFile } from "#api/contract";
import { bytesText, durationText, formatNumber } from "#core/document/quantities";
import { request } from "../shared/api";
import { composeUrl } from "../shared/compose-url";
import { Problem } from "../shared/Problem";
import { Machines, useMachines } from "./Machines";
import { askedText, leftText, percentText, shareOf, STATE_WORDS } from "#api/render-words";

/** Milliseconds between looks while something goes on, and while nothing does. */
const SOON = 1000;
const LATER = 4000;
/** Files of a render that are listed. */
const MOST_LISTED = 500;

type State = AnswerOf<typeof API.renders>;
type Change = BodyOf<typeof API.changeRender>;

export default function RendersPage() {
  const [state, setState] = useState<State | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const [removed, setRemoved] = useState<Render | null>(null);
  const seen = useMachines();
  const timer = useRef<ReturnType<typeof setTimeout> | null>(null);

  const load = useCallback(async () => {
    if (timer.current) clearTimeout(timer.current);
    let going = true;
    try {
      const next = await call(request, API.renders, {});
      going = next.renders.some((r) => r.state === "rendering" || r.state === "ending" || r.state === "waiting");
      setState(next);
      setProblem(null);
    } catch (error) {
      setProblem((error as Error).message);
    }
    timer.current = setTimeout(() => void load(), going && !document.hidden ? SOON : LATER);
  }, []);
  useEffect(() => {
    void load();
    return () => {
      if (timer.current) clearTimeout(timer.current);
    };
  }, [load]);

  const change = async (of: Render, to: Change): Promise<void> => {
    try {
      await call(request, API.changeRender, { render: of.id }, to);
      if (to.deleted) setRemoved(of);
      await load();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  const threads = async (to: State["threads"]): Promise<void> => {
    try {
      await call(request, API.setRenderThreads, {}, to);
      await load();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  const all = state?.renders.filter((r) => r.state !== "done" && r.state !== "cancelled") ?? [];
  /** Those of one priority, in their order. */
  const besides = (of: Render): Render[] => all.filter((r) => r.priority === of.priority);
  /** Moves a render before or after its neighbour. */
  const move = (of: Render, by: -1 | 1): void => {
    const inLine = besides(of);
    const at = inLine.indexOf(of);
    const [near, far] = [inLine[at + by], inLine[at + 2 * by]];
    if (near) void change(of, { place: far ? (near.place + far.place) / 2 : near.place + by });
  };

  return (
    <div className="mx-auto max-w-6xl px-8 py-6">
      <header className="flex flex-wrap items-end justify-between gap-3 border-b hair pb-3">
        <div className="flex items-baseline gap-4">
          <a href="/" className="text-sm text-primary" title="Back to the shelf">
            Fumarium
          </a>
          <h1 className="text-2xl font-semibold">Renders</h1>
        </div>
        {state && (
          <div className="flex flex-wrap items-center gap-4 text-xs quiet">
            {!seen.machines?.url && (
              <>
                <Threads
                  label="Threads"
                  tooltip="Worker threads that render while no bench is open."
                  value={state.threads.alone}
                  most={state.processors}
                  onChange={(alone) => void threads({ ...state.threads, alone })}
                />
                <Threads
                  label="beside a bench"
                  tooltip="Worker threads that render while a bench is open, so that its picture stays quick."
                  value={state.threads.beside}
                  most={state.processors}
                  onChange={(beside) => void threads({ ...state.threads, beside })}
                />
              </>
            )}
            <span title={`Files lie in ${state.folder}`}>{bytesText(state.free)} free</span>
          </div>
        )}
      </header>
      <main>
        {problem && <Problem words={problem} again={() => void load()} />}
        {state?.readOnly && (
          <p role="status" className="mt-4 border-l-2 border-warning pl-3 text-sm">
            Nothing can be kept: {state.readOnly}.
          </p>
        )}
        {state?.elsewhere && (
          <p role="status" className="mt-4 border-l-2 border-warning pl-3 text-sm">
            {state.elsewhere}
          </p>
        )}
        {removed && (
          <p role="status" className="mt-4 border-l-2 border-primary pl-3 text-sm">
            {removed.order.name} was removed, its files too, in a week.{" "}
            <button
              className="link text-primary"
              onClick={() => {
                void change(removed, { deleted: false });
                setRemoved(null);
              }}
            >
              Bring it back
            </button>
          </p>
        )}
        {!state && !problem && (
          <p role="status" className="mt-8 text-sm quiet">
            Looking …
          </p>
        )}
        {state?.renders.length === 0 && (
          <p className="mt-8 max-w-prose text-sm quiet">
            Nothing is rendered yet. On a bench, Render (Shift R) orders a final of the present picture, a proof or all kept lenses. It is
            rendered here in the background, and goes on after a restart.
          </p>
        )}
        <Machines seen={seen} />
        <ul aria-label="Renders" className="mt-2">
          {state?.renders.map((r) => {
            const inLine = besides(r);
            const at = inLine.indexOf(r);
            return (
              <Row
                key={r.id}
                render={r}
                up={at > 0 ? () => move(r, -1) : null}
                down={at >= 0 && at < inLine.length - 1 ? () => move(r, 1) : null}
                rivals={at >= 0 && all.length > 1}
                change={(to) => void change(r, to)}
                folder={state.folder}
              />
            );
          })}
        </ul>
      </main>
    </div>
  );
}

function Threads(p: { label: string; tooltip: string; value: number; most: number; onChange(v: number): void }) {
  return (
    <label className="flex items-center gap-2" title={p.tooltip}>
      {p.label}
      <select
        className="select select-xs w-auto"
        value={Math.min(p.value, p.most)}
        onChange={(e) => p.onChange(Number(e.target.value))}
        aria-label={p.label === "Threads" ? "Threads" : "Threads beside a bench"}
      >
        {Array.from({ length: p.most }, (_, i) => (
          <option key={i} value={i + 1}>
            {i + 1}
          </option>
        ))}
      </select>
    </label>
  );
}

function Row({
  render: r,
  up,
  down,
  rivals,
  change,
  folder,
}: {
  render: Render;
  up: (() => void) | null;
  down: (() => void) | null;
  /** Whether others wait beside it. */
  rivals: boolean;
  change(to: Change): void;
  folder: string;
}) {
  const [open, setOpen] = useState(false);
  const share = shareOf(r);
  const going = r.state === "waiting" || r.state === "rendering";
  const spent = r.seconds + (r.now?.seconds ?? 0);
  const facts = [
    r.forecast &&
      `forecast ${durationText(r.forecast.said)} (${durationText(r.forecast.low)} to ${durationText(r.forecast.high)}) of processor time per frame`,
    spent > 0 && `${durationText(spent)} spent`,
    leftText(r),
    r.samples !== null && `${formatNumber(r.samples, 4)} samples`,
    r.noise !== null && `noise ${percentText(r.noise)}`,
    r.cleanedNoise !== null && `cleaned ${percentText(r.cleanedNoise)}`,
    r.bytes > 0 && bytesText(r.bytes),
  ].filter(Boolean);
  return (
    <li data-render={r.id} data-state={r.state} className="grid grid-cols-[12rem_1fr] gap-x-4 border-b hair py-3">
      <div className="flex h-28 items-center justify-center bg-base-200">
        {r.picture === null ? (
          <span className="text-xs quiet">{going ? "no picture yet" : "no picture"}</span>
        ) : (
          <img
            src={`/api/renders/${r.id}/picture?${r.picture}`}
            alt={`${r.order.name} as it is by now`}
            className="max-h-28 max-w-full object-contain"
          />
        )}
      </div>
      <div className="min-w-0 text-sm">
        <div className="flex flex-wrap items-baseline gap-3">
          <h2 className="truncate font-semibold">{r.order.name}</h2>
          <a className="link link-hover text-xs quiet" href={`/bench/${r.projectId}`} title="To its bench">
            {r.title}
          </a>
          <span className={`ml-auto text-xs ${r.state === "failed" ? "text-error" : r.state === "rendering" ? "text-primary" : "quiet"}`}>
            {STATE_WORDS[r.state]}
            {r.frames > 1 && `, ${r.done} of ${r.frames} frames`}
          </span>
        </div>
        <p className="text-xs quiet">{askedText(r)}</p>
        <div
          className="my-1.5 h-1 bg-base-300"
          role="progressbar"
          aria-label={`Done of ${r.order.name}`}
          aria-valuemin={0}
          aria-valuemax={100}
          aria-valuenow={Math.round(100 * share)}
        >
          <div className="h-full bg-primary" style={{ width: `${100 * share}%` }} />
        </div>
        <p className="figures text-xs">
          {r.state === "rendering" &&
            r.now?.frame != null &&
            `frame ${r.now.frame}${r.now.hand > 1 ? ` and ${r.now.hand - 1} more` : ""}, `}
          {r.state === "rendering" && (r.now?.says ?? percentText(share))}
          {r.state === "rendering" && facts.length > 0 && " · "}
          {facts.join(" · ")}
        </p>
        {r.message && (
          <p role={r.state === "failed" ? "alert" : "status"} className={`text-xs ${r.state === "failed" ? "text-error" : "text-warning"}`}>
            {r.message}
          </p>
        )}
        <div className="mt-1.5 flex flex-wrap gap-1">
          {r.state === "rendering" && (
            <Act
              words="End now"
              tip="Writes the frame in hand as it is by now; those after it are left out."
              act={() => change({ state: "ending" })}
            />
          )}
          {going && <Act words="Pause" tip="Holds it; what it has come to is kept." act={() => change({ state: "paused" })} />}
          {r.state === "paused" && <Act words="Go on" tip="Where it was held." act={() => change({ state: "waiting" })} />}
          {(r.state === "failed" || r.state === "cancelled") && (
            <Act words="Try again" tip="Frames that are done stay." act={() => change({ state: "waiting" })} />
          )}
          {(going || r.state === "ending" || r.state === "paused" || r.state === "failed") && (
            <Act
              words="Cancel"
              tip="Ends it; frames that are done stay, the one in hand is let go."
              act={() => change({ state: "cancelled" })}
            />
          )}
          {r.done > 0 && (
            <>
              <a className="btn btn-xs btn-outline hair" href={`/api/renders/${r.id}/files/all.zip`} download>
                Download {r.done > 1 ? `${r.done} files` : "the file"} (zip)
              </a>
              <button className="btn btn-xs btn-ghost" aria-expanded={open} onClick={() => setOpen(!open)}>
                Files
              </button>
            </>
          )}
          {(rivals || r.priority !== 0) && (
            <select
              className="select select-xs w-auto"
              aria-label={`Priority of ${r.order.name}`}
              title="Those of a higher priority go first. Where several machines render, those of one priority share them evenly."
              value={r.priority}
              onChange={(e) => change({ priority: Number(e.target.value) })}
            >
              <option value={1}>before others</option>
              <option value={0}>in turn</option>
              <option value={-1}>after others</option>
            </select>
          )}
          {up && <Act words="Earlier" tip="Before the one above it." act={up} />}
          {down && <Act words="Later" tip="After the one below it." act={down} />}
          {!going && r.state !== "ending" && (
            <Act words="Remove" tip="With its files; it can be brought back." act={() => change({ deleted: true })} />
          )}
        </div>
        {open && <Files id={r.id} done={r.done} folder={`${folder}/${r.id}`} />}
      </div>
    </li>
  );
}

function Act({ words, tip, act }: { words: string; tip: string; act(): void }) {
  return (
    <button className="btn btn-xs btn-outline hair" title={tip} onClick={act}>
      {words}
    </button>
  );
}

function Files({ id, done, folder }: { id: string; done: number; folder: string }) {
  const [files, setFiles] = useState<RenderedFile[] | null>(null);
  const [composing, setComposing] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => {
    let current = true;
    call(request, API.renderFiles, { render: id }).then(
      ({ files: found }) => current && setFiles(found),
      (error: unknown) => current && setProblem((error as Error).message),
    );
    return () => {
      current = false;
    };
  }, [id, done]);
  const compose = async (file: string): Promise<void> => {
    setComposing(true);
    try {
      const { sha256 } = await call(request, API.keepRendered, { render: id, file });
      location.assign(composeUrl(file.replace(/\.exr$/, ""), [{ sha256, name: file }]));
    } catch (error) {
      setProblem((error as Error).message);
      setComposing(false);
    }
  };
  if (problem) return <p className="mt-1 text-xs text-error">{problem}</p>;
  if (!files) return <p className="mt-1 text-xs quiet">Looking …</p>;
  return (
    <div className="mt-2 text-xs">
      <p className="quiet">
        in <code className="select-all">{folder}</code>
      </p>
      <ul aria-label="Files" className="figures max-h-48 overflow-y-auto">
        {files.slice(0, MOST_LISTED).map((f) => (
          <li key={f.file} className="flex gap-4">
            <a className="link link-hover" href={`/api/renders/${id}/files/${encodeURIComponent(f.file)}`} download>
              {f.file}
            </a>
            <span className="quiet">{bytesText(f.bytes)}</span>
            <span className="quiet">{durationText(f.seconds)}</span>
            {f.samples !== null && <span className="quiet">{formatNumber(f.samples, 4)} samples</span>}
            {f.file.endsWith(".exr") && (
              <button
                className="link link-hover"
                disabled={composing}
                title="Its passes as layers: put together anew, with masks, without rendering."
                onClick={() => void compose(f.file)}
              >
                Compose
              </button>
            )}
            {f.noise !== null && <span className="quiet">noise {percentText(f.noise)}</span>}
          </li>
        ))}
        {files.length > MOST_LISTED && <li className="quiet">and {files.length - MOST_LISTED} more, which the zip has too</li>}
      </ul>
    </div>
  );
}
