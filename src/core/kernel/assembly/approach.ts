/** Nearest approach of a ray to a light, for drawing distances where its inverse square is large. */
import { L_POSITION, L_REACH, P_LIGHT_COUNT, P_DISTANT_COUNT, G_CORNER, G_EDGE1, G_EDGE2 } from "../../scene/layout";
import { param, lightParam, word } from "./state";
import { glowRecord } from "./lights";

/** Ray parameter of the nearest approach, and the gap there (m). */
export let nearT: f64 = 0.0;
export let nearGap: f64 = 0.0;

/** Sets nearT and nearGap for light i. @returns false for lights at infinity */
export function approach(i: i32, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64): bool {
  if (i < <i32>param(P_DISTANT_COUNT)) return false;
  const local = <i32>param(P_LIGHT_COUNT);
  let cx: f64, cy: f64, cz: f64, r: f64;
  if (i < local) {
    cx = lightParam(i, L_POSITION);
    cy = lightParam(i, L_POSITION + 1);
    cz = lightParam(i, L_POSITION + 2);
    r = lightParam(i, L_REACH);
  } else {
    const p = glowRecord(i - local);
    cx = word(p, G_CORNER) + (word(p, G_EDGE1) + word(p, G_EDGE2)) / 3.0;
    cy = word(p, G_CORNER + 1) + (word(p, G_EDGE1 + 1) + word(p, G_EDGE2 + 1)) / 3.0;
    cz = word(p, G_CORNER + 2) + (word(p, G_EDGE1 + 2) + word(p, G_EDGE2 + 2)) / 3.0;
    r = 0.0;
  }
  const px = cx - ox, py = cy - oy, pz = cz - oz;
  nearT = px * dx + py * dy + pz * dz;
  const qx = px - nearT * dx, qy = py - nearT * dy, qz = pz - nearT * dz;
  // within an emitter with an area the inverse square ends at its size
  nearGap = Math.max(Math.max(1e-5, 0.5 * r), Math.sqrt(qx * qx + qy * qy + qz * qz));
  return true;
}
