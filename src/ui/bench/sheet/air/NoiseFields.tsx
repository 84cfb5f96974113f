/** Solid noise that breaks the air into drifts and gaps. */
import { NOISE_OPTIONS, optionsOf } from "../../model/kind-options";
import { noiseSchema } from "#core/document/air";
import type { Medium } from "#core/document/schema";
import { NumberField } from "../../../shared/NumberField";
import { useBench } from "../../model/context";
import { Num } from "../../../shared/Num";
import { NoisePreview } from "./NoisePreview";
import { TimeField } from "../TimeField";
import { MediumGroup } from "../Group";
import { Choice, Select, Switch } from "../../../shared/controls";
import type { MediumFields } from "../../model/medium-fields";

export function NoiseFields({ medium, index, reach, set }: MediumFields) {
  return (
    <>
      <MediumGroup id="noise" medium={medium}>
        <Switch
          label="3D noise"
          on={medium.noise !== null}
          tooltip="A solid 3D noise multiplies the density, so that the air has drifts and gaps."
          onChange={(on) =>
            set({
              noise: on ? noiseSchema.parse({ size: Number((reach / 12).toPrecision(2)), low: 0.35, high: 0.65 }) : null,
            })
          }
        />
        {medium.noise && <NoisePreview index={index} />}
        {medium.noise && <NoiseSettings medium={medium} reach={reach} set={set} />}
      </MediumGroup>
      {medium.noise && (
        <MediumGroup id="noiseDetail" medium={medium}>
          <FinerFields b={medium.noise} reach={reach} change={(c) => set({ noise: { ...medium.noise!, ...c } })} />
        </MediumGroup>
      )}
    </>
  );
}

function NoiseSettings({ medium, reach, set }: Omit<MediumFields, "index">) {
  const { store } = useBench();
  const b = medium.noise!;
  const gesture = (a: boolean): void => store.gesture(a);
  const change = (c: Partial<NonNullable<Medium["noise"]>>): void => set({ noise: { ...b, ...c } });
  return (
    <>
      <Select
        label="Character"
        value={b.character}
        options={optionsOf(NOISE_OPTIONS)}
        tooltip="What the drifts look like."
        onChange={(character) => change({ character })}
      />
      <NumberField
        logarithmic
        label="Size"
        unit="m"
        quantity="length"
        value={b.size}
        min={1e-3}
        max={1e5}
        useful={[reach / 200, reach]}
        reset={reach / 12}
        onGesture={gesture}
        tooltip="Size of the largest drifts."
        onChange={(size) => change({ size })}
      />
      {b.character === "layers" && <LayerFields b={b} change={change} />}
      <NumberField
        label="Octaves"
        value={b.octaves}
        min={1}
        max={8}
        useful={[1, 8]}
        step={1}
        whole
        quantity="count"
        reset={3}
        onGesture={gesture}
        tooltip="Layers of ever finer detail."
        onChange={(octaves) => change({ octaves })}
      />
      <NumberField
        label="Roughness"
        value={b.roughness}
        min={0}
        max={1}
        step={0.01}
        reset={0.5}
        onGesture={gesture}
        tooltip="How strong each finer layer is against the one before."
        onChange={(roughness) => change({ roughness })}
      />
      <NumberField
        label="Gap below"
        value={b.low}
        min={0}
        max={0.99}
        step={0.005}
        reset={0.35}
        onGesture={gesture}
        tooltip="Noise below this is empty air."
        onChange={(low) => change({ low: Math.min(low, b.high - 0.001) })}
      />
      <NumberField
        label="Full above"
        value={b.high}
        min={0.01}
        max={1}
        step={0.005}
        reset={0.65}
        onGesture={gesture}
        tooltip="Noise above this is air of full density."
        onChange={(high) => change({ high: Math.max(high, b.low + 0.001) })}
      />
      <NumberField
        label="Pattern"
        value={b.seed}
        min={0}
        max={1_000_000}
        useful={[0, 100]}
        step={1}
        whole
        quantity="count"
        reset={1}
        onGesture={gesture}
        tooltip="Another number, another arrangement of drifts."
        onChange={(seed) => change({ seed })}
      />
    </>
  );
}

