/** Files of the blob store that nothing names any more. */
import { sql } from "drizzle-orm";
import type { BlobStore } from "./blobs";
import { assets, documents, projects, proofs, renders, stacks, wedges } from "./db/schema";
import { inArray } from "drizzle-orm";
import type { Store } from "./store";

/** How long a file may lie there without an owner: uploads come before what names them, and undo may name it again. */
export const GRACE = 7 * 24 * 3600_000;
/** Rows looked through at a time. */
const PAGE = 50;

/** All hashes that a text names. */
export const hashesIn = (text: string): string[] => text.match(/[0-9a-f]{64}/g) ?? [];

/** Deletes files that no document (of any saved state, of deleted projects too), picture or proof names. @returns how many */
export async function collect(store: Store, blobs: BlobStore, kept: ReadonlySet<string>, grace = GRACE): Promise<number> {
  const old = new Set((await blobs.olderThan(grace)).filter((hash) => !kept.has(hash)));
  if (old.size === 0) return 0;
  const named = (text: string | null): void => {
    for (const hash of hashesIn(text ?? "")) old.delete(hash);
  };
  const { database } = store;
  for (const table of [projects, documents, proofs, wedges, renders, stacks])
    for (let offset = 0; ; offset += PAGE) {
      const rows = await database
        .select({ document: table.document })
        .from(table)
        .orderBy(sql`rowid`)
        .limit(PAGE)
        .offset(offset);
      for (const row of rows) named(row.document);
      if (rows.length < PAGE) break;
    }
  for (const { picture } of await database.select({ picture: projects.picture }).from(projects)) named(picture);
  for (const { picture, film } of await database.select({ picture: proofs.picture, film: proofs.film }).from(proofs)) {
    named(picture);
    named(film);
  }
  for (const { picture } of await database.select({ picture: stacks.picture }).from(stacks)) named(picture);
  for (const { cells } of await database.select({ cells: wedges.cells }).from(wedges)) named(cells);
  const gone = [...old];
  if (gone.length === 0) return 0;
  await store.serializeWrites(() => database.delete(assets).where(inArray(assets.sha256, gone)));
  for (const hash of gone) await blobs.remove(hash);
  return gone.length;
}
