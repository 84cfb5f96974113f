/** What of a document is seen in a drawing of its scene. */
import type { SceneDocument } from "#core/document/schema";

/** What a project is called, read by and may cost, and what only develops its film; pins and kept lenses are drawn. */
const KEPT = new Set<string>(["title", "units", "budget"] satisfies (keyof SceneDocument)[]);
const DEVELOPS = new Set<string>([
  "exposure",
  "whiteBalance",
  "tint",
  "cleanUp",
  "balance",
  "finish",
] satisfies (keyof SceneDocument["film"])[]);

const sameBut = <T extends object>(a: T, b: T, left: ReadonlySet<string>): boolean => {
  const keys = Object.keys({ ...a, ...b }) as (string & keyof T)[];
  return keys.every((k) => left.has(k) || a[k] === b[k]);
};

/** Whether two documents have the same scene: parts that an edit did not touch are the same objects. */
export function sameScene(a: SceneDocument, b: SceneDocument): boolean {
  return a === b || (sameBut(a, b, new Set([...KEPT, "film"])) && sameBut(a.film, b.film, DEVELOPS));
}

/** Gives the document it is asked about, or an earlier one that has the same scene. */
export function latestScene(first: SceneDocument): (doc: SceneDocument) => SceneDocument {
  let latest = first;
  return (doc) => (latest = sameScene(latest, doc) ? latest : doc);
}
