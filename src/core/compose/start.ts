/** The stack that a source begins with: its surfaces and its air, whose sum is the beauty; or its main picture. */
import { finishSchema, type Finish } from "../document/finish";
import { STACK_VERSION, type Layer, type Role, type Source, type Stack } from "./stack";
import { documentOf, type Frame } from "../formats/layers";

/** A layer with all that is not said of it as usual. */
export function newLayer(id: string, name: string, content: Layer["content"], more: Partial<Layer> = {}): Layer {
  return {
    ...{
      id,
      name,
      on: true,
      solo: false,
      content,
      blend: "over",
      opacity: 1,
      gain: 0,
      tint: [1, 1, 1],
      curve: null,
      mask: null,
      layers: [],
    },
    ...more,
  };
}

/** An id that no layer has yet. */
export function freeId(taken: ReadonlySet<string>): string {
  for (let i = taken.size + 1; ; i++) if (!taken.has(`layer ${i}`)) return `layer ${i}`;
}

/** How a layer of a file goes along with thicker air, by its name. */
export function roleOf(layer: string): Role | null {
  const side = /^(air|surfaces)(\.|$)/.exec(layer)?.[1];
  return side ? (side as Role) : null;
}

const hasColours = (frame: Frame, layer: string): boolean => frame.layers.get(layer)?.bands.length === 3;
/** A layer as it is cleaned, where it is: cleaned ones are what the artist decided by. */
const best = (frame: Frame, layer: string): string => (hasColours(frame, `${layer}.clean`) ? `${layer}.clean` : layer);

/** @param sources the files by name @param frames what they hold */
export function startingStack(title: string, sources: Readonly<Record<string, Source>>, frames: ReadonlyMap<string, Frame>): Stack {
  const [name, frame] = [...frames][0]!;
  const airs = airOver(name, frames);
  const doc = documentOf(frame) ?? (airs === null ? null : documentOf(frames.get(airs)!));
  // of files that are no light in cd/m², 1 is white whatever it is
  const exposure = doc?.film.exposure ?? 0;
  const has = (layer: string): boolean => hasColours(frame, layer);
  const pass = (id: string, words: string, layer: string, more: Partial<Layer> = {}): Layer =>
    newLayer(id, words, { kind: "pass", source: name, layer, role: roleOf(layer), alpha: false }, more);
  const main = has("") ? "" : ([...frame.layers.values()].find((p) => p.bands.length === 3)?.name ?? [...frame.layers.keys()][0]!);
  const layers = airs
    ? plateLayers(name, main, airs, best(frames.get(airs)!, "air"))
    : has("air") && has("surfaces")
      ? [pass("surfaces", "surfaces", best(frame, "surfaces")), pass("air", "air", best(frame, "air"), { blend: "add" })]
      : [pass("picture", main || "picture", main)];
  const finish: Finish = doc ? { ...doc.film.finish, lut: null } : finishSchema.parse({});
  return {
    ...{ fumariumStack: STACK_VERSION, title, sources: { ...sources }, white: exposure, layers, air: { density: 1, by: [] } },
    film: { exposure, whiteBalance: doc?.film.whiteBalance ?? 6504, tint: doc?.film.tint ?? 0, finish },
  };
}

/** The source whose air lies over the first one's picture, which has none of its own; null where there is none. */
function airOver(first: string, frames: ReadonlyMap<string, Frame>): string | null {
  if (frames.get(first)!.layers.has("air")) return null;
  for (const [name, f] of frames) if (name !== first && hasColours(f, "air") && hasColours(f, "transmittance")) return name;
  return null;
}

/** A picture made elsewhere in the air of a scene of it: what comes through, and the air's own light. */
function plateLayers(source: string, main: string, air: string, light: string): Layer[] {
  const pass = (id: string, from: string, layer: string, more: Partial<Layer> = {}): Layer =>
    newLayer(id, id, { kind: "pass", source: from, layer, role: null, alpha: false }, more);
  return [
    pass("picture", source, main),
    pass("transmittance", air, "transmittance", { blend: "multiply" }),
    pass("air", air, light, { blend: "add" }),
  ];
}
