/**
 * What the drawing of a section is made of, apart from the page: its air as a picture (tone by density, tinted by what the air glows with,
 * warm where lamps and sun light it), lines of equal density, and where it cuts the set.
 */
import { contours } from "d3-contour";
import { encode } from "#core/film/finish";
import type { Section } from "#core/section/probe";
import { along } from "#core/section/scale";

/** A section with its drawing. */
export interface DrawnSection extends Section {
  milliseconds: number;
  picture: { pixels: Uint8ClampedArray<ArrayBuffer>; width: number; height: number };
  /** Paths whose units are the field's columns and rows, from below; the label's place is in the same. */
  contours: { share: number; path: string; label: [number, number] | null }[];
  /** A path whose unit is the drawing's width and height, from the top. */
  cutPath: string;
}

/** Draws a section. @param size of its picture, pixels */
export function drawSection(s: Section, [width, height]: readonly [number, number]): Omit<DrawnSection, keyof Section | "milliseconds"> {
  const pixels = new Uint8ClampedArray(4 * width * height);
  paintSection(s, width, height, pixels);
  return { picture: { pixels, width, height }, contours: contoursOf(s), cutPath: cutPath(s) };
}

/** Lines of equal density, as shares of the densest air in the drawing. */
const SHARES = [0.5, 0.1, 0.02];

function contoursOf(s: Section): DrawnSection["contours"] {
  if (!(s.densest > 0)) return [];
  const values = Array.from({ length: s.columns * s.rows }, (_, i) => s.field[4 * i + 3]!);
  const make = contours().size([s.columns, s.rows]);
  // the frame of the drawing is no line of equal density
  const edge = ([x, y]: readonly [number, number]): boolean => x <= 0 || y <= 0 || x >= s.columns || y >= s.rows;
  return SHARES.map((share) => {
    let path = "";
    let label: [number, number] | null = null;
    for (const polygon of make.contour(values, share * s.densest).coordinates)
      for (const ring of polygon) {
        let before: [number, number] | null = null;
        for (const [x = 0, y = 0] of ring) {
          const q: [number, number] = [x, y];
          const onEdge = before && edge(before) && edge(q);
          path += `${before && !onEdge ? "L" : "M"}${x.toFixed(2)} ${y.toFixed(2)}`;
          if (!edge(q) && (!label || x > label[0])) label = q;
          before = q;
        }
      }
    return { share, path, label };
  });
}

function cutPath({ cut: c, window: [s0, t0, s1, t1], scale }: Section): string {
  const { share } = along(s0, s1, scale);
  const at = (i: number): string => `${share(c[i]!).toFixed(5)} ${((t1 - c[i + 1]!) / (t1 - t0)).toFixed(5)}`;
  let out = "";
  for (let i = 0; i < c.length; i += 4) out += `M${at(i)}L${at(i + 2)}`;
  return out;
}

/** Tone of air: a ray all across the drawing would lose 1 - e^-1 of its light in air of half tone. */
const FULL = 0.4;
const LIT = [1, 0.78, 0.45] as const;

/** Bilinear value of `stride` numbers a cell, number k, at cell coordinates (x, y). */
function at(values: Float32Array, columns: number, rows: number, stride: number, k: number, x: number, y: number): number {
  const cx = Math.max(0, Math.min(columns - 1.001, x)),
    cy = Math.max(0, Math.min(rows - 1.001, y));
  const i = Math.floor(cx),
    j = Math.floor(cy);
  const [u, v] = [cx - i, cy - j];
  const p = stride * (j * columns + i) + k;
  const q = rows > 1 ? p + stride * columns : p;
  const r = columns > 1 ? stride : 0;
  return (1 - v) * ((1 - u) * values[p]! + u * values[p + r]!) + v * ((1 - u) * values[q]! + u * values[q + r]!);
}

/** Illuminance by scattering in the drawing that is drawn in full: the brightest but for a few cells. */
function litScale(s: Section): number {
  if (!s.lit) return 0;
  const { values, columns, rows } = s.lit;
  const found: number[] = [];
  for (let i = 0; i < values.length; i++) {
    const x = ((i % columns) + 0.5) * (s.columns / columns) - 0.5,
      y = (Math.floor(i / columns) + 0.5) * (s.rows / rows) - 0.5;
    found.push(values[i]! * at(s.field, s.columns, s.rows, 4, 3, x, y));
  }
  found.sort((a, b) => a - b);
  return found[Math.floor(found.length * 0.97)]! || found.at(-1)!;
}

/** Paints RGBA bytes of width × height pixels, rows from the top. */
export function paintSection(s: Section, width: number, height: number, d: Uint8ClampedArray): void {
  const [s0, , s1] = s.window;
  const length = s1 - s0;
  const most = litScale(s);
  // the tone of a whole way through the drawing, or of the densest air where all of it is thin
  const way = Math.max(length, 0.5 / Math.max(s.densest, 1e-12));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const cx = ((x + 0.5) * s.columns) / width - 0.5,
        cy = ((height - 1 - y + 0.5) * s.rows) / height - 0.5;
      const sigma = at(s.field, s.columns, s.rows, 4, 3, cx, cy);
      const tone = FULL * (1 - Math.exp(-sigma * way));
      const r = at(s.field, s.columns, s.rows, 4, 0, cx, cy),
        g = at(s.field, s.columns, s.rows, 4, 1, cx, cy),
        b = at(s.field, s.columns, s.rows, 4, 2, cx, cy);
      const top = Math.max(r, g, b, 1e-30);
      // air that only absorbs is drawn dark: it glows with nothing
      const dark = sigma > 0 ? Math.min(1, 0.25 + (0.75 * top) / sigma) : 1;
      let lit = 0;
      if (s.lit && most > 0) {
        const lx = ((cx + 0.5) * s.lit.columns) / s.columns - 0.5,
          ly = ((cy + 0.5) * s.lit.rows) / s.rows - 0.5;
        lit = 0.36 * Math.min(1, (at(s.lit.values, s.lit.columns, s.lit.rows, 1, 0, lx, ly) * sigma) / most) ** 0.6;
      }
      const p = 4 * (y * width + x);
      const own = [r / top, g / top, b / top];
      for (let k = 0; k < 3; k++) d[p + k] = 255 * Math.min(1, 0.105 + dark * tone * (0.35 + 0.65 * encode(own[k]!)) + lit * LIT[k]!);
      d[p + 3] = 255;
    }
}
