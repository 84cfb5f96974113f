/** Looks the artist kept: in this browser, for every project, and as files to pass on. */
import { z } from "zod";
import { freeName } from "#core/document/place";
import { finishSchema, type Finish } from "#core/document/finish";
import { name } from "#core/document/fields";
import { assetSchema, type SceneDocument } from "#core/document/schema";
import { KeptList, MAX_LISTED } from "./kept-list";

const lookSchema = z.strictObject({
  name: name(),
  finish: finishSchema,
  /** The file of its look-up table, which this server's store has. */
  asset: assetSchema.nullable().default(null),
});
export type OwnLook = z.output<typeof lookSchema>;

export const ownLooks = new KeptList<OwnLook>({
  key: "fumarium.looks",
  mark: "fumariumLooks",
  version: 1,
  list: "looks",
  schema: lookSchema,
  file: z.strictObject({ fumariumLooks: z.literal(1), looks: z.array(lookSchema).min(1).max(MAX_LISTED) }),
  loose: (look) => ({ ...look, finish: { ...look.finish, on: true } }),
});

/** The finish of a document as a look. */
export function lookOf({ film, assets }: SceneDocument, called: string): OwnLook {
  const { lut } = film.finish;
  return { name: called, finish: film.finish, asset: lut ? (assets[lut.asset] ?? null) : null };
}

/** The document with a look: the file of its table becomes one of the document's. */
export function withLook(doc: SceneDocument, { finish, asset }: OwnLook): SceneDocument {
  const taken = (next: Finish, assets = doc.assets): SceneDocument => ({
    ...doc,
    assets,
    film: { ...doc.film, finish: { ...next, on: true } },
  });
  const { lut } = finish;
  if (!lut) return taken(finish);
  if (!asset) return taken({ ...finish, lut: null });
  const had = Object.entries(doc.assets).find(([, a]) => a.sha256 !== undefined && a.sha256 === asset.sha256);
  if (had) return taken({ ...finish, lut: { ...lut, asset: had[0] } });
  const key = freeName(asset.uri.replace(/\.[^.]*$/, "").slice(0, 100), Object.keys(doc.assets));
  return taken({ ...finish, lut: { ...lut, asset: key } }, { ...doc.assets, [key]: asset });
}
