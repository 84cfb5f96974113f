/** Airs the artist kept: in this browser, and as files to pass on. */
import { z } from "zod";
import { mediumSchema, type Medium } from "#core/document/air";
import { mediumFromVersion1 } from "#core/document/migrate";
import { KeptList, MAX_LISTED } from "./kept-list";

/** A medium as it was kept, by this version or by the one before: their names do not overlap, so that either is read. */
const keptSchema = z.preprocess(mediumFromVersion1, mediumSchema);

/** A medium without what ties it to one project: files, objects, what it follows. */
function loose(m: Medium): Medium {
  return {
    ...m,
    on: true,
    follows: null,
    proximity: null,
    grid: null,
    ...(m.region.kind === "mesh" ? { region: { kind: "everywhere" as const }, edge: 0 } : {}),
  };
}

export const ownAirs = new KeptList<Medium>({
  key: "fumarium.airs",
  mark: "fumariumAirs",
  version: 2,
  list: "airs",
  schema: keptSchema,
  file: z.strictObject({ fumariumAirs: z.union([z.literal(1), z.literal(2)]), airs: z.array(keptSchema).min(1).max(MAX_LISTED) }),
  loose,
});