/** What only layers have. */
function LayerFields({ b, change }: { b: BreakUp; change(c: Partial<BreakUp>): void }) {
  return (
    <>
      <Num
        label="Bend"
        unit="×"
        value={b.bend}
        min={0}
        max={4}
        step={0.01}
        reset={0.5}
        tooltip="How far the layers bend away from flat, in sizes; 0 leaves them flat."
        onChange={(bend) => change({ bend })}
      />
      {(["x", "y", "z"] as const).map((axis, k) => (
        <Num
          key={axis}
          label={`Stacked along ${axis}`}
          value={b.axis[k]!}
          min={-1}
          max={1}
          step={0.01}
          reset={axis === "y" ? 1 : 0}
          tooltip="Direction in which the layers lie one above the other; only its proportions count."
          onChange={(v) => {
            const next = b.axis.map((old, i) => (i === k ? v : old)) as BreakUp["axis"];
            if (Math.hypot(...next) > 1e-6) change({ axis: next });
          }}
        />
      ))}
    </>
  );
}

type BreakUp = NonNullable<Medium["noise"]>;

/** What is changed more seldom. */
function FinerFields({ b, reach, change }: { b: BreakUp; reach: number; change(c: Partial<BreakUp>): void }) {
  const along = (what: "stretch" | "drift", label: string, unit: string, min: number, tooltip: string) =>
    (["x", "y", "z"] as const).map((axis, k) => (
      <Num
        key={what + axis}
        label={`${label} ${axis}`}
        unit={unit}
        value={b[what][k]!}
        min={min}
        max={what === "stretch" ? 1000 : 1e5}
        useful={what === "stretch" ? [0.1, 10] : [-reach / 10, reach / 10]}
        logarithmic={what === "stretch"}
        step={reach / 2000}
        reset={what === "stretch" ? 1 : 0}
        tooltip={tooltip}
        onChange={(v) => change({ [what]: b[what].map((old, i) => (i === k ? v : old)) })}
      />
    ));
  return (
    <>
      <Num
        label="Knee"
        quantity="share"
        value={b.knee}
        min={0}
        max={1}
        step={0.01}
        reset={1}
        tooltip="Softness of the passage between gap and full: 0 is straight, 1 rounded at both ends."
        onChange={(knee) => change({ knee })}
      />
      <Num
        label="Evenness"
        quantity="share"
        value={b.evenness}
        min={0}
        max={1}
        step={0.01}
        reset={0}
        tooltip="From as broken as the noise is to quite flat."
        onChange={(evenness) => change({ evenness })}
      />
      <Num
        label="Lacunarity"
        unit="×"
        value={b.lacunarity}
        min={1.2}
        max={4}
        step={0.01}
        reset={2.03}
        tooltip="Ratio of the frequencies of one octave and the one before."
        onChange={(lacunarity) => change({ lacunarity })}
      />
      <Switch label="Inverted" on={b.invert} tooltip="Gaps become drifts and drifts gaps." onChange={(invert) => change({ invert })} />
      {along("stretch", "Stretch", "×", 1e-3, "Stretches the drifts along this axis.")}
      <Choice<"world" | "region">
        label="Fixed to"
        value={b.space}
        options={[
          ["world", "the world"],
          ["region", "its region"],
        ]}
        tooltip="Whether the pattern moves along when the region is moved and turned."
        onChange={(space) => change({ space })}
      />
      {along("drift", "Drift", "m/s", -1e5, "Wind that carries the pattern along this axis.")}
      <Num
        label="Change"
        unit="/s"
        value={b.change}
        min={0}
        max={100}
        useful={[0, 2]}
        step={0.01}
        reset={0}
        tooltip="How often a second the pattern becomes another."
        onChange={(v) => change({ change: v })}
      />
      <TimeField />
    </>
  );
}
