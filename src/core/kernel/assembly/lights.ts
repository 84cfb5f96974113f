/** What arrives at a point from the sun, the sky and each light, drawn from where it is bright. */
import { EDGE_ERROR, MIN_AREA, MIN_COSINE, MIN_LENGTH2, MIN_SPAN } from "./precision";
import {
  LIGHT_DISK,
  LIGHT_DISTANT,
  LIGHT_POINT,
  LIGHT_PROFILE,
  LIGHT_RECTANGLE,
  LIGHT_SPHERE,
  LIGHT_SPOT,
  LIGHT_TUBE,
} from "../../layout/kinds";
import {
  L_KIND,
  L_POSITION,
  L_AXIS,
  L_U,
  L_V,
  L_INTENSITY,
  L_COS_INNER,
  L_COS_OUTER,
  L_SIZE,
  L_AREA,
  L_BEAM,
  L_AIR,
  L_SURFACES,
  L_MASK,
  L_FADE,
  L_BOTH_SIDES,
  L_GOBO,
  L_GOBO_WIDTH,
  L_GOBO_HEIGHT,
  L_GOBO_SCALE,
  L_GOBO_DISTANCE,
  L_PROFILE,
  L_IMAGE,
  L_IMAGE_WIDTH,
  L_IMAGE_HEIGHT,
  LP_COLUMNS,
  P_SUN_E,
  P_SUN_DIR,
  P_SUN_COS,
  P_SUN_AIR,
  P_SUN_SURFACES,
  P_SUN_MASK,
  P_SKY_AIR,
  P_SKY_SURFACES,
  P_LIGHT_COUNT,
  P_EMISSIVE,
  P_SUN_GOBO,
  P_SUN_GOBO_WIDTH,
  P_SUN_GOBO_HEIGHT,
  P_SUN_GOBO_SCALE,
  P_SUN_GOBO_SHIFT,
  P_SUN_GOBO_U,
  P_SUN_GOBO_V,
  E_CORNER,
  E_EDGE1,
  E_EDGE2,
  E_LUMINANCE,
  E_AREA,
  E_TRIANGLE,
  E_VARIES,
  EMISSIVE_WORDS,
} from "../../layout/layout";
import { surfaceEmissionOf, surfaceEmissionR, surfaceEmissionG, surfaceEmissionB } from "./any-hit-filter";
import { lightParam, lightParamAddress, lightParamInt, param, paramAddress, paramInt, word, wordInt } from "./state";

/** Set by lightFrom() and sampleSun(): irradiance on a plane facing the light, per band. */
export let lR: f64 = 0.0;
export let lG: f64 = 0.0;
export let lB: f64 = 0.0;
/** Unit direction to the light, and its distance. */
export let lx: f64 = 0.0;
export let ly: f64 = 0.0;
export let lz: f64 = 0.0;
export let lDistance: f64 = 0.0;
/** How far (m) the drawn point may lie off the light by rounding: lights that are surfaces. */
export let lightError: f64 = 0.0;
/** Density of the direction (1/sr) where a surface may also meet the light by chance; 0 where it cannot. */
export let lPdf: f64 = 0.0;
/** Whether it is met beside the path (emitters.ts), not by the path as it goes on. */
export let lBeside: bool = false;

export const SUN: i32 = -1;
export const SKY: i32 = -2;
export const NONE: i32 = -3;
/** Media that glow, as one light. */
export const MEDIUM_EMISSION: i32 = -4;

let localCount: i32 = 0;

/** Reads from the parameters how many lights there are. */
export function prepareLights(): void {
  localCount = paramInt(P_LIGHT_COUNT);
}

/** Address of an emissive triangle's record. */
// @ts-ignore: decorator
@inline
export function emissiveRecord(i: i32): usize {
  return paramAddress(P_EMISSIVE) + <usize>(i * EMISSIVE_WORDS * 8);
}

/** Whether light i has an extent that a ray can meet, with the same luminance all over. */
export function isMet(i: i32): bool {
  const kind = lightParamInt(i, L_KIND);
  if (kind == LIGHT_SPHERE || kind == LIGHT_TUBE || kind == LIGHT_DISTANT) return true;
  return (kind == LIGHT_RECTANGLE || kind == LIGHT_DISK) && lightParamInt(i, L_GOBO) == 0 && lightParamInt(i, L_IMAGE) == 0;
}

