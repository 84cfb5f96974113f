/**
 * The surface under a hit: glTF 2.0 metal–rough with textures and diffuse transmission, thin panes, solid glass.
 * GGX with height-correlated Smith shadowing; half vectors from the visible normals (Heitz 2018); refraction
 * through rough faces after Walter et al. 2007.
 */
import {
  EDGE_ERROR,
  HIT_ERROR,
  MIN_COSINE,
  MIN_DETERMINANT,
  MIN_FACING,
  MIN_LENGTH,
  MIN_LENGTH2,
  MIN_NORMAL,
  MIN_SINE2,
  MIN_SPAN,
} from "./precision";
import {
  P_TRIANGLES,
  TRIANGLE_SIZE,
  FLAT_NORMAL,
  P_EMISSIVE_COUNT,
  E_TRIANGLE,
  E_AREA,
  RAY_INDIRECT,
  RAY_REFLECTION,
  RAY_REFRACTION,
  MT_BASE,
  MT_METALLIC,
  MT_EMISSION,
  MT_ROUGHNESS,
  MT_SPECULAR,
  MT_SPECULAR_COLOUR,
  MT_DIFFUSE_TRANSMISSION,
  MT_PASSED_COLOUR,
  MT_SOLID,
  MT_IOR,
  MT_ABSORPTION,
  MT_GLASS_TABLE,
  MT_NORMAL_SCALE,
  MT_HOLDOUT,
  SLOT_BASE,
  SLOT_METALLIC_ROUGHNESS,
  SLOT_NORMAL,
  SLOT_EMISSION,
  INSTANCE_FORWARD,
  INSTANCE_MIRRORS,
} from "../../layout/layout";
import { paramAddress, paramInt, word, wordInt } from "./state";
import { hitT, hitU, hitV, hitTriangle, hitEdges, hitTurn, hitInstance } from "./bvh";
import { random } from "./random";
import { emissiveRecord } from "./lights";
import { albedoMean, alpha, ggx, glassAlbedo, mirrored, readAlbedo, schlickMean, setRoughness, smithLambda } from "./microfacets";
import {
  coordinates,
  coordinatesOf,
  cornerR,
  cornerG,
  cornerB,
  fresnel,
  material,
  materialOf,
  paneReflectance,
  sample,
  textureUse,
  transmissionOf,
  texR,
  texG,
  texB,
} from "./any-hit-filter";

/** Shading normal and geometric normal, both on the side the ray came from. */
export let nx: f64 = 0.0;
export let ny: f64 = 0.0;
export let nz: f64 = 0.0;
export let gx: f64 = 0.0;
export let gy: f64 = 0.0;
export let gz: f64 = 0.0;
/** How far (m) the point last met may lie off its surface by rounding, besides what its coordinates' size does (POSITION_ERROR). */
export let positionError: f64 = 0.0;
/** Share of a coordinate that rounding may take, with room to spare. */
/** Emission (cd/m²) of the surface. */
export let emR: f64 = 0.0;
export let emG: f64 = 0.0;
export let emB: f64 = 0.0;
/** Absorption (1/m) of the solid that the ray came through, 0 where it came from outside. */
export let insideR: f64 = 0.0;
export let insideG: f64 = 0.0;
export let insideB: f64 = 0.0;

/** Set by bsdf(): value × cosine per band. */
export let fR: f64 = 0.0;
export let fG: f64 = 0.0;
export let fB: f64 = 0.0;
/** Set by sampleBsdf(): direction and weight (value × cosine / density). */
export let sx: f64 = 0.0;
export let sy: f64 = 0.0;
export let sz: f64 = 0.0;
export let wR: f64 = 0.0;
export let wG: f64 = 0.0;
export let wB: f64 = 0.0;
/** Set by bsdf() and sampleBsdf(): density of the direction (1/sr); PASSED where light goes straight on. */
export let bsdfPdf: f64 = 0.0;
/** Kind of ray that sampleBsdf() began (RAY_*). */
export let sampledRay: i32 = RAY_INDIRECT;
/** Stands for the density of a single direction. */
export const DELTA_PDF: f64 = 1e20;

// direction back along the ray
let vx: f64 = 0.0,
  vy: f64 = 0.0,
  vz: f64 = 0.0;
let baseR: f64 = 0.0,
  baseG: f64 = 0.0,
  baseB: f64 = 0.0;
