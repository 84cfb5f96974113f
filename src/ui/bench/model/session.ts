/**
 * The live picture: follows the document, rebuilds only what an edit touched, and keeps the film that
 * the drawings are developed from. No interface code.
 */
import type { Remote } from "comlink";
import { Luts } from "./luts";
import { createStore, type StoreApi } from "zustand/vanilla";
import { balances, keepsLightGroups } from "#core/document/balance";
import type { Motion, SunMotion } from "#core/document/motion";
import { ActivityMeter } from "#engine/activity";
import { AIR_EVERY } from "#core/document/air-size";
import type { SceneDocument } from "#core/document/schema";
import { SIDES } from "#core/film/cleaned";
import { samplesSoFar, type Film, type FilmStatistics, type FrameWindow } from "#core/film/film";
import { boundsInWorld } from "#core/scene/origin";
import { geometryKey, meshKey } from "#core/scene/keys";
import type { CompiledGeometry } from "#core/scene/compiled";
import type { FinishOptions } from "#engine/clean-pool";
import type { Progress } from "#engine/engine";
import { judgeOf } from "#engine/settled";
import { liveSchedule } from "#engine/schedule";
import type { SceneWorker } from "./scene-worker";
import type { SectionLink } from "./section-link";
import type { Pixels } from "./zoom";
import { Latest } from "../../shared/latest";
import { Cleaning } from "./cleaning";
import { when } from "./when";
import type { FilmReader, Measured } from "./film-readings";
import type { LiveEngine, SessionHost } from "./hosts";

export interface SessionState {
  phase: "starting" | "building" | "rendering" | "paused" | "done" | "failed";
  message: string;
  shared: boolean;
  workers: number;
  progress: Progress | null;
  statistics: Measured["statistics"] | null;
  rays: number;
  /** What is rendered. */
  geometry: CompiledGeometry | null;
  bounds: CompiledGeometry["bounds"] | null;
  /** Triangles that the set shows, and that are kept: many in several places are kept once. */
  triangles: number;
  kept: number;
  objectBounds: CompiledGeometry["objectBounds"];
  /** Grids of media that are read, by gridKey. */
  volumes: CompiledGeometry["volumes"];
  /** Parts of the models by asset name. */
  parts: Record<string, { path: string; count: number }[]>;
  reach: Measured["reach"];
  balance: Measured["balance"];
  /** The document whose film has a sample in every pixel, and which development was the first of it. */
  covered: SceneDocument | null;
  coveredAt: number;
  /** Counts developments: the drawings redraw when it changes. */
  exposure: number;
  /** The development that the picture on screen is of. */
  drawn: number;
  /** Whether a clean-up is under way. */
  cleaning: boolean;
  /** Counts cleaned pictures, and says why there are none where the clean-up cannot work. */
  cleaned: number;
  cleaningProblem: string | null;
  /** Milliseconds from the last change to its first picture. */
  firstPicture: number | null;
  size: [number, number];
}

/** A film that nothing changes any more, with what is known about it. */
export interface Still {
  film: Film;
  document: SceneDocument;
  statistics: FilmStatistics;
  seconds: number;
}

/** What a cleaned still is asked for with. */
type CleanedHow = Pick<FinishOptions, "lights" | "onProgress" | "signal">;

/** A light: sun, moon and sky by name, the others by their place in the list. */
export type LightId = "sun" | "moon" | "sky" | number;
export interface ViewFilter {
  /** None: all lights shine as the document says. */
  solo: LightId[];
  soloMedia: number[];
  balance: boolean;
}

/** The document with what is soloed alone, and light groups kept apart where their balance is asked for. */
export function filterDocument(given: SceneDocument, { solo, soloMedia, balance }: ViewFilter): SceneDocument {
  const doc =
    soloMedia.length === 0 ? given : { ...given, air: given.air.map((m, i) => (soloMedia.includes(i) ? m : { ...m, on: false })) };
  const film = balance && !keepsLightGroups(doc.film) ? { ...doc.film, lightGroups: true } : doc.film;
  if (solo.length === 0) return film === doc.film ? doc : { ...doc, film };
  const soloed = <T extends { on: boolean }>(id: LightId, light: T): T => (solo.includes(id) ? light : { ...light, on: false });
  return {
    ...doc,
    film,
    sun: soloed("sun", doc.sun),
    moon: soloed("moon", doc.moon),
    sky: { ...soloed("sky", doc.sky), stars: solo.includes("sky") ? doc.sky.stars : null },
    lights: doc.lights.map((l, i) => soloed(i, l)),
  };
}

