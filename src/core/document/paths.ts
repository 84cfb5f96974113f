/** Settings of a document by their path: from its parts, things of lists by their names, down to a value. */
import type { SceneDocument } from "./schema";

export type Value = unknown;
export type Step = string;

/** Parts of a document that are compared, and what they are called. Titles, units, pins and kept lenses make no other picture. */
export const PARTS: readonly (readonly [keyof SceneDocument, string])[] = [
  ["camera", "Camera"],
  ["film", "Picture"],
  ["sun", "Sun"],
  ["moon", "Moon"],
  ["sky", "Sky"],
  ["lights", "light"],
  ["air", "medium"],
  ["objects", "object"],
  ["materials", "material"],
  ["time", "Time"],
  ["render", "Render"],
];

export const isObject = (v: Value): v is Record<string, Value> => typeof v === "object" && v !== null && !Array.isArray(v);
/** Numbers of a vector, a colour or the like, which have places and no names. */
export const isNumbers = (v: Value): v is number[] => Array.isArray(v) && v.length > 0 && v.every((n) => typeof n === "number");

/** Things of a list by their names, and by how many of that name stand before them: edits that move them keep them apart. */
export function keyed(list: readonly Value[]): Map<string, Value> {
  const seen = new Map<string, number>();
  return new Map(
    list.map((item) => {
      const { name, kind } = item as { name?: string; kind?: string };
      const own = name ?? kind ?? "";
      const n = (seen.get(own) ?? 0) + 1;
      seen.set(own, n);
      return [n > 1 ? `${own} ${n}` : own, item];
    }),
  );
}

/** Value at a path, things of lists by their names; undefined where there is none. */
export function valueAt(root: Value, path: readonly Step[]): Value {
  let value = root;
  for (const step of path)
    value = isNumbers(value)
      ? value[Number(step)]
      : Array.isArray(value)
        ? keyed(value).get(step)
        : isObject(value) && Object.hasOwn(value, step)
          ? value[step]
          : undefined;
  return value;
}

/** The same with another value at a path; undefined takes what is there out, what is not there yet comes last. */
export function withValue(root: Value, path: readonly Step[], value: Value): Value {
  const [step, ...rest] = path;
  if (step === undefined) return value;
  if (isNumbers(root)) return root.map((v, i) => (i === Number(step) ? value : v));
  if (Array.isArray(root)) {
    const index = [...keyed(root).keys()].indexOf(step);
    const next = withValue(index < 0 ? undefined : root[index], rest, value);
    if (index < 0) return next === undefined ? root : [...(root as Value[]), next];
    return next === undefined ? root.filter((_, i) => i !== index) : root.map((v: Value, i) => (i === index ? next : v));
  }
  const next = withValue(isObject(root) ? root[step] : undefined, rest, value);
  const { [step]: _, ...others } = isObject(root) ? root : {};
  // a key that was there keeps its place
  if (next === undefined) return others;
  return isObject(root) && step in root ? { ...root, [step]: next } : { ...others, [step]: next };
}
