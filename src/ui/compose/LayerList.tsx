/** The layers of a stack, the uppermost first; what is chosen opens in place. */
import { useState, type DragEvent } from "react";
import { allLayers, STACK_LIMITS, type Content, type Layer } from "#core/compose/stack";
import { formatNumber } from "#core/document/quantities";
import { freeId, newLayer, roleOf } from "#core/compose/start";
import { LayerFields } from "./LayerFields";
import { useComposeView, useComposition, useFrames, useStack } from "./model/context";
import { duplicated, moved, stepped, withLayer, withNewLayer, withoutLayer, type Place } from "./model/edits";

/** What a new layer can be. */
const KINDS = {
  pass: { words: "pass or picture", name: "pass" },
  colour: { words: "colour", name: "colour" },
  ramp: { words: "ramp", name: "ramp" },
  group: { words: "group", name: "group" },
} as const satisfies Record<Content["kind"], { words: string; name: string }>;

/** Where on a row a dragged layer would be laid: its upper and lower parts, and the middle of a group. */
function placeOn(e: DragEvent<HTMLElement>, layer: Layer): Place {
  const box = e.currentTarget.getBoundingClientRect();
  const y = (e.clientY - box.top) / box.height;
  if (layer.content.kind === "group" && y > 0.3 && y < 0.7) return "inside";
  return y < 0.5 ? "over" : "under";
}

export function LayerList() {
  const { store, view } = useComposition();
  const stack = useStack();
  const selected = useComposeView((v) => v.selected);
  const frames = useFrames();
  const full = allLayers(stack.layers).length >= STACK_LIMITS.layers;
  const add = (kind: Content["kind"]): void => {
    const id = freeId(new Set(allLayers(stack.layers).map((l) => l.id)));
    const [source] = Object.keys(stack.sources);
    // a file may have no main picture
    const layers = frames.get(source!)?.layers;
    const layer = !layers || layers.has("") ? "" : ([...layers.values()].find((p) => p.bands.length === 3)?.name ?? [...layers.keys()][0]!);
    const content: Content =
      kind === "pass"
        ? { kind, source: source!, layer, role: roleOf(layer), alpha: false }
        : kind === "colour"
          ? { kind, colour: [0.5, 0.5, 0.5] }
          : kind === "ramp"
            ? { kind, from: [0, 0, 0], to: [0.5, 0.5, 0.5], a: [0.5, 0], b: [0.5, 1] }
            : { kind };
    const made = newLayer(id, KINDS[kind].name, content, { blend: kind === "group" ? "add" : "over" });
    store.getState().set((s) => withNewLayer(s, made, selected));
    view.setState({ selected: id, part: 0, tool: "none" });
  };
  return (
    <div className="border-b hair">
      <div className="flex items-baseline justify-between gap-3 px-3 py-2">
        <h2 className="font-semibold">Layers</h2>
        <select
          aria-label="Add a layer"
          className="select select-xs w-32"
          value=""
          disabled={full}
          title={full ? `A stack has ${STACK_LIMITS.layers} layers at most.` : "Over the layer that is chosen."}
          onChange={(e) => e.target.value && add(e.target.value as Content["kind"])}
        >
          <option value="">Add …</option>
          {Object.entries(KINDS).map(([kind, { words }]) => (
            <option key={kind} value={kind}>
              {words}
            </option>
          ))}
        </select>
      </div>
      {stack.layers.length === 0 && <p className="px-3 pb-3 text-xs quiet">The stack is empty: the picture is black. Add a layer.</p>}
      <Rows layers={stack.layers} depth={0} />
    </div>
  );
}

function Rows({ layers, depth }: { layers: readonly Layer[]; depth: number }) {
  return (
    <ul
      aria-label={depth === 0 ? "Layers" : "Layers inside"}
      className={depth > 0 ? "border-l hair" : ""}
      style={{ marginLeft: depth > 0 ? 10 : 0 }}
    >
      {[...layers].reverse().map((l) => (
        <Row key={l.id} layer={l} depth={depth} />
      ))}
    </ul>
  );
}

