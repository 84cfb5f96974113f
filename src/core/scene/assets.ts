/** Bytes of the assets that a document uses to what the compiler takes. */
import type { SceneDocument } from "../document/schema";
import { readModel } from "../formats/gltf";
import { photometryGrid, readIes } from "../formats/ies";
import { readPicture } from "../formats/image";
import { readVdb } from "../formats/vdb";
import type { Resources } from "./compiled";
import { PLATE_SURFACE } from "../document/plate";
import { readPlatePictures, type PlatePictures } from "../plate/read";
import { compilePlate, type PlateResource } from "./plate";
import type { Mesh } from "../data/geometry";
import type { Lut } from "../data/lut";
import { readCube } from "../formats/cube";
import { assetOf, lutAsset, usedAssets } from "../document/assets";
import type { Picture } from "../data/picture";
import type { Volume } from "../data/volume";

/** What was read of a plate last, and made of it: its lens and its depth are tried many times. */
export interface KnownPlate {
  pictures?: { key: string; are: PlatePictures };
  compiled?: { key: string; is: PlateResource };
}

/** Volume files that are kept as read: the neighbours of a time that is moved to and fro. */
const MAX_KNOWN = 8;

/**
 * Reads the assets a document uses. @param bytesOf fetches one by name
 * @param known models by hash that were read before; those read now are added, those not used any more taken out
 * @param knownVolumes the same of volume files, of which the latest {@link MAX_KNOWN} are kept
 * @param knownPlates the plate read last
 * @throws InputError naming the asset
 */
export async function readResources(
  doc: SceneDocument,
  bytesOf: (name: string) => Promise<Uint8Array>,
  known?: Map<string, Mesh>,
  knownVolumes?: Map<string, Readonly<Record<string, Volume>>>,
  knownPlates?: KnownPlate,
): Promise<Resources> {
  const models = new Map<string, Mesh>(),
    pictures = new Map<string, Picture>(),
    profiles = new Map<string, Float32Array>(),
    volumes = new Map<string, Readonly<Record<string, Volume>>>();
  const used = usedAssets(doc);
  if (known) {
    const present = new Set([...used].flatMap(([name, use]) => (use === "model" ? [assetOf(doc, name).sha256] : [])));
    for (const hash of known.keys()) if (!present.has(hash)) known.delete(hash);
  }
  for (const [name, use] of used) {
    if (use === "plate") continue;
    const hash = assetOf(doc, name).sha256;
    const had = use === "model" && hash ? known?.get(hash) : undefined;
    if (had) {
      models.set(name, had);
      continue;
    }
    const read = use === "volume" && hash ? knownVolumes?.get(hash) : undefined;
    if (read) {
      volumes.set(name, read);
      // the latest last
      if (hash) {
        knownVolumes?.delete(hash);
        knownVolumes?.set(hash, read);
      }
      continue;
    }
    const bytes = await bytesOf(name);
    const what = `assets.${name} (${assetOf(doc, name).uri})`;
    if (use === "model") {
      const { mesh } = await readModel(bytes, what);
      models.set(name, mesh);
      if (hash) known?.set(hash, mesh);
    }
    if (use === "picture") pictures.set(name, readPicture(bytes, what));
    if (use === "volume") {
      const { channels } = await readVdb(bytes, what);
      volumes.set(name, channels);
      if (hash) knownVolumes?.set(hash, channels);
      for (const old of knownVolumes?.keys() ?? []) if ((knownVolumes?.size ?? 0) > MAX_KNOWN) knownVolumes?.delete(old);
    }
    if (use === "profile") profiles.set(name, photometryGrid(readIes(latin(bytes), what)));
  }
  const plate = doc.plate && (await readPlate(doc, doc.plate, bytesOf, knownPlates));
  if (plate) models.set(PLATE_SURFACE, plate.surface);
  return { models, pictures, profiles, volumes, ...(plate ? { plate: plate.compiled } : {}) };
}

/** A document's plate, compiled; its pictures are read once while its lens and depth are tried. */
async function readPlate(
  doc: SceneDocument,
  plate: NonNullable<SceneDocument["plate"]>,
  bytesOf: (name: string) => Promise<Uint8Array>,
  known?: KnownPlate,
): Promise<PlateResource> {
  const { pictures, key } = await platePicturesOf(doc, plate, bytesOf, known);
  const own = key === null ? null : JSON.stringify([key, plate]);
  if (own !== null && known?.compiled?.key === own) return known.compiled.is;
  const is = compilePlate(doc, plate, pictures);
  if (own !== null && known) known.compiled = { key: own, is };
  return is;
}

/** The pictures of a document's plate, and what they are known by; null where a file has no hash. @throws InputError */
export async function platePicturesOf(
  doc: SceneDocument,
  plate: NonNullable<SceneDocument["plate"]>,
  bytesOf: (name: string) => Promise<Uint8Array>,
  known?: KnownPlate,
): Promise<{ pictures: PlatePictures; key: string | null }> {
  const what = (name: string): string => `assets.${name} (${assetOf(doc, name).uri})`;
  const hashes = [plate.picture, plate.depth].map((name) => assetOf(doc, name).sha256);
  const key = hashes.every(Boolean) ? JSON.stringify([...hashes, plate.layer, plate.depthLayer]) : null;
  if (key !== null && known?.pictures?.key === key) return { pictures: known.pictures.are, key };
  const pictures = await readPlatePictures(plate, bytesOf, what);
  if (key !== null && known) known.pictures = { key, are: pictures };
  return { pictures, key };
}

/** The look-up table that a document's picture is finished with; null for none. @throws InputError */
export async function readLut(doc: SceneDocument, bytesOf: (name: string) => Promise<Uint8Array>): Promise<Lut | null> {
  const name = doc.film.finish.on ? lutAsset(doc) : null;
  if (!name) return null;
  const { uri, sha256 } = assetOf(doc, name);
  return readCube(latin(await bytesOf(name)), `assets.${name} (${uri})`, sha256 ?? name);
}

/** Bytes as text, one character a byte: photometric files are plain ASCII, and nothing in core decodes more. */
function latin(bytes: Uint8Array): string {
  let text = "";
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return text;
}
