/** Surfaces that a ray must look at: textures, cut-outs, and panes that light passes straight. */
import { ALPHA_MASK, ALPHA_OPAQUE, WRAP_CLAMP, WRAP_REPEAT } from "../../layout/kinds";
import {
  P_TRIANGLES,
  P_MATERIALS,
  P_UVS,
  P_UVS_SECOND,
  P_COLOURS,
  P_TEXTURES,
  TRIANGLE_SIZE,
  TRIANGLE_PART,
  PART_BITS,
  MATERIAL_SIZE,
  UV_SIZE,
  COLOUR_SIZE,
  TEXTURE_SIZE,
  TEXTURE_WORDS,
  MT_BASE,
  MT_EMISSION,
  MT_OPACITY,
  MT_ALPHA_MODE,
  MT_CUTOFF,
  MT_TRANSMISSION,
  MT_SOLID,
  MT_IOR,
  MT_TEXTURES,
  SLOT_BASE,
  SLOT_EMISSION,
  SLOT_TRANSMISSION,
} from "../../layout/layout";
import { paramAddress } from "./state";
import { random } from "./random";

/** Set by sample(): the texel, 0 … 1, colours linear. */
export let texR: f64 = 1.0;
export let texG: f64 = 1.0;
export let texB: f64 = 1.0;
let texA: f64 = 1.0;

const linear: usize = memory.data(1024);
let ready: bool = false;

/** Table of sRGB bytes as linear light. */
export function prepareFilter(): void {
  if (ready) return;
  for (let i = 0; i < 256; i++) {
    const x = <f64>i / 255.0;
    store<f32>(linear + ((<usize>i) << 2), <f32>(x <= 0.04045 ? x / 12.92 : Math.pow((x + 0.055) / 1.055, 2.4)));
  }
  ready = true;
}

/** Address of the material of a triangle. */
// @ts-ignore: decorator
@inline
export function materialOf(triangle: i32): usize {
  const tri = paramAddress(P_TRIANGLES) + <usize>triangle * TRIANGLE_SIZE;
  return paramAddress(P_MATERIALS) + <usize>(load<u32>(tri, TRIANGLE_PART) & ((1 << PART_BITS) - 1)) * MATERIAL_SIZE;
}
/** Value `i` (M… of the materials' layout) of the material at `m`. */
// @ts-ignore: decorator
@inline
export function material(m: usize, i: i32): f64 {
  return <f64>load<f32>(m + ((<usize>i) << 2));
}

/** Texture coordinates at a place of a triangle: of the first set and of the second. */
let uvU: f64 = 0.0;
let uvV: f64 = 0.0;
let uv2U: f64 = 0.0;
let uv2V: f64 = 0.0;
/** Colour and opacity that the corners give a place of a triangle, over those of its material; white where they have none. */
export let cornerR: f64 = 1.0;
export let cornerG: f64 = 1.0;
export let cornerB: f64 = 1.0;
let cornerA: f64 = 1.0;

/** What the corners of a triangle say at its barycentric coordinates (`u`, `v`): texture coordinates and colour. A set without textures leaves the first as they are. */
export function coordinates(triangle: i32, u: f64, v: f64): void {
  const uvs = paramAddress(P_UVS),
    second = paramAddress(P_UVS_SECOND),
    colours = paramAddress(P_COLOURS);
  const w = 1.0 - u - v;
  if (uvs != 0) {
    const p = uvs + <usize>triangle * UV_SIZE;
    uvU = w * <f64>load<f32>(p) + u * <f64>load<f32>(p, 8) + v * <f64>load<f32>(p, 16);
    uvV = w * <f64>load<f32>(p, 4) + u * <f64>load<f32>(p, 12) + v * <f64>load<f32>(p, 20);
  }
  if (second != 0) {
    const p = second + <usize>triangle * UV_SIZE;
    uv2U = w * <f64>load<f32>(p) + u * <f64>load<f32>(p, 8) + v * <f64>load<f32>(p, 16);
    uv2V = w * <f64>load<f32>(p, 4) + u * <f64>load<f32>(p, 12) + v * <f64>load<f32>(p, 20);
  }
  if (colours == 0) {
    cornerR = 1.0;
    cornerG = 1.0;
    cornerB = 1.0;
    cornerA = 1.0;
    return;
  }
  const p = colours + <usize>triangle * COLOUR_SIZE;
  const k = 1.0 / 65535.0;
  cornerR = k * (w * <f64>load<u16>(p) + u * <f64>load<u16>(p, 8) + v * <f64>load<u16>(p, 16));
  cornerG = k * (w * <f64>load<u16>(p, 2) + u * <f64>load<u16>(p, 10) + v * <f64>load<u16>(p, 18));
  cornerB = k * (w * <f64>load<u16>(p, 4) + u * <f64>load<u16>(p, 12) + v * <f64>load<u16>(p, 20));
  cornerA = k * (w * <f64>load<u16>(p, 6) + u * <f64>load<u16>(p, 14) + v * <f64>load<u16>(p, 22));
}

