/** How truly the air is computed: for all of it, whichever medium is open. */
import { useStore } from "zustand";
import { NumberField } from "../../../shared/NumberField";
import { useBench, useDocument, useSession } from "../../model/context";
import { Choice, Heading, Switch } from "../../../shared/controls";
import { SamplingFields } from "../SamplingFields";
import { Comparison } from "./LevelComparison";
import { StepFields } from "./StepFields";

export function TransportFields() {
  const { store, session } = useBench();
  const doc = useDocument();
  const gesture = (a: boolean): void => store.gesture(a);
  // the voxels of grids are known once the scene is built
  useSession((s) => s.triangles);
  const usual = session.finestStep(doc);
  return (
    <>
      <Heading>How true</Heading>
      <Choice
        label="Level"
        value={doc.render.level}
        options={[
          ["veil", "veil"],
          ["shafts", "shafts"],
          ["full", "full"],
        ]}
        tooltip="Shafts: light scatters once in the air. Full: it scatters again and again, between air and surfaces, which brightens thick air."
        onChange={(level) => store.getState().set((d) => ({ ...d, render: { ...d.render, level } }))}
      />
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
          tooltip="Most scatterings in the air along one path. Thick bright air needs many."
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
        tooltip="Times light goes on from surface to surface after the first."
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
        tooltip="Points of each camera ray asked for scattered light in one sample. More quiets the air without refining surfaces."
        onChange={(airSamples) => store.getState().set((d) => ({ ...d, render: { ...d.render, airSamples } }))}
      />
      <SamplingFields />
      {usual !== null && <StepFields usual={usual} />}
      <CarryField />
      <Comparison step={usual} />
    </>
  );
}

/** Whether drags are answered by the veil at once. */
function CarryField() {
  const { preview } = useBench();
  const { wanted, problem } = useStore(preview.state);
  return (
    <>
      <Switch
        label="Veil while dragging"
        on={wanted}
        tooltip="While air is dragged, the picture last rendered is carried along by the veil at once; its shafts and break-up stay in proportion. When the hand rests, the chosen level is rendered."
        onChange={(on) => preview.want(on)}
      />
      {wanted && problem && <p className="text-xs quiet">Not here: {problem}. Off and on again tries all the same.</p>}
    </>
  );
}
