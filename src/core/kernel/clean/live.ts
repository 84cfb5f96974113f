/**
 * The quick filter, for a picture that is looked at while it renders: a few levels of 3 × 3 neighbours ever farther apart, weighed
 * by how alike they are against the noise that is left (after Dammertz et al. 2010 and Schied et al. 2017). As noise falls, so does what it
 * takes from neighbours.
 */
import { AIR_DISTANCE, ALBEDO_LUMINANCE, SIDE_AIR, SURFACE_DISTANCE, VECTOR } from "./gather";
import { FEATURES, HALF_A, HALF_B, SHARE_B, SUM, VARIANCE, at, height, step, stride, width } from "./planes";
import { RESULT_FLOATS, luminanceOf, store4 } from "./result";

const LEVELS: i32 = 4;
/** Levels of which each allows twice the difference: single strong samples would stand on as dots. */
const LENIENT: i32 = 2;
/** Pixels that the levels together reach. */
const REACH: i32 = 15;
/** Standard errors by which the light of neighbours may differ. */
const SURFACE_ERRORS: f32 = 4.0;
const AIR_ERRORS: f32 = 6.0;

/** Pixels beyond the tile that the levels together reach, and one more that is kept. */
export const LIVE_REACH: i32 = REACH + 1;

/** Pixels between neighbours of a level: odd ones after the second, so that what one in two pixels has is not handed on to its like alone. */
function apartOf(l: i32): i32 {
  return l == 0 ? 1 : l == 1 ? 2 : l == 2 ? 5 : 7;
}

/** Planes that the levels go to and fro between: three bands, then variance. */
const HERE: i32 = SUM;
const THERE: i32 = HALF_A;

/** Both halves together, and what else a level reads. */
function together(reach: i32): void {
  const plane = step();
  for (let y = -reach; y < height + reach; y++)
    for (let x = -reach; x < width + reach; x += 4) {
      const p = at(0, x, y);
      const share = v128.load(p + <usize>SHARE_B * plane);
      let to = p + <usize>HERE * plane,
        from = p + <usize>HALF_A * plane;
      for (let k = 0; k < 3; k++) {
        const a = v128.load(from),
          b = v128.load(from + <usize>(HALF_B - HALF_A) * plane);
        v128.store(to, f32x4.add(a, f32x4.mul(share, f32x4.sub(b, a))));
        to += plane;
        from += plane;
      }
      v128.store(to, v128.load(p + <usize>VARIANCE * plane));
    }
}

/** Of each of the eight neighbours: bytes to it, and how much it counts. */
const neighbours = memory.data(8 * 8, 16);

/** Those across an edge count half the middle, those across a corner a quarter. */
function placeNeighbours(apart: i32): void {
  let to = neighbours;
  for (let j = -1; j <= 1; j++)
    for (let i = -1; i <= 1; i++) {
      if (i == 0 && j == 0) continue;
      store<i32>(to, (j * apart * stride + i * apart) << 2);
      store<f32>(to, i == 0 || j == 0 ? 0.5 : 0.25, 4);
      to += 8;
    }
}

/** One level, from one set of planes to the other. */
function level(wide: bool, apart: i32, errors: f32, reach: i32, from: i32, into: i32): void {
  const zero = f32x4.splat(0.0),
    one = f32x4.splat(1.0),
    eighth = f32x4.splat(0.125);
  const plane = step();
  const toFeature = <usize>(FEATURES - from) * plane,
    toAlbedo = <usize>(FEATURES + ALBEDO_LUMINANCE - from) * plane,
    forth = <usize>(into - from) * plane;
  placeNeighbours(apart);
  for (let y = -reach; y < height + reach; y++)
    for (let x = -reach; x < width + reach; x += 4) {
      const p = at(from, x, y);
      let c = p;
      let r = v128.load(c);
      c += plane;
      let gr = v128.load(c);
      c += plane;
      let b = v128.load(c);
      c += plane;
      let v = v128.load(c);
      const g = luminanceOf(r, gr, b);
      const per = f32x4.div(
        eighth,
        f32x4.add(f32x4.mul(f32x4.splat(errors), f32x4.sqrt(v)), f32x4.add(f32x4.mul(f32x4.splat(1e-3), f32x4.abs(g)), f32x4.splat(1e-30))),
      );
      let f = p + toFeature;
      const f0 = v128.load(f);
      f += plane;
      const f1 = v128.load(f);
      f += plane;
      const f2 = v128.load(f);
      f += plane;
      const f3 = v128.load(f);
      const f4: v128 = wide ? v128.load(p + toAlbedo) : zero;
      let sum = one;
      for (let i = 0; i < 8; i++) {
        const q = p + load<usize>(neighbours + ((<usize>i) << 3));
        let t = q + toFeature;
        let d = f32x4.sub(f0, v128.load(t));
        let near = f32x4.mul(d, d);
        t += plane;
        d = f32x4.sub(f1, v128.load(t));
        near = f32x4.add(near, f32x4.mul(d, d));
        t += plane;
        d = f32x4.sub(f2, v128.load(t));
        near = f32x4.add(near, f32x4.mul(d, d));
        t += plane;
        d = f32x4.sub(f3, v128.load(t));
        near = f32x4.pmax(near, f32x4.mul(d, d));
        if (wide) {
          d = f32x4.sub(f4, v128.load(q + toAlbedo));
          near = f32x4.pmax(near, f32x4.mul(d, d));
        }
        t = q;
        const qr = v128.load(t);
        t += plane;
        const qg = v128.load(t);
        t += plane;
        const qb = v128.load(t);
        const n = luminanceOf(qr, qg, qb);
        let w = f32x4.pmax(zero, f32x4.sub(one, f32x4.add(f32x4.mul(f32x4.abs(f32x4.sub(g, n)), per), f32x4.mul(eighth, near))));
        w = f32x4.mul(w, w);
        w = f32x4.mul(w, w);
        w = f32x4.mul(w, w);
        w = f32x4.mul(w, v128.load32_splat(neighbours + ((<usize>i) << 3), 4));
        r = f32x4.add(r, f32x4.mul(w, qr));
        gr = f32x4.add(gr, f32x4.mul(w, qg));
        b = f32x4.add(b, f32x4.mul(w, qb));
        t += plane;
        v = f32x4.add(v, f32x4.mul(f32x4.mul(w, w), v128.load(t)));
        sum = f32x4.add(sum, w);
      }
      const k = f32x4.div(one, sum);
      c = p + forth;
      v128.store(c, f32x4.mul(k, r));
      c += plane;
      v128.store(c, f32x4.mul(k, gr));
      c += plane;
      v128.store(c, f32x4.mul(k, b));
      c += plane;
      v128.store(c, f32x4.mul(f32x4.mul(k, k), v));
    }
}

