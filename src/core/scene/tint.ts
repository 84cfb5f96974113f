/** A medium's tint by a channel, as the record the kernel reads. */
import type { GridTint } from "../document/air";
import { sealIntegers } from "../layout/integers";
import * as L from "../layout/layout";

/** Channels that a tint reads. */
export const tintChannels = (t: GridTint): string[] =>
  t.from === "ramp" ? [t.channel] : ["x", "y", "z"].map((axis) => `${t.channel}.${axis}`);

/**
 * Record of a tint. @param grids address of each of its channels, and metres to that grid's index coordinates (3×4)
 */
export function tintRecord(t: GridTint, grids: readonly { address: number; rows: readonly number[] }[]): Float64Array {
  const r = new Float64Array(L.TINT_WORDS);
  r[L.TINT_CHANNELS] = grids.length;
  grids.forEach(({ address, rows }, i) => {
    r[L.TINT_GRIDS + i] = address;
    r.set(rows, L.TINT_ROWS + 12 * i);
  });
  if (t.from !== "ramp") return sealIntegers(r, "tint");
  r[L.TINT_LOW] = t.low;
  r[L.TINT_SCALE] = 1 / (t.high - t.low);
  r[L.TINT_POINTS] = t.colours.length;
  t.colours.forEach(([at, colour], i) => r.set([at, ...colour], L.TINT_COLOURS + 4 * i));
  return sealIntegers(r, "tint");
}
