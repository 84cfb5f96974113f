/** What is done to the picture after exposure and white balance: contrast, levels, highlights, saturation, curves. */
import { useState } from "react";
import { TONE_CURVES, type Finish } from "#core/document/finish";
import { monotoneCurve } from "#core/math/monotone";
import { CurveField, type CurvePoint } from "../CurveField";
import { NumberField } from "../NumberField";
import { Choice, Switch } from "../controls";

type Curve = (typeof TONE_CURVES)[number];

/** A curve that changes nothing. */
const STRAIGHT: readonly CurvePoint[] = [
  [0, 0],
  [1, 1],
];
const isStraight = (points: readonly CurvePoint[]): boolean => points.every(([at, to]) => at === to) && points.length === 2;

const FIELDS = [
  {
    key: "contrast",
    label: "Contrast",
    quantity: "plain",
    unit: "×",
    min: 0.25,
    max: 4,
    useful: [0.5, 2],
    step: 0.01,
    reset: 1,
    tooltip:
      "Spreads tones about the pivot, counted in stops; hues stay. It brings back in the picture what air ate of its contrast: the air stays as it is.",
  },
  {
    key: "pivot",
    label: "Pivot",
    quantity: "ev",
    unit: "stops",
    min: -8,
    max: 6,
    useful: [-4, 3],
    step: 0.05,
    reset: 0,
    tooltip: "Tone that contrast leaves where it is, in stops above middle grey. Put it where the air is as bright as it should stay.",
  },
  {
    key: "saturation",
    label: "Saturation",
    quantity: "plain",
    unit: "×",
    min: 0,
    max: 3,
    useful: [0, 2],
    step: 0.01,
    reset: 1,
    tooltip: "Distance of colours from grey of the same luminance: 0 is black and white.",
  },
  {
    key: "rollOff",
    label: "Highlight roll-off",
    quantity: "share",
    unit: "",
    min: 0,
    max: 1,
    useful: [0, 1],
    step: 0.01,
    reset: 0.5,
    tooltip:
      "How early highlights bend towards white: 0 cuts them off at white, 1 bends from a fifth of it, as film does. Hues stay, and pale.",
  },
  {
    key: "black",
    label: "Black level",
    quantity: "share",
    unit: "",
    min: 0,
    max: 0.5,
    useful: [0, 0.3],
    step: 0.002,
    reset: 0,
    tooltip: "Display value that becomes black. Haze lifts the darkest tones: this sets them down again.",
  },
  {
    key: "white",
    label: "White level",
    quantity: "share",
    unit: "",
    min: 0.5,
    max: 1,
    useful: [0.6, 1],
    step: 0.002,
    reset: 1,
    tooltip: "Display value that becomes white.",
  },
] as const;

/** A finish, how it is changed, and how a drag begins and ends. */
export interface FinishFields {
  finish: Finish;
  set(change: Partial<Finish>): void;
  gesture(active: boolean): void;
}

export function ToneFields({ finish, set, gesture }: FinishFields) {
  const [curve, setCurve] = useState<Curve>("all");
  const setPoints = (points: CurvePoint[] | null): void =>
    set({ curves: { ...finish.curves, [curve]: points && !isStraight(points) ? points : null } });
  const points = finish.curves[curve];
  return (
    <>
      <Switch
        label="Finish"
        on={finish.on}
        tooltip="All of this group, off and on. It is done to the picture alone: nothing renders anew, and linear files never have it. O"
        onChange={(on) => set({ on })}
      />
      {FIELDS.map(({ key, useful, ...field }) => (
        <NumberField
          key={key}
          {...field}
          useful={[...useful]}
          value={finish[key]}
          disabled={!finish.on}
          // levels keep apart
          max={key === "black" ? Math.min(field.max, finish.white - 0.05) : field.max}
          min={key === "white" ? Math.max(field.min, finish.black + 0.05) : field.min}
          onGesture={gesture}
          onChange={(v) => set({ [key]: v })}
        />
      ))}
      <Choice<Curve>
        label="Curve of"
        value={curve}
        options={TONE_CURVES.map((name) => [name, finish.curves[name] ? `${name} •` : name] as const)}
        tooltip="Of all bands together hues stay; of one band it tints the tones. A dot marks what has been bent."
        onChange={setCurve}
      />
      <CurveField
        label={curve === "all" ? "Tone curve" : `Tone curve of ${curve}`}
        value={points ?? STRAIGHT}
        ends={["black", "white"]}
        between={monotoneCurve}
        height={130}
        tooltip="Display value by display value, smooth through the points. Click to add one, double click takes it out."
        onGesture={gesture}
        onChange={setPoints}
      />
      <button className="btn btn-xs btn-outline hair" disabled={points === null} onClick={() => setPoints(null)}>
        Straighten this curve
      </button>
    </>
  );
}
