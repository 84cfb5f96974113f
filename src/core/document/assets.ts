/** Which assets a document uses, and as what. */
import type { SceneDocument } from "./schema";
import type { Gobo } from "./lights";
import { InputError } from "../errors";
import { frameAt, gridFrames } from "./sequence";

export type AssetUse = "model" | "picture" | "profile" | "volume" | "lut" | "plate";

/** Asset that a gobo shows at a time (s); null for a procedural one. */
export function goboAsset(g: Gobo, time: number): string | null {
  if (!g.frames) return g.image ?? null;
  return g.frames[frameAt(g.frames.length, g.rate, g.loop, time)]!;
}

/** An entry of the document's assets by its name. @throws InputError where there is none */
export function assetOf(doc: SceneDocument, name: string): SceneDocument["assets"][string] {
  const found = doc.assets[name];
  if (!found) throw new InputError(`assets.${name}: the document has no such asset`);
  return found;
}

/** Assets that a render of the document needs: names with what they are used as. */
export function usedAssets(doc: SceneDocument): Map<string, AssetUse> {
  const used = new Map<string, AssetUse>();
  const bounding = new Set(
    doc.air.flatMap((m) => [...(m.region.kind === "mesh" ? [m.region.object] : []), ...(m.proximity ? [m.proximity.object] : [])]),
  );
  for (const o of doc.objects) if (o.kind === "model" && (!o.hidden || (o.name && bounding.has(o.name)))) used.set(o.asset, "model");
  const picture = (name: string | null | undefined): void => {
    if (name) used.set(name, "picture");
  };
  for (const { grid } of doc.air) {
    if (!grid) continue;
    const { from, to } = gridFrames(grid, doc.time);
    used.set(from, "volume");
    if (to) used.set(to, "volume");
  }
  if (doc.sky.model === "image") picture(doc.sky.image);
  if (doc.sun.gobo) picture(goboAsset(doc.sun.gobo, doc.time));
  for (const light of doc.lights) {
    if ("gobo" in light && light.gobo) picture(goboAsset(light.gobo, doc.time));
    if (light.kind === "rectangle") picture(light.image);
    if (light.kind === "profile") used.set(light.asset, "profile");
  }
  // what is something else besides stays that: a plate asks for its pictures itself
  for (const key of doc.plate ? [doc.plate.picture, doc.plate.depth] : []) if (!used.has(key)) used.set(key, "plate");
  return used;
}

/** Asset of the look-up table that the picture is finished with; null for none. */
export const lutAsset = ({ film }: SceneDocument): string | null => film.finish.lut?.asset ?? null;

/** The same at any time: with every frame of sequences, and with what the picture is finished with. */
export function everUsedAssets(doc: SceneDocument): Map<string, AssetUse> {
  const used = usedAssets(doc);
  const lut = lutAsset(doc);
  if (lut) used.set(lut, "lut");
  for (const { grid } of doc.air) for (const f of grid?.sequence?.frames ?? []) used.set(f, "volume");
  for (const light of [doc.sun, ...doc.lights]) if ("gobo" in light) for (const f of light.gobo?.frames ?? []) used.set(f, "picture");
  return used;
}
