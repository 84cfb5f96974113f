/** Edits of a stack's layers: where they lie, what is inside of what. */
import { allLayers, STACK_LIMITS, type Layer, type Mask, type MaskKind, type MaskPart, type Stack } from "#core/compose/stack";
import { freeId } from "#core/compose/start";

type Layers = readonly Layer[];

/** A layer by its id; null where there is none. */
export const layerOf = (stack: Stack, id: string | null): Layer | null => allLayers(stack.layers).find((l) => l.id === id) ?? null;

const mapped = (layers: Layers, change: (l: Layer) => Layer): Layer[] =>
  layers.map((l) => {
    const next = change(l);
    return next.layers.length === 0 ? next : { ...next, layers: mapped(next.layers, change) };
  });

/** A stack with one of its layers changed. */
export const withLayer = (stack: Stack, id: string, change: Partial<Layer> | ((l: Layer) => Layer)): Stack => ({
  ...stack,
  layers: mapped(stack.layers, (l) => (l.id !== id ? l : typeof change === "function" ? change(l) : { ...l, ...change })),
});

const without = (layers: Layers, id: string): Layer[] =>
  layers.filter((l) => l.id !== id).map((l) => (l.layers.length === 0 ? l : { ...l, layers: without(l.layers, id) }));

export const withoutLayer = (stack: Stack, id: string): Stack => ({ ...stack, layers: without(stack.layers, id) });

/** Where a layer is laid: over or under another one, or on top inside a group. */
export type Place = "over" | "under" | "inside";

function placed(layers: Layers, layer: Layer, by: string, where: Place): Layer[] {
  const at = layers.findIndex((l) => l.id === by);
  if (at < 0) return layers.map((l) => (l.layers.length === 0 ? l : { ...l, layers: placed(l.layers, layer, by, where) }));
  if (where === "inside") return layers.map((l) => (l.id === by ? { ...l, layers: [...l.layers, layer] } : l));
  const to = where === "over" ? at + 1 : at;
  return [...layers.slice(0, to), layer, ...layers.slice(to)];
}

/** A new layer over another one, or over all. */
export function withNewLayer(stack: Stack, layer: Layer, over: string | null): Stack {
  const layers = over === null ? [...stack.layers, layer] : placed(stack.layers, layer, over, "over");
  return { ...stack, layers };
}

/** A layer moved; the same where it would come inside itself, or groups too deep. */
export function moved(stack: Stack, id: string, by: string, where: Place): Stack {
  const layer = layerOf(stack, id);
  if (!layer || id === by || allLayers(layer.layers).some((l) => l.id === by)) return stack;
  const next = { ...stack, layers: placed(without(stack.layers, id), layer, by, where) };
  const depth = (layers: Layers): number => (layers.length === 0 ? 0 : 1 + Math.max(...layers.map((l) => depth(l.layers))));
  return depth(next.layers) > STACK_LIMITS.depth ? stack : next;
}

/** A layer one place up (1) or down (−1) in what is listed: past its neighbour, into a group that is there, and out of its own at its ends. */
export function stepped(stack: Stack, id: string, by: 1 | -1): Stack {
  const find = (layers: Layers, group: Layer | null): { layers: Layers; at: number; group: Layer | null } | null => {
    const at = layers.findIndex((l) => l.id === id);
    if (at >= 0) return { layers, at, group };
    for (const l of layers) {
      const found = find(l.layers, l);
      if (found) return found;
    }
    return null;
  };
  const found = find(stack.layers, null);
  if (!found) return stack;
  const next = found.layers[found.at + by];
  if (next) {
    if (next.content.kind !== "group") return moved(stack, id, next.id, by > 0 ? "over" : "under");
    const [end] = by > 0 ? next.layers : next.layers.slice(-1);
    const inside = end ? moved(stack, id, end.id, by > 0 ? "under" : "over") : moved(stack, id, next.id, "inside");
    return inside === stack ? moved(stack, id, next.id, by > 0 ? "over" : "under") : inside;
  }
  return found.group ? moved(stack, id, found.group.id, by > 0 ? "over" : "under") : stack;
}

/** A layer and all inside once more, with ids of their own, over itself. */
export function duplicated(stack: Stack, id: string): { stack: Stack; id: string } | null {
  const layer = layerOf(stack, id);
  if (!layer || allLayers(stack.layers).length + 1 + allLayers(layer.layers).length > STACK_LIMITS.layers) return null;
  const taken = new Set(allLayers(stack.layers).map((l) => l.id));
  const [copy] = mapped([layer], (l) => {
    const own = freeId(taken);
    taken.add(own);
    return { ...l, id: own };
  });
  return { stack: withNewLayer(stack, { ...copy!, name: `${layer.name} copy`.slice(0, 200) }, id), id: copy!.id };
}

/** What a part of a mask is at first. @param near, far distances of the picture, m @param heights of it */
export function newPart(
  kind: MaskKind,
  facts: { near: number; far: number; low: number; high: number },
  matte: { source: string; layer: string } | null,
): MaskPart | null {
  const common = { join: "and", invert: false } as const;
  switch (kind) {
    case "distance":
      return { kind, from: facts.near, to: facts.far, curve: null, ...common };
    case "height":
      return { kind, from: facts.low, to: facts.high, curve: null, ...common };
    case "opacity":
      return { kind, curve: null, ...common };
    case "matte":
      return matte && { kind, ...matte, ...common };
    case "luminance":
      return { kind, from: -3, to: 0, curve: null, ...common };
    case "gradient":
      return { kind, a: [0.5, 0.15], b: [0.5, 0.85], curve: null, ...common };
    case "paint":
      return { kind, strokes: [], ...common };
  }
}

export const withPart = (mask: Mask | null, part: MaskPart): Mask =>
  mask ? { ...mask, parts: [...mask.parts, part] } : { parts: [part], invert: false, feather: 0, guided: true };

export function withoutPart(mask: Mask, i: number): Mask | null {
  const parts = mask.parts.filter((_, k) => k !== i);
  return parts.length > 0 ? { ...mask, parts } : null;
}

export const withPartChanged = (mask: Mask, i: number, change: Partial<MaskPart>): Mask => ({
  ...mask,
  parts: mask.parts.map((p, k) => (k === i ? ({ ...p, ...change } as MaskPart) : p)),
});
