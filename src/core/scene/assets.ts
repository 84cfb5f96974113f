/** Bytes of the assets that a document uses to what the compiler takes. */
import type { SceneDocument } from "../document/schema";
import { readModel } from "../formats/gltf";
import { photometryGrid, readIes } from "../formats/ies";
import { readPicture } from "../formats/image";
import { readVdb } from "../formats/vdb";
import type { Resources } from "./compiled";
import type { Mesh } from "../data/geometry";
import type { Lut } from "../data/lut";
import { readCube } from "../formats/cube";
import { assetOf, lutAsset, usedAssets } from "../document/assets";
import type { Picture } from "../data/picture";
import type { Volume } from "../data/volume";

/** Volume files that are kept as read: the neighbours of a time that is moved to and fro. */
const MAX_KNOWN = 8;

/**
 * Reads the assets a document uses. @param bytesOf fetches one by name
 * @param known models by hash that were read before; those read now are added, those not used any more taken out
 * @param knownVolumes the same of volume files, of which the latest {@link MAX_KNOWN} are kept
 * @throws InputError naming the asset
 */
export async function readResources(
  doc: SceneDocument,
  bytesOf: (name: string) => Promise<Uint8Array>,
  known?: Map<string, Mesh>,
  knownVolumes?: Map<string, Readonly<Record<string, Volume>>>,
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
  return { models, pictures, profiles, volumes };
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
