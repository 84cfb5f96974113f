/**
 * The better filter: means over a window of pixels that look alike, judged by patches of the guide against its variance
 * (non-local means with the variance taken out, after Rousselle et al. 2012) and by what is known of the surfaces. One set of weights serves both
 * halves; from how well one half, filtered, foretells the other comes how much of it is taken (the recipe is in docs/clean-up.md).
 */
import { SIDE_AIR, VECTOR, featuresOf } from "./gather";
import { box, clearSums } from "./outliers";
import {
  FEATURES,
  GUIDE,
  HALF_A,
  HALF_B,
  LUMINANCE_A,
  LUMINANCE_B,
  SHARE_B,
  SUM,
  SUM_A,
  SUM_B,
  VARIANCE,
  WEIGHT,
  WORK,
  at,
  height,
  step,
  width,
} from "./planes";
import { store4 } from "./result";

/** How much of the filtered light was taken, as blendFinish() leaves it. */
export const TAKEN: i32 = FEATURES;

// planes of the judgement, in place of features that are no longer needed
const EXPLAINED: i32 = TAKEN;
const APART: i32 = EXPLAINED + 1;
const LEFT: i32 = APART + 1;
const SQUARE: i32 = LEFT + 1;

/** Pixels each way in which alike ones are sought, and how many there are. */
export const WINDOW: i32 = 5;
export const NEIGHBOURS: i32 = (2 * WINDOW + 1) * (2 * WINDOW + 1);
/** Pixels each way of a patch. */
const SURFACE_PATCH: i32 = 1;
const AIR_PATCH: i32 = 3;
/** How unlike patches may be, as a share of what their noise explains. */
const UNLIKE: f32 = 0.6;
/** Pixels each way over which the error is judged. */
const JUDGED: i32 = 4;
/** What squares of errors are compared with: the light's own, that of its surroundings where it is dark by chance, and how far its halves differ. */
// @ts-ignore: decorator
@inline
function brightness(square: v128, fa: v128, fb: v128, apart: v128): v128 {
  const half = f32x4.splat(0.5);
  const f = f32x4.mul(half, f32x4.add(fa, fb)),
    d = f32x4.mul(half, apart);
  return f32x4.add(f32x4.add(square, f32x4.mul(f, f)), f32x4.add(f32x4.mul(d, d), f32x4.splat(1e-30)));
}

/** Noise as a share of the light about a pixel: up to the first the halves alone decide, from the second on the filter is taken whole. */
const EVIDENT_FROM: f32 = 0.03;
const EVIDENT: f32 = 0.12;
/** Below this a weight is too small to count (its sixteenth power is less than 1e-7). */
const LEAST_ALIKE: f32 = 0.36;
/** Differences below this share of the light are none. */
const NONE: f32 = 1e-6;

/**
 * Differences of the guide between pixels and those (dx, dy) away, less what noise explains, per variance; means over patches go to the
 * third of the work planes.
 */
function comparePatches(dx: i32, dy: i32, patch: i32): void {
  const wide = JUDGED + patch;
  const toVariance = step() * (VARIANCE - GUIDE);
  const away = at(GUIDE, dx, dy) - at(GUIDE, 0, 0);
  const none = f32x4.splat(NONE),
    tiny = f32x4.splat(1e-30),
    scale = f32x4.splat(UNLIKE * UNLIKE);
  for (let y = -wide; y < height + wide; y++) {
    let p = at(GUIDE, -wide, y),
      to = at(WORK, -wide, y);
    for (let x = -wide; x < width + wide; x += 4) {
      const g = v128.load(p),
        h = v128.load(p + away);
      const v = v128.load(p + toVariance),
        w = v128.load(p + away + toVariance);
      const d = f32x4.sub(g, h);
      const least = f32x4.mul(none, f32x4.add(f32x4.mul(g, g), f32x4.mul(h, h)));
      v128.store(
        to,
        f32x4.div(
          f32x4.sub(f32x4.mul(d, d), f32x4.add(v, f32x4.pmin(v, w))),
          f32x4.add(f32x4.add(least, tiny), f32x4.mul(scale, f32x4.add(v, w))),
        ),
      );
      p += 16;
      to += 16;
    }
  }
  box(WORK, WORK + 2, WORK + 1, patch, JUDGED);
}

/** Square of the difference of a plane's numbers at p and `away` from it. */
// @ts-ignore: decorator
@inline
function square(p: usize, away: usize): v128 {
  const d = f32x4.sub(v128.load(p), v128.load(p + away));
  return f32x4.mul(d, d);
}

/** Where the tile's weights are kept, neighbour by neighbour; 0: nowhere. */
let weights: usize = 0;
/** Keeps the weights of the next tile from an address on. */
export function keepWeights(from: usize): void {
  weights = from;
  memory.fill(from, 0, <usize>NEIGHBOURS * weightBytes());
}
/** Keeps none. */
export function keepNoWeights(): void {
  weights = 0;
}
/** Bytes of a neighbour's weights. */
export function weightBytes(): usize {
  return (<usize>(((width + 3) & ~3) * height)) << 2;
}

