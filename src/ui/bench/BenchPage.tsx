/** The bench: loads a project and puts its parts together. */
import { lazy, Suspense, useEffect, useState } from "react";
import { useStore } from "zustand";
import { documentSchema, type SceneDocument } from "#core/document/schema";
import { request, upload } from "../shared/api";
import { createIncoming } from "./incoming/incoming";
import { DropZone } from "./incoming/DropZone";
import { Autosave, leftDraft } from "./autosave";
import { BenchContext, useBench, useSession, useView, type Bench } from "./context";
import { DiagnosisRunner } from "./air/Diagnosis";
import { Keys } from "./Keys";
import { Picture } from "./Picture";
import { LightTable } from "./lights/LightTable";
import { ProofShelf, type Proof } from "./proofs";
import { ProofStrip } from "./ProofStrip";
import { Session } from "./session";
import { Sheet } from "./Sheet";
import { StatusLine } from "./StatusLine";
import { createBenchStore } from "./store";
import { createView } from "./view";
import { CarriedPicture } from "./veil/carried";

interface Opened {
  id: string;
  revision: number;
  document: SceneDocument;
  proofs: Proof[];
}

export default function BenchPage({ projectId }: { projectId: string }) {
  const [bench, setBench] = useState<{ bench: Bench; autosave: Autosave } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);

  useEffect(() => {
    let session: Session | null = null;
    let autosave: Autosave | null = null;
    let incoming: Bench["incoming"] | null = null;
    let carried: CarriedPicture | null = null;
    let gone = false;
    void (async () => {
      try {
        const project = await request<Opened>("GET", `/api/projects/${projectId}`);
        if (gone) return;
        const confirmed = documentSchema.parse(project.document);
        const store = createBenchStore(confirmed);
        const draft = leftDraft(projectId, project.revision);
        // what an earlier visit could not save comes back as a change, so that undo leads before it
        if (draft) store.getState().set(() => draft);
        session = new Session(store.getState().document);
        const live = session;
        autosave = new Autosave(projectId, project.revision, confirmed, store);
        store.subscribe((s) => live.update(s.document));
        const view = createView();
        const made: Bench = {
          projectId,
          store,
          session,
          view,
          carried: new CarriedPicture(live, store, view),
          proofs: new ProofShelf(projectId, session, project.proofs),
          incoming: createIncoming(store),
        };
        ({ incoming, carried } = made);
        made.view.subscribe(({ solo, soloMedia, table }) => live.seeIn({ solo, soloMedia, balance: table }));
        setBench({ bench: made, autosave });
        await session.start();
      } catch (error) {
        if (!gone) setProblem((error as Error).message);
      }
    })();
    return () => {
      gone = true;
      carried?.dispose();
      session?.dispose();
      autosave?.dispose();
      incoming?.drop();
    };
  }, [projectId]);

  if (problem)
    return (
      <main className="mx-auto flex h-full max-w-xl flex-col justify-center gap-3 p-8">
        <h1 className="text-xl font-semibold">This project cannot be opened</h1>
        <p className="text-sm whitespace-pre-wrap">{problem}</p>
        <p>
          <a className="link text-primary" href="/">
            Back to the shelf
          </a>
        </p>
      </main>
    );
  if (!bench)
    return (
      <main className="flex h-full items-center justify-center text-sm quiet" role="status">
        Opening the project …
      </main>
    );
  return (
    <BenchContext.Provider value={bench.bench}>
      <div className="flex h-full flex-col">
        <Head />
        <div className="flex min-h-0 flex-1">
          <Sheet />
          <main className="flex min-w-0 flex-1 flex-col">
            <Picture />
            <Below />
            <StatusLine autosave={bench.autosave} />
          </main>
          <ProofStrip />
        </div>
        <Keys />
        <LatestPicture />
        <DiagnosisRunner />
        <DropZone />
      </div>
    </BenchContext.Provider>
  );
}

const SectionView = lazy(() => import("./section/SectionView"));

/** Under the picture: the section, unless lights are listed or space is drawn there. */
function Below() {
  const { table, space, section } = useView((s) => s);
  if (table || space !== "none")
    return (
      <>
        <LightTable />
        <Space />
      </>
    );
  if (!section) return null;
  return (
    <Suspense fallback={<p className="flex h-[44%] shrink-0 items-center justify-center border-t hair text-sm quiet">Setting up …</p>}>
      <SectionView />
    </Suspense>
  );
}

