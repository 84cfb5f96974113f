/** The scene document that a picture made elsewhere begins with: its plate as far as the files say it, and the surface through its depth. */
import { finishSchema } from "../document/finish";
import { parseDocument } from "../document/parse";
import type { Plate } from "../document/plate";
import { plateCamera } from "../document/plate-lens";
import type { SceneDocument } from "../document/schema";
import { InputError } from "../errors";
import { documentOf, type Frame } from "../formats/layers";
import { cameraFrame } from "../document/camera";
import { map3, unit, type V3 } from "../math/vectors";
import { heldInWorld, lensOfFile } from "./attributes";
import { heldBy } from "./lens";
import { DEPTH_LAYERS, platePictures, plateReport, type PlatePictures } from "./read";
import type { DepthReport } from "./claims";

/** A file of a plate: what it is called, its hash, and what was read of it. */
export interface PlateFile {
  uri: string;
  sha256: string;
  frame: Frame;
  /** Whether its numbers are whole, and so without a unit. */
  whole: boolean;
}

/** What the caller knows better than the files. */
export type PlateSaid = Partial<Omit<Plate, "picture" | "depth">>;

export interface BegunPlate {
  document: SceneDocument;
  /** That of the document. */
  plate: Plate;
  pictures: PlatePictures;
  report: DepthReport;
  /** What is guessed since no file says it. */
  guessed: Guess[];
}

export interface Guess {
  what: "angle" | "range" | "held" | "height";
  words: string;
}

/** Whether a file is whole numbers: PNG, TIFF, JPEG. */
export const isWhole = (bytes: Uint8Array): boolean => [0x89, 0x49, 0x4d, 0xff].includes(bytes[0] ?? 0);

/** Height that a lens is taken to stand at where neither ground nor word tells it, m. */
const STANDING = 1.6;
/** What black and white of whole numbers are taken for, m, and an angle that nobody says, degrees. */
const GUESSED_RANGE: [number, number] = [0, 100];
const GUESSED_ANGLE = 45;

/** The layer that holds a picture's colours. @throws InputError where none does */
function pictureLayer(frame: Frame, what: string): string {
  const colours = [...frame.layers.values()].filter((p) => p.bands.length === 3 && p.name !== "normal" && p.name !== "position");
  const found = colours.find((p) => p.name === "") ?? colours.find((p) => /beauty|rgb/i.test(p.name)) ?? colours[0];
  if (!found) throw new InputError(`${what}: has no colours; it has ${[...frame.layers.keys()].join(", ")}`);
  return found.name;
}

/** The layer that holds a depth; null where no layer is called so. @param alone whether the file is one of depth */
export function depthLayerOf(frame: Frame, alone: boolean): string | null {
  for (const layer of DEPTH_LAYERS) if (frame.layers.has(layer)) return layer;
  const named = [...frame.layers.keys()].find((n) => /(^|[._ -])(z|depth|distance)([._ -]|$)/i.test(n));
  if (named !== undefined) return named;
  const only = alone
    ? ([...frame.layers.keys()].find((n) => frame.layers.get(n)!.bands.length === 1) ?? [...frame.layers.keys()][0])
    : undefined;
  return only ?? null;
}

/** What a layer of depth is taken to be along, by its name. */
export const alongOf = (layer: string): Plate["along"] => (/distance/i.test(layer) ? "ray" : "axis");

/**
 * @param depth null: the picture holds its depth, too
 * @throws InputError where colours or depth are missing, or sizes differ
 */