/** Adds to the sums what lies (dx, dy) away, weighed by how alike it looks. */
function addNeighbours(dx: i32, dy: i32, patch: i32, features: i32): void {
  const kept = weights + <usize>((dy + WINDOW) * (2 * WINDOW + 1) + dx + WINDOW) * weightBytes();
  const across = (width + 3) & ~3;
  comparePatches(dx, dy, patch);
  const one = f32x4.splat(1.0),
    per = f32x4.splat(1.0 / 16.0);
  const plane = step();
  const away = at(0, dx, dy) - at(0, 0, 0);
  const wide = features > VECTOR + 1;
  // offsets of planes are reckoned here once, not for every vector
  const toPatches = <usize>(WORK + 2) * plane,
    toFeatures = <usize>FEATURES * plane,
    toShare = <usize>SHARE_B * plane,
    toA = <usize>HALF_A * plane,
    fromAtoB = <usize>(HALF_B - HALF_A) * plane,
    toLuminance = <usize>LUMINANCE_A * plane,
    toSum = <usize>SUM * plane,
    toSumA = <usize>SUM_A * plane;
  const counted = f32x4.splat(LEAST_ALIKE);
  for (let y = -JUDGED; y < height + JUDGED; y++) {
    let p = at(0, -JUDGED, y);
    for (let x = -JUDGED; x < width + JUDGED; x += 4, p += 16) {
      let w = f32x4.sub(one, f32x4.mul(v128.load(p + toPatches), per));
      if (!v128.any_true(f32x4.gt(w, counted))) continue;
      let f = p + toFeatures;
      let unlike = square(f, away);
      f += plane;
      unlike = f32x4.add(unlike, square(f, away));
      f += plane;
      unlike = f32x4.add(unlike, square(f, away));
      f += plane;
      unlike = f32x4.pmax(unlike, square(f, away));
      if (wide) {
        f += plane;
        let rest = square(f, away);
        f += plane;
        rest = f32x4.add(rest, square(f, away));
        f += plane;
        rest = f32x4.add(rest, square(f, away));
        unlike = f32x4.pmax(unlike, rest);
      }
      w = f32x4.pmin(one, f32x4.pmin(w, f32x4.sub(one, f32x4.mul(unlike, per))));
      // by pixel, not by vector: what is counted must not depend on where a tile begins
      const counts = f32x4.gt(w, counted);
      if (!v128.any_true(counts)) continue;
      w = v128.and(w, counts);
      w = f32x4.mul(w, w);
      w = f32x4.mul(w, w);
      w = f32x4.mul(w, w);
      w = f32x4.mul(w, w);
      if (weights != 0 && y >= 0 && y < height && x >= 0 && x < width) v128.store(kept + ((<usize>(y * across + x)) << 2), w);
      const q = p + away;
      const share = v128.load(q + toShare);
      let from = q + toA,
        to = p + toSum;
      for (let k = 0; k < 3; k++) {
        const a = v128.load(from),
          b = v128.load(from + fromAtoB);
        v128.store(to, f32x4.add(v128.load(to), f32x4.mul(w, f32x4.add(a, f32x4.mul(share, f32x4.sub(b, a))))));
        from += plane;
        to += plane;
      }
      from = q + toLuminance;
      to = p + toSumA;
      v128.store(to, f32x4.add(v128.load(to), f32x4.mul(w, v128.load(from))));
      from += plane;
      to += plane;
      v128.store(to, f32x4.add(v128.load(to), f32x4.mul(w, v128.load(from))));
      to += plane;
      v128.store(to, f32x4.add(v128.load(to), w));
    }
  }
}

/** Filters the planes of a side. Follows limitOutliers() and measureNoise(). */
export function filterFinish(side: i32): void {
  clearSums(SUM, WEIGHT + 1 - SUM);
  const patch = side == SIDE_AIR ? AIR_PATCH : SURFACE_PATCH;
  const features = featuresOf(side);
  for (let dy = -WINDOW; dy <= WINDOW; dy++) for (let dx = -WINDOW; dx <= WINDOW; dx++) addNeighbours(dx, dy, patch, features);
}

/** Reach beyond the tile that filterFinish() needs of what is measured. */
export const FINISH_REACH: i32 = WINDOW + AIR_PATCH + JUDGED;

/** Noise as a share of the light about a pixel, from 0 to 1 between the two bounds. */
// @ts-ignore: decorator
@inline
function evident(variance: v128, square: v128): v128 {
  const relative = f32x4.sqrt(f32x4.div(variance, f32x4.add(square, f32x4.splat(1e-30))));
  const k = f32x4.mul(f32x4.sub(relative, f32x4.splat(EVIDENT_FROM)), f32x4.splat(1.0 / (EVIDENT - EVIDENT_FROM)));
  return f32x4.pmin(f32x4.splat(1.0), f32x4.pmax(f32x4.splat(0.0), k));
}

