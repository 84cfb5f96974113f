/** Edits of the balance of light groups. */
import { BALANCED_SIDES, EVEN, type BalancedSide, type GroupBalance } from "#core/document/balance";
import type { SceneDocument } from "#core/document/schema";

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/** Most stops up and down. */
export const MOST_STOPS = 20;

/** Changes the balance of a group; one that is even again is no longer named. */
export function changeBalance(doc: SceneDocument, group: string, change: (was: GroupBalance) => Partial<GroupBalance>): SceneDocument {
  const was = doc.film.balance[group] ?? EVEN;
  const { [group]: _, ...others } = doc.film.balance;
  const next = { ...was, ...change(was) };
  return { ...doc, film: { ...doc.film, balance: same(next, EVEN) ? others : { ...doc.film.balance, [group]: next } } };
}

/** Changes a side's gain; null changes both. */
export function changeGain(
  doc: SceneDocument,
  group: string,
  side: BalancedSide | null,
  gain: Partial<GroupBalance["air"]>,
): SceneDocument {
  return changeBalance(doc, group, (was) =>
    Object.fromEntries(BALANCED_SIDES.filter((s) => side === null || s === side).map((s) => [s, { ...was[s], ...gain }])),
  );
}

/** All groups as they were rendered. */
export const evened = (doc: SceneDocument): SceneDocument => ({ ...doc, film: { ...doc.film, balance: {} } });
