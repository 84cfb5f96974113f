/** What forecasts of finals said beside what the finals took. */
import { desc, getTableColumns, isNotNull } from "drizzle-orm";
import type { PaidRecord } from "#api/contract";
import { paidFinals } from "./db/schema";
import type { Store } from "./store";

/** Records that are told, and finals that the time of a clean-up is taken from. */
const TOLD = 200,
  CLEANED = 8;

export class BudgetRecord {
  constructor(private readonly store: Store) {}

  /** The newest first. */
  async records(): Promise<PaidRecord[]> {
    const { renderId: _, frame: __, clean: ___, ...columns } = getTableColumns(paidFinals);
    return this.store.database.select(columns).from(paidFinals).orderBy(desc(paidFinals.id)).limit(TOLD);
  }

  /** Processor seconds that cleaning a pixel took of late, the median; null where nothing was cleaned. */
  async cleanRate(): Promise<number | null> {
    const rows = await this.store.database
      .select({ clean: paidFinals.clean, pixels: paidFinals.pixels })
      .from(paidFinals)
      .where(isNotNull(paidFinals.clean))
      .orderBy(desc(paidFinals.id))
      .limit(CLEANED);
    const rates = rows.map(({ clean, pixels }) => (clean ?? 0) / pixels).sort((a, b) => a - b);
    return rates[rates.length >> 1] ?? null;
  }
}
