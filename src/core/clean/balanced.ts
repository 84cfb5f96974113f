/** Rows of a film whose light groups are balanced before they are cleaned, so that what is cleaned is what is looked at. */
import type { Gain } from "../document/balance";
import { F_AIR, F_AIR_ODD, F_SEEN, F_SURFACES, F_SURFACES_ODD, G_AIR, G_SEEN, G_SURFACES, GROUP_FLOATS } from "../layout/layout";

/** Where a film's light groups begin in a pixel, and their gains in its order. */
export interface Gains {
  first: number;
  air: readonly Gain[];
  surfaces: readonly Gain[];
}

/** Puts the balanced sums of air and surfaces in the place of the rendered ones, halves in the same relation. */
export function balanceRow(row: Float32Array, stride: number, { first, air, surfaces }: Gains): void {
  for (let p = 0; p + stride <= row.length; p += stride)
    for (let k = 0; k < 3; k++) {
      let [lit, shown, seen] = [0, 0, 0];
      for (let i = 0, at = p + first + k; i < air.length; i++, at += GROUP_FLOATS) {
        lit += air[i]![k]! * row[at + G_AIR]!;
        shown += surfaces[i]![k]! * row[at + G_SURFACES]!;
        seen += surfaces[i]![k]! * row[at + G_SEEN]!;
      }
      const wasLit = row[p + F_AIR + k]!,
        // half of what is seen directly is not kept: it has no noise to speak of
        was = row[p + F_SURFACES + k]! - row[p + F_SEEN + k]!;
      row[p + F_AIR_ODD + k]! *= wasLit > 0 ? lit / wasLit : 1;
      row[p + F_SURFACES_ODD + k]! *= was > 0 ? Math.max(0, shown - seen) / was : 1;
      row[p + F_AIR + k] = lit;
      row[p + F_SURFACES + k] = shown;
      row[p + F_SEEN + k] = seen;
    }
}
