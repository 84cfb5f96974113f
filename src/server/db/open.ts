/** The database under the data folder, migrated to the present schema when opened. */
import { mkdirSync } from "node:fs";
import { join } from "node:path";
import { createClient } from "@libsql/client";
import { drizzle, type LibSQLDatabase } from "drizzle-orm/libsql";
import { migrate } from "drizzle-orm/libsql/migrator";
import { pathToFileURL } from "node:url";
import { withStorage } from "../storage";
import * as schema from "./schema";

export type Database = LibSQLDatabase<typeof schema>;

/** Opens (and creates) the database. @throws StorageError @param dataDirectory folder that holds it @param migrations folder of SQL migrations */
export async function openDatabase(dataDirectory: string, migrations: string): Promise<Database> {
  const file = join(dataDirectory, "fumarium.db");
  return withStorage(file, async () => {
    mkdirSync(dataDirectory, { recursive: true });
    const client = createClient({ url: pathToFileURL(file).href, timeout: 5000 });
    // readers go on while one writes, and a killed server leaves a consistent file
    await client.execute("PRAGMA journal_mode = WAL");
    await client.execute("PRAGMA foreign_keys = ON");
    const database = drizzle(client, { schema });
    await migrate(database, { migrationsFolder: migrations });
    return database;
  });
}
