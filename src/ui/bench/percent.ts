/** Noise in words. */
import { formatNumber } from "#core/document/quantities";

export function percent(noise: number | null): string {
  return noise === null ? "–" : `${formatNumber(noise * 100, 2)} %`;
}
