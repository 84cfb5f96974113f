/**
 * Lights with an extent that no ray hits, as a ray drawn from a surface meets them: spheres, tubes, rectangles, disks, the moon and the
 * sun. Weighed against the light samples of the same vertex (multiple importance sampling, Veach 1997), so that small lights in
 * glossy surfaces are found by the one and large ones or rough surfaces served by the other.
 */
import { LIGHT_DISK, LIGHT_DISTANT, LIGHT_RECTANGLE, LIGHT_SPHERE, LIGHT_TUBE } from "../../layout/kinds";
import { SCRATCH_OPEN_NODES } from "../../layout/scratch";
import {
  L_AREA,
  L_AXIS,
  L_BEAM,
  L_BOTH_SIDES,
  L_COS_OUTER,
  L_FADE,
  L_INTENSITY,
  L_KIND,
  L_POSITION,
  L_SIZE,
  L_SURFACES,
  L_U,
  L_V,
  L_VISIBLE,
  LT_CENTRE,
  LT_FIRST,
  LT_RADIUS,
  LT_SECOND,
  P_LIGHT_COUNT,
  P_LISTED_COUNT,
  P_SUN_COS,
  P_SUN_DIR,
  P_SUN_E,
  P_SUN_GOBO,
  P_SUN_SURFACES,
} from "../../layout/layout";
import { MIN_COSINE } from "./precision";
import { lightParam, lightParamInt, param, paramInt, scratch, word, wordInt } from "./state";
import { bsdfPdf, sx, sy, sz, wR, wG, wB } from "./bsdf";
import { gatherFrom, offsetRayOrigin, qx, qy, qz } from "./direct";
import { chanceOfLeaf, chanceOfListed, hasLightTree, lightNode, sunChance } from "./light-sampling";
import { SUN, fade, imageB, imageG, imageOf, imageR, isMet } from "./lights";

let local: i32 = 0;
let listed: i32 = 0;
let meetsSun: bool = false;
let meetsAny: bool = false;

/** Reads from the parameters which lights can be met. */
export function prepareEmitters(): void {
  local = paramInt(P_LIGHT_COUNT);
  listed = hasLightTree() ? paramInt(P_LISTED_COUNT) : local;
  meetsSun = paramInt(P_SUN_GOBO) == 0 && param(P_SUN_SURFACES) > 0.0 && param(P_SUN_E) + param(P_SUN_E + 1) + param(P_SUN_E + 2) > 0.0;
  meetsAny = meetsSun;
  seesAny = false;
  for (let i = 0; i < local; i++) {
    meetsAny = meetsAny || isMet(i);
    seesAny = seesAny || lightParamInt(i, L_VISIBLE) != 0;
  }
}

// the ray, and the weight of what arrives along it
let ox: f64 = 0.0,
  oy: f64 = 0.0,
  oz: f64 = 0.0,
  dx: f64 = 0.0,
  dy: f64 = 0.0,
  dz: f64 = 0.0,
  br: f64 = 0.0,
  bg: f64 = 0.0,
  bb: f64 = 0.0;

/**
 * Adds the light of what the direction last drawn by sampleBsdf() meets from surface point x. The lights of that vertex were chosen last.
 * (r, g, b) is the weight of the path up to it.
 */
export function meetEmitters(x: f64, y: f64, z: f64, r: f64, g: f64, b: f64): void {
  if (!meetsAny) return;
  br = r * wR;
  bg = g * wG;
  bb = b * wB;
  offsetRayOrigin(x, y, z, sx, sy, sz);
  ox = qx;
  oy = qy;
  oz = qz;
  dx = sx;
  dy = sy;
  dz = sz;
  if (meetsSun) meetSun();
  for (let i = 0; i < listed; i++) if (isMet(i)) meet(i, chanceOfListed(i));
  if (hasLightTree()) meetTree();
}

