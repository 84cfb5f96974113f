/** The clean-up's module: one tile of one side of the light at a time. A module of its own, with a memory of its own. */
import { divideByAir, gatherHalfRow, gatherRow } from "./gather";
import { limitOutliers, measureNoise } from "./outliers";
import { FINISH_REACH, NEIGHBOURS, blendFinish, filterFinish, keepNoWeights, keepWeights, weightBytes } from "./finish";
import { finishGroup, gatherGroup, groupReach } from "./groups";
import { LIVE_REACH, filterLive, keepHalf, storeEnlarged, storeLive } from "./live";
import { first, layOut } from "./planes";

export {
  first,
  layOut,
  divideByAir,
  gatherRow,
  gatherHalfRow,
  keepHalf,
  storeEnlarged,
  keepWeights,
  keepNoWeights,
  weightBytes,
  gatherGroup,
  groupReach,
  finishGroup,
};

/** Neighbours whose weights are kept. */
export function neighbours(): i32 {
  return NEIGHBOURS;
}

/** Filters the gathered tile and writes its light, four numbers a pixel. */
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