/** Shares of a light to the air and to surfaces, and the media it lights. */
export function airShare(light: i32): f64 {
  return light == SUN
    ? param(P_SUN_AIR)
    : light == SKY
      ? param(P_SKY_AIR)
      : light < 0 || light >= localCount
        ? 1.0
        : lightParam(light, L_AIR);
}
/** Factor on what a light gives surfaces. */
export function surfaceShare(light: i32): f64 {
  return light == SUN
    ? param(P_SUN_SURFACES)
    : light == SKY
      ? param(P_SKY_SURFACES)
      : light < 0 || light >= localCount
        ? 1.0
        : lightParam(light, L_SURFACES);
}
/** Media a light reaches, one bit each. */
export function mediaMask(light: i32): u32 {
  return light == SUN ? <u32>paramInt(P_SUN_MASK) : light < 0 || light >= localCount ? 0xffffffff : <u32>lightParamInt(light, L_MASK);
}

/** Direction uniform in a cone about the unit vector s; sets lx, ly, lz. */
function inCone(sx: f64, sy: f64, sz: f64, edge: f64, u: f64, v: f64): void {
  const c = 1.0 - u * (1.0 - edge);
  const s = Math.sqrt(Math.max(0.0, 1.0 - c * c));
  const phi = 6.283185307179586 * v;
  const a = s * Math.cos(phi),
    b = s * Math.sin(phi);
  const sign = sz >= 0.0 ? 1.0 : -1.0;
  const k = -1.0 / (sign + sz);
  const m = sx * sy * k;
  lx = a * (1.0 + sign * sx * sx * k) + b * m + c * sx;
  ly = a * (sign * m) + b * (sign + sy * sy * k) + c * sy;
  lz = a * (-sign * sx) + b * -sy + c * sz;
}

let tr: f64 = 0.0,
  tg: f64 = 0.0,
  tb: f64 = 0.0;

/** Bilinear value of an RGB table; edges repeat where `wrap`, and are black past them otherwise. Sets tr, tg, tb. */
function texel(at: usize, w: i32, h: i32, u: f64, v: f64, wrap: bool): void {
  if (wrap) {
    u -= Math.floor(u);
    v -= Math.floor(v);
  } else if (!(u >= 0.0 && u <= 1.0 && v >= 0.0 && v <= 1.0)) {
    tr = 0.0;
    tg = 0.0;
    tb = 0.0;
    return;
  }
  const x = u * <f64>w - 0.5,
    y = v * <f64>h - 0.5;
  const fx = Math.floor(x),
    fy = Math.floor(y);
  const a = x - fx,
    b = y - fy;
  let x0 = <i32>fx,
    y0 = <i32>fy,
    x1 = x0 + 1,
    y1 = y0 + 1;
  if (wrap) {
    x0 = (x0 + w) % w;
    x1 = x1 % w;
    y0 = (y0 + h) % h;
    y1 = y1 % h;
  } else {
    x0 = x0 < 0 ? 0 : x0;
    y0 = y0 < 0 ? 0 : y0;
    x1 = x1 >= w ? w - 1 : x1;
    y1 = y1 >= h ? h - 1 : y1;
  }
  const p00 = at + <usize>((y0 * w + x0) * 12),
    p10 = at + <usize>((y0 * w + x1) * 12);
  const p01 = at + <usize>((y1 * w + x0) * 12),
    p11 = at + <usize>((y1 * w + x1) * 12);
  const q00 = (1.0 - a) * (1.0 - b),
    q10 = a * (1.0 - b),
    q01 = (1.0 - a) * b,
    q11 = a * b;
  tr = q00 * <f64>load<f32>(p00) + q10 * <f64>load<f32>(p10) + q01 * <f64>load<f32>(p01) + q11 * <f64>load<f32>(p11);
  tg = q00 * <f64>load<f32>(p00, 4) + q10 * <f64>load<f32>(p10, 4) + q01 * <f64>load<f32>(p01, 4) + q11 * <f64>load<f32>(p11, 4);
  tb = q00 * <f64>load<f32>(p00, 8) + q10 * <f64>load<f32>(p10, 8) + q01 * <f64>load<f32>(p01, 8) + q11 * <f64>load<f32>(p11, 8);
}

