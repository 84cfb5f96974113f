/** What differs between two scene documents, one setting at a time, and how one of them is taken over into a third. */
import { InputError } from "../errors";
import { settingText, settingWords, stopsBetween, textOf, type SettingKind } from "./change-words";
import { isObject, keyed, PARTS, valueAt, withValue, type Step, type Value } from "./paths";
import { documentSchema, type SceneDocument } from "./schema";
import type { LengthWords } from "./units";

/** One setting that differs. */
export interface Change {
  /** The same for the same setting of other documents. */
  id: string;
  /** What it is of: the name of a medium, light, object or material, or Sun, Sky, Camera, Render, Picture … */
  of: string;
  /** The setting; empty where the thing itself comes or goes. */
  setting: string;
  from: string;
  to: string;
  /** "+0.5 stops" of strengths of light; null of what is no such. */
  stops: string | null;
}

interface Found {
  change: Change;
  path: Step[];
}

const same = (a: Value, b: Value): boolean => a === b || JSON.stringify(a) === JSON.stringify(b);

/** What two values of one kind are told apart by: of another kind all is different. */
const kindOf = (v: Record<string, Value>): Value => v.kind ?? v.model ?? v.pattern ?? v.from ?? null;

function compareValues(a: Value, b: Value, path: Step[], of: string, kind: SettingKind[], lengths: LengthWords, into: Found[]): void {
  if (same(a, b)) return;
  // a motion is one thing
  if (isObject(a) && isObject(b) && kindOf(a) === kindOf(b) && kind.at(-1) !== "motion") {
    for (const key of Object.keys({ ...a, ...b })) compareValues(a[key], b[key], [...path, key], of, [...kind, key], lengths, into);
    return;
  }
  into.push({
    path,
    change: {
      id: JSON.stringify(path),
      of,
      setting: settingWords(kind),
      from: settingText(a, kind, lengths),
      to: settingText(b, kind, lengths),
      stops: stopsBetween(a, b, kind),
    },
  });
}

function found(before: SceneDocument, after: SceneDocument, lengths: LengthWords): Found[] {
  const into: Found[] = [];
  for (const [part, words] of PARTS) {
    const [a, b] = [before[part], after[part]] as [Value, Value];
    if (part === "materials" || Array.isArray(a)) {
      const [left, right] = [a, b].map((v) => (Array.isArray(v) ? keyed(v) : new Map(Object.entries(v as object)))) as [
        Map<string, Value>,
        Map<string, Value>,
      ];
      for (const name of new Set([...left.keys(), ...right.keys()])) {
        const [one, other] = [left.get(name), right.get(name)];
        if (one !== undefined && other !== undefined) compareValues(one, other, [part, name], name, [part], lengths, into);
        else {
          const [from, to] = [one, other].map((v) => (v === undefined ? "none" : textOf(part))) as [string, string];
          into.push({
            path: [part, name],
            change: { id: JSON.stringify([part, name]), of: name, setting: "", from, to, stops: null },
          });
        }
      }
    } else compareValues(a, b, [part], words, [part], lengths, into);
  }
  return into;
}

/** Settings that make the picture of one document differ from that of another, in the order of the sheet. */
export const documentChanges = (before: SceneDocument, after: SceneDocument, lengths: LengthWords): Change[] =>
  found(before, after, lengths).map((f) => f.change);

/**
 * Takes one setting of another document over into this one, with the files and materials that it needs.
 * @throws InputError where this document cannot have it: the thing it belongs to is not there, or something that it names is not
 */
export function takeChange(into: SceneDocument, from: SceneDocument, id: string): SceneDocument {
  const path = JSON.parse(id) as Step[];
  const parent = path.slice(0, -1);
  const listed = path.length === 2 && (path[0] === "materials" || Array.isArray(into[path[0] as keyof SceneDocument]));
  if (!listed && valueAt(into, parent) === undefined) throw new InputError(`there is no ${path[1]} here that could have it`);
  const next = withValue(into, path, valueAt(from, path)) as SceneDocument;
  // what it names, and is not here
  const needed = JSON.stringify(valueAt(from, path) ?? null);
  const named = <T>(own: Record<string, T>, others: Record<string, T>): Record<string, T> => ({
    ...own,
    ...Object.fromEntries(Object.entries(others).filter(([k]) => !Object.hasOwn(own, k) && needed.includes(JSON.stringify(k)))),
  });
  const read = documentSchema.safeParse({
    ...next,
    assets: named(next.assets, from.assets),
    materials: path[0] === "materials" ? next.materials : named(next.materials, from.materials),
  });
  if (!read.success) {
    const { path: at, message } = read.error.issues[0]!;
    throw new InputError(`${at.join(".")}: ${message}`);
  }
  return read.data;
}
