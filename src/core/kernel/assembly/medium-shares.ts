/** What each medium keeps of the light of surfaces: the share of a camera ray's light that is scattered or absorbed first in it. */
import { M_SIGMA_T } from "../../layout/layout";
import { SCRATCH_LIST_A, SEGMENT_BYTES } from "../../layout/scratch";
import { keepsMattes, storeMediumMatte } from "./accumulate";
import { factorAt, mediumOf } from "./density";
import { pair, ru, rv } from "./random";
import { CLOSED, collect, mediumCount, profileDepth, profileDistance, S_A, S_SHARE, S_TYPE, usefulEnd } from "./segments";
import { scratch, word } from "./state";
import { tb, tg, tr, transmit } from "./transmit";

/** Depth by which the second way of drawing fades in broken air, whose bound may be far thicker than the air in it. */
const GENTLE_DEPTH: f64 = 1.5;
/** Dimension of the sequence that nothing else of a sample takes. */
const DIMENSION: u32 = 14;
/** Depth past which nothing is drawn: less than any number is left. */
const MOST_DEPTH: f64 = 600.0;

/**
 * Adds to a pixel what each medium of its ray keeps, one place drawn in each segment as if its own profile were all there is: of one
 * medium alone, without noise, that is its share of the opacity itself. The media of a pixel add up to its opacity on the average.
 */
export function storeMediumShares(pixel: usize, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64, ray: i32): void {
  if (!keepsMattes() || mediumCount == 0) return;
  pair(DIMENSION);
  const u = ru,
    v = rv;
  const list = scratch + SCRATCH_LIST_A;
  const n = collect(list, ox, oy, oz, dx, dy, dz, tmax, ray);
  for (let i = 0; i < n; i++) {
    const s = list + <usize>i * SEGMENT_BYTES;
    const p = <usize>load<u32>(s);
    // segments share a pair of the sequence, each turned further
    const kept = keptBy(s, p, turned(u, i), turned(v, i), ox, oy, oz, dx, dy, dz, tmax, ray);
    if (kept > 0.0 && isFinite(kept)) storeMediumMatte(pixel, mediumOf(p), kept);
  }
}

// @ts-ignore: decorator
@inline
function turned(u: f64, i: i32): f64 {
  const v = u + <f64>i * 0.6180339887498949;
  return v - Math.floor(v);
}

/** An estimate of what one segment keeps, luminance, from two numbers in [0, 1). */
function keptBy(s: usize, p: usize, u: f64, v: f64, ox: f64, oy: f64, oz: f64, dx: f64, dy: f64, dz: f64, tmax: f64, ray: i32): f64 {
  const share = load<f64>(s, S_SHARE);
  const er = 0.2126 * word(p, M_SIGMA_T) * share,
    eg = 0.7152 * word(p, M_SIGMA_T + 1) * share,
    eb = 0.0722 * word(p, M_SIGMA_T + 2) * share;
  const rate = er + eg + eb;
  if (!(rate > 0.0)) return 0.0;
  const total = Math.min(MOST_DEPTH / rate, profileDepth(s, p, usefulEnd(s, p, tmax) - load<f64>(s, S_A)));
  if (!(total > 0.0)) return 0.0;
  const closed = load<i32>(s, S_TYPE) == CLOSED;
  const gentle = closed ? rate : Math.min(rate, GENTLE_DEPTH / total);
  const a = -Math.expm1(-rate * total),
    b = -Math.expm1(-gentle * total);
  const first = gentle == rate || v < 0.5;
  const depth = Math.min(total, -Math.log1p(-u * (first ? a : b)) / (first ? rate : gentle));
  const t = load<f64>(s, S_A) + profileDistance(s, p, depth);
  const density = closed ? 1.0 : factorAt(p, ox + t * dx, oy + t * dy, oz + t * dz);
  if (!(density > 0.0)) return 0.0;
  const byRate = (rate * Math.exp(-rate * depth)) / a;
  const chance = gentle == rate ? byRate : 0.5 * (byRate + (gentle * Math.exp(-gentle * depth)) / b);
  transmit(ox, oy, oz, dx, dy, dz, t, ray);
  return (density * (er * tr + eg * tg + eb * tb)) / chance;
}