/** Direction uniform in the sun's disk, and the irradiance at x through its gobo. */
export function sampleSun(u: f64, v: f64, x: f64, y: f64, z: f64): void {
  inCone(param(P_SUN_DIR), param(P_SUN_DIR + 1), param(P_SUN_DIR + 2), param(P_SUN_COS), u, v);
  lDistance = Infinity;
  lPdf = 1.0 / (6.283185307179586 * (1.0 - param(P_SUN_COS)));
  lBeside = true;
  lR = param(P_SUN_E);
  lG = param(P_SUN_E + 1);
  lB = param(P_SUN_E + 2);
  const gobo = paramAddress(P_SUN_GOBO);
  if (gobo == 0) return;
  lPdf = 0.0;
  const k = param(P_SUN_GOBO_SCALE);
  texel(
    gobo,
    paramInt(P_SUN_GOBO_WIDTH),
    paramInt(P_SUN_GOBO_HEIGHT),
    k * (x * param(P_SUN_GOBO_U) + y * param(P_SUN_GOBO_U + 1) + z * param(P_SUN_GOBO_U + 2) + param(P_SUN_GOBO_SHIFT)),
    k * (x * param(P_SUN_GOBO_V) + y * param(P_SUN_GOBO_V + 1) + z * param(P_SUN_GOBO_V + 2) + param(P_SUN_GOBO_SHIFT + 1)),
    true,
  );
  lR *= tr;
  lG *= tg;
  lB *= tb;
}

// @ts-ignore: decorator
@inline
function smooth(t: f64): f64 {
  t = Math.max(0.0, Math.min(1.0, t));
  return t * t * (3.0 - 2.0 * t);
}

/** Factor on a light's strength by distance. */
export function fade(i: i32, d: f64): f64 {
  const nearFrom = lightParam(i, L_FADE + 1),
    nearTo = lightParam(i, L_FADE + 2);
  const farFrom = lightParam(i, L_FADE + 3),
    farTo = lightParam(i, L_FADE + 4);
  let k = nearTo > nearFrom ? smooth((d - nearFrom) / (nearTo - nearFrom)) : d >= nearFrom ? 1.0 : 0.0;
  k *= farTo > farFrom ? 1.0 - smooth((d - farFrom) / (farTo - farFrom)) : d <= farTo ? 1.0 : 0.0;
  return k;
}

/** Candela of a photometric profile along a direction away from the light. */
function profileCandela(i: i32, dx: f64, dy: f64, dz: f64): f64 {
  const c = dx * lightParam(i, L_AXIS) + dy * lightParam(i, L_AXIS + 1) + dz * lightParam(i, L_AXIS + 2);
  const a = dx * lightParam(i, L_U) + dy * lightParam(i, L_U + 1) + dz * lightParam(i, L_U + 2);
  const b = dx * lightParam(i, L_V) + dy * lightParam(i, L_V + 1) + dz * lightParam(i, L_V + 2);
  const theta = Math.acos(Math.max(-1.0, Math.min(1.0, c))) * 57.29577951308232;
  let phi = Math.atan2(b, a) * 57.29577951308232;
  if (phi < 0.0) phi += 360.0;
  const t0 = <i32>Math.min(179.0, Math.floor(theta)),
    p0 = <i32>Math.min(359.0, Math.floor(phi));
  const ft = theta - <f64>t0,
    fp = phi - <f64>p0;
  const p1 = p0 == LP_COLUMNS - 1 ? 0 : p0 + 1;
  const at = lightParamAddress(i, L_PROFILE);
  const v00 = <f64>load<f32>(at + <usize>((t0 * LP_COLUMNS + p0) << 2)),
    v01 = <f64>load<f32>(at + <usize>((t0 * LP_COLUMNS + p1) << 2));
  const v10 = <f64>load<f32>(at + <usize>(((t0 + 1) * LP_COLUMNS + p0) << 2)),
    v11 = <f64>load<f32>(at + <usize>(((t0 + 1) * LP_COLUMNS + p1) << 2));
  return (1.0 - ft) * ((1.0 - fp) * v00 + fp * v01) + ft * ((1.0 - fp) * v10 + fp * v11);
}

