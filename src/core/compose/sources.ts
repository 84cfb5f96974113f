/** The sources of a stack: of one size, at the size of a screen, and what they say of distance and height. */
import { InputError } from "../errors";
import { nearestOf, type Frame, type Planes } from "../formats/layers";

/** A frame at another size: colours are averaged over what a pixel covers, places and distances are those of its middle. */
export function smallFrame(frame: Frame, width: number, height: number): Frame {
  if (width === frame.width && height === frame.height) return frame;
  const layers = new Map<string, Planes>();
  for (const [key, planes] of frame.layers) {
    const averaged = planes.bands.length > 1 && !isPlace(key);
    const shrink = averaged || isShare(key) ? averageOf : nearestOf;
    layers.set(key, {
      ...planes,
      bands: planes.bands.map((b) => shrink(b, frame, width, height)),
      alpha: planes.alpha && averageOf(planes.alpha, frame, width, height),
    });
  }
  return { ...frame, width, height, layers };
}

/** Normals, positions. */
const isPlace = (key: string): boolean => key === "normal" || key === "position";
/** Mattes and shares of light; distances across an edge have no mean. */
const isShare = (key: string): boolean => /^(object|material|medium)\./.test(key) || key === "transmittance" || key === "opacity";

function averageOf(plane: Float32Array, { width: w, height: h }: Frame, width: number, height: number): Float32Array {
  const out = new Float32Array(width * height);
  for (let y = 0, to = 0; y < height; y++) {
    const [y0, y1] = [Math.floor((y * h) / height), Math.max(Math.floor((y * h) / height) + 1, Math.floor(((y + 1) * h) / height))];
    for (let x = 0; x < width; x++, to++) {
      const [x0, x1] = [Math.floor((x * w) / width), Math.max(Math.floor((x * w) / width) + 1, Math.floor(((x + 1) * w) / width))];
      let sum = 0;
      for (let v = y0; v < y1; v++) for (let u = x0; u < x1; u++) sum += plane[v * w + u]!;
      out[to] = sum / ((y1 - y0) * (x1 - x0));
    }
  }
  return out;
}

/** The sources of a stack by name, of one size. @throws InputError where sizes differ */
export function checkSizes(frames: ReadonlyMap<string, Frame>): { width: number; height: number } {
  const [first, ...others] = frames;
  if (!first) throw new InputError("stack: it has no source, and so no size");
  const { width, height } = first[1];
  for (const [name, f] of others)
    if (f.width !== width || f.height !== height)
      throw new InputError(
        `stack: "${name}" has ${f.width} × ${f.height} pixels, "${first[0]}" ${width} × ${height}; sources are of one size`,
      );
  return { width, height };
}

/** A channel of the first source that has it, by any of these layers; null where none has. */
export function planeOf(frames: Iterable<Frame>, keys: readonly string[], band = 0): Float32Array | null {
  for (const frame of frames)
    for (const key of keys) {
      const found = frame.layers.get(key)?.bands[band];
      if (found) return found;
    }
  return null;
}

/** Distance along the ray, or else along the lens axis, m. */
export const distanceOf = (frames: Iterable<Frame>): Float32Array | null => planeOf([...frames], ["distance", "depth", "Z"]);
/** Height of what is seen, m. */
export function heightOf(frames: Iterable<Frame>): Float32Array | null {
  const all = [...frames];
  return planeOf(all, ["height"]) ?? planeOf(all, ["position"], 1);
}