let f0R: f64 = 0.0,
  f0G: f64 = 0.0,
  f0B: f64 = 0.0;
let diffuse: f64 = 1.0; // share of the diffuse lobe: 1 - metalness
let specular: bool = false;
/** Schlick's formula for the plain body under the metal: at the normal and at the grazing angle. */
let d0: f64 = 0.0,
  d90: f64 = 1.0;
/** What facets give back after several bounces, as a share of what they lose in one: of the body, and per band of all. */
let manyBody: f64 = 0.0;
let manyR: f64 = 0.0,
  manyG: f64 = 0.0,
  manyB: f64 = 0.0;
/** What one bounce loses: seen from the viewer, and over its mean. */
let lostView: f64 = 0.0,
  lostMean: f64 = 1.0;
/** What facets of the body leave to what is below them: seen from the viewer, over its mean. */
let belowView: f64 = 1.0,
  belowMean: f64 = 1.0;
/** Factor that gives back what facets of glass lose. */
let glassGain: f64 = 1.0;
let through: f64 = 0.0; // diffuse transmission, and its colour
let passedR: f64 = 0.0,
  passedG: f64 = 0.0,
  passedB: f64 = 0.0;
let specularChance: f64 = 0.0;
let f90: f64 = 1.0;
/** Share of light that glass passes or refracts. */
let glass: f64 = 0.0;
let solid: bool = false;
/** Index on the far side over that on the side the ray came from. */
let eta: f64 = 1.5;
let paneR: f64 = 0.0;
/** Chance that a pane throws back what is drawn from it. */
let panePick: f64 = 0.0;

const INV_PI: f64 = 0.3183098861837907;

/** Index of an emissive triangle among those sampled as lights; -1 where it is not one. */
export function emissiveIndex(triangle: i32): i32 {
  let low = 0,
    high = paramInt(P_EMISSIVE_COUNT) - 1;
  while (low <= high) {
    const middle = (low + high) >> 1;
    const t = wordInt(emissiveRecord(middle), E_TRIANGLE);
    if (t == triangle) return middle;
    if (t < triangle) low = middle + 1;
    else high = middle - 1;
  }
  return -1;
}
/** Area (m²) of an emissive triangle. */
export function emissiveArea(i: i32): f64 {
  return word(emissiveRecord(i), E_AREA);
}

/** Adds w times the normal of a code (scene/normals.ts) as it is in the scene; nothing for that of the face. */
// @ts-ignore: decorator
@inline
function addNormal(code: i32, w: f64): void {
  if (code == FLAT_NORMAL) return;
  let x = <f64>((code << 16) >> 16) * (1.0 / 32767.0),
    y = <f64>(code >> 16) * (1.0 / 32767.0);
  let z = 1.0 - Math.abs(x) - Math.abs(y);
  if (z < 0.0) {
    const t = x;
    x = (1.0 - Math.abs(y)) * (t >= 0.0 ? 1.0 : -1.0);
    y = (1.0 - Math.abs(t)) * (y >= 0.0 ? 1.0 : -1.0);
  }
  if (hitInstance != 0) {
    // normals go by the inverse transposed
    const p = hitInstance,
      a = x,
      b = y,
      c = z;
    x = <f64>load<f32>(p) * a + <f64>load<f32>(p, 16) * b + <f64>load<f32>(p, 32) * c;
    y = <f64>load<f32>(p, 4) * a + <f64>load<f32>(p, 20) * b + <f64>load<f32>(p, 36) * c;
    z = <f64>load<f32>(p, 8) * a + <f64>load<f32>(p, 24) * b + <f64>load<f32>(p, 40) * c;
  }
  const k = w / Math.sqrt(x * x + y * y + z * z);
  nx += k * x;
  ny += k * y;
  nz += k * z;
}

// edges of the triangle last hit, in the scene
let e1x: f64 = 0.0,
  e1y: f64 = 0.0,
  e1z: f64 = 0.0,
  e2x: f64 = 0.0,
  e2y: f64 = 0.0,
  e2z: f64 = 0.0;