/**
 * Blends filtered and raw by the errors that the halves show, and writes light of the tile.
 * @param strength 0 writes the raw light (outliers limited), 1 the best of both
 */
export function blendFinish(strength: f32, to: usize): void {
  const zero = f32x4.splat(0.0),
    one = f32x4.splat(1.0),
    half = f32x4.splat(0.5),
    tiny = f32x4.splat(1e-30);
  const plane = step();
  // what (filtered A - A) tells of (B - A), its own size, and the variance of both filtered: per brightness, so that the dark counts too
  for (let y = -JUDGED; y < height + JUDGED; y++)
    for (let x = -JUDGED; x < width + JUDGED; x += 4) {
      const p = at(0, x, y);
      const w = f32x4.div(one, v128.load(p + <usize>WEIGHT * plane));
      const a = v128.load(p + <usize>LUMINANCE_A * plane),
        b = v128.load(p + <usize>LUMINANCE_B * plane);
      const fa = f32x4.mul(w, v128.load(p + <usize>SUM_A * plane)),
        fb = f32x4.mul(w, v128.load(p + <usize>SUM_B * plane));
      const g = v128.load(p + <usize>GUIDE * plane);
      const square = f32x4.mul(g, g);
      const da = f32x4.sub(fa, a),
        db = f32x4.sub(fb, b),
        d = f32x4.sub(b, a),
        f = f32x4.sub(fa, fb);
      const per = f32x4.div(one, brightness(square, fa, fb, d));
      v128.store(p + <usize>EXPLAINED * plane, f32x4.mul(per, f32x4.mul(d, f32x4.sub(da, db))));
      v128.store(p + <usize>APART * plane, f32x4.mul(per, f32x4.add(f32x4.mul(da, da), f32x4.mul(db, db))));
      v128.store(p + <usize>LEFT * plane, f32x4.mul(per, f32x4.mul(f32x4.splat(0.25), f32x4.mul(f, f))));
      v128.store(p + <usize>SQUARE * plane, square);
    }
  box(EXPLAINED, EXPLAINED, WORK, JUDGED, 0);
  box(APART, APART, WORK, JUDGED, 0);
  box(LEFT, LEFT, WORK, JUDGED, 0);
  box(SQUARE, SQUARE, WORK, JUDGED, 0);
  box(VARIANCE, WORK + 1, WORK, JUDGED, 0);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x += 4) {
      const p = at(0, x, y);
      // noise of both together is half that of either
      const noise = f32x4.pmax(zero, f32x4.mul(half, v128.load(p + <usize>EXPLAINED * plane)));
      const rest = f32x4.sub(v128.load(p + <usize>APART * plane), noise);
      let k = f32x4.pmin(one, f32x4.div(noise, f32x4.pmax(tiny, rest)));
      k = f32x4.pmax(k, evident(v128.load(p + <usize>(WORK + 1) * plane), v128.load(p + <usize>SQUARE * plane)));
      const share = v128.load(p + <usize>SHARE_B * plane);
      // one sample has no halves to judge by
      k = v128.bitselect(one, k, f32x4.eq(share, zero));
      k = f32x4.mul(k, f32x4.splat(strength));
      v128.store(p + <usize>TAKEN * plane, k);
      const g = v128.load(p + <usize>GUIDE * plane);
      const w = f32x4.div(one, v128.load(p + <usize>WEIGHT * plane));
      const fa = f32x4.mul(w, v128.load(p + <usize>SUM_A * plane)),
        fb = f32x4.mul(w, v128.load(p + <usize>SUM_B * plane)),
        a = v128.load(p + <usize>LUMINANCE_A * plane),
        b = v128.load(p + <usize>LUMINANCE_B * plane);
      const scale = brightness(f32x4.mul(g, g), fa, fb, f32x4.sub(b, a));
      const bias = f32x4.pmax(zero, f32x4.sub(rest, noise)),
        own = v128.load(p + <usize>LEFT * plane),
        raw = f32x4.sub(one, k);
      const error2 = f32x4.mul(scale, f32x4.add(f32x4.mul(f32x4.mul(k, k), f32x4.add(bias, own)), f32x4.mul(f32x4.mul(raw, raw), noise)));
      const taken = f32x4.mul(k, w);
      store4(x, y, blended(p, 0, share, raw, taken), blended(p, 1, share, raw, taken), blended(p, 2, share, raw, taken), error2, to);
    }
}

/** Raw light of a band times `raw`, and its weighted sum times w. */
// @ts-ignore: decorator
@inline
function blended(p: usize, band: usize, share: v128, raw: v128, w: v128): v128 {
  const plane = step();
  const a = v128.load(p + (<usize>HALF_A + band) * plane),
    b = v128.load(p + (<usize>HALF_B + band) * plane);
  return f32x4.add(
    f32x4.mul(raw, f32x4.add(a, f32x4.mul(share, f32x4.sub(b, a)))),
    f32x4.mul(w, v128.load(p + (<usize>SUM + band) * plane)),
  );
}
