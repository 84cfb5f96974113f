/** fumarium plate: what a picture made elsewhere and its depth say of themselves, and a scene of them. */
import { createHash } from "node:crypto";
import { mkdir } from "node:fs/promises";
import { basename, join } from "node:path";
import type { Plate } from "#core/document/plate";
import { plateCamera } from "#core/document/plate-lens";
import { formatNumber } from "#core/document/quantities";
import { InputError } from "#core/errors";
import { beginPlate, degreesHeld, type PlateSaid } from "#core/plate/begin";
import type { DepthReport } from "#core/plate/claims";
import { plateFile } from "#core/plate/file";
import { fieldOfViewOf, upByHorizon } from "#core/plate/lens";
import { lensOf, plateReport } from "#core/plate/read";
import { writeWhole } from "#finals/output";
import { isTiff, withoutTiff } from "#finals/tiff-read";
import { readLimited } from "./load";

export interface PlateOptions {
  picture: string;
  /** Null: the picture holds it. */
  depth: string | null;
  said: PlateSaid;
  /** A sensor's width and a focal length, mm. */
  sensor: readonly [across: number, focal: number] | null;
  /** What the lens is known to stand over the ground, m: the unit follows. */
  height: number | null;
  /** Two points of the horizon, shares of the frame. */
  horizon: readonly [number, number, number, number] | null;
  /** Where the scene goes; null: it is told alone. */
  folder: string | null;
}

export interface PlateReport extends DepthReport {
  plate: Plate;
  size: [number, number];
  /** What no file and no word says, and is guessed. */
  guessed: string[];
  output: string | null;
}

const MOST_BYTES = 8_000_000_000;

/** A file's bytes, a name for it beside a document, and their hash. TIFF becomes what the computation reads. @throws InputError */
export async function plateBytes(file: string): Promise<{ bytes: Uint8Array; uri: string; sha256: string }> {
  let bytes: Uint8Array = await readLimited(file, MOST_BYTES, file);
  let uri = basename(file).replace(/[^\p{L}\p{N}._-]+/gu, "-");
  if (isTiff(bytes)) {
    const made = await withoutTiff(bytes, file);
    bytes = made.bytes;
    uri = uri.replace(/\.[^.]*$/, "") + made.ending;
  }
  return { bytes, uri, sha256: createHash("sha256").update(bytes).digest("hex") };
}

/** @throws InputError, OutputError */
export async function plateCommand(o: PlateOptions): Promise<PlateReport> {
  const picture = await plateBytes(o.picture);
  const depth = o.depth === null ? null : await plateBytes(o.depth);
  if (depth && depth.uri === picture.uri && depth.sha256 !== picture.sha256) depth.uri = `depth-${depth.uri}`;
  const read = plateFile(picture.bytes, picture.uri, picture.sha256, "picture");
  const { width, height } = read.frame;
  const said: PlateSaid = {
    ...o.said,
    ...(o.sensor ? { fieldOfView: (180 / Math.PI) * fieldOfViewOf(...o.sensor, width, height) } : {}),
  };
  const title = basename(o.picture).replace(/\.[^.]*$/, "") || "plate";
  const begin = (more: PlateSaid) =>
    beginPlate(title, read, depth && plateFile(depth.bytes, depth.uri, depth.sha256, "depth"), { ...said, ...more });
  let begun = begin({});
  const guess = (what: string): boolean => begun.guessed.some((g) => g.what === what);
  if (guess("angle")) throw new InputError("plate: say the lens: --fov DEGREES (vertical), or --sensor MM and --focal MM");
  if (guess("range"))
    throw new InputError(`${o.depth ?? o.picture}: whole numbers have no metres; say what black and white stand for: --range NEAR,FAR`);
  if (o.height !== null) {
    const { ground } = begun.report;
    if (!ground) throw new InputError("--height: no ground is found in the depth that it could be the height over");
    begun = begin({ unit: (begun.plate.unit * o.height) / ground.height, position: [0, o.height, 0] });
  }
  let { plate } = begun;
  if (o.horizon) {
    const [ax, ay, bx, by] = o.horizon;
    plate = { ...plate, ...degreesHeld(upByHorizon(lensOf(plate, { width, height }), [ax, ay], [bx, by])) };
  }
  const told = {
    ...plateReport(plate, begun.pictures),
    plate,
    size: [width, height] as [number, number],
    guessed: begun.guessed.map((g) => g.words),
  };
  if (o.folder === null) return { ...told, output: null };
  if (told.near === null) throw new InputError(`${o.depth ?? o.picture}: nothing has a distance, so there is no scene of it`);
  const document = { ...begun.document, plate, camera: plateCamera(plate, begun.document.camera) };
  await mkdir(o.folder, { recursive: true }).catch((e: NodeJS.ErrnoException) => {
    throw new InputError(`${o.folder}: cannot be made (${e.code})`);
  });
  for (const file of depth ? [picture, depth] : [picture]) await writeWhole(join(o.folder, file.uri), file.bytes);
  const output = join(o.folder, `${picture.uri.replace(/\.[^.]*$/, "")}.fumarium.json`);
  await writeWhole(output, `${JSON.stringify(document, null, 2)}\n`);
  return { ...told, output };
}

/** A report in lines. */
export function plateText(r: PlateReport): string[] {
  const m = (v: number): string => `${formatNumber(v, 3)} m`;
  const degrees = (v: number): string => `${formatNumber((180 * v) / Math.PI, 3)}°`;
  const { depthLayer, along } = r.plate;
  const lines = [
    `depth ${depthLayer ? `"${depthLayer}"` : "of the main picture"} along the ${along}, ${r.size.join(" × ")}: ${r.near === null ? "nothing is there" : `from ${m(r.near)} to ${m(r.far ?? 0)}`}, ${formatNumber(100 * r.sky, 2)} % sky`,
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
  for (const guess of r.guessed) lines.push(`guessed: ${guess}`);
  for (const doubt of r.doubts) lines.push(`doubt: ${doubt}`);
  if (r.output) lines.push(`${r.output}: its scene; what lies behind what is seen is not known`);
  return lines;
}
