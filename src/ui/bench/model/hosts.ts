/** What the bench needs of a browser, behind interfaces, so that its state machines are tested without one. */
import { wrap, type Remote } from "comlink";
import type { Transport } from "#api/contract";
import { browserHost } from "#engine/browser-host";
import { browserCleanHost } from "#engine/browser-clean";
import { CleanPool } from "#engine/clean-pool";
import { RenderEngine } from "#engine/engine";
import { request } from "../../shared/api";
import { browserRecords, type RecordStorage } from "../../shared/record-storage";
import { siteStorage } from "../../shared/site-storage";
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

/** Small texts that outlive the page. Both calls may throw where storage is full or forbidden. */
export type TextStorage = Pick<Storage, "getItem" | "setItem" | "removeItem">;

/** The server and the page, as the bench sees them. */
export interface PageHost {
  request: Transport;
  storage: TextStorage;
  records: RecordStorage;
  /** Calls back when the page is about to go. @returns what takes the callback away again */
  onLeave(leave: () => void): () => void;
  /** Tells the other windows of this browser that a project was saved. */
  announce(saved: Saved): void;
  /** Calls back when another window says so. @returns what takes the callback away again */
  onSaved(heard: (saved: Saved) => void): () => void;
  reload(): void;
  /** Does something that only one window may do at a time; not, where another does it. */
  alone(name: string, work: () => Promise<void>): Promise<void>;
}

export interface Saved {
  projectId: string;
  revision: number;
}

/** Where windows tell each other what they saved. */
const CHANNEL = "fumarium.saved";

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

export function browserPageHost(): PageHost {
  return {
    request,
    storage: siteStorage(),
    records: browserRecords(),
    onLeave(leave) {
      addEventListener("pagehide", leave);
      return () => removeEventListener("pagehide", leave);
    },
    announce(saved) {
      const channel = new BroadcastChannel(CHANNEL);
      channel.postMessage(saved);
      channel.close();
    },
    onSaved(heard) {
      const channel = new BroadcastChannel(CHANNEL);
      channel.onmessage = (e: MessageEvent<Saved>) => heard(e.data);
      return () => channel.close();
    },
    reload: () => location.reload(),
    async alone(name, work) {
      // pages that are not served securely have no locks: two windows then do the same twice
      if (!("locks" in navigator)) return work();
      await navigator.locks.request(`fumarium ${name}`, { ifAvailable: true }, async (lock) => {
        if (lock) await work();
      });
    },
  };
}
