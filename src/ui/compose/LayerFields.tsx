/** What a layer is and how it is laid. */
import { useContext } from "react";
import { curveLight } from "#core/compose/compose";
import { BLENDS, type Blend, type Content, type Layer } from "#core/compose/stack";
import { roleOf } from "#core/compose/start";
import { monotoneCurve } from "#core/math/monotone";
import { ColourField } from "../shared/ColourField";
import { CurveField, type CurvePoint } from "../shared/CurveField";
import { GestureContext } from "../shared/gesture";
import { NameField } from "../shared/NameField";
import { Num } from "../shared/Num";
import { Select, Switch } from "../shared/controls";
import { MaskFields } from "./MaskFields";
import { useComposition, useFrames, useStack } from "./model/context";
import { withLayer } from "./model/edits";

const BLEND_WORDS: Record<Blend, string> = {
  over: "Covers what is below.",
  add: "Light and light. Passes of one frame are put together so.",
  screen: "As add, held below white: 1 − (1 − a)(1 − b). Where either is brighter than white, the brighter of the two.",
  multiply: "What is below, times the layer: 1 leaves it, light counts as a share of white.",
  maximum: "The brighter of the two, band by band.",
  difference: "How far the two are apart, band by band.",
};

const STRAIGHT: readonly CurvePoint[] = [
  [0, 0],
  [1, 1],
];

export function LayerFields({ layer }: { layer: Layer }) {
  const { store } = useComposition();
  const gesture = useContext(GestureContext);
  const set = (change: Partial<Layer>): void => store.getState().set((s) => withLayer(s, layer.id, change));
  return (
    <>
      <NameField label="Name of the layer" value={layer.name} onChange={(name) => set({ name })} />
      <ContentFields content={layer.content} set={(content) => set({ content })} />
      <Select
        label="Blend"
        value={layer.blend}
        options={BLENDS.map((b) => [b, b] as const)}
        tooltip={`${BLEND_WORDS[layer.blend]} In linear light, as shares of the stack's white.`}
        onChange={(blend) => set({ blend })}
      />
      <Num
        label="Opacity"
        quantity="share"
        value={layer.opacity}
        min={0}
        max={1}
        step={0.005}
        reset={1}
        tooltip="How far what the blend makes takes the place of what is below."
        onChange={(opacity) => set({ opacity })}
      />
      <Num
        label="Gain"
        unit="stops"
        quantity="ev"
        value={layer.gain}
        min={-20}
        max={20}
        useful={[-4, 4]}
        step={0.02}
        reset={0}
        tooltip="Brightness of the layer: each stop is twice the light."
        onChange={(gain) => set({ gain })}
      />
      <ColourField
        label="Layer tint"
        value={layer.tint}
        max={100}
        reset={[1, 1, 1]}
        tooltip="Factor of each band of its light."
        onGesture={gesture}
        onChange={(tint) => set({ tint: [tint[0], tint[1], tint[2]] })}
      />
      <Switch
        label="Curve"
        on={layer.curve !== null}
        tooltip="Bends the brightness of its light; hues stay."
        onChange={(on) => set({ curve: on ? STRAIGHT.map(([a, b]) => [a, b]) : null })}
      />
      {layer.curve && (
        <CurveField
          label="Brightness curve"
          value={layer.curve}
          ends={["black", `white at 71 %, ${Math.round(curveLight(0.95))} × white at 95 %`]}
          between={monotoneCurve}
          height={110}
          tooltip="The brightest band n of each pixel at √(n / (1 + n)), so that all light has a place; the others follow. Click to add a point, double click takes it out."
          onGesture={gesture}
          onChange={(curve) => set({ curve })}
        />
      )}
      <MaskFields layer={layer} />
    </>
  );
}

function ContentFields({ content, set }: { content: Content; set(content: Content): void }) {
  const frames = useFrames();
  const sources = useStack((s) => s.sources);
  const gesture = useContext(GestureContext);
  switch (content.kind) {
    case "pass": {
      const layers = [...(frames.get(content.source)?.layers.keys() ?? [])];
      const alpha = frames.get(content.source)?.layers.get(content.layer)?.alpha !== null;
      return (
        <>
          {Object.keys(sources).length > 1 && (
            <Select
              label="Source"
              value={content.source}
              options={Object.entries(sources).map(([key, { name }]) => [key, name] as const)}
              tooltip="The file that it is of."
              onChange={(source) => set({ ...content, source, layer: frames.get(source)?.layers.has(content.layer) ? content.layer : "" })}
            />
          )}
          <Select
            label="Pass"
            value={content.layer}
            options={(layers.includes(content.layer) ? layers : [content.layer, ...layers]).map((l) => [l, l || "main picture"] as const)}
            tooltip="The layer of the file."
            onChange={(layer) => set({ ...content, layer, role: roleOf(layer) })}
          />
          <Select
            label="Goes with the air"
            value={content.role ?? "none"}
            options={[
              ["none", "no"],
              ["air", "as light of the air"],
              ["surfaces", "as surfaces through it"],
            ]}
            tooltip="How it changes when the air is made thicker or thinner."
            onChange={(role) => set({ ...content, role: role === "none" ? null : role })}
          />
          {alpha && (
            <Switch
              label="By its channel A"
              on={content.alpha}
              tooltip="Its channel A says what it covers, and its light is multiplied with that already. Counts where it is laid over."
              onChange={(on) => set({ ...content, alpha: on })}
            />
          )}
        </>
      );
    }
    case "colour":
      return (
        <ColourField
          label="Colour"
          value={content.colour}
          max={1000}
          reset={[0.5, 0.5, 0.5]}
          tooltip="Shares of the stack's white, linear."
          onGesture={gesture}
          onChange={(c) => set({ ...content, colour: [c[0], c[1], c[2]] })}
        />
      );
    case "ramp":
      return (
        <>
          {(["from", "to"] as const).map((end) => (
            <ColourField
              key={end}
              label={end === "from" ? "Colour at a" : "Colour at b"}
              value={content[end]}
              max={1000}
              reset={[0.5, 0.5, 0.5]}
              tooltip="Shares of the stack's white, linear. a and b are dragged in the picture."
              onGesture={gesture}
              onChange={(c) => set({ ...content, [end]: [c[0], c[1], c[2]] })}
            />
          ))}
        </>
      );
    case "group":
      return <p className="text-xs quiet">Its layers are put together over black and laid as one.</p>;
  }
}
