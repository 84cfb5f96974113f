/**
 * Air that is sampled at every few pixels each way alone, joined to the surfaces of all. A pixel takes the air of sampled ones about it,
 * by place and by how alike their surfaces lie in the air (optics/join.ts); what it takes is made stronger or weaker as its own air is
 * denser or thinner.
 */
import {
  F_AIR,
  F_AIR_LUMINANCE2,
  F_AIR_ODD,
  F_COUNT,
  F_DISTANCE,
  F_EMISSION,
  F_HITS,
  F_LUMINANCE2,
  F_SURFACES,
  F_SURFACES_LUMINANCE2,
  F_TRANSMITTANCE,
  R_AIR,
  R_AIR_LUMINANCE2,
  R_AIR_ODD,
  R_EMISSION,
} from "../../layout/layout";
import { NEIGHBOUR_BYTES, SCRATCH_NEIGHBOURS } from "../../layout/scratch";
import { gainByOpacity, JOIN_REACH, likeness, spline, unlikeOpacity, unlikeSurfaces } from "../../optics/join";
import { carryGroups, groupAir, groupsKept, sampledAir, sampledGroup } from "./accumulate";
import { FULL_SUM } from "./precision";
import { scratch } from "./state";

// @ts-ignore: decorator
@inline
function read(pixel: usize, channel: i32): f64 {
  return <f64>load<f32>(pixel + ((<usize>channel) << 2));
}
// @ts-ignore: decorator
@inline
function write(pixel: usize, channel: i32, value: f64): void {
  store<f32>(pixel + ((<usize>channel) << 2), <f32>value);
}
/** Luminance of three sums. */
// @ts-ignore: decorator
@inline
function luminanceOf(pixel: usize, channel: i32): f64 {
  return 0.2126 * read(pixel, channel) + 0.7152 * read(pixel, channel + 1) + 0.0722 * read(pixel, channel + 2);
}
/** Samples of a pixel of which one half of its light is kept apart. */
// @ts-ignore: decorator
@inline
function oddOf(count: f64): f64 {
  return Math.floor(0.5 * count);
}

/** Adds a sample of the air to what is sampled of a pixel. @param odd whether it is of the half that is kept apart */
export function storeSampled(pixel: usize, r: f64, g: f64, b: f64, eR: f64, eG: f64, eB: f64, odd: bool): void {
  const at = sampledAir();
  add(pixel, at + R_AIR, r, g, b);
  add(pixel, at + R_EMISSION, eR, eG, eB);
  if (odd) add(pixel, at + R_AIR_ODD, r, g, b);
  const luminance = 0.2126 * r + 0.7152 * g + 0.0722 * b;
  const squares = at + R_AIR_LUMINANCE2;
  write(pixel, squares, Math.min(FULL_SUM, read(pixel, squares) + luminance * luminance));
}
/** In single precision, as other sums are added to. */
function add(pixel: usize, channel: i32, r: f64, g: f64, b: f64): void {
  const at = pixel + ((<usize>channel) << 2);
  store<f32>(at, load<f32>(at) + <f32>r);
  store<f32>(at, load<f32>(at, 4) + <f32>g, 4);
  store<f32>(at, load<f32>(at, 8) + <f32>b, 8);
}

/**
 * Makes the air that a pixel shows stand for one sample more, until it is joined anew; before its first sample it is that of the sampled
 * pixel of its cell. @returns its luminance, per sample
 */
export function carryAir(pixel: usize, sampled: usize): f64 {
  const count = read(pixel, F_COUNT);
  if (count > 0.0) {
    const k = (count + 1.0) / count;
    carry(pixel, F_AIR, k);
    carry(pixel, F_EMISSION, k);
    const odd = oddOf(count);
    if (odd > 0.0) carry(pixel, F_AIR_ODD, oddOf(count + 1.0) / odd);
    write(pixel, F_AIR_LUMINANCE2, read(pixel, F_AIR_LUMINANCE2) * k);
    carryGroups(pixel, k);
  } else {
    const at = sampledAir();
    const k = 1.0 / Math.max(1.0, read(sampled, F_COUNT));
    show(pixel, F_AIR, sampled, at + R_AIR, k);
    show(pixel, F_EMISSION, sampled, at + R_EMISSION, k);
    for (let i = 0; i < groupsKept(); i++) show(pixel, groupAir(i), sampled, sampledGroup(i), k);
  }
  return luminanceOf(pixel, F_AIR) / (count + 1.0);
}

function carry(pixel: usize, channel: i32, k: f64): void {
  for (let c = channel; c < channel + 3; c++) write(pixel, c, read(pixel, c) * k);
}
function show(pixel: usize, channel: i32, sampled: usize, from: i32, k: f64): void {
  for (let c = 0; c < 3; c++) write(pixel, channel + c, read(sampled, from + c) * k);
}

/** Share of a pixel's light that the air keeps from the lens, by band. */
// @ts-ignore: decorator
@inline
function opacity(pixel: usize, band: i32): f64 {
  return 1.0 - read(pixel, F_TRANSMITTANCE + band) / read(pixel, F_COUNT);
}

/** How little two pixels lie alike in the air; 0 where they do. */
function unlike(p: usize, q: usize): f64 {
  let e = unlikeSurfaces(
    read(p, F_HITS) / read(p, F_COUNT),
    read(p, F_DISTANCE) / read(p, F_HITS),
    read(q, F_HITS) / read(q, F_COUNT),
    read(q, F_DISTANCE) / read(q, F_HITS),
  );
  for (let k = 0; k < 3; k++) e += unlikeOpacity(opacity(p, k), opacity(q, k));
  return e;
}

let neighbours: i32 = 0;
let gainR: f64 = 1.0,
  gainG: f64 = 1.0,
  gainB: f64 = 1.0;

