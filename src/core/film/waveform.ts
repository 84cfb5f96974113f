/** Waveform of a developed picture: how often each display value stands in each of its columns, a band at a time. */

export interface Waveform {
  columns: number;
  levels: number;
  /** Shares of a column's pixels: bands, then columns, then levels from black up. */
  shares: Float32Array;
}

const LEVELS = 64;
const MOST_COLUMNS = 240;

/** @param pixels RGBA of the whole frame, 8 bits */
export function waveform(
  pixels: Uint8ClampedArray,
  width: number,
  [x0, y0, x1, y1]: readonly [number, number, number, number],
  columns: number = Math.max(1, Math.min(MOST_COLUMNS, x1 - x0)),
): Waveform {
  const shares = new Float32Array(3 * columns * LEVELS);
  const counts = new Float64Array(columns);
  for (let x = x0; x < x1; x++) {
    const column = Math.min(columns - 1, Math.floor(((x - x0) / (x1 - x0)) * columns));
    counts[column]! += y1 - y0;
    for (let y = y0; y < y1; y++)
      for (let band = 0; band < 3; band++)
        shares[(band * columns + column) * LEVELS + ((pixels[4 * (y * width + x) + band]! * LEVELS) >> 8)]! += 1;
  }
  for (let i = 0; i < shares.length; i++) shares[i]! /= Math.max(1, counts[Math.floor(i / LEVELS) % columns]!);
  return { columns, levels: LEVELS, shares };
}