const SpaceView = lazy(() => import("./space/SpaceView"));

/** The drawings of space are loaded when first asked for. */
function Space() {
  const open = useView((s) => s.space !== "none");
  if (!open) return null;
  return (
    <Suspense fallback={<p className="flex h-[46%] shrink-0 items-center justify-center border-t hair text-sm quiet">Setting up …</p>}>
      <SpaceView />
    </Suspense>
  );
}

/** Name of the project, the way back to the shelf, undo and redo. */
function Head() {
  const { store, view } = useBench();
  const space = useView((s) => s.space);
  const below = useView((s) => (s.space !== "none" ? "space" : s.table ? "table" : s.section ? "section" : "nothing"));
  const title = store((s) => s.document.title);
  const past = useStore(store.temporal, (t) => t.pastStates.length);
  const future = useStore(store.temporal, (t) => t.futureStates.length);
  const [text, setText] = useState<string | null>(null);
  useEffect(() => {
    document.title = `${title} · Fumarium`;
  }, [title]);
  return (
    <header className="flex h-9 items-center gap-3 border-b hair bg-base-100 px-3">
      <a href="/" className="text-sm text-primary" title="Back to the shelf">
        Fumarium
      </a>
      <input
        aria-label="Title of the project"
        className="w-80 bg-transparent px-1 text-sm font-semibold outline-none focus:bg-base-200"
        maxLength={200}
        value={text ?? title}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter") e.currentTarget.blur();
          if (e.key === "Escape") setText(null);
        }}
        onBlur={() => {
          const next = text?.trim();
          setText(null);
          if (next && next !== title) store.getState().set((d) => ({ ...d, title: next }));
        }}
      />
      <span className="ml-auto flex gap-1">
        <button
          className={`btn btn-xs ${below === "section" ? "btn-primary" : "btn-ghost"}`}
          aria-pressed={below === "section"}
          title="The air cut open along the line of sight. A"
          onClick={() => view.setState({ section: below !== "section", space: "none", table: false })}
        >
          Section
        </button>
        <button
          className={`btn btn-xs ${space === "none" ? "btn-ghost" : "btn-primary"}`}
          aria-pressed={space !== "none"}
          title="The set from outside, with handles on what stands in it. X"
          onClick={() => view.setState({ space: space === "none" ? "around" : "none", table: false })}
        >
          Space
        </button>
        <button className="btn btn-xs btn-ghost" disabled={past === 0} title="Ctrl Z" onClick={() => store.undo()}>
          Undo
        </button>
        <button className="btn btn-xs btn-ghost" disabled={future === 0} title="Ctrl Shift Z" onClick={() => store.redo()}>
          Redo
        </button>
      </span>
    </header>
  );
}

const LATEST_WIDTH = 640;

/** Sends the latest picture to the shelf once it has settled; draws nothing. */
function LatestPicture() {
  const { projectId, session, proofs } = useBench();
  const worth = useSession((s) => (s.phase === "done" ? 1e9 : Math.floor((s.statistics?.samples ?? 0) / 16)));
  useEffect(() => {
    if (worth < 1) return;
    const timer = setTimeout(() => {
      void (async () => {
        const still = session.snapshot();
        if (!still) return;
        const png = await session.worker.png(still.film, "beauty", still.document);
        const small = await shrink(new Blob([png as Uint8Array<ArrayBuffer>], { type: "image/png" }));
        const { sha256 } = await upload("picture", small);
        await request("PUT", `/api/projects/${projectId}/picture`, { picture: sha256 });
      })().catch(() => undefined); // the shelf keeps the older picture
    }, 800);
    return () => clearTimeout(timer);
  }, [worth, session, projectId, proofs]);
  return null;
}

async function shrink(png: Blob): Promise<Blob> {
  const image = await createImageBitmap(png);
  const scale = Math.min(1, LATEST_WIDTH / image.width);
  const canvas = new OffscreenCanvas(Math.max(1, Math.round(image.width * scale)), Math.max(1, Math.round(image.height * scale)));
  const context = canvas.getContext("2d")!;
  context.imageSmoothingQuality = "high";
  context.drawImage(image, 0, 0, canvas.width, canvas.height);
  return canvas.convertToBlob({ type: "image/png" });
}