/** Brings the edges of a shared triangle from the frame of its place into the scene. */
function instanceEdges(place: usize): void {
  const f = place + INSTANCE_FORWARD;
  let x = e1x,
    y = e1y,
    z = e1z;
  e1x = <f64>load<f32>(f) * x + <f64>load<f32>(f, 4) * y + <f64>load<f32>(f, 8) * z;
  e1y = <f64>load<f32>(f, 16) * x + <f64>load<f32>(f, 20) * y + <f64>load<f32>(f, 24) * z;
  e1z = <f64>load<f32>(f, 32) * x + <f64>load<f32>(f, 36) * y + <f64>load<f32>(f, 40) * z;
  x = e2x;
  y = e2y;
  z = e2z;
  e2x = <f64>load<f32>(f) * x + <f64>load<f32>(f, 4) * y + <f64>load<f32>(f, 8) * z;
  e2y = <f64>load<f32>(f, 16) * x + <f64>load<f32>(f, 20) * y + <f64>load<f32>(f, 24) * z;
  e2z = <f64>load<f32>(f, 32) * x + <f64>load<f32>(f, 36) * y + <f64>load<f32>(f, 40) * z;
}

/** Reads the surface last hit by a ray travelling along d. */
export function readSurface(dx: f64, dy: f64, dz: f64): void {
  e1x = <f64>load<f32>(hitEdges);
  e1y = <f64>load<f32>(hitEdges, 16);
  e1z = <f64>load<f32>(hitEdges, 32);
  e2x = <f64>load<f32>(hitEdges, 48);
  e2y = <f64>load<f32>(hitEdges, 64);
  e2z = <f64>load<f32>(hitEdges, 80);
  const tri = paramAddress(P_TRIANGLES) + <usize>hitTriangle * TRIANGLE_SIZE;
  const u = <f64>hitU,
    v = <f64>hitV,
    w = 1.0 - u - v;
  nx = 0.0;
  ny = 0.0;
  nz = 0.0;
  addNormal(load<i32>(tri), w);
  addNormal(load<i32>(tri, 4), u);
  addNormal(load<i32>(tri, 8), v);
  if (hitInstance != 0) instanceEdges(hitInstance);
  // measured: two to four times the worst that rounding does (docs/physics.md)
  positionError =
    HIT_ERROR * <f64>hitT + EDGE_ERROR * (Math.abs(e1x) + Math.abs(e1y) + Math.abs(e1z) + Math.abs(e2x) + Math.abs(e2y) + Math.abs(e2z));
  gx = e1y * e2z - e1z * e2y;
  gy = e1z * e2x - e1x * e2z;
  gz = e1x * e2y - e1y * e2x;
  const l = 1.0 / Math.sqrt(gx * gx + gy * gy + gz * gz);
  const turned = gx * dx + gy * dy + gz * dz > 0.0;
  const side = turned ? -l : l;
  // corners that are mirrored turn the other way about
  const back = turned != (hitInstance != 0 && load<i32>(hitInstance, INSTANCE_MIRRORS) != 0);
  gx *= side;
  gy *= side;
  gz *= side;
  let nl = Math.sqrt(nx * nx + ny * ny + nz * nz);
  if (!(nl > MIN_NORMAL)) {
    nx = gx;
    ny = gy;
    nz = gz;
    nl = 1.0;
  }
  const m = materialOf(hitTriangle);
  coordinates(hitTriangle, u, v);
  const s = nx * gx + ny * gy + nz * gz < 0.0 ? -1.0 / nl : 1.0 / nl;
  nx *= s;
  ny *= s;
  nz *= s;
  const bumps = textureUse(m, SLOT_NORMAL);
  if (bumps != 0) bump(bumps, material(m, MT_NORMAL_SCALE), turned);
  // a shading normal turned away from the viewer would lose energy: fall back to the face
  if (!(nx * dx + ny * dy + nz * dz < -MIN_FACING)) {
    nx = gx;
    ny = gy;
    nz = gz;
  }
  vx = -dx;
  vy = -dy;
  vz = -dz;
  baseR = cornerR * material(m, MT_BASE);
  baseG = cornerG * material(m, MT_BASE + 1);
  baseB = cornerB * material(m, MT_BASE + 2);
  holdout = material(m, MT_HOLDOUT) != 0.0;
  let metal = material(m, MT_METALLIC);
  let rough = material(m, MT_ROUGHNESS);
  emR = material(m, MT_EMISSION);
  emG = material(m, MT_EMISSION + 1);
  emB = material(m, MT_EMISSION + 2);
  let use = textureUse(m, SLOT_BASE);
  if (use != 0) {
    sample(use);
    baseR *= texR;
    baseG *= texG;
    baseB *= texB;
  }
  use = textureUse(m, SLOT_METALLIC_ROUGHNESS);
  if (use != 0) {
    sample(use);
    rough *= texG;
    metal *= texB;
  }
  use = textureUse(m, SLOT_EMISSION);
  if (use != 0 && emR + emG + emB > 0.0) {
    sample(use);
    emR *= texR;
    emG *= texG;
    emB *= texB;
  }
  const weight = material(m, MT_SPECULAR);
  const ior = material(m, MT_IOR);
  through = material(m, MT_DIFFUSE_TRANSMISSION);
  const passed = material(m, MT_PASSED_COLOUR);
  passedR = passed < 0.0 ? baseR : passed;
  passedG = passed < 0.0 ? baseG : material(m, MT_PASSED_COLOUR + 1);
  passedB = passed < 0.0 ? baseB : material(m, MT_PASSED_COLOUR + 2);
  diffuse = 1.0 - metal;
  const r0 = (ior - 1.0) / (ior + 1.0);
  const plainR = weight * Math.min(1.0, r0 * r0 * material(m, MT_SPECULAR_COLOUR)),
    plainG = weight * Math.min(1.0, r0 * r0 * material(m, MT_SPECULAR_COLOUR + 1)),
    plainB = weight * Math.min(1.0, r0 * r0 * material(m, MT_SPECULAR_COLOUR + 2));
  f0R = plainR + (baseR - plainR) * metal;
  f0G = plainG + (baseG - plainG) * metal;
  f0B = plainB + (baseB - plainB) * metal;
  f90 = weight + (1.0 - weight) * metal;
  specular = metal > 0.0 || weight > 0.0;
  setRoughness(rough);
  specularChance = 0.0;
  const cos = Math.max(0.0, nx * vx + ny * vy + nz * vz);
  belowView = 1.0;
  belowMean = 1.0;
  if (specular) readFacets(plainR, plainG, plainB, weight, metal, cos);
  glass = (1.0 - metal) * transmissionOf(m);
  solid = material(m, MT_SOLID) != 0.0;
  insideR = 0.0;
  insideG = 0.0;
  insideB = 0.0;
  if (glass > 0.0) {
    eta = solid && back ? 1.0 / ior : ior;
    paneR = paneReflectance(Math.min(1.0, cos), ior);
    panePick = paneR;
    if (!solid) readAlbedo(cos);
    glassGain = 1.0 / Math.max(0.05, solid ? glassAlbedo(<i32>material(m, MT_GLASS_TABLE), back, cos) : mirrored);
    if (solid && back) {
      insideR = material(m, MT_ABSORPTION);
      insideG = material(m, MT_ABSORPTION + 1);
      insideB = material(m, MT_ABSORPTION + 2);
    }
  }
}

