/** The background at infinity: sky from a gradient or a table, the disks of sun and moon, stars. */
import { MAX_UNIT, MIN_UNIT } from "./precision";
import {
  P_SKY_ZENITH,
  P_SKY_HORIZON,
  P_SKY_GROUND,
  P_SKY_LEVEL,
  P_SKY_GROUND_LOW,
  P_SKY_GROUND_HIGH,
  P_ENV,
  P_ENV_WIDTH,
  P_ENV_HEIGHT,
  P_ENV_ROTATION,
  P_ENV_CDF,
  P_SUN_DIR,
  P_SUN_COS,
  P_SUN_E,
  P_STARS,
  P_STARS_SIZE,
  P_STARS_LUMINANCE,
  P_STARS_HUE,
  P_STARS_SEED,
  L_AXIS,
  L_COS_OUTER,
  L_INTENSITY,
} from "../../layout/layout";
import { lightParam, param, paramAddress, paramInt } from "./state";

/** Set by sky(), sunDisk() and moonDisk(): luminance per band. */
export let skyR: f64 = 0.0;
export let skyG: f64 = 0.0;
export let skyB: f64 = 0.0;
/** Set by sampleEnvironment(). */
export let ex: f64 = 0.0;
export let ey: f64 = 0.0;
export let ez: f64 = 0.0;

const TWO_PI: f64 = 6.283185307179586;
const PI: f64 = 3.141592653589793;

/** Whether the sky is an environment map. */
// @ts-ignore: decorator
@inline
export function hasEnvironment(): bool {
  return paramInt(P_ENV) != 0;
}

/** Sky along a direction, without sun and stars. */
export function sky(dx: f64, dy: f64, dz: f64): void {
  const at = paramAddress(P_ENV);
  if (at == 0) {
    const level = param(P_SKY_LEVEL);
    const t = Math.max(0.0, Math.min(1.0, (dy - level) / (1.0 - level)));
    skyR = param(P_SKY_HORIZON) + (param(P_SKY_ZENITH) - param(P_SKY_HORIZON)) * t;
    skyG = param(P_SKY_HORIZON + 1) + (param(P_SKY_ZENITH + 1) - param(P_SKY_HORIZON + 1)) * t;
    skyB = param(P_SKY_HORIZON + 2) + (param(P_SKY_ZENITH + 2) - param(P_SKY_HORIZON + 2)) * t;
  } else {
    tableSky(at, dx, dy, dz);
  }
  const high = param(P_SKY_GROUND_HIGH);
  if (dy >= high) return;
  const low = param(P_SKY_GROUND_LOW);
  let s = dy <= low ? 0.0 : (dy - low) / (high - low);
  s = s * s * (3.0 - 2.0 * s);
  skyR = param(P_SKY_GROUND) + (skyR - param(P_SKY_GROUND)) * s;
  skyG = param(P_SKY_GROUND + 1) + (skyG - param(P_SKY_GROUND + 1)) * s;
  skyB = param(P_SKY_GROUND + 2) + (skyB - param(P_SKY_GROUND + 2)) * s;
}

/** The table along a direction, interpolated between the middles of its texels; sets skyR, skyG, skyB. */
function tableSky(at: usize, dx: f64, dy: f64, dz: f64): void {
  const w = paramInt(P_ENV_WIDTH),
    h = paramInt(P_ENV_HEIGHT);
  // a row above the first or below the last is as that one
  const v = Math.max(0.0, Math.min(<f64>(h - 1), rowPlace(dy) * <f64>h - 0.5));
  const row = <i32>v;
  const below = row + 1 < h ? row + 1 : row;
  // columns go round
  let u = columnPlace(dx, dz) * <f64>w - 0.5;
  if (u < 0.0) u += <f64>w;
  const column = <i32>Math.min(<f64>(w - 1), u);
  const right = column + 1 < w ? column + 1 : 0;
  const fu = <f32>(u - <f64>column),
    fv = <f32>(v - <f64>row);
  const c00 = texel(at, row * w + column),
    c10 = texel(at, row * w + right),
    c01 = texel(at, below * w + column),
    c11 = texel(at, below * w + right);
  const top = f32x4.add(c00, f32x4.mul(f32x4.splat(fu), f32x4.sub(c10, c00))),
    bottom = f32x4.add(c01, f32x4.mul(f32x4.splat(fu), f32x4.sub(c11, c01)));
  const c = f32x4.add(top, f32x4.mul(f32x4.splat(fv), f32x4.sub(bottom, top)));
  skyR = <f64>f32x4.extract_lane(c, 0);
  skyG = <f64>f32x4.extract_lane(c, 1);
  skyB = <f64>f32x4.extract_lane(c, 2);
}

