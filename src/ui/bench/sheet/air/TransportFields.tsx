/** How truly the air is computed: for all of it, whichever medium is open. */
import { AIR_SIZE_OPTIONS, LEVEL_OPTIONS, optionsOf } from "../../model/kind-options";
import { useStore } from "zustand";
import { NumberField } from "../../../shared/NumberField";
import { useBench, useDocument, useSession } from "../../model/context";
import { DocumentGroup } from "../Group";
import { Choice, Switch } from "../../../shared/controls";
import { SamplingFields } from "../SamplingFields";
import { LevelComparison } from "./LevelComparison";
import { finestStep } from "#core/scene/media";
import { StepFields } from "./StepFields";

export function TransportFields() {
  const { store } = useBench();
  const doc = useDocument();
  const gesture = (a: boolean): void => store.gesture(a);
  // the voxels of grids are known once the scene is built
  const usual = finestStep(
    doc,
    useSession((s) => s.geometry),
  );
  return (
    <DocumentGroup id="transport">
      <Choice
        label="Level"
        value={doc.render.level}
        options={optionsOf(LEVEL_OPTIONS)}
        tooltip="Veil: analytic, by distance and height, without shadows in the air. Shafts: single scattering, with shadows. Full: multiple scattering between air and surfaces, which brightens thick air."
        onChange={(level) => store.getState().set((d) => ({ ...d, render: { ...d.render, level } }))}
      />
      <p className="pl-[8.7rem] text-xs quiet">
        {LEVEL_OPTIONS[doc.render.level].label} · {LEVEL_OPTIONS[doc.render.level].method}
      </p>
      {doc.render.level === "full" && (
        <NumberField
          label="Air bounces"
          value={doc.render.airBounces}
          min={1}
          max={1024}
          useful={[1, 32]}
          step={1}
          whole
          quantity="count"
          reset={8}
          onGesture={gesture}
          tooltip="Max scattering events in the air per path. Thick bright air needs many."
          onChange={(airBounces) => store.getState().set((d) => ({ ...d, render: { ...d.render, airBounces } }))}
        />
      )}
      <NumberField
        label="Surface bounces"
        value={doc.render.surfaceBounces}
        min={0}
        max={1024}
        useful={[0, 8]}
        step={1}
        whole
        quantity="count"
        reset={1}
        onGesture={gesture}
        tooltip="Indirect bounces off surfaces."
        onChange={(surfaceBounces) => store.getState().set((d) => ({ ...d, render: { ...d.render, surfaceBounces } }))}
      />
      <NumberField
        label="Air samples"
        value={doc.render.airSamples}
        min={1}
        max={64}
        useful={[1, 16]}
        step={1}
        whole
        quantity="count"
        reset={4}
        onGesture={gesture}
        tooltip="Points per camera ray at which scattered light is sampled. More of them reduce noise in the air without refining surfaces."
        onChange={(airSamples) => store.getState().set((d) => ({ ...d, render: { ...d.render, airSamples } }))}
      />
      <Choice
        label="Air size"
        value={doc.render.airSize}
        options={optionsOf(AIR_SIZE_OPTIONS)}
        tooltip="Size at which the air is sampled. Below full, surfaces keep theirs and the air is joined to them by distance and opacity: much quicker where the air is soft. Not for thin rods, wires and leaves before bright shafts, whose air is then a mix of what lies about them."
        onChange={(airSize) => store.getState().set((d) => ({ ...d, render: { ...d.render, airSize } }))}
      />
      <SamplingFields />
      {usual !== null && <StepFields usual={usual} />}
      <PreviewField />
      <LevelComparison step={usual} />
    </DocumentGroup>
  );
}

/** Whether drags are answered by the veil at once. */
function PreviewField() {
  const { preview } = useBench();
  const { wanted, problem } = useStore(preview.state);
  return (
    <>
      <Switch
        label="Preview while dragging"
        on={wanted}
        tooltip="While air or the sun is dragged, the last picture is reprojected at once: sunlight in the air moves with its shadows, other light and noise stay in proportion. When the drag rests, the chosen level is rendered."
        onChange={(on) => preview.want(on)}
      />
      {wanted && problem && <p className="text-xs quiet">Not available here: {problem}. Turn it off and on to try anyway.</p>}
    </>
  );
}
