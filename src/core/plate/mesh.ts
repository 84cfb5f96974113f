/** A surface through the depth of a picture, cut where something near ends before something far. */
import { axisDirection, type PlateLens } from "./lens";
import { depthSteps } from "./steps";

export interface DepthMesh {
  /** Corners in lens space, m: three numbers each, a corner a pixel that is part of a triangle. */
  positions: Float32Array;
  /** Pixel of each corner. */
  pixels: Uint32Array;
  triangles: Uint32Array;
}

/** The surface through a distance. @param distance along the ray, m; Infinity is no surface */
export function depthMesh(distance: Float32Array, lens: PlateLens): DepthMesh {
  const { width, height } = lens;
  const { inverse, joined } = depthSteps(distance, lens);
  const along = new Uint8Array(distance.length),
    down = new Uint8Array(distance.length);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      if (x + 1 < width) along[i] = Number(joined(x, y, 1));
      if (y + 1 < height) down[i] = Number(joined(x, y, width));
    }
  const corner = new Int32Array(distance.length).fill(-1);
  const pixels: number[] = [],
    triangles: number[] = [];
  const place = (i: number): number => {
    if (corner[i]! < 0) {
      corner[i] = pixels.length;
      pixels.push(i);
    }
    return corner[i]!;
  };
  for (let y = 0; y + 1 < height; y++)
    for (let x = 0; x + 1 < width; x++) {
      const i = y * width + x;
      const [top, bottom, left, right] = [along[i], along[i + width], down[i], down[i + 1]];
      // each half of a square where two of its sides go on
      if (top && left) triangles.push(place(i), place(i + width), place(i + 1));
      if (bottom && right) triangles.push(place(i + 1), place(i + width), place(i + width + 1));
      if (!(top && left) && !(bottom && right)) {
        if (top && right) triangles.push(place(i), place(i + width + 1), place(i + 1));
        else if (bottom && left) triangles.push(place(i), place(i + width), place(i + width + 1));
      }
    }
  const positions = new Float32Array(3 * pixels.length);
  // what is at the rim reaches to the end of the frame: half a pixel on, as steeply as to there
  const rim = (k: number, of: number): number => (k === 0 ? -0.5 : k === of - 1 ? 0.5 : 0);
  pixels.forEach((i, k) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    const [dx, dy] = [rim(x, width), rim(y, height)];
    let depth = inverse[i]!;
    if (dx !== 0 && width > 1) depth += step(i, i - 2 * dx, dx < 0 ? along[i]! : along[i - 1]!);
    if (dy !== 0 && height > 1) depth += step(i, i - 2 * dy * width, dy < 0 ? down[i]! : down[i - width]!);
    const [a, b, c] = axisDirection(lens, (x + 0.5 + dx) / width, (y + 0.5 + dy) / height);
    const far = 1 / Math.max(depth, 0.5 * inverse[i]!);
    positions.set([far * a, far * b, far * c], 3 * k);
  });
  return { positions, pixels: Uint32Array.from(pixels), triangles: Uint32Array.from(triangles) };

  /** Half the step from the pixel further in to one at the rim, where the surface goes on between them. */
  function step(i: number, inner: number, goesOn: number): number {
    return goesOn ? 0.5 * (inverse[i]! - inverse[inner]!) : 0;
  }
}