/** Address of the texture coordinates that a use of a texture goes by, of a triangle. */
export function coordinatesOf(use: usize, triangle: i32): usize {
  return paramAddress(load<f32>(use, 28) != 0.0 ? P_UVS_SECOND : P_UVS) + <usize>triangle * UV_SIZE;
}

/** Address of a material's use of a texture; 0 where it has none. */
// @ts-ignore: decorator
@inline
export function textureUse(m: usize, slot: i32): usize {
  const p = m + ((<usize>(MT_TEXTURES + slot * TEXTURE_WORDS)) << 2);
  return load<f32>(p) < 0.0 ? 0 : p;
}

// @ts-ignore: decorator
@inline
function wrapped(i: i32, n: i32, mode: i32): i32 {
  if (mode == WRAP_CLAMP) return i < 0 ? 0 : i >= n ? n - 1 : i;
  if (mode == WRAP_REPEAT) {
    i %= n;
    return i < 0 ? i + n : i;
  }
  i %= 2 * n;
  if (i < 0) i += 2 * n;
  return i < n ? i : 2 * n - 1 - i;
}

// @ts-ignore: decorator
@inline
function add(at: usize, k: f64, srgb: bool): void {
  if (srgb) {
    texR += k * <f64>load<f32>(linear + ((<usize>load<u8>(at)) << 2));
    texG += k * <f64>load<f32>(linear + ((<usize>load<u8>(at, 1)) << 2));
    texB += k * <f64>load<f32>(linear + ((<usize>load<u8>(at, 2)) << 2));
  } else {
    texR += (k / 255.0) * <f64>load<u8>(at);
    texG += (k / 255.0) * <f64>load<u8>(at, 1);
    texB += (k / 255.0) * <f64>load<u8>(at, 2);
  }
  texA += (k / 255.0) * <f64>load<u8>(at, 3);
}

/** Looks a texture up at the coordinates last computed; sets tex…. */
export function sample(use: usize): void {
  const record = paramAddress(P_TEXTURES) + <usize>load<f32>(use) * TEXTURE_SIZE;
  const second = load<f32>(use, 28) != 0.0;
  const s = second ? uv2U : uvU,
    t = second ? uv2V : uvV;
  const u = <f64>load<f32>(use, 4) * s + <f64>load<f32>(use, 8) * t + <f64>load<f32>(use, 12);
  const v = <f64>load<f32>(use, 16) * s + <f64>load<f32>(use, 20) * t + <f64>load<f32>(use, 24);
  const at = <usize>load<i32>(record);
  const w = load<i32>(record, 4),
    h = load<i32>(record, 8);
  const mu = load<i32>(record, 12),
    mv = load<i32>(record, 16);
  const srgb = load<i32>(record, 20) != 0;
  texR = 0.0;
  texG = 0.0;
  texB = 0.0;
  texA = 0.0;
  // broken coordinates read the first texel
  const ok = u > -1e6 && u < 1e6 && v > -1e6 && v < 1e6;
  const x = ok ? u * <f64>w - 0.5 : 0.0,
    y = ok ? v * <f64>h - 0.5 : 0.0;
  if (load<i32>(record, 24) != 0) {
    add(at + ((<usize>wrapped(<i32>Math.floor(y + 0.5), h, mv) * w + wrapped(<i32>Math.floor(x + 0.5), w, mu)) << 2), 1.0, srgb);
    return;
  }
  const fx = Math.floor(x),
    fy = Math.floor(y);
  const a = x - fx,
    b = y - fy;
  const x0 = wrapped(<i32>fx, w, mu),
    x1 = wrapped(<i32>fx + 1, w, mu);
  const y0 = <usize>(wrapped(<i32>fy, h, mv) * w),
    y1 = <usize>(wrapped(<i32>fy + 1, h, mv) * w);
  add(at + ((y0 + x0) << 2), (1.0 - a) * (1.0 - b), srgb);
  add(at + ((y0 + x1) << 2), a * (1.0 - b), srgb);
  add(at + ((y1 + x0) << 2), (1.0 - a) * b, srgb);
  add(at + ((y1 + x1) << 2), a * b, srgb);
}

/** Share of light that meets a surface at the coordinates last computed. */
function opacity(m: usize): f64 {
  let a = material(m, MT_OPACITY) * cornerA;
  const use = textureUse(m, SLOT_BASE);
  if (use != 0 && <i32>material(m, MT_ALPHA_MODE) != ALPHA_OPAQUE) {
    sample(use);
    a *= texA;
  }
  return a;
}

