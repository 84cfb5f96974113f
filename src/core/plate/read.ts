/** A document's plate from the bytes of its pictures: light, distances, and what its depth says of itself. */
import type { Plate } from "../document/plate";
import { InputError } from "../errors";
import { readSource, type Frame, type Planes } from "../formats/layers";
import { readPng } from "../formats/png";
import { depthReport, type DepthReport } from "./claims";
import { readDepth, type DepthClaim } from "./depth";
import { upOf, type PlateLens } from "./lens";

/** Most pixels of a plate: of more no film can be. */
const MOST_PIXELS = 16_777_216;

/** Layers that depth is looked for in, the first that is there. */
export const DEPTH_LAYERS = ["distance", "depth", "Z"] as const;

/** The pictures of a plate: its light, and its depth in its own numbers. */
export interface PlatePictures {
  width: number;
  height: number;
  /** Linear light, three planes. */
  bands: readonly Float32Array[];
  depth: Float32Array;
  /** Normals that came with it, in the world's axes; null where there are none. */
  normals: readonly Float32Array[] | null;
  /** Mattes of the picture's file: names, and how much of each pixel they cover. */
  mattes: readonly { name: string; cover: Float32Array }[];
  /** Layers that the files have: of colours, and that depth may be in. */
  layers: { picture: string[]; depth: string[] };
}

const named = (layer: string): string => (layer ? `a layer "${layer}"` : "a main picture");
const listed = (frame: Frame): string => [...frame.layers.keys()].map((n) => n || "a main picture").join(", ");

function planesIn(frame: Frame, layer: string, what: string): Planes {
  const found = frame.layers.get(layer);
  if (!found) throw new InputError(`${what}: has not ${named(layer)}; it has ${listed(frame)}`);
  return found;
}

/** Layers that are mattes, by their names. */
const MATTE = /^(?:object|matte|mask)\.(.+)$/i;
/** Most of them that are taken. */
const MOST_MATTES = 1024;

const mattesOf = (frame: Frame): PlatePictures["mattes"] =>
  [...frame.layers.values()]
    .flatMap(({ name, bands }) => {
      const found = bands.length === 1 ? MATTE.exec(name)?.[1] : undefined;
      return found === undefined ? [] : [{ name: found, cover: bands[0]! }];
    })
    .slice(0, MOST_MATTES);

/** @param picture,depth the read files @param whats what they are called in messages. @throws InputError where a layer is missing, or sizes differ */
export function platePictures(plate: Plate, picture: Frame, depth: Frame, whats: { picture: string; depth: string }): PlatePictures {
  const { width, height } = picture;
  if (width * height > MOST_PIXELS)
    throw new InputError(`${whats.picture}: ${width} × ${height} pixels, more than the limit of ${MOST_PIXELS}`);
  const light = planesIn(picture, plate.layer, whats.picture);
  if (light.bands.length !== 3) throw new InputError(`${whats.picture}: ${named(plate.layer)} has no colours`);
  if (depth.width !== width || depth.height !== height)
    throw new InputError(
      `${whats.depth}: ${depth.width} × ${depth.height} pixels, the picture ${width} × ${height}; they must be of one size`,
    );
  const [values] = planesIn(depth, plate.depthLayer, whats.depth).bands;
  const layers = {
    picture: [...picture.layers.values()].filter((p) => p.bands.length === 3).map((p) => p.name),
    depth: [...depth.layers.keys()],
  };
  const normals = picture.layers.get("normal") ?? depth.layers.get("normal");
  return {
    width,
    height,
    bands: light.bands,
    depth: values!,
    normals: normals?.bands.length === 3 ? normals.bands : null,
    mattes: mattesOf(picture),
    layers,
  };
}

/** Numbers of a file's depth, by layer: of OpenEXR as they are, of PNG from 0 to 1 without the curve of colours. @throws InputError */
export function depthFrame(bytes: Uint8Array, what: string): Frame {
  if (bytes[0] === 0xff && bytes[1] === 0xd8)
    throw new InputError(`${what}: a JPEG is no depth: its numbers are rounded to please the eye`);
  if (bytes[0] !== 0x89) return readSource(bytes, what);
  const { width, height, top, rgba } = readPng(bytes, what, MOST_PIXELS);
  const values = Float32Array.from({ length: width * height }, (_, i) => rgba[4 * i]! / top);
  return { width, height, attributes: {}, layers: new Map([["", { name: "", bands: [values], light: false, alpha: null }]]) };
}

/** The files of a plate by the names of its assets. @throws InputError */
export async function readPlatePictures(
  plate: Plate,
  bytesOf: (asset: string) => Promise<Uint8Array>,
  what: (asset: string) => string,
): Promise<PlatePictures> {
  const picture = readSource(await bytesOf(plate.picture), what(plate.picture));
  const depth = plate.depth === plate.picture ? picture : depthFrame(await bytesOf(plate.depth), what(plate.depth));
  return platePictures(plate, picture, depth, { picture: what(plate.picture), depth: what(plate.depth) });
}

const RAD = Math.PI / 180;
/** How a plate's depth is meant. */
export const claimOf = ({ along, range, inverted, unit, sky }: Plate): DepthClaim => ({ along, range, inverted, metres: unit, sky });
/** The lens of a plate of a size. */
export const lensOf = (plate: Plate, { width, height }: { width: number; height: number }): PlateLens => ({
  fieldOfView: plate.fieldOfView * RAD,
  width,
  height,
});
/** Up in the lens's space. A document counts roll the other way about. */
export const upIn = (plate: Plate): [number, number, number] => upOf({ tilt: plate.tilt * RAD, roll: -plate.roll * RAD });

/** Distances along the rays of a plate, m. */
export const plateDistances = (plate: Plate, pictures: PlatePictures): Float32Array =>
  readDepth(pictures.depth, lensOf(plate, pictures), claimOf(plate)).distance;

/** What the depth says of itself. */
export const plateReport = (plate: Plate, pictures: PlatePictures): DepthReport =>
  depthReport(pictures.depth, lensOf(plate, pictures), claimOf(plate));
