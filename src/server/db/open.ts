/** The database under the data folder, migrated to the present schema when opened. */
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { createClient } from "@libsql/client";
import { drizzle, type LibSQLDatabase } from "drizzle-orm/libsql";
import { migrate } from "drizzle-orm/libsql/migrator";
import { pathToFileURL } from "node:url";
import { StorageError, storageCause, withStorage } from "../storage";
import * as schema from "./schema";

export type Database = LibSQLDatabase<typeof schema>;

const FILE = "fumarium.db";

/** Opens (and creates) the database. @throws StorageError @param dataDirectory folder that holds it @param migrations folder of SQL migrations */
export async function openDatabase(dataDirectory: string, migrations: string): Promise<Database> {
  const file = join(dataDirectory, FILE);
  return withStorage(file, async () => {
    mkdirSync(dataDirectory, { recursive: true });
    const client = createClient({ url: pathToFileURL(file).href, timeout: 5000 });
    // readers go on while one writes, and a killed server leaves a consistent file
    await client.execute("PRAGMA journal_mode = WAL");
    await client.execute("PRAGMA foreign_keys = ON");
    const database = drizzle(client, { schema });
    await migrate(database, { migrationsFolder: migrations });
    // a file that cannot be written opens all the same, and would fail at the first save: a write of nothing tells
    await client.execute("UPDATE __drizzle_migrations SET hash = hash WHERE 0");
    return database;
  });
}

/** What of failing to open is no reason not to look at what is there. */
const LOOKABLE = /read-only|may not write/;

/**
 * Opens the database; where its folder cannot be written, a copy of it to look at.
 * @returns and why nothing can be kept, null where it can
 * @throws StorageError
 */
export async function openForUse(dataDirectory: string, migrations: string): Promise<{ database: Database; readOnly: string | null }> {
  try {
    return { database: await openDatabase(dataDirectory, migrations), readOnly: null };
  } catch (error) {
    const cause = storageCause(error) ?? (error as Error).message;
    if (!(error instanceof StorageError) || !LOOKABLE.test(error.message) || !existsSync(join(dataDirectory, FILE))) throw error;
    return { database: await openReadOnly(dataDirectory, migrations, cause), readOnly: `${dataDirectory}: ${cause}` };
  }
}

/** A copy of the database in a folder for passing things, brought to the present schema: the folder itself stays as it is. */
export async function openReadOnly(dataDirectory: string, migrations: string, cause: string): Promise<Database> {
  const copy = mkdtempSync(join(tmpdir(), "fumarium-read-only-"));
  process.on("exit", () => rmSync(copy, { recursive: true, force: true }));
  return withStorage(join(dataDirectory, FILE), async () => {
    // as files of its own, that can be written; what was written last may still lie in the log beside it
    for (const name of [FILE, `${FILE}-wal`])
      if (existsSync(join(dataDirectory, name))) writeFileSync(join(copy, name), readFileSync(join(dataDirectory, name)));
    console.warn(`${dataDirectory}: ${cause}. Projects can be looked at; nothing is kept.`);
    return openDatabase(copy, migrations);
  });
}
