/** Single to half precision (IEEE 754), to nearest, ties to even: many at once, where a library call each takes a microsecond. */
const single = new Float32Array(1);
const bits = new Uint32Array(single.buffer);

/** Bits of the half nearest to a single-precision number; what is past the largest half becomes infinity. */
export function halfBits(value: number): number {
  single[0] = value;
  const b = bits[0]!;
  const sign = (b >>> 16) & 0x8000;
  const rest = b & 0x7fffffff;
  // infinity, and what is not a number
  if (rest >= 0x7f800000) return sign | (rest > 0x7f800000 ? 0x7e00 : 0x7c00);
  // at and above 65520, halfway past the largest half
  if (rest >= 0x477ff000) return sign | 0x7c00;
  if (rest >= 0x38800000) return sign | ((rest - 0x38000000 + 0xfff + ((rest >>> 13) & 1)) >>> 13);
  // below 2⁻²⁵ nothing is left, and exactly half of the smallest rounds to even
  if (rest <= 0x33000000) return sign;
  const shift = 126 - (rest >>> 23);
  const mantissa = (rest & 0x7fffff) | 0x800000;
  const kept = mantissa >>> shift;
  const lost = mantissa & ((1 << shift) - 1);
  const half = 1 << (shift - 1);
  return sign | (kept + (lost > half || (lost === half && (kept & 1) === 1) ? 1 : 0));
}

/** The number of each of the 65 536 halves by its bits. */
export const HALVES = Float32Array.from({ length: 65536 }, (_, h) => {
  const sign = h & 0x8000 ? -1 : 1;
  const exponent = (h >>> 10) & 31,
    mantissa = h & 0x3ff;
  if (exponent === 31) return mantissa ? NaN : sign * Infinity;
  return sign * (exponent ? (1 + mantissa / 1024) * 2 ** (exponent - 15) : mantissa * 2 ** -24);
});
