/** Linear colours as the browser's colour picker has them: sRGB in six hexadecimal digits. */
import { encode } from "#core/film/finish";
import { decodeSrgb } from "#core/optics/colour";

/** Digits of a linear colour; parts above 1 are scaled down together. */
export function hexOf(c: readonly number[]): string {
  const most = Math.max(1, ...c);
  const digits = c.map((v) => Math.round(255 * encode(Math.max(0, v / most))).toString(16));
  return `#${digits.map((d) => d.padStart(2, "0")).join("")}`;
}

/** The linear colour of six digits, times a scale. */
export function colourOfHex(hex: string, scale = 1): [number, number, number] {
  const at = (i: number): number => Number((scale * decodeSrgb(parseInt(hex.slice(i, i + 2), 16) / 255)).toFixed(5));
  return [at(1), at(3), at(5)];
}
