/**
 * The light that the better filter misses, given back. What it takes from rare strong samples, and what means over alike pixels lose,
 * is no chance: over some hundred pixels it adds up to light that is there. Its mean about a pixel is added again, as far as it stands
 * out of its own noise (least squares, after Wiener).
 */
import { CLEANED_FLOATS, type Side } from "../film/cleaned";
import {
  F_AIR,
  F_AIR_ODD,
  F_ALBEDO,
  F_CLEAR,
  F_CLEAR_COUNT,
  F_CLEAR_ODD,
  F_COUNT,
  F_HITS,
  F_SURFACES,
  F_SURFACES_ODD,
  F_TRANSMITTANCE,
  G_AIR,
  G_SURFACES,
  GROUP_FLOATS,
} from "../layout/layout";
import { luminance } from "../optics/colour";
import type { Groups, Pixels } from "./cleaner";

/** Sides of a block of pixels, and the means that are taken one after the other: blocks each way, twice over. */
const BLOCK = 3;
const REACHES = [0, 1, 5] as const;
/** Variances that the square of a mean must exceed to be given back by half. */
const DOUBT = 24;
/** What light is divided by at least (kernel/clean/gather.ts). */
const LEAST_TRANSMITTANCE = 1e-3;
const LEAST_ALBEDO = 0.02;
/** Rounding of a film's sums, as a share of the light: a picture whose halves agree must not be changed by it. */
const ROUNDING = 1e-5;
/** Light past which a film is taken to be broken. */
const MOST = 1e30;
/** Share of a pixel's light that can be taken from it, where the filter gave too much. */
const MOST_TAKEN = 0.5;

interface SideFloats {
  sum: number;
  odd: number;
  count: number;
}
const FLOATS: Record<Side, SideFloats> = {
  air: { sum: F_AIR, odd: F_AIR_ODD, count: F_COUNT },
  surfaces: { sum: F_SURFACES, odd: F_SURFACES_ODD, count: F_COUNT },
  clear: { sum: F_CLEAR, odd: F_CLEAR_ODD, count: F_CLEAR_COUNT },
};

/** Sums over blocks of pixels. */
interface Blocks {
  across: number;
  down: number;
  /** What was missed, a plane for each band, of light divided by transmittance and albedo. */
  missed: Float64Array[];
  /** How many pixels there are. */
  pixels: Float64Array;
  /** Variance of the luminance that was missed. */
  variance: Float64Array;
}

/**
 * Adds what a side's cleaned light misses, in place; the light of each group gets its part of it.
 * @param light CLEANED_FLOATS for each pixel within the bounds, as `Cleaner.finish` leaves them; as are the `lights` of the groups
 */
export function giveBackMissed(side: Side, pixels: Pixels, light: Float32Array, { first }: Groups, lights: readonly Float32Array[]): void {
  const modulation = modulationOf(side, pixels);
  const blocks = sumBlocks(side, pixels, modulation, light);
  const { fields, shares } = fieldsOf(blocks);
  const offset = (i: number): number => first + GROUP_FLOATS * i + (side === "air" ? G_AIR : G_SURFACES);
  const parts = lights.map((part, i) => groupFields(sumMissed(side, pixels, modulation, part, offset(i)), blocks, shares));
  addFields(pixels, modulation, light, fields, lights, parts, blocks);
}

/**
 * What light is divided by, three numbers for each pixel within the bounds; 0 where nothing is given back: where no surface is, where there
 * is one sample alone, and where the film holds no numbers.
 */
