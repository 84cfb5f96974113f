/** Pictures of many layers over one frame: OpenEXR with its colours and single channels, other pictures as the one layer they are. */
import { parseDocument } from "../document/parse";
import type { SceneDocument } from "../document/schema";
import { InputError } from "../errors";
import { PASSES, passOfChannel, type PassName } from "../film/passes";
import type { Picture } from "../data/picture";
import type { ExrImage } from "./exr";
import { readExrLayers } from "./exr-read";
import { readPicture } from "./image";
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

/** A picture and its layers, all of one frame. */
export interface Frame {
  width: number;
  height: number;
  layers: ReadonlyMap<string, Planes>;
  /** Text that the file holds. */
  attributes: Readonly<Record<string, string>>;
  /** Numbers that it holds: one, a vector, or a matrix by rows. */
  numbers?: Readonly<Record<string, readonly number[]>>;
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
    const set = COLOURS.find((c) => [...c].every((b) => bands.has(b)));
    const colours = set && [...set].map((b) => bands.get(b)!);
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
      if (set && (set.includes(band) || band === "A")) continue;
      // a layer of one number goes by its layer's name, one among others by its own
      const key = layer && (band === "V" || band === "Z") ? layer : layer ? `${layer}.${band}` : band;
      if (!layers.has(key)) layers.set(key, { name: key, bands: [spread(values, band === "Z" ? Infinity : 0)], light: false, alpha: null });
    }
    // one channel of brightness is grey light
    const grey = bands.get("Y");
    if (!colours && grey && !layers.has(layer))
      layers.set(layer, { name: layer, bands: [0, 1, 2].map(() => spread(grey, 0)), light: ours, alpha: null });
  }
  if (layers.size === 0) throw new InputError(`${what}: it holds no picture`);
  return { width, height, layers, attributes: image.attributes ?? {}, numbers: image.numbers ?? {} };
}

/** Light of other primaries as that of Rec. 709. */
function converted(bands: readonly Float32Array[], m: Matrix3): Float32Array[] {
  const [r, g, b] = bands as [Float32Array, Float32Array, Float32Array];
  return [0, 1, 2].map((k) => r.map((v, i) => m[3 * k]! * v + m[3 * k + 1]! * g[i]! + m[3 * k + 2]! * b[i]!));
}

/** The scene document that a file says it was made from; null where it says none that is valid. */
export function documentOf(frame: Pick<Frame, "attributes">): SceneDocument | null {
  const text = frame.attributes["fumarium.document"];
  if (text === undefined) return null;
  try {
    return parseDocument(JSON.parse(text));
  } catch {
    return null;
  }
}

/** A picture that is no OpenEXR: its colours as shares of white. */
function frameOfPicture({ width, height, rgb }: Picture): Frame {
  const bands = [0, 1, 2].map((k) => Float32Array.from({ length: width * height }, (_, i) => rgb[3 * i + k]!));
  return { width, height, attributes: {}, layers: new Map([["", { name: "", bands, light: false, alpha: null }]]) };
}

/** The layers of a file: OpenEXR with all its layers; Radiance HDR, PNG and JPEG as their picture. @throws InputError */
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