/** What moves stands where it is at the picture's moment, wherever it goes else. */
const still = <T extends { motion: Motion | SunMotion | null }>(thing: T): T => (thing.motion ? { ...thing, motion: null } : thing);

/** What a run depends on; exposure and white balance only develop, kept lenses and pins are only kept, units and the budget are only read. */
function renderKey(doc: SceneDocument): string {
  const { title: _, lenses: __, pins: ___, units: ____, budget: _____, film, ...rest } = doc;
  const { region, size, filter, mattes } = film;
  const lightGroups = keepsLightGroups(film);
  // where the cleaned picture decides what is sampled, how it is cleaned does too
  const judged = doc.render.noiseThreshold !== null && doc.render.thresholdOf === "cleaned" ? film.cleanUp : null;
  return JSON.stringify({
    ...rest,
    camera: still(doc.camera),
    sun: still(doc.sun),
    lights: doc.lights.map(still),
    region,
    size,
    filter,
    lightGroups,
    mattes,
    judged,
  });
}

/** Stages of the live schedule until every pixel has a sample, and pixels between those of the first. */
const SWEEP = 4;
const FIRST_STRIDE = 8;

/**
 * Milliseconds from one picture of a run to the next: a share of the time it has taken, so that each has that much more light than the
 * last, and threads trace rather than develop and clean what looks the same.
 */
const SHARE = 1 / 8,
  SOON = 250,
  LATE = 3000;

/** How much larger than its place a picture may be that goes on when the place shrinks: past it, too much is rendered that is not seen. */
const MAX_SHRUNK = 2;

/** Milliseconds after which workers that could not start are started again. */
const AGAIN = 3000;

export class Session {
  readonly state: StoreApi<SessionState>;
  readonly worker: Remote<SceneWorker>;
  readonly section: SectionLink;
  /** Tables that pictures are finished with. */
  readonly luts: Luts;
  private engine: LiveEngine | null = null;
  private film: Film | null = null;
  private given: SceneDocument;
  /** What is rendered: the document as it is looked at. */
  private doc: SceneDocument;
  private filter: ViewFilter = { solo: [], soloMedia: [], balance: false };
  private key = "";
  private built = "";
  /** What the triangles at hand were built for. */
  private solid = "";
  private building = 0;
  private look: "air" | "clear" = "air";
  private size: [number, number] = [0, 0];
  private changedAt = 0;
  private ticking: ReturnType<typeof setTimeout> | undefined;
  private queued = false;
  private held = false;
  /** Paused by hand. */
  private stopped = false;
  private gone = false;
  private readonly cleaning: Cleaning;
  /** Whether the picture is looked at cleaned. */
  private clean = true;
  /** Counts runs. */
  private runs = 0;
  /** The numbers of every live film, by the run they are of: runs write to the same memory, one after the other. */
  private readonly lent = new WeakMap<Film["data"], number>();

  constructor(
    doc: SceneDocument,
    private readonly host: SessionHost,
  ) {
    this.given = doc;
    this.doc = doc;
    this.worker = host.worker;
    this.section = host.section;
    this.luts = new Luts((of) => host.worker.lut(of));
    this.cleaning = new Cleaning(host.cleaner, {
      changed: () => this.cleanedChanged(),
      run: () => this.runs,
      busy: (cleaning) => this.state.setState({ cleaning }),
      failed: (error) => this.state.setState({ cleaningProblem: error.message }),
    });
    this.state = createStore<SessionState>(() => ({
      phase: "starting",
      message: "Starting",
      shared: false,
      workers: 0,
      progress: null,
      statistics: null,
      rays: 0,
      geometry: null,
      bounds: null,
      triangles: 0,
      kept: 0,
      objectBounds: [],
      volumes: {},
      parts: {},
      reach: { subject: null, farthest: null, median: null },
      balance: null,
      covered: null,
      coveredAt: 0,
      exposure: 0,
      drawn: 0,
      cleaning: false,
      cleaned: 0,
      cleaningProblem: null,
      firstPicture: null,
      size: [0, 0],
    }));
  }