/** Light of an emissive triangle at a point. */
function fromTriangle(i: i32, x: f64, y: f64, z: f64, u: f64, v: f64): void {
  const p = emissiveRecord(i);
  // uniform over the triangle
  const s = Math.sqrt(u);
  const a = 1.0 - s,
    b = s * v;
  const e1x = word(p, E_EDGE1),
    e1y = word(p, E_EDGE1 + 1),
    e1z = word(p, E_EDGE1 + 2);
  const e2x = word(p, E_EDGE2),
    e2y = word(p, E_EDGE2 + 1),
    e2z = word(p, E_EDGE2 + 2);
  const px = word(p, E_CORNER) + a * e1x + b * e2x - x;
  const py = word(p, E_CORNER + 1) + a * e1y + b * e2y - y;
  const pz = word(p, E_CORNER + 2) + a * e1z + b * e2z - z;
  const d2 = Math.max(px * px + py * py + pz * pz, MIN_LENGTH2);
  lDistance = Math.sqrt(d2);
  const inv = 1.0 / lDistance;
  lx = px * inv;
  ly = py * inv;
  lz = pz * inv;
  lightError = EDGE_ERROR * (Math.abs(e1x) + Math.abs(e1y) + Math.abs(e1z) + Math.abs(e2x) + Math.abs(e2y) + Math.abs(e2z));
  const nx = e1y * e2z - e1z * e2y,
    ny = e1z * e2x - e1x * e2z,
    nz = e1x * e2y - e1y * e2x;
  const area = word(p, E_AREA);
  const cos = Math.abs(nx * lx + ny * ly + nz * lz) / Math.max(2.0 * area, MIN_AREA);
  const k = (cos * area) / d2;
  lPdf = k > 0.0 ? 1.0 / k : 0.0;
  if (wordInt(p, E_VARIES) != 0) {
    surfaceEmissionOf(wordInt(p, E_TRIANGLE), a, b);
    lR = k * surfaceEmissionR;
    lG = k * surfaceEmissionG;
    lB = k * surfaceEmissionB;
    return;
  }
  lR = k * word(p, E_LUMINANCE);
  lG = k * word(p, E_LUMINANCE + 1);
  lB = k * word(p, E_LUMINANCE + 2);
}

