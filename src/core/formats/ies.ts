/**
 * Photometric files after IES LM-63 (1986 to 2019): types A, B and C, all symmetries, TILT=NONE, INCLUDE and a file of its own.
 * Candela are absolute.
 */
import { InputError } from "../errors";
import { LP_COLUMNS, LP_ROWS } from "../layout/layout";

export interface Photometry {
  /** First line, such as IESNA:LM-63-2002. */
  version: string;
  /** Keywords such as MANUFAC, in order. */
  keywords: [string, string][];
  type: "A" | "B" | "C";
  /** Degrees. For type C from the downward axis and around it. */
  vertical: number[];
  horizontal: number[];
  /** candela[horizontal][vertical], multipliers and tilt at 0° applied. */
  candela: number[][];
  /** Lumens of the lamps as the header says; -1 stands for absolute photometry. */
  headerLumens: number;
  watts: number;
}

const LIMIT = 4_000_000;

const TILT = /^[^\S\r\n]*TILT[^\S\r\n]*=[^\S\r\n]*(.*?)[^\S\r\n]*$/im;

/** Name of the file that says how the lamp's tilt dims it; null where the photometric file says it itself. */
export function tiltFileOf(text: string): string | null {
  const name = TILT.exec(text)?.[1] ?? "";
  return name === "" || /^(none|include)$/i.test(name) ? null : name;
}

/** A photometric file with the contents of its tilt file in it, so that it stands by itself. */
export const withTilt = (text: string, tilt: string): string => text.replace(TILT, () => `TILT=INCLUDE\n${tilt.trim()}`);

/** Reads a photometric file. @throws InputError saying what is wrong and where */
export function readIes(text: string, what = "photometric file"): Photometry {
  if (text.length > LIMIT) throw new InputError(`${what}: ${text.length} characters, more than the limit of ${LIMIT}`);
  const lines = text.split(/\r\n|\r|\n/);
  let at = 0;
  let version = "LM-63-1986";
  if (/^IES(NA)?:?/i.test(lines[0] ?? "")) version = lines[at++]!.trim();
  const keywords: [string, string][] = [];
  let tilt = "";
  for (; at < lines.length; at++) {
    const line = lines[at]!;
    const tilted = /^\s*TILT\s*=\s*(.*?)\s*$/i.exec(line);
    if (tilted) {
      tilt = tilted[1]!.toUpperCase();
      at++;
      break;
    }
    const keyword = /^\s*\[([A-Z_0-9]+)\]\s*(.*)$/i.exec(line);
    if (keyword) keywords.push([keyword[1]!.toUpperCase(), keyword[2]!.trim()]);
  }
  if (!tilt) throw new InputError(`${what}: has no line TILT=…, so it is not an IES photometric file`);
  if (tilt !== "NONE" && tilt !== "INCLUDE")
    throw new InputError(`${what}: TILT=${tilt} names another file: choose both together, or put that file beside this one`);
  const words = lines.slice(at).flatMap((l, i) => l.split(/[\s,]+/).flatMap((w) => (w ? [{ w, line: at + i + 1 }] : [])));
  let next = 0;
  const number = (name: string): number => {
    const word = words[next++];
    if (!word) throw new InputError(`${what}: ends before ${name}`);
    const v = Number(word.w);
    if (!Number.isFinite(v)) throw new InputError(`${what}: line ${word.line}: ${name} is "${word.w}", not a number`);
    return v;
  };
  const count = (name: string, max: number): number => {
    const v = number(name);
    if (!Number.isInteger(v) || v < 1 || v > max) throw new InputError(`${what}: ${name} is ${v}; whole numbers from 1 to ${max} are read`);
    return v;
  };
  let tiltFactor = 1;
  if (tilt === "INCLUDE") {
    number("the lamp's geometry");
    const n = count("the number of tilt angles", 1000);
    const angles = Array.from({ length: n }, () => number("a tilt angle"));
    const factors = Array.from({ length: n }, () => number("a tilt factor"));
    tiltFactor = interpolate(angles, factors, 0);
  }
  const lamps = number("the number of lamps");
  const lumens = number("the lumens per lamp");
  const multiplier = number("the candela multiplier");
  const nv = count("the number of vertical angles", 2000);
  const nh = count("the number of horizontal angles", 2000);
  const kind = number("the photometric type");
  const type = kind === 1 ? "C" : kind === 2 ? "B" : kind === 3 ? "A" : null;
  if (!type) throw new InputError(`${what}: photometric type ${kind}; 1 (C), 2 (B) and 3 (A) are read`);
  number("the unit of its size");
  for (const side of ["width", "length", "height"]) number(`its ${side}`);
  const ballast = number("the ballast factor");
  // a factor until 1995; then without a meaning, and from 2019 on how the file came about
  const twelfth = number("the ballast-lamp factor or file generation type");
  const lampFactor = Number(/(\d{4})\s*$/.exec(version)?.[1] ?? 1986) < 2002 ? twelfth || 1 : 1;
  const watts = number("the input watts");
  const rising = (angles: number[], name: string): number[] => {
    angles.forEach((a, i) => {
      if (i && !(a > angles[i - 1]!)) throw new InputError(`${what}: ${name} angles do not rise at ${a}°`);
    });
    return angles;
  };
  const vertical = rising(
    Array.from({ length: nv }, () => number("a vertical angle")),
    "vertical",
  );
  const horizontal = rising(
    Array.from({ length: nh }, () => number("a horizontal angle")),
    "horizontal",
  );
  const scale = multiplier * ballast * lampFactor * tiltFactor;
  const candela = horizontal.map((h) =>
    vertical.map((v) => {
      const c = number(`the candela at ${v}° / ${h}°`) * scale;
      if (c < 0) throw new InputError(`${what}: candela at ${v}° / ${h}° are negative`);
      return c;
    }),
  );
  const more = words.slice(next);
  if (more[0] && Number.isFinite(Number(more[0].w)))
    throw new InputError(
      `${what}: line ${more[0].line}: ${more.length} numbers are left over after the last candela: decimal commas, or counts that do not fit`,
    );
  return { version, keywords, type, vertical, horizontal, candela, headerLumens: lumens < 0 ? -1 : lamps * lumens, watts };
}

