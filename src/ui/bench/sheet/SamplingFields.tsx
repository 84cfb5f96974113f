/** How many samples a pixel gets, and what may end it before. */
import { LIMITS, type SceneDocument } from "#core/document/schema";
import { useBench, useDocument } from "../model/context";
import { Num } from "../../shared/Num";
import { Switch } from "../../shared/controls";

export function SamplingFields() {
  const { store } = useBench();
  const { render } = useDocument();
  const set = (c: Partial<SceneDocument["render"]>): void => store.getState().set((d) => ({ ...d, render: { ...d.render, ...c } }));
  return (
    <>
      <Num
        label="Samples"
        quantity="count"
        value={render.samples}
        min={1}
        max={LIMITS.samples}
        useful={[16, 2048]}
        logarithmic
        whole
        reset={256}
        tooltip="Samples a pixel at which the picture counts as done. Four times as many halve the noise."
        onChange={(samples) => set({ samples })}
      />
      <Switch
        label="Ends where quiet"
        on={render.noiseThreshold !== null}
        tooltip="Pixels that are quiet enough get no more samples, so that time goes where noise is."
        onChange={(on) => set({ noiseThreshold: on ? 0.02 : null })}
      />
      {render.noiseThreshold !== null && (
        <>
          <Num
            label="Quiet is below"
            quantity="share"
            value={render.noiseThreshold}
            min={0.0005}
            max={1}
            useful={[0.002, 0.1]}
            logarithmic
            reset={0.02}
            tooltip="Standard error of a pixel as a share of its brightness at which it is quiet enough."
            onChange={(noiseThreshold) => set({ noiseThreshold })}
          />
          <Num
            label="At least"
            quantity="count"
            value={render.minSamples}
            min={2}
            max={LIMITS.samples}
            useful={[4, 128]}
            logarithmic
            whole
            reset={16}
            tooltip="Samples before a pixel may be told quiet: with too few, one that has not yet met what is rare looks quiet."
            onChange={(minSamples) => set({ minSamples })}
          />
        </>
      )}
      <Switch
        label="Bright samples held"
        on={render.fireflyClamp !== null}
        tooltip="Holds single samples that are far past white: fewer specks, and a little light is lost. Off is the truth."
        onChange={(on) => set({ fireflyClamp: on ? 20 : null })}
      />
      {render.fireflyClamp !== null && (
        <Num
          label="Held at"
          unit="× white"
          value={render.fireflyClamp}
          min={0.01}
          max={1e6}
          useful={[1, 1000]}
          logarithmic
          reset={20}
          tooltip="Most that one sample may give, in multiples of the exposure's white."
          onChange={(fireflyClamp) => set({ fireflyClamp })}
        />
      )}
    </>
  );
}
