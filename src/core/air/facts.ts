/** What a frame's air does, measured: what diagnosis is made from. */
import type { SceneDocument } from "../document/schema";
import { luminance } from "../optics/colour";
import { map3, sunDirection, type V3 } from "../math/vectors";
import { rayOf } from "../scene/pick";
import { findInterior, type Interior } from "../section/interior";
import { withoutLights } from "../section/probe";
import { roomFacts, type RoomFacts } from "./room-facts";

export interface AirFacts {
  /** Share of sunlight and of light from the zenith that the air leaves where the frame looks; null without sun or sky. */
  sunLeft: number | null;
  skyLeft: number | null;
  /** Median distance of what is seen, m, and the transmittance to it; null where only background is seen. */
  median: { distance: number; left: number } | null;
  /** Share of looked-at rays that pass each medium at all, in the document's order. */
  crossed: number[];
  place: RoomFacts;
}

/** Questions that a section's kernel answers. */
export interface Asked {
  leftTowards(doc: SceneDocument, from: Readonly<V3>, d: Readonly<V3>): number;
  distanceAt(doc: SceneDocument, x: number, y: number): number | null;
  depth(doc: SceneDocument, x: number, y: number, distance: number): readonly [number, number, number];
  look(doc: SceneDocument, from: Readonly<V3>, directions: readonly Readonly<V3>[]): ArrayLike<number>;
}

const [ACROSS, DOWN] = [9, 6];

/**
 * Looks along a grid of the frame's rays. @param reach distance (m) that background rays are followed to
 * @param room that the lens stands in, where that is known already
 */
export function airFacts(
  doc: SceneDocument,
  ask: Asked,
  reach: number,
  room: Interior | null = findInterior((from, directions) => ask.look(doc, from, directions), doc.camera.position),
): AirFacts {
  // none of the questions needs the lights' tables
  const air = withoutLights(doc);
  const rays = Array.from({ length: ACROSS * DOWN }, (_, i) => {
    const [x, y] = [((i % ACROSS) + 0.5) / ACROSS, (Math.floor(i / ACROSS) + 0.5) / DOWN];
    return { x, y, distance: ask.distanceAt(air, x, y) };
  });
  const hits = rays.filter((r) => r.distance !== null).sort((a, b) => a.distance! - b.distance!);
  const middle = hits[hits.length >> 1];
  const left = (r: { x: number; y: number }, distance: number): number =>
    luminance(...(ask.depth(air, r.x, r.y, distance).map((t) => Math.exp(-t)) as [number, number, number]));
  // half way to what is seen, where the air that shows is lit
  const points = rays.filter((_, i) => i % 7 === 0).map(({ x, y, distance }) => {
    const { origin, direction } = rayOf(doc, x, y);
    const t = Math.min(distance ?? reach, reach) / 2;
    return map3(origin, (o, k) => o + t * direction[k]);
  }); // prettier-ignore
  const meanLeft = (d: V3): number => points.reduce((a, p) => a + ask.leftTowards(air, p, d), 0) / points.length;
  const crossed = doc.air.map((m, i) => {
    if (!m.on) return 0;
    if (m.region.kind === "everywhere" && !m.grid) return 1;
    const serializeWrites = { ...air, air: doc.air.map((x, k) => (k === i ? { ...x, noise: null } : { ...x, on: false })) };
    return rays.filter((r) => Math.max(...ask.depth(serializeWrites, r.x, r.y, r.distance ?? reach)) > 0).length / rays.length;
  });
  return {
    sunLeft: doc.sun.on && doc.sun.illuminance > 0 ? meanLeft(sunDirection(doc.sun.azimuth, doc.sun.elevation)) : null,
    skyLeft: doc.sky.on ? meanLeft([0, 1, 0]) : null,
    median: middle ? { distance: middle.distance!, left: left(middle, middle.distance!) } : null,
    crossed,
    place: roomFacts(
      doc,
      (from, directions) => ask.look(air, from, directions),
      room,
      (from, d) => ask.leftTowards(air, from, d),
      reach,
    ),
  };
}