function modulationOf(side: Side, { data: d, stride, across, bounds: [x0, y0, x1, y1], plate }: Pixels): Float32Array {
  const out = new Float32Array(3 * (x1 - x0) * (y1 - y0));
  const { sum, count } = FLOATS[side];
  let to = 0;
  for (let y = y0; y < y1; y++) {
    let p = (y * across + x0) * stride;
    for (let x = x0; x < x1; x++, p += stride, to += 3) {
      const all = luminance(d[p + sum]!, d[p + sum + 1]!, d[p + sum + 2]!);
      if (!(d[p + count]! > 1) || !(Math.abs(all) < MOST)) continue;
      if (side === "air") {
        out[to] = out[to + 1] = out[to + 2] = 1;
        continue;
      }
      const hits = d[p + F_HITS]!,
        rays = d[p + F_COUNT]!;
      if (!(hits > 0) || !(rays > 0)) continue;
      const cover = Math.min(1, hits / rays);
      for (let k = 0; k < 3; k++) {
        const t = side === "clear" || plate ? 1 : d[p + F_TRANSMITTANCE + k]! / rays;
        out[to + k] = Math.max(LEAST_TRANSMITTANCE, t) * Math.max(LEAST_ALBEDO, (cover * d[p + F_ALBEDO + k]!) / hits + 1 - cover);
      }
    }
  }
  return out;
}

const planes = (count: number): Float64Array[] => [0, 1, 2].map(() => new Float64Array(count));

function sumBlocks(side: Side, pixels: Pixels, modulation: Float32Array, light: Float32Array): Blocks {
  const [x0, y0, x1, y1] = pixels.bounds;
  const [across, down] = [Math.ceil((x1 - x0) / BLOCK), Math.ceil((y1 - y0) / BLOCK)];
  const counted = new Float64Array(across * down),
    variance = new Float64Array(across * down);
  const { sum, odd, count } = FLOATS[side];
  const d = pixels.data;
  const missed = planes(across * down);
  const [red, green, blue] = missed as [Float64Array, Float64Array, Float64Array];
  let q = 0,
    m = 0;
  for (let y = y0; y < y1; y++) {
    const row = across * Math.floor((y - y0) / BLOCK);
    let p = (y * pixels.across + x0) * pixels.stride;
    for (let x = x0; x < x1; x++, p += pixels.stride, q += CLEANED_FLOATS, m += 3) {
      const mr = modulation[m]!,
        mg = modulation[m + 1]!,
        mb = modulation[m + 2]!;
      if (mr === 0) continue;
      const n = d[p + count]!,
        second = Math.floor(n / 2),
        share = second / n;
      const r = d[p + sum]! / mr,
        g = d[p + sum + 1]! / mg,
        b = d[p + sum + 2]! / mb;
      const all = luminance(r, g, b),
        half = luminance(d[p + odd]! / mr, d[p + odd + 1]! / mg, d[p + odd + 2]! / mb);
      const apart = half / second - (all - half) / (n - second);
      const block = row + Math.floor((x - x0) / BLOCK);
      variance[block]! += share * (1 - share) * apart * apart + (ROUNDING * (all / n)) ** 2;
      counted[block]!++;
      red[block]! += r / n - light[q]! / mr;
      green[block]! += g / n - light[q + 1]! / mg;
      blue[block]! += b / n - light[q + 2]! / mb;
    }
  }
  return { across, down, missed, pixels: counted, variance };
}

/** What a light group's cleaned light misses, by block. @param at the group's first float of the side in a pixel */
function sumMissed(side: Side, pixels: Pixels, modulation: Float32Array, light: Float32Array, at: number): Float64Array[] {
  const [x0, y0, x1, y1] = pixels.bounds;
  const across = Math.ceil((x1 - x0) / BLOCK);
  const missed = planes(across * Math.ceil((y1 - y0) / BLOCK));
  const { count } = FLOATS[side];
  const d = pixels.data;
  for (let k = 0; k < 3; k++) {
    const plane = missed[k]!;
    let i = 0;
    for (let y = y0; y < y1; y++) {
      const row = across * Math.floor((y - y0) / BLOCK);
      let p = (y * pixels.across + x0) * pixels.stride;
      for (let x = x0; x < x1; x++, p += pixels.stride, i++) {
        const m = modulation[3 * i + k]!;
        if (m === 0) continue;
        const v = (d[p + at + k]! / d[p + count]! - light[CLEANED_FLOATS * i + k]!) / m;
        if (Math.abs(v) < MOST) plane[row + Math.floor((x - x0) / BLOCK)]! += v;
      }
    }
  }
  return missed;
}

