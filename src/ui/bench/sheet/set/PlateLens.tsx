/** The lens that a plate was made with: its angle, and how it stood. */
import type { Plate } from "#core/document/plate";
import { degreesHeld } from "#core/plate/begin";
import { NumberField } from "../../../shared/NumberField";
import { useBench, useView } from "../../model/context";
import type { PlateFacts } from "../../model/scene-worker";
import { AngleFields } from "./AngleFields";
import { usePlateEdit } from "./use-plate";

export function PlateLens({ plate, facts }: { plate: Plate; facts: PlateFacts | null }) {
  const { view } = useBench();
  const upright = useView((s) => s.upright);
  const { set, gesture } = usePlateEdit();
  const ground = facts?.report.ground ?? null;
  const angle = (label: string, value: number, min: number, max: number, tooltip: string, change: (v: number) => Partial<Plate>) => (
    <NumberField
      key={label}
      label={label}
      unit="°"
      quantity="angle"
      value={value}
      min={min}
      max={max}
      useful={[Math.max(min, -60), Math.min(max, 60)]}
      step={0.1}
      reset={0}
      onGesture={gesture}
      tooltip={tooltip}
      onChange={(v) => set(change(v))}
    />
  );
  return (
    <>
      <AngleFields
        names={["Plate field of view", "Plate focal length"]}
        value={plate.fieldOfView}
        onGesture={gesture}
        tooltip="Angle from the lower to the upper edge of the picture, of the lens that it was made with."
        onChange={(fieldOfView) => set({ fieldOfView })}
      />
      <NumberField
        label="Lens height"
        unit="m"
        quantity="length"
        value={plate.position[1]}
        min={-1e5}
        max={1e5}
        useful={[0, 10]}
        step={0.01}
        reset={1.6}
        onGesture={gesture}
        tooltip="How high the lens stood over the ground, which is at 0."
        onChange={(y) => set({ position: [plate.position[0], y, plate.position[2]] })}
      />
      {angle("Tilt", plate.tilt, -89.99, 89.99, "How far the lens looked up.", (tilt) => ({ tilt }))}
      {angle("Lean", plate.roll, -180, 180, "How far the lens leant to a side.", (roll) => ({ roll }))}
      {angle(
        "Heading",
        plate.heading,
        -360,
        360,
        "Where the lens looked: 0 along -z, 90 along x. The sun's azimuth counts the same way.",
        (heading) => ({ heading }),
      )}
      <div className="flex gap-2">
        <button
          className="btn btn-xs btn-outline hair flex-1"
          disabled={!ground}
          title={
            ground ? "Height, tilt and lean of the lens by the flat ground that the depth shows." : "No flat ground is found in the depth."
          }
          onClick={() =>
            ground &&
            set({ ...degreesHeld(ground.up), position: [plate.position[0], Number(ground.height.toPrecision(6)), plate.position[2]] })
          }
        >
          Lens as the ground tells
        </button>
        <button
          className={`btn btn-xs flex-1 ${upright ? "btn-primary" : "btn-outline hair"}`}
          aria-pressed={upright !== null}
          title="Draws a line in the picture: lay it along something that stands upright, and the lens leans so that it does. The horizon has two handles in the picture already."
          onClick={() => view.setState({ upright: upright ? null : [0.5, 0.3, 0.5, 0.7] })}
        >
          Upright in the picture
        </button>
      </div>
    </>
  );
}
