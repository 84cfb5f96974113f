/** Which triangles are worth keeping once where they stand in several places. */

/**
 * Whether `count` triangles in `places` places are kept once. A ray that comes for them is turned into their frame, which costs it time:
 * little is not worth it.
 */
export const isWorthSharing = (count: number, places: number): boolean => count * (places - 1) >= MIN_SPARED;
/** Triangles whose room (64 bytes each) is spared at least: above a megabyte. */
export const MIN_SPARED = 20_000;
