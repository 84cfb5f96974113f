/** Which process renders a folder's finals: one at a time, whoever told of itself last. */
import { hostname } from "node:os";
import { eq, sql } from "drizzle-orm";
import { settings } from "./db/schema";
import type { Store } from "./store";

/** Milliseconds after which a process that says nothing is thought to be gone. */
export const SILENCE = 15_000;
const NAME = "renderer";

interface Held {
  owner: string;
  at: number;
  /** Process and machine that it is: one that is dead need not be waited for. */
  pid: number;
  host: string;
}

/** Whether who holds it still does. The clock may have jumped either way. */
function holds(held: Held, now: number): boolean {
  if (Math.abs(now - held.at) >= SILENCE) return false;
  if (held.host !== hostname()) return true;
  try {
    process.kill(held.pid, 0);
    return true;
  } catch (error) {
    // another user's process cannot be asked, but it is there
    return (error as NodeJS.ErrnoException).code === "EPERM";
  }
}

/** Who holds it; null where nobody does, or has said nothing for a while. */
export async function holder(store: Store): Promise<string | null> {
  const [row] = await store.database.select().from(settings).where(eq(settings.name, NAME));
  if (!row) return null;
  const held = JSON.parse(row.value) as Held;
  return holds(held, store.now()) ? held.owner : null;
}

/** Takes it, or says that it is still held. @returns whether it is this owner's */
export async function take(store: Store, owner: string): Promise<boolean> {
  return store.serializeWrites(() =>
    store.database.transaction(async (t) => {
      const [row] = await t.select().from(settings).where(eq(settings.name, NAME));
      const held = row ? (JSON.parse(row.value) as Held) : null;
      if (held && held.owner !== owner && holds(held, store.now())) return false;
      const value = JSON.stringify({ owner, at: store.now(), pid: process.pid, host: hostname() } satisfies Held);
      await t.insert(settings).values({ name: NAME, value }).onConflictDoUpdate({ target: settings.name, set: { value } });
      return true;
    }),
  );
}

/** Gives it back, so that nobody waits for a process that is gone. */
export async function giveBack(store: Store, owner: string): Promise<void> {
  await store.serializeWrites(() =>
    store.database.delete(settings).where(sql`${settings.name} = ${NAME} AND json_extract(${settings.value}, '$.owner') = ${owner}`),
  );
}