/** Share of rays that meet a surface at the coordinates last computed: all or none of one that is cut out. */
function covered(m: usize): f64 {
  const mode = <i32>material(m, MT_ALPHA_MODE);
  if (mode == ALPHA_OPAQUE) return 1.0;
  const a = opacity(m);
  return mode == ALPHA_MASK ? (a < material(m, MT_CUTOFF) ? 0.0 : 1.0) : Math.min(1.0, a);
}

/** Whether a ray passes a cut-out at this place; blended surfaces let pass by chance. */
export function isCutout(triangle: i32, u: f32, v: f32): bool {
  const m = materialOf(triangle);
  const mode = <i32>material(m, MT_ALPHA_MODE);
  if (mode == ALPHA_OPAQUE) return false;
  coordinates(triangle, u, v);
  const a = opacity(m);
  return mode == ALPHA_MASK ? a < material(m, MT_CUTOFF) : a < 1.0 && random() >= a;
}

/** Set by shineOf(): cd/m² that a surface gives, less where it is a hole. */
export let surfaceEmissionR: f64 = 0.0;
export let surfaceEmissionG: f64 = 0.0;
export let surfaceEmissionB: f64 = 0.0;
/** What a triangle shines with at a place, as rays that meet it there find it on average. */
export function surfaceEmissionOf(triangle: i32, u: f64, v: f64): void {
  const m = materialOf(triangle);
  coordinates(triangle, u, v);
  const k = covered(m);
  surfaceEmissionR = k * material(m, MT_EMISSION);
  surfaceEmissionG = k * material(m, MT_EMISSION + 1);
  surfaceEmissionB = k * material(m, MT_EMISSION + 2);
  const use = textureUse(m, SLOT_EMISSION);
  if (use == 0 || k <= 0.0) return;
  sample(use);
  surfaceEmissionR *= texR;
  surfaceEmissionG *= texG;
  surfaceEmissionB *= texB;
}

/** Fresnel reflectance of a dielectric of relative index `eta` (inside over outside) at |cos| on the outside. */
export function fresnel(cos: f64, eta: f64): f64 {
  const s2 = (1.0 - cos * cos) / (eta * eta);
  if (s2 >= 1.0) return 1.0;
  const t = Math.sqrt(1.0 - s2);
  const a = (cos - eta * t) / (cos + eta * t),
    b = (t - eta * cos) / (t + eta * cos);
  return 0.5 * (a * a + b * b);
}

/** Reflectance of a thin pane: all the passes between its two faces summed, for each polarisation by itself. */
export function paneReflectance(cos: f64, ior: f64): f64 {
  const s2 = (1.0 - cos * cos) / (ior * ior);
  if (s2 >= 1.0) return 1.0;
  const t = Math.sqrt(1.0 - s2);
  const a = (cos - ior * t) / (cos + ior * t),
    b = (t - ior * cos) / (t + ior * cos);
  return (a * a) / (1.0 + a * a) + (b * b) / (1.0 + b * b);
}

/** Share of transmission of a material at the coordinates last computed. */
export function transmissionOf(m: usize): f64 {
  const t = material(m, MT_TRANSMISSION);
  if (t <= 0.0) return 0.0;
  const use = textureUse(m, SLOT_TRANSMISSION);
  if (use == 0) return t;
  sample(use);
  return t * texR;
}

/** Colour that light keeps as it last passed straight through a triangle. */
export let filteredR: f64 = 0.0;
export let filteredG: f64 = 0.0;
export let filteredB: f64 = 0.0;

/** Sets passed…. @returns whether any light passes straight through a triangle */
export function filterShadow(triangle: i32, u: f32, v: f32, cos: f64): bool {
  const m = materialOf(triangle);
  coordinates(triangle, u, v);
  const through = 1.0 - covered(m);
  let r = through,
    g = through,
    b = through;
  if (material(m, MT_SOLID) == 0.0) {
    const t = transmissionOf(m);
    if (t > 0.0) {
      const k = (1.0 - through) * t * (1.0 - paneReflectance(cos, material(m, MT_IOR)));
      let cr = cornerR * material(m, MT_BASE),
        cg = cornerG * material(m, MT_BASE + 1),
        cb = cornerB * material(m, MT_BASE + 2);
      const use = textureUse(m, SLOT_BASE);
      if (use != 0) {
        sample(use);
        cr *= texR;
        cg *= texG;
        cb *= texB;
      }
      r += k * cr;
      g += k * cg;
      b += k * cb;
    }
  }
  filteredR = r;
  filteredG = g;
  filteredB = b;
  return r + g + b > 0.0;
}
