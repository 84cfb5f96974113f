/** Which tiles of a frame are sampled first: those about the place that is looked at. */
import { placeOnFilm, type Film } from "#core/film/film";
import { PASS_JOIN } from "#core/layout/layout";
import { TILE, type Stage } from "./schedule";

/** A place of the frame, shares from the upper left. */
export interface Place {
  x: number;
  y: number;
}

/** Stages that the tiles about the place are ahead of the others, and pixels from it to the middle of the farthest of them. */
export const AHEAD = 3;
const NEAR = 2.6 * TILE;

/** Parts that a sweep is cut into while a place is looked at, so that another place does not wait for the whole of it. */
export const PARTS = 4;

/**
 * Tiles in the order in which they are taken, the nearest to a place first.
 * @param columns tiles of a row @returns their numbers, and how many of the first are about the place
 */
export function tilesAbout(
  film: Pick<Film, "width" | "height" | "crop" | "frame">,
  tiles: number,
  columns: number,
  place: Place,
): { order: Uint32Array; near: number } {
  const [px, py] = placeOnFilm(film, place.x, place.y);
  const [x0, y0] = film.crop;
  const distance = Float64Array.from({ length: tiles }, (_, i) =>
    Math.hypot(x0 + ((i % columns) + 0.5) * TILE - px, y0 + (Math.floor(i / columns) + 0.5) * TILE - py),
  );
  const order = Uint32Array.from({ length: tiles }, (_, i) => i).sort((a, b) => distance[a]! - distance[b]! || a - b);
  let near = 0;
  while (near < tiles && distance[order[near]!]! <= NEAR) near++;
  return { order, near };
}

/**
 * Whether tiles may take a stage before the others have the one before it: not where it leaves pixels out for others to fill, nor where it
 * reads those of other tiles.
 */
export const mayRunAhead = ({ stride, done, passes }: Stage): boolean => stride === 1 && done === 0 && (passes & PASS_JOIN) === 0;
