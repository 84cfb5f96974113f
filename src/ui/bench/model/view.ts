/** How the bench looks at things; none of it is part of the document. */
import { createStore } from "zustand/vanilla";
import type { V3 } from "#core/math/vectors";
import type { Finding } from "#core/air/diagnose";
import type { DifferenceKind } from "#core/film/difference";
import type { PassName } from "#core/film/passes";
import type { TextStorage } from "../../shared/page-host";
import { GROUPS, GROUPS_KEPT, isOpen, keptFolds, type Folds, type GroupId } from "./groups";
import { ALL_PROOFS, type ProofFilter } from "./proof-order";
import type { LightId } from "./session";
import { pixelZoom, zoomedAbout, type Pair, type Zoom } from "./zoom";

/** What can be drawn under the picture: the section, the set in space, the table of lights, what probes read, pictures of a setting's values, small pictures of all passes, what a final is ordered with, what it costs. */
export type Below = "section" | "space" | "lights" | "probes" | "wedges" | "passes" | "final" | "budget";

/** Parts of the budget. */
export type BudgetPart = "budget" | "noise" | "time" | "advice" | "levels" | "record";

/** Most probes that are set at a time. */
export const MAX_PROBES = 8;

/** What a drawing shows: the live picture, or a proof by its id. */
export type Shown = "live" | (string & {});

/** Something that can be taken hold of in the drawings of space. */
export type Grip =
  | { kind: "lens" | "aim" | "sun" | "sunGobo" }
  | { kind: "light" | "target" | "object" | "medium" | "gobo" | "goboTurn"; index: number }
  /** A side of a medium's region (regionSides). */
  | { kind: "side"; index: number; side: number };

export interface ViewState {
  pass: PassName;
  /** The light group whose share of the pass is shown alone. */
  light: string | null;
  /** How the beauty is shown: as it is, by stops in colours, or with what is clipped marked. */
  tones: "picture" | "stops" | "clipping";
  /** How the sheet shows the picture's values. */
  scope: "histogram" | "waveform";
  /** Whether the picture in front is wiped against itself without its finish. */
  unfinished: boolean;
  /** Which part of the budget is looked at. */
  budgetPart: BudgetPart;
  /** What the table of lights shows: their settings, or the balance of what the film keeps of them. */
  lightTable: "settings" | "balance";
  /** Clear air held up against the pass. */
  clear: boolean;
  /** Whether the picture is shown cleaned, and whether the raw one is held up against it. */
  clean: boolean;
  raw: boolean;
  front: Shown;
  back: Shown | null;
  wipe: boolean;
  /** Pictures beside one another: the one in front, with the back, or up to four; and what stands there beside front and back. */
  beside: 1 | 2 | 4;
  others: Shown[];
  /** How far and where the pictures are zoomed in; null: they fit. */
  zoom: Zoom | null;
  /** Whether the live picture is rendered at what is seen of it, as fine as it will be in the end. */
  seenOnly: boolean;
  /** Pixels of the live picture for each of the screen. */
  fineness: Fineness;
  /** Which proofs the strip shows. */
  proofFilter: ProofFilter;
  /** Whether the pixels under the pointer are shown enlarged. */
  loupe: boolean;
  /** Whether it is told what front and back differ in. */
  differences: boolean;
  /** How the difference of front and back is counted and scaled where it is shown; null where it is not. */
  difference: { kind: DifferenceKind; scale: number } | null;
  /** Place of the wipe's edge across the picture, 0 to 1, and degrees by which it is turned from upright. */
  edge: number;
  edgeAngle: number;
  /** What dragging in the picture does. */
  tool:
    | "none"
    | "sun"
    | "region"
    | "measure"
    | "person"
    | "expose"
    | "white"
    | "focus"
    | "pin"
    | "limit"
    | "aim"
    | "look"
    | "shine"
    | "probe"
    | "lens";
  /** Places of the frame (shares) whose values are read all the time. */
  probes: { x: number; y: number }[];
  /** Points picked with the ruler (at most two), and where a person stands for comparison. */
  measured: [number, number, number][];
  person: [number, number, number] | null;
  /** Lights chosen, the last one foremost; lights soloed. */
  lights: LightId[];
  solo: LightId[];
  /** The drawing under the picture. */
  below: Below | null;
  /** Which way the drawing of space looks, what is seen from where in it, and what its handles move. */
  spaceView: "around" | "plan";
  through: "free" | "lens" | number;
  grip: Grip | null;
  turn: boolean;
  snap: boolean;
  /** The section: through which point of the frame it goes (shares), which way it is cut. */
  at: { x: number; y: number };
  cut: "upright" | "level";
  /** Height of the level cut, m; null for the lens's. */
  cutHeight: number | null;
  scale: "even" | "logarithmic";
  /** What is chosen in the set: an object by number, and a part of it by path. */
  chosen: { object: number; part: string | null } | null;
  open: string;
  /** Groups of the sheet that were opened or folded by hand. */
  folds: Folds;
  /** Whether the presets of air are open. */
  presets: boolean;
  /** Where light shall come from, m, once that is clicked: the tool "shine" then asks where it shall land. */
  shineFrom: V3 | null;
  /** Ends of an upright line in the picture that the lens of a plate is held by (shares of the frame); null where none is drawn. */
  upright: [x: number, y: number, x2: number, y2: number] | null;
  /** What the tool in hand has to say of the last click. */
  said: string | null;
  /** An object that was to be filled and is open: its open edges, 6 numbers each, m. */
  gaps: { object: string; edges: number[] } | null;
  /** Next steps that were declined. */
  declined: string[];
  /** Which of the media is open, and which are looked at alone. */
  medium: number;
  soloMedia: number[];
  /** What is wrong with the air of the present frame. */
  findings: Finding[];
  surround: number;
  keys: boolean;
  /** Whether the finder is open. */
  finding: boolean;
  /** The picture alone, without sheet, drawings and proofs; and whether outlines and handles lie over it. */
  alone: boolean;
  helpers: boolean;
}