function interpolate(x: readonly number[], y: readonly number[], at: number): number {
  if (at <= x[0]!) return y[0]!;
  for (let i = 1; i < x.length; i++)
    if (at <= x[i]!) {
      const t = (at - x[i - 1]!) / (x[i]! - x[i - 1]!);
      return y[i - 1]! + t * (y[i]! - y[i - 1]!);
    }
  return y[y.length - 1]!;
}

/** Horizontal angle folded by the symmetry that the table's last angle states. */
function folded(p: Photometry, h: number): number {
  const last = p.horizontal[p.horizontal.length - 1]!,
    first = p.horizontal[0]!;
  if (p.type !== "C") {
    // A and B run from -90 (or 0, then mirrored) to 90
    return first >= 0 ? Math.abs(h) : h;
  }
  h = ((h % 360) + 360) % 360;
  if (last === 0) return 0;
  if (first === 90 && last === 270) return h < 90 ? 180 - h : h > 270 ? 540 - h : h;
  if (last === 90) return h <= 90 ? h : h <= 180 ? 180 - h : h <= 270 ? h - 180 : 360 - h;
  if (last === 180) return h <= 180 ? h : 360 - h;
  return h;
}

/** Candela towards table angles; 0 where the table says nothing. */
function lookUp(p: Photometry, v: number, h: number): number {
  const first = p.vertical[0]!,
    last = p.vertical[p.vertical.length - 1]!;
  if (p.type !== "C" && first >= 0) v = Math.abs(v);
  if (v < first - 1e-9 || v > last + 1e-9) return 0;
  const at = folded(p, h);
  const hs = p.horizontal;
  if (p.type !== "C" && (at < hs[0]! - 1e-9 || at > hs[hs.length - 1]! + 1e-9)) return 0;
  let i = 1;
  while (i < hs.length - 1 && hs[i]! < at) i++;
  const a = interpolate(p.vertical, p.candela[Math.min(i, hs.length - 1) - (hs.length > 1 ? 1 : 0)]!, v);
  if (hs.length === 1) return a;
  const b = interpolate(p.vertical, p.candela[i]!, v);
  const t = Math.max(0, Math.min(1, (at - hs[i - 1]!) / (hs[i]! - hs[i - 1]!)));
  return a + t * (b - a);
}

/**
 * Candela on a grid of whole degrees from (LP_ROWS) and around (LP_COLUMNS) the axis the light is aimed along:
 * for type C its downward axis, for A and B its forward one. 0° around lies along the light's first cross axis.
 */
export function photometryGrid(p: Photometry): Float32Array {
  const out = new Float32Array(LP_ROWS * LP_COLUMNS);
  for (let theta = 0; theta < LP_ROWS; theta++)
    for (let phi = 0; phi < LP_COLUMNS; phi++) {
      let v = theta,
        h = phi;
      if (p.type !== "C") {
        const [t, f] = [(theta * Math.PI) / 180, (phi * Math.PI) / 180];
        // forward, sideways, upwards
        const d = [Math.cos(t), Math.sin(t) * Math.cos(f), Math.sin(t) * Math.sin(f)] as const;
        if (p.type === "A") {
          v = (Math.asin(d[2]) * 180) / Math.PI;
          h = (Math.atan2(d[1], d[0]) * 180) / Math.PI;
        } else {
          // the planes of type B turn about the sideways axis
          v = (Math.atan2(d[2], d[0]) * 180) / Math.PI;
          h = (Math.asin(d[1]) * 180) / Math.PI;
        }
      }
      out[theta * LP_COLUMNS + phi] = lookUp(p, v, h);
    }
  return out;
}

/** Lumens of a photometry: its candela integrated over the sphere. */
export function photometryLumens(p: Photometry): number {
  const grid = photometryGrid(p);
  let sum = 0;
  const solid = (theta: number): number => {
    const low = Math.max(0, theta - 0.5),
      high = Math.min(180, theta + 0.5);
    return ((2 * Math.PI) / LP_COLUMNS) * (Math.cos((low * Math.PI) / 180) - Math.cos((high * Math.PI) / 180));
  };
  for (let theta = 0; theta < LP_ROWS; theta++)
    for (let phi = 0; phi < LP_COLUMNS; phi++) sum += grid[theta * LP_COLUMNS + phi]! * solid(theta);
  return sum;
}
