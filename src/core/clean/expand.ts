/** A coarse sweep's cleaned pixels spread over the whole crop. */
import { CLEANED_FLOATS } from "../film/cleaned";

/**
 * Interpolates between pixels that lie `every` apart, the first at the crop's corner. @param cleaned CLEANED_FLOATS a pixel of the coarse rows
 * @returns as many for each pixel of the crop
 */
export function expand(cleaned: Float32Array, every: number, width: number, height: number): Float32Array {
  const [across, down] = [Math.ceil(width / every), Math.ceil(height / every)];
  const out = new Float32Array(CLEANED_FLOATS * width * height);
  let to = 0;
  for (let y = 0; y < height; y++) {
    const row = Math.floor(y / every),
      below = Math.min(down - 1, row + 1),
      v = y / every - row;
    for (let x = 0; x < width; x++) {
      const column = Math.floor(x / every),
        right = Math.min(across - 1, column + 1),
        u = x / every - column;
      const a = CLEANED_FLOATS * (row * across + column),
        b = CLEANED_FLOATS * (row * across + right),
        c = CLEANED_FLOATS * (below * across + column),
        d = CLEANED_FLOATS * (below * across + right);
      for (let k = 0; k < CLEANED_FLOATS; k++, to++)
        out[to] = (1 - v) * ((1 - u) * cleaned[a + k]! + u * cleaned[b + k]!) + v * ((1 - u) * cleaned[c + k]! + u * cleaned[d + k]!);
    }
  }
  return out;
}
