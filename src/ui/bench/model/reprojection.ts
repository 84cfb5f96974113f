/**
 * While air is shaped or the sun is moved by dragging, the rendered picture is carried along by its veil at once, its shafts by
 * a map of where sunlight comes; when the hand rests or lets go, the renderer takes over. No interface code but the canvas it draws to.
 */
import { createStore, type StoreApi } from "zustand/vanilla";
import type { SceneDocument } from "#core/document/schema";
import { carriedFilm, carries } from "#core/veil/carry";
import { tableMaker } from "#core/veil/tables";
import type { CompiledGeometry } from "#core/scene/compiled";
import type { Session } from "./session";
import type { TextStorage } from "../../shared/page-host";
import type { BenchStore } from "./store";
import type { ViewStore } from "./view";
import type { SunMap } from "#core/section/sun-map";
import { VeilProgram } from "./reprojection-program";
import { SunMaps } from "./sun-maps";

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
  /** Whether where sunlight comes is being traced for what is dragged. */
  tracing: boolean;
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
  /** The picture that is carried: rendered with this document, in which sunlight comes where this map says (null: not known). */
  private base: { given: SceneDocument; seen: SceneDocument; size: readonly [number, number]; map: SunMap | null } | null = null;
  private readonly suns: SunMaps;
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
    this.state = createStore<PreviewState>(() => ({ shown: false, tracing: false, wanted: storage.getItem(KEPT) !== "no", problem: null }));
    this.suns = new SunMaps(
      async (doc) => (await session.section.asked()).sunMap(doc),
      () => session.state.getState().geometry,
    );
    this.ends = [
      store.held.subscribe(({ from }) => {
        this.looked = false;
        if (!from) this.letGo();
      }),
      store.subscribe(({ document }, before) => {
        if (document !== before.document) this.follow(document, before.document);
      }),
      session.state.subscribe(({ covered }) => {
        // before a drag begins, so that it need not wait
        if (covered && covered === session.seen()) this.foresee(covered);
        if (this.state.getState().shown && !session.holding && session.shows(session.seen())) this.hide();
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
      const { covered } = this.session.state.getState();
      if (covered) this.foresee(covered);
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

  /** Has traced where sunlight comes in what is rendered. */
  private foresee(seen: SceneDocument): void {
    if (!this.program || !this.state.getState().wanted || this.store.held.getState().from || this.foreseen === seen) return;
    this.foreseen = seen;
    if (!this.suns.has(seen)) this.suns.ask(seen, () => undefined);
  }
  private foreseen: SceneDocument | null = null;

  /** Whether the picture is looked at in a way that this can draw. */
  private suits(): boolean {
    const v = this.view.getState();
    return (
      v.pass === "beauty" &&
      v.tones === "picture" &&
      !v.clear &&
      !v.unfinished &&
      !v.difference &&
      v.front === "live" &&
      !(v.wipe && v.back !== null)
    );
  }

  /** Takes the rendered picture as it is now, where it has been sampled everywhere. */
  private take(given: SceneDocument, seen: SceneDocument): void {
    const live = this.session.shown();
    if (!live || this.session.state.getState().covered !== seen) return;
    const film = carriedFilm(live, seen.film);
    if (!film) return;
    this.program!.setFilm(film);
    this.base = { given, seen, size: [film.width, film.height], map: this.suns.find(seen) ?? null };
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
    const known = base?.map || doc.sun === base?.given.sun;
    if (!fits || !known || !carries(base.given, doc) || !carries(base.seen, this.session.seenOf(doc))) {
      this.letGo();
      this.hide();
      return;
    }
    this.session.hold(true);
    clearTimeout(this.rest);
    this.rest = setTimeout(() => this.letGo(), REST);
    if (!this.asked) this.asked = requestAnimationFrame(() => this.draw());
  }

  private draw(): void {
    this.asked = 0;
    if (!this.base) return;
    const seen = this.session.seen();
    if (!this.base.map) return this.drawAs(seen, null);
    // shafts of a sun that has moved come with its map, those of air that fills another space soon after it
    const map = this.suns.find(seen);
    if (map !== undefined) this.drawAs(seen, map);
    const there = this.suns.has(seen);
    this.state.setState({ tracing: !there });
    if (!there) {
      const { base } = this;
      this.suns.ask(seen, (doc, traced) => {
        // what is seen by now may have had its map before this one was traced
        this.state.setState({ tracing: !this.suns.has(this.session.seen()) });
        if (this.base === base && this.session.holding) this.drawAs(doc, traced);
      });
    }
  }

  private drawAs(seen: SceneDocument, map: SunMap | null): void {
    const { base, program } = this;
    const { geometry } = this.session.state.getState();
    if (!base || !program || !geometry) return;
    if (base.map && !map) {
      this.letGo();
      this.hide();
      return;
    }
    if (this.maker?.geometry !== geometry) this.maker = { geometry, make: tableMaker(geometry) };
    const { make } = this.maker;
    // the first of a size draws both veils: its time says nothing of the next
    const settled = this.begun;
    if (!settled) {
      const size = base.size.map((n) => Math.max(8, Math.round(n * this.scale))) as [number, number];
      program.begin(...size, { tables: make(base.seen), map: base.map });
      this.begun = true;
    }
    const took = program.draw({ tables: make(seen), map }, { ...seen.film, lut: this.session.luts.of(seen) });
    if (!this.state.getState().shown) this.state.setState({ shown: true });
    if (!settled) return;
    const scale = took > SLOW ? this.scale * Math.max(0.4, Math.sqrt(SLOW / 1.5 / took)) : took < QUICK ? this.scale * 1.4 : this.scale;
    const next = Math.max(MIN, Math.min(MAX, scale));
    // who asks for it outright has seen what it takes
    const outright = this.storage.getItem(KEPT) === "yes";
    this.slow = this.scale === MIN && took > TOO_SLOW && !outright ? this.slow + 1 : 0;
    if (this.slow > 2) {
      this.state.setState({ problem: `a picture takes ${Math.round(took)} ms on this machine` });
      this.letGo();
      this.hide();
    } else if (next !== this.scale) {
      this.scale = next;
      this.begun = false;
    }
  }

  /** The renderer goes on; where it has nothing to do, its picture is shown at once. */
  private letGo(): void {
    clearTimeout(this.rest);
    cancelAnimationFrame(this.asked);
    this.asked = 0;
    this.session.hold(false);
    if (this.session.shows(this.session.seen())) this.hide();
  }
  private hide(): void {
    cancelAnimationFrame(this.asked);
    this.asked = 0;
    if (this.state.getState().shown) this.state.setState({ shown: false });
  }
}
