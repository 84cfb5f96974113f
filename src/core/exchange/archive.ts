/** A project in one file: a zip archive with the scene document and its assets beside it, as they lie in a folder. */
import { parseDocumentText } from "../document/parse";
import { InputError } from "../errors";
import { LIMITS, type SceneDocument } from "../document/schema";
import { everUsedAssets, type AssetUse } from "../document/assets";
import { IMPORT_LIMITS, plainPath } from "./import/files";
import { unzipped, ZipWriter } from "./zip";

const ENDING = ".fumarium.json";

export interface Archived {
  document: SceneDocument;
  /** Assets by name: their bytes, and what the document uses them as. */
  assets: Map<string, { bytes: Uint8Array; use: AssetUse | null }>;
}

/** Different names for assets that are called alike. */
function freeUri(uri: string, taken: Set<string>): string {
  const at = uri.lastIndexOf(".");
  const [base, end] = at > 0 ? [uri.slice(0, at), uri.slice(at)] : [uri, ""];
  let name = uri;
  for (let i = 2; taken.has(name.toLowerCase()); i++) name = `${base}-${i}${end}`;
  taken.add(name.toLowerCase());
  return name;
}

/**
 * Packs a document with all its assets. Files are stored as they are: models and pictures do not shrink.
 * @param name of the document's file, without ending @param bytesOf fetches an asset by name
 */
export async function writeArchive(
  doc: SceneDocument,
  name: string,
  encode: (text: string) => Uint8Array,
  bytesOf: (name: string) => Promise<Uint8Array>,
): Promise<Uint8Array> {
  const zip = new ZipWriter();
  const taken = new Set([`${name}${ENDING}`.toLowerCase()]);
  const assets: SceneDocument["assets"] = {};
  for (const [key, asset] of Object.entries(doc.assets)) {
    const uri = freeUri(asset.uri, taken);
    assets[key] = { ...asset, uri };
    zip.put(uri, await bytesOf(key));
  }
  zip.put(`${name}${ENDING}`, encode(`${JSON.stringify({ ...doc, assets }, null, 2)}\n`));
  return zip.done();
}

/** Whether a file is a zip archive that holds a scene document: told by the names in it. */
export function holdsDocument(names: Iterable<string>): boolean {
  return [...names].some((n) => n.toLowerCase().endsWith(ENDING));
}

/**
 * Takes an archive apart. Assets that the document names must be in it; their hashes are the caller's to check.
 * @throws InputError saying what is missing or wrong
 */
export function readArchive(bytes: Uint8Array, what: string, decode: (b: Uint8Array) => string): Archived {
  const files = unzipped(bytes, what, 4 * IMPORT_LIMITS.bytes);
  const documents = [...files.keys()].filter((n) => n.toLowerCase().endsWith(ENDING));
  if (documents.length !== 1) throw new InputError(`${what}: holds ${documents.length} scene documents (*${ENDING}); a project has one`);
  const path = documents[0]!;
  const text = files.get(path)!;
  if (text.length > 4 * LIMITS.text)
    throw new InputError(`${what}: ${path} has ${text.length} bytes, more than the limit of ${4 * LIMITS.text}`);
  const document = parseDocumentText(decode(text), `${what}: ${path}`);
  const folder = path.slice(0, path.lastIndexOf("/") + 1);
  const uses = everUsedAssets(document);
  const assets: Archived["assets"] = new Map();
  for (const [name, asset] of Object.entries(document.assets)) {
    const found = files.get(plainPath(folder + asset.uri) ?? "");
    if (!found) throw new InputError(`${what}: assets.${name} (${asset.uri}) is not in the archive`);
    assets.set(name, { bytes: found, use: uses.get(name) ?? null });
  }
  return { document, assets };
}
