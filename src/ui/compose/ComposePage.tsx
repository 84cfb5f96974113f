/** The page of one stack: its layers and fields, the picture, and the scale of what its masks go by. */
import { Redo2, Undo2 } from "lucide-react";
import { useEffect, useState } from "react";
import { useStore } from "zustand";
import { API, call } from "#api/contract";
import type { Source } from "#core/compose/stack";
import { request, upload } from "../shared/api";
import { GestureContext } from "../shared/gesture";
import { Problem } from "../shared/Problem";
import { RendersLink } from "../shared/RendersLink";
import { SaveStanding } from "../shared/SaveStanding";
import { TitleField } from "../shared/TitleField";
import { AirFields } from "./AirFields";
import { ExportFields } from "./ExportFields";
import { FinishFields } from "./FinishFields";
import { LayerList } from "./LayerList";
import { MarkScale } from "./MarkScale";
import { CompositionContext, useComposeView, useComposition, useStack } from "./model/context";
import { layerOf } from "./model/edits";
import { beginStack, openStack, type OpenStack } from "./model/open-stack";
import { stemOf } from "./model/picture-files";
import { Picture } from "./Picture";

/** Milliseconds without an edit after which the card's picture is made anew. */
const REST = 4000;
/** Pixels across of it. */
const CARD = 480;

export default function ComposePage({ stackId }: { stackId: string }) {
  const [open, setOpen] = useState<OpenStack | null>(null);
  const [doing, setDoing] = useState("Opening the stack …");
  const [problem, setProblem] = useState<string | null>(null);
  const [again, setAgain] = useState(0);
  useEffect(() => {
    let gone = false;
    let opened: OpenStack | null = null;
    const says = (words: string): void => {
      if (!gone) setDoing(words);
    };
    const start = async (): Promise<void> => {
      const id = stackId === "new" ? await begin(says) : stackId;
      if (stackId === "new") history.replaceState(null, "", `/compose/${id}`);
      opened = await openStack(id, says);
      if (gone) opened.dispose();
      else setOpen(opened);
    };
    start().catch((error: unknown) => {
      if (!gone) setProblem((error as Error).message);
    });
    return () => {
      gone = true;
      opened?.dispose();
      setOpen(null);
    };
  }, [stackId, again]);
  if (problem)
    return (
      <main className="mx-auto max-w-3xl px-8 py-6">
        <a href="/" className="text-sm text-primary">
          Fumarium
        </a>
        <h1 className="text-xl font-semibold">The stack cannot be opened</h1>
        <Problem
          words={problem}
          again={() => {
            setProblem(null);
            setAgain(again + 1);
          }}
        />
      </main>
    );
  if (!open)
    return (
      <main className="px-8 py-6 text-sm quiet">
        <h1 className="sr-only">Compose</h1>
        <p role="status">{doing}</p>
      </main>
    );
  const { composition } = open;
  return (
    <CompositionContext value={composition}>
      <GestureContext value={(active) => composition.store.gesture(active)}>
        <Compose open={open} />
      </GestureContext>
    </CompositionContext>
  );
}

/** A stack of the files that the address names. */
async function begin(says: (words: string) => void): Promise<string> {
  const asked = new URLSearchParams(location.search);
  const names = asked.getAll("name");
  const sources: Record<string, Source> = {};
  asked.getAll("source").forEach((sha256, i) => {
    const name = names[i] ?? `picture ${i + 1}`;
    sources[i === 0 ? "frame" : `frame ${i + 1}`] = { name: name.slice(0, 200), sha256, file: null };
  });
  if (Object.keys(sources).length === 0) throw new Error("The address names no picture. Open one from the shelf, a proof or a render.");
  return beginStack(asked.get("title") ?? stemOf(names[0] ?? "Stack"), sources, says);
}

function Compose({ open }: { open: OpenStack }) {
  const { composition, saver, id } = open;
  useEffect(() => keys(composition), [composition]);
  useEffect(() => cardPicture(id, composition), [id, composition]);
  return (
    <div className="flex h-screen min-h-0 flex-col">
      <Header saver={saver} />
      <div className="flex min-h-0 flex-1">
        <aside aria-label="Sheet" className="w-[19.3rem] shrink-0 overflow-y-auto border-r hair bg-base-100">
          <LayerList />
          <AirFields />
          <FinishFields />
          <ExportFields />
        </aside>
        <main className="flex min-w-0 flex-1 flex-col">
          <Picture />
          <MarkScale />
        </main>
      </div>
    </div>
  );
}

