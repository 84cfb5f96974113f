/** Scene documents and their assets from disk. */
import { createHash } from "node:crypto";
import { readFile, realpath, stat } from "node:fs/promises";
import { dirname, join, sep } from "node:path";
import { InputError, parseDocumentText } from "#core/document/parse";
import { LIMITS, type SceneDocument } from "#core/document/schema";
import { MODEL_LIMITS, readModel } from "#core/formats/gltf";
import type { Mesh } from "#core/scene/geometry";

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

/** Reads the models that visible objects use. Files must lie below the document's folder and match their hash. */
export async function loadModels(doc: SceneDocument, documentFile: string): Promise<Map<string, Mesh>> {
  const folder = await realpath(dirname(documentFile));
  const models = new Map<string, Mesh>();
  for (const [name, asset] of Object.entries(doc.assets)) {
    if (!doc.objects.some((o) => o.kind === "model" && o.asset === name && !o.hidden)) continue;
    const what = `assets.${name} (${asset.uri})`;
    const file = join(folder, asset.uri);
    const real = await realpath(file).catch(() => {
      throw new InputError(`${what}: no such file beside ${documentFile}`);
    });
    if (!real.startsWith(folder.endsWith(sep) ? folder : folder + sep))
      throw new InputError(`${what}: leads outside the document's folder`);
    const bytes = await readLimited(real, MODEL_LIMITS.bytes, what);
    if (asset.sha256) {
      const hash = createHash("sha256").update(bytes).digest("hex");
      if (hash !== asset.sha256) throw new InputError(`${what}: the file's hash is ${hash}, the document expects ${asset.sha256}`);
    }
    models.set(name, (await readModel(bytes, what)).mesh);
  }
  return models;
}
