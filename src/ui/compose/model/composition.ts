/** A stack under work: its pictures read beside the page, its masks kept, its picture painted whenever something of it changes. */
import { proxy, transfer, wrap, type Remote } from "comlink";
import { createStore } from "zustand/vanilla";
import { planOf, type MaskStore } from "#core/compose/compose";
import { developmentOf } from "#core/compose/export";
import { maskOf } from "#core/compose/masks";
import { PaintCache } from "#core/compose/strokes";
import { checkSizes, smallFrame } from "#core/compose/sources";
import type { Frame } from "#core/formats/layers";
import type { Source, Stack } from "#core/compose/stack";
import { createUndoStore } from "../../shared/undo-store";
import { layerOf } from "./edits";
import type { ComposeWorker, Exported, ExportKind } from "./compose-worker";
import { paintHere, Painter } from "./painter";
import { stemOf } from "./picture-files";

export type StackStore = ReturnType<typeof createUndoStore<Stack>>;

export type ComposeTool = "none" | "paint" | "from" | "to";

export interface Brush {
  /** Diameter as a share of the frame's height. */
  size: number;
  hardness: number;
  flow: number;
  erase: boolean;
}

export interface ComposeView {
  selected: string | null;
  /** Part of its mask that the tools are for. */
  part: number;
  tool: ComposeTool;
  brush: Brush;
  maskShown: boolean;
  /** Whether each pixel of the pictures is one of the screen's. */
  whole: boolean;
}

interface Shown {
  /** Pictures at the size of the view, by source. */
  frames: ReadonlyMap<string, Frame>;
  /** Pixels of the pictures, and of the view. */
  size: [number, number] | null;
  view: [number, number] | null;
  /** Pictures painted so far, and milliseconds of the last. */
  painted: number;
  ms: number;
  /** What keeps the picture from being put together. */
  problem: string | null;
  /** Whether a graphics processor paints. */
  direct: boolean;
}

/** Pixels that are painted at once everywhere, and milliseconds without an edit after which the others are. */
const QUICK = 150_000,
  REST = 150;
/** Most masks that are kept. */
const MASKS = 32;

export class Composition {
  readonly store: StackStore;
  readonly view = createStore<ComposeView>(() => ({
    ...{ selected: null, part: 0, tool: "none", maskShown: false, whole: false },
    brush: { size: 0.08, hardness: 0.5, flow: 0.4, erase: false },
  }));
  readonly shown = createStore<Shown>(() => ({
    frames: new Map(),
    size: null,
    view: null,
    painted: 0,
    ms: 0,
    problem: null,
    direct: true,
  }));
  private readonly masks = new Map<string, Float32Array>();
  private readonly painted = new PaintCache();
  private painter: Painter | null = null;
  private canvas: HTMLCanvasElement | null = null;
  private asked = 0;
  private room: [number, number] = [0, 0];
  private readonly ends: (() => void)[];

  constructor(
    initial: Stack,
    private readonly reader: Reader,
  ) {
    this.store = createUndoStore<Stack>(initial);
    this.ends = [this.store.subscribe(() => this.ask()), this.view.subscribe(() => this.ask())];
    const { width, height } = reader.size;
    this.shown.setState({ size: [width, height] });
  }

  /** Where it is painted. */
  attach(canvas: HTMLCanvasElement): void {
    this.canvas = canvas;
    this.painter = null;
    try {
      this.painter = new Painter(canvas);
    } catch {
      this.shown.setState({ direct: false });
    }
    this.ask();
  }

