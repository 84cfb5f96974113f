/** Pictures that lights, skies and materials use: linear RGB, rows from the top. */
export interface Picture {
  width: number;
  height: number;
  /** 3 numbers a pixel, linear Rec. 709. */
  rgb: Float32Array;
}

/** Gaussian blur of a picture by `radius` pixels (standard deviation), by three box blurs each way; edges are held. */
export function blurred(picture: Picture, radius: number): Picture {
  const r = Math.min(Math.round(radius), Math.max(picture.width, picture.height));
  if (r < 1) return picture;
  let { rgb } = picture;
  for (let round = 0; round < 3; round++) {
    rgb = boxBlur(rgb, picture.width, picture.height, r, 1, picture.width);
    rgb = boxBlur(rgb, picture.height, picture.width, r, picture.width, 1);
  }
  return { ...picture, rgb };
}

function boxBlur(from: Float32Array, along: number, across: number, r: number, step: number, skip: number): Float32Array {
  const out = new Float32Array(from.length);
  for (let line = 0; line < across; line++)
    for (let c = 0; c < 3; c++) {
      const at = (i: number): number => 3 * (line * skip + Math.max(0, Math.min(along - 1, i)) * step) + c;
      let sum = 0;
      for (let i = -r; i <= r; i++) sum += from[at(i)]!;
      for (let i = 0; i < along; i++) {
        out[at(i)] = sum / (2 * r + 1);
        sum += from[at(i + r + 1)]! - from[at(i - r)]!;
      }
    }
  return out;
}
