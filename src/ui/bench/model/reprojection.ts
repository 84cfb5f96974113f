/**
 * While air is shaped by dragging, the rendered picture is carried along by its veil at once; when the hand rests
 * or lets go, the renderer takes over. No interface code but the canvas it draws to.
 */
import { createStore, type StoreApi } from "zustand/vanilla";
import type { SceneDocument } from "#core/document/schema";
import { carriedFilm, carries } from "#core/veil/carry";
import { tableMaker } from "#core/veil/tables";
import type { CompiledGeometry } from "#core/scene/compiled";
import type { Session } from "./session";
import type { TextStorage } from "./hosts";
import type { BenchStore } from "./store";
import type { ViewStore } from "./view";
import { VeilProgram } from "./reprojection-program";

/** Without a change for so long (ms), the renderer begins although the hand still holds. */
const REST = 300;
/** Milliseconds a picture may take, and takes at least before it is drawn finer; past the last it is not worth drawing. */
const SLOW = 45,
  QUICK = 14,
  TOO_SLOW = 160;
/** Veils a side for each pixel of the picture: at least, at first, and at most (they are smooth but at edges). */
const MIN = 0.06,
  FIRST = 0.125,
  MAX = 0.5;
const KEPT = "fumarium.carry";

export interface PreviewState {
  /** Whether it lies over the picture now. */
  shown: boolean;
  /** Whether the artist wants it. */
  wanted: boolean;
  /** Why it cannot be drawn here, if so. */
  problem: string | null;
}

export class ReprojectedPreview {
  readonly state: StoreApi<PreviewState>;
  private program: VeilProgram | null = null;
  private canvas: HTMLCanvasElement | null = null;
  private scale = FIRST;
  /** The picture that is carried: rendered with this document. */
  private base: { given: SceneDocument; seen: SceneDocument; size: readonly [number, number] } | null = null;
  private maker: { geometry: CompiledGeometry; make: ReturnType<typeof tableMaker> } | null = null;
  private begun = false;
  /** Whether this drag has looked for a picture to carry; pictures in a row that took too long. */
  private looked = false;
  private slow = 0;
  private asked = 0;
  private rest: ReturnType<typeof setTimeout> | undefined;
  private readonly ends: (() => void)[];

  constructor(
    private readonly session: Session,
    private readonly store: BenchStore,
    private readonly view: ViewStore,
    private readonly storage: TextStorage,
  ) {
    this.state = createStore<PreviewState>(() => ({ shown: false, wanted: storage.getItem(KEPT) !== "no", problem: null }));
    this.ends = [
      store.held.subscribe(({ from }) => {
        this.looked = false;
        if (!from) this.letGo();
      }),
      store.subscribe(({ document }, before) => {
        if (document !== before.document) this.follow(document, before.document);
      }),
      session.state.subscribe(() => {
        if (this.state.getState().shown && !session.holding && session.state.getState().covered === session.seen()) this.hide();
      }),
      view.subscribe(() => {
        if (this.state.getState().shown && !this.suits()) {
          this.letGo();
          this.hide();
        }
      }),
    ];
  }

  /** The canvas to draw to; programs are compiled when `warm` is called. */
  attach(canvas: HTMLCanvasElement | null): void {
    this.canvas = canvas;
    if (canvas) return;
    this.program?.dispose();
    this.program = null;
  }

  /** Begins compiling, which takes a while in the background. */
  warm(): void {
    const { wanted, problem } = this.state.getState();
    if (this.program || !this.canvas || !wanted || problem) return;
    try {
      this.program = new VeilProgram(this.canvas, this.storage.getItem(KEPT) === "yes");
    } catch (error) {
      this.state.setState({ problem: (error as Error).message });
    }
  }

  want(wanted: boolean): void {
    this.storage.setItem(KEPT, wanted ? "yes" : "no");
    this.scale = FIRST;
    this.slow = 0;
    this.state.setState({ wanted, problem: null });
    if (wanted) this.warm();
  }

  dispose(): void {
    for (const end of this.ends) end();
    clearTimeout(this.rest);
    cancelAnimationFrame(this.asked);
    this.program?.dispose();
    this.program = null;
  }

  /** Whether the picture is looked at in a way that this can draw. */
  private suits(): boolean {
    const v = this.view.getState();
    return v.pass === "beauty" && v.tones === "picture" && !v.clear && v.front === "live" && !(v.wipe && v.back !== null);
  }

  /** Takes the rendered picture as it is now, where it has been sampled everywhere. */
  private take(given: SceneDocument, seen: SceneDocument): void {
    const live = this.session.live();
    if (!live || this.session.state.getState().covered !== seen) return;
    const film = carriedFilm(live);
    if (!film) return;
    this.program!.setFilm(film);
    this.base = { given, seen, size: [film.width, film.height] };
    this.begun = false;
  }

  /** The document changed by a drag, or otherwise. */
  private follow(doc: SceneDocument, before: SceneDocument): void {
    const { from } = this.store.held.getState();
    const { wanted, problem } = this.state.getState();
    if (!from || !wanted || problem || !this.suits() || !this.program) {
      if (!from) {
        this.letGo();
        this.hide();
      }
      return;
    }
    try {
      if (!this.program.isReady()) return;
      // the session's own turn comes after this: its film is still that of the document before
      if (!this.looked && before === from && carries(from, doc)) this.take(from, this.session.seenOf(from));
      this.looked = true;
    } catch (error) {
      this.state.setState({ problem: (error as Error).message });
      return;
    }
    const size = this.session.state.getState().size;
    const { base } = this;
    const fits = base !== null && base.size[0] === size[0] && base.size[1] === size[1];
    if (!fits || !carries(base.given, doc) || !carries(base.seen, this.session.seenOf(doc))) {
      this.letGo();
      this.hide();
      return;
    }
    this.session.hold(true);
    clearTimeout(this.rest);
    this.rest = setTimeout(() => this.session.hold(false), REST);
    if (!this.asked) this.asked = requestAnimationFrame(() => this.draw());
  }

  private draw(): void {
    this.asked = 0;
    const { base, program } = this;
    const { geometry } = this.session;
    if (!base || !program || !geometry) return;
    if (this.maker?.geometry !== geometry) this.maker = { geometry, make: tableMaker(geometry) };
    const { make } = this.maker;
    // the first of a size draws both veils: its time says nothing of the next
    const settled = this.begun;
    if (!settled) {
      const size = base.size.map((n) => Math.max(8, Math.round(n * this.scale))) as [number, number];
      program.begin(...size, make(base.seen));
      this.begun = true;
    }
    const seen = this.session.seen();
    const took = program.draw(make(seen), seen.film);
    if (!this.state.getState().shown) this.state.setState({ shown: true });
    if (!settled) return;
    const scale = took > SLOW ? this.scale * Math.max(0.4, Math.sqrt(SLOW / 1.5 / took)) : took < QUICK ? this.scale * 1.4 : this.scale;
    const next = Math.max(MIN, Math.min(MAX, scale));
    this.slow = this.scale === MIN && took > TOO_SLOW ? this.slow + 1 : 0;
    if (this.slow > 2) {
      this.state.setState({ problem: `a picture takes ${Math.round(took)} ms on this machine` });
      this.letGo();
      this.hide();
    } else if (next !== this.scale) {
      this.scale = next;
      this.begun = false;
    }
  }

  /** The renderer goes on. */
  private letGo(): void {
    clearTimeout(this.rest);
    this.session.hold(false);
  }
  private hide(): void {
    cancelAnimationFrame(this.asked);
    this.asked = 0;
    if (this.state.getState().shown) this.state.setState({ shown: false });
  }
}