/** Mean reflectance over the hemisphere by Schlick's formula. */
// @ts-ignore: decorator
@inline
function schlickAverage(f0: f64, grazing: f64): f64 {
  return f0 + (grazing - f0) * (1.0 / 21.0);
}

/** Share of what one bounce loses that further bounces bring back, by the mean reflectance (Kulla and Conty 2017). */
// @ts-ignore: decorator
@inline
function manyBounces(mean: f64, e: f64): f64 {
  return (mean * mean * e) / Math.max(MIN_SPAN, 1.0 - mean * (1.0 - e));
}

/** What the facets give back and leave, from the viewer and in the mean: bsdf() shares out the rest. */
function readFacets(plainR: f64, plainG: f64, plainB: f64, weight: f64, metal: f64, cos: f64): void {
  // what is below goes by the brightest band, so that no band gives back more than it gets
  d0 = Math.max(plainR, Math.max(plainG, plainB));
  d90 = weight;
  readAlbedo(cos);
  const e = mirrored,
    k = schlickMean;
  const mean = albedoMean(0),
    meanK = albedoMean(1);
  lostView = Math.max(0.0, 1.0 - e);
  lostMean = Math.max(MIN_SPAN, 1.0 - mean);
  manyBody = manyBounces(schlickAverage(d0, d90), mean);
  manyR = (1.0 - metal) * manyBounces(schlickAverage(plainR, d90), mean) + metal * manyBounces(schlickAverage(baseR, 1.0), mean);
  manyG = (1.0 - metal) * manyBounces(schlickAverage(plainG, d90), mean) + metal * manyBounces(schlickAverage(baseG, 1.0), mean);
  manyB = (1.0 - metal) * manyBounces(schlickAverage(plainB, d90), mean) + metal * manyBounces(schlickAverage(baseB, 1.0), mean);
  belowView = Math.max(0.0, 1.0 - bodyAlbedo(e, k));
  belowMean = Math.max(MIN_SPAN, 1.0 - (d0 * mean + (d90 - d0) * meanK + manyBody * (1.0 - mean)));
  const f0 = (f0R + f0G + f0B) / 3.0;
  const s = e * (f0 + (f90 - f0) * k);
  const d = (diffuse * (baseR + baseG + baseB) * belowView + (manyR + manyG + manyB) * lostView) / 3.0;
  specularChance = s + d > 0.0 ? Math.max(0.1, Math.min(diffuse > 0.0 ? 0.9 : 1.0, s / (s + d))) : 0.5;
}

