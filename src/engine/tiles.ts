/** Tiles of a film by themselves: their numbers one row after another, out of a film and into one. */
import type { Film } from "#core/film/film";
import { TILE } from "./schedule";

/** A film's shape, as far as its tiles go. */
export type Shape = Pick<Film, "width" | "stride" | "crop">;

/** How many tiles a crop has in a row, and in all. */
export function tilesOf([x0, y0, x1, y1]: Film["crop"]): { columns: number; tiles: number } {
  const columns = Math.ceil((x1 - x0) / TILE);
  return { columns, tiles: columns * Math.ceil((y1 - y0) / TILE) };
}

/** Rows of a tile: where each begins in the film's numbers, and how many it has. */
export function* rowsOf(film: Shape, tile: number): Generator<{ at: number; length: number }> {
  const [x0, y0, x1, y1] = film.crop;
  const { columns } = tilesOf(film.crop);
  const x = x0 + TILE * (tile % columns),
    y = y0 + TILE * Math.floor(tile / columns);
  const length = film.stride * (Math.min(x1, x + TILE) - x);
  for (let row = y; row < Math.min(y1, y + TILE); row++) yield { at: film.stride * (row * film.width + x), length };
}

/** Numbers that a tile has. */
export function tileLength(film: Shape, tile: number): number {
  let length = 0;
  for (const row of rowsOf(film, tile)) length += row.length;
  return length;
}

/** Copies a tile's numbers to the beginning of `to`. @returns how many */
export function readTile(film: Shape & Pick<Film, "data">, tile: number, to: Float32Array): number {
  let at = 0;
  for (const row of rowsOf(film, tile)) {
    to.set(film.data.subarray(row.at, row.at + row.length), at);
    at += row.length;
  }
  return at;
}

/** Puts a tile's numbers into a film; null: empties it. */
export function writeTile(film: Shape & Pick<Film, "data">, tile: number, values: Float32Array | null): void {
  let from = 0;
  for (const row of rowsOf(film, tile)) {
    if (values) film.data.set(values.subarray(from, from + row.length), row.at);
    else film.data.fill(0, row.at, row.at + row.length);
    from += row.length;
  }
}
