/** Which assets a document uses, and as what; their bytes to what the compiler takes. */
import type { SceneDocument } from "../document/schema";
import { readModel } from "../formats/gltf";
import { photometryGrid, readIes } from "../formats/ies";
import { readPicture } from "../formats/image";
import { readVdb } from "../formats/vdb";
import type { Resources } from "./compile";
import { goboAsset } from "./gobo";
import type { Mesh } from "./geometry";
import type { Picture } from "./pictures";
import type { Volume } from "./volume";

export type AssetUse = "model" | "picture" | "profile" | "volume";

/** Assets that a render of the document needs: names with what they are used as. */
export function usedAssets(doc: SceneDocument): Map<string, AssetUse> {
  const used = new Map<string, AssetUse>();
  const bounding = new Set(
    doc.air.flatMap((m) => [...(m.region.kind === "mesh" ? [m.region.object] : []), ...(m.near ? [m.near.object] : [])]),
  );
  for (const o of doc.objects) if (o.kind === "model" && (!o.hidden || (o.name && bounding.has(o.name)))) used.set(o.asset, "model");
  const picture = (name: string | null | undefined): void => {
    if (name) used.set(name, "picture");
  };
  for (const m of doc.air) if (m.grid) used.set(m.grid.asset, "volume");
  if (doc.sky.model === "image") picture(doc.sky.image);
  if (doc.sun.gobo) picture(goboAsset(doc.sun.gobo, doc.time));
  for (const light of doc.lights) {
    if ("gobo" in light && light.gobo) picture(goboAsset(light.gobo, doc.time));
    if (light.kind === "rectangle") picture(light.image);
    if (light.kind === "profile") used.set(light.asset, "profile");
  }
  return used;
}

/**
 * Reads the assets a document uses. @param bytesOf fetches one by name
 * @param known models by hash that were read before; those read now are added, those not used any more taken out
 * @throws InputError naming the asset
 */
export async function readResources(
  doc: SceneDocument,
  bytesOf: (name: string) => Promise<Uint8Array>,
  known?: Map<string, Mesh>,
): Promise<Resources> {
  const models = new Map<string, Mesh>(),
    pictures = new Map<string, Picture>(),
    profiles = new Map<string, Float32Array>(),
    volumes = new Map<string, Record<string, Volume>>();
  const used = usedAssets(doc);
  if (known) {
    const present = new Set([...used].flatMap(([name, use]) => (use === "model" ? [doc.assets[name]!.sha256] : [])));
    for (const hash of known.keys()) if (!present.has(hash)) known.delete(hash);
  }
  for (const [name, use] of used) {
    const hash = doc.assets[name]!.sha256;
    const had = use === "model" && hash ? known?.get(hash) : undefined;
    if (had) {
      models.set(name, had);
      continue;
    }
    const bytes = await bytesOf(name);
    const what = `assets.${name} (${doc.assets[name]!.uri})`;
    if (use === "model") {
      const { mesh } = await readModel(bytes, what);
      models.set(name, mesh);
      if (hash) known?.set(hash, mesh);
    }
    if (use === "picture") pictures.set(name, readPicture(bytes, what));
    if (use === "volume") volumes.set(name, (await readVdb(bytes, what)).channels);
    if (use === "profile") profiles.set(name, photometryGrid(readIes(latin(bytes), what)));
  }
  return { models, pictures, profiles, volumes };
}

/** Bytes as text, one character a byte: photometric files are plain ASCII, and nothing in core decodes more. */
function latin(bytes: Uint8Array): string {
  let text = "";
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return text;
}
