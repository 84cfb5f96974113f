/** Films as OpenEXR files: all passes as layers of one picture, as parts of one file, or each in a file of its own. */
import type { Lut } from "../data/lut";
import { cameraFrame } from "../document/camera";
import type { SceneDocument } from "../document/schema";
import { develop } from "../film/develop";
import { frameOfFilm, type Film } from "../film/film";
import type { PassName } from "../film/passes";
import { dot } from "../math/vectors";
import { decodeSrgb, REC709 } from "../optics/colour";
import type { FileLayout } from "./depths";
import { writeExr, writeExrParts, type ExrChannel, type ExrImage, type ExrOptions, type ExrPart } from "./exr";
import { filmChannels, LIGHTS, type ChannelOptions, type RenderFacts } from "./picture";

export interface FilmExrOptions extends ExrOptions, ChannelOptions {
  made?: Date;
  /** R, G, B are the picture as it is developed and finished, with this table. */
  finished?: { lut: Lut | null } | null;
  /** Pixels an inch of a print. */
  dpi?: number | null;
}

/** The layer of channels that have none. */
export const MAIN_LAYER = "beauty";

/**
 * A film as OpenEXR, with the document and the render's facts in the header. Its light is as it was rendered; where `finished` is asked
 * for, R, G, B are the picture as it is developed and finished (then the header says so), and every other channel as ever.
 */
export const filmToExr = (
  film: Film,
  passes: readonly PassName[],
  type: "half" | "float",
  doc: SceneDocument,
  facts: RenderFacts,
  options: FilmExrOptions = {},
): Uint8Array => filmToExrFiles(film, passes, type, doc, facts, options, "layers")[0].bytes;

/** A file, and the layer that it has; null: all. */
interface ExrFile {
  layer: string | null;
  bytes: Uint8Array;
}

/** The same as one file or several; a file of one pass has its name, one of all has none. */
export function filmToExrFiles(
  film: Film,
  passes: readonly PassName[],
  type: "half" | "float",
  doc: SceneDocument,
  facts: RenderFacts,
  options: FilmExrOptions,
  layout: FileLayout,
): [ExrFile, ...ExrFile[]] {
  const finished: Partial<Record<string, Float32Array>> = options.finished ? finishedChannels(film, doc, options.finished.lut) : {};
  const channels = filmChannels(film, passes, type, options).map((c) => (c.name in finished ? { ...c, values: finished[c.name]! } : c));
  const head = headOf(film, doc, facts, options);
  if (layout === "layers") return [{ layer: null, bytes: writeExr({ ...head, channels }, options) }];
  const parts = partsOf(channels);
  if (layout === "parts") return [{ layer: null, bytes: writeExrParts(head, parts, options) }];
  const [first, ...others] = parts.map((part): ExrFile => ({
    layer: part.name,
    bytes: writeExr({ ...head, channels: part.channels }, options),
  }));
  if (!first) throw new Error("exr: no pass is asked for");
  return [first, ...others];
}

/** Channels by their layers, the picture's own first, each named by its band alone. */
export function partsOf(channels: readonly ExrChannel[]): ExrPart[] {
  const parts = new Map<string, ExrChannel[]>([[MAIN_LAYER, []]]);
  for (const { name, ...rest } of channels) {
    const end = name.lastIndexOf(".");
    const [layer, band] = end < 0 ? [MAIN_LAYER, name] : [name.slice(0, end), name.slice(end + 1)];
    // depth by the name that readers of layers look for; it has a part of its own
    if (layer === MAIN_LAYER && band === "Z") continue;
    const part = parts.get(layer) ?? [];
    part.push({ ...rest, name: band });
    parts.set(layer, part);
  }
  return [...parts].filter(([, own]) => own.length > 0).map(([name, own]) => ({ name, channels: own }));
}

