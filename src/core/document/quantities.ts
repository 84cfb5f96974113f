/**
 * Numbers as artists type them: arithmetic, and units of the field's quantity. Everything is turned
 * into the unit the document stores.
 */

export type Quantity = "length" | "coefficient" | "angle" | "share" | "temperature" | "ev" | "count" | "illuminance" | "plain";

/** Metres in a foot and in a mile, exactly (international yard and pound agreement, 1959). */
export const FOOT = 0.3048;
export const MILE = 1609.344;
/** Lux in a footcandle, a lumen on a square foot. */
export const FOOTCANDLE = 1 / (FOOT * FOOT);
const ILLUMINANCE = { lx: 1, klx: 1000, fc: FOOTCANDLE };

/** Factor from each unit to the one stored (m, 1/m, degrees, share, kelvin, lux). */
const UNITS: Record<Quantity, Record<string, number>> = {
  length: { m: 1, cm: 0.01, mm: 0.001, km: 1000, ft: FOOT, in: FOOT / 12, yd: 3 * FOOT, mi: MILE },
  coefficient: { "1/m": 1, "/m": 1, "1/km": 0.001, "/km": 0.001, "1/cm": 100, "/cm": 100, "1/ft": 1 / FOOT, "/ft": 1 / FOOT },
  angle: { "°": 1, deg: 1, rad: 180 / Math.PI },
  share: { "%": 0.01 },
  temperature: { k: 1 },
  ev: { ev: 1, stops: 1, stop: 1 },
  count: {},
  illuminance: ILLUMINANCE,
  plain: { ...ILLUMINANCE, cd: 1, kcd: 1000, "cd/m²": 1, "cd/m2": 1 },
};

/**
 * Evaluates text such as "0.2*2", "3 ft", "(1+2) km", "1/40", "25 %".
 * @param bare what a number without a unit stands for, in the stored unit
 * @returns the number in the stored unit, or null when the text is not a number of this kind
 */
export function parseQuantity(text: string, quantity: Quantity, bare = 1): number | null {
  const source = text.trim().toLowerCase().replace(/,/g, ".").replace(/−/g, "-").replace(/×/g, "*");
  const units = UNITS[quantity];
  // the longest unit that ends the text; arithmetic comes before it
  // a bare share is typed as it is shown: in percent
  let factor = quantity === "share" ? 0.01 : bare;
  let body = source;
  for (const unit of Object.keys(units).sort((a, b) => b.length - a.length)) {
    const rest = source.slice(0, -unit.length).trimEnd();
    if (!source.endsWith(unit) || rest === "") continue;
    // "1/m" also reads as a division left open: keep the number before the unit whole
    if (/[*/+\-(.]$/.test(rest)) continue;
    factor = units[unit]!;
    body = rest;
    break;
  }
  const value = evaluate(body);
  return value === null || !Number.isFinite(value * factor) ? null : value * factor;
}

/** Arithmetic with + - * / and parentheses; null where the text is anything else. */
function evaluate(text: string): number | null {
  let at = 0;
  let depth = 0;
  const skip = (): void => {
    while (text[at] === " ") at++;
  };
  const atom = (): number => {
    skip();
    if (text[at] === "-" || text[at] === "+") {
      const sign = text[at++] === "-" ? -1 : 1;
      if (++depth > 64) return NaN;
      return sign * atom();
    }
    if (text[at] === "(") {
      if (++depth > 64) return NaN;
      at++;
      const v = sum();
      skip();
      if (text[at++] !== ")") return NaN;
      return v;
    }
    const m = /^(\d+\.?\d*|\.\d+)(e[+-]?\d+)?/.exec(text.slice(at, at + 64));
    if (!m) return NaN;
    at += m[0].length;
    return Number(m[0]);
  };
  const product = (): number => {
    let v = atom();
    for (;;) {
      skip();
      if (text[at] === "*") {
        at++;
        v *= atom();
      } else if (text[at] === "/") {
        at++;
        v /= atom();
      } else return v;
    }
  };
  const sum = (): number => {
    let v = product();
    for (;;) {
      skip();
      if (text[at] === "+") {
        at++;
        v += product();
      } else if (text[at] === "-") {
        at++;
        v -= product();
      } else return v;
    }
  };
  if (text.length > 200) return null;
  const v = sum();
  skip();
  return at === text.length && Number.isFinite(v) ? v : null;
}

/** A number with as many digits as matter, without exponent in the usual range. */
export function formatNumber(v: number, digits = 4): string {
  if (v === 0) return "0";
  if (!Number.isFinite(v)) return v > 0 ? "∞" : v < 0 ? "−∞" : "–";
  const a = Math.abs(v);
  if (a >= 1e7 || a < 1e-5) return v.toExponential(2);
  const decimals = Math.max(0, Math.min(6, digits - 1 - Math.floor(Math.log10(a))));
  return v
    .toFixed(decimals)
    .replace(/(\.\d*?)0+$/, "$1")
    .replace(/\.$/, "");
}

/** A number in so many characters, with at least two digits that matter where it is not shorter: for narrow fields. */
export function fittedNumber(v: number, characters: number, digits = 3): string {
  for (let d = digits; d >= 2; d--) {
    const text = formatNumber(v, d);
    if (text.length <= characters) return text;
  }
  const [few, fewer] = [v.toExponential(1), v.toExponential(0)];
  return few.length <= characters ? few : fewer;
}

/** A span of time for people: 1.7 s, 43 s, 10 min 5 s, 2 h 40 min. */
export function durationText(seconds: number): string {
  if (seconds < 59.95) return `${formatNumber(seconds, seconds < 10 ? 2 : 3)} s`;
  const whole = Math.round(seconds);
  if (whole < 3600) return `${Math.floor(whole / 60)} min ${whole % 60} s`;
  const minutes = Math.round(whole / 60);
  return `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

/** Bytes in words. */
export function bytesText(bytes: number): string {
  return bytes < 1e6
    ? `${Math.max(1, Math.round(bytes / 1e3))} kB`
    : bytes < 1e9
      ? `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`
      : `${(bytes / 1e9).toFixed(2)} GB`;
}
