/**
 * The surface under a hit: glTF 2.0 metal–rough with diffuse transmission. GGX with height-correlated
 * Smith shadowing; half vectors from the visible normals (Heitz 2018).
 */
import {
  P_TRIANGLES, P_MATERIALS, TRIANGLE_SIZE, TRIANGLE_MATERIAL, MATERIAL_SIZE, P_GLOW_COUNT, G_TRIANGLE, G_AREA, RAY_INDIRECT,
  RAY_REFLECTION,
} from "../../scene/layout";
import { param, word } from "./state";
import { glowRecord } from "./lights";
import { hitU, hitV, hitTriangle, hitBlock, hitLane } from "./bvh";
import { random } from "./random";

/** Shading normal and geometric normal, both on the side the ray came from. */
export let nx: f64 = 0.0;
export let ny: f64 = 0.0;
export let nz: f64 = 0.0;
export let gx: f64 = 0.0;
export let gy: f64 = 0.0;
export let gz: f64 = 0.0;
/** Emission (cd/m²) of the surface. */
export let emR: f64 = 0.0;
export let emG: f64 = 0.0;
export let emB: f64 = 0.0;

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

// direction back along the ray
let vx: f64 = 0.0, vy: f64 = 0.0, vz: f64 = 0.0;
let baseR: f64 = 0.0, baseG: f64 = 0.0, baseB: f64 = 0.0;
let f0R: f64 = 0.0, f0G: f64 = 0.0, f0B: f64 = 0.0;
let diffuse: f64 = 1.0; // share of the diffuse lobe: 1 - metalness
let specular: bool = false;
let alpha: f64 = 1.0;
let through: f64 = 0.0; // diffuse transmission
let specularChance: f64 = 0.0;
let f90: f64 = 1.0;

const INV_PI: f64 = 0.3183098861837907;

/** Reads the surface last hit by a ray travelling along d. */
export function readSurface(dx: f64, dy: f64, dz: f64): void {
  const lane = <usize>hitLane << 2;
  const e1x = <f64>load<f32>(hitBlock + lane, 48), e1y = <f64>load<f32>(hitBlock + lane, 64), e1z = <f64>load<f32>(hitBlock + lane, 80);
  const e2x = <f64>load<f32>(hitBlock + lane, 96), e2y = <f64>load<f32>(hitBlock + lane, 112), e2z = <f64>load<f32>(hitBlock + lane, 128);
  gx = e1y * e2z - e1z * e2y;
  gy = e1z * e2x - e1x * e2z;
  gz = e1x * e2y - e1y * e2x;
  const l = 1.0 / Math.sqrt(gx * gx + gy * gy + gz * gz);
  const side = gx * dx + gy * dy + gz * dz > 0.0 ? -l : l;
  gx *= side;
  gy *= side;
  gz *= side;
  const tri = <usize>param(P_TRIANGLES) + <usize>hitTriangle * TRIANGLE_SIZE;
  const u = <f64>hitU, v = <f64>hitV, w = 1.0 - u - v;
  nx = w * <f64>load<f32>(tri) + u * <f64>load<f32>(tri, 12) + v * <f64>load<f32>(tri, 24);
  ny = w * <f64>load<f32>(tri, 4) + u * <f64>load<f32>(tri, 16) + v * <f64>load<f32>(tri, 28);
  nz = w * <f64>load<f32>(tri, 8) + u * <f64>load<f32>(tri, 20) + v * <f64>load<f32>(tri, 32);
  const nl = Math.sqrt(nx * nx + ny * ny + nz * nz);
  if (nl > 1e-9) {
    const s = nx * gx + ny * gy + nz * gz < 0.0 ? -1.0 / nl : 1.0 / nl;
    nx *= s;
    ny *= s;
    nz *= s;
    // a shading normal turned away from the viewer would lose energy: fall back to the face
    if (nx * dx + ny * dy + nz * dz > -1e-3) {
      nx = gx;
      ny = gy;
      nz = gz;
    }
  } else {
    nx = gx;
    ny = gy;
    nz = gz;
  }
  vx = -dx;
  vy = -dy;
  vz = -dz;
  const m = <usize>param(P_MATERIALS) + <usize>load<i32>(tri, TRIANGLE_MATERIAL) * MATERIAL_SIZE;
  baseR = <f64>load<f32>(m);
  baseG = <f64>load<f32>(m, 4);
  baseB = <f64>load<f32>(m, 8);
  const metal = <f64>load<f32>(m, 12);
  emR = <f64>load<f32>(m, 16);
  emG = <f64>load<f32>(m, 20);
  emB = <f64>load<f32>(m, 24);
  const rough = <f64>load<f32>(m, 28);
  const weight = <f64>load<f32>(m, 32);
  through = <f64>load<f32>(m, 36);
  diffuse = 1.0 - metal;
  const dielectric = 0.04 * weight;
  f0R = dielectric + (baseR - dielectric) * metal;
  f0G = dielectric + (baseG - dielectric) * metal;
  f0B = dielectric + (baseB - dielectric) * metal;
  f90 = weight + (1.0 - weight) * metal;
  specular = metal > 0.0 || weight > 0.0;
  alpha = Math.max(1e-3, rough * rough);
  specularChance = 0.0;
  if (specular) {
    const c = Math.max(0.0, nx * vx + ny * vy + nz * vz);
    const k = Math.pow(1.0 - c, 5.0);
    const s = (f0R + f0G + f0B) / 3.0 + (f90 - (f0R + f0G + f0B) / 3.0) * k;
    const d = (diffuse * (baseR + baseG + baseB)) / 3.0;
    specularChance = s + d > 0.0 ? Math.max(0.1, Math.min(0.9, s / (s + d))) : 0.5;
    if (diffuse == 0.0) specularChance = 1.0;
  }
}

