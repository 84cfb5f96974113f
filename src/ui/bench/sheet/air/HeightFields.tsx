/** How the air thins out upwards. */
import { HEIGHT_OPTIONS, optionsOf } from "../../model/kind-options";
import { heightSchema, type Medium } from "#core/document/air";
import { NumberField } from "../../../shared/NumberField";
import { useBench } from "../../model/context";
import { MediumGroup } from "../Group";
import { Select, Switch } from "../../../shared/controls";
import type { MediumFields } from "../../model/medium-fields";

/** What the one length of each shape is. */
const LENGTHS = {
  exponential: ["Scale height", "Climb over which the density falls to 37 %."],
  linear: ["Top", "Height above the level at which the density has fallen to nothing, evenly on the way."],
  quadratic: ["Top", "Height above the level at which the density has fallen to nothing: at half of it, a quarter is left."],
  "inverse-quadratic": ["Height at 25 %", "Height above the level at which a quarter of the density is left; some is left at any height."],
} as const satisfies Record<NonNullable<Medium["height"]>["shape"], readonly [label: string, tooltip: string]>;

export function HeightFields({ medium, reach, set }: MediumFields) {
  const { height } = medium;
  const { store } = useBench();
  const gesture = (a: boolean): void => store.gesture(a);
  const common = { onGesture: gesture, logarithmic: true } as const;
  return (
    <MediumGroup id="height" medium={medium}>
      <Switch
        label="Height falloff"
        on={height !== null}
        tooltip="Density falls above a level and is constant below it."
        onChange={(on) => set({ height: on ? heightSchema.parse({ scale: Number((reach / 8).toPrecision(2)) }) : null })}
      />
      {height && (
        <>
          <Select
            label="Shape"
            value={height.shape}
            options={optionsOf(HEIGHT_OPTIONS)}
            tooltip="Shape of the density above the level."
            onChange={(shape) => set({ height: { ...height, shape } })}
          />
          <NumberField
            label="Level"
            unit="m"
            quantity="length"
            value={height.level}
            min={-1e5}
            max={1e5}
            useful={[-reach / 4, reach / 4]}
            step={reach / 400}
            reset={0}
            onGesture={gesture}
            tooltip="Height below which the density is held, in metres above the origin."
            onChange={(level) => set({ height: { ...height, level } })}
          />
          <NumberField
            {...common}
            label={LENGTHS[height.shape][0]}
            unit="m"
            quantity="length"
            value={height.scale}
            min={1e-3}
            max={1e6}
            useful={[reach / 200, reach * 4]}
            reset={reach / 8}
            tooltip={LENGTHS[height.shape][1]}
            onChange={(scale) => set({ height: { ...height, scale } })}
          />
        </>
      )}
    </MediumGroup>
  );
}