function meetSun(): void {
  const edge = param(P_SUN_COS);
  if (sx * param(P_SUN_DIR) + sy * param(P_SUN_DIR + 1) + sz * param(P_SUN_DIR + 2) < edge) return;
  const pdf = 1.0 / (6.283185307179586 * (1.0 - edge));
  const k = (param(P_SUN_SURFACES) * pdf * bsdfPdf) / (bsdfPdf + sunChance * pdf);
  gatherFrom(SUN, ox, oy, oz, sx, sy, sz, Infinity, br * k * param(P_SUN_E), bg * k * param(P_SUN_E + 1), bb * k * param(P_SUN_E + 2));
}

/** Walks down the nodes of the light tree whose bounds the ray meets. */
function meetTree(): void {
  const stack = scratch + SCRATCH_OPEN_NODES;
  store<i32>(stack, 0);
  let depth = 1;
  while (depth > 0) {
    depth--;
    const node = load<i32>(stack + ((<usize>depth) << 2));
    const p = lightNode(node);
    const cx = word(p, LT_CENTRE) - ox,
      cy = word(p, LT_CENTRE + 1) - oy,
      cz = word(p, LT_CENTRE + 2) - oz;
    const r = word(p, LT_RADIUS);
    const along = cx * sx + cy * sy + cz * sz;
    const d2 = cx * cx + cy * cy + cz * cz;
    if (d2 > r * r && (along <= 0.0 || d2 - along * along > r * r)) continue;
    const first = wordInt(p, LT_FIRST),
      second = wordInt(p, LT_SECOND);
    if (first < 0) {
      // triangles that shine are met by the path as it goes on
      if (second < local && isMet(second)) meet(second, chanceOfLeaf(node));
      continue;
    }
    store<i32>(stack + ((<usize>depth) << 2), second);
    store<i32>(stack + ((<usize>depth) << 2), first, 4);
    depth += 2;
  }
}

/** Adds light i where the ray meets it. @param chance that a light sample of the vertex was of this light */
function meet(i: i32, chance: f64): void {
  if (!crosses(i)) return;
  const k = (lightParam(i, L_SURFACES) * hitShare * bsdfPdf) / (bsdfPdf + chance * hitPdf);
  if (!(k > 0.0)) return;
  gatherFrom(
    i,
    ox,
    oy,
    oz,
    sx,
    sy,
    sz,
    hitDistance,
    br * k * lightParam(i, L_INTENSITY),
    bg * k * lightParam(i, L_INTENSITY + 1),
    bb * k * lightParam(i, L_INTENSITY + 2),
  );
}

/** Set by crosses(): how far away, luminance as a share of the light's intensity, density of light samples in this direction (1/sr). */
let hitDistance: f64 = 0.0,
  hitShare: f64 = 0.0,
  hitPdf: f64 = 0.0;
/** Place on a rectangle or disk across its axes, m. */
let hitS: f64 = 0.0,
  hitT: f64 = 0.0;

