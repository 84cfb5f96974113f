/** Every number of a document that makes another picture: what it is called, and the document with another in its place. */
import { InputError } from "../errors";
import { settingText, settingWords, unitOf, type SettingKind } from "./change-words";
import { isNumbers, isObject, keyed, PARTS, valueAt, withValue, type Step, type Value } from "./paths";
import { documentSchema, type SceneDocument } from "./schema";
import type { LengthWords } from "./units";

/** A number of a document. */
export interface Setting {
  /** The same for the same setting of other documents. */
  id: string;
  /** What it is of: the name of a medium, light, object or material, or Sun, Sky, Camera, Render, Picture … */
  of: string;
  setting: string;
  value: number;
}

/** Components of three numbers: of places and of colours. */
const AXES = ["x", "y", "z"],
  BANDS = ["red", "green", "blue"];
/** Numbers that say how large a picture is and when it is done, and make no other picture of the scene; and those of a motion, which is one thing. */
const LEFT_OUT = /\.motion$|^film\.(size|region)|^render\.(seed|samples|minSamples|noiseThreshold)$/;

function collect(value: Value, path: Step[], of: string, kind: SettingKind[], into: Setting[]): void {
  if (LEFT_OUT.test(kind.join("."))) return;
  if (typeof value === "number") into.push({ id: JSON.stringify(path), of, setting: settingWords(kind), value });
  else if (isNumbers(value)) {
    if (value.length > 4) return;
    const names = value.length === 3 ? (unitOf(kind) === "m" ? AXES : BANDS) : value.map((_, i) => String(i + 1));
    value.forEach((v, i) =>
      into.push({ id: JSON.stringify([...path, String(i)]), of, setting: `${settingWords(kind)} ${names[i]}`, value: v }),
    );
  } else if (isObject(value)) for (const [key, v] of Object.entries(value)) collect(v, [...path, key], of, [...kind, key], into);
}

/** All numbers of a document that a picture depends on, in the order of the sheet. */
export function numbersOf(doc: SceneDocument): Setting[] {
  const into: Setting[] = [];
  for (const [part, words] of PARTS) {
    const value: Value = doc[part];
    if (Array.isArray(value)) for (const [name, thing] of keyed(value)) collect(thing, [part, name], name || words, [part], into);
    else if (part === "materials")
      for (const [name, thing] of Object.entries(doc.materials)) collect(thing, [part, name], name, [part], into);
    else collect(value, [part], words, [part], into);
  }
  return into;
}

/** Names in a path that are names of things, and no part of what kind of setting it is. */
function kindOf(path: readonly Step[]): SettingKind[] {
  const listed = ["lights", "air", "objects", "materials"].includes(path[0]!);
  return [path[0]!, ...path.slice(listed ? 2 : 1)].filter((step) => !/^\d+$/.test(step));
}

const pathOf = (id: string): Step[] => {
  const read: unknown = JSON.parse(id);
  if (!Array.isArray(read) || read.length === 0 || !read.every((v) => typeof v === "string")) throw new InputError("no path of a setting");
  return read;
};

/** The number at a setting; null where the document has none there. */
export function numberAt(doc: SceneDocument, id: string): number | null {
  const value = valueAt(doc, pathOf(id));
  return typeof value === "number" ? value : null;
}

/** A number of a setting in words, with its unit. */
export const numberText = (value: number, id: string, lengths: LengthWords): string => settingText(value, kindOf(pathOf(id)), lengths);

/** The document with another number at a setting. @throws InputError where it has none there, or cannot have that number */
export function withNumber(doc: SceneDocument, id: string, value: number): SceneDocument {
  if (numberAt(doc, id) === null) throw new InputError("this document has no such setting any more");
  const read = documentSchema.safeParse(withValue(doc, pathOf(id), value));
  if (!read.success) {
    const { path, message } = read.error.issues[0]!;
    throw new InputError(`${path.join(".")}: ${message}`);
  }
  return read.data;
}
