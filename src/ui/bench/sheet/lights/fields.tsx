/** Fields that lights of every kind have. */
import type { SceneDocument } from "#core/document/schema";
import { temperatureRgb } from "#core/optics/colour";
import { useBench } from "../../model/context";
import { ColourField, cssColour } from "../../../shared/ColourField";
import { Num } from "../../../shared/Num";

/** Shares of a light; ones are the physical truth. */
type Given = Pick<SceneDocument["sun"], "air" | "surfaces">;

export function Shares({ value, onChange }: { value: Given; onChange(change: Partial<Given>): void }) {
  return (
    <>
      <Num
        label="Air contribution"
        quantity="share"
        value={value.air}
        min={0}
        max={1}
        step={0.01}
        reset={1}
        tooltip="Share of its light that reaches the air. 0 leaves the air dark: a fill that must not fog the room."
        onChange={(air) => onChange({ air })}
      />
      <Num
        label="Surface contribution"
        quantity="share"
        value={value.surfaces}
        min={0}
        max={1}
        step={0.01}
        reset={1}
        tooltip="Share of its light that reaches surfaces. 0 lights the haze alone."
        onChange={(surfaces) => onChange({ surfaces })}
      />
    </>
  );
}

export function Tint({ value, onChange }: { value: SceneDocument["sun"]["tint"]; onChange(tint: SceneDocument["sun"]["tint"]): void }) {
  const { store } = useBench();
  return (
    <ColourField
      label="Tint"
      value={value}
      reset={[1, 1, 1]}
      tooltip="A filter before the light."
      onGesture={(a) => store.gesture(a)}
      onChange={onChange}
    />
  );
}

export function Temperature({
  value,
  reset,
  tint = [1, 1, 1],
  onChange,
}: {
  value: number;
  reset: number;
  tint?: readonly number[];
  onChange(v: number): void;
}) {
  return (
    <div className="flex items-center gap-2">
      <div className="min-w-0 flex-1">
        <Num
          label="Temperature"
          unit="K"
          quantity="temperature"
          value={value}
          min={1000}
          max={40000}
          useful={[1800, 10000]}
          step={25}
          reset={reset}
          tooltip="Colour of a black body of this temperature: low is amber, high is blue."
          onChange={onChange}
        />
      </div>
      <span aria-hidden className="size-4 shrink-0" style={{ background: cssColour(temperatureRgb(value).map((c, k) => c * tint[k]!)) }} />
    </div>
  );
}
