/** Hosts of a bench without a browser: storage in a map, a server and an engine that a test answers for. */
import type { Remote } from "comlink";
import type { CompiledGeometry } from "#core/scene/compiled";
import { NOT_CLEANED } from "#core/film/cleaned";
import { emptyFilm, type Film } from "#core/film/film";
import type { RunRequest, RunResult } from "#engine/engine";
import { RequestError } from "../../src/ui/shared/api";
import type { LiveEngine, SessionHost } from "../../src/ui/bench/model/hosts";
import type { PageHost, Saved } from "../../src/ui/shared/page-host";
import { readHere } from "../../src/ui/bench/model/film-readings";
import type { SceneWorker } from "../../src/ui/bench/model/scene-worker";
import { SectionLink } from "../../src/ui/bench/model/section-link";

export interface Call {
  method: string;
  url: string;
  body: unknown;
}

/** A page whose server answers by a function; a RequestError thrown there is what the page gets. */
export function fakePage(answer: (call: Call) => unknown) {
  const kept = new Map<string, string>();
  const calls: Call[] = [];
  const leavers = new Set<() => void>();
  const records = new Map<string, unknown>();
  const announced: Saved[] = [];
  const hearers = new Set<(saved: Saved) => void>();
  const page: PageHost = {
    request: async (method: string, url: string, body?: unknown) => {
      calls.push({ method, url, body });
      await Promise.resolve();
      return answer({ method, url, body });
    },
    storage: {
      getItem: (key) => kept.get(key) ?? null,
      setItem: (key, value) => void kept.set(key, value),
      removeItem: (key) => void kept.delete(key),
    },
    records: {
      get: (key) => Promise.resolve(structuredClone(records.get(key))),
      set: (key, value) => Promise.resolve(void records.set(key, structuredClone(value))),
    },
    onLeave(leave) {
      leavers.add(leave);
      return () => void leavers.delete(leave);
    },
    announce: (saved) => void announced.push(saved),
    onSaved(heard) {
      hearers.add(heard);
      return () => void hearers.delete(heard);
    },
    alone: (_, work) => work(),
    reload: () => calls.push({ method: "reload", url: "", body: null }),
  };
  return { page, kept, calls, leave: () => leavers.forEach((l) => l()), leavers, announced, hearers, records };
}

export const refusal = (status: number, message = "no"): never => {
  throw new RequestError(message, status);
};

export interface FakeRun {
  request: RunRequest;
  film(): Film;
  end(outcome: RunResult["outcome"]): void;
}

/** An engine that notes what it is asked, and whose runs end when the test says so. */
export function fakeSession() {
  const runs: FakeRun[] = [];
  const built: string[] = [];
  let film: Film = emptyFilm(2, 2);
  let disposed = 0;
  const cancel = async (): Promise<void> => {
    runs.at(-1)?.end("cancelled");
    await Promise.resolve();
  };
  const engine: LiveEngine = {
    shared: false,
    workers: 1,
    film: () => film,
    setGeometry: () => void built.push("geometry"),
    attend: () => undefined,
    activity: () => null,
    pause: () => void built.push("pause"),
    resume: () => void built.push("resume"),
    cancel,
    dispose: () => void disposed++,
    start(request) {
      runs.at(-1)?.end("cancelled");
      const own = emptyFilm(request.width, request.height);
      film = own;
      return new Promise((resolve) => {
        const end = (outcome: RunResult["outcome"]): void =>
          resolve({ outcome, film: own, seconds: 1, rays: 1, lookups: 0, invalid: 0, work: { seconds: 0, rays: 0, lookups: 0 } });
        runs.push({ request, film: () => own, end });
      });
    },
  };
  const geometry = { shownTriangles: 12, triangleCount: 12, origin: [0, 0, 0], bounds: [0, 0, 0, 1, 1, 1], objectBounds: [], volumes: {} };
  const worker = {
    build: async () => (built.push("whole"), Promise.resolve(geometry as unknown as CompiledGeometry)),
    loose: async () => (built.push("loose"), Promise.resolve({ volumes: {}, pictures: {}, profiles: {} })),
    parts: async () => Promise.resolve({}),
    png: async () => Promise.resolve(new Uint8Array(8)),
  };
  const host: SessionHost = {
    worker: worker as unknown as Remote<SceneWorker>,
    section: new SectionLink(),
    films: readHere,
    cleaner: {
      live: async () => Promise.resolve(NOT_CLEANED),
      finish: async () => Promise.resolve(NOT_CLEANED),
      dispose: () => void disposed++,
    },
    startEngine: async () => Promise.resolve(engine),
    dispose: () => void disposed++,
  };
  return { host, runs, built, disposed: () => disposed };
}
