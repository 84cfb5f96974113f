/** A cube of densities drawn as a small cloud, for a look at what fills it. */
import { AXES } from "../math/vectors";

/** Optical depth of a full cube along its side. */
const DEPTH = 7;
const STEPS = 44;
const SHADOW_STEPS = 5;
const ALBEDO = 0.95;

/**
 * The cloud from a corner, lit from above: single scattering over steps, grey.
 * @param cube side³ densities (0 to 1), x fastest, then y upwards, then z
 * @returns size² pairs of brightness and share covered, rows from above
 */
export function drawCube(cube: Float32Array, side: number, size: number): Float32Array {
  const out = new Float32Array(2 * size * size);
  const at = (x: number, y: number, z: number): number => {
    if (x < 0 || y < 0 || z < 0 || x >= 1 || y >= 1 || z >= 1) return 0;
    // trilinear about the middles of the cells, held at the border
    const [a, b, c] = [x, y, z].map((v) => Math.max(0, Math.min(side - 1.001, v * side - 0.5))) as [number, number, number];
    const [i, j, k] = [Math.floor(a), Math.floor(b), Math.floor(c)];
    const n = (k * side + j) * side + i;
    const [fx, fy, fz] = [a - i, b - j, c - k];
    const row = (m: number): number => cube[m]! * (1 - fx) + cube[m + 1]! * fx;
    const plane = (m: number): number => row(m) * (1 - fy) + row(m + side) * fy;
    return plane(n) * (1 - fz) + plane(n + side * side) * fz;
  };
  // from the front, right and above
  const d = unit([-0.55, -0.45, -0.7]);
  const right = unit([-d[2], 0, d[0]]);
  const up = [right[1] * d[2] - right[2] * d[1], right[2] * d[0] - right[0] * d[2], right[0] * d[1] - right[1] * d[0]];
  const light = unit([0.25, 1, 0.15]);
  const reach = 0.87;
  const step = (2 * reach) / STEPS;
  for (let row = 0; row < size; row++)
    for (let column = 0; column < size; column++) {
      const [u, v] = [((2 * column + 1) / size - 1) * reach, (1 - (2 * row + 1) / size) * reach];
      // steps begin unevenly from pixel to pixel, so that they do not show as lines
      const begin = (0.7548776662 * column + 0.5698402909 * row) % 1;
      let left = 1,
        gained = 0;
      for (let s = 0; s < STEPS && left > 0.01; s++) {
        const t = (s + begin) * step - reach;
        const [x, y, z] = AXES.map((k) => 0.5 + u * right[k] + v * up[k]! + t * d[k]) as [number, number, number];
        const density = at(x, y, z);
        if (density <= 0) continue;
        let above = 0;
        for (let k = 0; k < SHADOW_STEPS; k++) {
          const q = (k + 0.5) / SHADOW_STEPS / 2;
          above += at(x + q * light[0], y + q * light[1], z + q * light[2]) / SHADOW_STEPS / 2;
        }
        const lost = 1 - Math.exp(-DEPTH * density * step);
        // light from all around fills the shadows a little
        gained += left * lost * ALBEDO * (0.25 + 0.75 * Math.exp(-DEPTH * above));
        left *= 1 - lost;
      }
      out.set([gained, 1 - left], 2 * (row * size + column));
    }
  return out;
}

function unit(v: [number, number, number]): [number, number, number] {
  const l = Math.hypot(...v);
  return [v[0] / l, v[1] / l, v[2] / l];
}