  async start(): Promise<void> {
    if (this.starting) return;
    this.starting = true;
    try {
      const engine = await this.host.startEngine();
      if (this.gone) return engine.dispose();
      this.engine = engine;
      engine.attend(this.place);
      this.state.setState({ shared: engine.shared, workers: engine.workers });
      this.refresh(true);
    } catch (error) {
      this.fail(error);
      // a server that starts anew is there in a moment
      if (!this.gone) this.retrying = setTimeout(() => void this.start(), AGAIN);
    } finally {
      this.starting = false;
    }
  }
  private starting = false;
  private retrying: ReturnType<typeof setTimeout> | undefined;

  /** Tries what failed once more. */
  again(): void {
    clearTimeout(this.retrying);
    if (!this.engine) return void this.start();
    this.refresh(true);
  }

  dispose(): void {
    this.gone = true;
    this.meter.stop();
    clearTimeout(this.retrying);
    this.engine?.dispose();
    this.cleaning.dispose();
    this.host.dispose();
    this.untick();
  }

  /** The document changed. */
  update(doc: SceneDocument): void {
    this.given = doc;
    this.doc = filterDocument(doc, this.filter);
    this.refresh(false);
  }

  /** Looks at the document in another way: some lights alone, or with what each light gives kept apart. */
  setFilter(filter: ViewFilter): void {
    if (JSON.stringify(filter) === JSON.stringify(this.filter)) return;
    this.filter = filter;
    this.update(this.given);
  }

  /**
   * Pixels of the live picture (the frame's shape is the document's), or of a window of it. A picture that has been sampled everywhere goes on where
   * it is not too small for its new place: it is shown smaller there, and the next edit's is as large as its place.
   */
  resize(width: number, height: number, frame: Pixels["frame"] = null): void {
    if (this.size[0] === width && this.size[1] === height && JSON.stringify(frame) === JSON.stringify(this.frame)) return;
    const whole = frame === null && this.frame === null;
    this.size = [width, height];
    this.frame = frame;
    if (!whole || !this.fits(width, height)) this.refresh(true);
  }
  /** The frame that the picture is a window of; null: it is all of it. */
  private frame: FrameWindow | null = null;

  /** Tells which place of the frame is looked at: its samples come first. */
  attend(place: { x: number; y: number } | null): void {
    this.place = place;
    this.engine?.attend(place);
  }
  private place: { x: number; y: number } | null = null;

  /** Whether the present picture has the shape of a place of so many pixels, and at least as many, but not needlessly many. */
  private fits(width: number, height: number): boolean {
    const { covered, size } = this.state.getState();
    const [w, h] = size;
    const alike = Math.abs(w * height - h * width) <= w + h;
    return covered !== null && alike && w >= width && h >= height && w <= MAX_SHRUNK * width;
  }

  /** What is rendered of a document, and of the present one. */
  seenOf(doc: SceneDocument): SceneDocument {
    return doc === this.given ? this.doc : filterDocument(doc, this.filter);
  }
  seen(): SceneDocument {
    return this.doc;
  }
  /** Holds the renderer while something else shows the changes; after it, what changed meanwhile is rendered. */
  hold(on: boolean): void {
    if (on === this.held) return;
    this.held = on;
    if (on) {
      if (this.state.getState().phase === "rendering") this.engine?.pause();
      return;
    }
    if (this.state.getState().phase === "rendering") this.engine?.resume();
    this.refresh(false);
  }
  /** What develops and measures films. */
  get films(): FilmReader {
    return this.host.films;
  }
  get holding(): boolean {
    return this.held;
  }

  /** Which of the two pictures refines first. */
  prefer(look: "air" | "clear"): void {
    if (this.look === look) return;
    this.look = look;
    this.askCleaning();
    // the other picture is already on film once a run has settled; before that, start with it
    if ((this.state.getState().statistics?.[look === "clear" ? "clearSamples" : "samples"] ?? 0) < 1) this.refresh(true);
  }

  /** Pauses until resume(): edits wait as well, but for those that only develop the picture. */
  pause(): void {
    if (this.state.getState().phase !== "rendering") return;
    this.stopped = true;
    this.engine?.pause();
    this.state.setState({ phase: "paused", message: "Paused" });
  }
  resume(): void {
    if (this.state.getState().phase !== "paused") return;
    this.stopped = false;
    this.engine?.resume();
    this.state.setState({ phase: "rendering", message: "Rendering" });
    this.refresh(false);
  }

