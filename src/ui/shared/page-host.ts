/** What a page needs of its browser beside its own drawing: the server, storage, other windows. */
import type { Transport } from "#api/contract";
import { request } from "./api";
import { browserRecords, type RecordStorage } from "./record-storage";
import { siteStorage } from "./site-storage";

/** Small texts that outlive the page. Both calls may throw where storage is full or forbidden. */
export type TextStorage = Pick<Storage, "getItem" | "setItem" | "removeItem">;

/** The server and the page, as a page sees them. */
export interface PageHost {
  request: Transport;
  storage: TextStorage;
  records: RecordStorage;
  /** Calls back when the page is about to go. @returns what takes the callback away again */
  onLeave(leave: () => void): () => void;
  /** Tells the other windows of this browser that a project was saved. */
  announce(saved: Saved): void;
  /** Calls back when another window says so. @returns what takes the callback away again */
  onSaved(heard: (saved: Saved) => void): () => void;
  reload(): void;
  /** Does something that only one window may do at a time; not, where another does it. */
  alone(name: string, work: () => Promise<void>): Promise<void>;
}

export interface Saved {
  projectId: string;
  revision: number;
}

/** Where windows tell each other what they saved. */
const CHANNEL = "fumarium.saved";

export function browserPageHost(): PageHost {
  return {
    request,
    storage: siteStorage(),
    records: browserRecords(),
    onLeave(leave) {
      addEventListener("pagehide", leave);
      return () => removeEventListener("pagehide", leave);
    },
    announce(saved) {
      const channel = new BroadcastChannel(CHANNEL);
      channel.postMessage(saved);
      channel.close();
    },
    onSaved(heard) {
      const channel = new BroadcastChannel(CHANNEL);
      channel.onmessage = (e: MessageEvent<Saved>) => heard(e.data);
      return () => channel.close();
    },
    reload: () => location.reload(),
    async alone(name, work) {
      // pages that are not served securely have no locks: two windows then do the same twice
      if (!("locks" in navigator)) return work();
      await navigator.locks.request(`fumarium ${name}`, { ifAvailable: true }, async (lock) => {
        if (lock) await work();
      });
    },
  };
}