/** True where nothing can be reflected or passed on. */
export function isBlack(): bool {
  return baseR <= 0.0 && baseG <= 0.0 && baseB <= 0.0 && !specular;
}

// @ts-ignore: decorator
@inline
function smithLambda(c: f64): f64 {
  const c2 = c * c;
  return 0.5 * (Math.sqrt(1.0 + (alpha * alpha * (1.0 - c2)) / Math.max(c2, 1e-12)) - 1.0);
}

/** Set by bsdf() and sampleBsdf(): density of the direction (1/sr). */
export let bsdfPdf: f64 = 0.0;
/** Kind of ray that sampleBsdf() began (RAY_*). */
export let sampledRay: i32 = RAY_INDIRECT;

/** Index of an emissive triangle among those sampled as lights; -1 where it is not one. */
export function glowIndex(triangle: i32): i32 {
  let low = 0, high = <i32>param(P_GLOW_COUNT) - 1;
  while (low <= high) {
    const middle = (low + high) >> 1;
    const t = <i32>word(glowRecord(middle), G_TRIANGLE);
    if (t == triangle) return middle;
    if (t < triangle) low = middle + 1;
    else high = middle - 1;
  }
  return -1;
}
export function glowArea(i: i32): f64 { return word(glowRecord(i), G_AREA); }

/** BSDF × cosine towards the unit direction l (fR, fG, fB). */
export function bsdf(lx: f64, ly: f64, lz: f64): void {
  fR = 0.0;
  fG = 0.0;
  fB = 0.0;
  bsdfPdf = 0.0;
  const cl = nx * lx + ny * ly + nz * lz;
  const cv = nx * vx + ny * vy + nz * vz;
  const face = gx * lx + gy * ly + gz * lz;
  if (cl <= 0.0) {
    if (through <= 0.0 || face >= 0.0) return;
    const k = diffuse * through * INV_PI * -cl;
    fR = baseR * k;
    fG = baseG * k;
    fB = baseB * k;
    bsdfPdf = (1.0 - specularChance) * through * INV_PI * -cl;
    return;
  }
  if (face <= 0.0) return;
  const reflected = 1.0 - through;
  let dR = baseR, dG = baseG, dB = baseB;
  bsdfPdf = (1.0 - specularChance) * reflected * cl * INV_PI;
  if (specular) {
    let hx = lx + vx, hy = ly + vy, hz = lz + vz;
    const il = 1.0 / Math.sqrt(Math.max(1e-18, hx * hx + hy * hy + hz * hz));
    hx *= il;
    hy *= il;
    hz *= il;
    const ch = Math.max(0.0, nx * hx + ny * hy + nz * hz);
    const vh = Math.max(0.0, vx * hx + vy * hy + vz * hz);
    const k = Math.pow(1.0 - vh, 5.0);
    const FR = f0R + (f90 - f0R) * k, FG = f0G + (f90 - f0G) * k, FB = f0B + (f90 - f0B) * k;
    const a2 = alpha * alpha;
    const q = ch * ch * (a2 - 1.0) + 1.0;
    const D = (a2 * INV_PI) / (q * q);
    const lv = smithLambda(cv), ll = smithLambda(cl);
    const G2 = 1.0 / (1.0 + lv + ll);
    const s = (D * G2) / Math.max(4.0 * cv, 1e-9);
    fR = FR * s;
    fG = FG * s;
    fB = FB * s;
    bsdfPdf += (specularChance * D) / ((1.0 + lv) * Math.max(4.0 * cv, 1e-9));
    dR *= 1.0 - FR;
    dG *= 1.0 - FG;
    dB *= 1.0 - FB;
  }
  const k2 = diffuse * reflected * INV_PI * cl;
  fR += dR * k2;
  fG += dG * k2;
  fB += dB * k2;
}

