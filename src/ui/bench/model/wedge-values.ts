/** Which pictures a wedge consists of. */
import { MOST_CELLS, MOST_VALUES, type Wedge, type WedgeSpec } from "#api/contract";
import { InputError } from "#core/errors";
import { withNumber } from "#core/document/numbers";
import type { SceneDocument } from "#core/document/schema";

/** How the values of a range follow one another. */
export type Spacing = "linear" | "factors";

/** Numbers with no more digits than tell them apart. */
const tidy = (v: number): number => Number(v.toPrecision(4));

/** Values from one number to another, both among them. @throws InputError in words */
export function wedgeValues(from: number, to: number, count: number, by: Spacing): number[] {
  if (![from, to, count].every(Number.isFinite)) throw new InputError("these are no numbers");
  if (count < 2 || count > MOST_VALUES || !Number.isInteger(count)) throw new InputError(`2 to ${MOST_VALUES} values`);
  if (from === to) throw new InputError("both ends of the range are the same");
  if (by === "factors" && !(from * to > 0)) throw new InputError("by factors, both ends have to lie on one side of zero");
  return Array.from({ length: count }, (_, i) => {
    const t = i / (count - 1);
    return i === 0 ? from : i === count - 1 ? to : tidy(by === "linear" ? from + (to - from) * t : from * (to / from) ** t);
  });
}

/** Pictures of a wedge. */
export const cellCount = ({ first, second }: WedgeSpec): number => first.values.length * (second?.values.length ?? 1);

/** Values of one of its pictures: of the first setting, and of the second. */
export function valuesAt({ first, second }: WedgeSpec, at: number): [number, number | null] {
  return [first.values[at % first.values.length]!, second ? second.values[Math.floor(at / first.values.length)]! : null];
}

/** A document as one of the pictures shows it. @throws InputError where it cannot have such a value */
export function documentAt(doc: SceneDocument, spec: WedgeSpec, at: number): SceneDocument {
  const [one, other] = valuesAt(spec, at);
  const next = withNumber(doc, spec.first.setting, one);
  return spec.second && other !== null ? withNumber(next, spec.second.setting, other) : next;
}

/** Places of a wedge that have no picture yet. */
export function missingCells({ spec, cells }: Wedge): number[] {
  const there = new Set(cells.map((c) => c.at));
  return Array.from({ length: cellCount(spec) }, (_, i) => i).filter((at) => !there.has(at));
}

/** Checks a wedge before it begins: each value has to be one that the document can have, and one pair of them. @throws InputError in words */
export function checkWedge(doc: SceneDocument, spec: WedgeSpec): void {
  const count = cellCount(spec);
  if (count > MOST_CELLS) throw new InputError(`${count} pictures, more than ${MOST_CELLS}`);
  if (spec.second && spec.second.setting === spec.first.setting) throw new InputError("both settings are the same one");
  for (const axis of [spec.first, spec.second]) for (const value of axis?.values ?? []) withNumber(doc, axis!.setting, value);
  documentAt(doc, spec, count - 1);
}
