/** Luminance of skies. Directions are unit vectors with y up; luminances in cd/m². */
import type { V3 } from "../math/vectors";
import { xyzToRgb, type Rgb } from "./colour";

/** Coefficients a to e of Perez's distribution. */
type Perez = [number, number, number, number, number];

/** Perez's distribution (Perez et al. 1993) at zenith angle θ and angle γ from the sun. */
function perez(k: Readonly<Perez>, cosTheta: number, gamma: number): number {
  const c = Math.max(cosTheta, 0.01);
  const cg = Math.cos(gamma);
  return (1 + k[0] * Math.exp(k[1] / c)) * (1 + k[2] * Math.exp(k[3] * gamma) + k[4] * cg * cg);
}

function coefficients(T: number): { Y: Perez; x: Perez; y: Perez } {
  return {
    Y: [0.1787 * T - 1.463, -0.3554 * T + 0.4275, -0.0227 * T + 5.3251, 0.1206 * T - 2.5771, -0.067 * T + 0.3703],
    x: [-0.0193 * T - 0.2592, -0.0665 * T + 0.0008, -0.0004 * T + 0.2125, -0.0641 * T - 0.8989, -0.0033 * T + 0.0452],
    y: [-0.0167 * T - 0.2608, -0.095 * T + 0.0092, -0.0079 * T + 0.2102, -0.0441 * T - 1.6537, -0.0109 * T + 0.0529],
  };
}

/** Zenith luminance of the clear sky, cd/m²; `thetaSun` is the sun's zenith angle. */
export function clearZenithLuminance(turbidity: number, thetaSun: number): number {
  const chi = (4 / 9 - turbidity / 120) * (Math.PI - 2 * thetaSun);
  return 1000 * Math.max(0, (4.0453 * turbidity - 4.971) * Math.tan(chi) - 0.2155 * turbidity + 2.4192);
}

/**
 * The clear sky (linear Rec. 709, cd/m²) of Preetham, Shirley and Smits 1999, "A Practical Analytic Model for
 * Daylight". Below the horizon the sky of the horizon is held. The model stands for a sun above the horizon;
 * below it the sky fades over twelve degrees, as twilight does.
 * @returns luminance by direction
 */
export function clearSky(turbidity: number, sun: Readonly<V3>): (d: Readonly<V3>) => Rgb {
  const T = turbidity;
  const k = coefficients(T);
  const elevation = Math.asin(Math.max(-1, Math.min(1, sun[1])));
  const held = Math.max(elevation, (1 * Math.PI) / 180);
  const ts = Math.PI / 2 - held;
  const fade = elevation >= held ? 1 : Math.max(0, 1 + (elevation - held) / ((12 * Math.PI) / 180)) ** 3;
  const s: V3 = [sun[0], Math.sin(held), sun[2]];
  const flat = Math.hypot(sun[0], sun[2]);
  if (flat > 1e-9) {
    s[0] = (sun[0] / flat) * Math.cos(held);
    s[2] = (sun[2] / flat) * Math.cos(held);
  }
  const zenith = [
    clearZenithLuminance(T, ts),
    chromaticity(ts, T, [
      [0.00166, -0.00375, 0.00209, 0],
      [-0.02903, 0.06377, -0.03202, 0.00394],
      [0.11693, -0.21196, 0.06052, 0.25886],
    ]),
    chromaticity(ts, T, [
      [0.00275, -0.0061, 0.00317, 0],
      [-0.04214, 0.0897, -0.04153, 0.00516],
      [0.15346, -0.26756, 0.0667, 0.26688],
    ]),
  ] as const;
  const at0 = [perez(k.Y, 1, ts), perez(k.x, 1, ts), perez(k.y, 1, ts)] as const;
  return (d) => {
    const up = Math.max(d[1], 0);
    const gamma = Math.acos(Math.max(-1, Math.min(1, d[0] * s[0] + up * s[1] + d[2] * s[2])));
    const Y = (zenith[0] * perez(k.Y, up, gamma)) / at0[0];
    const x = (zenith[1] * perez(k.x, up, gamma)) / at0[1];
    const y = (zenith[2] * perez(k.y, up, gamma)) / at0[2];
    const rgb = xyzToRgb([(x / y) * Y, Y, ((1 - x - y) / y) * Y]);
    return rgb.map((c) => Math.max(0, c * fade)) as Rgb;
  };
}

/** Coefficients of the third power down to none. */
type Cubic = readonly [number, number, number, number];

function chromaticity(ts: number, T: number, m: readonly [Cubic, Cubic, Cubic]): number {
  const row = ([a, b, c, d]: Cubic): number => a * ts ** 3 + b * ts ** 2 + c * ts + d;
  return row(m[0]) * T * T + row(m[1]) * T + row(m[2]);
}

/** CIE standard overcast sky (ISO 15469): one third at the horizon of what it is at the zenith. @param sine of the elevation */
export function overcast(sine: number): number {
  return (1 + 2 * Math.max(0, sine)) / 3;
}

/** A sky of two colours that rises from a horizon, with ground below it. */
export interface Gradient {
  zenith: Readonly<Rgb>;
  horizon: Readonly<Rgb>;
  /** Degrees. */
  horizonHeight: number;
  horizonBlur: number;
  ground: Readonly<Rgb> | null;
}

/** Sines of elevation: of the horizon, below which there is ground alone, and from which on there is none; -2 without ground. */
export function horizonSines({ horizonHeight, horizonBlur, ground }: Pick<Gradient, "horizonHeight" | "horizonBlur" | "ground">): {
  level: number;
  low: number;
  high: number;
} {
  const sine = (degrees: number): number => Math.sin((Math.max(-90, Math.min(90, degrees)) * Math.PI) / 180);
  const level = sine(horizonHeight);
  if (!ground) return { level, low: -2, high: -2 };
  return { level, low: sine(horizonHeight - horizonBlur / 2), high: sine(horizonHeight + horizonBlur / 2) };
}

/** Share of the sky, 0 to 1, before the ground by the sine of the elevation: smooth between the two of horizonSines. */
export function aboveGround(sine: number, low: number, high: number): number {
  const s = sine >= high ? 1 : sine <= low ? 0 : (sine - low) / (high - low);
  return s * s * (3 - 2 * s);
}

/** The gradient by the sine of the elevation, in its own units: even in the sine from the horizon to the zenith, smooth into the ground. */
export function gradientSky(g: Gradient): (sine: number) => Rgb {
  const { level, low, high } = horizonSines(g);
  return (sine) => {
    const t = Math.max(0, Math.min(1, (sine - level) / (1 - level)));
    const air = aboveGround(sine, low, high);
    return g.zenith.map((z, k) => {
      const above = g.horizon[k]! + (z - g.horizon[k]!) * t;
      return g.ground ? g.ground[k]! + (above - g.ground[k]!) * air : above;
    }) as Rgb;
  };
}