/** Pixels of the live picture for each of the screen, and their words. */
export const FINENESSES = [
  [0.25, "quarter"],
  [0.5, "half"],
  [1, "full"],
  [2, "double"],
] as const;
export type Fineness = (typeof FINENESSES)[number][0];
/** Where it is kept how fine the live picture is. */
export const FINENESS_KEPT = "fumarium.fineness";
const keptFineness = (storage: TextStorage): Fineness => {
  const kept = Number(storage.getItem(FINENESS_KEPT));
  return FINENESSES.find(([fineness]) => fineness === kept)?.[0] ?? 1;
};

/** @param open part of the sheet that is open at first */
export function createView(storage: TextStorage, open = "air") {
  const stored = storage.getItem("fumarium.surround");
  const view = createStore<ViewState>(() => ({
    pass: "beauty",
    light: null,
    tones: "picture",
    scope: "histogram",
    unfinished: false,
    budgetPart: "budget",
    lightTable: "settings",
    clear: false,
    clean: true,
    raw: false,
    front: "live",
    back: null,
    wipe: false,
    beside: 1,
    others: [],
    zoom: null,
    seenOnly: false,
    fineness: keptFineness(storage),
    loupe: false,
    proofFilter: ALL_PROOFS,
    differences: false,
    difference: null,
    edge: 0.5,
    edgeAngle: 0,
    tool: "none",
    probes: [],
    measured: [],
    person: null,
    at: { x: 0.5, y: 0.5 },
    cut: "upright",
    cutHeight: null,
    scale: "even",
    chosen: null,
    lights: [],
    solo: [],
    below: "section",
    spaceView: "around",
    through: "free",
    grip: null,
    turn: false,
    snap: false,
    open,
    folds: keptFolds(storage),
    presets: false,
    shineFrom: null,
    upright: null,
    said: null,
    gaps: null,
    declined: [],
    medium: 0,
    soloMedia: [],
    findings: [],
    surround: stored === null ? 0.19 : Math.max(0, Math.min(1, Number(stored) || 0)),
    keys: false,
    finding: false,
    alone: false,
    helpers: true,
  }));
  // a tool that is laid away, or taken in hand anew, has said and begun nothing
  view.subscribe(({ tool }, before) => {
    if (tool !== before.tool) view.setState({ shineFrom: null, said: null });
  });
  // another pass is of all lights
  view.subscribe(({ pass, light }, before) => {
    if (light !== null && light === before.light && pass !== before.pass) view.setState({ light: null });
  });
  // who sees all of the picture has it rendered whole, and does not begin it anew by zooming in again
  view.subscribe(({ zoom, seenOnly }) => {
    if (!zoom && seenOnly) view.setState({ seenOnly: false });
  });
  // what the drawing under the picture took the place of
  let replaced: Below | null = null;
  return Object.assign(view, {
    /** Distance under the pointer: Infinity for the background, null outside the drawings; and its place in the picture. By itself, since every move changes it. */
    pointer: createStore<{ distance: number | null; at: { x: number; y: number } | null }>(() => ({ distance: null, at: null })),
    /** Brings something to the front; what was there goes to the back, to be compared with. */
    show(what: Shown): void {
      const s = view.getState();
      if (s.front === what) return;
      const others = [...(s.back === null ? [] : [s.back]), ...s.others].filter((id) => id !== what && id !== s.front);
      view.setState({ front: what, back: s.front, others: others.slice(0, 2) });
    },
    /** Opens a drawing under the picture, or closes it where it is open: what it took the place of comes back. */
    toggleBelow(what: Below): void {
      const { below } = view.getState();
      if (below !== what) {
        replaced = below;
        view.setState({ below: what });
        return;
      }
      view.setState({ below: replaced === what ? null : replaced });
      replaced = null;
    },
    flip(): void {
      const s = view.getState();
      if (s.back !== null) view.setState({ front: s.back, back: s.front });
    },
    /** A proof is gone: nothing shows it any more. */
    forget(id: string): void {
      const s = view.getState();
      const front = s.front === id ? "live" : s.front;
      const others = s.others.filter((other) => other !== id && other !== front);
      const back = s.back === id || s.back === front ? (others.shift() ?? null) : s.back;
      view.setState({ front, back, others, ...(back === null ? { wipe: false, difference: null, beside: 1 } : {}) });
    },
    /** What lies where on screen, as the picture last measured it. */
    placing: { fit: [1, 1] as Pair, place: [1, 1] as Pair },
    /** Zooms about a place of the frame (shares). */
    zoomBy(factor: number, at: { x: number; y: number }): void {
      const { fit, place } = this.placing;
      view.setState({ zoom: zoomedAbout(view.getState().zoom, factor, at, fit, place) });
    },
    /** The whole picture, rendered whole. */
    zoomOut(): void {
      view.setState({ zoom: null, seenOnly: false });
    },
    /** A pixel of the finished frame on each of the screen, rendered so, about the place that is looked at; again: the whole picture. */
    zoomToPixels(film: Pair): void {
      const { at, seenOnly, zoom } = view.getState();
      const { fit, place } = this.placing;
      if (seenOnly && zoom) return this.zoomOut();
      view.setState({ zoom: pixelZoom(film, at, fit, place), seenOnly: true });
    },
    /** Pictures beside one another: one, two, four, and one again. */
    standBeside(): void {
      const { back, beside } = view.getState();
      view.setState({ beside: back === null ? 1 : beside === 1 ? 2 : beside === 2 ? 4 : 1 });
    },
    setFineness(fineness: Fineness): void {
      storage.setItem(FINENESS_KEPT, String(fineness));
      view.setState({ fineness });
    },
    /** Folds a group of the sheet, or opens it; it stays so the next time. */
    fold(id: GroupId, folded: boolean): void {
      const folds = { ...view.getState().folds, [id]: !folded };
      storage.setItem(GROUPS_KEPT, JSON.stringify(folds));
      view.setState({ folds });
    },
    /** Sets a probe, where there is room for one more. @returns whether there was */
    probe(x: number, y: number): boolean {
      const { probes } = view.getState();
      if (probes.length >= MAX_PROBES) return false;
      view.setState({ probes: [...probes, { x, y }] });
      if (view.getState().below !== "probes") this.toggleBelow("probes");
      return true;
    },
    /** Takes a point for the ruler: the second ends it, and opens where the distance is told. */
    measure(point: V3): void {
      const [from, to] = view.getState().measured;
      if (!from || to) return view.setState({ measured: [point] });
      view.setState({ measured: [from, point], tool: "none" });
      this.unfold("size");
    },
    /** Opens a group in its part of the sheet: something that was just done is told there. */
    unfold(id: GroupId): void {
      view.setState({ open: GROUPS[id].part });
      if (!isOpen(view.getState().folds, id)) this.fold(id, false);
    },
    setSurround(v: number): void {
      storage.setItem("fumarium.surround", String(v));
      view.setState({ surround: v });
    },
  });
}
export type ViewStore = ReturnType<typeof createView>;
