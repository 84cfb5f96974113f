/**
 * What a surface does with light: glTF 2.0 metal–rough with diffuse transmission, thin panes, solid glass. GGX with height-correlated Smith
 * shadowing; half vectors from the visible normals (Heitz 2018); refraction through rough faces after Walter et al. 2007.
 */
import { MIN_COSINE, MIN_LENGTH, MIN_LENGTH2, MIN_SINE2, MIN_SPAN } from "./precision";
import {
  RAY_INDIRECT,
  RAY_REFLECTION,
  RAY_REFRACTION,
  MT_SPECULAR,
  MT_SPECULAR_COLOUR,
  MT_DIFFUSE_TRANSMISSION,
  MT_PASSED_COLOUR,
  MT_SOLID,
  MT_IOR,
  MT_GLASS_TABLE,
} from "../../layout/layout";
import { random } from "./random";
import { albedoMean, alpha, ggx, glassAlbedo, mirrored, readAlbedo, schlickMean, setRoughness, smithLambda } from "./microfacets";
import { fresnel, material, paneReflectance, transmissionOf } from "./any-hit-filter";
import { nx, ny, nz, gx, gy, gz, vx, vy, vz, back } from "./hit-frame";

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

let leastRoughness: f64 = 0.0;
/** From here on surfaces are taken to be at least so rough. */
export function setLeastRoughness(r: f64): void {
  leastRoughness = r;
}

/** Takes over the material at `m` where the ray met it, with its base colour, metalness and roughness there. */
export function setSurface(m: usize, r: f64, g: f64, b: f64, metal: f64, rough: f64): void {
  baseR = r;
  baseG = g;
  baseB = b;
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
  setRoughness(Math.max(rough, leastRoughness));
  specularChance = 0.0;
  const cos = Math.max(0.0, nx * vx + ny * vy + nz * vz);
  belowView = 1.0;
  belowMean = 1.0;
  if (specular) readFacets(plainR, plainG, plainB, weight, metal, cos);
  glass = (1.0 - metal) * transmissionOf(m);
  solid = material(m, MT_SOLID) != 0.0;
  if (glass > 0.0) {
    eta = solid && back ? 1.0 / ior : ior;
    paneR = paneReflectance(Math.min(1.0, cos), ior);
    panePick = paneR;
    if (!solid) readAlbedo(cos);
    glassGain = 1.0 / Math.max(0.05, solid ? glassAlbedo(<i32>material(m, MT_GLASS_TABLE), back, cos) : mirrored);
  }
}

/** Whether the surface bounds something solid that light goes through. */
export function isSolidGlass(): bool {
  return glass > 0.0 && solid;
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

/** Whether small lights show in the surface: facets, or panes, smooth enough for them. */
export function isGlossy(): bool {
  return (specular || glass > 0.0) && alpha < GLOSSY;
}
/** Roughness squared below which a surface is glossy. */
const GLOSSY: f64 = 0.25;

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
    const below1 = 1.0 - vh,
      below2 = below1 * below1;
    const k = below2 * below2 * below1;
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
