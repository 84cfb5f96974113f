/** What leaves the module: light of a tile, and the error that it is thought to have. */
import { MODULATION, SEEN, at, width } from "./planes";

/** Numbers of a pixel: three bands, then the square of the error of its luminance. */
export const RESULT_FLOATS: i32 = 4;

const R: f32 = 0.2126;
const G: f32 = 0.7152;
const B: f32 = 0.0722;

/** Luminance of four pixels. */
// @ts-ignore: decorator
@inline
export function luminanceOf(r: v128, g: v128, b: v128): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(r, f32x4.splat(R)), f32x4.mul(g, f32x4.splat(G))), f32x4.mul(b, f32x4.splat(B)));
}

/** Writes four pixels from (x, y) on, as far as the tile goes: light as it was divided, with what is seen directly, and the square of its luminance's error. */
// @ts-ignore: decorator
@inline
export function store4(x: i32, y: i32, r: v128, g: v128, b: v128, error2: v128, to: usize): void {
  const mr = v128.load(at(MODULATION, x, y)),
    mg = v128.load(at(MODULATION + 1, x, y)),
    mb = v128.load(at(MODULATION + 2, x, y));
  const m = luminanceOf(mr, mg, mb);
  const vr = f32x4.add(v128.load(at(SEEN, x, y)), f32x4.mul(mr, r)),
    vg = f32x4.add(v128.load(at(SEEN + 1, x, y)), f32x4.mul(mg, g)),
    vb = f32x4.add(v128.load(at(SEEN + 2, x, y)), f32x4.mul(mb, b));
  put4(x, y, vr, vg, vb, f32x4.mul(f32x4.mul(m, m), error2), to);
}

/** Writes four numbers of four pixels from (x, y) on, as far as the tile goes. */
// @ts-ignore: decorator
@inline
export function put4(x: i32, y: i32, vr: v128, vg: v128, vb: v128, e: v128, to: usize): void {
  // from four of a kind to four of a pixel
  const rg0 = v128.shuffle<f32>(vr, vg, 0, 4, 1, 5),
    rg1 = v128.shuffle<f32>(vr, vg, 2, 6, 3, 7);
  const be0 = v128.shuffle<f32>(vb, e, 0, 4, 1, 5),
    be1 = v128.shuffle<f32>(vb, e, 2, 6, 3, 7);
  const p = to + ((<usize>(RESULT_FLOATS * (y * width + x))) << 2);
  v128.store(p, v128.shuffle<f64>(rg0, be0, 0, 2));
  if (x + 1 < width) v128.store(p, v128.shuffle<f64>(rg0, be0, 1, 3), 16);
  if (x + 2 < width) v128.store(p, v128.shuffle<f64>(rg1, be1, 0, 2), 32);
  if (x + 3 < width) v128.store(p, v128.shuffle<f64>(rg1, be1, 1, 3), 48);
}
