/** Painted strokes as coverage: kept as strokes, so that every size of the picture has them sharp. */
import type { Stroke } from "./stack";

/** Dabs in a diameter: their places depend on the stroke alone, whatever the picture's size. */
const DABS = 8;

/** Of lengths, in heights of the frame. */
const ROUNDING = 1e-9;

/** What pressure leaves of a radius at none. */
const THINNEST = 0.4;

interface Dab {
  x: number;
  y: number;
  pressure: number;
}

/** Places of a stroke's dabs, in heights of the frame. @param aspect width over height */
export function dabsOf({ points, size }: Stroke, aspect: number): Dab[] {
  const at = ([x, y, pressure]: readonly [number, number, number]): Dab => ({ x: x * aspect, y, pressure });
  const first = at(points[0]!);
  const out = [first];
  const step = size / DABS;
  let left = step,
    from = first;
  for (const point of points.slice(1)) {
    const to = at(point);
    const length = Math.hypot(to.x - from.x, to.y - from.y);
    let gone = 0;
    while (length - gone >= left - ROUNDING) {
      gone += left;
      const t = gone / length;
      out.push({
        x: from.x + t * (to.x - from.x),
        y: from.y + t * (to.y - from.y),
        pressure: from.pressure + t * (to.pressure - from.pressure),
      });
      left = step;
    }
    left -= length - gone;
    from = to;
  }
  return out;
}

/** Lays strokes one after the other on coverage (0 to 1) of a picture. */
export function paintStrokes(strokes: readonly Stroke[], coverage: Float32Array, width: number, height: number): void {
  for (const stroke of strokes) paintStroke(stroke, coverage, width, height);
}

/** Coverage of strokes that only grow at their end, as one paints: what was there before is kept. */
export class PaintCache {
  private readonly kept: { strokes: readonly Stroke[]; coverage: Float32Array; width: number; height: number }[] = [];

  /** @returns coverage of its own, which the caller may change */
  of(strokes: readonly Stroke[], width: number, height: number): Float32Array {
    const begins = (all: readonly Stroke[]): boolean => all.length <= strokes.length && all.every((s, i) => s === strokes[i]);
    const from = this.kept
      .filter((k) => k.width === width && k.height === height && begins(k.strokes))
      .sort((a, b) => b.strokes.length - a.strokes.length)[0];
    const coverage = from ? from.coverage.slice() : new Float32Array(width * height);
    const before = strokes.slice(0, -1);
    paintStrokes(before.slice(from?.strokes.length ?? 0), coverage, width, height);
    // the last one still grows under the pen: what lies before it is what is kept
    if (before.length > (from?.strokes.length ?? 0)) this.keep({ strokes: before, coverage: coverage.slice(), width, height });
    if (strokes.length > (from?.strokes.length ?? 0)) paintStrokes(strokes.slice(-1), coverage, width, height);
    return coverage;
  }

  private keep(one: (typeof this.kept)[number]): void {
    this.kept.unshift(one);
    this.kept.length = Math.min(this.kept.length, KEPT);
  }
}
/** Coverages that are kept: parts of masks that one goes between. */
const KEPT = 4;

/** Places of a dab's fall-off by its squared distance. */
const PLACES = 2048;

function paintStroke(stroke: Stroke, coverage: Float32Array, width: number, height: number): void {
  const { size, hardness, flow, erase } = stroke;
  const falling = new Float32Array(PLACES + 1);
  let tableOf = -1;
  for (const { x, y, pressure } of dabsOf(stroke, width / height)) {
    const radius = 0.5 * size * height * (THINNEST + (1 - THINNEST) * pressure);
    // a hard rim is soft over the pixel that it goes through
    const inner = Math.max(0, Math.min(hardness * radius, radius - 0.5));
    const reach = Math.max(radius, inner + 1);
    if (radius !== tableOf) {
      fallOff(falling, inner, reach);
      tableOf = radius;
    }
    const scale = PLACES / (reach * reach),
      full = flow * pressure;
    const [cx, cy] = [x * height - 0.5, y * height - 0.5];
    const [y0, y1] = [Math.max(0, Math.ceil(cy - reach)), Math.min(height - 1, Math.floor(cy + reach))];
    for (let v = y0; v <= y1; v++) {
      const dy2 = (v - cy) * (v - cy);
      const half = Math.sqrt(Math.max(0, reach * reach - dy2));
      const [x0, x1] = [Math.max(0, Math.ceil(cx - half)), Math.min(width - 1, Math.floor(cx + half))];
      for (let u = x0, i = v * width + x0; u <= x1; u++, i++) {
        const at = ((u - cx) * (u - cx) + dy2) * scale,
          k = at | 0;
        if (k >= PLACES) continue;
        const dab = full * (falling[k]! + (at - k) * (falling[k + 1]! - falling[k]!));
        coverage[i] = erase ? coverage[i]! * (1 - dab) : coverage[i]! + (1 - coverage[i]!) * dab;
      }
    }
  }
}

/** Full up to `inner`, none from `reach` on, smooth between; by places of the squared distance. */
function fallOff(to: Float32Array, inner: number, reach: number): void {
  for (let k = 0; k <= PLACES; k++) {
    const r = reach * Math.sqrt(k / PLACES);
    const t = r <= inner ? 1 : Math.max(0, (reach - r) / (reach - inner));
    to[k] = t * t * (3 - 2 * t);
  }
}
