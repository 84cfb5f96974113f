/** Lengths that fields of the air take their useful ranges from. */
import { reachOfSet } from "#core/air/reach";
import type { Medium } from "#core/document/schema";
import { useSession } from "./context";

/** Longest distance that matters in this set, m. */
export function useReach(): number {
  return reachOfSet(useSession((s) => s.bounds));
}

export interface MediumFields {
  medium: Medium;
  index: number;
  /** Longest distance that matters in this set, m. */
  reach: number;
  set(change: Partial<Medium>): void;
}
