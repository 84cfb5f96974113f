/** Colour of light: linear Rec. 709 primaries, D65 white. */
import { inverse3, product3, times3, type Matrix3 } from "../math/matrix";

/** Chromaticity of the working space's white. */
const D65: [number, number] = [0.3127, 0.329];

export type Rgb = [number, number, number];

/** Relative luminance of a linear Rec. 709 colour. */
export function luminance(r: number, g: number, b: number): number {
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

/** sRGB-encoded value (0 … 1) to linear light (IEC 61966-2-1). */
export const decodeSrgb = (x: number): number => (x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4);

/** CIE 1931 chromaticity of a black body, kelvin in [1000, 40000] (cubic fit of Kim et al. 2002; extended below 1667 K by its end). */
export function planckianXy(kelvin: number): [number, number] {
  const t = Math.max(1667, Math.min(25000, kelvin));
  const a = 1e9 / (t * t * t),
    b = 1e6 / (t * t),
    c = 1e3 / t;
  const x = t <= 4000 ? -0.2661239 * a - 0.234358 * b + 0.8776956 * c + 0.17991 : -3.0258469 * a + 2.1070379 * b + 0.2226347 * c + 0.24039;
  const y =
    t <= 2222
      ? ((-1.1063814 * x - 1.3481102) * x + 2.18555832) * x - 0.20219683
      : t <= 4000
        ? ((-0.9549476 * x - 1.37418593) * x + 2.09137015) * x - 0.16748867
        : ((3.081758 * x - 5.8733867) * x + 3.75112997) * x - 0.37001483;
  return [x, y];
}

/** Chromaticity of daylight (CIE 15: the D series), kelvin in [4000, 25000]; 6500 is D65, (0.3127, 0.329). */
export function daylightXy(kelvin: number): [number, number] {
  // the series is named by the value that the second radiation constant had in 1931
  const t = (Math.max(4000, Math.min(25000, kelvin)) * 1.438776877) / 1.438;
  const a = 1e9 / (t * t * t),
    b = 1e6 / (t * t),
    c = 1e3 / t;
  const x = t <= 7000 ? -4.607 * a + 2.9678 * b + 0.09911 * c + 0.244063 : -2.0064 * a + 1.9018 * b + 0.24748 * c + 0.23704;
  return [x, -3 * x * x + 2.87 * x - 0.275];
}

/**
 * Chromaticity of white light by its colour temperature: a black body up to 4000 K, as lamps and flames have it, daylight from 5000 K,
 * and between them from one to the other. 6500 K is the white of the working space.
 */
export function whiteXy(kelvin: number): [number, number] {
  const share = Math.max(0, Math.min(1, (kelvin - 4000) / 1000));
  if (share === 0) return planckianXy(kelvin);
  const day = kelvin === 6500 ? D65 : daylightXy(kelvin);
  if (share === 1) return day;
  const body = planckianXy(kelvin);
  return [body[0] + share * (day[0] - body[0]), body[1] + share * (day[1] - body[1])];
}

/** CIE 1960 coordinates (u, v) of a chromaticity, in which distances from the line of white light are told, and back. */
const toUv = ([x, y]: readonly [number, number]): [number, number] => [(4 * x) / (12 * y - 2 * x + 3), (6 * y) / (12 * y - 2 * x + 3)];
const fromUv = ([u, v]: readonly [number, number]): [number, number] => [(3 * u) / (2 * u - 8 * v + 4), (2 * v) / (2 * u - 8 * v + 4)];

/** Where white light of a temperature lies in (u, v), and which way from there is greener: across the line, of length 1. */
function whiteLine(kelvin: number): { at: [number, number]; greener: [number, number] } {
  const at = toUv(whiteXy(kelvin));
  const [a, b] = [toUv(whiteXy(0.998 * kelvin)), toUv(whiteXy(1.002 * kelvin))];
  const [du, dv] = [a[0] - b[0], a[1] - b[1]];
  const length = Math.hypot(du, dv);
  return { at, greener: [-dv / length, du / length] };
}

/** Farthest from the line of white light that a tint goes, in (u, v). */
export const MOST_TINT = 0.05;

/** Chromaticity of light beside the line of white light: `tint` (Duv) is its distance in CIE 1960 (u, v), above 0 greener. */
export function tintedXy(kelvin: number, tint: number): [number, number] {
  if (tint === 0) return whiteXy(kelvin);
  const { at, greener } = whiteLine(kelvin);
  return fromUv([at[0] + tint * greener[0], at[1] + tint * greener[1]]);
}

/** Temperature (K) and tint of the light that a colour is nearest to; null for what is no colour of light. */
export function whiteOf(colour: Rgb): { kelvin: number; tint: number } | null {
  const [x, y, z] = times3(inverse3(TO_RGB), colour);
  const sum = x + y + z;
  if (!(sum > 0) || !(y > 0)) return null;
  const [u, v] = toUv([x / sum, y / sum]);
  // how far the colour lies towards warmer light, along the line
  const warmer = (kelvin: number): number => {
    const { at, greener } = whiteLine(kelvin);
    return (u - at[0]) * greener[1] - (v - at[1]) * greener[0];
  };
  let [low, high] = [1700, 24900];
  for (let i = 0; i < 50; i++) {
    const middle = Math.sqrt(low * high);
    if (warmer(middle) > 0) high = middle;
    else low = middle;
  }
  const kelvin = Math.sqrt(low * high);
  const { at, greener } = whiteLine(kelvin);
  const tint = (u - at[0]) * greener[0] + (v - at[1]) * greener[1];
  return { kelvin, tint: Math.max(-MOST_TINT, Math.min(MOST_TINT, tint)) };
}

function xyzOf([x, y]: [number, number]): Rgb {
  return [x / y, 1, (1 - x - y) / y];
}

const TO_RGB: Matrix3 = [3.2404542, -1.5371385, -0.4985314, -0.969266, 1.8760108, 0.041556, 0.0556434, -0.2040259, 1.0572252];

/** XYZ (D65 white, Y = 1) to linear Rec. 709. */
export const xyzToRgb = (xyz: Rgb): Rgb => times3(TO_RGB, xyz);

/** Colour of white light of a temperature ({@link whiteXy}) with luminance 1, negative parts (outside Rec. 709) set to 0. */
export function temperatureRgb(kelvin: number): Rgb {
  if (kelvin === 6500) return [1, 1, 1];
  const rgb = xyzToRgb(xyzOf(whiteXy(kelvin))).map((v) => Math.max(0, v)) as Rgb;
  const y = luminance(...rgb);
  return [rgb[0] / y, rgb[1] / y, rgb[2] / y];
}

const BRADFORD: Matrix3 = [0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296];

/**
 * Matrix (row-major 3×3, linear Rec. 709 to itself) that makes light of `kelvin` and `tint` ({@link tintedXy}) neutral: Bradford adaptation
 * from that white to D65. At 6500 K, without tint, it is the identity.
 */
export function whiteBalanceMatrix(kelvin: number, tint = 0): Matrix3 {
  if (kelvin === 6500 && tint === 0) return [1, 0, 0, 0, 1, 0, 0, 0, 1];
  const from = times3(BRADFORD, xyzOf(tintedXy(kelvin, tint)));
  const neutral = times3(BRADFORD, xyzOf(D65));
  const scale: Matrix3 = [neutral[0] / from[0], 0, 0, 0, neutral[1] / from[1], 0, 0, 0, neutral[2] / from[2]];
  return product3(TO_RGB, product3(inverse3(BRADFORD), product3(scale, product3(BRADFORD, inverse3(TO_RGB)))));
}

/** CIE 1931 chromaticities of red, green, blue and white of Rec. 709 (x, y each). */
export const REC709: readonly number[] = [0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329];

/**
 * Matrix from linear light of other primaries to linear Rec. 709, the white adapted (Bradford); null where both are alike.
 * @param c CIE 1931 chromaticities of red, green, blue and white (x, y each)
 */
export function fromPrimaries(c: readonly number[]): Matrix3 | null {
  const [rx = 0, ry = 0, gx = 0, gy = 0, bx = 0, by = 0, wx = 0, wy = 0] = c;
  if (REC709.every((v, i) => Math.abs(v - (c[i] ?? 0)) < 1e-3) || ![ry, gy, by, wy].every((y) => Math.abs(y) > 1e-6)) return null;
  const [r, g, b, w] = [xyzOf([rx, ry]), xyzOf([gx, gy]), xyzOf([bx, by]), xyzOf([wx, wy])];
  const columns: Matrix3 = [r[0], g[0], b[0], r[1], g[1], b[1], r[2], g[2], b[2]];
  const [sr, sg, sb] = times3(inverse3(columns), w);
  const toXyz = product3(columns, [sr, 0, 0, 0, sg, 0, 0, 0, sb]);
  const [from, to] = [times3(BRADFORD, w), times3(BRADFORD, xyzOf(D65))];
  const scale: Matrix3 = [to[0] / from[0], 0, 0, 0, to[1] / from[1], 0, 0, 0, to[2] / from[2]];
  const adapted = product3(inverse3(BRADFORD), product3(scale, BRADFORD));
  const out = product3(TO_RGB, product3(adapted, toXyz));
  return out.every(Number.isFinite) ? out : null;
}
