/** fumarium plate: what the depth of a picture that was made elsewhere says, and a scene of it for air and its shadows. */
import { createHash } from "node:crypto";
import { mkdir } from "node:fs/promises";
import { basename, join } from "node:path";
import { formatNumber } from "#core/document/quantities";
import { InputError } from "#core/errors";
import { frameOf, nearestOf } from "#core/compose/sources";
import { readExrLayers } from "#core/formats/exr-read";
import { readPng } from "#core/formats/png";
import { depthReport, type DepthReport } from "#core/plate/claims";
import { PLAIN_CLAIM, readDepth, type DepthClaim } from "#core/plate/depth";
import { fieldOfViewOf, upByHorizon, type PlateLens } from "#core/plate/lens";
import { depthMesh } from "#core/plate/mesh";
import { plateModel, plateScene } from "#core/plate/scene";
import { writeWhole } from "#finals/output";
import { readLimited } from "./load";

export interface PlateOptions {
  input: string;
  /** Layer of an OpenEXR; null: the first of those that are usual. */
  layer: string | null;
  /** Vertical, degrees; or a sensor's width and a focal length, mm. */
  fieldOfView: number | null;
  sensor: readonly [across: number, focal: number] | null;
  claim: Partial<DepthClaim>;
  /** What the lens is known to stand over the ground, m: the unit follows. */
  height: number | null;
  /** Two points of the horizon, shares of the frame. */
  horizon: readonly [number, number, number, number] | null;
  /** Pixels across of the surface. */
  across: number;
  /** Where the scene goes; null: it is told alone. */
  folder: string | null;
}

export interface PlateReport extends DepthReport {
  layer: string;
  size: [number, number];
  claim: DepthClaim;
  output: string | null;
  triangles: number | null;
}

const MOST_BYTES = 8_000_000_000;
/** Layers that depth is looked for in, and whether they are along the ray. */
const LAYERS: readonly (readonly [string, DepthClaim["along"]])[] = [
  ["distance", "ray"],
  ["depth", "axis"],
  ["Z", "axis"],
  ["", "axis"],
  ["V", "axis"],
];
/** Height that a lens is taken to stand at where neither ground nor word tells it, m. */
const STANDING = 1.6;

interface Given {
  values: Float32Array;
  width: number;
  height: number;
  layer: string;
  along: DepthClaim["along"];
  /** Whether they are whole numbers, which have no unit. */
  whole: boolean;
}
const wholeNumbers = (values: Float32Array, width: number, height: number): Given => ({
  ...{ values, width, height, layer: "", along: "axis", whole: true },
});

/** Numbers of a file's depth: of OpenEXR as they are, of PNG and TIFF from 0 to 1. @throws InputError */
async function depthIn(o: PlateOptions): Promise<Given> {
  const bytes = await readLimited(o.input, MOST_BYTES, o.input);
  if (bytes[0] === 0x89) {
    const { width, height, top, rgba } = readPng(bytes, o.input, MOST_PIXELS);
    return wholeNumbers(
      Float32Array.from({ length: width * height }, (_, i) => (rgba[4 * i] ?? 0) / top),
      width,
      height,
    );
  }
  if ((bytes[0] === 0x49 && bytes[1] === 0x49) || (bytes[0] === 0x4d && bytes[1] === 0x4d)) return await tiffDepth(bytes, o.input);
  const { width, height, layers } = frameOf(readExrLayers(bytes, o.input), o.input);
  const layer = o.layer ?? LAYERS.find(([name]) => layers.has(name))?.[0];
  const values = layer === undefined ? undefined : layers.get(layer)?.bands[0];
  if (layer === undefined || !values)
    throw new InputError(
      `${o.input}: ${o.layer === null ? "none of its layers is called distance, depth or Z" : `it has no layer "${layer}"`}; it has ${[...layers.keys()].map((n) => n || "a main picture").join(", ")} (--layer)`,
    );
  return { values, width, height, layer, along: LAYERS.find(([name]) => name === layer)?.[1] ?? "axis", whole: false };
}
const MOST_PIXELS = 1 << 28;

async function tiffDepth(bytes: Uint8Array, what: string): Promise<Given> {
  const { default: sharp } = await import("sharp");
  try {
    const grey = sharp(bytes, { limitInputPixels: MOST_PIXELS }).extractChannel(0).toColourspace("grey16");
    const { data, info } = await grey.raw({ depth: "ushort" }).toBuffer({ resolveWithObject: true });
    const values = new Uint16Array(data.buffer, data.byteOffset, data.length / 2);
    return wholeNumbers(
      Float32Array.from(values, (v) => v / 65535),
      info.width,
      info.height,
    );
  } catch (error) {
    throw new InputError(`${what}: not readable as TIFF (${(error as Error).message})`);
  }
}

