/** Look-up tables of display values: a curve of each band, or a cube of all three together. */

export interface Lut {
  /** What it is told from others by: the hash of its file. */
  id: string;
  /** 1: a curve of each band; 3: a cube. */
  dimensions: 1 | 3;
  /** Places a side. */
  size: number;
  /** Display values of the first and the last place, of each band. */
  from: readonly [number, number, number];
  to: readonly [number, number, number];
  /** Three display values a place; of a cube, red runs fastest. */
  values: Float32Array;
}

/** Places of curves as a texture holds them. */
const CURVE_PLACES = 1024;

/** A table as a shader's texture: four numbers a place, `width` a row. */
export function lutTexture(lut: Lut): { width: number; height: number; texels: Float32Array } {
  const { dimensions, size, values } = lut;
  const width = dimensions === 3 ? size : CURVE_PLACES,
    height = dimensions === 3 ? size * size : 1;
  const texels = new Float32Array(4 * width * height);
  const reader = new LutReader(lut);
  for (let i = 0; i < width * height; i++) {
    if (dimensions === 3) texels.set(values.subarray(3 * i, 3 * i + 3), 4 * i);
    else {
      const at = (k: 0 | 1 | 2): number => lut.from[k] + (i / (width - 1)) * (lut.to[k] - lut.from[k]);
      reader.look(at(0), at(1), at(2));
      texels.set(reader.out, 4 * i);
    }
  }
  return { width, height, texels };
}

/** Looks display values up; the answer lies in `out`. */
export class LutReader {
  /** Display values found last. */
  readonly out = new Float64Array(3);
  private readonly scale: readonly [number, number, number];

  constructor(private readonly lut: Lut) {
    const of = (k: 0 | 1 | 2): number => (lut.size - 1) / (lut.to[k] - lut.from[k]);
    this.scale = [of(0), of(1), of(2)];
  }

  /** @param r share of the display's range, as the others are; past the table's ends its last value counts */
  look(r: number, g: number, b: number): void {
    const { from, size, dimensions } = this.lut;
    const most = size - 1;
    const x = Math.max(0, Math.min(most, (r - from[0]) * this.scale[0])),
      y = Math.max(0, Math.min(most, (g - from[1]) * this.scale[1])),
      z = Math.max(0, Math.min(most, (b - from[2]) * this.scale[2]));
    if (dimensions === 1) this.along(x, y, z);
    else this.within(x, y, z);
  }

  private along(x: number, y: number, z: number): void {
    const { values, size } = this.lut;
    const { out } = this;
    for (let k = 0; k < 3; k++) {
      const p = k === 0 ? x : k === 1 ? y : z;
      const i = Math.min(size - 2, Math.floor(p)),
        f = p - i;
      out[k] = values[3 * i + k]! + f * (values[3 * i + 3 + k]! - values[3 * i + k]!);
    }
  }

  /** Between the four corners of the tetrahedron about a place (six to a cell, all along its diagonal of greys): greys stay clean. */
  private within(x: number, y: number, z: number): void {
    const { values, size } = this.lut;
    const { out } = this;
    const i = Math.min(size - 2, Math.floor(x)),
      j = Math.min(size - 2, Math.floor(y)),
      k = Math.min(size - 2, Math.floor(z));
    const u = x - i,
      v = y - j,
      w = z - k;
    const dx = 3,
      dy = 3 * size,
      dz = 3 * size * size;
    const first = i * dx + j * dy + k * dz,
      last = first + dx + dy + dz;
    // the way from the first corner to the last goes along the largest share first
    let a: number, b: number, most: number, middle: number, least: number;
    if (u >= v) {
      if (v >= w) [a, b, most, middle, least] = [dx, dx + dy, u, v, w];
      else if (u >= w) [a, b, most, middle, least] = [dx, dx + dz, u, w, v];
      else [a, b, most, middle, least] = [dz, dx + dz, w, u, v];
    } else if (w >= v) [a, b, most, middle, least] = [dz, dy + dz, w, v, u];
    else if (w >= u) [a, b, most, middle, least] = [dy, dy + dz, v, w, u];
    else [a, b, most, middle, least] = [dy, dx + dy, v, u, w];
    const p = first + a,
      q = first + b;
    for (let c = 0; c < 3; c++)
      out[c] =
        (1 - most) * values[first + c]! + (most - middle) * values[p + c]! + (middle - least) * values[q + c]! + least * values[last + c]!;
  }
}
