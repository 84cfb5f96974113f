/** How the air thins out upwards. */
import { HEIGHT_OPTIONS, optionsOf } from "../../model/kind-options";
import { heightSchema } from "#core/document/air";
import { NumberField } from "../../../shared/NumberField";
import { useBench } from "../../model/context";
import { Heading, Select, Switch } from "../../../shared/controls";
import type { MediumFields } from "../../model/medium-fields";

export function HeightFields({ medium: { height }, reach, set }: MediumFields) {
  const { store } = useBench();
  const gesture = (a: boolean): void => store.gesture(a);
  const common = { onGesture: gesture, logarithmic: true } as const;
  return (
    <>
      <Heading>Height</Heading>
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
            label="Scale height"
            unit="m"
            quantity="length"
            value={height.scale}
            min={1e-3}
            max={1e6}
            useful={[reach / 200, reach * 4]}
            reset={reach / 8}
            tooltip="Climb over which the density falls to 37 percent."
            onChange={(scale) => set({ height: { ...height, scale } })}
          />
        </>
      )}
    </>
  );
}
