/**
 * Documents of earlier versions as the present one. Works on plain JSON before it is validated, so what is not understood is left as it
 * is for the validation to name; nothing is ever dropped.
 */

type Json = Record<string, unknown>;
const isObject = (v: unknown): v is Json => typeof v === "object" && v !== null && !Array.isArray(v);

/** A copy with fields under their new names. A field whose new name is taken stays, and is refused as unknown. */
function renamed(value: unknown, names: Readonly<Record<string, string>>): unknown {
  if (!isObject(value)) return value;
  return Object.fromEntries(
    Object.entries(value).map(([key, v]) => {
      const to = Object.hasOwn(names, key) ? names[key]! : key;
      return [to !== key && Object.hasOwn(value, to) ? key : to, v];
    }),
  );
}

/** A copy with one field changed, where it is there. */
function changed(value: unknown, key: string, change: (v: unknown) => unknown): unknown {
  return isObject(value) && Object.hasOwn(value, key) ? { ...value, [key]: change(value[key]) } : value;
}

const each = (change: (v: unknown) => unknown) => (list: unknown) => (Array.isArray(list) ? list.map(change) : list);
const word = (names: Readonly<Record<string, string>>) => (v: unknown) => (typeof v === "string" && Object.hasOwn(names, v) ? names[v] : v);

const PHASES_1 = word({ "one-lobe": "henyey-greenstein", molecular: "rayleigh" });

/** A medium of version 1 as one of version 2. */
export function mediumFromVersion1(medium: unknown): unknown {
  let m = renamed(medium, { breakUp: "noise", near: "proximity" });
  m = changed(m, "phase", (phase) => changed(phase, "model", PHASES_1));
  m = changed(m, "start", (start) => renamed(start, { least: "min" }));
  return changed(m, "grid", (grid) => renamed(grid, { heat: "temperature" }));
}

const goboFromVersion1 = (light: unknown): unknown => changed(light, "gobo", (gobo) => renamed(gobo, { turn: "rotation" }));

/** Version 1 said break-up, near, heat, least and most, turn where version 2 uses the field's terms. */
function fromVersion1(doc: Json): Json {
  let d: unknown = { ...doc, fumarium: 2 };
  d = changed(d, "air", each(mediumFromVersion1));
  d = changed(d, "render", (r) => renamed(r, { mostSteps: "maxSteps", leastSamples: "minSamples", outlierLimit: "fireflyClamp" }));
  d = changed(d, "film", (f) => renamed(f, { lightParts: "lightGroups" }));
  d = changed(d, "sky", (sky) => renamed(sky, { turn: "rotation" }));
  d = changed(d, "sun", goboFromVersion1);
  return changed(d, "lights", each(goboFromVersion1)) as Json;
}

const STEPS: Readonly<Record<number, (doc: Json) => Json>> = { 1: fromVersion1 };

/** A document of any earlier version as one of the present version; any other value as it is. */
export function migrateDocument(value: unknown): unknown {
  let doc = value;
  while (isObject(doc) && typeof doc.fumarium === "number" && STEPS[doc.fumarium]) doc = STEPS[doc.fumarium]!(doc);
  return doc;
}
