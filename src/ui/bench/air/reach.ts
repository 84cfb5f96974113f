/** Lengths that fields of the air take their useful ranges from. */
import type { Medium } from "#core/document/schema";
import { useSession } from "../context";

/** Longest distance that matters in this set, m. */
export function useReach(): number {
  const bounds = useSession((s) => s.bounds);
  if (!bounds) return 50;
  const d = Math.hypot(bounds[3] - bounds[0], bounds[4] - bounds[1], bounds[5] - bounds[2]);
  return Math.max(0.1, Math.min(d, 500));
}

export interface MediumFields {
  medium: Medium;
  index: number;
  /** Longest distance that matters in this set, m. */
  reach: number;
  set(change: Partial<Medium>): void;
}