// @ts-ignore: decorator
@inline
function neighbour(i: i32): usize {
  return scratch + SCRATCH_NEIGHBOURS + <usize>(i * NEIGHBOUR_BYTES);
}
// @ts-ignore: decorator
@inline
function gainOf(band: i32): f64 {
  return band == 0 ? gainR : band == 1 ? gainG : gainB;
}

/** Notes the sampled pixels that a pixel takes air from, with weights that add up to one, and its gain. */
function gather(film: usize, size: usize, width: i32, x: i32, y: i32, left: i32, top: i32, right: i32, bottom: i32, every: i32): void {
  const p = film + <usize>(y * width + x) * size;
  const column = (x - left) / every,
    row = (y - top) / every;
  const fx = <f64>(x - left) / <f64>every,
    fy = <f64>(y - top) / <f64>every;
  neighbours = 0;
  let sum = 0.0,
    oR = 0.0,
    oG = 0.0,
    oB = 0.0;
  for (let j = row - 1; j < row - 1 + JOIN_REACH; j++) {
    const qy = top + j * every;
    if (j < 0 || qy >= bottom) continue;
    for (let i = column - 1; i < column - 1 + JOIN_REACH; i++) {
      const qx = left + i * every;
      if (i < 0 || qx >= right) continue;
      const q = film + <usize>(qy * width + qx) * size;
      const near = spline(fx - <f64>i) * spline(fy - <f64>j);
      if (near <= 0.0 || read(q, F_COUNT) <= 0.0) continue;
      const w = near * likeness(unlike(p, q));
      const at = neighbour(neighbours++);
      store<f64>(at, w);
      store<u32>(at, <u32>q, 8);
      sum += w;
      oR += w * opacity(q, 0);
      oG += w * opacity(q, 1);
      oB += w * opacity(q, 2);
    }
  }
  for (let i = 0; i < neighbours; i++) store<f64>(neighbour(i), load<f64>(neighbour(i)) / sum);
  gainR = gainByOpacity(opacity(p, 0), oR / sum);
  gainG = gainByOpacity(opacity(p, 1), oG / sum);
  gainB = gainByOpacity(opacity(p, 2), oB / sum);
}

/**
 * Mean of three sums of what is sampled of the pixels noted, each divided by its own samples (or by those of one half), as sums of a pixel of
 * `count`.
 */
function joinColour(pixel: usize, channel: i32, from: i32, half: bool, count: f64): void {
  for (let k = 0; k < 3; k++) {
    let v = 0.0;
    for (let i = 0; i < neighbours; i++) {
      const at = neighbour(i);
      const q = <usize>load<u32>(at, 8);
      const n = half ? oddOf(read(q, F_COUNT)) : read(q, F_COUNT);
      if (n > 0.0) v += (load<f64>(at) * read(q, from + k)) / n;
    }
    write(pixel, channel + k, v * gainOf(k) * count);
  }
}

/** Variance of the mean luminance of the air that a pixel is given. */
function joinedVariance(): f64 {
  const gain = 0.2126 * gainR + 0.7152 * gainG + 0.0722 * gainB;
  const from = sampledAir();
  let variance = 0.0;
  for (let i = 0; i < neighbours; i++) {
    const at = neighbour(i);
    const w = load<f64>(at) * gain;
    variance += w * w * meanVariance(<usize>load<u32>(at, 8), from + R_AIR_LUMINANCE2, from + R_AIR);
  }
  return variance;
}

/** Variance of a mean by its sum of squares; 0 below two samples. */
function meanVariance(pixel: usize, squares: i32, sums: i32): f64 {
  const n = read(pixel, F_COUNT);
  if (n < 2.0) return 0.0;
  const m = luminanceOf(pixel, sums) / n;
  const s = read(pixel, squares);
  return s >= FULL_SUM ? m * m : Math.max(0.0, s / n - m * m) / (n - 1.0);
}

/** The sum of squares by which a mean of n samples has a variance. */
function squaresOf(n: f64, mean: f64, variance: f64): f64 {
  return Math.min(FULL_SUM, n * (mean * mean + (n - 1.0) * variance));
}

/**
 * Joins the air that is sampled at multiples of `every` pixels from the crop's corner to all of a tile's pixels [x0, x1) × [y0, y1). What is
 * sampled stays, so that it can be done as often as one likes. All tiles of the crop must have as many samples.
 */
export function joinPixels(
  film: usize,
  size: usize,
  width: i32,
  x0: i32,
  y0: i32,
  x1: i32,
  y1: i32,
  left: i32,
  top: i32,
  right: i32,
  bottom: i32,
  every: i32,
): void {
  const from = sampledAir();
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) {
      const p = film + <usize>(y * width + x) * size;
      const n = read(p, F_COUNT);
      if (n <= 0.0) continue;
      gather(film, size, width, x, y, left, top, right, bottom, every);
      if (neighbours == 0) continue;
      joinColour(p, F_AIR, from + R_AIR, false, n);
      joinColour(p, F_EMISSION, from + R_EMISSION, false, n);
      joinColour(p, F_AIR_ODD, from + R_AIR_ODD, true, oddOf(n));
      for (let g = 0; g < groupsKept(); g++) joinColour(p, groupAir(g), sampledGroup(g), false, n);
      const air = luminanceOf(p, F_AIR) / n,
        variance = joinedVariance();
      write(p, F_AIR_LUMINANCE2, squaresOf(n, air, variance));
      const both = air + luminanceOf(p, F_SURFACES) / n;
      write(p, F_LUMINANCE2, squaresOf(n, both, variance + meanVariance(p, F_SURFACES_LUMINANCE2, F_SURFACES)));
    }
}