  /** Pixels that there is room for; none where every pixel of the pictures is shown. */
  async fit(room: readonly [number, number] | null): Promise<void> {
    const { size } = this.shown.getState();
    if (!size || (room && (room[0] < 1 || room[1] < 1))) return;
    const k = room ? Math.min(1, room[0] / size[0], room[1] / size[1]) : 1;
    const next: [number, number] = [Math.max(1, Math.round(k * size[0])), Math.max(1, Math.round(k * size[1]))];
    if (next[0] === this.room[0] && next[1] === this.room[1]) return;
    this.room = next;
    const frames = new Map<string, Frame>();
    for (const source of Object.keys(this.store.getState().document.sources)) frames.set(source, await this.reader.small(source, ...next));
    if (this.room !== next) return;
    this.masks.clear();
    this.shown.setState({ frames, view: next });
    this.ask();
  }

  /** Takes one more picture. @throws Error saying what is wrong with it */
  async add(source: Source): Promise<string> {
    const { sources } = this.store.getState().document;
    const key = freeKey(source.name, sources);
    await this.reader.read(key, source);
    const [w, h] = this.room;
    const small = await this.reader.small(key, w, h);
    this.shown.setState(({ frames }) => ({ frames: new Map([...frames, [key, small]]) }));
    this.masks.clear();
    this.store.getState().set((s) => ({ ...s, sources: { ...s.sources, [key]: source } }));
    return key;
  }

  /** Distance or height at a point of the frame, m; null where there is none. */
  at(kind: "distance" | "height", x: number, y: number): Promise<number | null> {
    return this.reader.numberAt(Object.keys(this.store.getState().document.sources), kind, x, y);
  }

  private ask(): void {
    if (this.asked) return;
    this.asked = requestAnimationFrame(() => {
      this.asked = 0;
      this.paint();
    });
  }

  /** Paints: coarse at once where a picture takes long, and whole when edits rest. */
  private paint(whole = false): void {
    const { view: full, frames: fine } = this.shown.getState();
    const { canvas } = this;
    if (!canvas || !full || fine.size === 0) return;
    clearTimeout(this.later);
    const coarse = !whole && (this.painter?.software ?? true) && full[0] * full[1] > QUICK;
    if (coarse) this.later = setTimeout(() => this.paint(true), REST);
    const view: [number, number] = coarse ? [Math.ceil(full[0] / 2), Math.ceil(full[1] / 2)] : full;
    const begun = performance.now();
    const stack = this.store.getState().document;
    const used = this.used(fine, stack);
    const frames = coarse ? this.coarse(used, ...view) : used;
    try {
      checkSizes(frames);
      const plan = planOf(stack, frames, ...view, this.maskFor);
      const { selected, maskShown } = this.view.getState();
      const layer = maskShown ? layerOf(stack, selected) : null;
      const mask = layer?.mask ? this.maskFor(layer.mask, { frames, width: view[0], height: view[1], white: stack.white }) : null;
      const development = developmentOf(stack);
      if (this.painter) this.painter.paint(plan, stack.white, development, mask);
      else paintHere(canvas, plan, stack.white, development, mask);
      this.shown.setState((s) => ({ painted: s.painted + 1, ms: performance.now() - begun, problem: null }));
    } catch (error) {
      this.shown.setState({ problem: (error as Error).message });
    }
  }

  /** Pictures that the stack is of: not those whose coming was undone. The same object as long as it is of the same. */
  private used(all: ReadonlyMap<string, Frame>, { sources }: Stack): ReadonlyMap<string, Frame> {
    if ([...all.keys()].every((key) => key in sources)) return all;
    if (this.left?.of !== all || this.left.sources !== sources)
      this.left = { of: all, sources, frames: new Map([...all].filter(([key]) => key in sources)) };
    return this.left.frames;
  }
  private left: { of: ReadonlyMap<string, Frame>; sources: Stack["sources"]; frames: ReadonlyMap<string, Frame> } | null = null;

  /** The pictures at half the size, which are made once for each size of the view. */
  private coarse(fine: ReadonlyMap<string, Frame>, width: number, height: number): ReadonlyMap<string, Frame> {
    if (this.small?.of !== fine)
      this.small = { of: fine, frames: new Map([...fine].map(([key, f]) => [key, smallFrame(f, width, height)])) };
    return this.small.frames;
  }
  private small: { of: ReadonlyMap<string, Frame>; frames: ReadonlyMap<string, Frame> } | null = null;
  private later: ReturnType<typeof setTimeout> | undefined;