/** @throws InputError, OutputError */
export async function plateCommand(o: PlateOptions): Promise<PlateReport> {
  const { values, width, height, layer, along, whole } = await depthIn(o);
  const fieldOfView = o.fieldOfView !== null ? (o.fieldOfView * Math.PI) / 180 : o.sensor && fieldOfViewOf(...o.sensor, width, height);
  if (fieldOfView === null) throw new InputError("plate: say the lens: --fov DEGREES (vertical), or --sensor MM and --focal MM");
  const asked: DepthClaim = { ...PLAIN_CLAIM, along, ...o.claim };
  if (whole && !asked.range)
    throw new InputError(`${o.input}: whole numbers have no metres; say what black and white stand for: --range NEAR,FAR`);
  const lens: PlateLens = { fieldOfView, width, height };
  let claim = asked;
  let report = depthReport(values, lens, claim);
  if (o.height !== null) {
    if (!report.ground) throw new InputError("--height: no ground is found in the depth that it could be the height over");
    claim = { ...claim, metres: (claim.metres * o.height) / report.ground.height };
    report = depthReport(values, lens, claim);
  }
  const told = { ...report, layer, size: [width, height] as [number, number], claim };
  if (o.folder === null) return { ...told, output: null, triangles: null };
  if (report.near === null) throw new InputError(`${o.input}: nothing has a distance, so there is no scene of it`);
  const up = o.horizon
    ? upByHorizon(lens, [o.horizon[0], o.horizon[1]], [o.horizon[2], o.horizon[3]])
    : (report.ground?.up ?? ([0, 1, 0] as [number, number, number]));
  const stand = { up, height: o.height ?? report.ground?.height ?? STANDING };
  const k = Math.min(1, o.across / width);
  const [w, h] = [Math.max(2, Math.round(k * width)), Math.max(2, Math.round(k * height))];
  const smallLens = { fieldOfView, width: w, height: h };
  const mesh = depthMesh(readDepth(nearestOf(values, lens, w, h), smallLens, claim).distance, smallLens);
  if (mesh.triangles.length === 0) throw new InputError(`${o.input}: its depth has no surface that goes on from one pixel to the next`);
  const model = await plateModel(mesh, lens, stand);
  const name = basename(o.input).replace(/\.[^.]*$/, "").replace(/[^\p{L}\p{N}._-]+/gu, "-") || "plate"; // prettier-ignore
  const doc = plateScene(name, lens, stand, [width, height], {
    uri: `${name}.glb`,
    sha256: createHash("sha256").update(model).digest("hex"),
  });
  await mkdir(o.folder, { recursive: true }).catch((e: NodeJS.ErrnoException) => {
    throw new InputError(`${o.folder}: cannot be made (${e.code})`);
  });
  await writeWhole(join(o.folder, `${name}.glb`), model);
  const output = join(o.folder, `${name}.fumarium.json`);
  await writeWhole(output, `${JSON.stringify(doc, null, 2)}\n`);
  return { ...told, output, triangles: mesh.triangles.length / 3 };
}

/** A report in lines. */
export function plateText(r: PlateReport): string[] {
  const m = (v: number): string => `${formatNumber(v, 3)} m`;
  const degrees = (v: number): string => `${formatNumber((180 * v) / Math.PI, 3)}°`;
  const lines = [
    `depth ${r.layer ? `"${r.layer}"` : "of the main picture"}, ${r.size.join(" × ")}: ${r.near === null ? "nothing is there" : `from ${m(r.near)} to ${m(r.far ?? 0)}`}, ${formatNumber(100 * r.sky, 2)} % sky`,
  ];
  if (r.ground) {
    const { height, tilt, roll, share, horizon } = r.ground;
    lines.push(
      `ground in ${formatNumber(100 * share, 2)} % of the lower half; the lens stands ${m(height)} over it, looks ${tilt < 0 ? "down" : "up"} by ${degrees(Math.abs(tilt))} and leans by ${degrees(roll)}`,
    );
    if (horizon)
      lines.push(
        `horizon from ${formatNumber(100 * horizon.left, 3)} % to ${formatNumber(100 * horizon.right, 3)} % of the height, from the top`,
      );
  } else lines.push("no ground is found: say --horizon and --height");
  for (const doubt of r.doubts) lines.push(`doubt: ${doubt}`);
  if (r.output) lines.push(`${r.output}: its scene, a surface of ${r.triangles} triangles; what lies behind what is seen is not known`);
  return lines;
}
