/** Boxes along the axes. */
import { map3, MOST, vector, type V3 } from "./vectors";

/** Least x, y, z, then most. */
export type Box = [number, number, number, number, number, number];

export const leastOf = (b: Readonly<Box>): V3 => [b[0], b[1], b[2]];
export const mostOf = (b: Readonly<Box>): V3 => [b[3], b[4], b[5]];
export const middleOf = (b: Readonly<Box>): V3 => vector((k) => (b[k] + b[MOST[k]]) / 2);
/** Edges. */
export const sizeOf = (b: Readonly<Box>): V3 => vector((k) => b[MOST[k]] - b[k]);

/** Its eight corners; bits of a corner's place in the list say which side along each axis. */
export const cornersOf = (b: Readonly<Box>): V3[] =>
  Array.from({ length: 8 }, (_, i) => map3(leastOf(b), (least, k) => ((i >> k) & 1 ? b[MOST[k]] : least)));