function Row({ layer, depth }: { layer: Layer; depth: number }) {
  const { store, view } = useComposition();
  const selected = useComposeView((v) => v.selected === layer.id);
  const [over, setOver] = useState<Place | null>(null);
  const set = (change: Partial<Layer>): void => store.getState().set((s) => withLayer(s, layer.id, change));
  const choose = (): void => view.setState({ selected: selected ? null : layer.id, part: 0, tool: "none", maskShown: false });
  const facts = [
    layer.blend,
    layer.opacity < 1 && `${formatNumber(100 * layer.opacity, 2)} %`,
    layer.gain !== 0 && `${layer.gain > 0 ? "+" : "−"}${formatNumber(Math.abs(layer.gain), 2)} stops`,
    layer.mask && "mask",
  ].filter(Boolean);
  return (
    <li data-layer={layer.id}>
      <div
        draggable
        className={`flex items-center gap-1.5 border-t px-2 py-1 ${over === "over" ? "border-primary" : "hair"} ${over === "under" ? "border-b border-b-primary" : ""} ${over === "inside" ? "bg-primary/20" : selected ? "bg-base-300/50" : ""}`}
        onDragStart={(e) => {
          e.dataTransfer.setData("text/x-fumarium-layer", layer.id);
          e.dataTransfer.effectAllowed = "move";
        }}
        onDragOver={(e) => {
          if (!e.dataTransfer.types.includes("text/x-fumarium-layer")) return;
          e.preventDefault();
          setOver(placeOn(e, layer));
        }}
        onDragLeave={() => setOver(null)}
        onDrop={(e) => {
          const id = e.dataTransfer.getData("text/x-fumarium-layer");
          setOver(null);
          if (!id) return;
          e.preventDefault();
          const where = placeOn(e, layer);
          store.getState().set((s) => moved(s, id, layer.id, where));
        }}
      >
        <input
          type="checkbox"
          className="toggle toggle-xs toggle-primary"
          aria-label={`${layer.name}, on`}
          title="Off, it is left out."
          checked={layer.on}
          onChange={(e) => set({ on: e.target.checked })}
        />
        <button
          className={`min-w-0 flex-1 truncate text-left text-sm ${selected ? "text-primary" : layer.on ? "" : "quiet"}`}
          aria-expanded={selected}
          title="Alt and the arrow keys move it; drag it elsewhere."
          onClick={choose}
          onKeyDown={(e) => {
            const by = e.altKey ? { ArrowUp: 1 as const, ArrowDown: -1 as const }[e.key] : undefined;
            if (!by) return;
            e.preventDefault();
            store.getState().set((s) => stepped(s, layer.id, by));
          }}
        >
          {layer.name || "unnamed"}
        </button>
        <span className="figures shrink-0 text-xs quiet">{facts.join(" · ")}</span>
        <button
          className={`text-xs ${layer.solo ? "text-primary" : "quiet"}`}
          aria-pressed={layer.solo}
          aria-label={`${layer.name}, solo`}
          title="Solo: of its group, this and other solos alone."
          onClick={() => set({ solo: !layer.solo })}
        >
          Solo
        </button>
      </div>
      {selected && (
        <div className="space-y-1 border-t hair bg-base-200/50 px-3 py-2">
          <LayerFields layer={layer} />
          <LayerActs layer={layer} />
        </div>
      )}
      {layer.content.kind === "group" && <Rows layers={layer.layers} depth={depth + 1} />}
    </li>
  );
}

function LayerActs({ layer }: { layer: Layer }) {
  const { store, view } = useComposition();
  const set = store.getState().set;
  return (
    <div className="flex gap-3 pt-1 text-xs">
      <button className="link link-hover" title="Alt ↑" onClick={() => set((s) => stepped(s, layer.id, 1))}>
        Up
      </button>
      <button className="link link-hover" title="Alt ↓" onClick={() => set((s) => stepped(s, layer.id, -1))}>
        Down
      </button>
      <button
        className="link link-hover"
        onClick={() => {
          const copy = duplicated(store.getState().document, layer.id);
          if (!copy) return;
          set(() => copy.stack);
          view.setState({ selected: copy.id });
        }}
      >
        Duplicate
      </button>
      <button
        className="link link-hover ml-auto quiet"
        title="Undo brings it back."
        onClick={() => {
          set((s) => withoutLayer(s, layer.id));
          view.setState({ selected: null, tool: "none", maskShown: false });
        }}
      >
        Remove
      </button>
    </div>
  );
}
