/** Scene documents and their assets from disk. */
import { tiltFileOf, withTilt } from "#core/formats/ies";
import { assetOf } from "#core/document/assets";
import { createHash } from "node:crypto";
import { readFile, realpath, stat } from "node:fs/promises";
import { basename, dirname, join, sep } from "node:path";
import { parseDocumentText } from "#core/document/parse";
import { InputError } from "#core/errors";
import { LIMITS, type SceneDocument } from "#core/document/schema";
import { MODEL_LIMITS } from "#core/formats/gltf";
import type { Lut } from "#core/data/lut";
import { readLut, readResources } from "#core/scene/assets";
import type { Resources } from "#core/scene/compiled";

/** Reads a file of at most `limit` bytes. @throws InputError */
export async function readLimited(file: string, limit: number, what: string): Promise<Buffer> {
  try {
    const info = await stat(file);
    if (!info.isFile()) throw new InputError(`${what}: not a file`);
    if (info.size > limit) throw new InputError(`${what}: ${info.size} bytes, more than the limit of ${limit}`);
    return await readFile(file);
  } catch (error) {
    if (error instanceof InputError) throw error;
    const code = (error as NodeJS.ErrnoException).code;
    throw new InputError(`${what}: ${code === "ENOENT" ? "no such file" : code === "EACCES" ? "not readable" : String(code ?? error)}`);
  }
}

export async function loadDocument(file: string): Promise<SceneDocument> {
  const bytes = await readLimited(file, LIMITS.text * 4, file);
  return parseDocumentText(bytes.toString("utf8"), file);
}

/** Reads the assets that a render of the document needs. Files must lie below the document's folder and match their hash. @param given bytes of some of them */
export async function loadResources(
  doc: SceneDocument,
  documentFile: string,
  given: ReadonlyMap<string, Uint8Array> = new Map(),
): Promise<Resources> {
  const beside = await assetsBeside(doc, documentFile);
  return readResources(doc, async (name) => given.get(name) ?? beside(name));
}

/** Reads the look-up table that the document's picture is finished with, where there is one. */
export const loadLut = async (doc: SceneDocument, documentFile: string): Promise<Lut | null> =>
  readLut(doc, await assetsBeside(doc, documentFile));

async function assetsBeside(doc: SceneDocument, documentFile: string): Promise<(name: string) => Promise<Uint8Array>> {
  const folder = await realpath(dirname(documentFile));
  return async (name) => {
    const asset = assetOf(doc, name);
    const what = `assets.${name} (${asset.uri})`;
    const below = async (file: string, of: string): Promise<string> => {
      const found = await realpath(file).catch(() => {
        throw new InputError(`${of}: no such file beside ${documentFile}`);
      });
      if (!found.startsWith(folder.endsWith(sep) ? folder : folder + sep))
        throw new InputError(`${of}: leads outside the document's folder`);
      return found;
    };
    const real = await below(join(folder, asset.uri), what);
    const bytes = await readLimited(real, MODEL_LIMITS.bytes, what);
    if (asset.sha256) {
      const hash = createHash("sha256").update(bytes).digest("hex");
      if (hash !== asset.sha256) throw new InputError(`${what}: the file's hash is ${hash}, the document expects ${asset.sha256}`);
    }
    if (!/\.ies$/i.test(asset.uri)) return bytes;
    const text = bytes.toString("latin1");
    const tilt = tiltFileOf(text);
    if (!tilt) return bytes;
    const ofTilt = `${what}: its tilt file ${tilt}`;
    const beside = await below(join(dirname(real), basename(tilt.replaceAll("\\", "/"))), ofTilt);
    const said = await readLimited(beside, MODEL_LIMITS.bytes, ofTilt);
    return Buffer.from(withTilt(text, said.toString("latin1")), "latin1");
  };
}
