/**
 * Where the next direction of a path is looked for: by the BSDF, and by where the cell about the vertex has seen sunlight thrown back
 * (one-sample mixture, both densities in every weight). A cell is right or wrong about that; the mean is the same.
 */
import { LC_GUIDES_PATHS, LC_PATH_TABLE, LIGHT_CELL_COLUMNS, LIGHT_CELL_ROWS, RAY_INDIRECT } from "../../layout/layout";
import { SCRATCH_GUIDE } from "../../layout/scratch";
import { scratch } from "./state";
import { BIN_ANGLE, BINS, binOf, cellAt, CENTRES } from "./light-cells";
import { nx, ny, nz } from "./hit-frame";
import { bsdf, isGuidable, isTranslucent, mixPdf, sampleBsdf, setSampled, sx, sy, sz, weighSampled } from "./bsdf";

/** Part of the directions that are drawn by the cell. */
const SHARE: f64 = 0.5;
/** Cosine that bins beyond the horizon count with: their border may lie before it. */
const RIM: f32 = 0.1;

let guiding: bool = false;
let whole: f64 = 0.0;

/** Prepares the directions of a vertex: bins of the cell about it, by the cosine to the normal. */
export function beginGuide(x: f64, y: f64, z: f64): void {
  guiding = false;
  const cell = cellAt(x, y, z);
  if (cell == 0 || !(load<f32>(cell, LC_GUIDES_PATHS) > 0.0) || !isGuidable()) return;
  const from = cell + LC_PATH_TABLE,
    to = scratch + SCRATCH_GUIDE;
  const vx = f32x4.splat(<f32>nx),
    vy = f32x4.splat(<f32>ny),
    vz = f32x4.splat(<f32>nz);
  const rim = f32x4.splat(RIM);
  const both = isTranslucent();
  let sum: f32 = 0.0;
  for (let i: usize = 0; i < 4 * BINS; i += 16) {
    let cos = f32x4.add(
      f32x4.add(f32x4.mul(vx, v128.load(CENTRES + i)), f32x4.mul(vy, v128.load(CENTRES + i, 4 * BINS))),
      f32x4.mul(vz, v128.load(CENTRES + i, 8 * BINS)),
    );
    if (both) cos = f32x4.abs(cos);
    const w = f32x4.mul(v128.load(from + i), f32x4.pmax(rim, cos));
    const a = sum + f32x4.extract_lane(w, 0),
      b = a + f32x4.extract_lane(w, 1),
      c = b + f32x4.extract_lane(w, 2);
    sum = c + f32x4.extract_lane(w, 3);
    store<f32>(to + i, a);
    store<f32>(to + i, b, 4);
    store<f32>(to + i, c, 8);
    store<f32>(to + i, sum, 12);
  }
  whole = <f64>sum;
  guiding = whole > 0.0;
}

/** From here on directions follow the BSDF alone. */
export function endGuide(): void {
  guiding = false;
}

/** Density (1/sr) of the cell's part. */
function tablePdf(lx: f64, ly: f64, lz: f64): f64 {
  const bin = binOf(lx, ly, lz);
  const at = scratch + SCRATCH_GUIDE + ((<usize>bin) << 2);
  return (<f64>load<f32>(at) - (bin > 0 ? <f64>load<f32>(at - 4) : 0.0)) / (whole * BIN_ANGLE);
}

/** bsdf(), with the density that the path goes on with. */
export function bsdfOfPath(lx: f64, ly: f64, lz: f64): void {
  bsdf(lx, ly, lz);
  if (guiding) mixPdf(SHARE, tablePdf(lx, ly, lz));
}

/** Draws the next direction, as sampleBsdf(), by both. @returns false where the path ends */
export function sampleDirection(u: f64, v: f64): bool {
  if (!guiding) return sampleBsdf(u, v);
  if (u >= SHARE) {
    if (!sampleBsdf((u - SHARE) / (1.0 - SHARE), v)) return false;
    mixPdf(SHARE, tablePdf(sx, sy, sz));
    return weighSampled();
  }
  u = (u / SHARE) * whole;
  const table = scratch + SCRATCH_GUIDE;
  let low = 0,
    high = BINS - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (<f64>load<f32>(table + ((<usize>middle) << 2)) <= u) low = middle + 1;
    else high = middle;
  }
  const before = low > 0 ? <f64>load<f32>(table + ((<usize>(low - 1)) << 2)) : 0.0;
  const width = <f64>load<f32>(table + ((<usize>low) << 2)) - before;
  const across = width > 0.0 ? Math.min(0.9999999, Math.max(0.0, (u - before) / width)) : 0.5;
  const dy = (2.0 * (<f64>(low / LIGHT_CELL_COLUMNS) + v)) / <f64>LIGHT_CELL_ROWS - 1.0;
  const turn = ((<f64>(low % LIGHT_CELL_COLUMNS) + across) * 6.283185307179586) / <f64>LIGHT_CELL_COLUMNS;
  const flat = Math.sqrt(Math.max(0.0, 1.0 - dy * dy));
  setSampled(flat * Math.cos(turn), dy, flat * Math.sin(turn), RAY_INDIRECT);
  bsdf(sx, sy, sz);
  mixPdf(SHARE, tablePdf(sx, sy, sz));
  return weighSampled();
}