/** A point of the light drawn by (u, v): irradiance it gives at x, direction and distance. */
export function lightFrom(i: i32, x: f64, y: f64, z: f64, u: f64, v: f64): void {
  lPdf = 0.0;
  lBeside = false;
  lightError = 0.0;
  if (i >= localCount) {
    fromTriangle(i - localCount, x, y, z, u, v);
    return;
  }
  lBeside = isMet(i);
  const kind = lightParamInt(i, L_KIND);
  const ax = lightParam(i, L_AXIS),
    ay = lightParam(i, L_AXIS + 1),
    az = lightParam(i, L_AXIS + 2);
  if (kind == LIGHT_DISTANT) {
    inCone(ax, ay, az, lightParam(i, L_COS_OUTER), u, v);
    lDistance = Infinity;
    lPdf = 1.0 / (6.283185307179586 * (1.0 - lightParam(i, L_COS_OUTER)));
    lR = lightParam(i, L_INTENSITY);
    lG = lightParam(i, L_INTENSITY + 1);
    lB = lightParam(i, L_INTENSITY + 2);
    return;
  }
  let px = lightParam(i, L_POSITION) - x,
    py = lightParam(i, L_POSITION + 1) - y,
    pz = lightParam(i, L_POSITION + 2) - z;
  let k = 1.0;
  // place on the emitter across its axes, metres
  let s = 0.0,
    t = 0.0;
  if (kind == LIGHT_SPHERE) {
    const r = lightParam(i, L_SIZE);
    const d2 = px * px + py * py + pz * pz;
    if (d2 <= r * r) {
      lR = 0.0;
      lG = 0.0;
      lB = 0.0;
      return;
    }
    const d = Math.sqrt(d2);
    const sin2 = (r * r) / d2;
    const edge = Math.sqrt(1.0 - sin2);
    // 1 - cos without cancellation far away
    const cap = sin2 / (1.0 + edge);
    inCone(px / d, py / d, pz / d, 1.0 - cap, u, v);
    const c = (px * lx + py * ly + pz * lz) / d;
    lDistance = d * c - Math.sqrt(Math.max(0.0, r * r - d2 * (1.0 - c * c)));
    k = 6.283185307179586 * cap;
    lPdf = 1.0 / k;
  } else {
    const ux = lightParam(i, L_U),
      uy = lightParam(i, L_U + 1),
      uz = lightParam(i, L_U + 2);
    const vx = lightParam(i, L_V),
      vy = lightParam(i, L_V + 1),
      vz = lightParam(i, L_V + 2);
    if (kind == LIGHT_RECTANGLE) {
      s = (2.0 * u - 1.0) * lightParam(i, L_SIZE);
      t = (2.0 * v - 1.0) * lightParam(i, L_SIZE + 1);
    } else if (kind == LIGHT_DISK || (kind == LIGHT_SPOT && lightParam(i, L_SIZE) > 0.0)) {
      const r = lightParam(i, L_SIZE) * Math.sqrt(u),
        phi = 6.283185307179586 * v;
      s = r * Math.cos(phi);
      t = r * Math.sin(phi);
    }
    if (kind == LIGHT_TUBE) {
      // a point of the tube's side: along it by u, around it by v
      const along = (2.0 * u - 1.0) * lightParam(i, L_SIZE + 1),
        r = lightParam(i, L_SIZE),
        phi = 6.283185307179586 * v;
      const c = Math.cos(phi),
        q = Math.sin(phi);
      const nx = c * ux + q * vx,
        ny = c * uy + q * vy,
        nz = c * uz + q * vz;
      px += along * ax + r * nx;
      py += along * ay + r * ny;
      pz += along * az + r * nz;
      const d2 = Math.max(px * px + py * py + pz * pz, MIN_LENGTH2);
      lDistance = Math.sqrt(d2);
      const cos = -(nx * px + ny * py + nz * pz) / lDistance;
      k = cos > 0.0 ? (cos * lightParam(i, L_AREA)) / d2 : 0.0;
      lPdf = k > 0.0 ? 1.0 / k : 0.0;
    } else {
      px += s * ux + t * vx;
      py += s * uy + t * vy;
      pz += s * uz + t * vz;
      const d2 = Math.max(px * px + py * py + pz * pz, MIN_LENGTH2);
      lDistance = Math.sqrt(d2);
      k = 1.0 / d2;
    }
    const inv = 1.0 / lDistance;
    lx = px * inv;
    ly = py * inv;
    lz = pz * inv;
    if (kind != LIGHT_POINT && kind != LIGHT_TUBE) {
      let c = -(lx * ax + ly * ay + lz * az);
      if (kind == LIGHT_SPOT) {
        const inner = lightParam(i, L_COS_INNER),
          outer = lightParam(i, L_COS_OUTER);
        k *= smooth((c - outer) / Math.max(inner - outer, MIN_SPAN));
      } else if (kind == LIGHT_PROFILE) k *= profileCandela(i, -lx, -ly, -lz);
      else if (kind == LIGHT_RECTANGLE || kind == LIGHT_DISK) {
        if (lightParamInt(i, L_BOTH_SIDES) != 0) c = Math.abs(c);
        const n = lightParam(i, L_BEAM);
        if (lBeside && c > 0.0) lPdf = 1.0 / (k * c * lightParam(i, L_AREA));
        k *= c > 0.0 ? lightParam(i, L_AREA) * (n > 0.0 ? Math.pow(c, n + 1.0) : c) : 0.0;
      } else unreachable();
      const gobo = lightParamAddress(i, L_GOBO);
      if (gobo != 0 && k > 0.0) {
        const d = lightParam(i, L_GOBO_DISTANCE) / Math.max(Math.abs(c), MIN_COSINE);
        // where the line crosses the gobo's plane; before a spot its scale grows with the distance from the apex
        const gs = s - d * (lx * ux + ly * uy + lz * uz),
          gt = t - d * (lx * vx + ly * vy + lz * vz);
        const scale = lightParam(i, L_GOBO_SCALE);
        texel(
          gobo,
          lightParamInt(i, L_GOBO_WIDTH),
          lightParamInt(i, L_GOBO_HEIGHT),
          0.5 + 0.5 * gs * scale,
          0.5 - 0.5 * gt * scale,
          kind != LIGHT_SPOT,
        );
        lR = k * tr * lightParam(i, L_INTENSITY);
        lG = k * tg * lightParam(i, L_INTENSITY + 1);
        lB = k * tb * lightParam(i, L_INTENSITY + 2);
        if (lightParamInt(i, L_FADE) != 0) dimBy(fade(i, lDistance));
        if (lightParamInt(i, L_IMAGE) != 0) throughImage(i, s, t);
        return;
      }
    }
  }
  if (lightParamInt(i, L_FADE) != 0) k *= fade(i, lDistance);
  lR = k * lightParam(i, L_INTENSITY);
  lG = k * lightParam(i, L_INTENSITY + 1);
  lB = k * lightParam(i, L_INTENSITY + 2);
  if (lightParamInt(i, L_IMAGE) != 0 && k > 0.0) throughImage(i, s, t);
}

