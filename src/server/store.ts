/** What the services of the database share: the connection, one write after the other, and their errors. */
import { StorageError } from "./storage";
import type { Database } from "./db/open";

/** The thing asked for does not exist (any more). */
export class NotFound extends Error {}
/** Somebody else saved in between; `revision` is the present one. */
export class Conflict extends Error {
  constructor(
    readonly revision: number,
    what: "project" | "stack" = "project",
  ) {
    super(`This ${what} was changed in another window since it was opened here.`);
  }
}

export class Store {
  private writing: Promise<unknown> = Promise.resolve();

  constructor(
    readonly database: Database,
    readonly now: () => number = Date.now,
    /** Why nothing can be kept; null where it can. */
    readonly readOnly: string | null = null,
  ) {}

  /**
   * One write after the other: the client opens a connection for each transaction, and SQLite's wait for
   * a lock would stop this thread, and with it the transaction that holds the lock.
   */
  serializeWrites<T>(work: () => PromiseLike<T>): Promise<T> {
    if (this.readOnly !== null) return Promise.reject(new StorageError(this.readOnly));
    const done = this.writing.then(work);
    this.writing = done.catch(() => undefined);
    return done;
  }
}
