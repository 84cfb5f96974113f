/** Fits a frame into its budget: takes the least visible changes that were measured to keep it, and keeps proof of both. */
import { secondsAllowed } from "#core/document/budget";
import { durationText, formatNumber } from "#core/document/quantities";
import type { Bench } from "./context";

/** @returns what was done, in words */
export async function fitBudget({ advice, proofs, store, price, view }: Bench): Promise<string> {
  const allowed = secondsAllowed(store.getState().document.budget.limit, new Date());
  if (allowed === null) return "There is no budget to fit.";
  const before = store.getState().document;
  const shelf = (): string | undefined => proofs.state.getState().proofs.at(-1)?.id;
  const found = await advice.advise();
  if (!found) return advice.state.getState().error ?? "Nothing that is hardly seen saves enough: see the rows.";
  if (store.getState().document !== before) return "The frame was changed meanwhile: nothing was taken.";
  await proofs.keep("before fitting the budget");
  const first = shelf();
  advice.take(found);
  await proofs.keep("after fitting the budget");
  const second = shelf();
  // the two can be flipped and wiped against one another at once
  if (first && second && first !== second) view.setState({ front: second, back: first });
  const frame = price.state.getState().frame?.seconds ?? advice.frameWith(found);
  const keeps = frame !== null && frame <= allowed ? "kept" : "not kept by what is hardly seen";
  return `${found.words}: ×${formatNumber(1 / found.time, 3)}, ΔE ${formatNumber(found.seen.mean, 2)}. The budget of ${durationText(allowed)} is ${keeps}${frame === null ? "" : `, at ${durationText(frame)} per frame`}. Before and after are proofs: F flips between them.`;
}