  private readonly maskFor: MaskStore = (mask, ground) => {
    const key = JSON.stringify([mask, ground.white, ground.width, [...ground.frames.keys()]]);
    const found = this.masks.get(key);
    if (found) {
      // the ones used last are kept
      this.masks.delete(key);
      this.masks.set(key, found);
      return found;
    }
    const made = maskOf(mask, { ...ground, painted: this.painted });
    this.masks.set(key, made);
    for (const old of this.masks.keys()) {
      if (this.masks.size <= MASKS) break;
      this.masks.delete(old);
    }
    return made;
  };

  export(kind: ExportKind, onShare: (share: number) => void): Promise<Exported> {
    return this.reader.export(this.store.getState().document, kind, onShare);
  }
  cancelExport(): void {
    this.reader.cancel();
  }
  pack(name: string): Promise<Uint8Array> {
    return this.reader.pack(this.store.getState().document, name);
  }

  dispose(): void {
    cancelAnimationFrame(this.asked);
    clearTimeout(this.later);
    for (const end of this.ends) end();
    this.painter?.dispose();
    this.reader.dispose();
  }
}

function freeKey(name: string, taken: Readonly<Record<string, unknown>>): string {
  const plain = stemOf(name).slice(0, 100) || "picture";
  for (let i = 1; ; i++) {
    const key = i > 1 ? `${plain} ${i}` : plain;
    if (!(key in taken)) return key;
  }
}

/** The worker that reads pictures, with their files by source. */
export class Reader {
  private readonly raw: Worker;
  private readonly worker: Remote<ComposeWorker>;
  size = { width: 0, height: 0 };

  constructor() {
    this.raw = new Worker(new URL("./compose-worker.ts", import.meta.url), { type: "module" });
    this.worker = wrap<ComposeWorker>(this.raw);
  }

  /** Fetches and reads a source's file. @throws Error saying what is wrong with it */
  async read(key: string, source: Source): Promise<void> {
    if (!source.sha256) throw new Error(`${source.name}: it names no file of this server.`);
    const answer = await fetch(`/api/assets/${source.sha256}`);
    if (!answer.ok) throw new Error(`${source.name}: its file is not in the store of this server.`);
    const bytes = new Uint8Array(await answer.arrayBuffer());
    const { width, height } = await this.worker.read(transfer(bytes, [bytes.buffer]), key, source.name);
    if (this.size.width === 0) this.size = { width, height };
    else if (this.size.width !== width || this.size.height !== height) {
      await this.worker.forget([key]);
      throw new Error(`${source.name}: ${width} × ${height} pixels, where the stack has ${this.size.width} × ${this.size.height}.`);
    }
  }

  small(key: string, width: number, height: number): Promise<Frame> {
    return this.worker.small(key, width, height);
  }

  numberAt(keys: readonly string[], kind: "distance" | "height", x: number, y: number): Promise<number | null> {
    return this.worker.numberAt(keys, kind, x, y);
  }

  export(stack: Stack, kind: ExportKind, onShare: (share: number) => void): Promise<Exported> {
    return this.worker.export(stack, kind, proxy(onShare));
  }
  cancel(): void {
    void this.worker.cancel();
  }

  async pack(stack: Stack, name: string): Promise<Uint8Array> {
    const files = new Map<string, Uint8Array>();
    for (const [key, { sha256, name: words }] of Object.entries(stack.sources)) {
      const answer = await fetch(`/api/assets/${sha256}`);
      if (!answer.ok) throw new Error(`${words}: its file is not in the store of this server.`);
      files.set(key, new Uint8Array(await answer.arrayBuffer()));
    }
    return this.worker.pack(stack, name, files);
  }

  dispose(): void {
    this.raw.terminate();
  }
}
