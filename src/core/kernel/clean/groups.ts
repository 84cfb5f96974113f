/**
 * Light groups: each is filtered by the weights, and blended by the shares, that the sum of all was. What is done is linear but for those, so that the
 * cleaned groups add up to the cleaned sum.
 */
import { NEIGHBOURS, TAKEN, WINDOW, weightBytes } from "./finish";
import { gatherGroupRow } from "./gather";
import { LUMINANCE_A, MODULATION, SUM, WEIGHT, WORK, at, clear, height, step, width } from "./planes";
import { put4 } from "./result";

/** Planes of the group's light and of what is seen of it, in place of sums that are no longer needed, and of its weighted sums. */
const LIGHT: i32 = SUM;
const DIRECT: i32 = LUMINANCE_A;
const FILTERED: i32 = WORK;

/** Rows beyond the tile, above and below, that gatherGroup() is asked for. */
export function groupReach(): i32 {
  return WINDOW;
}

/** Fills row y with a group's light. Follows finish(). */
export function gatherGroup(side: i32, y: i32, from: usize, size: usize, first: i32, columns: i32, group: usize, direct: usize): void {
  gatherGroupRow(side, y, WINDOW, from, size, first, columns, group, direct, LIGHT, DIRECT);
}

/** Filters the gathered group by the weights kept from an address on, and writes its light: four numbers a pixel, the last 0. */
export function finishGroup(weights: usize, to: usize): void {
  for (let k = 0; k < 3; k++) clear(FILTERED + k);
  const plane = step();
  const across = (width + 3) & ~3;
  for (let i = 0; i < NEIGHBOURS; i++) {
    const dy = i / (2 * WINDOW + 1) - WINDOW,
      dx = (i % (2 * WINDOW + 1)) - WINDOW;
    const away = at(LIGHT, dx, dy) - at(LIGHT, 0, 0);
    for (let y = 0; y < height; y++) {
      let w = weights + <usize>i * weightBytes() + ((<usize>(y * across)) << 2);
      let p = at(0, 0, y);
      for (let x = 0; x < width; x += 4, p += 16, w += 16) {
        const weight = v128.load(w);
        if (!v128.any_true(weight)) continue;
        for (let k: usize = 0; k < 3; k++) {
          const sum = p + (<usize>FILTERED + k) * plane;
          v128.store(sum, f32x4.add(v128.load(sum), f32x4.mul(weight, v128.load(p + (<usize>LIGHT + k) * plane + away))));
        }
      }
    }
  }
  const one = f32x4.splat(1.0);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x += 4) {
      const p = at(0, x, y);
      const k = v128.load(p + <usize>TAKEN * plane);
      const w = f32x4.div(k, v128.load(p + <usize>WEIGHT * plane));
      const raw = f32x4.sub(one, k);
      put4(x, y, groupBand(p, 0, raw, w), groupBand(p, 1, raw, w), groupBand(p, 2, raw, w), f32x4.splat(0.0), to);
    }
}

/** Light of a band as it leaves: raw times `raw`, its weighted sum times w, and what is seen directly. */
// @ts-ignore: decorator
@inline
function groupBand(p: usize, band: usize, raw: v128, w: v128): v128 {
  const plane = step();
  const light = f32x4.add(
    f32x4.mul(raw, v128.load(p + (<usize>LIGHT + band) * plane)),
    f32x4.mul(w, v128.load(p + (<usize>FILTERED + band) * plane)),
  );
  return f32x4.add(v128.load(p + (<usize>DIRECT + band) * plane), f32x4.mul(v128.load(p + (<usize>MODULATION + band) * plane), light));
}
