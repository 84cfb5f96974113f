/** Work that must not hold up the interface: models to scenes, films to files and back. */
import { assetOf } from "#core/document/assets";
import { AXES } from "#core/math/vectors";
import { expose, transfer } from "comlink";
import { zlibSync } from "fflate";
import type { Gobo } from "#core/document/lights";
import type { SceneDocument } from "#core/document/schema";
import { type Film } from "#core/film/film";
import type { PassName } from "#core/film/passes";
import { writeArchive } from "#core/exchange/archive";
import { exportGltf } from "#core/exchange/gltf-export";
import { readExr } from "#core/formats/exr-read";
import { photometryGrid, photometryLumens, readIes, type Photometry } from "#core/formats/ies";
import { readPicture } from "#core/formats/image";
import { readVdb, type GridReport, type VolumeFile } from "#core/formats/vdb";
import { boxCorners, type Volume } from "#core/data/volume";
import { filmToExr } from "#core/formats/film-exr";
import { filmFromExr, type RenderFacts } from "#core/formats/picture";
import { filmToPng } from "#core/formats/shown";
import type { Lut } from "#core/data/lut";
import { readCube } from "#core/formats/cube";
import { platePicturesOf, readLut, readResources, type KnownPlate } from "#core/scene/assets";
import type { DepthReport } from "#core/plate/claims";
import { plateReport } from "#core/plate/read";
import type { Mesh } from "#core/data/geometry";
import { compileTimeVarying, compileScene, trianglesOf } from "#core/scene/compile";
import { sharedFilm } from "./film-readings";
import { shellOf, type SetShell } from "./set-shell";
import { openEdges } from "#core/scene/closed";
import { contourOf, type Eye } from "#core/scene/contour";
import type { CompiledGeometry, TimeVaryingGeometry, Resources } from "#core/scene/compiled";
import { assemble } from "#core/scene/assemble";
import { goboPicture } from "#core/scene/gobo";
import { goboAsset } from "#core/document/assets";
import type { Picture } from "#core/data/picture";

const known = new Map<string, Uint8Array>();
/** Models of the document at hand, so that moving an object reads none anew. */
const models = new Map<string, Mesh>();
/** Volume files read last, so that a time in a sequence is soon there again. */
const volumes = new Map<string, Readonly<Record<string, Volume>>>();
const plates: KnownPlate = {};
const resourcesOf = (doc: SceneDocument): Promise<Resources> => readResources(doc, (name) => bytesOf(doc, name), models, volumes, plates);

/** Bytes of files kept at most. */
const MAX_BYTES = 600_000_000;
function keep(sha256: string, bytes: Uint8Array): void {
  known.set(sha256, bytes);
  let sum = 0;
  for (const b of known.values()) sum += b.length;
  for (const [old, b] of known) {
    if (sum <= MAX_BYTES || old === sha256) break;
    known.delete(old);
    sum -= b.length;
  }
}

async function bytesOf(doc: SceneDocument, name: string): Promise<Uint8Array> {
  const sha256 = assetOf(doc, name).sha256;
  if (!sha256) throw new Error(`The asset "${name}" has no hash to find it by.`);
  const had = known.get(sha256);
  if (had) return had;
  const response = await fetch(`/api/assets/${sha256}`);
  if (!response.ok) throw new Error(`The asset "${name}" could not be loaded (${response.status}).`);
  const bytes = new Uint8Array(await response.arrayBuffer());
  keep(sha256, bytes);
  return bytes;
}

/** What a plate says of itself: its size, the layers of its files, the share of pixels that edges cross, and its depth's report. */
export interface PlateFacts {
  width: number;
  height: number;
  layers: { picture: string[]; depth: string[] };
  parted: number;
  report: DepthReport;
}

export interface VolumeContent {
  grids: (GridReport & { bounds: number[]; histogram: number[] })[];
  left: string[];
}

/** Bars of a channel's histogram of values. */
const BARS = 32;