/** Light of a texel, its fourth number unused. */
// @ts-ignore: decorator
@inline
function texel(at: usize, i: i32): v128 {
  return v128.load(at + ((<usize>i) << 4));
}

/** Place of a direction across the table, 0 to 1. */
// @ts-ignore: decorator
@inline
function columnPlace(dx: f64, dz: f64): f64 {
  const u = (Math.atan2(dx, -dz) - param(P_ENV_ROTATION)) / TWO_PI + 0.5;
  return u - Math.floor(u);
}
/** Place of a direction down the table, 0 to 1. */
// @ts-ignore: decorator
@inline
function rowPlace(dy: f64): f64 {
  return Math.acos(Math.max(-1.0, Math.min(1.0, dy))) / PI;
}
// @ts-ignore: decorator
@inline
function columnOf(dx: f64, dz: f64, w: i32): i32 {
  return <i32>Math.min(<f64>(w - 1), Math.floor(columnPlace(dx, dz) * <f64>w));
}
// @ts-ignore: decorator
@inline
function rowOf(dy: f64, h: i32): i32 {
  return <i32>Math.min(<f64>(h - 1), Math.floor(rowPlace(dy) * <f64>h));
}

function search(at: usize, n: i32, u: f64): i32 {
  let low = 0,
    high = n;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (<f64>load<f32>(at + ((<usize>middle) << 2)) <= u) low = middle;
    else high = middle;
  }
  return low;
}

/** Direction drawn by the table's luminance; sets ex, ey, ez. */
export function sampleEnvironment(u: f64, v: f64): void {
  const w = paramInt(P_ENV_WIDTH),
    h = paramInt(P_ENV_HEIGHT);
  const rows = paramAddress(P_ENV_CDF);
  const row = search(rows, h, v);
  const r0 = <f64>load<f32>(rows + ((<usize>row) << 2)),
    r1 = <f64>load<f32>(rows + ((<usize>(row + 1)) << 2));
  const fv = r1 > r0 ? (v - r0) / (r1 - r0) : 0.5;
  const columns = rows + ((<usize>(h + 1 + row * (w + 1))) << 2);
  const column = search(columns, w, u);
  const c0 = <f64>load<f32>(columns + ((<usize>column) << 2)),
    c1 = <f64>load<f32>(columns + ((<usize>(column + 1)) << 2));
  const fu = c1 > c0 ? (u - c0) / (c1 - c0) : 0.5;
  // uniform in solid angle within the texel: by the cosine between its edges
  const top = Math.cos((PI * <f64>row) / <f64>h),
    bottom = Math.cos((PI * <f64>(row + 1)) / <f64>h);
  const c = top + (bottom - top) * Math.min(MAX_UNIT, Math.max(MIN_UNIT, fv));
  const s = Math.sqrt(Math.max(0.0, 1.0 - c * c));
  const phi = ((<f64>column + fu) / <f64>w - 0.5) * TWO_PI + param(P_ENV_ROTATION);
  ex = s * Math.sin(phi);
  ey = c;
  ez = -s * Math.cos(phi);
}

/** Density (1/sr) of sampleEnvironment() along a direction. */
export function environmentPdf(dx: f64, dy: f64, dz: f64): f64 {
  const w = paramInt(P_ENV_WIDTH),
    h = paramInt(P_ENV_HEIGHT);
  const rows = paramAddress(P_ENV_CDF);
  const row = rowOf(dy, h),
    column = columnOf(dx, dz, w);
  const columns = rows + ((<usize>(h + 1 + row * (w + 1))) << 2);
  const pr = <f64>load<f32>(rows + ((<usize>(row + 1)) << 2)) - <f64>load<f32>(rows + ((<usize>row) << 2));
  const pc = <f64>load<f32>(columns + ((<usize>(column + 1)) << 2)) - <f64>load<f32>(columns + ((<usize>column) << 2));
  const solid = (TWO_PI / <f64>w) * (Math.cos((PI * <f64>row) / <f64>h) - Math.cos((PI * <f64>(row + 1)) / <f64>h));
  return (pr * pc) / solid;
}