/** Orthonormal frame around n (Duff et al. 2017). */
let t1x: f64 = 0.0, t1y: f64 = 0.0, t1z: f64 = 0.0, t2x: f64 = 0.0, t2y: f64 = 0.0, t2z: f64 = 0.0;
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

/** Draws a direction (sx, sy, sz) and its weight. @returns false where the path ends */
export function sampleBsdf(u: f64, v: f64): bool {
  frame();
  const choose = random();
  sampledRay = choose < specularChance ? RAY_REFLECTION : RAY_INDIRECT;
  if (choose < specularChance) {
    const ax = vx * t1x + vy * t1y + vz * t1z;
    const ay = vx * t2x + vy * t2y + vz * t2z;
    const az = Math.max(1e-6, vx * nx + vy * ny + vz * nz);
    // Heitz 2018, stretched view, sample a disk, project back
    let hx = alpha * ax, hy = alpha * ay, hz = az;
    const hl = 1.0 / Math.sqrt(hx * hx + hy * hy + hz * hz);
    hx *= hl;
    hy *= hl;
    hz *= hl;
    const len = hx * hx + hy * hy;
    let ux = 1.0, uy = 0.0;
    if (len > 1e-12) {
      const il = 1.0 / Math.sqrt(len);
      ux = -hy * il;
      uy = hx * il;
    }
    const wx = -hz * uy, wy = hz * ux, wz = hx * uy - hy * ux;
    const r = Math.sqrt(u), phi = 6.283185307179586 * v;
    const p1 = r * Math.cos(phi);
    let p2 = r * Math.sin(phi);
    const s = 0.5 * (1.0 + hz);
    p2 = (1.0 - s) * Math.sqrt(Math.max(0.0, 1.0 - p1 * p1)) + s * p2;
    const p3 = Math.sqrt(Math.max(0.0, 1.0 - p1 * p1 - p2 * p2));
    let mx = p1 * ux + p2 * wx + p3 * hx, my = p1 * uy + p2 * wy + p3 * hy, mz = p2 * wz + p3 * hz;
    mx *= alpha;
    my *= alpha;
    mz = Math.max(1e-9, mz);
    const ml = 1.0 / Math.sqrt(mx * mx + my * my + mz * mz);
    mx *= ml;
    my *= ml;
    mz *= ml;
    const wxh = mx * t1x + my * t2x + mz * nx, wyh = mx * t1y + my * t2y + mz * ny, wzh = mx * t1z + my * t2z + mz * nz;
    const vh = vx * wxh + vy * wyh + vz * wzh;
    sx = 2.0 * vh * wxh - vx;
    sy = 2.0 * vh * wyh - vy;
    sz = 2.0 * vh * wzh - vz;
  } else {
    const r = Math.sqrt(u), phi = 6.283185307179586 * v;
    const a = r * Math.cos(phi), b = r * Math.sin(phi);
    let c = Math.sqrt(Math.max(1e-12, 1.0 - u));
    const rest = (choose - specularChance) / (1.0 - specularChance);
    if (rest < through) c = -c;
    sx = a * t1x + b * t2x + c * nx;
    sy = a * t1y + b * t2y + c * ny;
    sz = a * t1z + b * t2z + c * nz;
  }
  bsdf(sx, sy, sz);
  if (!(bsdfPdf > 0.0)) return false;
  wR = fR / bsdfPdf;
  wG = fG / bsdfPdf;
  wB = fB / bsdfPdf;
  return true;
}