function Header({ saver }: Pick<OpenStack, "saver">) {
  const { store, view } = useComposition();
  const whole = useComposeView((v) => v.whole);
  const title = useStack((s) => s.title);
  const past = useStore(store.temporal, (t) => t.pastStates.length);
  const future = useStore(store.temporal, (t) => t.futureStates.length);
  useEffect(() => {
    document.title = `${title} · Fumarium`;
  }, [title]);
  return (
    <header className="flex min-h-9 flex-wrap items-center gap-3 border-b hair bg-base-100 px-3">
      <a href="/" className="text-sm text-primary" title="Back to the shelf">
        Fumarium
      </a>
      <h1 className="text-sm quiet">Compose</h1>
      <TitleField label="Title of the stack" title={title} onTitle={(next) => store.getState().set((s) => ({ ...s, title: next }))} />
      <span className="ml-auto flex items-center gap-4 text-xs quiet">
        <SaveStanding saver={saver} />
        <RendersLink />
      </span>
      <span className="flex gap-1">
        <button
          className={`btn btn-xs ${whole ? "btn-primary" : "btn-ghost"}`}
          aria-pressed={whole}
          title="Each pixel of the picture as one of the screen. 9, and 0 to see all of it"
          onClick={() => view.setState({ whole: !whole })}
        >
          1:1
        </button>
        <button className="btn btn-xs btn-ghost" disabled={past === 0} aria-label="Undo" title="Undo. Ctrl Z" onClick={() => store.undo()}>
          <Undo2 aria-hidden className="size-3.5" />
        </button>
        <button
          className="btn btn-xs btn-ghost"
          disabled={future === 0}
          aria-label="Redo"
          title="Redo. Ctrl Shift Z"
          onClick={() => store.redo()}
        >
          <Redo2 aria-hidden className="size-3.5" />
        </button>
      </span>
    </header>
  );
}

/** Keys of the page: they count where nothing is typed. @returns what takes them away again */
function keys({ store, view }: OpenStack["composition"]): () => void {
  const press = (e: KeyboardEvent): void => {
    const typing = e.target instanceof HTMLElement && e.target.matches("input:not([type=checkbox]), textarea, select");
    if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "z" && !typing) {
      e.preventDefault();
      if (e.shiftKey) store.redo();
      else store.undo();
      return;
    }
    if (typing || e.ctrlKey || e.metaKey || e.altKey) return;
    const { selected, part, tool, brush, maskShown } = view.getState();
    const mask = layerOf(store.getState().document, selected)?.mask;
    const paints = mask?.parts[part]?.kind === "paint";
    switch (e.key.toLowerCase()) {
      case "p":
        if (paints) view.setState({ tool: tool === "paint" ? "none" : "paint" });
        break;
      case "x":
        view.setState({ brush: { ...brush, erase: !brush.erase } });
        break;
      case "m":
        if (mask) view.setState({ maskShown: !maskShown });
        break;
      case ",":
      case ".":
        view.setState({ brush: { ...brush, size: Math.max(0.002, Math.min(2, brush.size * (e.key === "." ? 1.2 : 1 / 1.2))) } });
        break;
      case "9":
      case "0":
        view.setState({ whole: e.key === "9" });
        break;
      case "escape":
        view.setState({ tool: "none", maskShown: false });
        break;
      default:
        return;
    }
  };
  addEventListener("keydown", press);
  return () => removeEventListener("keydown", press);
}

/** Keeps the card's picture as the stack is. @returns what ends it */
function cardPicture(id: string, composition: OpenStack["composition"]): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const make = async (): Promise<void> => {
    const from = document.querySelector<HTMLCanvasElement>("canvas[data-testid=composed]");
    if (!from || from.width === 0 || composition.view.getState().maskShown) return;
    const k = Math.min(1, CARD / from.width);
    const to = new OffscreenCanvas(Math.max(1, Math.round(k * from.width)), Math.max(1, Math.round(k * from.height)));
    const context = to.getContext("2d")!;
    context.imageSmoothingQuality = "high";
    context.drawImage(from, 0, 0, to.width, to.height);
    try {
      const { sha256 } = await upload("picture", await to.convertToBlob({ type: "image/png" }));
      await call(request, API.changeStack, { stack: id }, { picture: sha256 });
    } catch {
      // the card keeps the picture it has
    }
  };
  let last = -1;
  const end = composition.shown.subscribe(({ painted }) => {
    if (painted === last) return;
    last = painted;
    clearTimeout(timer);
    timer = setTimeout(() => void make(), REST);
  });
  return () => {
    clearTimeout(timer);
    end();
  };
}