/** Share of light that the facets of the plain body give back, by what mirrors in their place do. */
// @ts-ignore: decorator
@inline
function bodyAlbedo(e: f64, k: f64): f64 {
  return e * (d0 + (d90 - d0) * k) + manyBody * (1.0 - e);
}

/** Turns the shading normal by a normal map; tangents from the texture coordinates of the triangle. */
function bump(use: usize, scale: f64, turned: bool): void {
  const p = coordinatesOf(use, hitTriangle);
  // edges go from the corner that is the pair's first
  const first = p + ((<usize>hitTurn) << 3),
    second = p + ((<usize>((hitTurn + 1) % 3)) << 3),
    third = p + ((<usize>((hitTurn + 2) % 3)) << 3);
  const u0 = <f64>load<f32>(first),
    v0 = <f64>load<f32>(first, 4);
  const u1 = <f64>load<f32>(second) - u0,
    v1 = <f64>load<f32>(second, 4) - v0;
  const u2 = <f64>load<f32>(third) - u0,
    v2 = <f64>load<f32>(third, 4) - v0;
  const det = u1 * v2 - u2 * v1;
  if (!(Math.abs(det) > MIN_DETERMINANT)) return;
  let tx = (e1x * v2 - e2x * v1) / det,
    ty = (e1y * v2 - e2y * v1) / det,
    tz = (e1z * v2 - e2z * v1) / det;
  const d = tx * nx + ty * ny + tz * nz;
  tx -= d * nx;
  ty -= d * ny;
  tz -= d * nz;
  const l = Math.sqrt(tx * tx + ty * ty + tz * tz);
  if (!(l > MIN_DETERMINANT)) return;
  tx /= l;
  ty /= l;
  tz /= l;
  // v grows downwards in glTF, so that the map's green lies against it; the far side of a sheet turns it over
  const hand = (det < 0.0 ? -1.0 : 1.0) * (turned ? -1.0 : 1.0);
  const bx = hand * (ny * tz - nz * ty),
    by = hand * (nz * tx - nx * tz),
    bz = hand * (nx * ty - ny * tx);
  sample(use);
  const a = (2.0 * texR - 1.0) * scale,
    b = (2.0 * texG - 1.0) * scale,
    c = Math.max(MIN_FACING, 2.0 * texB - 1.0);
  const mx = a * tx + b * bx + c * nx,
    my = a * ty + b * by + c * ny,
    mz = a * tz + b * bz + c * nz;
  const k = 1.0 / Math.sqrt(mx * mx + my * my + mz * mz);
  if (!(k < 1e9)) return;
  nx = mx * k;
  ny = my * k;
  nz = mz * k;
}

/** Base colour of the surface last read. */
export function albedoR(): f64 {
  return baseR;
}
/** Base colour at the surface, green. */
export function albedoG(): f64 {
  return baseG;
}
/** Base colour at the surface, blue. */
export function albedoB(): f64 {
  return baseB;
}

/** True where the lens sees black: a holdout. */
export let holdout: bool = false;

/** True where nothing can be reflected or passed on. */
export function isBlack(): bool {
  const lets = through > 0.0 && passedR + passedG + passedB > 0.0;
  return baseR <= 0.0 && baseG <= 0.0 && baseB <= 0.0 && !specular && glass <= 0.0 && !lets;
}

