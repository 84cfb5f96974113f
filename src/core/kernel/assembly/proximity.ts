/** Density by the distance to an object: a grid of distances under a curve. */
import { M_PROXIMITY, D_CURVE, D_LOW, D_POINTS, D_SCALE, D_VOLUME } from "../../layout/layout";
import { word, wordAddress, wordInt } from "./state";
import { volumeAt } from "./volume";

/** Distance (m) of a point to the mesh of a distance record. */
export function distanceAt(n: usize, x: f64, y: f64, z: f64): f64 {
  const k = word(n, D_SCALE);
  return volumeAt(wordAddress(n, D_VOLUME), (x - word(n, D_LOW)) * k, (y - word(n, D_LOW + 1)) * k, (z - word(n, D_LOW + 2)) * k);
}

/** The curve of a record at distance d: straight between its points, held past its ends. */
export function curve(n: usize, d: f64): f64 {
  const count = wordInt(n, D_POINTS);
  let at = word(n, D_CURVE),
    share = word(n, D_CURVE + 1);
  if (d <= at) return share;
  for (let i = 1; i < count; i++) {
    const next = word(n, D_CURVE + 2 * i),
      to = word(n, D_CURVE + 2 * i + 1);
    if (d < next) return share + ((to - share) * (d - at)) / (next - at);
    at = next;
    share = to;
  }
  return share;
}

/** Share of a medium's density that its nearness to an object leaves at a point. */
export function proximity(p: usize, x: f64, y: f64, z: f64): f64 {
  const n = wordAddress(p, M_PROXIMITY);
  return curve(n, distanceAt(n, x, y, z));
}

/** Upper bound of nearness() within `half` metres of a point. */
export function proximityMajorant(p: usize, x: f64, y: f64, z: f64, half: f64): f64 {
  const n = wordAddress(p, M_PROXIMITY);
  const d = distanceAt(n, x, y, z);
  // between cells the grid may be steeper than distance, by the root of three at most
  return maxOfCurve(n, d - 1.7321 * half, d + 1.7321 * half);
}

/** Largest value of a record's curve from low to high. */
export function maxOfCurve(n: usize, low: f64, high: f64): f64 {
  let highest = Math.max(curve(n, low), curve(n, high));
  for (let i = 0; i < wordInt(n, D_POINTS); i++) {
    const at = word(n, D_CURVE + 2 * i);
    if (at > low && at < high) highest = Math.max(highest, word(n, D_CURVE + 2 * i + 1));
  }
  return highest;
}
