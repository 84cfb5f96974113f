/** A section's air as a picture: tone by density, tinted by what the air glows with, and warm where lamps and sun light it. */
import { encode } from "#core/film/develop";
import type { Section } from "#core/section/probe";

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

/** Paints width × height pixels, rows from the top. */
export function paintSection(s: Section, width: number, height: number, image: ImageData): void {
  const [s0, , s1] = s.window;
  const length = s1 - s0;
  const most = litScale(s);
  const d = image.data;
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
