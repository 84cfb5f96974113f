/** What can be wrong with the folder that everything is kept in, in words with its path. */

/** The folder or the database cannot be used. */
export class StorageError extends Error {}

/** Codes of the file system and of SQLite, and what they mean to who looks after the folder. */
const CAUSES: readonly [RegExp, string][] = [
  [/ENOSPC|EDQUOT|SQLITE_FULL|disk is full/i, "the disk is full"],
  [/EROFS|SQLITE_READONLY|readonly database/i, "it cannot be written: it is read-only"],
  [/EACCES|EPERM|SQLITE_PERM|SQLITE_AUTH/i, "this user may not write there"],
  [/ENOTDIR|EEXIST/i, "a file is in the way of the folder"],
  [/EMFILE|ENFILE/i, "too many files are open"],
  [
    /SQLITE_CORRUPT|SQLITE_NOTADB|malformed|not a database/i,
    "the database is broken; put a copy of it in its place, or move it away to begin anew",
  ],
  [/SQLITE_CANTOPEN|unable to open/i, "the database cannot be opened"],
  [/SQLITE_BUSY|SQLITE_LOCKED|is locked/i, "another program holds the database"],
  [/SQLITE_IOERR|EIO/i, "the disk reports an error"],
];

/** All that an error and what caused it say. */
function saying(error: unknown): string {
  const parts: string[] = [];
  for (let e: unknown = error, n = 0; e instanceof Error && n < 5; e = e.cause, n++) {
    const { code } = e as { code?: unknown };
    parts.push(e.message, typeof code === "string" ? code : "");
  }
  return parts.join(" ");
}

/** The cause of a failure of storage in words; null where it is another failure. */
export function storageCause(error: unknown): string | null {
  const text = saying(error);
  return CAUSES.find(([pattern]) => pattern.test(text))?.[1] ?? null;
}

/** Does something with a folder or file. @throws StorageError with its path and the cause */
export async function withStorage<T>(path: string, work: () => Promise<T> | T): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof StorageError) throw error;
    throw new StorageError(`${path}: ${storageCause(error) ?? saying(error).trim()}`, { cause: error });
  }
}
