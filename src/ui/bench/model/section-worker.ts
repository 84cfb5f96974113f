/** Sections are computed here, apart from the picture, so that neither waits for the other. */
import { expose, transfer } from "comlink";
import type { SceneDocument } from "#core/document/schema";
import type { CompiledGeometry } from "#core/scene/compiled";
import { densityAcross } from "#core/air/across";
import { airFacts, type AirFacts } from "#core/air/facts";
import type { Box } from "#core/math/box";
import { sunDirection, type V3 } from "#core/math/vectors";
import { findInterior, findRoom, liesIn, likelyPlaces, shareLit, standInside, type Interior, type Look } from "#core/section/interior";
import { solvePins, survivingAt, type SeenPin, type Solution, type Solved } from "#core/air/pins";
import { bakedFile } from "#core/section/bake";
import { SectionProbe, withoutLights, type NoisePreview, type SectionRequest } from "#core/section/probe";
import { drawSection, type DrawnSection } from "./section-paint";
import type { SunMap } from "#core/section/sun-map";

let started: SectionProbe | null = null;
/** The room that the lens last stood in, kept while neither set nor lens change to another. */
let kept: { lens: string; room: Interior | null } | null = null;
/** The set's room, whether or not the lens is in it. */
let ofSet: { room: Interior | null } | null = null;

const lookIn =
  (doc: SceneDocument): Look =>
  (from, directions) =>
    probe().look(doc, from, directions);

function roomOfLens(doc: SceneDocument): Interior | null {
  const lens = doc.camera.position.join();
  if (kept?.lens === lens) return kept.room;
  const look = lookIn(doc);
  const room = kept?.room && liesIn(look, kept.room, doc.camera.position) ? kept.room : findInterior(look, doc.camera.position);
  kept = { lens, room };
  return room;
}

/** What is known of a document's rooms. */
export interface RoomsFound {
  /** Room that the lens stands in. */
  lens: Interior | null;
  /** Room of the set that the lens stands outside of, with a lens that looks at its opening. */
  other: { room: Interior; stand: { position: V3; target: V3 } } | null;
  /** Share of the lens's room that the sun comes to; null where there is neither. */
  sunlit: number | null;
}

/** @throws Error before it was started */
function probe(): SectionProbe {
  if (!started) throw new Error("the section was not started");
  return started;
}

const api = {
  async start(): Promise<void> {
    const response = await fetch("/kernel/kernel.plain.wasm");
    if (!response.ok) throw new Error(`The kernel of the section could not be loaded (${response.status}).`);
    started = await SectionProbe.create(await WebAssembly.compile(await response.arrayBuffer()), () => performance.now());
  },
  setGeometry(geometry: CompiledGeometry): void {
    probe().setGeometry(geometry);
    kept = null;
    ofSet = null;
  },
  /** @param size of the picture of its air, pixels */
  section(doc: SceneDocument, request: SectionRequest, size: readonly [number, number]): DrawnSection {
    const from = performance.now();
    const s = probe().section(doc, request);
    const drawn = drawSection(s, size);
    const buffers = [
      drawn.picture.pixels.buffer,
      s.field.buffer,
      s.cut.buffer,
      s.fate.depths.buffer,
      ...(s.lit ? [s.lit.values.buffer] : []),
    ] as ArrayBuffer[];
    return transfer({ ...s, ...drawn, milliseconds: performance.now() - from }, buffers);
  },

  /** Transmittance at pins that are before the lens. */
  surviving(doc: SceneDocument, pins: SeenPin[]): number[] {
    return survivingAt((d, p) => probe().depth(d, p.x, p.y, p.distance), withoutLights(doc), pins);
  },
  /** One medium solved so that pins keep their shares. */
  solve(doc: SceneDocument, index: number, pins: SeenPin[], which: Solved[]): Solution {
    return solvePins(withoutLights(doc), index, pins, which, (d, p) => probe().depth(d, p.x, p.y, p.distance));
  },
  /** What the frame's air does, for diagnosis. */
  facts(doc: SceneDocument, reach: number): AirFacts {
    return airFacts(doc, probe(), reach, roomOfLens(withoutLights(doc)));
  },
  /** The rooms of a set, as its lens stands to them. @param bounds of the set, m */
  rooms(doc: SceneDocument, bounds: Box): RoomsFound {
    const seen = withoutLights({ ...doc, air: [] });
    const look = lookIn(seen);
    const lens = roomOfLens(seen);
    if (lens)
      return { lens, other: null, sunlit: doc.sun.on ? shareLit(look, lens, sunDirection(doc.sun.azimuth, doc.sun.elevation)) : null };
    ofSet ??= { room: findRoom(look, likelyPlaces(bounds)) };
    const { room } = ofSet;
    return { lens: null, other: room && { room, stand: standInside(look, room) }, sunlit: null };
  },
  /** Density of a medium that leaves a share of light across the view; null where the view does not say. */
  across(doc: SceneDocument, index: number, share: number, reach: number): number | null {
    return densityAcross(doc, index, share, probe(), reach);
  },
  /** How a medium's break-up looks by itself. */
  noise(doc: SceneDocument, index: number): NoisePreview {
    const look = probe().noise(doc, index);
    return transfer(look, [look.slice.buffer as ArrayBuffer, look.cube.buffer as ArrayBuffer]);
  },
  /** Distance (m) at which a ray along a unit direction meets the set; null where it meets nothing. @param from m */
  distance(doc: SceneDocument, from: Readonly<V3>, direction: Readonly<V3>): number | null {
    const [met] = probe().look(withoutLights({ ...doc, air: [] }), from, [direction]);
    return met !== undefined && met < Infinity ? met : null;
  },
  /** Names of the objects and materials that the lens sees at places of the frame; null where it sees neither. */
  seen(doc: SceneDocument, places: readonly { x: number; y: number }[]): ({ object: string; material: string } | null)[] {
    return probe().seen(withoutLights({ ...doc, air: [] }), places);
  },
  /** For each direction, 1 where the set hides the sky from a point, 0 where it does not, 2 where none is asked for. @param from m */
  hidden(doc: SceneDocument, from: Readonly<V3>, directions: readonly (V3 | null)[]): Uint8Array {
    const asked = directions.filter((d) => d !== null);
    const distances = probe().look(withoutLights({ ...doc, air: [] }), from, asked);
    let next = 0;
    return Uint8Array.from(directions, (d) => (d === null ? 2 : distances[next++]! < Infinity ? 1 : 0));
  },
  /** Where sunlight comes; null where no map tells. */
  sunMap(doc: SceneDocument): SunMap | null {
    const map = probe().sunMap(doc);
    return map && transfer(map, [map.texels.buffer as ArrayBuffer]);
  },
  /** A medium's density as an OpenVDB file. */
  bake(doc: SceneDocument, index: number, across: number): Uint8Array {
    const medium = doc.air[index];
    if (!medium) throw new Error("there is no such medium any more");
    const bytes = bakedFile(medium, probe().bake(doc, index, across));
    return transfer(bytes, [bytes.buffer as ArrayBuffer]);
  },
};

export type SectionWorker = typeof api;
expose(api);
