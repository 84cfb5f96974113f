/** A material of the document. */
import { luminance } from "#core/optics/colour";
import type { Colour, Material } from "#core/data/material";
import { ColourField } from "../../../shared/ColourField";
import { NumberField } from "../../../shared/NumberField";
import { useBench, useDocument } from "../../model/context";
import { Switch } from "../../../shared/controls";

export function MaterialFields({ name }: { name: string }) {
  const { store } = useBench();
  const doc = useDocument();
  const m = doc.materials[name];
  if (!m) return null;
  const gesture = (a: boolean): void => store.gesture(a);
  const set = (change: Partial<Material>): void =>
    store.getState().set((d) => ({ ...d, materials: { ...d.materials, [name]: { ...d.materials[name]!, ...change } } }));
  const share = (label: string, key: "roughness" | "metallic" | "transmission" | "opacity", reset: number, tooltip: string) => (
    <NumberField
      label={label}
      quantity="share"
      value={m[key]}
      min={0}
      max={1}
      step={0.01}
      reset={reset}
      onGesture={gesture}
      tooltip={tooltip}
      onChange={(v) => set({ [key]: v })}
    />
  );
  const emitted = luminance(...m.emission);
  const colour = m.emission.map((c) => (emitted > 0 ? c / Math.max(...m.emission) : 1)) as Colour;
  return (
    <div role="group" aria-label={`Material ${name}`} className="space-y-1">
      <ColourField
        label="Colour"
        value={m.baseColor}
        reset={[0.5, 0.5, 0.5]}
        onGesture={gesture}
        tooltip="Reflectance per band."
        onChange={(baseColor) => set({ baseColor })}
      />
      {share("Roughness", "roughness", 1, "0 is a mirror, 1 is matt.")}
      {share("Metal", "metallic", 0, "1 reflects in its own colour alone, as metals do.")}
      {share("Transmission", "transmission", 0, "Share of light that passes as through glass, tinted by the colour.")}
      {m.transmission > 0 && (
        <Switch
          label="Solid"
          on={m.solid}
          tooltip="Refracts and absorbs inside; else a thin pane that light passes straight."
          onChange={(solid) => set({ solid })}
        />
      )}
      {share("Opacity", "opacity", 1, "Share of light that meets the surface at all.")}
      <NumberField
        logarithmic
        label="Emitted luminance"
        unit="cd/m²"
        value={Number(emitted.toPrecision(5))}
        min={0}
        max={1e8}
        useful={[1, 1e5]}
        reset={0}
        onGesture={gesture}
        tooltip="Emitted luminance; it lights the air and surfaces around it."
        onChange={(v) => {
          const k = luminance(...colour);
          set({ emission: colour.map((c) => Number(((c * v) / k).toPrecision(6))) as Colour });
        }}
      />
      {emitted > 0 && (
        <ColourField
          label="Emission colour"
          value={colour}
          reset={[1, 1, 1]}
          onGesture={gesture}
          tooltip="Colour it shines in; the luminance is kept."
          onChange={(c) => {
            const k = luminance(...c);
            if (k > 0) set({ emission: c.map((x) => Number(((x * emitted) / k).toPrecision(6))) as Colour });
          }}
        />
      )}
    </div>
  );
}
