/** Depth of a picture that was made elsewhere, read as its maker says it is meant, and made distances along the rays of its lens. */
import type { PlateLens } from "./lens";

/** How numbers of depth are meant. */
export interface DepthClaim {
  /** Along the axis of the lens, or along the ray of each pixel. */
  along: "axis" | "ray";
  /** Where said, 0 stands for the one and 1 for the other (units): for whole numbers, which have no metres. */
  range: readonly [near: number, far: number] | null;
  /** Of a range: 1 stands for near. Else: numbers are one over the depth. */
  inverted: boolean;
  /** Metres that a unit has. */
  metres: number;
  /** Units from which on nothing is there: the sky. Null: what is endless alone. */
  sky: number | null;
}

export const PLAIN_CLAIM: DepthClaim = { along: "axis", range: null, inverted: false, metres: 1, sky: null };

export interface ReadDepth {
  /** Distance along the ray, m; Infinity where nothing is there. */
  distance: Float32Array;
  /** Pixels whose number says nothing: NaN, or no depth above 0. They count as sky. */
  unknown: number;
  sky: number;
}

/** @param values rows from the top, as many as the lens has pixels */
export function readDepth(values: Float32Array, lens: PlateLens, claim: DepthClaim): ReadDepth {
  const { width, height, fieldOfView } = lens;
  if (values.length !== width * height) throw new RangeError("depth: it has not as many numbers as the lens has pixels");
  const distance = new Float32Array(values.length);
  const hy = Math.tan(fieldOfView / 2),
    hx = (hy * width) / height;
  let [unknown, sky] = [0, 0];
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const depth = depthOf(values[i]!, claim);
      if (depth === Infinity) sky++;
      else if (!(depth > 0)) unknown++;
      if (!(depth > 0) || depth === Infinity) {
        distance[i] = Infinity;
        continue;
      }
      const [a, b] = [((2 * (x + 0.5)) / width - 1) * hx, (1 - (2 * (y + 0.5)) / height) * hy];
      distance[i] = claim.metres * depth * (claim.along === "axis" ? Math.sqrt(1 + a * a + b * b) : 1);
    }
  return { distance, unknown, sky };
}

/** Depth in units of one number; NaN where it says nothing. */
function depthOf(v: number, { range, inverted, sky }: DepthClaim): number {
  if (Number.isNaN(v)) return NaN;
  let depth: number;
  if (range) {
    const t = inverted ? 1 - v : v;
    depth = range[0] + t * (range[1] - range[0]);
    // the far end of a range is what lies past it, too
    if (t >= 1) return Infinity;
  } else depth = inverted ? (v === 0 ? Infinity : 1 / v) : v;
  return sky !== null && depth >= sky ? Infinity : depth;
}
