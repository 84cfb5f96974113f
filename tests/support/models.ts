/** Models of documents, from their bytes by file name. */
import type { Mesh } from "#core/data/geometry";
import type { SceneDocument } from "#core/document/schema";
import { readModel } from "#core/formats/gltf";

/** Meshes by asset name, of those files that are given. */
export async function loadModels(doc: SceneDocument, files: Readonly<Record<string, Uint8Array>>): Promise<Map<string, Mesh>> {
  const out = new Map<string, Mesh>();
  for (const [name, { uri }] of Object.entries(doc.assets)) {
    const bytes = files[uri];
    if (bytes) out.set(name, (await readModel(bytes, uri)).mesh);
  }
  return out;
}
