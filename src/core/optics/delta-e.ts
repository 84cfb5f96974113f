/** Differences between colours as the eye judges them: CIEDE2000 (CIE 142-2001; Sharma, Wu, Dalal 2005). */

export type Lab = readonly [L: number, a: number, b: number];

/** White of D65, the illuminant of sRGB, for the 2° observer. */
const WHITE = [0.95047, 1, 1.08883] as const;

/** CIE L*a*b* of linear Rec. 709 light, white at 1. */
export function labOf(r: number, g: number, b: number): Lab {
  const f = (t: number): number => (t > 216 / 24389 ? Math.cbrt(t) : ((24389 / 27) * t + 16) / 116);
  const x = f((0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / WHITE[0]),
    y = f((0.2126729 * r + 0.7151522 * g + 0.072175 * b) / WHITE[1]),
    z = f((0.0193339 * r + 0.119192 * g + 0.9503041 * b) / WHITE[2]);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

const radians = Math.PI / 180;
/** Angle in degrees from 0 to 360; 0 where there is none. */
const hue = (a: number, b: number): number => (a === 0 && b === 0 ? 0 : (Math.atan2(b, a) / radians + 360) % 360);

/** Difference ΔE₀₀ of two colours: about 1 is just seen side by side. */
export function deltaE(one: Lab, other: Lab): number {
  const [L1, a1, b1] = one,
    [L2, a2, b2] = other;
  const mean = (Math.hypot(a1, b1) + Math.hypot(a2, b2)) / 2;
  const G = 0.5 * (1 - Math.sqrt(mean ** 7 / (mean ** 7 + 25 ** 7)));
  const [p1, p2] = [(1 + G) * a1, (1 + G) * a2];
  const [C1, C2] = [Math.hypot(p1, b1), Math.hypot(p2, b2)];
  const [h1, h2] = [hue(p1, b1), hue(p2, b2)];
  const grey = C1 * C2 === 0;
  let dh = grey ? 0 : h2 - h1;
  if (dh > 180) dh -= 360;
  else if (dh < -180) dh += 360;
  const dL = L2 - L1,
    dC = C2 - C1,
    dH = 2 * Math.sqrt(C1 * C2) * Math.sin((dh / 2) * radians);
  const L = (L1 + L2) / 2,
    C = (C1 + C2) / 2;
  const h = grey ? h1 + h2 : Math.abs(h1 - h2) <= 180 ? (h1 + h2) / 2 : h1 + h2 < 360 ? (h1 + h2 + 360) / 2 : (h1 + h2 - 360) / 2;
  const cos = (degrees: number): number => Math.cos(degrees * radians);
  const T = 1 - 0.17 * cos(h - 30) + 0.24 * cos(2 * h) + 0.32 * cos(3 * h + 6) - 0.2 * cos(4 * h - 63);
  const SL = 1 + (0.015 * (L - 50) ** 2) / Math.sqrt(20 + (L - 50) ** 2),
    SC = 1 + 0.045 * C,
    SH = 1 + 0.015 * C * T;
  const RC = 2 * Math.sqrt(C ** 7 / (C ** 7 + 25 ** 7));
  const RT = -Math.sin(60 * Math.exp(-(((h - 275) / 25) ** 2)) * radians) * RC;
  const [l, c, d] = [dL / SL, dC / SC, dH / SH];
  return Math.sqrt(l * l + c * c + d * d + RT * c * d);
}