function contentOf(file: VolumeFile): VolumeContent {
  const grids = file.grids.map((g) => {
    const v = file.channels[g.name]!;
    const histogram = new Array<number>(BARS).fill(0);
    const scale = v.max > v.min ? BARS / (v.max - v.min) : 0;
    for (const x of v.data) if (x !== v.background) histogram[Math.max(0, Math.min(BARS - 1, Math.floor((x - v.min) * scale)))]!++;
    const placed = boxCorners(v, v.toWorld);
    const bounds = [Math.min, Math.max].flatMap((f) => AXES.map((k) => f(...placed.map((p) => p[k]))));
    return { ...g, bounds, histogram };
  });
  return { grids, left: file.left };
}

const api = {
  /** Loads the assets of a document and builds its scene. */
  async build(doc: SceneDocument): Promise<CompiledGeometry> {
    const geometry = compileScene(doc, await resourcesOf(doc));
    return transfer(geometry, [
      geometry.bvh.nodes,
      geometry.bvh.leaves,
      geometry.triangles,
      geometry.places,
      geometry.emissive.buffer as ArrayBuffer,
    ]);
  },

  /** Grids, pictures and profiles alone, for a scene whose triangles are built already. */
  async loose(doc: SceneDocument): Promise<TimeVaryingGeometry> {
    return compileTimeVarying(doc, await resourcesOf(doc));
  },

  /** The set for the drawings of space. */
  async shell(doc: SceneDocument): Promise<SetShell> {
    const shell = shellOf(assemble(doc, (await resourcesOf(doc)).models));
    return transfer(shell, [shell.positions.buffer as ArrayBuffer, shell.colours.buffer as ArrayBuffer]);
  },

  /** What the document's models are made of, by asset: paths of their parts and triangles of each. As of the last build. */
  parts(doc: SceneDocument): Record<string, { path: string; count: number }[]> {
    return Object.fromEntries(
      Object.entries(doc.assets).flatMap(([name, { sha256 }]) => {
        const mesh = sha256 ? models.get(sha256) : undefined;
        // copies of one node are one part of the set
        const counts = new Map<string, number>();
        for (const { path, count } of mesh?.parts ?? []) counts.set(path, (counts.get(path) ?? 0) + count);
        return mesh?.parts ? [[name, [...counts].map(([path, count]) => ({ path, count }))]] : [];
      }),
    );
  },

  /** Where an object's surface is open, so that air cannot fill it: 6 numbers an edge, m. @throws where it has no triangles */
  async openEdges(doc: SceneDocument, object: string): Promise<number[]> {
    const positions = trianglesOf(doc, (await resourcesOf(doc)).models, object);
    if (positions.length === 0) throw new Error(`${object} has no surface, so it bounds nothing.`);
    return openEdges(positions);
  },

  /** Outline of an object's surface as an eye sees it: 6 numbers a segment, m; none where it has no triangles. */
  async contour(doc: SceneDocument, object: string, eye: Eye | null): Promise<number[]> {
    return contourOf(trianglesOf(doc, (await resourcesOf(doc)).models, object), eye);
  },

  /** What the plate of a document says of itself. @throws where it has none, or its files cannot be read */
  async plate(doc: SceneDocument): Promise<PlateFacts> {
    if (!doc.plate) throw new Error("The project has no plate.");
    const { pictures } = await platePicturesOf(doc, doc.plate, (name) => bytesOf(doc, name), plates);
    const { width, height, layers } = pictures;
    // as it is made for the picture, too: once
    const parted = (await resourcesOf(doc)).plate?.parted ?? 0;
    return { width, height, layers, parted: parted / (width * height), report: plateReport(doc.plate, pictures) };
  },

  /** The project as one file: document and assets in a zip archive. */
  async archive(doc: SceneDocument, name: string): Promise<Uint8Array> {
    const encoder = new TextEncoder();
    const bytes = await writeArchive(
      doc,
      name,
      (text) => encoder.encode(text),
      (asset) => bytesOf(doc, asset),
    );
    return transfer(bytes, [bytes.buffer as ArrayBuffer]);
  },

  /** The scene as binary glTF, and what that leaves out. */
  async gltf(doc: SceneDocument): Promise<{ bytes: Uint8Array; left: string[] }> {
    const made = await exportGltf(doc, (await resourcesOf(doc)).models);
    return transfer(made, [made.bytes.buffer as ArrayBuffer]);
  },

  /** Reads a picture to see whether it can be. @throws with what is wrong */
  checkPicture(bytes: Uint8Array, what: string): void {
    readPicture(bytes, what);
  },

  /** Reads a look-up table to see whether it can be. @throws with what is wrong */
  checkLut(text: string, what: string): void {
    readCube(text, what, what);
  },

  /** The look-up table that a document's picture is finished with; null for none. */
  async lut(doc: SceneDocument): Promise<Lut | null> {
    return readLut(doc, (name) => bytesOf(doc, name));
  },

  /** What a volume file holds, read from its bytes. @throws with what is wrong */
  async volume(bytes: Uint8Array, what: string): Promise<VolumeContent> {
    return contentOf(await readVdb(bytes, what));
  },

  /** What a volume of the document holds. */
  async volumeOf(doc: SceneDocument, asset: string): Promise<VolumeContent> {
    return contentOf(await readVdb(await bytesOf(doc, asset), assetOf(doc, asset).uri));
  },

  /** What a gobo lets through, sharp. */
  async gobo(gobo: Gobo, doc: SceneDocument, across: number): Promise<Picture> {
    const asset = goboAsset(gobo, doc.time);
    const pictures = asset ? { [asset]: readPicture(await bytesOf(doc, asset), asset) } : {};
    return goboPicture(gobo, doc.time, pictures, across, 0);
  },

  /** A photometric profile, for its drawing. */
  async photometry(doc: SceneDocument, asset: string): Promise<{ photometry: Photometry; lumens: number; grid: Float32Array }> {
    const photometry = readIes(new TextDecoder("latin1").decode(await bytesOf(doc, asset)), asset);
    return { photometry, lumens: photometryLumens(photometry), grid: photometryGrid(photometry) };
  },

  /** A film as OpenEXR. `soon` trades a larger file for an answer that does not hold the artist up, `finished` makes R, G, B the finished picture. */
  async exr(
    film: Film,
    passes: PassName[],
    type: "half" | "float",
    doc: SceneDocument,
    facts: RenderFacts,
    { soon = false, finished = false }: { soon?: boolean; finished?: boolean } = {},
  ): Promise<Uint8Array> {
    const bytes = filmToExr(film, passes, type, doc, facts, {
      made: new Date(),
      finished: finished ? { lut: await readLut(doc, (name) => bytesOf(doc, name)) } : null,
      ...(soon ? { deflate: (b: Uint8Array) => zlibSync(b, { level: 1 }) } : {}),
    });
    return transfer(bytes, [bytes.buffer as ArrayBuffer]);
  },

  /** A film developed, as PNG. */
  async png(film: Film, pass: PassName, doc: SceneDocument, facts: RenderFacts, depth: 8 | 16 = 8): Promise<Uint8Array> {
    const bytes = filmToPng(film, pass, doc, facts, depth, await readLut(doc, (name) => bytesOf(doc, name)));
    return transfer(bytes, [bytes.buffer as ArrayBuffer]);
  },

  /** The film of a proof, from its OpenEXR file: every pass as one sample a pixel. */
  async film(sha256: string): Promise<Film> {
    const response = await fetch(`/api/assets/${sha256}`);
    if (!response.ok) throw new Error(`The proof's film could not be loaded (${response.status}).`);
    const film = sharedFilm(filmFromExr(readExr(new Uint8Array(await response.arrayBuffer()), "proof")));
    const { buffer } = film.data;
    return buffer instanceof ArrayBuffer ? transfer(film, [buffer]) : film;
  },
};

export type SceneWorker = typeof api;
expose(api);
