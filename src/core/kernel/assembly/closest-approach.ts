/** Nearest approach of a ray to a light, for drawing distances where its inverse square is large. */
import { MIN_CONE, MIN_GAP, MIN_SINE2 } from "./precision";
import { LIGHT_SPOT } from "../../layout/kinds";
import {
  L_KIND,
  L_AXIS,
  L_COS_OUTER,
  L_SIZE,
  L_POSITION,
  L_RADIUS,
  P_LIGHT_COUNT,
  P_DISTANT_COUNT,
  E_CORNER,
  E_EDGE1,
  E_EDGE2,
} from "../../layout/layout";
import { lightParam, lightParamInt, paramInt, word } from "./state";
import { emissiveRecord } from "./lights";

/** Ray parameter of the nearest approach, and the gap there (m). */
export let approachT: f64 = 0.0;
export let approachGap: f64 = 0.0;

/** Sets nearT and nearGap for light i. @returns false for lights at infinity */
export function closestApproach(i: i32, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64): bool {
  if (i < paramInt(P_DISTANT_COUNT)) return false;
  const local = paramInt(P_LIGHT_COUNT);
  let cx: f64, cy: f64, cz: f64, r: f64;
  if (i < local) {
    cx = lightParam(i, L_POSITION);
    cy = lightParam(i, L_POSITION + 1);
    cz = lightParam(i, L_POSITION + 2);
    r = lightParam(i, L_RADIUS);
  } else {
    const p = emissiveRecord(i - local);
    cx = word(p, E_CORNER) + (word(p, E_EDGE1) + word(p, E_EDGE2)) / 3.0;
    cy = word(p, E_CORNER + 1) + (word(p, E_EDGE1 + 1) + word(p, E_EDGE2 + 1)) / 3.0;
    cz = word(p, E_CORNER + 2) + (word(p, E_EDGE1 + 2) + word(p, E_EDGE2 + 2)) / 3.0;
    r = 0.0;
  }
  const px = cx - ox,
    py = cy - oy,
    pz = cz - oz;
  approachT = px * dx + py * dy + pz * dz;
  const qx = px - approachT * dx,
    qy = py - approachT * dy,
    qz = pz - approachT * dz;
  // within an emitter with an area the inverse square ends at its size
  approachGap = Math.max(Math.max(MIN_GAP, 0.5 * r), Math.sqrt(qx * qx + qy * qy + qz * qz));
  return true;
}

/** Part of a ray inside the cone of a spot, set by coneInterval() and conePart(). */
export let coneA: f64 = 0.0;
export let coneB: f64 = 0.0;

/**
 * Sets coneA and coneB to the part of [a, b] of a ray that a spot can light; an emitter with an area lights the cone about all
 * its points. @returns whether that is known: true for spots narrower than half the sphere. An empty part has coneB <= coneA
 */
export function coneInterval(i: i32, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, a: f64, b: f64): bool {
  if (i >= paramInt(P_LIGHT_COUNT) || lightParamInt(i, L_KIND) != LIGHT_SPOT) return false;
  return conePart(i, lightParam(i, L_COS_OUTER), lightParam(i, L_SIZE), ox, oy, oz, dx, dy, dz, a, b);
}

/** As coneInterval, of the cone with a cosine about a spot's axis, widened to hold those of all points of a disk of a radius (m). */
export function conePart(i: i32, c: f64, radius: f64, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, a: f64, b: f64): bool {
  if (c < 0.05) return false;
  const ax = lightParam(i, L_AXIS),
    ay = lightParam(i, L_AXIS + 1),
    az = lightParam(i, L_AXIS + 2);
  const back = (radius * c) / Math.sqrt(Math.max(MIN_SINE2, 1.0 - c * c));
  const wx = ox - lightParam(i, L_POSITION) + back * ax;
  const wy = oy - lightParam(i, L_POSITION + 1) + back * ay;
  const wz = oz - lightParam(i, L_POSITION + 2) + back * az;
  const ad = ax * dx + ay * dy + az * dz,
    aw = ax * wx + ay * wy + az * wz;
  const c2 = c * c;
  const qa = ad * ad - c2;
  // nearly along the cone's side: the roots say nothing
  if (Math.abs(qa) < MIN_CONE) return false;
  const qb = ad * aw - c2 * (dx * wx + dy * wy + dz * wz);
  const qc = aw * aw - c2 * (wx * wx + wy * wy + wz * wz);
  const under = qb * qb - qa * qc;
  coneA = a;
  coneB = b;
  if (under <= 0.0) {
    // it meets neither side: beside both cones, or (all but through the tip) inside one after the other
    if (qa < 0.0) coneB = a;
    return true;
  }
  const root = Math.sqrt(under);
  const t0 = (-qb - root) / qa,
    t1 = (-qb + root) / qa;
  if (qa < 0.0) {
    const first = Math.min(t0, t1),
      last = Math.max(t0, t1);
    if (aw + 0.5 * (first + last) * ad <= 0.0) coneB = a;
    else {
      coneA = Math.max(a, first);
      coneB = Math.min(b, last);
    }
  } else if (ad > 0.0) coneA = Math.max(a, Math.max(t0, t1));
  else coneB = Math.min(b, Math.min(t0, t1));
  return true;
}