  /**
   * Gives trials the engine for themselves on the present document; the live picture begins anew after them.
   * @throws what the work throws; where the document changes meanwhile, its trial says that it was cancelled
   */
  async withExclusiveEngine<T>(work: (engine: LiveEngine, doc: SceneDocument) => Promise<T>): Promise<T> {
    const { engine } = this;
    if (!engine || this.built === "") throw new Error("The set is not built yet.");
    this.untick();
    this.stopped = false;
    await engine.cancel();
    this.film = null;
    this.runs++;
    this.state.setState({ phase: "rendering", message: "Trials", covered: null });
    try {
      return await work(engine, this.doc);
    } finally {
      this.refresh(true);
    }
  }

  /** Whether a film's numbers are, or may be, another run's by now: what is read from it meanwhile is of both, and nobody's picture. */
  overwritten({ data }: Film): boolean {
    const run = this.lent.get(data);
    return run !== undefined && run !== this.runs;
  }
  /** Looks at what the workers of the live picture are at, while somebody asks for it. */
  readonly meter = new ActivityMeter(
    () => this.engine,
    () => this.live(),
  );
  /** Counts the runs of the live picture: each begins anew. */
  get run(): number {
    return this.runs;
  }
  /** The live film; its numbers go on changing. */
  live(): Film | null {
    return this.film;
  }
  /** The live film as it is looked at: with what is cleaned of it. */
  shown(): Film | null {
    return this.film && this.clean ? this.cleaning.shown(this.film) : this.film;
  }
  /** Looks at the picture cleaned, or as it is rendered. */
  setClean(on: boolean): void {
    if (on === this.clean) return;
    this.clean = on;
    if (!on) this.cleaning.forget();
    this.develop({});
  }
  /** A picture of a development is on screen. */
  drew(exposure: number): void {
    this.state.setState({ drawn: exposure });
  }
  /** Whether the picture on screen is of a document, with a sample in every pixel. */
  shows(doc: SceneDocument): boolean {
    const { covered, coveredAt, drawn } = this.state.getState();
    return covered === doc && drawn >= coveredAt;
  }
  /**
   * A still copy of the present settings' picture, as soon as each of its pixels has a sample. @throws CleanCancelled when the signal says so,
   * or where there will be none: paused before it, or nothing can be rendered
   */
  private async coveredSnapshot(signal?: AbortSignal): Promise<Still> {
    for (;;) {
      await when(this.state, () => this.isCovered(), signal);
      const { doc: document, runs: run } = this;
      const seconds = this.state.getState().progress?.seconds ?? 0;
      const film = await this.host.films.still(this.film!);
      // another run writes to the same memory: the copy may be of both, and the picture that is wanted is the one after it
      if (run !== this.runs || !this.film) continue;
      return { film, document, statistics: (await this.host.films.measured(film)).statistics, seconds };
    }
  }

  /** Whether the film has a sample of the present settings in every pixel. @throws Error where that would be waited for in vain */
  private isCovered(): boolean {
    const { phase, message, covered } = this.state.getState();
    // looked at in clear air, the frame with its media comes second
    if (covered === this.doc && this.film && samplesSoFar(this.film) >= 1) return true;
    if (phase === "failed") throw new Error(message);
    if (phase === "paused")
      throw new Error(
        this.key === renderKey(this.doc)
          ? "the picture is paused before every pixel has a sample. Resume it first."
          : "the picture is paused, and not yet of the present settings. Resume it first.",
      );
    return false;
  }

  /**
   * The present settings' picture as soon as each pixel has a sample, cleaned with the better filter by the document's strengths; the clear
   * frame only where it has samples. Raw where the strengths are all 0. @throws CleanCancelled, or where the clean-up cannot work or no
   * picture will come
   */
  async cleanedSnapshot(how: CleanedHow = {}): Promise<Still> {
    return this.cleanedStill(await this.coveredSnapshot(how.signal), how);
  }
  /** The triangles and tables of a document: those at hand where it is of the same set. @throws what building it throws */
  async geometryOf(doc: SceneDocument): Promise<CompiledGeometry> {
    const { geometry } = this.state.getState();
    if (geometry && geometryKey(doc) === this.built) return geometry;
    return geometry && meshKey(doc) === this.solid ? { ...geometry, ...(await this.worker.loose(doc)) } : this.worker.build(doc);
  }

