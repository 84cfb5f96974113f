/** Linear light of a film as it is looked at: cleaned where it is, its light groups balanced. */
import { gainsOf, type Balance, type BalancedSide, type Gain } from "../document/balance";
import { F_AIR, F_COUNT, F_SURFACES, G_AIR, G_SURFACES } from "../layout/layout";
import { CLEANED_FLOATS, cleanedSides } from "./cleaned";
import { groupFloat, type Film } from "./film";
import { PASSES, type PassName } from "./passes";

/** Sides that are balanced, by the pass they are shown in. */
const SIDES_OF: Partial<Record<PassName, readonly BalancedSide[]>> = {
  beauty: ["air", "surfaces"],
  air: ["air"],
  surfaces: ["surfaces"],
};
const FIRST = { air: G_AIR, surfaces: G_SURFACES } as const satisfies Record<BalancedSide, number>;
const SUM = { air: F_AIR, surfaces: F_SURFACES } as const satisfies Record<BalancedSide, number>;

/** Pixels about one over which what a balance does to a cleaned picture is taken, where its groups are not cleaned themselves. */
const AROUND = 2;

type Fill = (y: number, to: Float32Array) => void;

/** Reads rows of a pass that is light. */
export class LightRows {
  private readonly fill: Fill;

  /** @param stride spacing of the coarsest sampled grid: pixels without samples get those of the nearest coarser one */
  constructor(film: Film, pass: PassName, balance: Balance | undefined, stride = 1) {
    const sides = SIDES_OF[pass] ?? [];
    const gains = sides.length > 0 ? gainsOf(balance, film.lights) : null;
    const cleaned = cleanedSides(film, pass);
    if (!cleaned) this.fill = gains ? balancedFill(film, sides, gains, stride) : rawFill(film, pass, stride);
    else if (gains && film.cleaned?.lights) this.fill = apartFill(film, film.cleaned.lights, sides, gains);
    else {
      const had = sides.length > 0 ? gainsOf(film.cleaned?.balance, film.lights) : null;
      const same = JSON.stringify(gains) === JSON.stringify(had);
      this.fill = same ? cleanedFill(film, cleaned) : alikeFill(film, cleaned, sides, gains, had);
    }
  }

  /** Light of a row of the crop (cd/m²), three bands a pixel; NaN where there are no samples yet. */
  row(y: number, to: Float32Array): void {
    this.fill(y, to);
  }
}

/** Light of all rows of the crop. */
export function lightOf(film: Film, pass: PassName, balance: Balance | undefined, stride = 1): Float32Array {
  const [x0, y0, x1, y1] = film.crop;
  const across = 3 * (x1 - x0);
  const out = new Float32Array(across * (y1 - y0));
  const rows = new LightRows(film, pass, balance, stride);
  for (let y = y0; y < y1; y++) rows.row(y, out.subarray((y - y0) * across, (y - y0 + 1) * across));
  return out;
}

/** Where the numbers of a pixel, or of the nearest coarser one with samples, begin; −1 where there is none. */
function placeOf(film: Film, x: number, y: number, count: number, stride: number): number {
  const [x0, y0] = film.crop;
  let p = (y * film.width + x) * film.stride;
  for (let s = 2; film.data[p + count] === 0; s *= 2) {
    if (s > stride) return -1;
    p = ((y - ((y - y0) % s)) * film.width + (x - ((x - x0) % s))) * film.stride;
  }
  return p;
}

function rawFill(film: Film, pass: PassName, stride: number): Fill {
  const [x0, , x1] = film.crop;
  const d = film.data;
  // of the beauty, air and surfaces are summed
  const { sum, count } = PASSES[pass].source ?? PASSES.air.source;
  const both = pass === "beauty";
  return (y, light) => {
    for (let x = x0, to = 0; x < x1; x++, to += 3) {
      let p = (y * film.width + x) * film.stride;
      if (d[p + count] === 0) p = placeOf(film, x, y, count, stride);
      if (p < 0) {
        light[to] = NaN;
        continue;
      }
      const k = 1 / d[p + count]!;
      light[to] = k * (d[p + sum]! + (both ? d[p + F_SURFACES]! : 0));
      light[to + 1] = k * (d[p + sum + 1]! + (both ? d[p + F_SURFACES + 1]! : 0));
      light[to + 2] = k * (d[p + sum + 2]! + (both ? d[p + F_SURFACES + 2]! : 0));
    }
  };
}

function balancedFill(film: Film, sides: readonly BalancedSide[], gains: Record<BalancedSide, Gain[]>, stride: number): Fill {
  const [x0, , x1] = film.crop;
  const d = film.data;
  const parts = sides.flatMap((side) => gains[side].map((gain, i) => ({ from: groupFloat(film, i) + FIRST[side], gain })));
  const from = Int32Array.from(parts, (part) => part.from),
    factors = Float64Array.from(parts.flatMap((part) => part.gain));
  return (y, light) => {
    for (let x = x0, to = 0; x < x1; x++, to += 3) {
      let p = (y * film.width + x) * film.stride;
      if (d[p + F_COUNT] === 0) p = placeOf(film, x, y, F_COUNT, stride);
      if (p < 0) {
        light[to] = NaN;
        continue;
      }
      let r = 0,
        g = 0,
        b = 0;
      for (let i = 0, q = 0; i < from.length; i++, q += 3) {
        const at = p + from[i]!;
        r += factors[q]! * d[at]!;
        g += factors[q + 1]! * d[at + 1]!;
        b += factors[q + 2]! * d[at + 2]!;
      }
      const k = 1 / d[p + F_COUNT]!;
      light[to] = k * r;
      light[to + 1] = k * g;
      light[to + 2] = k * b;
    }
  };
}

