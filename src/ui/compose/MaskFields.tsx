/** Where a layer counts: parts of its mask, each of what is seen, a gradient or paint. */
import { useContext } from "react";
import { distanceOf } from "#core/compose/sources";
import { MASK_KINDS, STACK_LIMITS, type Layer, type Mask, type MaskKind, type MaskPart } from "#core/compose/stack";
import { monotoneCurve } from "#core/math/monotone";
import { CurveField, type CurvePoint } from "../shared/CurveField";
import { GestureContext } from "../shared/gesture";
import { Num } from "../shared/Num";
import { Choice, Select, Switch } from "../shared/controls";
import { useComposeView, useComposition, useFrames } from "./model/context";
import { factsOf } from "./model/facts";
import { newPart, withLayer, withoutPart, withPart, withPartChanged } from "./model/edits";

const WORDS: Record<MaskKind, { label: string; tooltip: string }> = {
  distance: { label: "distance", tooltip: "From the lens, between two marks: on the scale below the picture, or picked in it." },
  height: { label: "height", tooltip: "Of what is seen, between two marks." },
  opacity: { label: "air opacity", tooltip: "As much of the light of surfaces as the air keeps back." },
  matte: { label: "matte", tooltip: "Of an object, a material or a medium." },
  luminance: { label: "luminance", tooltip: "Of the main picture, in stops from white." },
  gradient: { label: "gradient", tooltip: "From a to b, which are dragged in the picture." },
  paint: { label: "paint", tooltip: "By hand. Strokes are kept as strokes, sharp at every size." },
};

const STRAIGHT: readonly CurvePoint[] = [
  [0, 0],
  [1, 1],
];

export function MaskFields({ layer }: { layer: Layer }) {
  const { store, view } = useComposition();
  const frames = useFrames();
  const shown = useComposeView((v) => v.maskShown);
  const part = useComposeView((v) => v.part);
  const { mask } = layer;
  const set = (next: Mask | null): void => store.getState().set((s) => withLayer(s, layer.id, { mask: next }));
  const mattes = [...frames].flatMap(([source, frame]) =>
    [...frame.layers].filter(([, planes]) => planes.bands.length === 1).map(([name]) => ({ source, layer: name })),
  );
  const add = (kind: MaskKind): void => {
    const made = newPart(kind, factsOf(frames), mattes.find(({ layer: l }) => /^(object|material|medium)\./.test(l)) ?? mattes[0] ?? null);
    if (!made) return;
    const next = withPart(mask, made);
    set(next);
    view.setState({ part: next.parts.length - 1, tool: kind === "paint" ? "paint" : "none" });
  };
  return (
    <section aria-label="Mask" className="mt-2 border-t hair pt-2">
      <div className="flex items-center justify-between gap-2">
        <h3 className="text-xs font-semibold">Mask</h3>
        <select
          aria-label="Add to the mask"
          className="select select-xs w-32"
          value=""
          disabled={(mask?.parts.length ?? 0) >= STACK_LIMITS.parts}
          title="Where the layer counts."
          onChange={(e) => e.target.value && add(e.target.value as MaskKind)}
        >
          <option value="">{mask ? "Add a part …" : "Everywhere; by …"}</option>
          {MASK_KINDS.filter((k) => k !== "matte" || mattes.length > 0).map((kind) => (
            <option key={kind} value={kind} title={WORDS[kind].tooltip}>
              {WORDS[kind].label}
            </option>
          ))}
        </select>
      </div>
      {mask && (
        <div className="space-y-1">
          <ul aria-label="Parts of the mask">
            {mask.parts.map((p, i) => (
              <li key={i} className={`border-l-2 py-1 pl-2 ${i === part ? "border-primary" : "border-base-300"}`}>
                <div className="flex items-center justify-between text-xs">
                  <button
                    className={i === part ? "text-primary" : ""}
                    aria-expanded={i === part}
                    title={WORDS[p.kind].tooltip}
                    onClick={() => view.setState({ part: i, tool: "none" })}
                  >
                    {i > 0 && <span className="quiet">{p.join} </span>}
                    {WORDS[p.kind].label}
                    {p.invert && <span className="quiet"> inverted</span>}
                  </button>
                  <button
                    className="link link-hover quiet"
                    aria-label={`Remove part ${i + 1} of the mask`}
                    onClick={() => {
                      set(withoutPart(mask, i));
                      view.setState({ part: 0, tool: "none" });
                    }}
                  >
                    Remove
                  </button>
                </div>
                {i === part && (
                  <PartFields part={p} first={i === 0} mattes={mattes} set={(change) => set(withPartChanged(mask, i, change))} />
                )}
              </li>
            ))}
          </ul>
          <Num
            label="Feather"
            quantity="share"
            value={mask.feather}
            min={0}
            max={0.25}
            useful={[0, 0.1]}
            step={0.001}
            reset={0}
            tooltip="How far its edges are softened, as a share of the frame's height."
            onChange={(feather) => set({ ...mask, feather })}
          />
          {mask.feather > 0 && distanceOf(frames.values()) && (
            <Switch
              label="Keep edges of distance"
              on={mask.guided}
              tooltip="The feather does not run over where something near ends before something far."
              onChange={(guided) => set({ ...mask, guided })}
            />
          )}
          <Switch
            label="Invert the mask"
            on={mask.invert}
            tooltip="All of it the other way about."
            onChange={(invert) => set({ ...mask, invert })}
          />
          <Switch
            label="Show the mask"
            on={shown}
            tooltip="In place of the picture: white where the layer counts. M"
            onChange={(on) => view.setState({ maskShown: on })}
          />
        </div>
      )}
    </section>
  );
}