  /** A film of another run, cleaned as its document says, with its figures. */
  async cleanedFilm(film: Film, document: SceneDocument): Promise<Pick<Still, "film" | "statistics">> {
    const { statistics } = await this.host.films.measured(film);
    return this.cleanedStill({ film, document, statistics, seconds: 0 }, {});
  }

  private async cleanedStill(still: Still, how: CleanedHow): Promise<Still> {
    const strengths = still.document.film.cleanUp;
    if (!(strengths.fireflies + strengths.air + strengths.surfaces > 0)) return still;
    const { samples, clearSamples } = still.statistics;
    const sides = SIDES.filter((side) => (side === "clear" ? clearSamples : samples) >= 1);
    // what is balanced is cleaned apart
    const lights = how.lights === true || balances(still.document.film.balance, still.film.lights);
    const cleaned = await this.host.cleaner.finish(still.film, { sides, strengths, ...how, lights });
    const film = { ...still.film, cleaned };
    return { ...still, film, statistics: (await this.host.films.measured(film)).statistics };
  }

  /**
   * The same, with the renderer held while the picture is cleaned and then worked on, which wants the same cores. An edit meanwhile begins its picture at once all the same. @throws what cleanedSnapshot throws, and the work
   */
  async withCleanedSnapshot<T>(how: CleanedHow, work: (still: Still) => Promise<T>): Promise<T> {
    const still = await this.coveredSnapshot(how.signal);
    return this.withResting(async () => work(await this.cleanedStill(still, how)));
  }

  /** Does something that wants this machine's cores while the live picture rests. An edit meanwhile begins its picture at once all the same. @throws what the work throws */
  async withResting<T>(work: () => Promise<T>): Promise<T> {
    const rendering = (): boolean => this.state.getState().phase === "rendering" && !this.held;
    if (rendering()) this.engine?.pause();
    try {
      return await work();
    } finally {
      if (rendering()) this.engine?.resume();
    }
  }

  private fail(error: unknown): void {
    this.state.setState({ phase: "failed", message: error instanceof Error ? error.message : String(error) });
  }

  /** Starts over if anything a run depends on has changed; several changes within a frame make one run. */
  private refresh(force: boolean): void {
    if (force) this.key = "";
    if (this.queued || !this.engine || this.size[0] === 0) return;
    this.queued = true;
    queueMicrotask(() => {
      this.queued = false;
      if (this.held) return;
      const key = renderKey(this.doc);
      if (key === this.key) {
        // only development changed: the film is this document's as well
        const message = this.stopped ? { message: "Paused" } : {};
        this.state.setState((s) => ({ ...message, exposure: s.exposure + 1, covered: s.covered && this.doc }));
        this.askCleaning();
        return;
      }
      if (this.stopped) {
        this.state.setState({ message: "Paused: changes wait" });
        return;
      }
      this.key = key;
      this.changedAt = performance.now();
      this.begin().catch((error: unknown) => this.fail(error));
    });
  }

