/** A set on its way in: chosen, read, reported on, uploaded, placed. Nothing touches the document before it is placed. */
import { proxy, wrap } from "comlink";
import { whiteAt } from "#core/optics/exposure";
import { createStore } from "zustand/vanilla";
import { placeSet, type Placing } from "#core/document/place";
import { IMPORT_LIMITS, megabytes } from "#core/exchange/import/files";
import type { ImportedSet, ImportStage } from "#core/exchange/import/index";
import type { Moment } from "#core/formats/gltf-pose";
import { uploadWithProgress } from "../../shared/api";
import type { BenchStore } from "./store";
import type { ImportWorker } from "./import-worker";

export type IncomingState =
  | { phase: "none" }
  | { phase: "reading"; what: string; stage: "files" | ImportStage; share: number; since: number }
  | { phase: "ready"; set: ImportedSet; moment: Moment | null; posing: boolean }
  | { phase: "sending"; set: ImportedSet; share: number; since: number }
  | { phase: "failed"; message: string };

export interface ChosenFile {
  path: string;
  file: File;
}

/** Milliseconds that a moment must stay the same before the set is read again for it. */
const SETTLED = 200;

export function createIncoming(store: BenchStore) {
  const state = createStore<IncomingState>(() => ({ phase: "none" }));
  let worker: Worker | null = null;
  let chosen: ChosenFile[] = [];
  let settling: ReturnType<typeof setTimeout> | undefined;
  let sending: AbortController | null = null;

  const end = (): void => {
    clearTimeout(settling);
    worker?.terminate();
    worker = null;
    sending?.abort();
    sending = null;
  };
  const fail = (error: unknown): void => state.setState({ phase: "failed", message: (error as Error).message }, true);

  /** Reads files in a worker of its own. @param onStage told what is being done */
  async function readIn(
    files: ChosenFile[],
    moment: Moment | null,
    onStage: (own: Worker, stage: "files" | ImportStage, share: number) => void,
  ): Promise<void> {
    const what = files.length === 1 ? files[0]!.path : `${files.length} files`;
    const own = new Worker(new URL("./import-worker.ts", import.meta.url), { type: "module" });
    worker = own;
    let timer: ReturnType<typeof setTimeout> | undefined;
    try {
      const broken = new Promise<never>((_, reject) => {
        own.onerror = (e) => reject(new Error(e.message || "The reader stopped: the set may need more memory than there is."));
      });
      const late = new Promise<never>((_, reject) => {
        const words = `${what}: not read within ${IMPORT_LIMITS.seconds / 60} minutes, which is the limit. Bring it in in parts, or by "fumarium import".`;
        timer = setTimeout(() => reject(new Error(words)), 1000 * IMPORT_LIMITS.seconds);
      });
      const white = whiteAt(store.getState().document.film.exposure);
      const done = wrap<ImportWorker>(own).run(
        files,
        white,
        moment,
        proxy((stage, share) => onStage(own, stage, share)),
      );
      const set = await Promise.race([done, broken, late]);
      if (worker === own) state.setState({ phase: "ready", set, moment, posing: false }, true);
    } catch (error) {
      if (worker === own) fail(error);
    } finally {
      clearTimeout(timer);
      own.terminate();
      if (worker === own) worker = null;
    }
  }

  return Object.assign(state, {
    /** Reads the chosen files. What is on its way already is dropped. */
    async read(files: ChosenFile[]): Promise<void> {
      end();
      chosen = files;
      if (files.length === 0) return;
      const what = files.length === 1 ? files[0]!.path : `${files.length} files`;
      const bytes = files.reduce((n, f) => n + f.file.size, 0);
      if (bytes > IMPORT_LIMITS.bytes)
        return fail(new Error(`${what}: ${megabytes(bytes)}, more than the limit of ${megabytes(IMPORT_LIMITS.bytes)}`));
      const since = performance.now();
      state.setState({ phase: "reading", what, stage: "files", share: 0, since }, true);
      await readIn(files, null, (own, stage, share) => {
        if (worker === own) state.setState({ phase: "reading", what, stage, share, since }, true);
      });
    },

    /** Reads the same files as they stand at another moment. What was chosen for them stays; only the last of many moments is read. */
    pose(moment: Moment | null): void {
      const s = state.getState();
      if (s.phase !== "ready") return;
      end();
      state.setState({ ...s, moment, posing: true }, true);
      settling = setTimeout(() => void readIn(chosen, moment, () => undefined), SETTLED);
    },

    /** Stores the model and puts the set into the document, as one step. */
    async place(how: Omit<Placing, "sha256" | "uri">): Promise<void> {
      const s = state.getState();
      if (s.phase !== "ready" || s.posing) return;
      const { set } = s;
      const own = new AbortController();
      sending = own;
      const since = performance.now();
      state.setState({ phase: "sending", set, share: 0, since }, true);
      try {
        const { sha256 } = await uploadWithProgress(
          "model",
          new Blob([set.model as Uint8Array<ArrayBuffer>]),
          (share) => sending === own && state.setState({ phase: "sending", set, share, since }, true),
          own.signal,
        );
        if (sending !== own) return;
        const uri = `${set.name.replace(/\.[^.]*$/, "").replace(/[^\p{L}\p{N}._-]+/gu, "-") || "set"}.glb`;
        const next = placeSet(store.getState().document, set, { ...how, sha256, uri });
        store.getState().set(() => next);
        state.setState({ phase: "none" }, true);
      } catch (error) {
        if (sending === own) fail(error);
      } finally {
        if (sending === own) sending = null;
      }
    },

    /** Cancels whatever is going on, or puts the report away. */
    drop(): void {
      end();
      state.setState({ phase: "none" }, true);
    },
  });
}
export type Incoming = ReturnType<typeof createIncoming>;

/** Files of a drop, folders walked through. @throws where there are more files than are read */
export async function droppedFiles(transfer: DataTransfer): Promise<ChosenFile[]> {
  // entries must be taken before the first wait: the list is emptied after the event
  const entries = [...transfer.items].flatMap((i) => (i.kind === "file" ? [i.webkitGetAsEntry()] : []));
  const plain = [...transfer.files];
  const out: ChosenFile[] = [];
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (out.length > IMPORT_LIMITS.files) throw new Error(`more than ${IMPORT_LIMITS.files} files were dropped`);
    if (entry.isFile) {
      const file = await new Promise<File>((ok, no) => (entry as FileSystemFileEntry).file(ok, no));
      out.push({ path: entry.fullPath.replace(/^\//, ""), file });
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    for (;;) {
      // a reader hands over a hundred at a time
      const some = await new Promise<FileSystemEntry[]>((ok, no) => reader.readEntries(ok, no));
      if (some.length === 0) return;
      for (const e of some) await walk(e);
    }
  };
  if (entries.every((e) => e !== null)) for (const e of entries) await walk(e);
  else for (const file of plain) out.push({ path: file.name, file });
  return out;
}

/** What a file dialog offers of a set: models, what lies beside them, and archives of both. */
export const SET_FILES = ".glb,.gltf,.obj,.mtl,.usd,.usda,.usdc,.usdz,.bin,.zip,.png,.jpg,.jpeg,.webp,.ktx2";

/** Files of a file or folder dialog. */
export const pickedFiles = (list: FileList): ChosenFile[] =>
  [...list].map((file) => ({ path: file.webkitRelativePath || file.name, file }));