function PartFields({
  part,
  first,
  mattes,
  set,
}: {
  part: MaskPart;
  first: boolean;
  mattes: readonly { source: string; layer: string }[];
  set(change: Partial<MaskPart>): void;
}) {
  const { view } = useComposition();
  const gesture = useContext(GestureContext);
  const tool = useComposeView((v) => v.tool);
  const points = "curve" in part ? part.curve : null;
  return (
    <div className="space-y-1 pt-1">
      {!first && (
        <Choice
          label="With the parts above"
          value={part.join}
          options={[
            ["and", "and"],
            ["or", "or"],
            ["without", "without"],
          ]}
          tooltip="Where both are, where either is, or where those above are and this is not."
          onChange={(join) => set({ join })}
        />
      )}
      {(part.kind === "distance" || part.kind === "height") && (
        <>
          {(["from", "to"] as const).map((end) => (
            <Num
              key={end}
              label={end === "from" ? "None at" : "Full at"}
              quantity="length"
              unit="m"
              value={part[end]}
              min={-1e7}
              max={1e7}
              useful={part.kind === "distance" ? [0.1, 1000] : [-10, 100]}
              logarithmic={part.kind === "distance" && part[end] > 0}
              reset={end === "from" ? 0 : 10}
              tooltip={end === "from" ? "The layer counts nothing here, and before it." : "The layer counts whole here, and past it."}
              onChange={(v) => set({ [end]: v })}
            />
          ))}
          <div className="flex gap-2">
            {(["from", "to"] as const).map((end) => (
              <button
                key={end}
                className={`btn btn-xs flex-1 ${tool === end ? "btn-primary" : "btn-outline hair"}`}
                aria-pressed={tool === end}
                title={`Click what should be at this ${part.kind === "distance" ? "distance" : "height"}.`}
                onClick={() => view.setState({ tool: tool === end ? "none" : end })}
              >
                {end === "from" ? "Pick none at" : "Pick full at"}
              </button>
            ))}
          </div>
        </>
      )}
      {part.kind === "luminance" &&
        (["from", "to"] as const).map((end) => (
          <Num
            key={end}
            label={end === "from" ? "None at" : "Full at"}
            unit="stops"
            quantity="ev"
            value={part[end]}
            min={-30}
            max={30}
            useful={[-10, 6]}
            step={0.05}
            reset={end === "from" ? -3 : 0}
            tooltip="Stops from the stack's white."
            onChange={(v) => set({ [end]: v })}
          />
        ))}
      {part.kind === "matte" && (
        <Select
          label="Matte"
          value={`${part.source}\n${part.layer}`}
          options={(mattes.some((m) => m.source === part.source && m.layer === part.layer) ? mattes : [part, ...mattes]).map(
            (m) => [`${m.source}\n${m.layer}`, m.layer] as const,
          )}
          tooltip="A layer of one number."
          onChange={(both) => {
            const [source, layer] = both.split("\n") as [string, string];
            set({ source, layer });
          }}
        />
      )}
      {part.kind === "paint" && <PaintFields strokes={part.strokes.length} clear={() => set({ strokes: [] })} />}
      {"curve" in part && (
        <CurveField
          label="Curve"
          value={points ?? STRAIGHT}
          ends={["none", "full"]}
          between={monotoneCurve}
          height={70}
          tooltip="How much the layer counts on the way from none to full."
          onGesture={gesture}
          onChange={(curve) => set({ curve })}
        />
      )}
      <Switch label="Invert this part" on={part.invert} tooltip="The other way about." onChange={(invert) => set({ invert })} />
    </div>
  );
}

function PaintFields({ strokes, clear }: { strokes: number; clear(): void }) {
  const { view } = useComposition();
  const tool = useComposeView((v) => v.tool);
  const brush = useComposeView((v) => v.brush);
  const set = (change: Partial<typeof brush>): void => view.setState((v) => ({ brush: { ...v.brush, ...change } }));
  return (
    <>
      <div className="flex gap-2">
        <button
          className={`btn btn-xs flex-1 ${tool === "paint" ? "btn-primary" : "btn-outline hair"}`}
          aria-pressed={tool === "paint"}
          title="Paint in the picture; with Shift a straight line from the last stroke's end. P"
          onClick={() => view.setState({ tool: tool === "paint" ? "none" : "paint" })}
        >
          Paint
        </button>
        <button
          className="btn btn-xs btn-outline hair flex-1"
          disabled={strokes === 0}
          title="Undo brings the strokes back."
          onClick={clear}
        >
          Clear {strokes > 0 && `${strokes} ${strokes === 1 ? "stroke" : "strokes"}`}
        </button>
      </div>
      <Num
        label="Stroke size"
        quantity="share"
        value={brush.size}
        min={0.002}
        max={2}
        useful={[0.005, 0.5]}
        logarithmic
        reset={0.08}
        tooltip="Diameter as a share of the frame's height. , and . make it smaller and larger."
        onChange={(size) => set({ size })}
      />
      <Num
        label="Hardness"
        quantity="share"
        value={brush.hardness}
        min={0}
        max={1}
        step={0.01}
        reset={0.5}
        tooltip="Share of the radius up to which a stroke is full."
        onChange={(hardness) => set({ hardness })}
      />
      <Num
        label="Flow"
        quantity="share"
        value={brush.flow}
        min={0.01}
        max={1}
        step={0.01}
        reset={0.4}
        tooltip="How much a dab of the stroke covers; a pen's pressure makes it less, and thinner."
        onChange={(flow) => set({ flow })}
      />
      <Switch label="Take away" on={brush.erase} tooltip="Strokes take paint away. X" onChange={(erase) => set({ erase })} />
    </>
  );
}