/** Tint of a thin pane, and the chance to go through it (isPane). */
export let paneTintR: f64 = 0.0;
export let paneTintG: f64 = 0.0;
export let paneTintB: f64 = 0.0;
export let paneChance: f64 = 0.0;
/** Whether the surface is thin glass; its tint is left in paneTintR … B, and the chance to go through in paneChance. */
export function isPane(): bool {
  if (glass <= 0.0 || solid) return false;
  const k = glass * (1.0 - paneR);
  paneTintR = k * baseR;
  paneTintG = k * baseG;
  paneTintB = k * baseB;
  paneChance = Math.max(paneTintR, Math.max(paneTintG, paneTintB));
  return paneChance > 0.0;
}

/** From here on only what the pane throws back is drawn from it: what passes straight was taken care of. */
export function withoutDelta(): void {
  panePick = 1.0;
}

/** Refraction and reflection of a solid's face: adds to f… and bsdfPdf, weighed by `share` and by the chance of the lobe. */
function glassBsdf(lx: f64, ly: f64, lz: f64, share: f64): void {
  const cl = nx * lx + ny * ly + nz * lz;
  const cv = nx * vx + ny * vy + nz * vz;
  const face = gx * lx + gy * ly + gz * lz;
  if (cv <= 0.0 || cl == 0.0 || cl * face <= 0.0) return;
  const reflects = cl > 0.0;
  // the half vector lies on the viewer's side
  const k = reflects ? 1.0 : eta;
  let hx = vx + k * lx,
    hy = vy + k * ly,
    hz = vz + k * lz;
  const hl = Math.sqrt(hx * hx + hy * hy + hz * hz);
  if (!(hl > MIN_SINE2)) return;
  hx /= hl;
  hy /= hl;
  hz /= hl;
  if (hx * nx + hy * ny + hz * nz < 0.0) {
    hx = -hx;
    hy = -hy;
    hz = -hz;
  }
  const vh = vx * hx + vy * hy + vz * hz,
    lh = lx * hx + ly * hy + lz * hz;
  if (vh <= 0.0 || (!reflects && lh >= 0.0)) return;
  const D = ggx(hx * nx + hy * ny + hz * nz);
  const lv = smithLambda(cv),
    ll = smithLambda(cl);
  const G1 = 1.0 / (1.0 + lv);
  const F = fresnel(vh, eta);
  if (reflects) {
    const G2 = 1.0 / (1.0 + lv + ll);
    const s = (share * F * D) / (4.0 * cv);
    const k = glassGain * s * G2;
    fR += k;
    fG += k;
    fB += k;
    bsdfPdf += s * G1;
    return;
  }
  // separable masking across the face
  const G = (glassGain * G1) / (1.0 + ll);
  const d = vh + eta * lh;
  // without the change of radiance between the two sides: it cancels where light leaves again
  const s = (share * (1.0 - F) * D * vh * -lh * eta * eta) / (cv * d * d);
  fR += s * G * baseR;
  fG += s * G * baseG;
  fB += s * G * baseB;
  bsdfPdf += s * G1;
}