/** Whether the ray (o, d) meets light i. */
function crosses(i: i32): bool {
  const kind = lightParamInt(i, L_KIND);
  const ax = lightParam(i, L_AXIS),
    ay = lightParam(i, L_AXIS + 1),
    az = lightParam(i, L_AXIS + 2);
  let distance = Infinity;
  let share = 1.0,
    pdf = 0.0;
  if (kind == LIGHT_DISTANT) {
    const edge = lightParam(i, L_COS_OUTER);
    if (dx * ax + dy * ay + dz * az < edge) return false;
    pdf = 1.0 / (6.283185307179586 * (1.0 - edge));
    // its intensity is an illuminance
    share = pdf;
  } else {
    const px = lightParam(i, L_POSITION) - ox,
      py = lightParam(i, L_POSITION + 1) - oy,
      pz = lightParam(i, L_POSITION + 2) - oz;
    const r = lightParam(i, L_SIZE);
    if (kind == LIGHT_SPHERE) {
      const d2 = px * px + py * py + pz * pz;
      const along = px * dx + py * dy + pz * dz;
      const gap2 = d2 - along * along;
      if (d2 <= r * r || along <= 0.0 || gap2 >= r * r) return false;
      distance = along - Math.sqrt(r * r - gap2);
      const sin2 = (r * r) / d2;
      pdf = (1.0 + Math.sqrt(1.0 - sin2)) / (6.283185307179586 * sin2);
    } else if (kind == LIGHT_TUBE) {
      const half = lightParam(i, L_SIZE + 1);
      // across the axis: the nearer crossing of the side
      const along = px * ax + py * ay + pz * az,
        turn = dx * ax + dy * ay + dz * az;
      const qx = px - along * ax,
        qy = py - along * ay,
        qz = pz - along * az;
      const ex = dx - turn * ax,
        ey = dy - turn * ay,
        ez = dz - turn * az;
      const e2 = ex * ex + ey * ey + ez * ez;
      if (!(e2 > MIN_COSINE * MIN_COSINE)) return false;
      const b = qx * ex + qy * ey + qz * ez,
        c = qx * qx + qy * qy + qz * qz - r * r;
      const root = b * b - e2 * c;
      // from inside nothing is seen: its side shines outwards
      if (c <= 0.0 || root <= 0.0) return false;
      distance = (b - Math.sqrt(root)) / e2;
      if (!(distance > 0.0) || Math.abs(distance * turn - along) > half) return false;
      const cos = Math.sqrt(root) / r;
      pdf = (distance * distance) / Math.max(MIN_COSINE, cos * lightParam(i, L_AREA));
    } else {
      const facing = dx * ax + dy * ay + dz * az;
      let c = -facing;
      if (lightParamInt(i, L_BOTH_SIDES) != 0) c = Math.abs(c);
      if (!(c > MIN_COSINE)) return false;
      distance = (px * ax + py * ay + pz * az) / facing;
      if (!(distance > 0.0)) return false;
      const hx = distance * dx - px,
        hy = distance * dy - py,
        hz = distance * dz - pz;
      const s = hx * lightParam(i, L_U) + hy * lightParam(i, L_U + 1) + hz * lightParam(i, L_U + 2),
        t = hx * lightParam(i, L_V) + hy * lightParam(i, L_V + 1) + hz * lightParam(i, L_V + 2);
      hitS = s;
      hitT = t;
      if (kind == LIGHT_RECTANGLE) {
        if (Math.abs(s) > r || Math.abs(t) > lightParam(i, L_SIZE + 1)) return false;
      } else if (kind == LIGHT_DISK) {
        if (s * s + t * t > r * r) return false;
      } else unreachable();
      const n = lightParam(i, L_BEAM);
      if (n > 0.0) share = Math.pow(c, n);
      pdf = (distance * distance) / (c * lightParam(i, L_AREA));
    }
    if (lightParamInt(i, L_FADE) != 0) share *= fade(i, distance);
  }
  hitDistance = distance;
  hitShare = share;
  hitPdf = pdf;
  return true;
}

/** Whether the lens sees any light as what it is. */
export let seesAny: bool = false;

/** The next light from `i` on that the ray from the lens meets before `far`; -1 where there is none. Sets emitterAt and emitterR, emitterG, emitterB. */
export function nextSeen(i: i32, x: f64, y: f64, z: f64, ux: f64, uy: f64, uz: f64, far: f64): i32 {
  ox = x;
  oy = y;
  oz = z;
  dx = ux;
  dy = uy;
  dz = uz;
  for (; i < local; i++) {
    if (lightParamInt(i, L_VISIBLE) == 0 || !crosses(i) || hitDistance >= far) continue;
    emitterAt = hitDistance;
    imageOf(i, hitS, hitT);
    emitterR = hitShare * imageR * lightParam(i, L_INTENSITY);
    emitterG = hitShare * imageG * lightParam(i, L_INTENSITY + 1);
    emitterB = hitShare * imageB * lightParam(i, L_INTENSITY + 2);
    return i;
  }
  return -1;
}
/** Set by nextSeen(): distance (m), and luminance by band. */
export let emitterAt: f64 = 0.0;
export let emitterR: f64 = 0.0;
export let emitterG: f64 = 0.0;
export let emitterB: f64 = 0.0;