  private async begin(): Promise<void> {
    const engine = this.engine!;
    const doc = this.doc;
    const geometry = geometryKey(doc);
    if (geometry !== this.built) {
      const build = ++this.building;
      this.state.setState({ phase: "building", message: "Reading models and building the scene" });
      await engine.cancel();
      // triangles and trees stay where only time or a file of the air is another
      const since = performance.now();
      const solid = meshKey(doc);
      const { geometry: had } = this.state.getState();
      const compiled = had && solid === this.solid ? { ...had, ...(await this.worker.loose(doc)) } : await this.worker.build(doc);
      if (build !== this.building) return;
      if (compiled.triangles !== had?.triangles) this.buildSeconds = (performance.now() - since) / 1000;
      this.solid = solid;
      engine.setGeometry(compiled);
      this.section.setGeometry(compiled);
      this.built = geometry;
      const { origin, shownTriangles: triangles, triangleCount: kept, volumes } = compiled;
      const bounds = boundsInWorld(compiled.bounds, origin);
      const objectBounds = compiled.objectBounds.map((box) => box && boundsInWorld(box, origin));
      this.state.setState({ geometry: compiled, bounds, triangles, kept, objectBounds, volumes });
      void this.worker.parts(doc).then((parts) => this.state.setState({ parts }));
      if (renderKey(this.doc) !== renderKey(doc)) return this.begin();
      this.changedAt = performance.now();
    }
    const [width, height] = this.size;
    const { frame } = this;
    const run = ++this.runs;
    this.startedAt = performance.now();
    let first = true;
    this.state.setState({ phase: "rendering", message: "Rendering", covered: null });
    const result = engine.start({
      document: doc,
      width,
      height,
      frame,
      stages: liveSchedule(doc.render.samples, this.look, engine.shared ? AIR_EVERY[doc.render.airSize] : 1),
      judge: judgeOf(doc, () => this.host.cleaner),
      onStage: (progress) => {
        this.film = engine.film();
        if (this.film) this.lent.set(this.film.data, run);
        const changes: Partial<SessionState> = { progress };
        // the first sweep leaves no pixel out
        // another document since may ask for the same picture
        if (progress.stage >= SWEEP) changes.covered = this.doc !== doc && renderKey(this.doc) === renderKey(doc) ? this.doc : doc;
        if (first) {
          first = false;
          changes.firstPicture = performance.now() - this.changedAt;
          changes.size = [width, height];
        }
        // a sweep is shown as it comes
        if (progress.stage <= SWEEP || performance.now() - this.developedAt >= this.pace()) return this.develop(changes);
        this.behind = true;
        this.state.setState(changes);
      },
    });
    this.tick();
    const done = await result;
    if (done.outcome === "cancelled") return;
    this.untick();
    this.film = done.film;
    // told with its figures: what waits for the end reads them
    const figures = await this.figuresOf(this.shown() ?? done.film);
    if (run !== this.runs || this.gone) return;
    this.develop({ phase: "done", message: "Done", rays: done.rays, ...figures });
  }

  /** While long stages run, the picture still refines. */
  private tick(): void {
    this.untick();
    this.ticking = setTimeout(() => {
      if (this.state.getState().phase === "rendering" && (this.engine?.shared || this.behind)) this.develop({});
      this.tick();
    }, this.pace());
  }
  private untick(): void {
    clearTimeout(this.ticking);
  }

  /** Seconds that reading and building the set took, the last time that was done. */
  buildSeconds = 0;
  private startedAt = 0;
  private developedAt = 0;
  /** Whether a stage ended that is not shown yet. */
  private behind = false;
  private pace(): number {
    return Math.max(SOON, Math.min(LATE, SHARE * (performance.now() - this.startedAt)));
  }

  private develop(changes: Partial<SessionState>): void {
    this.developedAt = performance.now();
    this.behind = false;
    this.state.setState((s) => ({ ...changes, exposure: s.exposure + 1, ...(changes.covered ? { coveredAt: s.exposure + 1 } : {}) }));
    const film = this.shown();
    if (film && !changes.statistics) this.measuring.ask(film);
    this.askCleaning();
  }

  /** Figures of a film; distances are those of the whole frame, which a window of it does not show. */
  private async figuresOf(film: Film): Promise<Measured> {
    const figures = await this.host.films.measured(film);
    return film.frame ? { ...figures, reach: this.state.getState().reach } : figures;
  }

  /** Has the film measured as it is looked at. */
  private readonly measuring = new Latest<Film>(async (film) => {
    const run = this.runs;
    try {
      const figures = await this.figuresOf(film);
      if (run === this.runs && !this.gone) this.state.setState(figures);
    } catch (error) {
      this.fail(error);
    }
  });

  /** Another cleaned picture is there: it is drawn, and its noise told where nothing else will measure it. */
  private cleanedChanged(): void {
    this.state.setState((s) => ({ cleaned: s.cleaned + 1, exposure: s.exposure + 1 }));
    const film = this.shown();
    if (film && this.state.getState().phase !== "rendering") this.measuring.ask(film);
  }

  /** Has the film as it is now cleaned, where it is looked at so. */
  private askCleaning(): void {
    const { phase, progress, cleaningProblem } = this.state.getState();
    if (!this.film || !this.clean || !progress || cleaningProblem) return;
    const every = Math.max(1, FIRST_STRIDE >> (progress.stage - 1));
    this.cleaning.ask({
      film: this.film,
      run: this.runs,
      look: this.look,
      every,
      // counted now: what was measured last may be of an earlier run
      samples: every > 1 ? 1 : samplesSoFar(this.film, this.look === "clear"),
      done: phase === "done",
      strengths: this.doc.film.cleanUp,
      balance: this.doc.film.balance,
    });
  }
}