/** BSDF × cosine towards the unit direction l (fR, fG, fB), and its density. Light that passes panes straight is not in it. */
export function bsdf(lx: f64, ly: f64, lz: f64): void {
  fR = 0.0;
  fG = 0.0;
  fB = 0.0;
  bsdfPdf = 0.0;
  const body = 1.0 - glass;
  if (glass > 0.0) {
    if (solid) glassBsdf(lx, ly, lz, glass);
    else paneReflection(lx, ly, lz);
    if (body <= 0.0) return;
  }
  const cl = nx * lx + ny * ly + nz * lz;
  const cv = nx * vx + ny * vy + nz * vz;
  const face = gx * lx + gy * ly + gz * lz;
  if (cl <= 0.0) {
    if (through <= 0.0 || face >= 0.0) return;
    const k = body * diffuse * through * INV_PI * -cl * below(-cl);
    fR += passedR * k;
    fG += passedG * k;
    fB += passedB * k;
    bsdfPdf += body * (1.0 - specularChance) * through * INV_PI * -cl;
    return;
  }
  if (face <= 0.0) return;
  const reflected = 1.0 - through;
  let k2 = body * INV_PI * cl;
  bsdfPdf += (1.0 - specularChance) * reflected * k2;
  if (specular) {
    let hx = lx + vx,
      hy = ly + vy,
      hz = lz + vz;
    const il = 1.0 / Math.sqrt(Math.max(MIN_LENGTH2, hx * hx + hy * hy + hz * hz));
    hx *= il;
    hy *= il;
    hz *= il;
    const ch = Math.max(0.0, nx * hx + ny * hy + nz * hz);
    const vh = Math.max(0.0, vx * hx + vy * hy + vz * hz);
    const k = Math.pow(1.0 - vh, 5.0);
    const FR = f0R + (f90 - f0R) * k,
      FG = f0G + (f90 - f0G) * k,
      FB = f0B + (f90 - f0B) * k;
    const D = ggx(ch);
    const lv = smithLambda(cv),
      ll = smithLambda(cl);
    const G2 = 1.0 / (1.0 + lv + ll);
    const s = (body * D * G2) / Math.max(4.0 * cv, MIN_SPAN);
    fR += FR * s;
    fG += FG * s;
    fB += FB * s;
    bsdfPdf += (body * specularChance * D) / ((1.0 + lv) * Math.max(4.0 * cv, MIN_SPAN));
    // light that left after several bounces, spread as evenly as the diffuse
    readAlbedo(cl);
    const e = mirrored;
    const many = (k2 * lostView * Math.max(0.0, 1.0 - e)) / lostMean;
    fR += manyR * many;
    fG += manyG * many;
    fB += manyB * many;
    k2 *= (belowView * Math.max(0.0, 1.0 - bodyAlbedo(e, schlickMean))) / belowMean;
  }
  k2 *= diffuse * reflected;
  fR += baseR * k2;
  fG += baseG * k2;
  fB += baseB * k2;
}

/** Factor on what is below the facets, for light that comes from or leaves at a cosine: the same from either side. */
function below(cos: f64): f64 {
  if (!specular) return 1.0;
  readAlbedo(cos);
  return (belowView * Math.max(0.0, 1.0 - bodyAlbedo(mirrored, schlickMean))) / belowMean;
}

/** What a thin pane throws back, as a rough mirror of its reflectance. */
function paneReflection(lx: f64, ly: f64, lz: f64): void {
  const cl = nx * lx + ny * ly + nz * lz;
  const cv = nx * vx + ny * vy + nz * vz;
  if (cl <= 0.0 || cv <= 0.0 || gx * lx + gy * ly + gz * lz <= 0.0) return;
  let hx = lx + vx,
    hy = ly + vy,
    hz = lz + vz;
  const il = 1.0 / Math.sqrt(Math.max(MIN_LENGTH2, hx * hx + hy * hy + hz * hz));
  const ch = (nx * hx + ny * hy + nz * hz) * il;
  const lv = smithLambda(cv),
    ll = smithLambda(cl);
  const s = (glass * ggx(ch)) / (4.0 * cv);
  const k = (glassGain * s * paneR) / (1.0 + lv + ll);
  fR += k;
  fG += k;
  fB += k;
  bsdfPdf += (s * panePick) / (1.0 + lv);
}

/** Orthonormal frame around n (Duff et al. 2017). */
let t1x: f64 = 0.0,
  t1y: f64 = 0.0,
  t1z: f64 = 0.0,
  t2x: f64 = 0.0,
  t2y: f64 = 0.0,
  t2z: f64 = 0.0;
function frame(): void {
  const s = nz >= 0.0 ? 1.0 : -1.0;
  const a = -1.0 / (s + nz);
  const b = nx * ny * a;
  t1x = 1.0 + s * nx * nx * a;
  t1y = s * b;
  t1z = -s * nx;
  t2x = b;
  t2y = s + ny * ny * a;
  t2z = -ny;
}

// half vector drawn from the visible normals
let mhx: f64 = 0.0,
  mhy: f64 = 0.0,
  mhz: f64 = 0.0;
