/** Order, filter and storage of the proofs on the strip. */
import type { Proof } from "#api/contract";

/** What of the proofs is looked at. */
export interface ProofFilter {
  text: string;
  starred: boolean;
}
export const ALL_PROOFS: ProofFilter = { text: "", starred: false };

/** Each proof with the number it has by its time, which it keeps wherever it is moved. */
export type Numbered = Proof & { number: number };

/** Proofs in their order, numbered by their time. */
export function numbered(proofs: readonly Proof[]): Numbered[] {
  const byTime = [...proofs].sort((a, b) => a.createdAt - b.createdAt);
  const numbers = new Map(byTime.map(({ id }, i) => [id, i + 1]));
  return inOrder(proofs).map((p) => ({ ...p, number: numbers.get(p.id)! }));
}

/** Proofs in the order they hang in. */
export const inOrder = (proofs: readonly Proof[]): Proof[] => [...proofs].sort((a, b) => a.place - b.place || a.createdAt - b.createdAt);

/** Those of the proofs that a filter lets through: all its words are in their notes, or one is their number. */
export function filtered(proofs: readonly Numbered[], { text, starred }: ProofFilter): Numbered[] {
  const words = text.toLocaleLowerCase().split(/\s+/).filter(Boolean);
  return proofs.filter((p) => (!starred || p.star) && words.every((w) => p.note.toLocaleLowerCase().includes(w) || String(p.number) === w));
}

/** Where a proof has to be placed to come before another (null: last); null where it is there already. */
export function placeBefore(proofs: readonly Proof[], id: string, before: string | null): number | null {
  const order = inOrder(proofs);
  const from = order.findIndex((p) => p.id === id);
  const rest = order.filter((p) => p.id !== id);
  const to = before === null ? rest.length : rest.findIndex((p) => p.id === before);
  if (from < 0 || to < 0 || to === from) return null;
  const [left, right] = [rest[to - 1], rest[to]];
  if (!left) return right!.place - 1000;
  if (!right) return left.place + 1000;
  return (left.place + right.place) / 2;
}

/** Where a proof has to be placed to change places with its neighbour; null at the end. @param by −1 before, 1 behind */
export function placeBeside(proofs: readonly Proof[], id: string, by: -1 | 1): number | null {
  const order = inOrder(proofs);
  const at = order.findIndex((p) => p.id === id);
  if (at < 0 || at + by < 0 || at + by >= order.length) return null;
  return placeBefore(proofs, id, by < 0 ? order[at - 1]!.id : (order[at + 2]?.id ?? null));
}
