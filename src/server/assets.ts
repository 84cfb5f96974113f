/** What the files in the blob store are. */
import { eq } from "drizzle-orm";
import type { AssetKind } from "#api/contract";
import { assets } from "./db/schema";
import type { Store } from "./store";

export class Assets {
  constructor(private readonly store: Store) {}

  async record(sha256: string, kind: AssetKind, bytes: number): Promise<void> {
    await this.store.serializeWrites(() =>
      this.store.database.insert(assets).values({ sha256, kind, bytes, createdAt: this.store.now() }).onConflictDoNothing(),
    );
  }

  async kind(sha256: string): Promise<AssetKind | null> {
    const [row] = await this.store.database.select().from(assets).where(eq(assets.sha256, sha256));
    return row?.kind ?? null;
  }
}