/**
 * Light i at x as the level veil takes it: all from its middle, with the emitter's strength towards x. Gobo and image as
 * they are seen from there.
 */
export function lightFromMiddle(i: i32, x: f64, y: f64, z: f64): void {
  const kind = lightParamInt(i, L_KIND);
  if (kind != LIGHT_SPHERE && kind != LIGHT_TUBE) {
    // half of a rectangle's sides is its middle; a radius of nothing is a disk's
    lightFrom(i, x, y, z, kind == LIGHT_RECTANGLE ? 0.5 : 0.0, 0.5);
    return;
  }
  const px = lightParam(i, L_POSITION) - x,
    py = lightParam(i, L_POSITION + 1) - y,
    pz = lightParam(i, L_POSITION + 2) - z;
  const d2 = Math.max(px * px + py * py + pz * pz, MIN_LENGTH2);
  const r = lightParam(i, L_SIZE);
  lDistance = Math.sqrt(d2);
  lx = px / lDistance;
  ly = py / lDistance;
  lz = pz / lDistance;
  let k = 0.0;
  if (kind == LIGHT_SPHERE) k = d2 > r * r ? (3.141592653589793 * r * r) / d2 : 0.0;
  else if (kind == LIGHT_TUBE) {
    const c = lx * lightParam(i, L_AXIS) + ly * lightParam(i, L_AXIS + 1) + lz * lightParam(i, L_AXIS + 2);
    k = (4.0 * r * lightParam(i, L_SIZE + 1) * Math.sqrt(Math.max(0.0, 1.0 - c * c))) / d2;
  } else unreachable();
  if (lightParamInt(i, L_FADE) != 0) k *= fade(i, lDistance);
  lR = k * lightParam(i, L_INTENSITY);
  lG = k * lightParam(i, L_INTENSITY + 1);
  lB = k * lightParam(i, L_INTENSITY + 2);
}

function dimBy(k: f64): void {
  lR *= k;
  lG *= k;
  lB *= k;
}

/** Colour of a rectangle's image at a place across its axes (1 where it has none); sets imageR, imageG, imageB. */
export function imageOf(i: i32, s: f64, t: f64): void {
  imageR = 1.0;
  imageG = 1.0;
  imageB = 1.0;
  if (lightParamInt(i, L_IMAGE) == 0) return;
  texel(
    lightParamAddress(i, L_IMAGE),
    lightParamInt(i, L_IMAGE_WIDTH),
    lightParamInt(i, L_IMAGE_HEIGHT),
    0.5 + (0.5 * s) / lightParam(i, L_SIZE),
    0.5 - (0.5 * t) / lightParam(i, L_SIZE + 1),
    false,
  );
  imageR = tr;
  imageG = tg;
  imageB = tb;
}
/** Set by imageOf(). */
export let imageR: f64 = 1.0;
export let imageG: f64 = 1.0;
export let imageB: f64 = 1.0;

/** Dims the light by a rectangle's image. */
function throughImage(i: i32, s: f64, t: f64): void {
  imageOf(i, s, t);
  lR *= imageR;
  lG *= imageG;
  lB *= imageB;
}