/** Mean over a box of blocks twice over, with nothing past the edges. */
function smooth(from: Float64Array, across: number, down: number, reach: number): Float64Array {
  if (reach === 0) return from;
  const work = new Float64Array(from.length),
    out = new Float64Array(from.length);
  boxRows(from, work, across, down, reach);
  boxRows(work, out, across, down, reach);
  boxColumns(out, work, across, down, reach);
  boxColumns(work, out, across, down, reach);
  return out;
}

function boxRows(from: Float64Array, to: Float64Array, across: number, down: number, reach: number): void {
  const per = 1 / (2 * reach + 1);
  for (let y = 0; y < down; y++) {
    const row = y * across;
    let sum = 0;
    for (let x = 0; x < Math.min(reach, across); x++) sum += from[row + x]!;
    for (let x = 0; x < across; x++) {
      if (x + reach < across) sum += from[row + x + reach]!;
      if (x > reach) sum -= from[row + x - reach - 1]!;
      to[row + x] = sum * per;
    }
  }
}

/** Row by row, so that memory is read as it lies. */
function boxColumns(from: Float64Array, to: Float64Array, across: number, down: number, reach: number): void {
  const per = 1 / (2 * reach + 1);
  const sums = new Float64Array(across);
  for (let y = -reach; y < down; y++) {
    const next = y + reach < down ? (y + reach) * across : -1,
      last = y > reach ? (y - reach - 1) * across : -1;
    for (let x = 0; x < across; x++) {
      if (next >= 0) sums[x]! += from[next + x]!;
      if (last >= 0) sums[x]! -= from[last + x]!;
      if (y >= 0) to[y * across + x] = sums[x]! * per;
    }
  }
}

/** What is given back by block, and which share of what is found at each reach that is. */
function fieldsOf(blocks: Blocks): { fields: Float64Array[]; shares: Float64Array[] } {
  const { across, down, missed, variance } = blocks;
  const fields = planes(across * down);
  const shares: Float64Array[] = [];
  let rest = missed,
    doubt = variance;
  for (const reach of REACHES) {
    const found = rest.map((plane) => smooth(plane, across, down, reach));
    const noise = smooth(doubt, across, down, reach);
    // the sum of the squares of the weights of two boxes, one after the other
    const side = 2 * reach + 1;
    const weight = ((2 * side * side + 1) / (3 * side ** 3)) ** 2;
    const share = new Float64Array(across * down);
    const [r, g, b] = found as [Float64Array, Float64Array, Float64Array];
    for (let i = 0; i < share.length; i++) {
      const l = luminance(r[i]!, g[i]!, b[i]!);
      if (l !== 0) share[i] = (l * l) / (l * l + DOUBT * weight * noise[i]!);
    }
    shares.push(share);
    addShare(fields, found, share, smooth(blocks.pixels, across, down, reach));
    rest = rest.map((plane) => remainder(plane, share));
    doubt = remainder(remainder(doubt, share), share);
  }
  return { fields, shares };
}

/** What is left of a plane beside a share of it. */
function remainder(plane: Float64Array, share: Float64Array): Float64Array {
  const out = new Float64Array(plane.length);
  for (let i = 0; i < out.length; i++) out[i] = (1 - share[i]!) * plane[i]!;
  return out;
}

/** A group's part of the fields of its side. */
function groupFields(missed: Float64Array[], blocks: Blocks, shares: readonly Float64Array[]): Float64Array[] {
  const { across, down } = blocks;
  const fields = planes(across * down);
  let rest = missed;
  REACHES.forEach((reach, n) => {
    const share = shares[n]!;
    const found = rest.map((plane) => smooth(plane, across, down, reach));
    addShare(fields, found, share, smooth(blocks.pixels, across, down, reach));
    rest = rest.map((plane) => remainder(plane, share));
  });
  return fields;
}

