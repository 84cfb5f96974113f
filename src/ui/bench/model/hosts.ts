/** What the bench needs of a browser, behind interfaces, so that its state machines are tested without one. */
import { wrap, type Remote } from "comlink";
import { browserHost } from "#engine/browser-host";
import { browserCleanHost } from "#engine/browser-clean";
import { CleanPool } from "#engine/clean-pool";
import { RenderEngine } from "#engine/engine";
import type { LiveCleaner } from "./cleaning";
import { browserFilms } from "./film-link";
import type { FilmReader } from "./film-readings";
import type { SceneWorker } from "./scene-worker";
import { SectionLink } from "./section-link";

/** What the live picture asks of an engine. */
export type LiveEngine = Pick<
  RenderEngine,
  "start" | "cancel" | "pause" | "resume" | "attend" | "activity" | "setGeometry" | "film" | "workers" | "shared" | "dispose"
>;

/** What reads and builds a scene, computes its section, and renders it. */
export interface SessionHost {
  readonly worker: Remote<SceneWorker>;
  readonly section: SectionLink;
  readonly cleaner: LiveCleaner;
  readonly films: FilmReader;
  /** @param share of this machine's cores that it has threads for @throws Error where no engine can be started here */
  startEngine(share?: number): Promise<LiveEngine>;
  dispose(): void;
}

const cores = (): number => Math.max(1, navigator.hardwareConcurrency || 2);

/** Web workers of this page. */
export function browserSessionHost(): SessionHost {
  const raw = new Worker(new URL("./scene-worker.ts", import.meta.url), { type: "module" });
  const section = new SectionLink();
  const films = browserFilms();
  return {
    worker: wrap<SceneWorker>(raw),
    section,
    films,
    // beside the renderer's workers, which take every core: two are enough to answer at once
    cleaner: new CleanPool(browserCleanHost(Math.min(2, cores()))),
    async startEngine(share = 1) {
      const shared = globalThis.crossOriginIsolated === true && typeof SharedArrayBuffer !== "undefined";
      const workers = Math.max(1, Math.min(16, Math.floor(share * cores())));
      return RenderEngine.create(await browserHost(workers, shared));
    },
    dispose() {
      raw.terminate();
      section.dispose();
      films.dispose();
    },
  };
}
