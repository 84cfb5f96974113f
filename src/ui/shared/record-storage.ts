/** Records that outlive the page, one a key, in the browser's own database. What they share within themselves is stored once. */

/** Both calls reject where storage is full, forbidden or broken. */
export interface RecordStorage {
  get(key: string): Promise<unknown>;
  set(key: string, value: unknown): Promise<void>;
}

const DATABASE = "fumarium";
const TABLE = "records";

function settled<T>(request: IDBRequest<T>): Promise<T> {
  return new Promise((done, fail) => {
    request.onsuccess = () => done(request.result);
    request.onerror = () => fail(request.error ?? new Error("The browser's database does not answer."));
  });
}

export function browserRecords(): RecordStorage {
  let opened: Promise<IDBDatabase> | null = null;
  const open = (): Promise<IDBDatabase> => {
    const request = indexedDB.open(DATABASE, 1);
    request.onupgradeneeded = () => request.result.createObjectStore(TABLE);
    return settled(request);
  };
  const table = async (mode: IDBTransactionMode): Promise<IDBObjectStore> =>
    (await (opened ??= open())).transaction(TABLE, mode).objectStore(TABLE);
  return {
    get: async (key) => settled((await table("readonly")).get(key) as IDBRequest<unknown>),
    set: async (key, value) => {
      await settled((await table("readwrite")).put(value, key));
    },
  };
}
