/** How air without a closed form is looked through: tracked, or stepped at a size. */
import { ESTIMATOR_OPTIONS, optionsOf } from "../../model/kind-options";
import type { SceneDocument } from "#core/document/schema";
import { useBench, useDocument } from "../../model/context";
import { Num } from "../../../shared/Num";
import { Choice, Switch } from "../../../shared/controls";

export function StepFields({ usual }: { usual: number }) {
  const { store } = useBench();
  const { render } = useDocument();
  const set = (c: Partial<SceneDocument["render"]>): void => store.getState().set((d) => ({ ...d, render: { ...d.render, ...c } }));
  const automatic = render.stepSize === "auto";
  const step = render.stepSize === "auto" ? usual : render.stepSize;
  return (
    <>
      <Choice
        label="Estimator"
        value={render.estimator}
        options={optionsOf(ESTIMATOR_OPTIONS)}
        tooltip="For media with noise, grids or soft edges. Tracking is unbiased. Stepping (ray marching) is smooth, but biased where the step is coarse."
        onChange={(estimator) => set({ estimator })}
      />
      {render.estimator === "stepping" && (
        <>
          <Switch
            label="Automatic step size"
            on={automatic}
            tooltip="Half the finest feature of each medium (or a voxel of its grid), at most a third of the mean free path."
            onChange={(on) => set({ stepSize: on ? "auto" : Number(step.toPrecision(3)) })}
          />
          <Num
            logarithmic
            label="Step size"
            unit="m"
            quantity="length"
            value={step}
            min={1e-4}
            max={1e4}
            useful={[usual / 10, usual * 30]}
            reset={usual}
            disabled={automatic}
            tooltip="Distance between density samples along a ray. Halving it quarters the error and doubles the time; Compare steps measures both on this frame."
            onChange={(stepSize) => set({ stepSize })}
          />
          <Num
            label="Max steps"
            quantity="count"
            value={render.maxSteps}
            min={1}
            max={100_000}
            useful={[64, 8192]}
            logarithmic
            whole
            reset={2048}
            tooltip="Steps that one ray may take through a medium; longer paths take longer steps."
            onChange={(maxSteps) => set({ maxSteps })}
          />
        </>
      )}
    </>
  );
}
