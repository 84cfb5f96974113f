/** What a channel of a medium's grid leaves of its scattering, per band; the rest is absorbed. */
import { M_TINT, TINT_CHANNELS, TINT_COLOURS, TINT_GRIDS, TINT_LOW, TINT_POINTS, TINT_ROWS, TINT_SCALE } from "../../layout/layout";
import { row, word, wordAddress, wordInt } from "./state";
import { volumeAt } from "./volume";

/** Set by tintAt(). */
export let tintR: f64 = 1.0;
export let tintG: f64 = 1.0;
export let tintB: f64 = 1.0;

/** Looks a point up; all stays where nothing tints. */
export function tintAt(p: usize, x: f64, y: f64, z: f64): void {
  const t = wordAddress(p, M_TINT);
  tintR = 1.0;
  tintG = 1.0;
  tintB = 1.0;
  if (t != 0) lookUp(t, x, y, z);
}

/** Value of one channel. */
function channel(t: usize, i: i32, x: f64, y: f64, z: f64): f64 {
  const rows = TINT_ROWS + 12 * i;
  return volumeAt(wordAddress(t, TINT_GRIDS + i), row(t, rows, x, y, z), row(t, rows + 4, x, y, z), row(t, rows + 8, x, y, z));
}

// @ts-ignore: decorator
@inline
function share(v: f64): f64 {
  return Math.max(0.0, Math.min(1.0, v));
}

function lookUp(t: usize, x: f64, y: f64, z: f64): void {
  if (wordInt(t, TINT_CHANNELS) == 3) {
    tintR = share(channel(t, 0, x, y, z));
    tintG = share(channel(t, 1, x, y, z));
    tintB = share(channel(t, 2, x, y, z));
    return;
  }
  const at = (channel(t, 0, x, y, z) - word(t, TINT_LOW)) * word(t, TINT_SCALE);
  // straight between the ramp's points, held past its ends
  const last = wordInt(t, TINT_POINTS) - 1;
  let i = 0;
  while (i < last && at >= word(t, TINT_COLOURS + 4 * i + 4)) i++;
  const from = word(t, TINT_COLOURS + 4 * i);
  const f = i == last ? 0.0 : share((at - from) / (word(t, TINT_COLOURS + 4 * i + 4) - from));
  const k = TINT_COLOURS + 4 * i,
    n = i == last ? k : k + 4;
  tintR = word(t, k + 1) + f * (word(t, n + 1) - word(t, k + 1));
  tintG = word(t, k + 2) + f * (word(t, n + 2) - word(t, k + 2));
  tintB = word(t, k + 3) + f * (word(t, n + 3) - word(t, k + 3));
}