export function beginPlate(title: string, picture: PlateFile, depth: PlateFile | null, said: PlateSaid = {}): BegunPlate {
  const guessed: Guess[] = [];
  const layer = said.layer ?? pictureLayer(picture.frame, picture.uri);
  const deep = depth ?? picture;
  const depthLayer = said.depthLayer ?? depthLayerOf(deep.frame, depth !== null);
  if (depthLayer === null)
    throw new InputError(`${deep.uri}: none of its layers is called distance, depth or Z; it has ${[...deep.frame.layers.keys()].map((n) => n || "a main picture").join(", ")}`); // prettier-ignore
  const from = documentOf(picture.frame);
  const lens = lensOfFile(picture.frame) ?? (depth && lensOfFile(depth.frame));
  if (!lens && said.fieldOfView === undefined) guessed.push({ what: "angle", words: `the angle of the lens: ${GUESSED_ANGLE}°` });
  const whole = deep.whole && said.range === undefined;
  if (whole) guessed.push({ what: "range", words: `what black and white of the depth stand for: ${GUESSED_RANGE.join(" to ")} m` });
  const ours = picture.frame.layers.get(layer)?.light === true;
  const plate: Plate = {
    ...{ picture: "picture", layer, depth: depth ? "depth" : "picture", depthLayer },
    ...{ along: alongOf(depthLayer), range: whole ? GUESSED_RANGE : null, inverted: false, unit: 1, sky: null },
    // what Fumarium wrote is in cd/m²
    ...{ light: ours ? 0 : 12, position: [0, STANDING, 0], heading: 0, tilt: 0, roll: 0 },
    ...{ fieldOfView: lens?.fieldOfView ?? GUESSED_ANGLE, edges: true, across: 640 },
    ...lens?.stand,
    ...said,
  };
  const pictures = platePictures(plate, picture.frame, deep.frame, { picture: picture.uri, depth: deep.uri });
  let report = plateReport(plate, pictures);
  const { ground } = report;
  if (lens?.by === "matrix" && ground && said.tilt === undefined) turnUpright(plate, ground.up);
  if (!lens?.stand) {
    const held = ground && degreesHeld(ground.up);
    if (said.tilt === undefined && said.roll === undefined) {
      if (held) Object.assign(plate, held);
      else guessed.push({ what: "held", words: "how the lens is held: level" });
    }
    if (said.position === undefined) {
      plate.position = [0, ground ? Number(ground.height.toPrecision(6)) : STANDING, 0];
      if (!ground) guessed.push({ what: "height", words: `how high the lens stands: ${STANDING} m` });
    }
    report = plateReport(plate, pictures);
  }
  const linear = !picture.whole;
  const white = from && ours ? from.film : null;
  const bare = parseDocument({
    fumarium: 2,
    title,
    assets: {
      picture: { uri: picture.uri, sha256: picture.sha256 },
      ...(depth ? { depth: { uri: depth.uri, sha256: depth.sha256 } } : {}),
    },
    materials: { plate: {} },
    objects: [{ kind: "plate", name: "plate", material: "plate", locked: true }],
    film: {
      size: [pictures.width, pictures.height],
      // 1 is white, and white as it is
      exposure: white?.exposure ?? Number((plate.light - Math.log2(1.2)).toFixed(6)),
      whiteBalance: white?.whiteBalance ?? 6504,
      tint: white?.tint ?? 0,
      finish: white ? { ...white.finish, lut: null } : { ...finishSchema.parse({}), ...(linear ? {} : { rollOff: 0 }) },
    },
    plate,
  });
  return { document: { ...bare, camera: plateCamera(plate, bare.camera) }, plate, pictures, report, guessed };
}

/** Whether a plate still has what was guessed. */
export function stillGuessed({ what }: Pick<Guess, "what">, { fieldOfView, range, tilt, roll, position }: Plate): boolean {
  switch (what) {
    case "angle":
      return fieldOfView === GUESSED_ANGLE;
    case "range":
      return range !== null && range.every((v, k) => v === GUESSED_RANGE[k]);
    case "held":
      return tilt === 0 && roll === 0;
    case "height":
      return position[1] === STANDING;
  }
}

/** Turns a lens of a world whose z is up, as its ground tells, so that y is. */
function turnUpright(plate: Plate, groundUp: Readonly<V3>): void {
  const { right, up, forward } = cameraFrame(plateCamera(plate, parseDocument({ fumarium: 2 }).camera));
  const inWorld = ([x, y, z]: Readonly<V3>): V3 => map3(right, (r, k) => x * r + y * up[k] - z * forward[k]);
  const side = inWorld(groundUp)[2];
  if (Math.abs(side) < 0.9) return;
  const turned = ([x, y, z]: Readonly<V3>): V3 => (side > 0 ? [x, z, -y] : [x, -z, y]);
  Object.assign(plate, heldInWorld(turned(plate.position), turned(forward), turned(up)));
}

/** How a lens is held, in a document's degrees. */
export function degreesHeld(up: Readonly<V3>): { tilt: number; roll: number } {
  const { tilt, roll } = heldBy(unit(up));
  const degrees = (v: number): number => Number(((180 * v) / Math.PI).toFixed(4)) + 0;
  return { tilt: degrees(tilt), roll: degrees(-roll) };
}