/** Adds to fields the share of what was found, for each of the pixels it was found in. */
function addShare(fields: Float64Array[], found: readonly Float64Array[], share: Float64Array, pixels: Float64Array): void {
  for (let k = 0; k < 3; k++)
    for (let i = 0; i < share.length; i++) if (pixels[i]! > 0) fields[k]![i]! += (share[i]! * found[k]![i]!) / pixels[i]!;
}

/** Adds fields, interpolated between the middles of blocks, to the cleaned light of a side and of its groups. */
function addFields(
  { bounds: [x0, y0, x1, y1] }: Pixels,
  modulation: Float32Array,
  light: Float32Array,
  fields: readonly Float64Array[],
  lights: readonly Float32Array[],
  parts: readonly (readonly Float64Array[])[],
  { across, down }: Blocks,
): void {
  const columns = corners(x1 - x0, across),
    rows = corners(y1 - y0, down);
  const row = new Float64Array(3 * across),
    rowsOfParts = parts.map(() => new Float64Array(3 * across));
  const { from, to, far } = columns;
  let q = 0,
    m = 0;
  for (let y = 0; y < y1 - y0; y++) {
    const between = (of: readonly Float64Array[], out: Float64Array): void =>
      betweenRows(of, out, across, rows.from[y]!, rows.to[y]!, rows.far[y]!);
    between(fields, row);
    parts.forEach((part, i) => between(part, rowsOfParts[i]!));
    for (let x = 0; x < x1 - x0; x++, q += CLEANED_FLOATS, m += 3) {
      const mr = modulation[m]!,
        mg = modulation[m + 1]!,
        mb = modulation[m + 2]!;
      if (mr === 0) continue;
      const u = far[x]!,
        a = 3 * from[x]!,
        b = 3 * to[x]!;
      const r = mr * (row[a]! + u * (row[b]! - row[a]!)),
        g = mg * (row[a + 1]! + u * (row[b + 1]! - row[a + 1]!)),
        e = mb * (row[a + 2]! + u * (row[b + 2]! - row[a + 2]!));
      const share = Math.min(takenAtMost(light[q]!, r), takenAtMost(light[q + 1]!, g), takenAtMost(light[q + 2]!, e));
      light[q]! += share * r;
      light[q + 1]! += share * g;
      light[q + 2]! += share * e;
      for (let i = 0; i < lights.length; i++) {
        const f = rowsOfParts[i]!,
          part = lights[i]!;
        for (let k = 0; k < 3; k++) part[q + k]! += share * modulation[m + k]! * (f[a + k]! + u * (f[b + k]! - f[a + k]!));
      }
    }
  }
}

/** How much of what is added can be, so that most of the light is left. */
const takenAtMost = (light: number, more: number): number => (more < 0 ? Math.min(1, (MOST_TAKEN * Math.max(0, light)) / -more) : 1);

/** Fields between two rows of blocks, three numbers a block. */
function betweenRows(fields: readonly Float64Array[], out: Float64Array, across: number, above: number, below: number, v: number): void {
  for (let k = 0; k < 3; k++) {
    const f = fields[k]!;
    for (let x = 0; x < across; x++) {
      const a = f[above * across + x]!;
      out[3 * x + k] = a + v * (f[below * across + x]! - a);
    }
  }
}

/** For each pixel of a row the two blocks whose middles it lies between, and how far it is towards the second. */
function corners(pixels: number, blocks: number): { from: Int32Array; to: Int32Array; far: Float64Array } {
  const out = { from: new Int32Array(pixels), to: new Int32Array(pixels), far: new Float64Array(pixels) };
  for (let i = 0; i < pixels; i++) {
    const at = Math.max(0, Math.min(blocks - 1, (i + 0.5) / BLOCK - 0.5));
    out.from[i] = Math.floor(at);
    out.to[i] = Math.min(blocks - 1, Math.floor(at) + 1);
    out.far[i] = at - Math.floor(at);
  }
  return out;
}
