/** Glare of bright places: light that lens and eye spread. */
import type { Glare } from "#core/document/finish";
import { NumberField } from "../NumberField";
import { Switch } from "../controls";
import type { FinishFields } from "./ToneFields";

const FIELDS = [
  {
    key: "halo",
    label: "Halo",
    quantity: "share",
    unit: "",
    min: 0,
    max: 0.5,
    useful: [0, 0.3],
    step: 0.002,
    reset: 0,
    tooltip: "Share of the light that is spread round about. Of lens and eye, not of the air: it casts no shadows and knows no distance.",
  },
  {
    key: "starburst",
    label: "Starburst",
    quantity: "share",
    unit: "",
    min: 0,
    max: 0.5,
    useful: [0, 0.2],
    step: 0.002,
    reset: 0,
    tooltip:
      "Share of the light that is spread along rays, as the blades of a small iris throw them. Red ones reach farther than blue ones.",
  },
  {
    key: "width",
    label: "Glare width",
    quantity: "share",
    unit: "",
    min: 0.005,
    max: 0.5,
    useful: [0.02, 0.3],
    step: 0.002,
    reset: 0.12,
    tooltip: "How far it is spread, as a share of the frame's height: the halo's widest part, and the rays' mean length.",
  },
  {
    key: "blades",
    label: "Blades",
    quantity: "count",
    unit: "",
    min: 3,
    max: 12,
    useful: [5, 9],
    step: 1,
    reset: 6,
    tooltip: "Blades of the iris: as many rays where that is even, twice as many where it is odd.",
  },
  {
    key: "turn",
    label: "Turn of the rays",
    quantity: "angle",
    unit: "°",
    min: -180,
    max: 180,
    useful: [-60, 60],
    step: 1,
    reset: 0,
    tooltip: "By how much the iris, and the rays with it, are turned.",
  },
] as const;

export function GlareFields({ finish, set: setFinish, gesture }: FinishFields) {
  const { glare } = finish;
  const set = (change: Partial<Glare>): void => setFinish({ glare: { ...glare, ...change } });
  return (
    <>
      {FIELDS.map(({ key, useful, ...field }) => (
        <NumberField
          key={key}
          {...field}
          useful={[...useful]}
          value={glare[key]}
          disabled={!finish.on || ((key === "blades" || key === "turn") && glare.starburst === 0)}
          onGesture={gesture}
          onChange={(v) => set({ [key]: key === "blades" ? Math.round(v) : v })}
        />
      ))}
      <Switch
        label="Bright places alone"
        on={glare.threshold !== null}
        tooltip="Spreads only what is brighter than a threshold. Off, all light is spread, as lenses do; it shows about bright places by itself."
        onChange={(on) => set({ threshold: on ? 0 : null })}
      />
      {glare.threshold !== null && (
        <NumberField
          label="Glare threshold"
          unit="stops"
          quantity="ev"
          value={glare.threshold}
          min={-10}
          max={20}
          useful={[-2, 6]}
          step={0.05}
          reset={0}
          disabled={!finish.on}
          tooltip="Stops above white from which light is spread."
          onGesture={gesture}
          onChange={(threshold) => set({ threshold })}
        />
      )}
    </>
  );
}
