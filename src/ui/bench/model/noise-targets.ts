/** Noise targets that a final may end at, priced beside one another. */
import type { Budget } from "#core/document/budget";
import type { SceneDocument } from "#core/document/schema";
import type { Price } from "#core/budget/live";
import { finalOf, type Span } from "./price";

export type NoiseTarget = NonNullable<Budget["noise"]>;
/** A target with what a frame of it takes on the machine that renders. */
export interface PricedTarget extends NoiseTarget, Pick<Price, "samples" | "unreached"> {
  span: Span;
  /** Whether the final is priced at it now, and whether it is the quietest that the budget allows. */
  now: boolean;
  keeps: boolean;
}
export type PriceOfTarget = (target: NoiseTarget) => Omit<PricedTarget, keyof NoiseTarget | "now" | "keeps"> | null;

/** Thresholds beside that of the final, and the one of a final that has none. */
const TIMES = [0.5, Math.SQRT1_2, 1, Math.SQRT2, 2, 4],
  USUAL = 0.02;
/** The noisiest and the quietest that is looked for, and steps of the search between them. */
const NOISIEST = 0.5,
  QUIETEST = 0.0005,
  STEPS = 24;
/** Share of the time of a quieter target that a noisier one may take at most to be worth a row. */
const CHEAPER = 0.97;
/** Share of what is allowed that is aimed at, and digits of a threshold that is found. */
const AIM = 0.95,
  DIGITS = 2;

/** @param allowed seconds of a frame; null where nothing is said @param priced null where a target cannot be told yet */
export function targetsAbout(doc: SceneDocument, allowed: number | null, priced: PriceOfTarget): PricedTarget[] {
  const { render } = finalOf(doc).document;
  const middle = render.noiseThreshold ?? USUAL;
  const rows: PricedTarget[] = [];
  const add = (target: NoiseTarget, keeps: boolean): void => {
    const found = priced(target);
    const now = render.noiseThreshold !== null && target.threshold === middle && target.of === render.thresholdOf;
    const same = rows.find((r) => r.threshold === target.threshold && r.of === target.of);
    if (same) same.keeps ||= keeps;
    else if (found) rows.push({ ...target, ...found, now, keeps });
  };
  for (const of of ["rendered", "cleaned"] as const) {
    for (const k of TIMES) if (middle * k <= NOISIEST) add({ of, threshold: k === 1 ? middle : rounded(middle * k) }, false);
    const keeps = allowed === null ? null : quietest(of, AIM * allowed, priced);
    if (keeps !== null) add({ of, threshold: keeps }, true);
  }
  // what costs as much as quieter ones do is no choice
  const worth = (r: PricedTarget): boolean =>
    r.now || r.keeps || !rows.some((q) => q.of === r.of && q.threshold < r.threshold && r.span.seconds > CHEAPER * q.span.seconds);
  const place = (r: PricedTarget): number => (r.of === "rendered" ? 0 : 1) + r.threshold;
  return rows.filter(worth).sort((a, b) => place(a) - place(b));
}

/** The quietest target that takes no more than so many seconds; null where all, or none, do. */
function quietest(of: NoiseTarget["of"], seconds: number, priced: PriceOfTarget): number | null {
  const fits = (threshold: number): boolean | null => {
    const found = priced({ of, threshold });
    return found && found.span.seconds <= seconds;
  };
  if (fits(QUIETEST) !== false || fits(NOISIEST) !== true) return null;
  let [no, yes] = [QUIETEST, NOISIEST];
  for (let i = 0; i < STEPS; i++) {
    const middle = Math.sqrt(no * yes);
    if (fits(middle)) yes = middle;
    else no = middle;
  }
  // upwards: what is said must keep it
  const digits = 10 ** (Math.ceil(Math.log10(yes)) - DIGITS);
  return rounded(Math.ceil(yes / digits - 1e-6) * digits);
}

const rounded = (v: number): number => Number(v.toPrecision(DIGITS));
