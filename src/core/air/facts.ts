/** What a frame's air does, measured: what diagnosis is made from. */
import type { SceneDocument } from "../document/schema";
import type { Film } from "../film/film";
import { luminance } from "../optics/colour";
import { F_AIR, F_AIR_LUMINANCE2, F_CLEAR, F_CLEAR_COUNT, F_COUNT, F_LUMINANCE2, F_SURFACES, F_TRANSMITTANCE } from "../layout/layout";
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

export interface FilmFacts {
  /** Share of places that the air changes by a grey level or more; null before there is a picture with and without it. */
  changed: number | null;
  /** Share of the frame where the air alone is past white. */
  airClipped: number;
  /** Share of the picture's noise that the air makes, and the noise (share of its mean). */
  airNoise: number;
  noise: number;
  samples: number;
  /** Mean luminance, and the middle one of the frame's parts that are not black, cd/m²; 0 where all are. */
  mean: number;
  median: number;
}

/** Places of the frame that are looked at together: noise must not look like air. */
const BLOCK = 12;

/** Parts of the frame across and down whose brightness is told: so large that few paths which found the light tell it of all. */
const PARTS = [10, 6] as const;

const middleOf = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1] ?? 0;

/** What the film says of the air. @param white luminance of white, cd/m² */
export function filmFacts(film: Film, white: number): FilmFacts {
  const d = film.data;
  let [blocks, changed, air, all, airClipped, known] = [0, 0, 0, 0, 0, 0];
  let [mean, samples, pixels] = [0, 0, 0];
  const parts = Array.from({ length: PARTS[0] * PARTS[1] }, () => ({ sum: 0, count: 0 }));
  const y = (p: number, at: number): number => luminance(d[p + at]!, d[p + at + 1]!, d[p + at + 2]!);
  const [x0, y0, x1, y1] = film.crop;
  for (let by = y0; by < y1; by += BLOCK)
    for (let bx = x0; bx < x1; bx += BLOCK) {
      let [airSum, sum, without, lost, n, clear] = [0, 0, 0, 0, 0, 0];
      for (let j = by; j < Math.min(y1, by + BLOCK); j++)
        for (let i = bx; i < Math.min(x1, bx + BLOCK); i++) {
          const p = (j * film.width + i) * film.stride;
          const count = d[p + F_COUNT]!;
          if (count < 1) continue;
          const a = y(p, F_AIR) / count;
          const b = a + y(p, F_SURFACES) / count;
          airSum += a;
          sum += b;
          n++;
          if (d[p + F_CLEAR_COUNT]! >= 1) {
            const bare = y(p, F_CLEAR) / d[p + F_CLEAR_COUNT]!;
            without += bare;
            // by the transmittance, not by the picture with air: the two pictures' noise must not count
            lost += a - (1 - y(p, F_TRANSMITTANCE) / count) * bare;
            clear++;
          }
          if (count >= 2) {
            air += Math.max(0, d[p + F_AIR_LUMINANCE2]! / count - a * a) / (count - 1);
            all += Math.max(0, d[p + F_LUMINANCE2]! / count - b * b) / (count - 1);
          }
          mean += b;
          samples += count;
          pixels++;
        }
      if (n === 0) continue;
      blocks++;
      const part = Math.floor((PARTS[0] * (bx - x0)) / (x1 - x0)) + PARTS[0] * Math.floor((PARTS[1] * (by - y0)) / (y1 - y0));
      parts[part]!.sum += sum;
      parts[part]!.count += n;
      if (airSum / n > white) airClipped++;
      if (clear < n / 2) continue;
      known++;
      // a grey level at the display's encoding, about two hundredths of a stop
      if (Math.abs(lost / clear) > Math.max(0.012 * (without / clear), white / 1000)) changed++;
    }
  const m = pixels ? mean / pixels : 0;
  return {
    changed: known > 0 ? changed / known : null,
    airClipped: blocks ? airClipped / blocks : 0,
    airNoise: all > 0 ? Math.min(1, air / all) : 0,
    noise: m > 0 ? Math.sqrt(all / pixels) / m : 0,
    samples: pixels ? samples / pixels : 0,
    mean: m,
    median: middleOf(parts.flatMap((p) => (p.sum > 0 ? [p.sum / p.count] : []))),
  };
}