function cleanedFill(film: Film, sides: readonly Float32Array[]): Fill {
  const [x0, y0, x1] = film.crop;
  const [a, b] = [sides[0]!, sides[1] ?? null];
  return (y, light) => {
    let p = CLEANED_FLOATS * (y - y0) * (x1 - x0);
    for (let to = 0; to < light.length; to += 3, p += CLEANED_FLOATS) {
      light[to] = a[p]! + (b ? b[p]! : 0);
      light[to + 1] = a[p + 1]! + (b ? b[p + 1]! : 0);
      light[to + 2] = a[p + 2]! + (b ? b[p + 2]! : 0);
    }
  };
}

/** Of light groups that are cleaned themselves. */
function apartFill(
  film: Film,
  lights: Record<BalancedSide, Float32Array[]>,
  sides: readonly BalancedSide[],
  gains: Record<BalancedSide, Gain[]>,
): Fill {
  const [x0, y0, x1] = film.crop;
  const parts = sides.flatMap((side) => lights[side].map((values, i) => ({ values, gain: gains[side][i]! })));
  return (y, light) => {
    light.fill(0);
    const first = CLEANED_FLOATS * (y - y0) * (x1 - x0);
    for (const { values, gain } of parts)
      for (let to = 0, p = first; to < light.length; to += 3, p += CLEANED_FLOATS) {
        light[to]! += gain[0] * values[p]!;
        light[to + 1]! += gain[1] * values[p + 1]!;
        light[to + 2]! += gain[2] * values[p + 2]!;
      }
  };
}

/** Of sides that are cleaned as wholes, with other gains: each times what that changes of the rendered light about it. */
function alikeFill(
  film: Film,
  cleaned: readonly Float32Array[],
  sides: readonly BalancedSide[],
  gains: Record<BalancedSide, Gain[]> | null,
  had: Record<BalancedSide, Gain[]> | null,
): Fill {
  const [x0, y0, x1] = film.crop;
  const factors = sides.map((side) => factorsOf(film, side, gains?.[side] ?? null, had?.[side] ?? null));
  return (y, light) => {
    light.fill(0);
    const first = (y - y0) * (x1 - x0);
    cleaned.forEach((values, i) => {
      const k = factors[i]!;
      for (let to = 0, p = CLEANED_FLOATS * first, q = 3 * first; to < light.length; to += 3, p += CLEANED_FLOATS, q += 3) {
        light[to]! += k[q]! * values[p]!;
        light[to + 1]! += k[q + 1]! * values[p + 1]!;
        light[to + 2]! += k[q + 2]! * values[p + 2]!;
      }
    });
  };
}

/** By how much gains in place of others (null: as rendered) change each band of a side, of the light rendered about each pixel of the crop. */
function factorsOf(film: Film, side: BalancedSide, gains: readonly Gain[] | null, had: readonly Gain[] | null): Float32Array {
  const [x0, y0, x1, y1] = film.crop;
  const [w, h] = [x1 - x0, y1 - y0];
  const d = film.data;
  const before = new Float32Array(3 * w * h),
    after = new Float32Array(3 * w * h);
  const from = film.lights.map((_, i) => groupFloat(film, i) + FIRST[side]);
  const balanced = (p: number, k: number, by: readonly Gain[] | null): number => {
    if (!by) return d[p + SUM[side] + k]!;
    let sum = 0;
    for (let i = 0; i < from.length; i++) sum += by[i]![k]! * d[p + from[i]! + k]!;
    return sum;
  };
  for (let y = y0, to = 0; y < y1; y++)
    for (let x = x0; x < x1; x++, to += 3) {
      const p = (y * film.width + x) * film.stride;
      const n = d[p + F_COUNT]!;
      if (n === 0) continue;
      for (let k = 0; k < 3; k++) {
        before[to + k] = balanced(p, k, had) / n;
        after[to + k] = balanced(p, k, gains) / n;
      }
    }
  const [a, b] = [around(after, w, h), around(before, w, h)];
  for (let i = 0; i < a.length; i++) a[i] = b[i]! > 0 ? a[i]! / b[i]! : 1;
  return a;
}

/** Sums over the pixels about each, three bands a pixel. */
function around(values: Float32Array, w: number, h: number): Float32Array {
  const across = summed(values, h, w, 3 * w, 3);
  return summed(across, w, h, 3, 3 * w);
}

/** Sums along lines. @param lineBy numbers from one line to the next @param by from one pixel of it to the next */
function summed(values: Float32Array, lines: number, pixels: number, lineBy: number, by: number): Float32Array {
  const out = new Float32Array(values.length);
  for (let l = 0; l < lines; l++)
    for (let k = 0; k < 3; k++) {
      const from = l * lineBy + k;
      let sum = 0;
      for (let i = 0; i < Math.min(AROUND, pixels); i++) sum += values[from + i * by]!;
      for (let i = 0; i < pixels; i++) {
        if (i + AROUND < pixels) sum += values[from + (i + AROUND) * by]!;
        if (i > AROUND) sum -= values[from + (i - AROUND - 1) * by]!;
        out[from + i * by] = Math.max(0, sum);
      }
    }
  return out;
}
