/** What OpenEXR files give a stack: layers of colours, and single channels, over one frame. */
import { InputError } from "../errors";
import { PASSES, passOfChannel, type PassName } from "../film/passes";
import type { Picture } from "../data/picture";
import type { ExrImage } from "../formats/exr";
import { readExrLayers } from "../formats/exr-read";
import { readPicture } from "../formats/image";
import type { Matrix3 } from "../math/matrix";
import { fromPrimaries } from "../optics/colour";

/** A layer of a file: three bands, or one. */
export interface Planes {
  name: string;
  bands: readonly Float32Array[];
  /** Light counts in cd/m², all else as shares of white, or in its own unit. */
  light: boolean;
  /** What it covers, where it says so. */
  alpha: Float32Array | null;
}

/** One source: the same frame as all others. */
export interface Frame {
  width: number;
  height: number;
  layers: ReadonlyMap<string, Planes>;
  /** Text that the file holds. */
  attributes: Readonly<Record<string, string>>;
}

/** Bands of colours, in their order. */
const COLOURS = ["RGB", "XYZ"] as const;

/** Attributes of files whose light is in cd/m²; in those of other programs 1 is white. */
const OURS = ["fumarium.document", "fumarium.stack"] as const;

/** Passes that are no light though they have three bands. */
const isLightPass = (pass: PassName | null): boolean => pass === null || PASSES[pass].display === "light";

/**
 * Layers of a file over its display window, black (or endless) outside of what it holds. Colours named R, G, B without a layer are "".
 * @throws InputError where the file has nothing to show
 */
export function frameOf(image: ExrImage, what: string): Frame {
  const frame = image.frame ?? { x: 0, y: 0, width: image.width, height: image.height };
  const { width, height } = frame;
  const spread = (values: Float32Array, outside: number): Float32Array => {
    if (width === image.width && height === image.height) return values;
    const out = new Float32Array(width * height).fill(outside);
    for (let y = 0; y < image.height; y++)
      out.set(values.subarray(y * image.width, (y + 1) * image.width), (y + frame.y) * width + frame.x);
    return out;
  };
  const ours = OURS.some((name) => name in (image.attributes ?? {}));
  const toOurs = image.chromaticities ? fromPrimaries(image.chromaticities) : null;
  const named = new Map<string, Map<string, Float32Array>>();
  for (const { name, values } of image.channels) {
    const dot = name.lastIndexOf(".");
    const [layer, band] = [name.slice(0, Math.max(0, dot)), name.slice(dot + 1)];
    const bands = named.get(layer) ?? new Map<string, Float32Array>();
    bands.set(band, values);
    named.set(layer, bands);
  }
  const layers = new Map<string, Planes>();
  for (const [layer, bands] of named) {
    const colours = COLOURS.map((c) => [...c].map((b) => bands.get(b))).find((planes) => planes.every((p) => p !== undefined));
    const alpha = bands.get("A");
    if (colours) {
      const first = passOfChannel(layer ? `${layer}.R` : "R");
      const light = bands.has("R") && isLightPass(first?.pass ?? null);
      layers.set(layer, {
        name: layer,
        bands: (light && toOurs ? converted(colours, toOurs) : colours).map((p) => spread(p, 0)),
        light: light && ours,
        alpha: alpha ? spread(alpha, 0) : null,
      });
    }
    for (const [band, values] of bands) {
      if (colours && [..."RGBXYZA"].includes(band)) continue;
      // a layer of one number goes by its layer's name, one among others by its own
      const key = layer && (band === "V" || band === "Z") ? layer : layer ? `${layer}.${band}` : band;
      if (!layers.has(key)) layers.set(key, { name: key, bands: [spread(values, band === "Z" ? Infinity : 0)], light: false, alpha: null });
    }
    // one channel of brightness is grey light
    const grey = bands.get("Y");
    if (!colours && grey && !layers.has(layer))
      layers.set(layer, { name: layer, bands: [0, 1, 2].map(() => spread(grey, 0)), light: ours, alpha: null });
  }
  if (layers.size === 0) throw new InputError(`${what}: it holds nothing that can be laid in a stack`);
  return { width, height, layers, attributes: image.attributes ?? {} };
}

/** Light of other primaries as that of Rec. 709. */
function converted(bands: readonly Float32Array[], m: Matrix3): Float32Array[] {
  const [r, g, b] = bands as [Float32Array, Float32Array, Float32Array];
  return [0, 1, 2].map((k) => r.map((v, i) => m[3 * k]! * v + m[3 * k + 1]! * g[i]! + m[3 * k + 2]! * b[i]!));
}

/** A picture that is no OpenEXR: its colours as shares of white. */
function frameOfPicture({ width, height, rgb }: Picture): Frame {
  const bands = [0, 1, 2].map((k) => Float32Array.from({ length: width * height }, (_, i) => rgb[3 * i + k]!));
  return { width, height, attributes: {}, layers: new Map([["", { name: "", bands, light: false, alpha: null }]]) };
}

/** What a file gives a stack: OpenEXR with all its layers; Radiance HDR, PNG and JPEG as their picture. @throws InputError */
export function readSource(bytes: Uint8Array, what: string): Frame {
  try {
    if (bytes[0] === 0x76 && bytes[1] === 0x2f) return frameOf(readExrLayers(bytes, what), what);
    return frameOfPicture(readPicture(bytes, what));
  } catch (error) {
    // so many numbers as no memory was given for
    if (error instanceof RangeError) throw new InputError(`${what}: it does not fit into memory (${error.message})`);
    throw error;
  }
}

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

/** A plane at another size, of the pixels that lie in the middle of the new ones. */
export function nearestOf(
  plane: Float32Array,
  { width: w, height: h }: Pick<Frame, "width" | "height">,
  width: number,
  height: number,
): Float32Array {
  const out = new Float32Array(width * height);
  for (let y = 0, to = 0; y < height; y++)
    for (let x = 0; x < width; x++, to++) out[to] = plane[Math.floor(((y + 0.5) * h) / height) * w + Math.floor(((x + 0.5) * w) / width)]!;
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
