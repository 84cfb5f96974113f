/** How a picture is exposed: stops about middle grey as colours, what is clipped, and a histogram. */
import { MIDDLE_GREY, whiteAt } from "../optics/exposure";
import { F_COUNT } from "../layout/layout";
import { luminance } from "../optics/colour";
import type { Development } from "./develop";
import type { Film } from "./film";
import { LightRows } from "./light";

const CLIPPED = 2;
/** Share below which the display shows black. */
const CRUSHED = 0.0004;

/**
 * Colours by stops above or below middle grey, each from its stop up to the next: cold and dark below, grey about the middle,
 * warm above.
 */
export const TONES: readonly { from: number; rgb: readonly [number, number, number]; words: string }[] = [
  { from: -Infinity, rgb: [18, 16, 34], words: "below −8" },
  { from: -8, rgb: [46, 38, 92], words: "−8 to −6" },
  { from: -6, rgb: [52, 78, 140], words: "−6 to −4" },
  { from: -4, rgb: [58, 122, 148], words: "−4 to −2" },
  { from: -2, rgb: [92, 130, 118], words: "−2 to −½" },
  { from: -0.5, rgb: [150, 150, 150], words: "middle ± ½" },
  { from: 0.5, rgb: [190, 172, 112], words: "+½ to +2" },
  { from: 2, rgb: [222, 148, 72], words: "+2 to +3½" },
  { from: 3.47, rgb: [238, 232, 226], words: "white" },
];

/** Exposed share of white of each pixel's luminance; NaN where there are no samples. */
function exposed(film: Film, development: Development): Float32Array {
  const [x0, y0, x1, y1] = film.crop;
  const scale = 1 / whiteAt(development.exposure);
  const out = new Float32Array(film.width * film.height).fill(NaN);
  const rows = new LightRows(film, "beauty", development.balance);
  const light = new Float32Array(3 * (x1 - x0));
  for (let y = y0; y < y1; y++) {
    rows.row(y, light);
    for (let x = x0, p = 0; x < x1; x++, p += 3) {
      const i = y * film.width + x;
      if (film.data[i * film.stride + F_COUNT]! > 0) out[i] = scale * luminance(light[p]!, light[p + 1]!, light[p + 2]!);
    }
  }
  return out;
}

/** Paints stops as colours over RGBA bytes of the picture. */
export function paintStops(film: Film, development: Development, out: Uint8ClampedArray): void {
  exposed(film, development).forEach((v, i) => {
    if (Number.isNaN(v)) return;
    const stops = v > 0 ? Math.log2(v / MIDDLE_GREY) : -Infinity;
    let tone = TONES[0]!;
    for (const t of TONES) if (stops >= t.from) tone = t;
    out.set(tone.rgb, 4 * i);
    out[4 * i + 3] = 255;
  });
}

/** Marks what is clipped over the developed picture: stripes where it is white, dots where it is black. */
export function paintClipping(film: Film, development: Development, out: Uint8ClampedArray): void {
  exposed(film, development).forEach((v, i) => {
    if (Number.isNaN(v)) return;
    const [x, y] = [i % film.width, Math.floor(i / film.width)];
    if (v >= CLIPPED && (x + y) % 6 < 3) out.set([226, 92, 52], 4 * i);
    else if (!(v > CRUSHED) && x % 4 === 0 && y % 4 === 0) out.set([84, 120, 210], 4 * i);
  });
}

export interface Histogram {
  /** Share of the rendered pixels in each bin, from `low` to `high` stops about middle grey. */
  bins: number[];
  low: number;
  high: number;
  /** Shares that are clipped to white, and to black. */
  white: number;
  black: number;
}

/** Histogram of luminance in stops about middle grey. */
export function histogram(film: Film, development: Development, count = 56): Histogram {
  const [low, high] = [-9, 5];
  const bins = new Array<number>(count).fill(0);
  let white = 0,
    black = 0,
    rendered = 0;
  for (const v of exposed(film, development)) {
    // a region is rendered alone, and a coarse sweep leaves pixels out
    if (Number.isNaN(v)) continue;
    rendered++;
    if (v >= CLIPPED) white++;
    if (!(v > CRUSHED)) {
      black++;
      continue;
    }
    const at = Math.floor(((Math.log2(v / MIDDLE_GREY) - low) / (high - low)) * count);
    bins[Math.max(0, Math.min(count - 1, at))]!++;
  }
  const n = Math.max(1, rendered);
  return { bins: bins.map((b) => b / n), low, high, white: white / n, black: black / n };
}