function hash(x: u32): u32 {
  x ^= x >> 16;
  x *= 0x7feb352d;
  x ^= x >> 15;
  x *= 0x846ca68b;
  x ^= x >> 16;
  return x;
}

/** Adds the stars along a direction: at most one in each cell of rings of equal height. */
export function stars(dx: f64, dy: f64, dz: f64): void {
  const n = <f64>paramInt(P_STARS);
  // cells of about equal area: rings in the sine of elevation, as many cells in each; four cells a star
  const rings = Math.max(4.0, Math.floor(Math.sqrt(2.0 * n)));
  const around = Math.max(4.0, Math.floor((4.0 * n) / rings));
  const ring = Math.min(rings - 1.0, Math.floor((0.5 + 0.5 * dy) * rings));
  let u = Math.atan2(dx, -dz) / TWO_PI + 0.5;
  u -= Math.floor(u);
  const column = Math.min(around - 1.0, Math.floor(u * around));
  const id = hash((<u32>ring * 0x9e3779b1) ^ (<u32>column * 0x85ebca6b) ^ hash(<u32>paramInt(P_STARS_SEED) + 77));
  // as many as asked for, on average
  if (<f64>(id & 0xffff) > (65536.0 * n) / (rings * around)) return;
  const a = hash(id + 1),
    b = hash(id + 2);
  const sy = ((ring + 0.25 + 0.5 * (<f64>(a & 0xffff) / 65536.0)) / rings) * 2.0 - 1.0;
  const phi = ((column + 0.25 + 0.5 * (<f64>(a >> 16) / 65536.0)) / around - 0.5) * TWO_PI;
  const c = Math.sqrt(Math.max(0.0, 1.0 - sy * sy));
  const cross = 1.0 - (dx * c * Math.sin(phi) + dy * sy - dz * c * Math.cos(phi));
  // few are bright: magnitudes are spread evenly, brightness by powers
  const magnitude = <f64>(b & 0xffff) / 65536.0;
  const k = Math.pow(10.0, -2.2 * magnitude);
  const r = param(P_STARS_SIZE) * (0.45 + 0.55 * Math.sqrt(k));
  const inside = 1.0 - (2.0 * cross) / (r * r);
  if (inside <= 0.0) return;
  const hue = (<f64>(b >> 16) / 32768.0 - 1.0) * param(P_STARS_HUE);
  const l = k * param(P_STARS_LUMINANCE) * Math.min(1.0, 2.0 * inside);
  skyR += l * (1.0 + 0.5 * hue);
  skyG += l * (1.0 + 0.05 * hue);
  skyB += l * (1.0 - 0.5 * hue);
}

/** Luminance of the sun's disk along a direction. @returns whether the direction meets it */
export function sunDisk(dx: f64, dy: f64, dz: f64): bool {
  const edge = param(P_SUN_COS);
  if (dx * param(P_SUN_DIR) + dy * param(P_SUN_DIR + 1) + dz * param(P_SUN_DIR + 2) < edge) return false;
  const k = 1.0 / (TWO_PI * (1.0 - edge));
  skyR = param(P_SUN_E) * k;
  skyG = param(P_SUN_E + 1) * k;
  skyB = param(P_SUN_E + 2) * k;
  return true;
}

/** Luminance of the disk of distant light i along a direction. @returns whether the direction meets it */
export function moonDisk(i: i32, dx: f64, dy: f64, dz: f64): bool {
  const edge = lightParam(i, L_COS_OUTER);
  if (dx * lightParam(i, L_AXIS) + dy * lightParam(i, L_AXIS + 1) + dz * lightParam(i, L_AXIS + 2) < edge) return false;
  const k = 1.0 / (TWO_PI * (1.0 - edge));
  skyR = lightParam(i, L_INTENSITY) * k;
  skyG = lightParam(i, L_INTENSITY + 1) * k;
  skyB = lightParam(i, L_INTENSITY + 2) * k;
  return true;
}