function visibleNormal(u: f64, v: f64): void {
  const ax = vx * t1x + vy * t1y + vz * t1z;
  const ay = vx * t2x + vy * t2y + vz * t2z;
  const az = Math.max(MIN_COSINE, vx * nx + vy * ny + vz * nz);
  // Heitz 2018, stretched view, sample a disk, project back
  let hx = alpha * ax,
    hy = alpha * ay,
    hz = az;
  const hl = 1.0 / Math.sqrt(hx * hx + hy * hy + hz * hz);
  hx *= hl;
  hy *= hl;
  hz *= hl;
  const len = hx * hx + hy * hy;
  let ux = 1.0,
    uy = 0.0;
  if (len > MIN_SINE2) {
    const il = 1.0 / Math.sqrt(len);
    ux = -hy * il;
    uy = hx * il;
  }
  const wx = -hz * uy,
    wy = hz * ux,
    wz = hx * uy - hy * ux;
  const r = Math.sqrt(u),
    phi = 6.283185307179586 * v;
  const p1 = r * Math.cos(phi);
  let p2 = r * Math.sin(phi);
  const s = 0.5 * (1.0 + hz);
  p2 = (1.0 - s) * Math.sqrt(Math.max(0.0, 1.0 - p1 * p1)) + s * p2;
  const p3 = Math.sqrt(Math.max(0.0, 1.0 - p1 * p1 - p2 * p2));
  let mx = p1 * ux + p2 * wx + p3 * hx,
    my = p1 * uy + p2 * wy + p3 * hy,
    mz = p2 * wz + p3 * hz;
  mx *= alpha;
  my *= alpha;
  mz = Math.max(MIN_LENGTH, mz);
  const ml = 1.0 / Math.sqrt(mx * mx + my * my + mz * mz);
  mx *= ml;
  my *= ml;
  mz *= ml;
  mhx = mx * t1x + my * t2x + mz * nx;
  mhy = mx * t1y + my * t2y + mz * ny;
  mhz = mx * t1z + my * t2z + mz * nz;
}

/** Reflects at the half vector. @returns false where that leads below the face: what one meeting loses, and no transmission */
function mirror(): bool {
  const vh = vx * mhx + vy * mhy + vz * mhz;
  sx = 2.0 * vh * mhx - vx;
  sy = 2.0 * vh * mhy - vy;
  sz = 2.0 * vh * mhz - vz;
  return nx * sx + ny * sy + nz * sz > 0.0;
}

/** Draws a direction (sx, sy, sz) and its weight. @returns false where the path ends */
export function sampleBsdf(u: f64, v: f64): bool {
  frame();
  let choose = random();
  if (choose < glass) {
    choose = Math.min(0.9999999, choose / glass);
    visibleNormal(u, v);
    if (solid) {
      const vh = vx * mhx + vy * mhy + vz * mhz;
      const F = fresnel(Math.max(0.0, vh), eta);
      if (choose < F) {
        sampledRay = RAY_REFLECTION;
        if (!mirror()) return false;
      } else {
        sampledRay = RAY_REFRACTION;
        const k = 1.0 / eta;
        const t = Math.sqrt(Math.max(0.0, 1.0 - k * k * (1.0 - vh * vh)));
        const c = k * vh - t;
        sx = c * mhx - k * vx;
        sy = c * mhy - k * vy;
        sz = c * mhz - k * vz;
        if (nx * sx + ny * sy + nz * sz >= 0.0) return false;
      }
    } else if (choose < panePick) {
      sampledRay = RAY_REFLECTION;
      if (!mirror()) return false;
    } else {
      sampledRay = RAY_REFRACTION;
      sx = -vx;
      sy = -vy;
      sz = -vz;
      bsdfPdf = DELTA_PDF;
      wR = baseR;
      wG = baseG;
      wB = baseB;
      return true;
    }
  } else {
    choose = Math.min(0.9999999, (choose - glass) / (1.0 - glass));
    sampledRay = choose < specularChance ? RAY_REFLECTION : RAY_INDIRECT;
    if (choose < specularChance) {
      visibleNormal(u, v);
      if (!mirror()) return false;
    } else {
      const r = Math.sqrt(u),
        phi = 6.283185307179586 * v;
      const a = r * Math.cos(phi),
        b = r * Math.sin(phi);
      let c = Math.sqrt(Math.max(MIN_SINE2, 1.0 - u));
      const rest = (choose - specularChance) / (1.0 - specularChance);
      if (rest < through) c = -c;
      sx = a * t1x + b * t2x + c * nx;
      sy = a * t1y + b * t2y + c * ny;
      sz = a * t1z + b * t2z + c * nz;
    }
  }
  bsdf(sx, sy, sz);
  if (!(bsdfPdf > 0.0)) return false;
  wR = fR / bsdfPdf;
  wG = fG / bsdfPdf;
  wB = fB / bsdfPdf;
  return true;
}
