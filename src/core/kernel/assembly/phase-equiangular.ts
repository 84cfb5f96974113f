/**
 * Distances towards a lamp by the angle at which its light would turn into the ray. Equiangular sampling (Kulla and Fajardo 2012)
 * follows the inverse square alone; its variable is that very angle, so the phase function and what the air leaves on both ways
 * are brought in by weighing bins of it. What is drawn is exact for any weights: they only say where to look.
 */
import { MIN_COSINE } from "./precision";
import { EQUIANGULAR_BINS, SCRATCH_EQUIANGULAR } from "../../layout/scratch";
import { forcedRay, scatterOfPart } from "./forced";
import { scratch } from "./state";

/** Part of the draws that are spread evenly over angles, whatever the weights say. */
const EVEN: f64 = 0.15;

let closest: f64 = NaN,
  gap: f64 = 0.0,
  low: f64 = 0.0,
  high: f64 = 0.0,
  free: f64 = 0.0,
  ray: u32 = 0;
let from: f64 = 0.0,
  width: f64 = 0.0;

/**
 * Prepares draws on [a, b] of the ray that beginForced() prepared (b may be Infinity) that passes a lamp at `near` with `distance` between them.
 * @param reach mean free path of the air there, m
 */
export function beginPhaseEquiangular(near: f64, distance: f64, a: f64, b: f64, reach: f64): void {
  // the same ray and lamp as last: several points of a ray ask
  if (forcedRay == ray && near == closest && distance == gap && a == low && b == high && reach == free) return;
  closest = near;
  gap = distance;
  low = a;
  high = b;
  free = reach;
  ray = forcedRay;
  const x = (a - near) / distance;
  from = Math.atan(x);
  width = (Math.atan((b - near) / distance) - from) / <f64>EQUIANGULAR_BINS;
  const table = scratch + SCRATCH_EQUIANGULAR;
  const k = reach > 0.0 ? 1.0 / reach : 0.0;
  // angles go on by half bins: sines and cosines by turning, from the first on
  const halfSin = Math.sin(0.5 * width),
    halfCos = Math.cos(0.5 * width);
  let c = 1.0 / Math.sqrt(1.0 + x * x),
    s = x * c;
  let sum = 0.0;
  let begin = a;
  for (let i = 0; i < EQUIANGULAR_BINS; i++) {
    const middleS = s * halfCos + c * halfSin,
      middleC = Math.max(MIN_COSINE, c * halfCos - s * halfSin);
    s = middleS * halfCos + middleC * halfSin;
    c = Math.max(MIN_COSINE, middleC * halfCos - middleS * halfSin);
    // on its way to a point beyond the nearest approach the light has gone along with the ray, and turns back
    const inverse = distance / middleC;
    const t = near + middleS * inverse;
    const end = i < EQUIANGULAR_BINS - 1 ? near + (distance * s) / c : b;
    // where nothing fills it there is nothing to look for
    const w = scatterOfPart(begin, end, -middleS) * Math.exp(-k * (Math.max(0.0, t) + inverse));
    begin = end;
    sum += w;
    store<f64>(table + ((<usize>i) << 3), w);
  }
  const even = EVEN / <f64>EQUIANGULAR_BINS,
    scale = sum > 0.0 ? (1.0 - EVEN) / sum : 0.0;
  let total = 0.0;
  for (let i = 0; i < EQUIANGULAR_BINS; i++) {
    total += sum > 0.0 ? even + scale * load<f64>(table + ((<usize>i) << 3)) : 1.0 / <f64>EQUIANGULAR_BINS;
    store<f64>(table + ((<usize>i) << 3), total);
  }
  // one, but for rounding
  store<f64>(table + ((<usize>(EQUIANGULAR_BINS - 1)) << 3), 1.0);
}

/** Distance at which a share u of the draws lies behind. */
export function samplePhaseEquiangular(u: f64): f64 {
  const table = scratch + SCRATCH_EQUIANGULAR;
  let i = 0;
  let before = 0.0;
  while (i < EQUIANGULAR_BINS - 1 && u >= load<f64>(table + ((<usize>i) << 3))) {
    before = load<f64>(table + ((<usize>i) << 3));
    i++;
  }
  const share = load<f64>(table + ((<usize>i) << 3)) - before;
  const angle = from + (<f64>i + (u - before) / share) * width;
  return Math.max(low, Math.min(high, closest + gap * Math.tan(angle)));
}

/** Density (1/m) of turningSample() at distance t. */
export function phaseEquiangularPdf(t: f64): f64 {
  const x = t - closest;
  const i = max(0, min(EQUIANGULAR_BINS - 1, <i32>((Math.atan(x / gap) - from) / width)));
  const table = scratch + SCRATCH_EQUIANGULAR + ((<usize>i) << 3);
  const share = load<f64>(table) - (i > 0 ? load<f64>(table - 8) : 0.0);
  return (share * gap) / (width * (gap * gap + x * x));
}