/** Filters a side. Follows limitOutliers() and measureNoise(), within LIVE_REACH. What is filtered lies in SUM. */
export function filterLive(side: i32): void {
  const wide = side != SIDE_AIR;
  const errors: f32 = side == SIDE_AIR ? AIR_ERRORS : SURFACE_ERRORS;
  together(LIVE_REACH);
  // an even number of levels ends where it began
  let rest = REACH;
  for (let l = 0; l < LEVELS; l++) {
    const apart = apartOf(l);
    const allowed = l < LENIENT ? <f32>2.0 * errors : errors;
    rest -= apart;
    if ((l & 1) == 0) level(wide, apart, allowed, rest + 1, HERE, THERE);
    else level(wide, apart, allowed, rest + 1, THERE, HERE);
  }
}

/** The quick filter does not know its error: too much of it is what the limit on outliers takes away. */
const UNKNOWN: f32 = NaN;

/** Writes filtered light of the tile. */
export function storeLive(to: usize): void {
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x += 4)
      store4(x, y, v128.load(at(HERE, x, y)), v128.load(at(HERE + 1, x, y)), v128.load(at(HERE + 2, x, y)), f32x4.splat(UNKNOWN), to);
}

/** Numbers of a pixel of half the size: bands, square of the error, distance as surfaces compare it; a multiple of four. */
const HALF_PIXEL: i32 = 8;

/** Puts filtered light of a tile of half the size, with one pixel of its margin, where storeEnlarged() finds it. */
export function keepHalf(to: usize): void {
  const scale: f32 = AIR_DISTANCE / SURFACE_DISTANCE;
  for (let y = -1; y <= height; y++)
    for (let x = -1; x <= width; x++) {
      const p = to + ((<usize>(HALF_PIXEL * ((y + 1) * (width + 2) + x + 1))) << 2);
      for (let c = 0; c < 3; c++) store<f32>(p + ((<usize>c) << 2), load<f32>(at(HERE + c, x, y)));
      store<f32>(p, UNKNOWN, 12);
      store<f32>(p, scale * load<f32>(at(FEATURES + VECTOR, x, y)), 16);
    }
}

/** Light of half the size at the tile's own: from the four nearest, weighed by nearness and by how alike their distances are. */
export function storeEnlarged(from: usize, to: usize): void {
  const columns = ((width + 1) >> 1) + 2;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      // the middle of a full pixel lies a quarter beside that of its half pixel
      const hx = (x + 1) >> 1,
        hy = (y + 1) >> 1;
      const d = load<f32>(at(FEATURES + VECTOR, x, y));
      let light = f32x4.splat(0.0);
      let sum: f32 = 0.0;
      for (let j = 0; j < 2; j++)
        for (let i = 0; i < 2; i++) {
          const p = from + ((<usize>(HALF_PIXEL * ((hy + j) * columns + hx + i))) << 2);
          const near: f32 = ((x & 1) == i ? <f32>0.25 : <f32>0.75) * ((y & 1) == j ? <f32>0.25 : <f32>0.75);
          const apart = load<f32>(p, 16) - d;
          const w: f32 = near / (<f32>0.05 + apart * apart);
          light = f32x4.add(light, f32x4.mul(f32x4.splat(w), v128.load(p)));
          sum += w;
        }
      v128.store(to + ((<usize>(RESULT_FLOATS * (y * width + x))) << 2), f32x4.div(light, f32x4.splat(sum)));
    }
}
