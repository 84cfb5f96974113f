/** The clean-up's module: one tile of one side of the light at a time. A module of its own, with a memory of its own. */
import { gatherHalfRow, gatherRow } from "./gather";
import { limitOutliers, measureNoise } from "./outliers";
import { FINISH_REACH, blendFinish, filterFinish } from "./finish";
import { LIVE_REACH, filterLive, keepHalf, storeEnlarged, storeLive } from "./live";
import { first, layOut } from "./planes";

export { first, layOut, gatherRow, gatherHalfRow, keepHalf, storeEnlarged };

/** Filters the gathered tile and writes its light, three numbers a pixel. */
export function finish(side: i32, fireflies: f32, strength: f32, to: usize): void {
  limitOutliers(fireflies, FINISH_REACH + 2);
  measureNoise(FINISH_REACH);
  filterFinish(side);
  blendFinish(strength, to);
}

/** Filters the gathered tile quickly; what comes of it is kept by keepHalf() or written by storeLive(). */
export function live(side: i32, fireflies: f32): void {
  limitOutliers(fireflies, LIVE_REACH + 2);
  measureNoise(LIVE_REACH);
  filterLive(side);
}
export { storeLive };
