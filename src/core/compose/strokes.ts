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

function paintStroke(stroke: Stroke, coverage: Float32Array, width: number, height: number): void {
  const { size, hardness, flow, erase } = stroke;
  for (const { x, y, pressure } of dabsOf(stroke, width / height)) {
    const radius = 0.5 * size * height * (THINNEST + (1 - THINNEST) * pressure);
    // a hard rim is soft over the pixel that it goes through
    const inner = Math.max(0, Math.min(hardness * radius, radius - 0.5));
    const reach = Math.max(radius, inner + 1);
    const [cx, cy] = [x * height - 0.5, y * height - 0.5];
    const [x0, x1] = [Math.max(0, Math.ceil(cx - reach)), Math.min(width - 1, Math.floor(cx + reach))];
    const [y0, y1] = [Math.max(0, Math.ceil(cy - reach)), Math.min(height - 1, Math.floor(cy + reach))];
    for (let v = y0; v <= y1; v++)
      for (let u = x0; u <= x1; u++) {
        const r = Math.hypot(u - cx, v - cy);
        if (r >= reach) continue;
        const t = r <= inner ? 1 : (reach - r) / (reach - inner);
        const dab = flow * pressure * t * t * (3 - 2 * t);
        const i = v * width + u;
        coverage[i] = erase ? coverage[i]! * (1 - dab) : coverage[i]! + (1 - coverage[i]!) * dab;
      }
  }
}