/** What a file says besides its pixels. */
function headOf(film: Film, doc: SceneDocument, facts: RenderFacts, { made, finished, dpi }: FilmExrOptions): Omit<ExrImage, "channels"> {
  const [x0, y0, x1, y1] = film.crop;
  const frame = frameOfFilm(film);
  const date = made?.toISOString();
  return {
    width: x1 - x0,
    height: y1 - y0,
    frame: { x: frame.x + x0, y: frame.y + y0, width: frame.width, height: frame.height },
    // Rec. 709 and D65
    chromaticities: REC709,
    ...(facts.frame !== undefined && facts.fps !== undefined
      ? { rate: rateOf(facts.fps), timeCode: timeCodeOf(facts.frame, facts.fps) }
      : {}),
    ...(dpi ? { density: dpi } : {}),
    matrices: lensMatrices(doc),
    attributes: {
      software: "Fumarium",
      ...(date ? { capDate: date.slice(0, 19).replaceAll("-", ":").replace("T", " ") } : {}),
      "fumarium.document": JSON.stringify(doc),
      "fumarium.time": `${doc.time} s`,
      ...(finished ? { "fumarium.finished": "R, G, B: developed and finished, linear light of the display" } : {}),
      ...(film.lights.length > 0 ? { [LIGHTS]: JSON.stringify(film.lights) } : {}),
      "fumarium.render": JSON.stringify(facts),
    },
  };
}

/** The picture as it is developed and finished, in linear light of the display, 1 being its white. */
function finishedChannels(film: Film, doc: SceneDocument, lut: Lut | null): Record<"R" | "G" | "B", Float32Array> {
  const [x0, y0, x1, y1] = film.crop;
  const rgba = new Uint16Array(4 * film.width * film.height);
  develop(film, "beauty", { ...doc.film, lut }, rgba);
  const of = (band: number): Float32Array => {
    const out = new Float32Array((x1 - x0) * (y1 - y0));
    for (let y = y0, i = 0; y < y1; y++)
      for (let x = x0; x < x1; x++, i++) out[i] = decodeSrgb(rgba[4 * (y * film.width + x) + band]! / 65535);
    return out;
  };
  return { R: of(0), G: of(1), B: of(2) };
}

/** Frames a second as a fraction; those of television (23.976 …) in 1001ths. */
export function rateOf(fps: number): [number, number] {
  if (Number.isInteger(fps)) return [fps, 1];
  const drop = Math.round(fps * 1.001);
  return Math.abs(fps - (drop * 1000) / 1001) < 5e-4 ? [drop * 1000, 1001] : [Math.round(fps * 1000), 1000];
}

/** Hours, minutes, seconds and frames as SMPTE 12M packs them, two decimal digits each; null where a second has more than it can count. */
export function timeCodeOf(frame: number, fps: number): number | null {
  const whole = Math.round(fps);
  if (whole < 1 || whole > 40) return null;
  const seconds = Math.floor(frame / whole);
  const parts = [frame % whole, seconds % 60, Math.floor(seconds / 60) % 60, Math.floor(seconds / 3600) % 24];
  return parts.reduce((code, v, i) => code + (Math.floor(v / 10) * 16 + (v % 10)) * 256 ** i, 0);
}

/**
 * Matrices for row vectors by the format's standard attributes: from the scene to the lens (right, up, along its axis, m), and to the
 * frame (0 to 1 from its upper left).
 */
export function lensMatrices(doc: SceneDocument): { worldToCamera: number[]; worldToNDC: number[] } {
  const { camera, film } = doc;
  const { right, up, forward } = cameraFrame(camera);
  const axes = [right, up, forward];
  const at = axes.map((axis) => -dot(axis, camera.position));
  const worldToCamera = [...[0, 1, 2].flatMap((k) => [...axes.map((axis) => axis[k]!), 0]), ...at, 1];
  const flat = camera.kind === "orthographic";
  const halfY = flat ? camera.height / 2 : Math.tan((camera.fieldOfView * Math.PI) / 360);
  const halfX = (halfY * film.size[0]) / film.size[1];
  const toFrame = flat
    ? [[0.5 / halfX, 0, 0, 0], [0, -0.5 / halfY, 0, 0], [0, 0, 1, 0], [0.5, 0.5, 0, 1]] // prettier-ignore
    : [[0.5 / halfX, 0, 0, 0], [0, -0.5 / halfY, 0, 0], [0.5, 0.5, 1, 1], [0, 0, 0, 0]]; // prettier-ignore
  const worldToNDC = [0, 1, 2, 3].flatMap((row) =>
    [0, 1, 2, 3].map((column) => toFrame.reduce((sum, line, k) => sum + worldToCamera[4 * row + k]! * line[column]!, 0)),
  );
  return { worldToCamera, worldToNDC };
}
